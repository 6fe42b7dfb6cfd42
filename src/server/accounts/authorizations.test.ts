/** What payers allow beforehand: written down with its number, on the claims of its days, and counted from what was done. */
import { sql } from 'kysely';
import { addDays, calendarDate } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { buildClaims } from '../claims/build';
import { readClaim } from '../claims/read';
import { addAuthorization, changeAuthorization } from './authorizations';
import { voidCharge } from './charges';
import { exhaustCoverage, notExhausted } from './exhausted';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
async function covered() {
  const { householdId, patientId, caseId } = await household(t);
  const { coverages } = (await readAccount(t.context, householdId)).members[0]!.cases[0];
  const facts = {
    coverageId: coverages[0]!.id,
    kind: 'prior-authorization' as const,
    state: 'approved' as const,
    number: 'PA-88',
    askedOn: '',
    answeredOn: '',
    validFrom: '2026-03-01',
    validTo: '2026-06-30',
    codes: ['99213'],
    visits: '2',
    units: '',
    amount: '400.00',
  };
  const ask = (more: object = {}) =>
    addAuthorization(t.context, { caseId, ...facts, key: `authorization-${(serial += 1)}`, ...more });
  const put = (authorizationId: number, more: object = {}) =>
    changeAuthorization(t.context, { authorizationId, ...facts, ...more });
  const there = async () => (await readAccount(t.context, householdId)).members[0]!.cases[0].authorizations;
  return { householdId, patientId, coverageId: facts.coverageId, ask, put, there };
}

test('what is used is what was done of its services in its time; a void gives it back; its number is on the claim', async () => {
  const { householdId, patientId, ask, there } = await covered();
  await ask();
  await charge(t, t.context, patientId, '145.00');
  const second = await charge(t, t.context, patientId, '100.00');
  await charge(t, t.context, patientId, '42.00', '80053');
  expect(await there()).toMatchObject([
    { number: 'PA-88', visits: 2, units: null, amount: 40000, used: { visits: 1, units: 2, amount: 24500 } },
  ]);
  await voidCharge(t.context, { chargeId: second, why: 'entered twice' });
  expect((await there())[0]!.used).toEqual({ visits: 1, units: 1, amount: 14500 });
  const [claimId] = await buildClaims(t.context, { householdId });
  expect((await readClaim(t.context, claimId!))!.content.authorizationNumber).toBe('PA-88');
});

test('what goes past an insurer of which nothing is left uses nothing of what that one allowed', async () => {
  const { patientId, coverageId, ask, there } = await covered();
  await ask();
  await charge(t, t.context, patientId, '145.00');
  expect((await there())[0]!.used.visits).toBe(1);
  const letter = new TextEncoder().encode('%PDF-1.4 a letter');
  await exhaustCoverage(t.context, { coverageId, from: TODAY, letter });
  expect((await there())[0]!.used).toEqual({ visits: 0, units: 0, amount: 0 });
  await notExhausted(t.context, { coverageId });
  expect((await there())[0]!.used.visits).toBe(1);
});

test('put right it says what changed; on an older version it shows both; asked for, it is answered on no day', async () => {
  const { ask, put, there } = await covered();
  const id = await ask({ state: 'asked', number: '', visits: '' });
  const [first] = await there();
  expect(first).toMatchObject({ id, state: 'asked', answeredOn: null, visits: null });
  await put(id, { version: first!.version, number: 'PA-89' });
  expect(await there()).toMatchObject([
    { id, state: 'approved', number: 'PA-89', answeredOn: TODAY, visits: 2 },
  ]);
  await expect(put(id, { version: first!.version })).rejects.toMatchObject({
    code: 'conflict',
  });
  const { rows } = await sql<{ detail: { number: unknown } }>`
    select detail from audit where action = 'changed' and subject_kind = 'authorization' and subject_id = ${String(id)}`.execute(
    t.db,
  );
  expect(rows[0]!.detail.number).toEqual({ from: '–', to: 'PA-89' });
});

test('what is wrong is said at its field, and nothing is written', async () => {
  const { ask, put, there } = await covered();
  for (const [field, more] of [
    ['number', { number: '' }],
    ['visits', { visits: '0' }],
    ['visits', { visits: '2.5' }],
    ['units', { units: 'many' }],
    ['amount', { amount: '-5.00' }],
    ['codes', { codes: ['NONE1'] }],
    ['validTo', { validTo: '2026-02-01' }],
    ['answeredOn', { answeredOn: addDays(TODAY, 1) }],
    ['answeredOn', { askedOn: TODAY, answeredOn: calendarDate('2026-03-01') }],
    ['validFrom', { validFrom: '2026-02-30' }],
    ['coverageId', { coverageId: 99999999 }],
  ] as const)
    await expect(ask(more)).rejects.toMatchObject({ field });
  expect(await there()).toEqual([]);
  await expect(put(99999999)).rejects.toThrow(/no such authorization/);
  await expect(addAuthorization(t.as('collector'), {} as never)).rejects.toThrow(/may not/);
});
