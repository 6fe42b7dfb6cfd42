/** A household that is closed to all but named users: it counts everywhere and is told nowhere. */
import { text } from 'node:stream/consumers';
import { sql } from 'kysely';
import { fileDatabase } from '../testing/database';
import { someOfEverything } from '../testing/everything';
import { readAccount } from './account-page/read';
import { type Context, systemContext } from './access';
import { readClaim } from './claims/read';
import { CLOSED_ACCOUNT } from '../core/reports/lists';
import { isClosed, opened } from './closed';
import { LISTS, LIST_NAMES, type ListName } from './lists';
import type { List } from './lists/list';
import { findList } from './lists/read';
import { listSheet } from './lists/sheet';
import { readContacts } from './overdue/contacts';
import { readOverdueAccount } from './overdue/account';
import { readPlan, runningPlans } from './plans/read';
import { readRemittance } from './remittances/read';
import { reportOf } from './reports';
import { searchEverything } from './search/find';
import { titleOf } from './search/titles';
import { readStatement } from './statements/read';

const t = fileDatabase();
let named: Context;
let other: Context;
/** Closed to all but the manager: every household there is. */
beforeAll(async () => {
  await someOfEverything(t, 1);
  named = t.context;
  other = t.as('biller');
  const { id } = named.user;
  await t.owner
    .insertInto('user')
    .values({ id, email: `${id}@example.com`, name: 'Named', role: 'manager' })
    .onConflict((at) => at.doNothing())
    .execute();
  await sql`insert into household_open_to (household_id, user_id) select id, ${named.user.id} from household`.execute(
    t.db,
  );
});

const listOf = (name: ListName): List => LISTS[name] as List;
const mayRead = (name: ListName): boolean =>
  ['audit', 'seen', 'users'].every((managers) => managers !== name);
const widest = (name: ListName): string =>
  (listOf(name).views.find(({ key }) => key === 'all') ?? listOf(name).views[0]!).key;
/** Lists that tell of households, by what their rows say of one. */
const telling = LIST_NAMES.filter(
  (name) =>
    mayRead(name) && !['remittances', 'payer-credit', 'work', 'batches', 'letter-batches'].includes(name),
).map((name) => [name] as const);
const rowsOf = async (name: ListName, context: Context, search = '') => {
  const found = await findList(context, name, { view: widest(name), search, pageSize: 1000 });
  return { ...found, rows: found.rows as unknown as Record<string, unknown>[] };
};

describe.each(telling)('%s', (name) => {
  test('counts and sums what is closed, and says its amounts alone', async () => {
    const [seen, kept] = [await rowsOf(name, other), await rowsOf(name, named)];
    expect(kept.rows.length).toBeGreaterThan(0);
    expect(kept.rows.some(({ closed }) => closed)).toBe(false);
    expect([seen.count, seen.sums]).toEqual([kept.count, kept.sums]);
    const { columns } = listOf(name);
    const first = columns.find(({ kind }) => kind === 'words')!.key;
    const amounts = columns.filter(({ kind }) => kind === 'money' || kind === 'number').map(({ key }) => key);
    // Follow-ups may be of no household: these are told.
    for (const row of seen.rows.filter(({ householdId }) => householdId !== null)) {
      expect(Object.keys(row).sort()).toEqual(['closed', 'id', first, ...amounts].sort());
      expect(row[first]).toBe(CLOSED_ACCOUNT);
      const whole = kept.rows.find(({ id }) => id === row.id)!;
      for (const amount of amounts) expect(row[amount]).toBe(whole[amount]);
    }
  });

  test('in a file it says no more, and no search finds it', async () => {
    const { rows } = await rowsOf(name, named);
    const said = rows.flatMap((row) =>
      ['patient', 'guarantor', 'account', 'number']
        .map((key) => row[key])
        .filter((value) => typeof value === 'string'),
    ) as string[];
    expect(said.length).toBeGreaterThan(0);
    const file = await text((await listSheet(other, listOf(name), { view: widest(name) }, 'csv')).body);
    for (const word of said.filter((item) => item.length > 3)) expect(file).not.toContain(word);
    if (listOf(name).searched) {
      expect((await rowsOf(name, named, said[0])).count).toBeGreaterThan(0);
      expect(
        (await rowsOf(name, other, said[0])).rows.filter(({ householdId }) => householdId !== null),
      ).toEqual([]);
    }
  });
});

test('search, titles and whoever reads of a household ask the same condition', async () => {
  const [household] = (await rowsOf('accounts', named)).rows;
  const number = String(household!.number);
  expect(await searchEverything(named, number)).not.toEqual([]);
  expect(await searchEverything(other, number)).toEqual([]);
  const claim = (await rowsOf('claims', named)).rows[0]!;
  expect(await searchEverything(named, String(claim.controlNumber))).not.toEqual([]);
  expect(await searchEverything(other, String(claim.controlNumber))).toEqual([]);
  expect(await titleOf(named, 'account', String(household!.id))).not.toBeNull();
  expect(await titleOf(other, 'account', String(household!.id))).toBeNull();
  expect(await titleOf(other, 'claim', String(claim.id))).toBeNull();
  const id = household!.id as number;
  const plan = (await rowsOf('plans', named)).rows[0]!.id as number;
  const statement = (await rowsOf('statements', named)).rows[0]!.id as number;
  const readers: [string, (context: Context) => Promise<unknown>][] = [
    ['account', (context) => readAccount(context, id)],
    ['overdue', (context) => readOverdueAccount(context, id)],
    ['contacts', (context) => readContacts(context, id)],
    ['claim', (context) => readClaim(context, claim.id as number)],
    ['plan', (context) => readPlan(context, plan)],
    ['statement', (context) => readStatement(context, statement)],
  ];
  for (const [what, read] of readers) {
    await expect([what, await read(named).then(Boolean)]).toEqual([what, true]);
    await expect(read(other)).rejects.toThrow('closed to all but');
    expect(await read(await systemContext(t.db)).then(Boolean)).toBe(true);
  }
  const remittance = (await rowsOf('remittances', named)).rows[0]!.id as number;
  const [told, withheld] = [await readRemittance(named, remittance), await readRemittance(other, remittance)];
  const own = told.rows.filter(({ householdId }) => householdId !== null);
  expect(own.length).toBeGreaterThan(0);
  expect(withheld.rows.map(({ charge, paid, status }) => [charge, paid, status])).toEqual(
    told.rows.map(({ charge, paid, status }) => [charge, paid, status]),
  );
  for (const { content, controlNumber, claimId } of own) {
    const said = JSON.stringify(withheld.rows);
    for (const word of [content.patient.last, controlNumber, content.patient.memberId].filter(Boolean))
      expect(said).not.toContain(word);
    expect(claimId).not.toBeNull();
  }
  expect(withheld.rows.filter(({ content }) => content.patient.last === CLOSED_ACCOUNT)).toHaveLength(
    own.length,
  );
  const running = await runningPlans(other);
  expect(running.length).toBeGreaterThan(0);
  expect(running.every(({ account, guarantor }) => account === CLOSED_ACCOUNT && guarantor === '')).toBe(
    true,
  );
});

test('a report says amounts of what is closed, under its own words, and leads nowhere', async () => {
  const asked = { from: '2000-01-01', to: '2199-12-31' };
  for (const name of ['patient-aging', 'received']) {
    const read = async (context: Context) => reportOf(name)!.read(context, asked);
    const [seen, kept] = [await read(named), await read(other)];
    expect(seen.rows).toBeGreaterThan(1);
    expect([kept.rows, kept.totals]).toEqual([seen.rows, seen.totals]);
    const closed = kept.groups[0]!.rows.filter(({ leads }) => leads === null);
    const own = seen.groups[0]!.rows.filter(({ leads }) => String(leads).startsWith('/accounts/'));
    expect(own.length).toBeGreaterThan(0);
    expect(closed).toHaveLength(own.length);
    for (const row of closed)
      expect(Object.values(row).filter((value) => typeof value === 'string')).toEqual([CLOSED_ACCOUNT]);
  }
});

test('what was refused is not on the trail as read; what was read is, with its household', async () => {
  const [household] = (await rowsOf('accounts', named)).rows;
  const seen = async () =>
    (
      await sql<{ user: string }>`
        select user_id as user from audit where action = 'tried' and household_id = ${household!.id as number}`.execute(
        t.db,
      )
    ).rows;
  await expect(opened(other, { kind: 'household', id: household!.id as number }, 'tried')).rejects.toThrow(
    'closed',
  );
  expect(await seen()).toEqual([]);
  await opened(named, { kind: 'household', id: household!.id as number }, 'tried');
  expect(await seen()).toEqual([{ user: named.user.id }]);
});

test('a household is open again when nobody is named; what is of none never was closed', async () => {
  const { rows } = await sql<{ none: boolean }>`select ${isClosed(other, sql`null::bigint`)} as none`.execute(
    t.db,
  );
  expect(rows).toEqual([{ none: false }]);
  await sql`delete from household_open_to`.execute(t.db);
  expect((await rowsOf('accounts', other)).rows.some(({ closed }) => closed)).toBe(false);
});
