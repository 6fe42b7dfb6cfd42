import { Refused } from '../../../server/access';
import { contractLetterPaper } from '../../../server/remittances/contract-letters';
import { download, respond } from '../../session';

/** A letter to a payer with its list as PDF; `?id=` names it. */
export const GET = (request: Request): Promise<Response> =>
  respond(request, async (context) => {
    const id = new URL(request.url).searchParams.get('id') ?? '';
    if (!/^[1-9]\d{0,14}$/.test(id)) throw new Refused('unknown', 'There is no such letter');
    const { name, bytes } = await contractLetterPaper(context, Number(id));
    return download(name, new Uint8Array(bytes));
  });
