/** Money before a visit: reserved by itself, netted against nothing, paid to the visit, free the day after. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { fileDatabase } from '../../testing/database';
import { anotherMember, brokenInvariants, charge, household } from '../../testing/desk';
import { collectToday } from '../accounts/collect';
import { setConfidential } from '../accounts/confidential';
import { readAccount } from '../account-page/read';
import { readOwed } from '../books/owed';
import { readLate } from '../statements/late';
import { spendCredit } from './credit';
import { refundCredit } from './refund';
import { reverseReceipt } from './receipts';
import { takeReceipt } from './take';
import {
  cancelVisit,
  expectVisit,
  freeReserved,
  importVisits,
  matchVisit,
  readVisits,
  settleVisits,
} from './visits';

const t = fileDatabase();
const key = (): string => crypto.randomUUID();
const today = () => t.context.today;
const tomorrow = () => t.as('manager', addDays(today(), 1));
const owes = async (amount: string, days = -5) => {
  const made = await household(t, false);
  await charge(t, t.context, made.patientId, amount, '99213', addDays(today(), days));
  return made;
};
const expected = (patientId: number, more: object = {}) =>
  expectVisit(t.context, { patientId, day: today(), key: key(), ...more });
const checkIn = (householdId: number, expectedVisitId: number, amount: string, more: object = {}) =>
  takeReceipt(t.context, {
    householdId,
    expectedVisitId,
    tenders: [{ tender: 'cash', amount }],
    key: key(),
    ...more,
  });
const figures = async (householdId: number) => (await readAccount(t.context, householdId)).figures;
const rowOf = async (id: number, day = today()) =>
  (await readVisits(t.context, day)).rows.find((row) => row.id === id)!;
const proven = async () => expect(await brokenInvariants(t)).toEqual([]);

test('reserved credit lowers nothing, is not spent on something else, and both readers of what is owed say so', async () => {
  const { householdId, patientId } = await owes('50.00');
  const visit = await expected(patientId);
  await checkIn(householdId, visit, '30.00');
  expect(await figures(householdId)).toMatchObject({ withPatient: 5000, credit: 3000, reserved: 3000 });
  const [owed] = await readOwed(t.context, [householdId]);
  expect(owed).toMatchObject({ owed: 5000, credit: 0, left: 5000 });
  const { rows } = await sql`
    select owed, credit from owed_part where household_id = ${householdId} and part = 0`.execute(t.db);
  expect(rows).toEqual([{ owed: 5000, credit: 0 }]);
  await expect(spendCredit(t.context, { householdId, key: key() })).rejects.toThrow(/no credit/);
  expect(await rowOf(visit)).toMatchObject({ owed: 5000, reserved: 3000, charged: false });
  await proven();
  // A person frees it, and it is credit as any other.
  await freeReserved(t.context, { expectedVisitId: visit, why: 'asked to' });
  expect(await figures(householdId)).toMatchObject({ reserved: 0, credit: 3000 });
  expect((await readOwed(t.context, [householdId]))[0]).toMatchObject({ credit: 3000, left: 2000 });
  await spendCredit(t.context, { householdId, key: key() });
  expect(await figures(householdId)).toMatchObject({ withPatient: 2000, credit: 0 });
  await expect(freeReserved(t.context, { expectedVisitId: visit, why: 'again' })).rejects.toThrow(/already/);
  await proven();
});

test('the old balance and the visit at once: what is reserved is what is said, the rest pays what is open', async () => {
  const { householdId, patientId } = await owes('25.00');
  const visit = await expected(patientId);
  await expect(checkIn(householdId, visit, '20.00', { reserve: '20.01' })).rejects.toThrow(
    /more than is left/,
  );
  await checkIn(householdId, visit, '55.00', { reserve: '30.00' });
  expect(await figures(householdId)).toMatchObject({ withPatient: 0, credit: 3000, reserved: 3000 });
  // What was paid is not asked for again.
  const [asked] = await collectToday(t.context, householdId);
  expect(asked).toMatchObject({ total: 0 });
});

test('charged, it pays that visit by itself and nothing else; what is left is free the day after', async () => {
  const { householdId, patientId } = await owes('80.00');
  const visit = await expected(patientId);
  await checkIn(householdId, visit, '60.00');
  expect(await settleVisits(t.context)).toMatchObject({ paid: 0, freed: 0 });
  const other = await anotherMember(t, householdId);
  await charge(t, t.context, (other as { patientId: number }).patientId, '33.00');
  await charge(t, t.context, patientId, '45.00');
  expect(await settleVisits(t.context)).toMatchObject({ paid: 1, freed: 0 });
  expect(await figures(householdId)).toMatchObject({ withPatient: 11300, credit: 1500, reserved: 1500 });
  // Done again it does nothing more.
  expect(await settleVisits(t.context)).toMatchObject({ paid: 0, freed: 0 });
  expect(await rowOf(visit)).toMatchObject({ charged: true, reserved: 1500 });
  await proven();
  expect((await settleVisits(tomorrow())).freed).toBeGreaterThan(0);
  expect(await figures(householdId)).toMatchObject({ withPatient: 11300, credit: 1500, reserved: 0 });
  expect((await readOwed(t.context, [householdId]))[0]).toMatchObject({ left: 9800 });
  await proven();
});

test('two at once settle a visit once', async () => {
  const { householdId, patientId } = await owes('1.00');
  const visit = await expected(patientId);
  await checkIn(householdId, visit, '40.00');
  await charge(t, t.context, patientId, '40.00');
  await Promise.all([settleVisits(t.context), settleVisits(t.context), settleVisits(tomorrow())]);
  expect(await figures(householdId)).toMatchObject({ withPatient: 100, credit: 0 });
  await proven();
});

test('a visit that does not come frees its money; reversed or given back, nothing is reserved any more', async () => {
  const { householdId, patientId } = await owes('10.00');
  const visit = await expected(patientId, { day: addDays(today(), 3) });
  const { receiptId } = await checkIn(householdId, visit, '30.00');
  await refundCredit(t.context, {
    receiptId,
    amount: '12.00',
    tender: 'cash',
    reference: '',
    why: 'too much',
    key: key(),
  });
  expect(await figures(householdId)).toMatchObject({ reserved: 1800 });
  await cancelVisit(t.context, { expectedVisitId: visit, why: 'ill' });
  expect(await figures(householdId)).toMatchObject({ reserved: 0, credit: 1800 });
  await expect(checkIn(householdId, visit, '5.00')).rejects.toThrow(/This visit is over/);
  const next = await expected(patientId);
  const again = await checkIn(householdId, next, '7.00');
  await reverseReceipt(t.context, { receiptId: again.receiptId, why: 'not meant' });
  expect(await figures(householdId)).toMatchObject({ reserved: 0, credit: 1800 });
  await proven();
});

test('a visit is at most two years away, typed or told', async () => {
  const { patientId } = await household(t, false, {
    last: 'Faraway',
    first: 'Fern',
    birthDate: '1990-02-03',
  });
  await expect(expected(patientId, { day: addDays(today(), 732) })).rejects.toMatchObject({ field: 'day' });
  await expected(patientId, { day: addDays(today(), 731) });
  expect(
    await importVisits(t.context, {
      name: 'far.csv',
      text: 'key,last,first,birth date,day\nfar,Faraway,Fern,1990-02-03,2029-12-31\n',
    }),
  ).toMatchObject({ fresh: 0, faults: ['far: this day is more than two years ahead'] });
});

test('somebody else’s visit, a day that is over, a patient who is kept apart', async () => {
  const [one, other] = [await owes('1.00'), await owes('1.00')];
  const visit = await expected(one.patientId);
  await expect(checkIn(other.householdId, visit, '5.00')).rejects.toThrow(/not of this account/);
  await expect(expected(one.patientId, { day: addDays(today(), -1) })).rejects.toThrow(/day is over/);
  await expect(expected(99_999_999)).rejects.toThrow(/no such patient/);
  const apart = (await anotherMember(t, one.householdId)) as { patientId: number };
  await setConfidential(t.context, {
    patientId: apart.patientId,
    name: 'Own Name',
    line1: '9 Other Street',
    city: 'Tacoma',
    state: 'WA',
    zip: '98401',
    delivery: 'mail',
  } as never);
  const own = await expected(apart.patientId);
  await expect(checkIn(one.householdId, own, '5.00')).rejects.toThrow(/kept apart: the money of this visit/);
  await checkIn(one.householdId, own, '5.00', { patientId: apart.patientId });
  await charge(t, t.context, apart.patientId, '5.00');
  await settleVisits(t.context);
  const parts = await readOwed(t.context, [one.householdId]);
  expect(parts.find(({ patientId }) => patientId === apart.patientId)?.owed ?? 0).toBe(0);
  await proven();
});

test('late charges wait while money is reserved', async () => {
  const { householdId, patientId } = await owes('50.00');
  const visit = await expected(patientId);
  await checkIn(householdId, visit, '30.00');
  const rows = await readLate(t.context, [householdId]);
  for (const row of rows) expect(row.spared).toBe('money is reserved for a visit to come');
});

test('a file: matched by name and birth date, changed by the next one, canceled, never twice', async () => {
  const made = await household(t, false, { last: 'Filed', first: 'Fay', birthDate: '1990-02-03' });
  await household(t, false, { last: 'Filed', first: 'Twin', birthDate: '1990-02-03' });
  await household(t, false, { last: 'Filed', first: 'Twin', birthDate: '1990-02-03', sure: true });
  const file = (...lines: string[]) =>
    importVisits(t.context, {
      name: 'visits.csv',
      text: ['key,last,first,birth date,day,time,reason,canceled', ...lines].join('\n'),
    });
  const day = addDays(today(), 1);
  expect(
    await file(
      `k1,filed,FAY,1990-02-03,${day},09:00,knee,`,
      `k2,Filed,Twin,1990-02-03,${day},09:30,back,`,
      `k3,Filed,Fay,1990-02-03,${addDays(today(), -1)},09:30,gone,`,
    ),
  ).toEqual({ fresh: 2, changed: 0, canceled: 0, unmatched: 1, faults: [] });
  const again = await file(
    `k1,Filed,Fay,1990-02-03,${day},09:15,knee,`,
    `k2,Filed,Twin,1990-02-03,${day},09:30,back,`,
  );
  expect(again).toMatchObject({ fresh: 0, changed: 1, unmatched: 1 });
  const { rows } = await readVisits(t.context, day);
  expect(rows.map(({ time, householdId }) => [time, householdId])).toEqual([
    ['09:15', made.householdId],
    ['09:30', null],
  ]);
  await matchVisit(t.context, { expectedVisitId: rows[1]!.id, patientId: made.patientId });
  await checkIn(made.householdId, rows[0]!.id, '8.00');
  const stranger = await household(t, false);
  await expect(
    matchVisit(t.context, { expectedVisitId: rows[0]!.id, patientId: stranger.patientId }),
  ).rejects.toThrow(/Money was taken/);
  expect(await file(`k1,Filed,Fay,1990-02-03,${day},09:15,knee,yes`)).toMatchObject({ canceled: 1 });
  expect(await figures(made.householdId)).toMatchObject({ credit: 800, reserved: 0 });
  await expect(importVisits(t.context, { name: 'x', text: 'nonsense' })).rejects.toThrow(/is missing/);
  await proven();
});

test('a file says otherwise: a canceled visit comes after all; another person’s has no money of the first', async () => {
  const [fay, gus] = [
    await household(t, false, { last: 'Retold', first: 'Fay', birthDate: '1990-02-03' }),
    await household(t, false, { last: 'Retold', first: 'Gus', birthDate: '1991-02-03' }),
  ];
  const day = addDays(today(), 1);
  const file = (...lines: string[]) =>
    importVisits(t.context, {
      name: 'visits.csv',
      text: ['key,last,first,birth date,day,canceled', ...lines].join('\n'),
    });
  const row = async (at = 0) =>
    (await readVisits(t.context, day)).rows.filter(({ name }) => name.startsWith('Retold'))[at]!;
  await file(`r1,Retold,Fay,1990-02-03,${day},`, `r2,Retold,Fay,1990-02-03,${day},`);
  const [first, second] = [(await row(0)).id, (await row(1)).id];
  await checkIn(fay.householdId, first, '8.00');
  expect(await file(`r1,Retold,Fay,1990-02-03,${day},yes`)).toMatchObject({ canceled: 1 });
  expect(await figures(fay.householdId)).toMatchObject({ credit: 800, reserved: 0 });
  expect(await file(`r1,Retold,Fay,1990-02-03,${day},`)).toMatchObject({ changed: 1, canceled: 0 });
  expect(await rowOf(first, day)).toMatchObject({ canceled: '', reserved: 800 });
  expect(await figures(fay.householdId)).toMatchObject({ credit: 800, reserved: 800 });
  // Where money was taken, another name changes nothing; where none was, it is that person's visit.
  expect(await file(`r1,Retold,Gus,1991-02-03,${day},`)).toMatchObject({
    changed: 0,
    faults: ['r1: it was the visit of Fay Retold, for which money was taken, and is said to be another’s'],
  });
  expect(await rowOf(first, day)).toMatchObject({ householdId: fay.householdId, name: 'Retold, Fay' });
  expect(await file(`r2,Retold,Gus,1991-02-03,${day},`)).toMatchObject({ changed: 1, unmatched: 0 });
  expect(await rowOf(second, day)).toMatchObject({ householdId: gus.householdId, name: 'Retold, Gus' });
  expect(await file(`r2,Retold,Nobody,1991-02-03,${day},`)).toMatchObject({ changed: 1, unmatched: 1 });
  expect(await rowOf(second, day)).toMatchObject({ householdId: null, name: 'Retold, Nobody' });
  // A person's word that it does not come stays, also when its money was freed before.
  await freeReserved(t.context, { expectedVisitId: first, why: 'asked to' });
  await cancelVisit(t.context, { expectedVisitId: first, why: 'ill' });
  expect(await rowOf(first, day)).toMatchObject({ canceled: 'ill', freed: 'asked to' });
  expect(await file(`r1,Retold,Fay,1990-02-03,${day},`)).toMatchObject({ changed: 0 });
  await proven();
});

test('what a person freed stays free though a file takes its canceling back; a name put right is the same person', async () => {
  const made = await household(t, false, { last: 'Spelled', first: 'Jon', birthDate: '1990-02-03' });
  const day = addDays(today(), 1);
  const file = (line: string) =>
    importVisits(t.context, { name: 'v.csv', text: `key,last,first,birth date,day,time,canceled\n${line}` });
  // Said wrongly at first, and matched by hand.
  await file(`s1,Speled,Jon,,${day},09:00,`);
  const id = (await readVisits(t.context, day)).rows.find(({ name }) => name === 'Speled, Jon')!.id;
  await matchVisit(t.context, { expectedVisitId: id, patientId: made.patientId });
  await checkIn(made.householdId, id, '8.00');
  expect(await file(`s1,Spelled,Jon,1990-02-03,${day},09:30,`)).toMatchObject({ changed: 1, faults: [] });
  expect(await rowOf(id, day)).toMatchObject({ time: '09:30', householdId: made.householdId, reserved: 800 });
  await freeReserved(t.context, { expectedVisitId: id, why: 'asked to' });
  expect(await file(`s1,Spelled,Jon,1990-02-03,${day},09:30,yes`)).toMatchObject({ canceled: 1 });
  expect(await file(`s1,Spelled,Jon,1990-02-03,${day},09:30,`)).toMatchObject({ changed: 1 });
  expect(await rowOf(id, day)).toMatchObject({ canceled: '', freed: 'asked to', reserved: 0 });
  expect(await figures(made.householdId)).toMatchObject({ credit: 800, reserved: 0 });
  await proven();
});
