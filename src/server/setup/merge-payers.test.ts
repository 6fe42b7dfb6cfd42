/** Payers that are one: what stands goes on under the other's name, and what was written is reversed as it was written. */
import { sql } from 'kysely';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, decided, doWork, household, postedRemittance } from '../../testing/desk';
import { buildClaims } from '../claims/build';
import { readClaim } from '../claims/read';
import { sendClaims } from '../claims/send';
import { addKeyedClaim, closeAndPost, saveKeyedClaim, startKeyed } from '../remittances/keyed';
import { findList } from '../lists/read';
import { readRemittance } from '../remittances/read';
import { takeUpAgain } from '../remittances/held';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';
import { reportOf } from '../reports';
import { mergePayers } from './merge-payers';
import { readSetup } from './read';

const t = fileDatabase();
let serial = 0;

/** A payer of the same name but for a letter, with a plan of the first one's terms. */
async function twin() {
  serial += 1;
  const { rows } = await sql<{ id: number; name: string }>`
    insert into payer (name, payer_id, connection_id, filing_code)
    select name || ' Inc ${sql.raw(String(serial))}', 'TWIN${sql.raw(String(serial))}', connection_id, filing_code
    from payer where payer_id = 'CSH01'
    returning id, name`.execute(t.owner);
  const [payer] = rows;
  const plan = await t.owner
    .insertInto('insurance_plan')
    .values({ payer_id: payer!.id, name: 'Harbor PPO' })
    .returning('id')
    .executeTakeFirstOrThrow();
  return { payerId: payer!.id, name: payer!.name, code: `TWIN${serial}`, planId: plan.id };
}
const cedar = async (): Promise<number> =>
  (await t.db.selectFrom('payer').select('id').where('payer_id', '=', 'CSH01').executeTakeFirstOrThrow()).id;

/** A visit of 145.00 that was sent to a payer by one of its plans. */
async function sentTo(insurancePlanId: number) {
  const made = await household(t, true, { insurancePlanId });
  await charge(t, t.context, made.patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId: made.householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const { content } = await readClaim(t.context, claimId!);
  return { ...made, claimId: claimId!, claim: content.controlNumber, control: content.lines[0]!.control };
}
const said = ({ claim, control }: { claim: string; control: string }) =>
  decided(claim, [{ control, charge: 14_500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] }]);
const payersOf = async (remittanceId: number): Promise<number[]> =>
  (
    await sql<{ payer: number }>`
      select distinct p.payer_id as payer
      from posting p
      where p.remittance_id = ${remittanceId} and p.payer_id is not null
      order by 1`.execute(t.db)
  ).rows.map(({ payer }) => payer);

test('what was decided under one name is taken back under it, and decided anew under the other', async () => {
  const [into, from] = [await cedar(), await twin()];
  const s = await sentTo(from.planId);
  const waiting = await sentTo(from.planId);
  const payer = { name: from.name, id: from.code };
  const remittanceId = await postedRemittance(t, [said(s)], { payer, providerAdjustments: [] });
  expect(await payersOf(remittanceId)).toEqual([from.payerId]);
  await mergePayers(t.context, { payerId: from.payerId, intoId: into, why: 'one company' });
  await doWork(t);
  expect(await brokenInvariants(t)).toEqual([]);
  // Lists and reports know one payer.
  const { rows } = await findList(t.context, 'with-payers', {
    filters: { payer: into },
    pageSize: 100,
  });
  expect(rows.map(({ account }) => account)).toContain(waiting.number);
  const aging = await reportOf('payer-aging')!.read(t.context, {});
  expect(JSON.stringify(aging.groups)).not.toContain(from.name);
  // What was written is reversed as it was written, and posted again for the payer that it is now.
  await reverseRemittance(t.context, { remittanceId, why: 'posted by mistake' });
  expect(await brokenInvariants(t)).toEqual([]);
  await takeUpAgain(t.context, { remittanceId });
  await postRemittance(t.context, remittanceId);
  expect(await payersOf(remittanceId)).toEqual([into, from.payerId].sort((a, b) => a - b));
  const { rows: now } = await readRemittance(t.context, remittanceId);
  expect(now.map(({ status }) => status)).toContain('posted');
  // A file that names the old one is the other's.
  const later = await postedRemittance(t, [said(waiting)], { payer });
  expect(await payersOf(later)).toEqual([into]);
  expect(await brokenInvariants(t)).toEqual([]);
});

test('a plan of the same name is told apart, and what is merged is offered no more', async () => {
  const [into, from] = [await cedar(), await twin()];
  await mergePayers(t.context, { payerId: from.payerId, intoId: into, why: 'one company' });
  const plan = await t.db
    .selectFrom('insurance_plan')
    .selectAll()
    .where('id', '=', from.planId)
    .executeTakeFirstOrThrow();
  expect([plan.payer_id, plan.name]).toEqual([into, `Harbor PPO (${from.name})`]);
  const { fields } = await readSetup(t.context, 'plans');
  const choices = fields.find(({ name }) => name === 'payer_id')!.choices!.map(({ value }) => value);
  expect(choices).toContain(String(into));
  expect(choices).not.toContain(String(from.payerId));
});

test('two that were merged into one go along when that is merged too', async () => {
  const [into, first, second] = [await cedar(), await twin(), await twin()];
  const s = await sentTo(first.planId);
  const remittanceId = await postedRemittance(t, [said(s)], { payer: { name: first.name, id: first.code } });
  await mergePayers(t.context, { payerId: first.payerId, intoId: second.payerId, why: 'bought' });
  await expect(
    mergePayers(t.context, { payerId: into, intoId: first.payerId, why: 'x' }),
  ).rejects.toMatchObject({ code: 'state', field: 'intoId' });
  await mergePayers(t.context, { payerId: second.payerId, intoId: into, why: 'bought again' });
  const { rows } = await sql<{ now: number }>`select payer_now(${first.payerId}) as now`.execute(t.db);
  expect(rows).toEqual([{ now: into }]);
  await reverseRemittance(t.context, { remittanceId, why: 'x' });
  expect(await brokenInvariants(t)).toEqual([]);
});

test('nobody is merged into itself, into what is not there, twice, or by another role', async () => {
  const [into, from] = [await cedar(), await twin()];
  const merge = (more: object, context = t.context) =>
    mergePayers(context, { payerId: from.payerId, intoId: into, why: 'one', ...more });
  await expect(merge({ intoId: from.payerId })).rejects.toMatchObject({ code: 'invalid' });
  await expect(merge({ intoId: 99_999_999 })).rejects.toMatchObject({ code: 'unknown', field: 'intoId' });
  await expect(merge({ payerId: 99_999_999 })).rejects.toMatchObject({ code: 'unknown', field: 'payerId' });
  await expect(merge({ why: ' ' })).rejects.toThrow(/Say how/);
  await expect(merge({}, t.as('biller'))).rejects.toThrow(/may not/);
  await merge({});
  await expect(merge({})).rejects.toMatchObject({ code: 'already' });
  // Whoever writes, an alias is of one that stands for itself.
  await expect(
    t.owner.updateTable('payer').set({ merged_into: from.payerId }).where('id', '=', into).execute(),
  ).rejects.toThrow(/stands for itself/);
  await expect(
    t.owner.updateTable('payer').set({ merged_into: into }).where('id', '=', into).execute(),
  ).rejects.toThrow(/check/);
});

test('a paper of the one payer that is being keyed is the other’s, with its claims', async () => {
  const [into, from] = [await cedar(), await twin()];
  const s = await sentTo(from.planId);
  const keyedId = await startKeyed(t.context, {
    payerId: from.payerId,
    amount: '68.00',
    method: 'CHK',
    trace: `MERGED-${from.code}`,
    paymentDate: TODAY,
    source: 'mail',
    key: `merged paper ${from.code}`,
  });
  await mergePayers(t.context, { payerId: from.payerId, intoId: into, why: 'one company' });
  await doWork(t);
  const keyedClaimId = await addKeyedClaim(t.context, {
    keyedId,
    controlNumber: s.claim,
    key: `merged claim ${from.code}`,
  });
  const line = { number: 1, allowed: 9800, deductible: 0, coinsurance: 0, copay: 3000, paid: 6800 };
  await saveKeyedClaim(t.context, {
    keyedClaimId,
    status: '1',
    payerClaimNumber: '',
    lines: [{ ...line, reasons: [], remarks: [] }],
    seen: 1,
  });
  const { posted, remittanceId } = await closeAndPost(t.context, { keyedId });
  expect(posted).toBe(1);
  expect(await payersOf(remittanceId)).toEqual([into]);
  expect(await brokenInvariants(t)).toEqual([]);
});
