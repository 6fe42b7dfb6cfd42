import { readWork } from '../../../../server/jobs/read';
import { respond } from '../../../session';

/** Where a piece of long work stands. */
export const GET = (_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(async (context) => Response.json(await readWork(context, Number((await params).id) || 0)));
