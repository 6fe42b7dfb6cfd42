/** A list as a spreadsheet: the columns, order and filter of the screen, all rows, from one snapshot. */
import { Readable } from 'node:stream';
import Papa from 'papaparse';
import writeXlsxFile, { type Cell } from 'write-excel-file/node';
import { cents, toDecimal } from '../../core/money';
import { type ListColumn, shownColumns } from '../../core/reports/lists';
import { guarded } from '../../core/reports/spreadsheet';
import { type Context, Refused, audit } from '../access';
import type { List } from './list';
import { type ListAddress, chosenColumns, listQuery, viewOf } from './read';

/** Kinds of spreadsheet. */
export type SheetFormat = 'csv' | 'xlsx';

type Row = object;

const asText = (column: ListColumn, value: unknown): string =>
  column.kind === 'money' && typeof value === 'number' ? toDecimal(cents(value)) : guarded(value);

async function* csv(columns: readonly ListColumn[], batches: AsyncIterable<Row[]>): AsyncGenerator<string> {
  yield `${Papa.unparse([columns.map((column) => column.title)])}\r\n`;
  for await (const rows of batches)
    if (rows.length > 0)
      yield `${Papa.unparse(rows.map((row) => columns.map((column) => asText(column, row[column.key as keyof Row]))))}\r\n`;
}

/** What one file may hold, in rows: CSV is written as it is read, a workbook is put together whole. */
const MOST_ROWS: Readonly<Record<SheetFormat, number>> = { csv: 1_000_000, xlsx: 20_000 };

/** @throws Refused when there is more than one file may hold */
function fits(rows: number, format: SheetFormat): void {
  if (rows > MOST_ROWS[format])
    throw new Refused(
      'invalid',
      `One ${format.toUpperCase()} file holds ${MOST_ROWS[format]} rows, and there are more: ${format === 'xlsx' ? 'take the CSV, or narrow the list' : 'narrow the list'}`,
      'format',
    );
}

const FORMATS: Partial<Record<ListColumn['kind'], string>> = { money: '#,##0.00', day: 'yyyy-mm-dd' };

/** Text cells are never formulas in this format; amounts are numbers with two decimals, dates are dates. */
async function workbook(
  title: string,
  columns: readonly ListColumn[],
  batches: AsyncIterable<Row[]>,
): Promise<Readable> {
  const cell = ({ kind }: ListColumn, value: unknown): Cell => {
    if (value === null || value === undefined || value === '') return null;
    const format = FORMATS[kind];
    if (kind === 'day') return { type: Date, value: new Date(`${String(value)}T00:00:00Z`), format: format! };
    if (kind === 'money') return { type: Number, value: Number(value) / 100, format: format! };
    return kind === 'number'
      ? { type: Number, value: Number(value) }
      : { type: String, value: String(value) };
  };
  const sheet: Cell[][] = [
    columns.map((column) => ({ type: String, value: column.title, fontWeight: 'bold' as const })),
  ];
  for await (const rows of batches)
    for (const row of rows) sheet.push(columns.map((column) => cell(column, row[column.key as keyof Row])));
  const { toBuffer } = writeXlsxFile(sheet, {
    sheet: title,
    stickyRowsCount: 1,
    columns: columns.map(({ kind }) => ({ width: kind === 'words' ? 24 : 13 })),
  });
  return Readable.from([await toBuffer()]);
}

/**
 * Rows with their columns as a spreadsheet.
 * @param title of the sheet
 * @param file its name without an ending
 * @param count how many rows there are
 * @throws Refused when they are more than one file may hold
 */
export async function sheetOf(
  title: string,
  file: string,
  columns: readonly ListColumn[],
  count: number,
  batches: AsyncIterableIterator<Row[]>,
  format: SheetFormat,
): Promise<{ file: string; body: Readable }> {
  fits(count, format);
  if (format === 'csv') {
    const body = Readable.from(csv(columns, batches));
    // A generator that was never begun is not ended by its reader: what it would have read is.
    body.once('close', () => void batches.return?.());
    return { file: `${file}.csv`, body };
  }
  return { file: `${file}.xlsx`, body: await workbook(title, columns, batches) };
}

/** Rows that are all here, as the one batch that they are. */
export async function* batchOf<R extends object>(rows: readonly R[]): AsyncGenerator<R[]> {
  yield [...rows];
}

/**
 * Rows as they come, of which the first are read before anything is sent, so that a refusal is still an answer. Whoever asks
 * for no more ends the query, also before the first row was taken.
 */
export async function begun<R>(batches: AsyncGenerator<R[]>): Promise<AsyncIterableIterator<R[]>> {
  let first: IteratorResult<R[]> | null = await batches.next();
  const rows: AsyncIterableIterator<R[]> = {
    next: async () => {
      const now = first ?? (await batches.next());
      first = null;
      return now;
    },
    return: () => batches.return(undefined),
    [Symbol.asyncIterator]: () => rows,
  };
  return rows;
}

/**
 * Writes a list as a spreadsheet and notes it on the audit trail before anything is read.
 * @param signal is given up when nobody waits for the file any more
 * @returns a stream of the file and its name
 * @throws Refused when the role may not read the list
 */
export async function listSheet(
  context: Context,
  list: List,
  address: ListAddress,
  format: SheetFormat,
  signal?: AbortSignal,
): Promise<{ file: string; body: Readable }> {
  const ask = listQuery(list, address);
  const columns = shownColumns(list.columns, await chosenColumns(context, list.name), viewOf(list, ask));
  const { count, more } = await list.find(context, {
    ...ask,
    page: 1,
    pageSize: 1,
    countUpTo: MOST_ROWS[format],
  });
  fits(more ? count + 1 : count, format);
  await audit(
    context.db,
    context,
    'exported',
    { kind: 'list', id: list.name },
    { format, ...ask, rows: count },
  );
  const batches = await begun(list.stream(context, ask, signal));
  return sheetOf(list.noun[1], `${list.name}-${context.today}`, columns, count, batches, format);
}
