import { Readable } from 'node:stream';
import { Refused } from '../../../../server/access';
import { reportOf } from '../../../../server/reports';
import { reportPdf, reportSheet } from '../../../../server/reports/write';
import { download, respondWithFile } from '../../../session';

/** A report as it is shown, as CSV, XLSX or PDF. */
export const GET = (
  request: Request,
  { params }: { params: Promise<{ report: string }> },
): Promise<Response> =>
  respondWithFile(request, async (context) => {
    const report = reportOf((await params).report);
    const { format = 'csv', ...address } = Object.fromEntries(new URL(request.url).searchParams);
    if (!report) throw new Refused('unknown', 'There is no such report');
    if (format === 'pdf')
      return download(
        `${report.name}-${context.today}.pdf`,
        new Uint8Array(await reportPdf(context, report, address)),
      );
    if (format !== 'csv' && format !== 'xlsx')
      throw new Refused('invalid', 'The format is csv, xlsx or pdf', 'format');
    const { file, body } = await reportSheet(context, report, address, format, request.signal);
    return download(file, Readable.toWeb(body) as ReadableStream);
  });
