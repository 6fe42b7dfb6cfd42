import { Refused } from '../../../server/access';
import { contractCheckAsked } from '../../../server/remittances/contract-check';
import { contractCheckFile } from '../../../server/remittances/contract-file';
import { parseInput } from '../../../server/input';
import { respondWithFile, sendFile } from '../../session';

/** The lines of the contract check as XLSX or CSV. */
export const GET = (request: Request): Promise<Response> =>
  respondWithFile(request, async (context) => {
    const { from, to, payer, side, format = 'xlsx' } = Object.fromEntries(new URL(request.url).searchParams);
    if (format !== 'csv' && format !== 'xlsx')
      throw new Refused('invalid', 'The format is csv or xlsx', 'format');
    const asked = parseInput(contractCheckAsked, {
      ...(from ? { from } : {}),
      ...(to ? { to } : {}),
      ...(payer ? { payerId: payer } : {}),
      ...(side ? { side } : {}),
    });
    return sendFile(await contractCheckFile(context, { ...asked, format }));
  });
