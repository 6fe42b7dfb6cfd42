import { buffer, text } from 'node:stream/consumers';
import { strFromU8, unzipSync } from 'fflate';
import type { KyselyPlugin } from 'kysely';
import Papa from 'papaparse';
import readXlsxFile from 'read-excel-file/node';
import { shownColumns } from '../../core/reports/lists';
import { fileDatabase } from '../../testing/database';
import { someOfEverything } from '../../testing/everything';
import type { Context } from '../access';
import { chooseColumns, forgetView, keepView } from './choose';
import { LISTS, LIST_NAMES, type ListName } from './index';
import type { List } from './list';
import { type ListAddress, findList, listQuery, readList } from './read';
import { listSheet } from './sheet';

const t = fileDatabase();
beforeAll(async () => {
  await someOfEverything(t, 1);
});

test('a person keeps views under names; what the list has not is refused; nobody else sees them', async () => {
  const mine = async (context: Context) => (await readList(context, 'overdue', {})).kept;
  await keepView(t.context, { list: 'overdue', name: 'Oldest', view: 'all', order: '-days' });
  await keepView(t.context, { list: 'overdue', name: 'Oldest', view: 'calls', order: 'days' });
  expect(await mine(t.context)).toEqual([{ name: 'Oldest', view: 'calls', order: 'days', filters: {} }]);
  expect(await mine(t.as('collector'))).toEqual([]);
  await expect(keepView(t.context, { list: 'overdue', name: 'x', view: 'no' })).rejects.toMatchObject({
    field: 'view',
  });
  await expect(
    keepView(t.context, { list: 'overdue', name: 'x', view: 'all', order: 'no' }),
  ).rejects.toMatchObject({ field: 'order' });
  await expect(keepView(t.context, { list: 'no', name: 'x', view: 'all' })).rejects.toThrow(/no such list/);
  await forgetView(t.context, { list: 'overdue', name: 'Oldest' });
  expect(await mine(t.context)).toEqual([]);
});

const listOf = (name: ListName): List => LISTS[name] as List;
const everyList = LIST_NAMES.map((name) => [name] as const);
/** The view of a list that shows the most. */
const widest = (name: ListName): string => {
  const { views } = listOf(name);
  return (views.find((view) => view.key === 'all') ?? views[0]!).key;
};
const rowsOf = async (name: ListName, address: ListAddress = {}, context: Context = t.context) =>
  (await readList(context, name, { view: widest(name), ...address })).rows as unknown as Record<
    string,
    unknown
  >[];

/** All rows of a list, however many pages they fill. */
const wholeOf = async (name: ListName) =>
  (await listOf(name).find(t.context, { view: widest(name), pageSize: 100_000 })).rows as unknown as Record<
    string,
    unknown
  >[];

/** A context whose queries are counted. */
function counted(): { context: Context; queries: () => number } {
  let n = 0;
  const plugin: KyselyPlugin = {
    transformQuery: ({ node }) => {
      n += 1;
      return node;
    },
    transformResult: async ({ result }) => result,
  };
  return { context: { ...t.context, db: t.db.withPlugin(plugin) }, queries: () => n };
}

describe.each(everyList)('%s', (name) => {
  test('has rows, and every column names a field of them', async () => {
    const rows = await rowsOf(name);
    expect(rows.length).toBeGreaterThan(0);
    for (const column of listOf(name).columns) expect(Object.keys(rows[0]!)).toContain(column.key);
    expect(rows.every((row) => Number.isInteger(row.id))).toBe(true);
  });

  test('its sums and count are those of all pages, and no row stands on two', async () => {
    const { count, sums } = await findList(t.context, name, { view: widest(name) });
    const seen: Record<string, unknown>[] = [];
    for (let page = 1; seen.length < count; page += 1) {
      const { rows } = await findList(t.context, name, { view: widest(name), page, pageSize: 2 });
      expect(rows.length).toBeGreaterThan(0);
      seen.push(...(rows as unknown as Record<string, unknown>[]));
    }
    expect(new Set(seen.map((row) => row.id)).size).toBe(count);
    const summed = listOf(name).columns.filter((column) => column.kind === 'money');
    expect(Object.keys(sums).sort()).toEqual(summed.map((column) => column.key).sort());
    for (const [key, sum] of Object.entries(sums))
      expect(seen.reduce((all, row) => all + (row[key] as number), 0)).toBe(sum);
    // Beyond the last page nothing stands, and the footer says the same.
    const beyond = await findList(t.context, name, { view: widest(name), page: count + 2, pageSize: 2 });
    expect(beyond).toMatchObject({ rows: [], count, sums });
    expect(Object.keys(seen[0]!).filter((key) => key.includes(' '))).toEqual([]);
  });

  test('is ordered by every column that says so, both ways, with what is missing at one end', async () => {
    for (const column of listOf(name).columns.filter((item) => !item.unordered)) {
      for (const order of [column.key, `-${column.key}`]) {
        const values = (await rowsOf(name, { order })).map((row) => row[column.key] ?? null);
        const known = values.filter((value) => value !== null);
        const first = order === column.key ? values.indexOf(known[0] ?? null) : 0;
        expect(values.slice(first, first + known.length)).toEqual(known);
        if (column.kind !== 'words') {
          const sorted = [...known].sort((a, b) => (a! < b! ? -1 : a! > b! ? 1 : 0));
          expect(known).toEqual(order === column.key ? sorted : sorted.reverse());
        }
      }
    }
  });

  test('as CSV and as XLSX it says what the screen says', async () => {
    const columns = shownColumns(listOf(name).columns, null);
    const csv = await listSheet(t.context, listOf(name), { view: widest(name) }, 'csv');
    // The file of the audit trail tells of itself: it was noted before anything was read.
    const shown = await wholeOf(name);
    expect(csv.file).toBe(`${name}-2026-03-16.csv`);
    const parsed = Papa.parse<string[]>((await text(csv.body)).trimEnd()).data;
    expect(parsed[0]).toEqual(columns.map((column) => column.title));
    expect(parsed.slice(1)).toEqual(
      shown.map((row) =>
        columns.map(({ key, kind }) => {
          const value = row[key];
          if (kind === 'money') return ((value as number) / 100).toFixed(2);
          const words = value === null || value === undefined ? '' : String(value);
          return /^[=+\-@]/.test(words) ? `'${words}` : words;
        }),
      ),
    );

    const { body } = await listSheet(t.context, listOf(name), { view: widest(name) }, 'xlsx');
    const bytes = await buffer(body);
    const again = await wholeOf(name);
    const [sheet] = await readXlsxFile(bytes);
    expect(sheet!.data).toHaveLength(again.length + 1);
    again.forEach((row, index) =>
      columns.forEach(({ key, kind }, at) => {
        const cell = sheet!.data[index + 1]![at];
        const value = row[key];
        if (value === null || value === '') expect(cell).toBeNull();
        else if (kind === 'money') expect(Math.round((cell as number) * 100)).toBe(value);
        else if (kind === 'day') expect((cell as unknown as Date).toISOString().slice(0, 10)).toBe(value);
        else expect(cell).toEqual(value);
      }),
    );
    // A formula would stand in an element of its own.
    expect(strFromU8(unzipSync(bytes)['xl/worksheets/sheet1.xml']!)).not.toContain('<f>');
  });
});

test('every list asks the database as often for many rows as for few', async () => {
  const asked = async () => {
    const found = new Map<ListName, { rows: number; queries: number }>();
    for (const name of LIST_NAMES) {
      const { context, queries } = counted();
      await rowsOf(name, {}, context);
      found.set(name, { queries: queries(), rows: (await wholeOf(name)).length });
    }
    return found;
  };
  const few = await asked();
  await someOfEverything(t, 100);
  const many = await asked();
  for (const name of LIST_NAMES) {
    expect([name, many.get(name)!.rows > few.get(name)!.rows]).toEqual([name, true]);
    expect([name, many.get(name)!.queries]).toEqual([name, few.get(name)!.queries]);
    // What is overdue, and who gets a statement, is worked out from the books, by as many queries whatever its length.
    expect(many.get(name)!.queries).toBeLessThanOrEqual(
      // The rows, their count, the columns, the kept views, what it can be narrowed by, and the audit row.
      ['overdue', 'statements-due'].includes(name) ? 15 : 6,
    );
  }
});

describe('what a person asks', () => {
  test('an address that makes no sense is read as one that says nothing', async () => {
    const address = { page: '-7', view: ['ready', 'b'], search: 'x'.repeat(5000) };
    expect(listQuery(LISTS.claims, address)).toEqual({
      filters: {},
      page: 1,
      view: 'ready',
      search: 'x'.repeat(200),
      order: '',
      of: '',
    });
    // A list opens on its first view.
    expect(listQuery(LISTS.claims, { view: 'nonsense' }).view).toBe('fix');
    const usual = (await readList(t.context, 'claims', {})).rows;
    for (const address of [
      { order: 'password' },
      { order: 'wrong' },
      { order: '-' },
      { order: 'total; drop table claim' },
      { view: '__proto__' },
      { view: 'constructor' },
      { of: "' or 1=1" },
    ])
      expect((await readList(t.context, 'claims', address)).rows).toEqual(usual);
  });

  test('wildcards in a search are letters', async () => {
    expect(await rowsOf('accounts', { search: '%' })).toEqual([]);
    expect(await rowsOf('accounts', { search: '_' })).toEqual([]);
    expect((await rowsOf('accounts', { search: '@formula' })).length).toBeGreaterThan(0);
  });

  test('columns are kept for each person, and come back as they were', async () => {
    const own = t.as('biller');
    await chooseColumns(own, { list: 'claims', columns: ['total', 'controlNumber', 'total'] });
    expect((await readList(own, 'claims', {})).columns.map((column) => column.key)).toEqual([
      'total',
      'controlNumber',
    ]);
    expect((await readList(t.context, 'claims', {})).columns).toEqual(
      shownColumns(LISTS.claims.columns, null),
    );
    const csv = await text((await listSheet(own, listOf('claims'), {}, 'csv')).body);
    expect(csv.split('\r\n')[0]).toBe('Charge,Claim');
    await expect(chooseColumns(own, { list: 'claims', columns: ['total', 'ssn'] })).rejects.toThrow(
      /no column “ssn”/,
    );
    expect((await readList(own, 'claims', {})).chosen).toBe(true);
    await chooseColumns(own, { list: 'claims', columns: [] });
    expect(await readList(own, 'claims', {})).toMatchObject({
      chosen: false,
      columns: shownColumns(LISTS.claims.columns, null),
    });
  });

  test('a view leaves out what says nothing in it, until a person chooses it', async () => {
    const shown = async (view: string) =>
      (await readList(t.context, 'refund-requests', { view })).columns.map(({ key }) => key);
    expect(await shown('asked')).not.toContain('decided');
    expect(await shown('decided')).toContain('decided');
    await chooseColumns(t.context, { list: 'refund-requests', columns: ['account', 'decided'] });
    expect(await shown('asked')).toEqual(['account', 'decided']);
    await chooseColumns(t.context, { list: 'refund-requests', columns: [] });
  });

  test('a choice older than the list leaves out what the list has no more', () => {
    expect(shownColumns(LISTS.claims.columns, ['gone', 'total']).map((column) => column.key)).toEqual([
      'total',
    ]);
    expect(shownColumns(LISTS.claims.columns, ['gone'])).toEqual(shownColumns(LISTS.claims.columns, null));
  });

  test('a role sees and takes out only the lists it may', async () => {
    const front = t.as('front-desk');
    for (const name of ['claims', 'remittances', 'follow-ups'] as const) {
      await expect(readList(front, name, {})).rejects.toThrow(/may not read/);
      await expect(listSheet(front, listOf(name), {}, 'csv')).rejects.toThrow(/may not read/);
    }
    const taken = await listSheet(front, listOf('receipts'), {}, 'csv');
    expect(taken.file).toMatch(/receipts/);
    await text(taken.body);
    const { detail } = await t.db
      .selectFrom('audit')
      .select('detail')
      .where('action', '=', 'exported')
      .where('user_id', '=', 'front-desk')
      .orderBy('id', 'desc')
      .executeTakeFirstOrThrow();
    expect(detail).toMatchObject({ format: 'csv' });
  });
});

test('the address of a list with several views takes one of them', () => {
  for (const name of LIST_NAMES) {
    const { path, views } = listOf(name);
    if (views.length > 1) expect([name, path]).toEqual([name, path.split('?')[0]]);
  }
});
