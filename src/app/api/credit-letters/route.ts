import { Refused } from '../../../server/access';
import { creditLettersPaper } from '../../../server/payments/unclaimed';
import { download, respond } from '../../session';

/** Letters to owners of credit as one PDF; `?ids=` names them, with commas between. */
export const GET = (request: Request): Promise<Response> =>
  respond(request, async (context) => {
    const ids = (new URL(request.url).searchParams.get('ids') ?? '').split(',');
    if (ids.length > 500 || !ids.every((id) => /^[1-9]\d{0,14}$/.test(id)))
      throw new Refused('unknown', 'There is no such letter');
    const { name, bytes } = await creditLettersPaper(context, { ids: ids.map(Number) });
    return download(name, new Uint8Array(bytes));
  });
