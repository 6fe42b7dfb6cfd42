import { Readable } from 'node:stream';
import { isList } from '../../../../core/reports/lists';
import { Refused } from '../../../../server/access';
import { listSheet } from '../../../../server/lists/sheet';
import { respond } from '../../../session';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
} as const;

/** A list as it is shown, as CSV or XLSX. */
export const GET = (request: Request, { params }: { params: Promise<{ list: string }> }): Promise<Response> =>
  respond(async (context) => {
    const { list } = await params;
    const { format = 'csv', ...address } = Object.fromEntries(new URL(request.url).searchParams);
    if (!isList(list)) throw new Refused('There is no such list');
    if (format !== 'csv' && format !== 'xlsx') throw new Refused('The format is csv or xlsx', 'format');
    const { file, body } = await listSheet(context, list, address, format);
    return new Response(Readable.toWeb(body) as ReadableStream, {
      headers: {
        'content-type': TYPES[format],
        'content-disposition': `attachment; filename="${file}"`,
        'cache-control': 'no-store',
      },
    });
  });
