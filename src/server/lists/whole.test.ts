/** What holds for every list, whatever stands in it: order, pages, search, sums, what a role may see, what goes to a file. */
import { text } from 'node:stream/consumers';
import fc from 'fast-check';
import Papa from 'papaparse';
import { addDays } from '../../core/calendar';
import { cents, toDecimal } from '../../core/money';
import { TODAY, type TestDatabase, testDatabase } from '../../testing/database';
import { charge, decided, household, intake, remitText, sentClaim } from '../../testing/desk';
import { ROLES, NotAllowed, may } from '../access';
import { buildClaims } from '../claims/build';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { postRemittance } from '../remittances/post';
import { setupTables } from '../setup/tables';
import { previewRun } from '../statements/choosing';
import { draftStatements } from '../batches/drafts';
import { prepareStatement } from '../statements/prepare';
import { readWaiting } from '../today/read';
import { LISTS, LIST_NAMES, type ListName } from './index';
import type { List } from './list';
import { findList, listQuery, readList, readListOf } from './read';
import { listSheet } from './sheet';
import { runs } from '../../testing/runs';

let t: TestDatabase;
const NAMES = ['Ánna', 'beta', 'Zeta', 'O’Neil', "D'Arc", 'x_y', '50%', 'a\\b', 'Ελένη', ''];
let serial = 0;
const key = (): string => `whole-lists-${(serial += 1)}`;

/** Some of everything, with names and amounts that orders and searches stumble over. */
beforeAll(async () => {
  t = await testDatabase();
  for (const [index, name] of NAMES.entries()) {
    const made = await household(t, index % 2 === 0, { last: name || 'plain', phone: `555-01${10 + index}` });
    for (let n = 0; n <= index % 3; n += 1)
      await charge(
        t,
        t.context,
        made.patientId,
        toDecimal(cents(100 + index * 37 + n)),
        '99213',
        addDays(TODAY, -n * 40),
      );
    if (index % 2 === 0 && index < 6) await buildClaims(t.context, { householdId: made.householdId });
    const { receiptId } = await takeReceipt(t.context, {
      householdId: made.householdId,
      tenders: [{ tender: 'check', amount: '1.25', reference: `R${index}` }],
      key: key(),
    });
    if (index % 4 === 0) await reverseReceipt(t.context, { receiptId, why: 'x' });
    if (index % 2 === 1) await prepareStatement(t.context, { householdId: made.householdId, key: key() });
  }
  for (const reasons of [['CO-97:145.00'], ['CO-45:47.00', 'PR-3:98.00']]) {
    const s = await sentClaim(t);
    const line = { control: s.controls[0]!, charge: 14500, paid: 0, reasons };
    const { outcomes } = await intake(t.context, remitText([decided(s.claim.control_number, [line])]));
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
  }
});
afterAll(() => t.close());

const columnsOf = (name: ListName): readonly { key: string; kind: string; unordered?: boolean }[] =>
  LISTS[name].columns as never;
/** All rows, on one page: the audit trail grows while it is read. */
const rowsOf = async (name: ListName, address: Record<string, string> = {}) =>
  (await findList(t.context, name, { pageSize: 100_000, ...address })).rows as unknown as ({
    id: number;
  } & Record<string, unknown>)[];

const ORDERED = LIST_NAMES.flatMap((name) =>
  columnsOf(name)
    .filter((column) => !column.unordered)
    .map((column) => [name, column.key, column.kind] as const),
);

test.each(ORDERED)(
  '%s by %s: up and down are the same rows the other way round',
  async (name, column, kind) => {
    const up = await rowsOf(name, { view: 'all', order: column });
    const down = await rowsOf(name, { view: 'all', order: `-${column}` });
    const ids = (rows: typeof up) => rows.map((row) => row.id).sort((a, b) => a - b);
    expect(ids(up)).toEqual(ids(down));
    expect(ids(up)).toEqual(ids(await rowsOf(name, { view: 'all' })));
    if (kind === 'words') return;
    const values = (rows: typeof up) =>
      rows.map((row) => row[column]).filter((value) => value !== null) as (string | number)[];
    const sorted = [...values(up)].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0));
    expect(values(up)).toEqual(sorted);
    expect(values(down)).toEqual([...sorted].reverse());
  },
);

test.each(LIST_NAMES)('%s: an order by nothing known is the usual one', async (name) => {
  const usual = await rowsOf(name, { view: 'all' });
  for (const order of ['', '-', 'nothing', '-nothing', 'id; drop table charge', '__proto__', 'constructor'])
    expect(await rowsOf(name, { view: 'all', order })).toEqual(usual);
});

test.each(LIST_NAMES)('%s: each view holds rows of the whole, and counts what it shows', async (name) => {
  const { views } = LISTS[name] as unknown as { views: readonly { key: string }[] };
  for (const { key: view } of views) {
    const found = await findList(t.context, name, { view, pageSize: 10_000 });
    expect(found.count).toBe(found.rows.length);
    const state = await readList(t.context, name, { view });
    expect(state.count).toBe(found.count);
    expect(state.view).toBe(view);
    for (const [column, sum] of Object.entries(state.sums))
      expect(sum).toBe(
        (found.rows as unknown as Record<string, unknown>[]).reduce(
          (all, row) => all + Number(row[column] ?? 0),
          0,
        ),
      );
  }
});

test('each count of Today and of the rail is that of the list it leads to, and so is its sum', async () => {
  const waiting = await readWaiting(t.context);
  expect(waiting.length).toBeGreaterThan(8);
  for (const { list, view, href, count, total } of waiting) {
    const address = Object.fromEntries(new URL(href, 'http://desk').searchParams.entries());
    expect([list, listQuery(LISTS[list] as never, address).view]).toEqual([list, view]);
    const found = await findList(t.context, list, { view, pageSize: 100_000 });
    const waits = (
      LISTS[list] as unknown as { views: readonly { key: string; waits?: { sum: string } }[] }
    ).views.find(({ key: its }) => its === view)!.waits!;
    expect([list, view, count]).toEqual([list, view, found.rows.length]);
    const added = (found.rows as unknown as Record<string, unknown>[]).reduce(
      (all, row) => all + Number(row[waits.sum] ?? 0),
      0,
    );
    expect([list, view, total]).toEqual([list, view, added]);
  }
  // Those of the rail are the same, without what is worked out row by row.
  const rail = await readWaiting(t.context, 'rail');
  expect(rail).toEqual(waiting.filter((one) => one.rail));
});

test('a statement is due by the list, by Today and by choosing alike, each household and each patient apart once', async () => {
  const [due] = (await readWaiting(t.context)).filter(({ list }) => list === 'statements-due');
  const { in: chosen } = await previewRun(t.context, {});
  expect([due!.count, due!.total]).toEqual([chosen.count, chosen.due]);
  expect(due!.count).toBeGreaterThan(0);
  const rows = await rowsOf('statements-due');
  expect(
    new Set(rows.map(({ householdId, patientId }) => `${String(householdId)}/${String(patientId)}`)).size,
  ).toBe(rows.length);
  const batch = await draftStatements(t.context, { title: 'All that are due', key: key() });
  expect(batch.pieces).toBe(due!.count);
});

test.each(LIST_NAMES)(
  '%s: a page that is not there, and views that nobody declared, answer with what there is',
  async (name) => {
    for (const page of ['0', '-1', '999999', 'x', '1.5', '1e9'])
      expect((await readList(t.context, name, { page })).page).toBeGreaterThan(0);
    const { views } = LISTS[name] as unknown as { views: readonly { key: string }[] };
    for (const view of ['', 'nothing', 'constructor', '__proto__'])
      expect((await readList(t.context, name, { view })).view).toBe(views[0]!.key);
  },
);

test.each(LIST_NAMES)(
  '%s: whatever is searched, rows of the whole come back, and the pattern signs are letters',
  async (name) => {
    const all = new Set((await rowsOf(name, { view: 'all' })).map((row) => row.id));
    await fc.assert(
      fc.asyncProperty(
        fc.oneof(
          fc.constantFrom(...NAMES, '%', '_', '\\', "'", '--', '555-0110', 'R1', 'OL1'),
          fc.string({ maxLength: 12 }),
        ),
        async (search) => {
          const found = await rowsOf(name, { view: 'all', search: search.replaceAll('\u0000', '') });
          for (const row of found) expect(all.has(row.id)).toBe(true);
        },
      ),
      { numRuns: runs(25) },
    );
  },
);

test('a percent sign finds the name that has one, and an underscore the one with an underscore', async () => {
  expect((await rowsOf('accounts', { search: '50%' })).map((row) => row.guarantor)).toEqual([
    expect.stringMatching(/^50%/),
  ]);
  expect((await rowsOf('accounts', { search: 'x_y' })).map((row) => row.guarantor)).toEqual([
    expect.stringMatching(/^x_y/),
  ]);
  expect(await rowsOf('accounts', { search: 'xzy' })).toEqual([]);
});

test.each(LIST_NAMES)('%s: the file has the rows and columns of the screen, in its order', async (name) => {
  const state = await readList(t.context, name, { view: 'all' });
  const { body } = await listSheet(t.context, LISTS[name] as never, { view: 'all' }, 'csv');
  const { data } = Papa.parse<string[]>((await text(body)).replace(/^\uFEFF/, '').trimEnd());
  expect(data[0]).toEqual(state.columns.map((column) => column.title));
  // The audit trail has a row more: that of the file itself, noted before anything was read.
  expect(data).toHaveLength(state.count + 1 + (name === 'audit' ? 1 : 0));
  for (const [index, column] of state.columns.entries()) {
    if (column.kind !== 'money') continue;
    const inFile = data.slice(1).reduce((all, line) => all + Math.round(Number(line[index] || 0) * 100), 0);
    expect(inFile).toBe(
      (state.rows as unknown as Record<string, unknown>[]).reduce(
        (all, row) => all + Number(row[column.key] ?? 0),
        0,
      ),
    );
  }
});

test.each(LIST_NAMES.flatMap((name) => ROLES.map((role) => [name, role] as const)))(
  '%s for a %s: read by who may, by nobody else',
  async (name, role) => {
    const { permission } = LISTS[name] as unknown as { permission: Parameters<typeof may>[1] };
    const reading = readList(t.as(role), name, {});
    if (may(role, permission)) await expect(reading).resolves.toMatchObject({ name });
    else await expect(reading).rejects.toBeInstanceOf(NotAllowed);
  },
);

test.each(setupTables().map((table) => [table.key, table] as const))(
  'setup, %s: ordered by each column, searched by anything, its keys are its own',
  async (_key, table) => {
    const list = table.list as unknown as List<{ id: number }>;
    const first = await readListOf(t.context, list, {});
    const keys = (first.rows as unknown as { key: string }[]).map((row) => row.key);
    expect(new Set(keys).size).toBe(keys.length);
    for (const { key: column } of first.columns)
      for (const order of [column, `-${column}`])
        expect((await readListOf(t.context, list, { order })).count).toBe(first.count);
    for (const search of ['%', '_', "'", 'zzz no such thing', '9'])
      expect((await readListOf(t.context, list, { search })).count).toBeLessThanOrEqual(first.count);
  },
);
