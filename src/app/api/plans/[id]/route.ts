import { planPaper } from '../../../../server/plans/paper';
import { download, idOf, respond } from '../../../session';

/** The agreement of a plan: the very paper that was signed, or that of a proposal. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const { name, bytes } = await planPaper(context, await idOf(params));
    return download(name, new Uint8Array(bytes));
  });
