/**
 * A desk that is killed while it takes cards: each payment is there once, or clearly not, and what the terminal charged is what is in
 * the books. The terminal runs on outside of what is killed, as a real one does.
 */
import { type ChildProcess, spawn } from 'node:child_process';
import { basisPoints } from '../../core/money';
import { fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household } from '../../testing/desk';
import { type Gate, closedGate } from '../../testing/gate';
import { FULL } from '../../testing/runs';
import { fileTerminal } from '../../testing/terminal';
import { readBatch, settleUnclear, takePayment } from './terminal';

const t = fileDatabase();
const terminal = fileTerminal(t);
beforeAll(() =>
  t.db
    .updateTable('payment_policy')
    .set({ surcharge_rate: basisPoints(0) })
    .execute(),
);

/** Cards that are approved, that are declined, whose answer comes late, twice, or is lost. */
const CARDS = ['2003', '9108', '7102', '8100', '5106', '2003', '3001'];
const CENTS = 5000;
interface Payment {
  householdId: number;
  reading: string;
  key: string;
}
const prepared = async (many: number): Promise<Payment[]> => {
  const payments: Payment[] = [];
  for (let at = 0; at < many; at += 1) {
    const { householdId, patientId } = await household(t, false);
    await charge(t, t.context, patientId, '50.00');
    payments.push({
      householdId,
      reading: await terminal.card(CARDS[at % CARDS.length]!, CENTS),
      key: crypto.randomUUID(),
    });
  }
  return payments;
};

/** A desk of its own process that presses Take for one payment after the other, and says which were answered. */
function press(payments: readonly Payment[]): {
  child: ChildProcess;
  ended: Promise<unknown>;
  answered: Set<string>;
} {
  const script = `
    import { db } from './src/db/connect';
    import { systemContext } from './src/server/access';
    import { takePayment } from './src/server/payments/terminal';
    const { background, ...base } = await systemContext(db());
    const user = ${JSON.stringify(t.context.user)};
    for (const { householdId, reading, key } of ${JSON.stringify(payments)}) {
      await takePayment({ ...base, user, today: '${t.context.today}' }, {
        householdId, key, tenders: [{ tender: 'card', amount: '50.00', reading }],
      });
      console.log(key);
    }
    process.exit(0);`;
  const child = spawn(process.execPath, ['src/testing/script.mjs', script], {
    env: { ...process.env, DATABASE_URL: t.url },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const answered = new Set<string>();
  child.stdout.on('data', (text: Buffer) => {
    for (const line of text.toString().split('\n').filter(Boolean)) answered.add(line);
  });
  return {
    child,
    answered,
    ended: new Promise((resolve) => child.on('exit', (code, signal) => resolve(signal ?? code))),
  };
}

/** Once the terminal has said what it knows: books and terminal say the same, and every household has paid once or not at all. */
async function onceOrNot(payments: readonly Payment[]): Promise<void> {
  let open = 1;
  for (const until = performance.now() + 60_000; open > 0 && performance.now() < until;) {
    await settleUnclear(t.context, 0);
    open = (
      await t.db
        .selectFrom('attempt')
        .select(({ fn }) => fn.countAll<number>().as('n'))
        .where('state', 'in', ['asked', 'unclear'])
        .executeTakeFirstOrThrow()
    ).n;
    if (open > 0) await new Promise((resolve) => setTimeout(resolve, 200));
  }
  expect(open).toBe(0);
  const charged = await readBatch('TEST-01', t.context.today);
  const attempts = await t.db
    .selectFrom('attempt as a')
    .innerJoin('tender as t', 't.id', 'a.tender_id')
    .innerJoin('receipt as r', 'r.id', 't.receipt_id')
    .select(['a.key', 'a.state', 't.state as tender', 'r.household_id as householdId'])
    .execute();
  for (const { householdId } of payments) {
    const own = attempts.filter((one) => one.householdId === householdId);
    const keys = new Set(own.map(({ key }) => key));
    const there = charged.filter(({ key }) => keys.has(key));
    const { rows } = await t.pool.query<{ cash: number; owed: number }>(
      `select
         coalesce((select sum(p.amount) from posting p where p.household_id = $1 and p.account = 'cash/card'), 0)::integer as cash,
         coalesce((select sum(b.with_patient) from charge c join charge_balance b on b.charge_id = c.id where c.household_id = $1), 0)::integer as owed`,
      [householdId],
    );
    const { cash, owed } = rows[0]!;
    expect(there.length).toBeLessThanOrEqual(1);
    expect({ cash, owed }).toEqual(there.length === 1 ? { cash: CENTS, owed: 0 } : { cash: 0, owed: CENTS });
    expect(own.filter(({ tender }) => tender === 'taken')).toHaveLength(there.length);
  }
  expect(await brokenInvariants(t)).toEqual([]);
}
const OF =
  'exists (select from tender x join receipt y on y.id = x.receipt_id where x.id = new.tender_id and y.household_id = HOUSE)';
test.each([
  ['before the receipt is kept', 'receipt', 'new.household_id = HOUSE'],
  ['before the attempt is kept', 'attempt', `new.state = 'asked' and ${OF}`],
  ['before the answer is kept', 'attempt', `new.state in ('approved', 'declined') and ${OF}`],
  ['before the money is in the books', 'posting', `new.account = 'cash/card' and new.household_id = HOUSE`],
  ['before the press is answered', 'answered', `exists (select from receipt r where r.household_id = HOUSE)`],
] as const)('kill -9 %s: pressed again, it is there once', async (_name, table, row) => {
  const payments = await prepared(3);
  const gate: Gate = await closedGate(
    t.pool,
    table,
    row.replaceAll('HOUSE', String(payments[1]!.householdId)),
  );
  const first = press(payments);
  await gate.reached();
  first.child.kill('SIGKILL');
  expect(await first.ended).toBe('SIGKILL');
  await gate.open();
  expect(first.answered).toEqual(new Set([payments[0]!.key]));
  // Nobody presses again: it is there once, or not.
  await onceOrNot(payments.slice(0, 2));
  for (const one of payments)
    await takePayment(t.context, {
      householdId: one.householdId,
      tenders: [{ tender: 'card', amount: '50.00', reading: one.reading }],
      key: one.key,
    });
  await onceOrNot(payments);
});

// It takes minutes: at night alone.
if (FULL)
  test('200 payments by a desk that is killed at 50 moments: each is there once, or clearly not', async () => {
    const payments = await prepared(200);
    let left = payments;
    // The same moments each time: some before the first press, most in the middle of one.
    for (let kills = 0; kills < 50; kills += 1) {
      const desk = press(left);
      await new Promise((resolve) => setTimeout(resolve, 900 + ((kills * 373) % 1600)));
      desk.child.kill('SIGKILL');
      await desk.ended;
      // What was under way is pressed again, under its key, as a person would.
      left = left.filter(({ key }) => !desk.answered.has(key));
      if (kills % 10 === 9) await settleUnclear(t.context, 0);
    }
    const rest = press(left);
    expect(await rest.ended).toBe(0);
    await onceOrNot(payments);
  }, 1_200_000);
