import { visitPaper } from '../../../../server/account-page/visit-paper';
import { download, idOf, respond } from '../../../session';

/** The visit of which a charge is, on paper. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const { name, bytes } = await visitPaper(context, await idOf(params));
    return download(name, new Uint8Array(bytes));
  });
