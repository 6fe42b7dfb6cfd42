import { readPiece } from '../../../../server/statements/read';
import { download, idOf, respond } from '../../../session';

/** The pages of a piece of mail: as they were made, or as a draft would look. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const { name, bytes } = await readPiece(context, await idOf(params));
    return download(name, new Uint8Array(bytes));
  });
