import { batchPaper } from '../../../../server/batches/read';
import { download, idOf, respond } from '../../../session';

/**
 * The papers of a batch in mailing order as one PDF, between two numbers where they are given, of those that wait,
 * came back, or all again; or the list alone.
 */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const asked = Object.fromEntries(new URL(request.url).searchParams);
    const { name, bytes } = await batchPaper(context, { ...asked, batchId: await idOf(params) });
    return download(name, new Uint8Array(bytes));
  });
