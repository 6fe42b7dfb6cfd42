/** Credit account by account: what it can pay, for many at once, by night where the practice says so, and never twice. */
import { addDays } from '../../core/calendar';
import { fileDatabase } from '../../testing/database';
import { anotherMember, brokenInvariants, charge, household } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { setConfidential } from '../accounts/confidential';
import { findList } from '../lists/read';
import { applyCredits, applyCreditsByNight, creditsToApply } from './credits';
import { takeReceipt } from './take';
import { expectVisit } from './visits';

const t = fileDatabase();
const key = (): string => crypto.randomUUID();
const holds = async (amount: string, owes: string, more: object = {}) => {
  const made = await household(t, false);
  await takeReceipt(t.context, {
    householdId: made.householdId,
    tenders: [{ tender: 'cash', amount }],
    key: key(),
    ...more,
  });
  if (owes !== '') await charge(t, t.context, made.patientId, owes);
  return made;
};
const figures = async (householdId: number) => (await readAccount(t.context, householdId)).figures;

test('of each account what it holds, what is reserved, and what it can pay; nothing of it for somebody else', async () => {
  const one = await holds('50.00', '30.00');
  const nothing = await holds('20.00', '');
  const visit = await household(t, false);
  const visitId = await expectVisit(t.context, {
    patientId: visit.patientId,
    day: addDays(t.context.today, 2),
    key: key(),
  });
  await takeReceipt(t.context, {
    householdId: visit.householdId,
    expectedVisitId: visitId,
    tenders: [{ tender: 'cash', amount: '15.00' }],
    key: key(),
  });
  await charge(t, t.context, visit.patientId, '99.00', '99213', addDays(t.context.today, -3));
  const apart = await household(t, false);
  const kept = (await anotherMember(t, apart.householdId)) as { patientId: number };
  await setConfidential(t.context, {
    patientId: kept.patientId,
    name: 'Own Name',
    line1: '9 Other Street',
    city: 'Tacoma',
    state: 'WA',
    zip: '98401',
    delivery: 'mail',
  } as never);
  await takeReceipt(t.context, {
    householdId: apart.householdId,
    patientId: kept.patientId,
    tenders: [{ tender: 'cash', amount: '12.00' }],
    key: key(),
  });
  await charge(t, t.context, apart.patientId, '40.00');
  const { rows } = await findList(t.context, 'credits', { view: 'all' });
  const of = (householdId: number) => rows.find((row) => row.householdId === householdId);
  expect(of(one.householdId)).toMatchObject({
    held: 5000,
    reserved: 0,
    owed: 3000,
    proposed: 3000,
    apart: '',
  });
  expect(of(nothing.householdId)).toMatchObject({ held: 2000, proposed: 0 });
  expect(of(visit.householdId)).toMatchObject({ held: 1500, reserved: 1500, owed: 9900, proposed: 0 });
  expect(of(apart.householdId)).toMatchObject({ held: 1200, proposed: 0, part: kept.patientId });
  expect((await findList(t.context, 'credits', { view: 'pays' })).rows.map((row) => row.householdId)).toEqual(
    [one.householdId],
  );
  expect(await creditsToApply(t.context)).toEqual([{ householdId: one.householdId, patientId: null }]);
  const ids = [one, nothing, visit, apart].map(({ householdId }) => householdId);
  expect(await applyCredits(t.context, { householdIds: ids, key: key() })).toEqual({
    accounts: 1,
    amount: 3000,
  });
  expect(await figures(one.householdId)).toMatchObject({ withPatient: 0, credit: 2000 });
  await expect(applyCredits(t.context, { householdIds: ids, key: key() })).rejects.toThrow(/None of these/);
  expect(await brokenInvariants(t)).toEqual([]);
});

test('by night only where the practice says so, each account once, though two processes do it', async () => {
  const one = await holds('50.00', '30.00');
  const other = await holds('10.00', '30.00');
  expect(await applyCreditsByNight(t.context)).toEqual({ accounts: 0, amount: 0 });
  expect(await figures(one.householdId)).toMatchObject({ credit: 5000 });
  await t.db.updateTable('payment_policy').set({ credit_by_night: true }).execute();
  const done = await Promise.all([applyCreditsByNight(t.context), applyCreditsByNight(t.context)]);
  await t.db.updateTable('payment_policy').set({ credit_by_night: false }).execute();
  expect(done.some(({ accounts }) => accounts > 0)).toBe(true);
  expect(await figures(one.householdId)).toMatchObject({ withPatient: 0, credit: 2000 });
  expect(await figures(other.householdId)).toMatchObject({ withPatient: 2000, credit: 0 });
  expect(await brokenInvariants(t)).toEqual([]);
});
