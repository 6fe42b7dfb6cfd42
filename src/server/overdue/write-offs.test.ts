/** What is written off of patients, over whole histories: small balances and hardship, with payments and taking back between them. */
import fc from 'fast-check';
import { addDays } from '../../core/calendar';
import { type TestDatabase, TODAY, testDatabase } from '../../testing/database';
import { charge, household } from '../../testing/desk';
import { checkBooks } from '../books/check';
import { takeReceipt } from '../payments/take';
import { askHardship, decideHardship, readHardships } from './hardship';
import { undoWriteOff } from '../follow-ups/undo';
import { writeOffSmall } from './small';
import { runs } from '../../testing/runs';

let t: TestDatabase;
beforeAll(async () => {
  t = await testDatabase();
});
afterAll(async () => {
  for (const { id, faults } of await checkBooks(t.db)) expect({ id, faults }).toEqual({ id, faults: [] });
  await t.close();
});

let serial = 0;
const key = (): string => `write-offs-test-${(serial += 1)}`;
const dollars = (amount: number): string => (amount / 100).toFixed(2);

/** A charge as a schoolchild would keep it: what is owed of it, and how many days ago it was made. */
interface Kept {
  id: number;
  owed: number;
  ago: number;
}
const total = (charges: readonly Kept[]): number => charges.reduce((all, { owed }) => all + owed, 0);
/** Takes an amount off the oldest first. @returns what was taken of each */
function takeOff(charges: readonly Kept[], amount: number): Map<number, number> {
  const taken = new Map<number, number>();
  let rest = amount;
  for (const one of [...charges].sort((a, b) => b.ago - a.ago || a.id - b.id)) {
    const part = Math.min(rest, one.owed);
    one.owed -= part;
    rest -= part;
    if (part > 0) taken.set(one.id, part);
  }
  return taken;
}
/** The made-up level of two persons, and what comes off up to which percent of it. */
const LEVEL = 2_110_000;
const percentOff = (income: number): number =>
  income * 100 <= LEVEL * 100 ? 100 : income * 100 <= LEVEL * 150 ? 75 : income * 100 <= LEVEL * 200 ? 50 : 0;

const step = fc.oneof(
  fc.record({
    what: fc.constant('charge' as const),
    n: fc.integer({ min: 1, max: 3000 }),
    ago: fc.integer({ min: 40, max: 90 }),
  }),
  fc.record({ what: fc.constant('pay' as const), n: fc.integer({ min: 1, max: 100 }), ago: fc.constant(0) }),
  fc.record({ what: fc.constant('small' as const), n: fc.constant(0), ago: fc.constant(0) }),
  fc.record({
    what: fc.constant('hardship' as const),
    n: fc.integer({ min: 0, max: 6_000_000 }),
    ago: fc.constant(0),
  }),
  fc.record({ what: fc.constant('undo' as const), n: fc.nat(5), ago: fc.constant(0) }),
);

test('property: what comes off is what the tables say, oldest first, and comes back to the cent', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 3, maxLength: 14 }), async (steps) => {
      const { householdId, patientId } = await household(t, false, { sure: true });
      const charges: Kept[] = [];
      const offs: { entryId: number; taken: Map<number, number> }[] = [];
      /** The newest write-off of the household, as the books have it. */
      const noted = async (taken: Map<number, number>): Promise<void> => {
        const { id } = await t.db
          .selectFrom('entry as e')
          .innerJoin('posting as p', 'p.entry_id', 'e.id')
          .select('e.id')
          .where('p.household_id', '=', householdId)
          .where('e.kind', '=', 'write-off')
          .orderBy('e.id', 'desc')
          .executeTakeFirstOrThrow();
        offs.push({ entryId: id, taken });
      };
      for (const { what, n, ago } of steps) {
        if (what === 'charge') {
          const day = addDays(TODAY, -ago);
          const id = await charge(t, { ...t.context, today: day }, patientId, dollars(n), '99213', day);
          charges.push({ id, owed: n, ago });
        } else if (what === 'pay') {
          const amount = Math.ceil((total(charges) * n) / 100);
          if (amount === 0) continue;
          await takeReceipt(t.context, {
            householdId,
            tenders: [{ tender: 'cash', amount: dollars(amount) }],
            key: key(),
          });
          takeOff(charges, amount);
        } else if (what === 'small') {
          const owed = total(charges);
          const oldest = Math.max(0, ...charges.filter((one) => one.owed > 0).map((one) => one.ago));
          const press = writeOffSmall(t.context, { householdIds: [householdId], key: key() });
          if (owed > 0 && owed < 1000 && oldest >= 60) {
            expect(await press).toEqual({ count: 1, amount: owed });
            await noted(takeOff(charges, owed));
          } else await expect(press).rejects.toThrow(/None of these/);
        } else if (what === 'hardship') {
          const owed = total(charges);
          const ask = askHardship(t.context, {
            householdId,
            size: '2',
            income: dollars(n),
            evidence: 'pay slips',
            key: key(),
          });
          if (owed === 0) {
            await expect(ask).rejects.toThrow(/owes nothing/);
            continue;
          }
          const hardshipId = await ask;
          const off = Math.round((owed * percentOff(n)) / 100);
          expect((await readHardships(t.context, householdId))[0]).toMatchObject({
            amount: off,
            status: 'asked',
          });
          const decide = decideHardship(t.context, { hardshipId, approve: true, why: '' });
          if (off === 0) {
            await expect(decide).rejects.toThrow(/Nothing would come off/);
            await decideHardship(t.context, { hardshipId, approve: false, why: 'earns enough' });
          } else {
            expect(await decide).toBe(off);
            await noted(takeOff(charges, off));
          }
        } else if (offs.length > 0) {
          const [{ entryId, taken }] = offs.splice(n % offs.length, 1) as [(typeof offs)[0]];
          await undoWriteOff(t.context, { entryId, why: 'a mistake' });
          for (const one of charges) one.owed += taken.get(one.id) ?? 0;
        }
        const kept = await t.db
          .selectFrom('charge_balance as b')
          .innerJoin('charge as c', 'c.id', 'b.charge_id')
          .select(['c.id', 'b.with_patient as owed'])
          .where('c.household_id', '=', householdId)
          .orderBy('c.id')
          .execute();
        expect(kept).toEqual(charges.map(({ id, owed }) => ({ id, owed })));
      }
    }),
    { numRuns: runs(25) },
  );
});

test('another amount than was on the button is asked about, and nothing happens meanwhile', async () => {
  const day = addDays(TODAY, -90);
  const made = await household(t, false, { sure: true });
  await charge(t, { ...t.context, today: day }, made.patientId, '8.00', '99213', day);
  const { householdId } = made;
  const off = async (): Promise<number> =>
    (
      await t.db
        .selectFrom('household_balance')
        .select('with_patient')
        .where('household_id', '=', householdId)
        .executeTakeFirstOrThrow()
    ).with_patient;
  const hardshipId = await askHardship(t.context, {
    householdId,
    size: '2',
    income: '25000.00',
    evidence: 'pay slips',
    key: key(),
  });
  await takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount: '2.00' }], key: key() });
  const approve = { hardshipId, approve: true, why: '', seen: 600 };
  await expect(decideHardship(t.context, approve)).rejects.toThrow('It is 4.50 now, not 6.00');
  expect(await off()).toBe(600);
  const small = { householdIds: [householdId], seen: 800, key: key() };
  await expect(writeOffSmall(t.context, small)).rejects.toThrow('It is 6.00 now, not 8.00');
  expect(await off()).toBe(600);
  expect(await decideHardship(t.context, { ...approve, sure: true })).toBe(450);
  expect(await writeOffSmall(t.context, { ...small, seen: 150 })).toEqual({ count: 1, amount: 150 });
  expect(await off()).toBe(0);
});
