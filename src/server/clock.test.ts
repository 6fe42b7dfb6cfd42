/** One clock: everything that is written and judged goes by it, its owner alone sets it, and days end at midnight where the practice is. */
import { sql } from 'kysely';
import { setClock } from '../db/clock';
import { BEGINNING, at } from '../testing/clock';
import { fileDatabase } from '../testing/database';
import { charge, household } from '../testing/desk';
import { someOfEverything } from '../testing/everything';
import { businessDate, readNow, systemContext, timeOfDay, zone } from './access';

const t = fileDatabase();

/** The day and the time as a request gets them. */
const told = async (): Promise<[string, string]> => {
  const { now, today } = await systemContext(t.db);
  return [today, timeOfDay(now)];
};

test('the desk cannot set it, nor put another one in its place', async () => {
  const other = `returns timestamptz language sql as $$ select timestamptz '2020-01-01' $$`;
  for (const statement of [
    `create or replace function desk_now() ${other}`,
    `create function public.desk_now(integer) ${other}`,
    `drop function desk_now()`,
    `alter function desk_now() rename to another`,
    `create schema mine`,
  ])
    await expect(sql.raw(statement).execute(t.db)).rejects.toMatchObject({ code: '42501' });
  // A function of the session itself is not found without its schema's name.
  await t.db.connection().execute(async (own) => {
    await sql
      .raw(`create function pg_temp.desk_now() ${other}`)
      .execute(own)
      .catch(() => undefined);
    expect((await readNow(own)).getUTCFullYear()).toBe(2026);
  });
  await expect(setClock(t.pool, 'tomorrow', zone())).rejects.toThrow(RangeError);
});

test('it goes on, and is the true time again when it was set back', async () => {
  const before = await readNow(t.db);
  await sql`select pg_sleep(0.05)`.execute(t.db);
  expect((await readNow(t.db)).getTime()).toBeGreaterThan(before.getTime() + 40);
  await setClock(t.pool, null, zone());
  const { rows } = await t.pool.query<{ off: number }>(
    'select abs(extract(epoch from desk_now() - clock_timestamp()))::float as off',
  );
  expect(rows[0]!.off).toBeLessThan(1);
  await setClock(t.pool, BEGINNING, zone());
});

test('at midnight the next request has the next day, also on connections that have asked before', () =>
  at(t, '2026-12-31T23:59:59', async () => {
    expect(await told()).toEqual(['2026-12-31', '2359']);
    while ((await told())[0] === '2026-12-31') await new Promise((resolve) => setTimeout(resolve, 100));
    expect(await told()).toEqual(['2027-01-01', '0000']);
    const { householdId, patientId } = await household(t, false);
    await charge(t, await systemContext(t.db), patientId, '40.00');
    expect(
      await t.db
        .selectFrom('entry as e')
        .innerJoin('posting as p', 'p.entry_id', 'e.id')
        .select('e.posting_date')
        .distinct()
        .where('p.household_id', '=', householdId)
        .execute(),
    ).toEqual([{ posting_date: '2027-01-01' }]);
  }));

test('in spring an hour is missing and in autumn one comes twice; the days stay whole', async () => {
  // 8 March and 1 November 2026, Energy Policy Act of 2005, 15 U.S.C. 260a: at two o'clock.
  await at(t, '2026-03-08T01:59:59', async () => {
    expect(await told()).toEqual(['2026-03-08', '0159']);
    while ((await told())[1] === '0159') await new Promise((resolve) => setTimeout(resolve, 100));
    expect(await told()).toEqual(['2026-03-08', '0300']);
  });
  await at(t, '2026-03-08T23:30:00', async () => expect(await told()).toEqual(['2026-03-08', '2330']));
  await at(t, '2026-11-01T00:30:00', async () => {
    const early = await readNow(t.db);
    expect([0, 1, 2, 23.4].map((hours) => timeOfDay(new Date(early.getTime() + hours * 3_600_000)))).toEqual([
      '0030',
      '0130',
      '0130',
      '2254',
    ]);
    // A day of 25 hours.
    expect(businessDate(new Date(early.getTime() + 24.4 * 3_600_000))).toBe('2026-11-01');
    expect(businessDate(new Date(early.getTime() + 24.6 * 3_600_000))).toBe('2026-11-02');
  });
});

test('a day is the practice’s: late in the evening it is tomorrow elsewhere', () => {
  const lateEvening = new Date('2026-03-17T05:30:00Z');
  expect(businessDate(lateEvening)).toBe('2026-03-16');
  process.env.WERGELD_ZONE = 'Europe/Berlin';
  try {
    expect(businessDate(lateEvening)).toBe('2026-03-17');
    expect(timeOfDay(lateEvening)).toBe('0630');
  } finally {
    delete process.env.WERGELD_ZONE;
  }
});

/** Tables with a clock of their own: sign-in, and what the owner has done to the schema. */
const OWN_CLOCK = [
  'user',
  'account',
  'session',
  'verification',
  'twoFactor',
  'password_link',
  'sign_in_limit',
  'spent_code',
  'migration',
];

test('whatever a desk writes is written by it', () =>
  at(t, '2031-05-05T09:00:00', async () => {
    const { rows: columns } = await t.pool.query<{ table: string; column: string }>(
      `
        select c.table_name as "table", c.column_name as "column"
        from information_schema.columns c
          join information_schema.tables t using (table_schema, table_name)
       where c.table_schema = 'public'
         and t.table_type = 'BASE TABLE'
         and c.data_type = 'timestamp with time zone'
         and c.table_name <> all ($1)
       order by 1, 2`,
      [OWN_CLOCK],
    );
    expect(columns.length).toBeGreaterThan(25);
    /** Columns that hold anything, and the day of the earliest, of rows that were not there before. */
    const filled = async (): Promise<Map<string, { n: number; day: string }>> => {
      const all = new Map<string, { n: number; day: string }>();
      for (const { table, column } of columns) {
        const { rows } = await t.pool.query<{ n: number; day: string }>(
          `
            select count(*)::int as n, to_char(max("${column}"), 'YYYY-MM-DD') as day
            from "${table}"
            where "${column}" is not null`,
        );
        all.set(`${table}.${column}`, rows[0]!);
      }
      return all;
    };
    const before = await filled();
    await someOfEverything(t, 1);
    const written = [...(await filled())].filter(([name, { n }]) => n > before.get(name)!.n);
    expect(written.length).toBeGreaterThan(20);
    expect(written.filter(([, { day }]) => day !== '2031-05-05')).toEqual([]);
  }));
