import { readStatement } from '../../../../server/statements/read';
import { download, idOf, respond } from '../../../session';

/** A statement as PDF. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const { name, bytes } = await readStatement(context, await idOf(params));
    return download(name, new Uint8Array(bytes));
  });
