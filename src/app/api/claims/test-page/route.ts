import { testPageFile } from '../../../../server/claims/paper';
import { respondWithFile, sendFile } from '../../../session';

/** A test page for the pre-printed claim form. */
export const GET = (request: Request): Promise<Response> =>
  respondWithFile(request, async (context) => sendFile(await testPageFile(context)));
