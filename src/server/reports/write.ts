/** A report as a spreadsheet or on paper: what the screen shows, whole. */
import { formatDate } from '../../core/calendar';
import { cents } from '../../core/money';
import type { ListColumn } from '../../core/reports/lists';
import { type Context, Refused, audit } from '../access';
import { letterhead, table } from '../print/blocks';
import { Paper } from '../print/paper';
import { type SheetFormat, begun, sheetOf } from '../lists/sheet';
import type { Report, ReportAddress, ReportPage, ReportRow } from './report';

const chosenWords = (page: ReportPage): string =>
  page.parameters
    .map(({ label, kind, value, choices }) => {
      const words =
        kind === 'day' ? formatDate(value) : (choices.find((item) => item.value === value)?.label ?? value);
      return `${label}: ${words}`;
    })
    .join(' · ');

const note = (context: Context, report: Report, format: string, address: ReportAddress) =>
  audit(context.db, context, 'exported', { kind: 'report', id: report.name }, { format, ...address });

/**
 * Writes a report as a spreadsheet, all its rows with the column that they are grouped by.
 * @param signal is given up when nobody waits for the file any more
 * @throws Refused when the role may not read it
 */
export async function reportSheet(
  context: Context,
  report: Report,
  address: ReportAddress,
  format: SheetFormat,
  signal?: AbortSignal,
): ReturnType<typeof sheetOf> {
  const page = await report.read(context, address, 1);
  await note(context, report, format, address);
  const by = page.parameters.find((item) => item.key === 'group');
  const column: ListColumn[] =
    by && by.value !== ''
      ? [{ key: by.value, title: by.choices.find((item) => item.value === by.value)!.label, kind: 'words' }]
      : [];
  return sheetOf(
    page.title.slice(0, 31),
    `${page.name}-${context.today}`,
    [...column, ...page.columns],
    page.rows,
    await begun(report.stream(context, address, signal)),
    format,
  );
}

/** So many rows are printed at most: some four hundred pages. */
const MOST_ON_PAPER = 20_000;

/** Share of the width by what stands in a column. */
const SHARES = { words: 2.2, day: 1.3, number: 0.9, money: 1.3 } as const;

/** A row, or a line that names a group. */
type Printed = { row: ReportRow; strong: boolean };

/** Writes a report on the practice's paper. @throws Refused when the role may not read it, or when it is too long for paper */
export async function reportPdf(context: Context, report: Report, address: ReportAddress): Promise<Buffer> {
  const page = await report.read(context, address, MOST_ON_PAPER);
  if (page.rows > MOST_ON_PAPER)
    throw new Refused(
      'blocked',
      `Paper holds ${MOST_ON_PAPER} rows, and there are ${page.rows}: take the CSV, or narrow what is chosen`,
      'format',
    );
  const practice = await context.db.selectFrom('practice').selectAll().executeTakeFirst();
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  await note(context, report, 'pdf', address);
  const paper = await Paper.open(practice.paper, page.title, practice.name);
  letterhead(paper, practice);
  paper.y += 14;
  paper.paragraph(page.title, paper.left, paper.y, paper.width, { size: 13, strong: true }, 'H2');
  paper.paragraph(page.about, paper.left, paper.y, paper.width, { size: 9, color: 'quiet' });
  if (page.parameters.length > 0)
    paper.paragraph(chosenWords(page), paper.left, paper.y, paper.width, { size: 9 });
  paper.y += 8;
  const [first] = page.columns;
  const printed = (groups: ReportPage['groups']): Printed[] =>
    groups.flatMap((group) => [
      ...(group.words === '' || !first
        ? []
        : [{ row: { ...group.totals, [first.key]: group.words }, strong: true }]),
      ...group.rows.map((row) => ({ row, strong: false })),
    ]);
  const sheets = page.pages ? page.groups.map((group) => [group]) : [page.groups];
  for (const [at, groups] of sheets.entries()) {
    if (at > 0) paper.turn();
    table(
      paper,
      page.columns.map(({ key, title, kind }) => ({
        title,
        share: SHARES[kind],
        ...(kind === 'money'
          ? { amount: ({ row }: Printed) => cents(Number(row[key] ?? 0)) }
          : {
              ...(kind === 'number' ? { right: true as const } : {}),
              words: ({ row }: Printed) =>
                kind === 'day' && row[key] ? formatDate(String(row[key])) : String(row[key] ?? ''),
            }),
      })),
      printed(groups),
      { strong: ({ strong }) => strong },
    );
  }
  return paper.finish(
    (at, pages) =>
      `${page.title} · ${formatDate(context.today)} · amounts in US dollars · page ${at} of ${pages}`,
  );
}
