import { comparisonFile } from '../../../../server/fees/paper';
import { respondWithFile, sendFile } from '../../../session';

/** Schedules side by side as XLSX or CSV. */
export const GET = (request: Request): Promise<Response> =>
  respondWithFile(request, async (context) => {
    const { with: ids = '', on, only = '', format } = Object.fromEntries(new URL(request.url).searchParams);
    return sendFile(
      await comparisonFile(context, {
        scheduleIds: ids.split('.').map(Number),
        ...(on ? { on } : {}),
        differing: only.split('.').includes('differing'),
        billed: only.split('.').includes('billed'),
        ...(format ? { format: format as 'xlsx' } : {}),
      }),
    );
  });
