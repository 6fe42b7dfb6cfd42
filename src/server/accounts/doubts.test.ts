/** What is doubtful is shown before it is done: a person looks again, and may mean it. Nothing was changed meanwhile. */
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household } from '../../testing/desk';
import { Doubtful } from '../access';
import { buildClaims } from '../claims/build';
import { changeCharge } from '../claims/fix';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { enterCharge, voidCharge } from './charges';
import { changeCoverage } from './coverage';
import { readChargeEntries } from './ledger';
import { readAccount } from '../account-page/read';
import { addMember, likeHouseholds, registerHousehold } from './register';

const t = fileDatabase();
afterEach(async () => {
  expect(await brokenInvariants(t)).toEqual([]);
});

let serial = 0;
const key = (): string => `doubts-test-${(serial += 1)}`;
const doubtsOf = async (act: Promise<unknown>): Promise<readonly string[]> => {
  const error = await act.then(
    () => null,
    (reason: unknown) => reason,
  );
  if (error instanceof Doubtful) return error.doubts;
  if (error) throw error as Error;
  return [];
};
const visit = (patientId: number, more: Record<string, unknown> = {}) => ({
  patientId,
  providerId: t.providers.family!,
  serviceDate: TODAY as string,
  code: '99213',
  fee: '145.00',
  diagnoses: ['I10'],
  key: key(),
  ...more,
});
const charges = async (householdId: number) => (await readAccount(t.context, householdId)).charges;

describe('a charge', () => {
  test('of the same code on the same day is looked at twice, and then taken', async () => {
    const { householdId, patientId } = await household(t);
    const first = await enterCharge(t.context, visit(patientId));
    const again = visit(patientId);
    expect(await doubtsOf(enterCharge(t.context, again))).toEqual([
      '99213 is entered already for 16 Mar 2026',
    ]);
    expect(await charges(householdId)).toHaveLength(1);
    // The same press, now meant: its key was left free.
    await enterCharge(t.context, { ...again, sure: true });
    expect(await charges(householdId)).toHaveLength(2);
    await voidCharge(t.context, { chargeId: first, why: 'test' });
  });

  test('is not the same with another tooth, for another person, on another day, or after the first is void', async () => {
    const { householdId, patientId } = await household(t);
    const dental = {
      code: 'D2740',
      providerId: t.providers.dental!,
      diagnoses: [],
      fee: '9.00',
    };
    await enterCharge(t.context, visit(patientId, { ...dental, tooth: '3' }));
    expect(await doubtsOf(enterCharge(t.context, visit(patientId, { ...dental, tooth: '4' })))).toEqual([]);
    expect(await doubtsOf(enterCharge(t.context, visit(patientId, { ...dental, tooth: '3' })))).toHaveLength(
      1,
    );
    const other = await addMember(t.context, {
      householdId,
      last: 'Tester',
      first: `Other${serial}`,
      birthDate: '2001-01-01',
      sex: 'M',
      key: key(),
    });
    expect(await doubtsOf(enterCharge(t.context, visit(other.patientId, { ...dental, tooth: '3' })))).toEqual(
      [],
    );
    expect(
      await doubtsOf(
        enterCharge(t.context, visit(patientId, { ...dental, tooth: '3', serviceDate: addDays(TODAY, -1) })),
      ),
    ).toEqual([]);
    const alone = await enterCharge(t.context, visit(patientId));
    await voidCharge(t.context, { chargeId: alone, why: 'test' });
    expect(await doubtsOf(enterCharge(t.context, visit(patientId)))).toEqual([]);
  });

  test.each([
    ['long ago', { serviceDate: addDays(TODAY, -366) }, /more than a year ago/],
    ['at an absurd fee', { fee: '100000.01' }, /The fee is 100.000\.01/],
  ])('%s is looked at again', async (_what, more, words) => {
    const { patientId } = await household(t);
    const [doubt, ...others] = await doubtsOf(enterCharge(t.context, visit(patientId, more)));
    expect(doubt).toMatch(words);
    expect(others).toEqual([]);
  });

  test.each([
    ['just a year ago', { serviceDate: addDays(TODAY, -365) }],
    ['at a fee that is high', { fee: '100000.00' }],
    ['for nothing', { fee: '0.00' }],
  ])('%s is not', async (_what, more) => {
    const { patientId } = await household(t);
    expect(await doubtsOf(enterCharge(t.context, visit(patientId, more)))).toEqual([]);
  });

  test.each([
    ['before the birth', '1979-12-31', /before the birth, 1 Jan 1980/],
    ['in the future', addDays(TODAY, 1), /in the future/],
    ['in 1805', '1805-01-01', /before the birth/],
    ['in the next century', '2105-01-01', /in the future/],
    ['never', '0000-00-00', /not a date/],
  ])('%s is refused, meant or not', async (_what, serviceDate, words) => {
    const { patientId } = await household(t);
    await expect(enterCharge(t.context, visit(patientId, { serviceDate, sure: true }))).rejects.toMatchObject(
      {
        field: 'serviceDate',
        message: expect.stringMatching(words) as string,
      },
    );
  });

  test('on a day without coverage is the patient’s, which is said before', async () => {
    const { householdId, patientId } = await household(t);
    const [coverage] = (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages;
    await changeCoverage(t.context, {
      coverageId: coverage!.id,
      memberId: coverage!.memberId,
      validTo: addDays(TODAY, -1),
    });
    expect(await doubtsOf(enterCharge(t.context, visit(patientId)))).toEqual([
      'No coverage was in force on 16 Mar 2026: the patient would owe it',
    ]);
    await enterCharge(t.context, visit(patientId, { sure: true }));
    expect((await readAccount(t.context, householdId)).figures).toMatchObject({
      withPatient: 14500,
      withPayer: 0,
    });
  });

  test('of somebody who never had coverage is not doubted for it', async () => {
    const { patientId } = await household(t, false);
    expect(await doubtsOf(enterCharge(t.context, visit(patientId)))).toEqual([]);
  });
});

describe('a charge that is put right', () => {
  test('while it is unbilled: units, fee, provider and date go into the books anew', async () => {
    const { householdId, patientId } = await household(t);
    const chargeId = await enterCharge(t.context, visit(patientId));
    const change = { chargeId, diagnoses: ['I10'], modifiers: ['25'] };
    await changeCharge(t.context, { ...change, units: 2, fee: '300.00', serviceDate: addDays(TODAY, -3) });
    const [row] = await charges(householdId);
    expect(row).toMatchObject({
      units: 2,
      fee: 30000,
      withPayer: 30000,
      date: addDays(TODAY, -3),
      modifiers: ['25'],
    });
    const under = await readChargeEntries(t.context, householdId, chargeId);
    expect(under.map((entry) => [entry.kind, entry.undone])).toEqual([
      ['charge', true],
      ['reversal', false],
      ['charge', false],
    ]);
    // And once more: the entry of the second time is undone as well.
    await changeCharge(t.context, { ...change, fee: '10.00' });
    expect((await charges(householdId))[0]).toMatchObject({ fee: 1000, withPayer: 1000, units: 2 });
  });

  test('with other units and no fee typed takes the office fee of so many', async () => {
    const { householdId, patientId } = await household(t);
    const chargeId = await enterCharge(t.context, visit(patientId, { fee: '' }));
    const single = (await charges(householdId))[0]!.fee;
    await changeCharge(t.context, { chargeId, diagnoses: ['I10'], units: 3 });
    expect((await charges(householdId))[0]!.fee).toBe(single * 3);
  });

  test('only in what claims say leaves the books alone', async () => {
    const { householdId, patientId } = await household(t);
    const chargeId = await enterCharge(t.context, visit(patientId));
    await changeCharge(t.context, {
      chargeId,
      diagnoses: ['J06.9'],
      units: 1,
      fee: '145.00',
      serviceDate: TODAY,
    });
    const [row] = await charges(householdId);
    expect(row).toMatchObject({ diagnoses: ['J06.9'] });
    expect(await readChargeEntries(t.context, householdId, chargeId)).toHaveLength(1);
  });

  test('on a claim, after money has moved, before the birth or onto another like it: refused or looked at', async () => {
    const { householdId, patientId } = await household(t);
    const chargeId = await enterCharge(t.context, visit(patientId));
    await expect(changeCharge(t.context, { chargeId, serviceDate: '1970-01-01' })).rejects.toThrow(
      /before the birth/,
    );
    const other = await enterCharge(t.context, visit(patientId, { serviceDate: addDays(TODAY, -1) }));
    expect(await doubtsOf(changeCharge(t.context, { chargeId: other, serviceDate: TODAY }))).toHaveLength(1);
    await buildClaims(t.context, { householdId });
    await expect(changeCharge(t.context, { chargeId, fee: '1.00', diagnoses: ['I10'] })).rejects.toThrow(
      /withdraw that to change/,
    );
    const self = await household(t, false);
    const paid = await enterCharge(t.context, visit(self.patientId));
    await takeReceipt(t.context, {
      householdId: self.householdId,
      tenders: [{ tender: 'cash', amount: '5.00' }],

      key: key(),
    });
    await expect(changeCharge(t.context, { chargeId: paid, fee: '1.00' })).rejects.toThrow(/Money has moved/);
    await voidCharge(t.context, { chargeId: await charge(t, t.context, self.patientId, '1.00'), why: 'x' });
  });
});

describe('a receipt', () => {
  const check = (
    householdId: number,
    {
      amount = '30.00',
      reference = '4711',
      ...more
    }: Record<string, unknown> & { amount?: string; reference?: string } = {},
  ) => ({
    householdId,
    tenders: [{ tender: 'check' as const, amount, reference }],
    key: key(),
    ...more,
  });

  test('of the same check and amount is looked at again, unless the first was reversed', async () => {
    const { householdId } = await household(t, false);
    const { receiptId } = await takeReceipt(t.context, check(householdId));
    expect(await doubtsOf(takeReceipt(t.context, check(householdId)))).toEqual([
      'Check 4711 over 30.00 was taken on 16 Mar 2026 already',
    ]);
    expect(await doubtsOf(takeReceipt(t.context, check(householdId, { amount: '31.00' })))).toEqual([]);
    expect(await doubtsOf(takeReceipt(t.context, check(householdId, { reference: '4712' })))).toEqual([]);
    const stranger = await household(t, false);
    expect(await doubtsOf(takeReceipt(t.context, check(stranger.householdId)))).toEqual([]);
    await reverseReceipt(t.context, { receiptId, why: 'bounced' });
    expect(await doubtsOf(takeReceipt(t.context, check(householdId)))).toEqual([]);
  });

  test('cash of the same amount is just another payment', async () => {
    const { householdId } = await household(t, false);
    for (let n = 0; n < 2; n += 1)
      expect(
        await doubtsOf(
          takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount: '30.00' }], key: key() }),
        ),
      ).toEqual([]);
  });

  test('prepared against an old balance says so before it leaves credit', async () => {
    const { householdId, patientId } = await household(t, false);
    await charge(t, t.context, patientId, '50.00');
    const prepared = check(householdId, { amount: '50.00', owed: 5000 });
    // Meanwhile, in another tab.
    await takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'cash', amount: '20.00' }],
      owed: 5000,
      key: key(),
    });
    expect(await doubtsOf(takeReceipt(t.context, prepared))).toEqual([
      'The balance has changed since this was opened: 30.00 is owed now, not 50.00',
    ]);
    expect((await readAccount(t.context, householdId)).figures).toMatchObject({
      withPatient: 3000,
      credit: 0,
    });
    await takeReceipt(t.context, { ...prepared, sure: true });
    expect((await readAccount(t.context, householdId)).figures).toMatchObject({
      withPatient: 0,
      credit: 2000,
    });
  });
});

describe('a household', () => {
  const person = (more: Record<string, unknown> = {}) => ({
    last: 'Alike',
    first: 'Ada',
    birthDate: '1971-07-17',
    sex: 'F' as const,
    line1: '1 Row',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199',
    phone: '555-0177',
    key: key(),
    ...more,
  });

  test('with a person who is registered already is shown, looked at, and may be meant', async () => {
    const made = await registerHousehold(t.context, person());
    expect(
      await likeHouseholds(t.context, { last: 'ALIKE', first: 'ada', birthDate: '1971-07-17' }),
    ).toMatchObject([{ householdId: made.householdId, name: 'Alike, Ada', same: 'person' }]);
    const again = person();
    expect(await doubtsOf(registerHousehold(t.context, again))).toEqual([
      `Alike, Ada, born 17 Jul 1971, is registered already: ${made.number}`,
    ]);
    await expect(addMember(t.context, { ...person(), householdId: made.householdId })).rejects.toThrow(
      /already/,
    );
    const twin = await registerHousehold(t.context, { ...again, sure: true });
    expect(twin.householdId).not.toBe(made.householdId);
  });

  test('with the same telephone, however it is written, is shown but not doubted', async () => {
    const made = await registerHousehold(t.context, person({ first: 'Phone', phone: '(212) 555-0142' }));
    expect(await likeHouseholds(t.context, { phone: '2125550142' })).toMatchObject([
      { householdId: made.householdId, same: 'phone' },
    ]);
    expect(
      await doubtsOf(registerHousehold(t.context, person({ first: 'Else', phone: '212-555-0142' }))),
    ).toEqual([]);
  });

  test.each([
    ['nothing', {}],
    ['a name alone', { last: 'Alike', first: 'Ada' }],
    ['a birth date that is none', { last: 'Alike', first: 'Ada', birthDate: '1971-13-99' }],
    ['a few digits', { phone: '555' }],
  ])('is not looked for with %s', async (_what, typed) =>
    expect(await likeHouseholds(t.context, typed)).toEqual([]),
  );

  test('a member id without a plan is refused, not dropped', async () => {
    const input = person({ first: `Nobody${serial}`, memberId: 'CSH123' });
    await expect(registerHousehold(t.context, input)).rejects.toMatchObject({ field: 'insurancePlanId' });
  });
});
