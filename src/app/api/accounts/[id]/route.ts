import { accountPaper } from '../../../../server/account-page/paper';
import { download, idOf, respond } from '../../../session';

/** The ledger of an account on paper: a view of it over a period, planned services as an estimate, or an itemized receipt. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const asked = Object.fromEntries(new URL(request.url).searchParams);
    const { name, bytes } = await accountPaper(context, { ...asked, householdId: await idOf(params) });
    return download(name, new Uint8Array(bytes));
  });
