import { scheduleFile } from '../../../../server/fees/paper';
import { idOf, respondWithFile, sendFile } from '../../../session';

/** One schedule as PDF, XLSX or CSV. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respondWithFile(request, async (context) => {
    const { on, format } = Object.fromEntries(new URL(request.url).searchParams);
    return sendFile(
      await scheduleFile(context, {
        scheduleId: await idOf(params),
        ...(on ? { on } : {}),
        ...(format ? { format: format as 'pdf' } : {}),
      }),
    );
  });
