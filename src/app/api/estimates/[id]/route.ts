import { readEstimatePaper } from '../../../../server/accounts/treatment';
import { download, idOf, respond } from '../../../session';

/** An estimate as it was handed over. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const { name, bytes } = await readEstimatePaper(context, await idOf(params));
    return download(name, new Uint8Array(bytes));
  });
