/**
 * Planned treatment: options beside each other, what they would cost, what was handed over and came true. Worked by hand: a crown of
 * 1,340.00 and a visit of 145.00, of which the contract allows 98.00.
 */
import fc from 'fast-check';
import { addDays, calendarDate } from '../../core/calendar';
import { cents, toDecimal } from '../../core/money';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, household, anotherMember } from '../../testing/desk';
import { runs } from '../../testing/runs';
import { readAccount } from '../account-page/read';
import { readList } from '../lists/read';
import { takeReceipt } from '../payments/take';
import { weighHouseholds } from '../statements/choosing';
import { prepareStatement } from '../statements/prepare';
import { seeAbove } from './above';
import { setConfidential } from './confidential';
import { previewVisit } from './visits';
import { usesExpected } from '../estimates/read';
import { completeCharge, enterCharge, voidCharge } from './charges';
import {
  addOption,
  chooseOption,
  giveEstimate,
  keepNotice,
  placePlanned,
  readEstimatePaper,
  readTreatment,
  signEstimate,
} from './treatment';
import { sayOwnRule } from '../estimates/terms';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `treatment-test-${(serial += 1)}`;
const plan = (patientId: number, fee = '145.00', more: object = {}) =>
  enterCharge(t.context, {
    patientId,
    providerId: t.providers.family!,
    serviceDate: addDays(TODAY, 20),
    code: '99213',
    fee,
    planned: true,
    key: key(),
    ...more,
  });
const give = (caseId: number, more: object = {}) =>
  giveEstimate(t.context, { caseId, validUntil: addDays(TODAY, 90), key: key(), ...more });

test('ways of treating stand beside each other, each with its own sums; of what is not chosen nothing is spoken for', async () => {
  const { patientId, caseId } = await household(t);
  const { id: coverageId } = await t.db
    .selectFrom('covered')
    .select('id')
    .where('patient_id', '=', patientId)
    .executeTakeFirstOrThrow();
  await sayOwnRule(t.context, {
    coverageId,
    table: 'limits',
    values: {
      category: '',
      codes: '',
      valid_from: '',
      quantity: '2',
      measure: 'services',
      holder: 'person',
      every: 'year',
      months: '',
      anchor: '',
      then_pays: 'patient',
      warning: 'none',
    },
  });
  const always = await plan(patientId);
  const [one, two, three] = [
    await plan(patientId, '100.00'),
    await plan(patientId, '200.00'),
    await plan(patientId, '300.00'),
  ];
  const [small, large] = [
    await addOption(t.context, { caseId, name: 'Small' }),
    await addOption(t.context, { caseId, name: 'Large' }),
  ];
  await placePlanned(t.context, { chargeIds: [one], optionId: small, phase: 1 });
  await placePlanned(t.context, { chargeIds: [two, three], optionId: large, phase: 2 });
  const { treatments } = await readTreatment(t.context, caseId);
  expect(
    treatments.map(({ name, chosen, lines }) => [name, chosen, lines.map(({ chargeId }) => chargeId)]),
  ).toEqual([
    ['In any case', true, [always]],
    ['Small', true, [one]],
    ['Large', true, [two, three]],
  ]);
  const [, little, much] = treatments;
  expect([little!.totals.fee, much!.totals.fee]).toEqual([10000, 50000]);
  for (const { totals } of treatments)
    expect(totals.writeOff + totals.payers + totals.patient).toBe(totals.fee);
  // Of two services a year the third is beyond: with what is needed in any case, the second one of the large way.
  expect(little!.lines.map(({ reached }) => reached)).toEqual([[]]);
  expect(much!.lines[1]!.reached).toEqual([expect.stringMatching(/^With it 2 services a year/)]);
  expect(much!.lines[1]!.patient).toBeGreaterThan(0);
  const spoken = async () =>
    ((await usesExpected(t.db, [caseId])).get(coverageId) ?? [])
      .filter(({ rule }) => rule.includes('services'))
      .reduce((all, { quantity }) => all + quantity, 0);
  const before = await spoken();
  expect(before).toBe(2);
  await chooseOption(t.context, { optionId: large, chosen: false });
  expect(await spoken()).toBe(Math.min(before, 2));
  await chooseOption(t.context, { optionId: small, chosen: false });
  expect(await spoken()).toBe(1);
});

test('handed over it is kept as it was said; done, it shows what it came to; signed once', async () => {
  const { patientId, caseId } = await household(t);
  const chargeId = await plan(patientId);
  const id = await give(caseId, { bookedFor: addDays(TODAY, 20) });
  const [given] = (await readTreatment(t.context, caseId)).given;
  expect(given).toMatchObject({
    id,
    kind: 'insured',
    dueOn: null,
    services: 1,
    done: 0,
    came: { patient: 0, payers: 0 },
    above: [],
  });
  const { name, bytes } = await readEstimatePaper(t.context, id);
  expect([name, bytes.subarray(0, 5).toString()]).toEqual([`estimate-${given!.number}.pdf`, '%PDF-']);
  await completeCharge(t.context, { chargeId, serviceDate: TODAY });
  const after = (await readTreatment(t.context, caseId)).given[0]!;
  expect([after.done, after.said.patient + after.said.payers]).toEqual([1, 14500 - 4700]);
  await signEstimate(t.context, { estimateId: id, by: 'Nr Tester', on: TODAY });
  await expect(signEstimate(t.context, { estimateId: id, by: 'Nr Tester', on: TODAY })).rejects.toThrow(
    /was signed on/,
  );
  // What was handed over stays: of its row only the signature is written, and its lines never.
  await expect(
    t.db
      .updateTable('treatment_estimate')
      .set({ amount: 0 as never })
      .where('id', '=', id)
      .execute(),
  ).rejects.toThrow(/permission denied/);
});

test('property: what is handed over adds up line by line, and what is done as it was planned comes true', async () => {
  const line = fc.record({
    fee: fc.integer({ min: 0, max: 60_000 }),
    tax: fc.integer({ min: 0, max: 900 }),
    done: fc.boolean(),
  });
  await fc.assert(
    fc.asyncProperty(fc.boolean(), fc.array(line, { minLength: 1, maxLength: 4 }), async (insured, lines) => {
      const { patientId, caseId, householdId } = await household(t, insured);
      const made: number[] = [];
      for (const { fee, tax } of lines)
        made.push(await plan(patientId, toDecimal(cents(fee)), { tax: toDecimal(cents(tax)), sure: true }));
      const estimateId = await give(caseId);
      const rows = await t.db
        .selectFrom('treatment_estimate_line')
        .selectAll()
        .where('estimate_id', '=', estimateId)
        .orderBy('charge_id')
        .execute();
      expect(rows.map(({ fee }) => fee)).toEqual(lines.map(({ fee, tax }) => fee + tax));
      for (const row of rows) expect(row.write_off + row.payers + row.patient).toBe(row.fee);
      for (const [at, { done }] of lines.entries())
        if (done) await completeCharge(t.context, { chargeId: made[at]!, serviceDate: TODAY, sure: true });
      const [given] = (await readTreatment(t.context, caseId)).given;
      expect(given).toMatchObject({
        amount: rows.reduce((all, { patient }) => all + patient, 0),
        services: lines.length,
        done: lines.filter(({ done }) => done).length,
      });
      if (insured) return;
      expect(given!.came).toEqual(given!.said);
      const { withPatient } = (await readAccount(t.context, householdId)).figures;
      expect(given!.came.patient).toBe(withPatient);
    }),
    { numRuns: runs(8) },
  );
});

test('without insurance it is a good faith estimate, with its day; 400.00 above it is said before the bill', async () => {
  const { patientId, caseId } = await household(t, false);
  const chargeId = await plan(patientId, '100.00');
  // Asked on a Monday for two weeks later: three business days to give it.
  await give(caseId, { bookedFor: addDays(TODAY, 14) });
  const [given] = (await readTreatment(t.context, caseId)).given;
  expect(given).toMatchObject({
    kind: 'good-faith',
    dueOn: calendarDate('2026-03-19'),
    amount: 10000,
    above: [],
  });
  await completeCharge(t.context, { chargeId, serviceDate: TODAY });
  expect((await readTreatment(t.context, caseId)).given[0]!.above).toEqual([]);
  const { changeCharge } = await import('../claims/fix');
  await changeCharge(t.context, { chargeId, fee: '499.99' });
  expect((await readTreatment(t.context, caseId)).given[0]!.above).toEqual([]);
  await changeCharge(t.context, { chargeId, fee: '500.00' });
  expect((await readTreatment(t.context, caseId)).given[0]!.above).toEqual([
    expect.stringMatching(/: 400.00 more than was said$/),
  ]);
});

describe('above a good faith estimate', () => {
  /** Planned for 100.00, done for so much. */
  async function charged(fee: string) {
    const made = await household(t, false);
    const chargeId = await plan(made.patientId, '100.00');
    const estimateId = await give(made.caseId, { bookedFor: addDays(TODAY, 14) });
    await completeCharge(t.context, { chargeId, serviceDate: TODAY });
    const { changeCharge } = await import('../claims/fix');
    await changeCharge(t.context, { chargeId, fee });
    return { ...made, chargeId, estimateId };
  }
  const weighed = async (householdId: number) =>
    (await weighHouseholds(t.context, { rows: [] }, [householdId])).weighed.map(
      ({ facts, in: isIn, reasons }) => [facts.patientId, isIn ? 'in' : reasons.map(({ id }) => id).join()],
    );
  const seen = (estimateId: number, why = 'another filling was needed, as told') =>
    seeAbove(t.context, { estimateId, why });

  test('by 400.00 keeps statements back until somebody has looked, and again for more', async () => {
    const under = await charged('499.99');
    expect(await weighed(under.householdId)).toEqual([[null, 'in']]);
    await expect(seen(under.estimateId)).rejects.toThrow(/Nothing is charged/);
    const { householdId, patientId, chargeId, estimateId, caseId } = await charged('500.00');
    expect(await weighed(householdId)).toEqual([[null, 'above-estimate']]);
    expect((await readTreatment(t.context, caseId)).given[0]).toMatchObject({ unseen: true });
    // At the desk it is said before it is handed over.
    const handOver = (sure: boolean) =>
      prepareStatement(t.context, { householdId, sure, key: `${key()}-hand` });
    await expect(handOver(false)).rejects.toMatchObject({ code: 'doubtful' });
    await expect(seeAbove(t.as('front-desk'), { estimateId, why: 'x' })).rejects.toThrow(/may not/);
    await seen(estimateId);
    await expect(seen(estimateId)).rejects.toThrow(/looked at already/);
    expect(await weighed(householdId)).toEqual([[null, 'in']]);
    expect((await readTreatment(t.context, caseId)).given[0]).toMatchObject({
      unseen: false,
      seenWhy: 'another filling was needed, as told',
    });
    expect(await handOver(false)).toBeGreaterThan(0);
    // What the same provider did besides, on the same day, was not in it either.
    await enterCharge(t.context, {
      patientId,
      providerId: t.providers.family!,
      serviceDate: TODAY,
      code: '80053',
      fee: '0.01',
      key: key(),
    });
    expect(await weighed(householdId)).toEqual([[null, 'above-estimate']]);
    // Put right, it is no more than somebody has looked at.
    const { changeCharge } = await import('../claims/fix');
    await changeCharge(t.context, { chargeId, fee: '499.99' });
    expect(await weighed(householdId)).toEqual([[null, 'in']]);
  });

  test('of several estimates the last is what was said, and the one that is exceeded', async () => {
    const { householdId, patientId, caseId } = await household(t, false);
    const chargeId = await plan(patientId, '100.00');
    await give(caseId, { bookedFor: addDays(TODAY, 20) });
    const more = await plan(patientId, '600.00', { code: '80053' });
    await give(caseId, { bookedFor: addDays(TODAY, 20) });
    for (const id of [chargeId, more])
      await completeCharge(t.context, { chargeId: id, serviceDate: TODAY, sure: true });
    expect(await weighed(householdId)).toEqual([[null, 'in']]);
    await enterCharge(t.context, {
      patientId,
      providerId: t.providers.family!,
      serviceDate: TODAY,
      code: '87880',
      fee: '400.00',
      key: key(),
    });
    const [now] = (await weighHouseholds(t.context, { rows: [] }, [householdId])).weighed;
    const [last] = (await readTreatment(t.context, caseId)).given;
    expect(now!.facts.aboveEstimate).toEqual([expect.stringContaining(`${last!.number}, `)]);
  });

  test('of a person with an address apart it keeps back that person’s statements alone', async () => {
    const { householdId, patientId } = await charged('900.00');
    const other = await anotherMember(t, householdId);
    await enterCharge(t.context, {
      patientId: other.patientId,
      providerId: t.providers.family!,
      serviceDate: TODAY,
      code: '99213',
      fee: '80.00',
      key: key(),
    });
    await setConfidential(t.context, {
      patientId,
      name: 'Elsewhere',
      line1: '1 Way',
      city: 'Town',
      state: 'WA',
      zip: '98000',
      why: 'asked',
    });
    expect(await weighed(householdId)).toEqual([
      [null, 'in'],
      [patientId, 'above-estimate'],
    ]);
  });

  test('where nothing of it is owed any more nothing is kept back', async () => {
    const { householdId } = await charged('500.00');
    await takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'cash', amount: '500.00' }],
      key: key(),
    });
    expect(await weighed(householdId)).toEqual([[null, 'nothing-due']]);
  });
});

test('an estimate is given anew when what is planned is another, one business day before at the latest', async () => {
  const { patientId, caseId } = await household(t, false);
  await plan(patientId, '100.00');
  // Booked for Monday, 6 April: the business day before is Friday, 3 April.
  await give(caseId, { bookedFor: calendarDate('2026-04-06') });
  const anew = async () => (await readTreatment(t.context, caseId)).given.map(({ anewBy }) => anewBy);
  const listed = async () => {
    const { rows } = await readList(t.context, 'estimates', { view: 'anew' });
    return rows.filter((row) => row.caseId === caseId).length;
  };
  expect(await anew()).toEqual([null]);
  const more = await plan(patientId, '50.00', { code: '80053' });
  expect(await anew()).toEqual(['2026-04-03']);
  expect(await listed()).toBe(1);
  // Given anew it is right again; what is taken back makes it wrong, and so does what is put back.
  await give(caseId, { bookedFor: calendarDate('2026-04-06') });
  expect(await anew()).toEqual([null, null]);
  await voidCharge(t.context, { chargeId: more, why: 'not wanted' });
  expect(await anew()).toEqual(['2026-04-03', null]);
  expect(await listed()).toBe(1);
  // Of a way of treating that is not chosen it says nothing.
  const other = await household(t, false);
  await plan(other.patientId, '100.00');
  await give(other.caseId, { bookedFor: addDays(TODAY, 20) });
  const optionId = await addOption(t.context, { caseId: other.caseId, name: 'Another' });
  const planned = await plan(other.patientId, '70.00', { code: '80053' });
  await placePlanned(t.context, { chargeIds: [planned], optionId, phase: 1 });
  await chooseOption(t.context, { optionId, chosen: false });
  expect((await readTreatment(t.context, other.caseId)).given[0]!.anewBy).toBeNull();
  await chooseOption(t.context, { optionId, chosen: true });
  expect((await readTreatment(t.context, other.caseId)).given[0]!.anewBy).not.toBeNull();
});

test('an advance notice puts its modifier on what is done after it was signed, for its case and code', async () => {
  const { patientId, caseId } = await household(t);
  const modifiersOf = async (id: number) =>
    (await t.db.selectFrom('charge').select('modifiers').where('id', '=', id).executeTakeFirstOrThrow())
      .modifiers;
  const enter = (more: object = {}) =>
    enterCharge(t.context, {
      patientId,
      providerId: t.providers.family!,
      serviceDate: TODAY,
      code: '99213',
      fee: '145.00',
      sure: true,
      key: key(),
      ...more,
    });
  const planned = await plan(patientId);
  await keepNotice(t.context, {
    caseId,
    code: '99213',
    why: 'once a year is covered',
    price: '145.00',
    modifier: 'GA',
    signedOn: addDays(TODAY, -1),
    key: key(),
  });
  expect(await modifiersOf(await enter())).toEqual(['GA']);
  expect(await modifiersOf(await enter({ modifiers: ['25'] }))).toEqual(['25', 'GA']);
  // Another was typed, there is no room, it was done before it was signed, no insurer learns of it, another code.
  expect(await modifiersOf(await enter({ modifiers: ['GZ'] }))).toEqual(['GZ']);
  expect(await modifiersOf(await enter({ modifiers: ['25', 'GP', '59', 'LT'] }))).toEqual([
    '25',
    'GP',
    '59',
    'LT',
  ]);
  expect(await modifiersOf(await enter({ serviceDate: addDays(TODAY, -2) }))).toEqual([]);
  expect(await modifiersOf(await enter({ keptFromPayers: true }))).toEqual([]);
  expect(await modifiersOf(await enter({ code: '80053', fee: '42.00' }))).toEqual([]);
  await completeCharge(t.context, { chargeId: planned, serviceDate: TODAY, sure: true });
  expect(await modifiersOf(planned)).toEqual(['GA']);
  const [line] = await previewVisit(t.context, {
    patientId,
    providerId: t.providers.family!,
    serviceDate: TODAY,
    lines: [{ code: '99213', fee: '145.00' }],
  });
  expect(line).toMatchObject({ notice: 'GA' });
});

test('what cannot be: nothing planned, a day that is over, another case, a signature before it was made', async () => {
  const { patientId, caseId } = await household(t);
  await expect(give(caseId)).rejects.toThrow(/Nothing is planned/);
  const chargeId = await plan(patientId);
  await expect(give(caseId, { validUntil: addDays(TODAY, -1) })).rejects.toMatchObject({
    field: 'validUntil',
  });
  await expect(give(caseId, { bookedFor: addDays(TODAY, -1) })).rejects.toMatchObject({ field: 'bookedFor' });
  const other = await household(t);
  const elsewhere = await addOption(t.context, { caseId: other.caseId, name: 'Elsewhere' });
  await expect(
    placePlanned(t.context, { chargeIds: [chargeId], optionId: elsewhere, phase: 1 }),
  ).rejects.toMatchObject({
    field: 'optionId',
  });
  const theirs = await plan(other.patientId);
  await expect(
    placePlanned(t.context, { chargeIds: [chargeId, theirs], optionId: null, phase: 1 }),
  ).rejects.toThrow(/not of one case/);
  await expect(give(caseId, { optionId: elsewhere })).rejects.toThrow(/not of that case/);
  await expect(addOption(t.context, { caseId: other.caseId, name: 'Elsewhere' })).rejects.toMatchObject({
    field: 'name',
  });
  const id = await give(caseId);
  await expect(
    signEstimate(t.context, { estimateId: id, by: 'x', on: addDays(TODAY, -1) }),
  ).rejects.toMatchObject({
    field: 'on',
  });
  await completeCharge(t.context, { chargeId, serviceDate: TODAY });
  await expect(placePlanned(t.context, { chargeIds: [chargeId], optionId: null, phase: 2 })).rejects.toThrow(
    /Only what is planned/,
  );
  await expect(addOption(t.as('front-desk'), { caseId, name: 'x' })).rejects.toThrow(/may not/);
});

test('an advance notice names service, reason and price, and is signed where its modifier says so', async () => {
  const { caseId } = await household(t);
  const keep = (more: object) =>
    keepNotice(t.context, {
      caseId,
      code: '99213',
      why: 'once a year is covered',
      price: '145.00',
      modifier: 'GA',
      signedOn: TODAY,
      key: key(),
      ...more,
    });
  await keep({});
  expect((await readTreatment(t.context, caseId)).notices).toMatchObject([
    { code: '99213', modifier: 'GA', signedOn: TODAY, price: 14500 },
  ]);
  for (const [field, more] of [
    ['signedOn', { signedOn: '' }],
    ['signedOn', { modifier: 'GY' }],
    ['signedOn', { signedOn: addDays(TODAY, 1) }],
    ['code', { code: 'NONE1' }],
    ['price', { price: '0.00' }],
    ['why', { why: '' }],
  ] as const)
    await expect(keep(more)).rejects.toMatchObject({ field });
  await keep({ modifier: 'GY', signedOn: '' });
  expect((await readTreatment(t.context, caseId)).notices).toHaveLength(2);
});
