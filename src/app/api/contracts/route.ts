import { Refused } from '../../../server/access';
import { contractPaper, reviewFile } from '../../../server/fees/paper';
import { respondWithFile, sendFile } from '../../session';

/** The review of contracts as XLSX or CSV, or one payer of it on paper. */
export const GET = (request: Request): Promise<Response> =>
  respondWithFile(request, async (context) => {
    const {
      from,
      to,
      raise,
      schedule,
      payer,
      format = 'xlsx',
    } = Object.fromEntries(new URL(request.url).searchParams);
    const asked = {
      ...(from ? { from } : {}),
      ...(to ? { to } : {}),
      ...(raise ? { raise } : {}),
      ...(schedule ? { scheduleId: schedule } : {}),
    };
    if (format === 'pdf') return sendFile(await contractPaper(context, { ...asked, payerId: Number(payer) }));
    if (format !== 'csv' && format !== 'xlsx')
      throw new Refused('invalid', 'The format is csv, xlsx or pdf', 'format');
    return sendFile(await reviewFile(context, { ...asked, format }));
  });
