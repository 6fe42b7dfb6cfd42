import { claimFile } from '../../../../server/claims/paper';
import { idOf, respondWithFile, sendFile } from '../../../session';

/** One claim on paper. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respondWithFile(request, async (context) => sendFile(await claimFile(context, await idOf(params))));
