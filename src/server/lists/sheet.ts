/** A list as a spreadsheet: the columns, order and filter of the screen, all rows, from one snapshot. */
import { PassThrough, Readable } from 'node:stream';
import ExcelJS from 'exceljs';
import Papa from 'papaparse';
import { cents, toDecimal } from '../../core/money';
import { type ListColumn, shownColumns } from '../../core/reports/lists';
import { guarded } from '../../core/reports/spreadsheet';
import { type Context, audit } from '../access';
import type { List } from './list';
import { type ListAddress, chosenColumns, listQuery } from './read';

/** Kinds of spreadsheet. */
export type SheetFormat = 'csv' | 'xlsx';

type Row = Record<string, unknown>;

const asText = (column: ListColumn, value: unknown): string =>
  column.kind === 'money' && typeof value === 'number' ? toDecimal(cents(value)) : guarded(value);

async function* csv(columns: readonly ListColumn[], batches: AsyncIterable<Row[]>): AsyncGenerator<string> {
  yield `${Papa.unparse([columns.map((column) => column.title)])}\r\n`;
  for await (const rows of batches)
    if (rows.length > 0)
      yield `${Papa.unparse(rows.map((row) => columns.map((column) => asText(column, row[column.key]))))}\r\n`;
}

/** Text cells are never formulas in this format; amounts are numbers with two decimals, dates are dates. */
async function writeXlsx(
  into: PassThrough,
  title: string,
  columns: readonly ListColumn[],
  batches: AsyncIterable<Row[]>,
): Promise<void> {
  const book = new ExcelJS.stream.xlsx.WorkbookWriter({ stream: into, useStyles: true });
  const sheet = book.addWorksheet(title, { views: [{ state: 'frozen', ySplit: 1 }] });
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

/** Rows with their columns as a spreadsheet. @param title of the sheet @param file its name without an ending */
export function sheetOf(
  title: string,
  file: string,
  columns: readonly ListColumn[],
  batches: AsyncIterable<Row[]>,
  format: SheetFormat,
): { file: string; body: Readable } {
  if (format === 'csv') return { file: `${file}.csv`, body: Readable.from(csv(columns, batches)) };
  const body = new PassThrough();
  writeXlsx(body, title, columns, batches).catch((error: unknown) => body.destroy(error as Error));
  return { file: `${file}.xlsx`, body };
}

/**
 * Writes a list as a spreadsheet and notes it on the audit trail.
 * @returns a stream of the file and its name
 * @throws Refused when the role may not read the list
 */
export async function listSheet(
  context: Context,
  list: List,
  address: ListAddress,
  format: SheetFormat,
): Promise<{ file: string; body: Readable }> {
  const columns = shownColumns(list.columns, await chosenColumns(context, list.name));
  const ask = listQuery(list, address);
  const batches = list.stream(context, ask);
  // The first batch is read before anything is sent, so that a refusal is still an answer.
  const first = await batches.next();
  const whole = (async function* (): AsyncGenerator<Row[]> {
    if (!first.done) yield first.value as Row[];
    for await (const rows of batches) yield rows as Row[];
  })();
  await audit(context.db, context, 'exported', { kind: 'list', id: list.name }, { format, ...ask });
  return sheetOf(list.noun[1], `${list.name}-${context.today}`, columns, whole, format);
}
