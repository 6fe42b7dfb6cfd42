/** What to ask for at the front: copay, planned services of the day, what is owed less credit; nothing of whom a coverage spares. */
import fc from 'fast-check';
import { addDays } from '../../core/calendar';
import { cents, toDecimal } from '../../core/money';
import { runs } from '../../testing/runs';
import { readAccount } from '../account-page/read';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household, anotherMember } from '../../testing/desk';
import { accountPaper } from '../account-page/paper';
import { takeReceipt } from '../payments/take';
import { cancelVisit, expectVisit } from '../payments/visits';
import { openCase } from './cases';
import { chargeAccount, enterCharge } from './charges';
import { collectToday } from './collect';
import { sayOwnRule } from '../estimates/terms';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `collect-test-${(serial += 1)}`;
const coverageOf = async (patientId: number) =>
  (
    await t.db
      .selectFrom('covered')
      .select('id')
      .where('patient_id', '=', patientId)
      .executeTakeFirstOrThrow()
  ).id;
const copay = async (patientId: number) =>
  sayOwnRule(t.context, {
    coverageId: await coverageOf(patientId),
    table: 'copays',
    values: {
      category: '',
      codes: '',
      valid_from: '',
      amount: '25.00',
      counted_for: 'visit',
      copay_order: 'instead',
    },
  });

test('without insurance what is owed is asked for, less the credit that stands against it', async () => {
  const { householdId, patientId } = await household(t, false);
  await charge(t, t.context, patientId, '80.00');
  const [one] = await collectToday(t.context, householdId);
  expect(one).toMatchObject({ parts: [{ words: 'owed', amount: 8000 }], total: 8000, why: '' });
  await takeReceipt(t.context, {
    householdId,
    tenders: [{ tender: 'cash', amount: '50.00' }],
    parts: {},
    key: key(),
  });
  expect((await collectToday(t.context, householdId))[0]!.total).toBe(3000);
  // What is nobody’s stands by itself.
  await chargeAccount(t.context, {
    householdId,
    kind: 'late',
    amount: '5.00',
    date: TODAY,
    memo: '',
    key: key(),
  });
  expect((await collectToday(t.context, householdId)).at(-1)).toMatchObject({
    name: 'On the account',
    total: 500,
  });
});

test('of a visit that is expected what its planned services leave, with the deductible; charged, canceled or with an unknown service it is not guessed at', async () => {
  const asked = async (householdId: number) => (await collectToday(t.context, householdId))[0]!.parts;
  // Nobody insures it: the office fee is the patient's.
  const own = await household(t, false);
  const visit = (patientId: number, ...codes: string[]) =>
    expectVisit(t.context, { patientId, day: TODAY, codes, key: key() });
  const expectedVisitId = await visit(own.patientId, '99213');
  const { rows } = await t.pool.query<{ fee: number }>(
    `select fee_on(office_schedule(null), '99213', $1::date)::integer as fee`,
    [TODAY],
  );
  expect(rows[0]!.fee).toBeGreaterThan(0);
  const words = 'the visit, by its planned services';
  expect(await asked(own.householdId)).toEqual([{ words, amount: rows[0]!.fee }]);
  await cancelVisit(t.context, { expectedVisitId, why: 'called' });
  expect(await asked(own.householdId)).toEqual([]);
  await visit(own.patientId, '99213');
  await charge(t, t.context, own.patientId, '80.00');
  expect(await asked(own.householdId)).toEqual([{ words: 'owed', amount: 8000 }]);
  // Insured: what the copay leaves; a service that we do not know is not guessed at.
  const insured = await household(t);
  await copay(insured.patientId);
  await visit(insured.patientId, '99213');
  expect(await asked(insured.householdId)).toEqual([{ words, amount: 2500 }]);
  const unknown = await household(t, false);
  await visit(unknown.patientId, '99213', '00000');
  expect(await asked(unknown.householdId)).toEqual([]);
});

test('of a visit its copay; where services are planned for today, what they are expected to leave', async () => {
  const { householdId, patientId } = await household(t);
  await copay(patientId);
  expect((await collectToday(t.context, householdId))[0]!.parts).toEqual([
    { words: 'copay of a visit', amount: 2500 },
  ]);
  const plan = (date: typeof TODAY) =>
    enterCharge(t.context, {
      patientId,
      providerId: t.providers.family,
      serviceDate: date,
      code: '99213',
      planned: true,
      key: key(),
    });
  await plan(addDays(TODAY, 1));
  expect((await collectToday(t.context, householdId))[0]!.parts[0]!.words).toBe('copay of a visit');
  await plan(TODAY);
  const [one] = await collectToday(t.context, householdId);
  expect(one!.parts).toEqual([{ words: 'planned services of today', amount: 2500 }]);
});

test('a copay that was paid already is not asked for again, and of another case its own insurer says what', async () => {
  const { householdId, patientId } = await household(t);
  await copay(patientId);
  const asked = async (caseId?: number) => (await collectToday(t.context, householdId, caseId))[0]!;
  await takeReceipt(t.context, {
    householdId,
    tenders: [{ tender: 'cash', amount: '10.00' }],
    parts: {},
    key: key(),
  });
  expect(await asked()).toMatchObject({
    parts: [
      { words: 'copay of a visit', amount: 2500 },
      { words: 'on account already', amount: -1000 },
    ],
    total: 1500,
  });
  await takeReceipt(t.context, {
    householdId,
    tenders: [{ tender: 'cash', amount: '40.00' }],
    parts: {},
    key: key(),
  });
  expect((await asked()).total).toBe(0);
  const caseId = await openCase(t.context, { patientId, name: 'Accident', kind: 'car', key: key() });
  expect(await asked(caseId)).toMatchObject({ parts: [], total: 0 });
});

test.each([
  ['never', 'medicaid', 0, 'nothing: Medicaid, '],
  ['never', 'qmb', 0, 'nothing: Qualified Medicare beneficiary, '],
  ['never', 'injury', 0, 'nothing: Accepted injury claim, '],
  ['copay-only', 'contract', 2500, 'of services the copay alone: The plan’s contract, '],
] as const)(
  'billed %s, for %s, at most that is asked for',
  async (bill_patient, bill_patient_why, total, why) => {
    const { householdId, patientId } = await household(t);
    await copay(patientId);
    await t.db
      .updateTable('coverage')
      .set({ bill_patient, bill_patient_why })
      .where('id', '=', await coverageOf(patientId))
      .execute();
    await enterCharge(t.context, {
      patientId,
      providerId: t.providers.family,
      serviceDate: TODAY,
      code: '99213',
      planned: true,
      key: key(),
    });
    const [one] = await collectToday(t.context, householdId);
    expect(one!.total).toBe(total);
    expect(one!.why.startsWith(why)).toBe(true);
  },
);

test('it is printed, a line for each, and of one person alone', async () => {
  const { householdId, patientId } = await household(t, false);
  await charge(t, t.context, patientId, '80.00');
  for (const more of [{}, { patientId }]) {
    const { bytes } = await accountPaper(t.context, { householdId, what: 'collect', ...more });
    expect(bytes.subarray(0, 5).toString()).toBe('%PDF-');
  }
});

test('property: without insurers it asks of all together for what is owed less credit, of nobody below zero, each sum from its parts', async () => {
  const step = fc.record({
    what: fc.constantFrom('first', 'second', 'late', 'money', 'earmarked'),
    amount: fc.integer({ min: 1, max: 30_000 }),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 7 }), async (steps) => {
      const { householdId, patientId } = await household(t, false);
      const other = await anotherMember(t, householdId);
      for (const { what, amount } of steps) {
        const words = toDecimal(cents(amount));
        if (what === 'late')
          await chargeAccount(t.context, {
            householdId,
            kind: 'late',
            amount: words,
            date: TODAY,
            memo: '',
            key: key(),
          });
        else if (what === 'money' || what === 'earmarked')
          await takeReceipt(t.context, {
            householdId,
            tenders: [{ tender: 'cash', amount: words }],

            ...(what === 'money' ? {} : { parts: {} }),
            key: key(),
          });
        else await charge(t, t.context, what === 'first' ? patientId : other.patientId, words);
      }
      const asked = await collectToday(t.context, householdId);
      for (const { parts, total } of asked) {
        expect(total).toBe(parts.reduce((all, { amount }) => all + amount, 0));
        expect(total).toBeGreaterThanOrEqual(0);
      }
      const { withPatient, credit } = (await readAccount(t.context, householdId)).figures;
      expect(asked.reduce((all, { total }) => all + total, 0)).toBe(Math.max(0, withPatient - credit));
    }),
    { numRuns: runs(10) },
  );
});
