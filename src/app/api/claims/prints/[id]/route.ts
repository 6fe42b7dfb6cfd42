import { printFile } from '../../../../../server/claims/paper';
import { idOf, respondWithFile, sendFile } from '../../../../session';

/** Claims that were printed together. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respondWithFile(request, async (context) => sendFile(await printFile(context, await idOf(params))));
