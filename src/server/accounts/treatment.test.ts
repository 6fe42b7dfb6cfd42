/**
 * Planned treatment: options beside each other, what they would cost, what was handed over and came true. Worked by hand: a crown of
 * 1,340.00 and a visit of 145.00, of which the contract allows 98.00.
 */
import { addDays, calendarDate } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, household } from '../../testing/desk';
import { usesExpected } from '../estimates/read';
import { completeCharge, enterCharge } from './charges';
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
  expect(much!.lines[1]!.reached).toEqual([expect.stringMatching(/2 services a year/)]);
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
