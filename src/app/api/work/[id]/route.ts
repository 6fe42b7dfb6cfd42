import { readWork } from '../../../../server/jobs/read';
import { idOf, respond } from '../../../session';

/** Where a piece of long work stands. A page asks by itself, as long as the work goes on. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => Response.json(await readWork(context, await idOf(params))), {
    uses: false,
  });
