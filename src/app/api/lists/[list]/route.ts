import { Readable } from 'node:stream';
import { Refused } from '../../../../server/access';
import { anyList } from '../../../../server/lists/any';
import { listSheet } from '../../../../server/lists/sheet';
import { download, respondWithFile } from '../../../session';

/** A list as it is shown, as CSV or XLSX. */
export const GET = (request: Request, { params }: { params: Promise<{ list: string }> }): Promise<Response> =>
  respondWithFile(request, async (context) => {
    const list = anyList((await params).list);
    const { format = 'csv', ...address } = Object.fromEntries(new URL(request.url).searchParams);
    if (!list) throw new Refused('unknown', 'There is no such list');
    if (format !== 'csv' && format !== 'xlsx')
      throw new Refused('invalid', 'The format is csv or xlsx', 'format');
    const { file, body } = await listSheet(context, list, address, format, request.signal);
    return download(file, Readable.toWeb(body) as ReadableStream);
  });
