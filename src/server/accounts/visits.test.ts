/** A visit entered as one thing: units by time, what a line says, what is wrong at which field, taken back whole. */
import { calendarDate } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, household } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { buildClaims } from '../claims/build';
import { claimText, readClaim } from '../claims/read';
import { takeReceipt } from '../payments/take';
import { changeFees } from '../fees/change';
import { saveSetup } from '../setup/save';
import { enterCharge, voidCharge } from './charges';
import { enterVisit, previewVisit, readLastVisit, readVisit, undoVisit } from './visits';
import { addDiagnosis, addServiceCode, lookedAtCode } from '../setup/added';
import { makeChargeSet, readChargeSets } from '../setup/charge-sets';
import { quickChoices } from '../setup/choices';
import { visitPaper } from '../account-page/visit-paper';
import { LISTS } from '../lists';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `visit-test-${(serial += 1)}`;
/** A code of its own. */
async function code(more: Record<string, string | boolean> = {}): Promise<string> {
  const made = `T${String((serial += 1)).padStart(4, '0')}`;
  await saveSetup(t.context, {
    table: 'services',
    values: {
      code: made,
      description: `Service ${made}`,
      category: 'office',
      form: 'professional',
      active: true,
      ...more,
    },
  });
  return made;
}
const visit = (patientId: number, lines: object[], more: object = {}) =>
  enterVisit(t.context, {
    patientId,
    providerId: t.providers.family,
    serviceDate: TODAY,
    lines: lines as never,
    key: key(),
    ...more,
  });
const timed = (discipline = 'PT') =>
  code({ unit_minutes: '15', discipline, category: 'therapy' }).catch(() =>
    code({ unit_minutes: '15', discipline }),
  );

test('all of its services are entered together, with their fees, words and modifiers', async () => {
  const { householdId, patientId } = await household(t);
  const usual = await code({ modifiers: 'GP' });
  const ids = await visit(
    patientId,
    [
      { code: '99213', diagnoses: ['I10'] },
      { code: '80053', units: 2, fee: '42.00', feeWhy: 'agreed with the patient' },
      { code: usual, fee: '10.00', description: 'Something of our own' },
      { code: usual, fee: '11.00', modifiers: [], units: 3 },
    ].slice(0, 3),
  );
  expect(ids).toHaveLength(3);
  const { charges, figures } = await readAccount(t.context, householdId);
  expect(
    charges.map(({ code: of, fee, units, modifiers, description }) => [
      of,
      fee,
      units,
      modifiers,
      description,
    ]),
  ).toEqual([
    ['99213', 14500, 1, [], expect.any(String)],
    ['80053', 4200, 2, [], expect.any(String)],
    [usual, 1000, 1, ['GP'], 'Something of our own'],
  ]);
  expect(figures.withPayer).toBe(19700);
  const found = await readVisit(t.context, ids[1]!);
  expect(found.lines.map(({ feeWhy }) => feeWhy)).toEqual(['', 'agreed with the patient', '']);
  expect([found.date, found.caseName, found.account]).toEqual([TODAY, '', expect.stringMatching(/^A-/)]);
});

test('one wrong line keeps all of them out, and says at which field of which line', async () => {
  const { householdId, patientId } = await household(t);
  const gone = await code({ active: false });
  const later = await code({ valid_from: '2027-01-01' });
  const over = await code({ valid_to: '2026-03-15' });
  const arch = await code({ form: 'dental', needs_area: 'arch' });
  const good = { code: '99213' };
  for (const [line, field, words] of [
    [{ code: 'NONE1' }, 'code', /not in the list/],
    [{ code: gone }, 'code', /inactive/],
    [{ code: later, fee: '1.00' }, 'code', /valid from 1 Jan 2027/],
    [{ code: over, fee: '1.00' }, 'code', /valid until 15 Mar 2026/],
    [{ code: arch, fee: '1.00' }, 'area', /needs an arch/],
    [{ code: arch, fee: '1.00', area: '10' }, 'area', /upper right quadrant/],
    [{ code: '99213', fee: 'much' }, 'fee', /not an amount/],
    [{ code: '99213', fee: '-1.00' }, 'fee', /below zero/],
    [{ code: over, fee: '' }, 'code', /valid until/],
    [{ code: '99213', minutes: 20 }, 'minutes', /not billed by time/],
  ] as const)
    await expect(visit(patientId, [good, line])).rejects.toMatchObject({
      field: `lines.1.${field}`,
      message: expect.stringMatching(words) as string,
    });
  await expect(visit(patientId, [{ ...good, diagnoses: ['NONE'] }])).rejects.toThrow(/Diagnosis NONE/);
  await expect(visit(patientId, [])).rejects.toThrow(/no service/);
  await expect(visit(patientId, [good], { serviceDate: '1979-12-31' })).rejects.toThrow(/before the birth/);
  await expect(visit(patientId, [good], { serviceDate: '2026-02-30' })).rejects.toMatchObject({
    field: 'serviceDate',
  });
  await expect(visit(patientId, [good], { serviceDate: calendarDate('2026-03-17') })).rejects.toThrow(
    /future/,
  );
  expect((await readAccount(t.context, householdId)).charges).toEqual([]);
});

test('minutes of the day together make units, also beside what was entered before; a plan may count each by itself', async () => {
  const { patientId } = await household(t);
  const [one, two] = [await timed(), await timed()];
  const other = await timed('OT');
  const units = async (ids: number[]) =>
    (await readVisit(t.context, ids[0]!)).lines.map((line) => line.units);
  const first = await visit(patientId, [
    { code: one, minutes: 33, fee: '60.00' },
    { code: two, minutes: 7, fee: '30.00' },
    { code: other, minutes: 8, fee: '20.00' },
  ]);
  expect(await units(first)).toEqual([2, 1, 1]);
  // 40 minutes are 3 units, and 47 are 3 as well.
  const more = await timed();
  await expect(visit(patientId, [{ code: more, minutes: 7, fee: '9.00' }])).rejects.toMatchObject({
    field: 'lines.0.minutes',
    message: `7 minutes of ${more} make no unit beside what else the day has`,
  });
  await visit(patientId, [{ code: more, minutes: 13, fee: '9.00' }]);
  expect(await units(first)).toEqual([2, 1, 1, 1]);
  // 8 and 8 are 16 minutes, one unit, which the first one has.
  const eight = await household(t);
  await visit(eight.patientId, [{ code: one, minutes: 8, fee: '9.00' }]);
  await expect(visit(eight.patientId, [{ code: two, minutes: 8, fee: '9.00' }])).rejects.toThrow(
    /make no unit/,
  );
  // By the plan each by itself.
  const each = await household(t, false);
  await t.db.updateTable('insurance_plan').set({ timed_units: 'total' }).execute();
  const { id: planId } = await t.db
    .selectFrom('insurance_plan')
    .select('id')
    .orderBy('id', 'desc')
    .executeTakeFirstOrThrow();
  await t.db.updateTable('insurance_plan').set({ timed_units: 'each' }).where('id', '=', planId).execute();
  const { addCoverage } = await import('./coverage');
  await addCoverage(t.context, {
    patientId: each.patientId,
    insurancePlanId: planId,
    memberId: 'E1',
    key: key(),
  });
  await expect(
    visit(each.patientId, [
      { code: one, minutes: 33, fee: '60.00' },
      { code: two, minutes: 7, fee: '1.00' },
    ]),
  ).rejects.toThrow(/7 minutes of .* make no unit$/);
  await t.db.updateTable('insurance_plan').set({ timed_units: 'total' }).where('id', '=', planId).execute();
});

test('a fee that is not said is that of the units that the minutes make', async () => {
  const { patientId } = await household(t);
  const one = await timed();
  const { id: office } = await t.db
    .selectFrom('fee_schedule')
    .select('id')
    .where('kind', '=', 'office')
    .executeTakeFirstOrThrow();
  await changeFees(t.context, {
    scheduleId: office,
    from: '',
    lines: [{ code: one, amount: '30.00' }],
    key: key(),
  });
  const [id] = await visit(patientId, [{ code: one, minutes: 33 }]);
  expect((await readVisit(t.context, id!)).lines).toMatchObject([{ units: 2, minutes: 33, fee: 6000 }]);
});

test('tax of the site is added to what is taxable, and is the patient’s', async () => {
  const { householdId, patientId } = await household(t);
  const taxable = await code({ taxable: true });
  await t.db
    .updateTable('location')
    .set({ tax_rate: 850 as never })
    .execute();
  await visit(patientId, [
    { code: taxable, fee: '19.99' },
    { code: '99213', fee: '10.00' },
  ]);
  await t.db.updateTable('location').set({ tax_rate: null }).execute();
  const { charges, figures } = await readAccount(t.context, householdId);
  // 8.5 % of 19.99 is 1.69915.
  expect(charges.map(({ tax }) => tax)).toEqual([170, 0]);
  expect(figures).toMatchObject({ withPayer: 2999, withPatient: 170 });
});

test('a drug and the laboratory’s number are on the claim', async () => {
  const { householdId, patientId } = await household(t);
  const drug = await code({
    ndc: '00409-4888-20',
    ndc_measure: 'ML',
    ndc_thousandths: '0.5',
    needs_clia: true,
  });
  await visit(patientId, [{ code: drug, units: 3, fee: '30.00', diagnoses: ['I10'] }]);
  const [claimId] = await buildClaims(t.context, { householdId });
  const without = (await readClaim(t.context, claimId!))!;
  expect(without.findings.map(({ rule }) => rule)).toContain('clia');
  expect(await claimText(t.context, without)).toMatch(/LIN\*\*N4\*00409488820[^]*CTP\*\*\*\*1\.5\*ML/);
  await t.db.updateTable('location').set({ clia: '50D0123456' }).execute();
  const { refreshClaims } = await import('../claims/check');
  const { inTransaction } = await import('../use-case');
  await inTransaction(t.context, (act) => refreshClaims(act.db, act, [claimId!]));
  const claim = (await readClaim(t.context, claimId!))!;
  expect(claim.findings.map(({ rule }) => rule)).not.toContain('clia');
  expect(await claimText(t.context, claim)).toMatch(/REF\*X4\*50D0123456/);
  await t.db.updateTable('location').set({ clia: '' }).execute();
});

test('what is doubtful is asked for the visit as a whole', async () => {
  const { patientId } = await household(t);
  await visit(patientId, [{ code: '99213' }]);
  const again = visit(patientId, [{ code: '99213' }, { code: '80053' }, { code: '80053' }]);
  await expect(again).rejects.toMatchObject({
    code: 'doubtful',
    doubts: ['99213 is entered already for 16 Mar 2026', '80053 stands here twice'],
  });
  expect(
    await visit(patientId, [{ code: '99213' }, { code: '80053' }, { code: '80053' }], { sure: true }),
  ).toHaveLength(3);
});

test('taken back whole while nothing of it is billed or paid; what is another day’s or another provider’s stays', async () => {
  const { householdId, patientId } = await household(t);
  const [first] = await visit(patientId, [{ code: '99213' }, { code: '80053', fee: '42.00' }]);
  const other = await enterCharge(t.context, {
    patientId,
    providerId: t.providers.family,
    serviceDate: calendarDate('2026-03-13'),
    code: '99213',
    key: key(),
  });
  expect(await undoVisit(t.context, { chargeId: first!, why: 'entered for the wrong person' })).toBe(2);
  const { charges, figures } = await readAccount(t.context, householdId);
  expect(charges.filter(({ status }) => status === 'done').map(({ id }) => id)).toEqual([other]);
  expect(figures.withPayer).toBe(14500);
  await expect(undoVisit(t.context, { chargeId: first!, why: 'again' })).rejects.toThrow(
    /taken back already/,
  );
  await expect(readVisit(t.context, first!)).rejects.toThrow(/no such visit/);
  await buildClaims(t.context, { householdId });
  await expect(undoVisit(t.context, { chargeId: other, why: 'x' })).rejects.toThrow(/99213 is on claim OL/);
});

test('a service of it that was paid keeps all of it, and is named', async () => {
  const { householdId, patientId } = await household(t, false);
  const [, second] = await visit(patientId, [{ code: '99213' }, { code: '80053', fee: '42.00' }]);
  await takeReceipt(t.context, {
    householdId,
    tenders: [{ tender: 'cash', amount: '42.00' }],

    parts: { [second!]: '42.00' },
    key: key(),
  });
  await expect(undoVisit(t.context, { chargeId: second!, why: 'x' })).rejects.toThrow(
    /^80053: Money has moved on this charge: it is paid/,
  );
  expect((await readVisit(t.context, second!)).lines).toHaveLength(2);
});

test('what is voided is no part of it any more', async () => {
  const { patientId } = await household(t);
  const [first, second] = await visit(patientId, [{ code: '99213' }, { code: '80053', fee: '42.00' }]);
  await voidCharge(t.context, { chargeId: first!, why: 'not done' });
  expect((await readVisit(t.context, second!)).lines.map(({ code: of }) => of)).toEqual(['80053']);
});

test('what is typed is looked up and estimated together, and nothing is written', async () => {
  const { householdId, patientId, caseId } = await household(t);
  const asked = {
    patientId,
    caseId,
    providerId: t.providers.family!,
    serviceDate: TODAY,
    lines: [{ code: '99213' }, { code: '80053', units: 2 }],
  };
  const [visited, lab] = await previewVisit(t.context, asked);
  expect(visited).toMatchObject({ units: 1, fee: 14500, tax: 0 });
  expect(lab!.units).toBe(2);
  expect(visited!.steps.at(-1)).toMatchObject({
    words: 'Expected from the patient',
    amount: visited!.patient,
  });
  // Kept from insurers, all of it is the patient’s.
  const [kept] = await previewVisit(t.context, { ...asked, keptFromPayers: true });
  expect(kept).toMatchObject({ patient: 14500, steps: [] });
  await expect(
    previewVisit(t.context, { ...asked, lines: [{ code: '99213' }, { code: 'NONE1' }] }),
  ).rejects.toMatchObject({ field: 'lines.1.code' });
  await expect(previewVisit(t.as('collector'), asked)).rejects.toThrow(/may not/);
  expect((await readAccount(t.context, householdId)).charges).toEqual([]);
});

test('a set is made of what was entered, offered by its name, and proposes it again; so does the last visit', async () => {
  const { patientId, caseId } = await household(t);
  const one = await timed();
  const ids = await visit(patientId, [
    { code: one, minutes: 30, fee: '60.00', modifiers: ['GP'] },
    { code: '80053', units: 2, fee: '42.00', diagnoses: ['I10'] },
  ]);
  const name = `Set ${(serial += 1)}`;
  const set = await makeChargeSet(t.context, { name, chargeIds: ids });
  const lines = [
    { code: one, units: null, minutes: 30, modifiers: ['GP'], fee: '' },
    { code: '80053', units: 2, minutes: null, modifiers: null, fee: '' },
  ];
  expect((await quickChoices(t.context)).sets).toContainEqual({ id: set, name, lines });
  expect(await readLastVisit(t.context, caseId)).toEqual([lines[0], { ...lines[1], modifiers: [] }]);
  await expect(makeChargeSet(t.context, { name, chargeIds: ids })).rejects.toMatchObject({ field: 'name' });
  const other = await household(t);
  const [elsewhere] = await visit(other.patientId, [{ code: '99213' }]);
  await expect(
    makeChargeSet(t.context, { name: 'Two people', chargeIds: [ids[0]!, elsewhere!] }),
  ).rejects.toThrow(/not one person/);
  await expect(makeChargeSet(t.context, { name: 'None', chargeIds: [99999999] })).rejects.toThrow(/no such/);
  // Out of use, it is offered no more.
  await saveSetup(t.context, { table: 'charge-sets', values: { name, active: false }, row: String(set) });
  expect((await readChargeSets(t.db)).some(({ id }) => id === set)).toBe(false);
});

test('a code that is missing is added on the spot with its fee, entered, and looked at by a manager later', async () => {
  const { patientId } = await household(t);
  const made = `N${(serial += 1)}`;
  const biller = t.as('biller');
  await addServiceCode(biller, {
    code: made.toLowerCase(),
    description: 'Something new',
    category: 'office',
    form: 'professional',
    fee: '75.00',
    modifiers: ['25'],
  });
  await addDiagnosis(biller, { code: 'z99.8', description: 'Something else' });
  const [id] = await visit(patientId, [{ code: made, diagnoses: ['Z99.8'] }]);
  expect((await readVisit(t.context, id!)).lines).toMatchObject([{ fee: 7500, modifiers: ['25'] }]);
  const listed = async () =>
    (await LISTS['added-codes'].find(t.context, { view: 'all', search: '', page: 1 } as never)).rows;
  expect(await listed()).toMatchObject([
    { code: 'Z99.8', kind: 'diagnosis', charged: 0 },
    { code: made, kind: 'service', charged: 7500, by: biller.user.name },
  ]);
  for (const [input, words] of [
    [{ code: made }, /in the list already/],
    [{ code: 'A*1' }, /letters and digits/],
    [{ code: 'NEW1', category: 'nothing' }, /category is not in Setup/],
    [{ code: 'NEW1', fee: 'much' }, /not an amount/],
    [{ code: 'NEW1', description: '' }, /missing/],
  ] as const)
    await expect(
      addServiceCode(biller, { description: 'x', category: 'office', form: 'professional', ...input }),
    ).rejects.toThrow(words);
  await expect(addDiagnosis(biller, { code: 'Z99.8', description: 'x' })).rejects.toThrow(/already/);
  await expect(addDiagnosis(biller, { code: '99', description: 'x' })).rejects.toThrow(/written like/);
  await expect(addServiceCode(t.as('front-desk'), {} as never)).rejects.toThrow(/may not/);
  await expect(lookedAtCode(biller, { kind: 'service', code: made })).rejects.toThrow(/may not/);
  await lookedAtCode(t.context, { kind: 'service', code: made });
  await lookedAtCode(t.context, { kind: 'diagnosis', code: 'Z99.8' });
  expect(await listed()).toEqual([]);
});

test('a visit is printed as it stands', async () => {
  const { patientId } = await household(t);
  const [id] = await visit(patientId, [
    { code: '99213', diagnoses: ['I10'] },
    { code: '80053', fee: '42.00' },
  ]);
  const { name, bytes } = await visitPaper(t.context, id!);
  expect([name, bytes.subarray(0, 5).toString()]).toEqual([
    expect.stringMatching(/^visit-A-.*-2026-03-16\.pdf$/),
    '%PDF-',
  ]);
});
