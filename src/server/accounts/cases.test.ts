/** Cases beside the standing one: opened, billed, put right, closed and opened again. */
import type { InputOf } from '../use-case';
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household, plannedCharge } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { leftToAsk, readOwed } from '../books/owed';
import { buildClaims } from '../claims/build';
import { releaseClaim } from '../claims/hold';
import { claimText, readClaim } from '../claims/read';
import { refreshClaims } from '../claims/check';
import { inTransaction } from '../use-case';
import { readFacts } from '../statements/facts';
import { readContents } from '../statements/content';
import { PLAIN_OPTIONS } from '../../core/statements/document';
import { readPolicies } from '../setup/statement-policies';
import { changeCase, dischargeCase, openCase, reopenCase } from './cases';
import { completeCharge, enterCharge } from './charges';
import { addCoverage } from './coverage';
import { readCaseTotals } from './members';
import { moveCharge } from './move';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `case-test-${(serial += 1)}`;
// The example of CMS.
const NPI = '1234567893';
const open = (patientId: number, more: Partial<InputOf<typeof openCase>> = {}) =>
  openCase(t.context, { patientId, name: 'Left knee', kind: 'car', key: key(), ...more });
const enter = (patientId: number, caseId: number, more: object = {}) =>
  enterCharge(t.context, {
    patientId,
    caseId,
    providerId: t.providers.family,
    serviceDate: TODAY,
    code: '99213',
    fee: '145.00',
    diagnoses: ['I10'],
    key: key(),
    ...more,
  });
const otherPlan = async () =>
  (
    await t.db
      .selectFrom('insurance_plan as n')
      .innerJoin('payer as y', 'y.id', 'n.payer_id')
      .select('n.id')
      .where('y.name', '=', 'Northlight Mutual')
      .executeTakeFirstOrThrow()
  ).id;
const found = async (householdId: number, caseId: number) =>
  (await readAccount(t.context, householdId)).members
    .flatMap(({ cases }) => cases)
    .find(({ id }) => id === caseId)!;
/** What the work in the background does once a case was changed. */
const recheck = (ids: number[]) => inTransaction(t.context, (act) => refreshClaims(act.db, act, ids));
/** What the form of a case sends when nothing is changed on it. */
const asShown = async (householdId: number, caseId: number) => {
  const {
    id,
    patientId: _p,
    standing: _s,
    dischargedOn: _d,
    dischargeWhy: _w,
    coverages: _c,
    counts: _n,
    providers: _v,
    ...facts
  } = await found(householdId, caseId);
  return { ...facts, caseId: id };
};

test('an accident has its own insurer, and its claim the dates and the state; the standing case is not touched', async () => {
  const { householdId, patientId } = await household(t);
  const caseId = await open(patientId, {
    accidentDate: '2026-01-12',
    accidentState: 'wa',
    onsetDate: '2026-01-13',
    firstTreatedDate: '2026-01-14',
    acuteDate: '2026-02-01',
    lastSeenDate: '2026-02-02',
    firstContactDate: '2026-01-15',
    disabledFrom: '2026-01-12',
    disabledTo: '2026-04-01',
    referringLast: 'Brandt',
    referringFirst: 'Ida',
    referringNpi: NPI,
  });
  await addCoverage(t.context, {
    patientId,
    caseId,
    insurancePlanId: await otherPlan(),
    memberId: 'CAR1',
    key: key(),
  });
  await enter(patientId, caseId);
  const standing = await charge(t, t.context, patientId, '80.00');
  const claims = await buildClaims(t.context, { householdId });
  const contents = await Promise.all(claims.map((id) => readClaim(t.context, id)));
  const own = contents.find(({ caseId: of }) => of === caseId)!;
  expect(own.payer).toBe('Northlight Mutual');
  expect(own.content.accident).toEqual({ kind: 'AA', date: '2026-01-12', state: 'WA' });
  const text = await claimText(t.context, own);
  expect(text.match(/DTP\*[^~]*/g)).toEqual([
    'DTP*431*D8*20260113',
    'DTP*454*D8*20260114',
    'DTP*304*D8*20260202',
    'DTP*453*D8*20260201',
    'DTP*439*D8*20260112',
    'DTP*314*RD8*20260112-20260401',
    'DTP*444*D8*20260115',
    'DTP*472*D8*20260316',
  ]);
  expect(text).toContain('AA:::WA');
  const other = contents.find(({ caseId: of }) => of !== caseId)!;
  expect([other.payer, other.content.accident, other.content.dates]).toEqual([
    'Cedar Sound Health',
    undefined,
    undefined,
  ]);
  expect(await readCaseTotals(t.context, caseId)).toEqual({
    case: { charged: 14_500, reduced: 0, paid: 0, withPayers: 14_500, withPatient: 0 },
    person: { charged: 22_500, reduced: 0, paid: 0, withPayers: 22_500, withPatient: 0 },
    household: { charged: 22_500, reduced: 0, paid: 0, withPayers: 22_500, withPatient: 0 },
  });
  expect(standing).toBeGreaterThan(0);
});

test('what is taken over is chosen: nothing by itself, then insurers, diagnoses, people and services', async () => {
  const { householdId, patientId, caseId: standing } = await household(t);
  const first = await open(patientId, {
    diagnoses: [{ code: 'I10', since: '2026-01-01', until: '' }],
    services: [{ code: '99213', fee: '90.00', minutes: 25 }],
    providerId: t.providers.family,
    cameByNote: 'a neighbor',
  });
  const bare = await found(householdId, await open(patientId, { kind: 'illness', fromCaseId: standing }));
  expect([bare.coverages.length, bare.diagnoses, bare.providerId]).toEqual([0, [], null]);
  const insured = await found(
    householdId,
    await open(patientId, { kind: 'illness', fromCaseId: standing, take: ['coverages'] }),
  );
  expect(insured.coverages.map(({ payer, position }) => [payer, position])).toEqual([
    ['Cedar Sound Health', 1],
  ]);
  const whole = await found(
    householdId,
    await open(patientId, {
      kind: 'series',
      fromCaseId: first,
      take: ['diagnoses', 'people', 'services'],
      cameByNote: 'her doctor',
    }),
  );
  expect(whole).toMatchObject({
    diagnoses: [{ code: 'I10', since: '2026-01-01', until: null }],
    services: [{ code: '99213', fee: '90.00', minutes: 25 }],
    providerId: t.providers.family,
    cameByNote: 'her doctor',
    coverages: [],
  });
  const { patientId: somebody } = await household(t, false);
  await expect(open(somebody, { fromCaseId: first })).rejects.toThrow(/not this person’s/);
});

test('its own price and site hold for what is entered, and a price of nothing is one', async () => {
  const { patientId } = await household(t);
  const { id: siteId } = await t.db
    .insertInto('location')
    .values({
      name: `Annex ${key()}`,
      place_of_service: '12',
      line1: '9 Far Lane',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98199',
      phone: '555-0101',
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  const caseId = await open(patientId, {
    siteId,
    services: [
      { code: '99213', fee: '40.00' },
      { code: '87880', fee: '0.00' },
    ],
  });
  const priced = await enter(patientId, caseId, { fee: '', units: 2 });
  const free = await enter(patientId, caseId, { fee: '', code: '87880' });
  const rows = await t.db
    .selectFrom('charge')
    .select(['fee', 'location_id'])
    .where('id', 'in', [priced, free])
    .orderBy('id')
    .execute();
  expect(rows).toEqual([
    { fee: 8000, location_id: siteId },
    { fee: 0, location_id: siteId },
  ]);
});

test('another provider stands on bills, and the claim says where it was done', async () => {
  const { householdId, patientId } = await household(t);
  const billProviderId = t.providers.family2!;
  const { id: serviceSiteId } = await t.db
    .insertInto('location')
    .values({
      name: `Patient’s home ${key()}`,
      place_of_service: '12',
      line1: '7 Quiet Court',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98199',
      phone: '555-0102',
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  const caseId = await open(patientId, {
    billProviderId,
    serviceSiteId,
    accidentDate: '2026-01-12',
    accidentState: 'WA',
  });
  await addCoverage(t.context, {
    patientId,
    caseId,
    insurancePlanId: await otherPlan(),
    memberId: 'B1',
    key: key(),
  });
  const chargeId = await enter(patientId, caseId);
  const [claimId] = await buildClaims(t.context, { householdId });
  const { content } = await readClaim(t.context, claimId!);
  const provider = await t.db
    .selectFrom('provider')
    .select(['last'])
    .where('id', '=', billProviderId)
    .executeTakeFirstOrThrow();
  expect(content.rendering!.last).toBe(provider.last);
  expect([content.placeOfService, content.facility!.address.line1]).toEqual(['12', '7 Quiet Court']);
  expect(
    await t.db.selectFrom('charge').select('provider_id').where('id', '=', chargeId).executeTakeFirst(),
  ).toEqual({ provider_id: t.providers.family });
});

test('a case that sends no claims holds them, also those that were ready, and lets them go when it does again', async () => {
  const { householdId, patientId } = await household(t);
  const caseId = await open(patientId, { accidentDate: '2026-01-12', accidentState: 'WA' });
  await addCoverage(t.context, {
    patientId,
    caseId,
    insurancePlanId: await otherPlan(),
    memberId: 'H1',
    key: key(),
  });
  await enter(patientId, caseId);
  const [claimId] = await buildClaims(t.context, { householdId });
  const status = async () => {
    const { status: now, holdReason } = await readClaim(t.context, claimId!);
    return [now, holdReason];
  };
  expect(await status()).toEqual(['ready', '']);
  await changeCase(t.context, { ...(await asShown(householdId, caseId)), claims: false });
  await recheck([claimId!]);
  expect(await status()).toEqual(['held', 'The case sends no claims']);
  await expect(releaseClaim(t.context, { claimId: claimId! })).rejects.toThrow(/switch that on at the case/);
  await enter(patientId, caseId, { serviceDate: addDays(TODAY, -1) });
  const [born] = await buildClaims(t.context, { householdId });
  expect((await readClaim(t.context, born!)).status).toBe('held');
  await changeCase(t.context, { ...(await asShown(householdId, caseId)), claims: true });
  await recheck([claimId!, born!]);
  expect(await status()).toEqual(['ready', '']);
  expect((await readClaim(t.context, born!)).status).toBe('ready');
});

test('what is on no statements is owed and not asked for: not stated, not past due, and weighed nowhere', async () => {
  const { householdId, patientId } = await household(t, false);
  const caseId = await open(patientId, { kind: 'illness', openedOn: '2026-01-01' });
  const quiet = await enter(patientId, caseId, { fee: '60.00', serviceDate: '2026-01-05' });
  const other = await charge(t, t.context, patientId, '25.00');
  await changeCase(t.context, { ...(await asShown(householdId, caseId)), statements: false });
  const policies = await readPolicies(t.db);
  const [content] = await readContents(t.context, policies, [{ householdId, options: PLAIN_OPTIONS }]);
  expect(JSON.stringify(content)).not.toContain('60.00');
  expect(content!.amount).toBe(2500);
  const [facts] = await readFacts(t.context, policies, [], [householdId]);
  expect([facts!.owed, facts!.oldest]).toEqual([2500, TODAY]);
  const [owed] = await readOwed(t.context, [householdId]);
  expect([owed!.owed, owed!.charges.map(({ chargeId, quiet: so }) => [chargeId, so])]).toEqual([
    8500,
    [
      [quiet, true],
      [other, false],
    ],
  ]);
  // Nobody hands over or gives up what is not asked for.
  const left = (await leftToAsk(t.context, [householdId])).get(householdId)!;
  expect(left.map(({ about, amount }) => [about.chargeId, amount])).toEqual([[other, 2500]]);
  await changeCase(t.context, { ...(await asShown(householdId, caseId)), statements: true });
  const [again] = await readContents(t.context, policies, [{ householdId, options: PLAIN_OPTIONS }]);
  expect(again!.amount).toBe(8500);
});

test('closed with a reason: nothing later is entered, what was is, its money lives on; opened again it is as it was', async () => {
  const { householdId, patientId } = await household(t, false);
  const caseId = await open(patientId, { kind: 'therapy', name: 'Shoulder', openedOn: '2026-01-02' });
  await enter(patientId, caseId, { serviceDate: '2026-02-10' });
  const before = await asShown(householdId, caseId);
  await expect(
    dischargeCase(t.context, { caseId, on: '2026-02-09', why: 'Treatment ended' }),
  ).rejects.toMatchObject({ field: 'on' });
  await expect(dischargeCase(t.context, { caseId, on: '2026-03-17', why: 'x' })).rejects.toThrow(/future/);
  await expect(dischargeCase(t.context, { caseId, on: '2026-02-20', why: ' ' })).rejects.toThrow();
  await dischargeCase(t.context, { caseId, on: '2026-02-20', why: 'Treatment ended' });
  await expect(dischargeCase(t.context, { caseId, on: '2026-02-20', why: 'x' })).rejects.toThrow(
    /closed since/,
  );
  await expect(enter(patientId, caseId)).rejects.toMatchObject({ field: 'caseId' });
  expect(await enter(patientId, caseId, { serviceDate: '2026-02-20' })).toBeGreaterThan(0);
  expect((await readCaseTotals(t.context, caseId)).case.withPatient).toBe(29_000);
  await reopenCase(t.context, { caseId });
  const { version: _a, ...after } = await asShown(householdId, caseId);
  const { version: _b, ...was } = before;
  expect(after).toEqual(was);
  await expect(reopenCase(t.context, { caseId })).rejects.toThrow(/open/);
  expect(await enter(patientId, caseId)).toBeGreaterThan(0);
});

test('planned services of a case that is closed: asked about, and refused when they are done', async () => {
  const { patientId, caseId: standing } = await household(t, false);
  const caseId = await open(patientId, { kind: 'therapy', openedOn: '2026-01-02' });
  const chargeId = await plannedCharge(t, patientId);
  await t.db.updateTable('charge').set({ case_id: caseId }).where('id', '=', chargeId).execute();
  await expect(dischargeCase(t.context, { caseId, on: '2026-03-01', why: 'x' })).rejects.toThrow(
    /Planned services/,
  );
  await dischargeCase(t.context, { caseId, on: '2026-03-01', why: 'x', sure: true });
  await expect(completeCharge(t.context, { chargeId, serviceDate: TODAY })).rejects.toThrow(/closed since/);
  await expect(dischargeCase(t.context, { caseId: standing, on: TODAY, why: 'x' })).rejects.toThrow(
    /stays open/,
  );
});

test('a service is moved to the accident and is its insurer’s', async () => {
  const { householdId, patientId, caseId: standing } = await household(t);
  const caseId = await open(patientId, { accidentDate: '2026-01-12', accidentState: 'WA' });
  await addCoverage(t.context, {
    patientId,
    caseId,
    insurancePlanId: await otherPlan(),
    memberId: 'M1',
    key: key(),
  });
  const chargeId = await charge(t, t.context, patientId, '145.00');
  await moveCharge(t.context, { chargeId, patientId, caseId, why: 'it was the accident' });
  const [claimId] = await buildClaims(t.context, { householdId });
  expect((await readClaim(t.context, claimId!)).payer).toBe('Northlight Mutual');
  expect((await readCaseTotals(t.context, standing)).case.charged).toBe(0);
});

test.each([
  ['an accident of no accident', { kind: 'illness', accidentDate: '2026-01-12' }, 'kind'],
  ['a day that is not yet', { onsetDate: '2026-03-17' }, 'onsetDate'],
  ['a day before the birth', { onsetDate: '1805-01-01' }, 'onsetDate'],
  ['30 February', { onsetDate: '2026-02-30' }, 'onsetDate'],
  ['an end before the beginning', { disabledFrom: '2026-02-01', disabledTo: '2026-01-01' }, 'disabledTo'],
  ['a wrong NPI', { referringLast: 'B', referringNpi: '1234567890' }, 'referringNpi'],
  ['a name without an NPI', { referringLast: 'B' }, 'referringNpi'],
  ['an NPI of nobody', { referringNpi: NPI }, 'referringLast'],
  ['an unknown diagnosis', { diagnoses: [{ code: 'Q99.99' }] }, 'diagnoses'],
  ['an unknown service', { services: [{ code: 'NONE' }] }, 'services'],
  ['a service twice', { services: [{ code: '99213' }, { code: '99213' }] }, 'services'],
  ['a price that is none', { services: [{ code: '99213', fee: '-1' }] }, 'services'],
  ['an unknown provider', { providerId: 999_999 }, 'providerId'],
  ['an unknown site', { serviceSiteId: 999_999 }, 'serviceSiteId'],
  ['an unknown way', { cameBy: 'a balloon' }, 'cameBy'],
  ['no such state', { accidentState: 'QQ' }, 'accidentState'],
  ['no name', { name: ' ' }, 'name'],
])('%s is refused, and opens nothing', async (_, more, field) => {
  const { householdId, patientId } = await household(t, false);
  await expect(open(patientId, more as object)).rejects.toMatchObject({ field });
  expect((await readAccount(t.context, householdId)).members[0]!.cases.length).toBe(1);
});

test('the case that everybody has stays what it is, in the database too', async () => {
  const { householdId, caseId } = await household(t, false);
  const shown = await asShown(householdId, caseId);
  await expect(changeCase(t.context, { ...shown, kind: 'car' })).rejects.toMatchObject({ field: 'kind' });
  await changeCase(t.context, { ...shown, onsetDate: '2026-01-01', cameByNote: 'a sign' });
  expect(await found(householdId, caseId)).toMatchObject({ onsetDate: '2026-01-01', standing: true });
  await expect(
    t.db.updateTable('care_case').set({ kind: 'car' }).where('id', '=', caseId).execute(),
  ).rejects.toThrow(/care_case_check/);
  await expect(
    t.db
      .updateTable('care_case')
      .set({ discharged_on: TODAY, discharge_why: 'x' })
      .where('id', '=', caseId)
      .execute(),
  ).rejects.toThrow(/care_case_check/);
});
