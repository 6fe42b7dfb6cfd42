/** A list as a spreadsheet: the columns, order and filter of the screen, all rows. */
import { PassThrough, Readable } from 'node:stream';
import ExcelJS from 'exceljs';
import Papa from 'papaparse';
import { type Cents, toDecimal } from '../../core/money';
import { LISTS, type ListColumn, type ListName, shownColumns } from '../../core/reports/lists';
import { guarded } from '../../core/reports/spreadsheet';
import { type Context, audit } from '../access';
import { type ListAddress, chosenColumns, findList, listQuery } from './read';

/** Kinds of spreadsheet. */
export type SheetFormat = 'csv' | 'xlsx';

const BATCH = 5000;

type Row = Record<string, unknown>;

/** All rows of a list, in batches. */
async function* allRows(context: Context, name: ListName, address: ListAddress): AsyncGenerator<Row[]> {
  const ask = { ...listQuery(address), pageSize: BATCH };
  for (let page = 1; ; page += 1) {
    const { rows } = await findList(context, name, { ...ask, page });
    yield rows as unknown as Row[];
    if (rows.length < BATCH) return;
  }
}

const asText = (column: ListColumn, value: unknown): string =>
  column.kind === 'money' && typeof value === 'number' ? toDecimal(value as Cents) : guarded(value);

async function* csv(columns: ListColumn[], batches: AsyncIterable<Row[]>): AsyncGenerator<string> {
  yield `${Papa.unparse([columns.map((column) => column.title)])}\r\n`;
  for await (const rows of batches)
    if (rows.length > 0)
      yield `${Papa.unparse(rows.map((row) => columns.map((column) => asText(column, row[column.key]))))}\r\n`;
}

/** Text cells are never formulas in this format; amounts are numbers with two decimals, dates are dates. */
async function writeXlsx(
  into: PassThrough,
  name: ListName,
  columns: ListColumn[],
  batches: AsyncIterable<Row[]>,
): Promise<void> {
  const book = new ExcelJS.stream.xlsx.WorkbookWriter({ stream: into, useStyles: true });
  const sheet = book.addWorksheet(LISTS[name].noun[1], { views: [{ state: 'frozen', ySplit: 1 }] });
  sheet.columns = columns.map((column) => ({
    header: column.title,
    width: column.kind === 'words' ? 24 : 13,
    style:
      column.kind === 'money'
        ? { numFmt: '#,##0.00' }
        : column.kind === 'day'
          ? { numFmt: 'yyyy-mm-dd' }
          : {},
  }));
  sheet.getRow(1).font = { bold: true };
  const cell = (column: ListColumn, value: unknown) => {
    if (value === null || value === undefined || value === '') return null;
    if (column.kind === 'money') return Number(value) / 100;
    if (column.kind === 'day') return new Date(`${String(value)}T00:00:00Z`);
    return column.kind === 'number' ? Number(value) : String(value);
  };
  for await (const rows of batches)
    for (const row of rows) sheet.addRow(columns.map((column) => cell(column, row[column.key]))).commit();
  sheet.commit();
  await book.commit();
}

/**
 * Writes a list as a spreadsheet and notes it on the audit trail.
 * @returns a stream of the file and its name
 * @throws Refused when the role may not read the list
 */
export async function listSheet(
  context: Context,
  name: ListName,
  address: ListAddress,
  format: SheetFormat,
): Promise<{ file: string; body: Readable }> {
  const columns = shownColumns(name, await chosenColumns(context, name));
  const batches = allRows(context, name, address);
  // The first batch is read before anything is sent, so that a refusal is still an answer.
  const first = await batches.next();
  const whole = (async function* () {
    if (!first.done) yield first.value;
    yield* batches;
  })();
  await audit(context.db, context, 'exported', { kind: 'list', id: name }, { format, ...listQuery(address) });
  const file = `${name}-${context.today}.${format}`;
  if (format === 'csv') return { file, body: Readable.from(csv(columns, whole)) };
  const body = new PassThrough();
  writeXlsx(body, name, columns, whole).catch((error: unknown) => body.destroy(error as Error));
  return { file, body };
}
