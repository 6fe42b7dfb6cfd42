/** Plans from the command line: what one costs, and reminders killed in the middle. */
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { addDays } from '../core/calendar';
import { setClock } from '../db/clock';
import { zone } from '../server/access';
import { begun, wergeldHere } from '../testing/command';
import { TODAY, fileDatabase } from '../testing/database';
import { planOf } from '../testing/desk';
import { closedGate } from '../testing/gate';
import { FULL } from '../testing/runs';

const t = fileDatabase();

const wergeld = (...args: string[]) => wergeldHere(t, args);

test('a quote: level, finance charge, total, rate and every installment; what makes none is said', async () => {
  const quote = (...args: string[]) => wergeld('plans', 'quote', ...args);
  const asked = '--amount 560.00 --down 60.00 --rate 5 --months 6 --json --agreed'.split(' ');
  const told = await quote(...asked, TODAY);
  expect(told.status).toBe(0);
  const found = JSON.parse(told.out) as {
    level_cents: number;
    installments: { date: string; amount_cents: number; left_cents: number }[];
  };
  // Check values: common practice, no source.
  expect(found).toMatchObject({ level_cents: 8455, finance_charge_cents: 731, total_cents: 50731 });
  expect(found.installments).toHaveLength(6);
  expect(found.installments[0]).toMatchObject({
    date: '2026-04-16',
    principal_cents: 8247,
    interest_cents: 208,
  });
  expect(found.installments.at(-1)).toMatchObject({ amount_cents: 8456, left_cents: 0 });
  const weekly = await quote(
    '--amount',
    '30.00',
    '--months',
    '3',
    '--every',
    'week',
    '--agreed',
    TODAY,
    '--first',
    '2026-03-20',
  );
  expect(weekly.out).toContain('1\t20 Mar 2026\t10.00\t10.00\t0.00\t20.00');
  for (const [args, words] of [
    [['--months', '6'], /Say --amount/],
    [['--amount', 'x', '--months', '6'], /--amount is an amount/],
    [['--amount', '5.00', '--months', '0'], /at least one/],
    [['--amount', '5.00', '--months', '2', '--rate', '1.234'], /--rate/],
    [['--amount', '5.00', '--months', '2', '--every', 'day'], /--every is month/],
    [['--amount', '5.00', '--months', '2', '--first', '2026-02-30'], /--first/],
    [['--amount', '5.00', '--months', '2', '--agreed', 'then'], /--agreed/],
    [['--amount', '5.00', '--down', '5.00', '--months', '2'], /pays all of it/],
  ] as const)
    expect(await quote(...args)).toMatchObject({ status: 1, err: expect.stringMatching(words) });
});

test('reminders killed in the middle and begun again: each goes out once', async () => {
  const MANY = FULL ? 60 : 12;
  for (let index = 0; index < MANY; index += 1) {
    const { householdId } = await planOf(t);
    await t.db
      .updateTable('household')
      .set({ email: `plan${index}@example.com` })
      .where('id', '=', householdId)
      .execute();
  }
  // The first installments are due in thirty days.
  await setClock(t.pool, addDays(TODAY, 27), zone());
  const dry = await wergeld('plans', 'remind', '--dry-run', '--json');
  expect((JSON.parse(dry.out) as { kind: string }[]).map(({ kind }) => kind)).toEqual(
    Array(MANY).fill('before'),
  );
  const outbox = join(process.env.WERGELD_EXCHANGE!, 'pelican', 'outbox');
  const letters = (): string[] =>
    existsSync(outbox) ? readdirSync(outbox).filter((name) => /^R\d+\.eml$/.test(name)) : [];
  expect(letters()).toEqual([]);
  for (const number of [1, MANY / 2]) {
    const gate = await closedGate(
      t.pool,
      'plan_reminder',
      `new.written_at is not null and ${number} = (select count(*) from plan_reminder where id <= new.id)`,
    );
    const { child, ended } = begun(t, ['plans', 'remind']);
    // Its message is written, which nobody has noted.
    await gate.reached();
    child.kill('SIGKILL');
    await ended;
    await gate.open();
    expect(letters()).toHaveLength(number);
  }
  expect((await wergeld('plans', 'remind', '--json')).status).toBe(0);
  expect(letters()).toHaveLength(MANY);
  expect(JSON.parse((await wergeld('plans', 'remind', '--json')).out)).toMatchObject({ sent: 0, broken: 0 });
  const { rows } = await t.pool.query(
    `
      select count(*)::int as n, count(distinct plan_id)::int as plans, count(written_at)::int as written
      from plan_reminder`,
  );
  expect(rows[0]).toEqual({ n: MANY, plans: MANY, written: MANY });
  // Two missed installments end them all, in one run, and the export says so.
  await setClock(t.pool, addDays(TODAY, 70), zone());
  expect(JSON.parse((await wergeld('plans', 'remind', '--json')).out)).toMatchObject({ broken: MANY });
  const exported = JSON.parse((await wergeld('export', 'plans', '--format', 'json')).out) as {
    status: string;
  }[];
  expect(exported.map(({ status }) => status)).toEqual(Array(MANY).fill('broken'));
});
