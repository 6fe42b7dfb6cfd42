/** A reason code with its uses, and what Setup says of it where it is used. Worked by hand on visits of 145.00. */
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, postedRemittance, says, sentClaim } from '../../testing/desk';
import { settleWaiting } from '../follow-ups/work';
import { searchEverything } from '../search/find';
import { readReason } from './reason-page';
import { addKeyedClaim, saveKeyedClaim, startKeyed } from './keyed';
import { readKeyed } from './keyed-page';
import { reverseRemittance } from './reverse';
import { cents, ZERO } from '../../core/money';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

const use = async (code: string, group: string, more: object = {}) =>
  (await readReason(t.context, { code, ...more })).uses.find((one) => one.group === group);

test('what was taken off, passed on and refused, and what came of what was refused; taken back it is nothing', async () => {
  expect((await readReason(t.context, { code: '97' })).uses).toEqual([]);
  const waits = await sentClaim(t);
  const off = await sentClaim(t);
  const patient = await sentClaim(t);
  const paid = await sentClaim(t);
  const back = await sentClaim(t);
  const denied = ['CO-97:145.00'];
  await postedRemittance(
    t,
    [waits, off, paid].map((made) => says(made, 0, denied)),
  );
  await postedRemittance(t, [says(patient, 0, ['PR-27:145.00'])]);
  const reversed = await postedRemittance(t, [says(back, 0, denied)]);
  await reverseRemittance(t.context, { remittanceId: reversed, why: 'test' });
  await settleWaiting(t.context, { chargeId: off.charges[0]!, to: 'off', why: 'test' });
  await settleWaiting(t.context, { chargeId: patient.charges[0]!, to: 'patient', why: 'test' });
  await postedRemittance(t, [says(paid, 6800, ['CO-45:47.00', 'PR-3:30.00'])]);
  expect(await use('97', 'CO')).toMatchObject({
    lines: 3,
    amount: 43_500,
    takenOff: 0,
    passedOn: 0,
    waits: 14_500,
    givenUp: 14_500,
    patients: 0,
    // 98.00 of it: the other 47.00 are said under another reason.
    paid: 14_500,
    nexts: 0,
    followUps: 1,
  });
  expect(await use('27', 'PR')).toMatchObject({
    lines: 1,
    amount: 14_500,
    patients: 14_500,
    waits: 0,
    followUps: 0,
  });
  expect(await use('45', 'CO')).toMatchObject({ lines: 1, amount: 4700, takenOff: 4700, waits: 0, paid: 0 });
  expect(await use('3', 'PR')).toMatchObject({ lines: 1, amount: 3000, passedOn: 3000, takenOff: 0 });
  // Of other days nothing is said.
  expect(await use('97', 'CO', { to: addDays(TODAY, -1) })).toBeUndefined();
});

test('what Setup says of it by group; what nobody knows is refused; who reads no remittances reads none of it', async () => {
  const { rows } = await readReason(t.context, { code: '45' });
  expect(rows.map(({ group }) => group)).toEqual(['*', 'PR']);
  expect(rows[0]).toMatchObject({ words: 'Over the contracted fee', denial: false, standard: true });
  await expect(readReason(t.context, { code: 'ZZ9' })).rejects.toMatchObject({ code: 'unknown' });
  await expect(readReason(t.context, { code: '4;5' })).rejects.toMatchObject({ field: 'code' });
  await expect(readReason(t.context, { code: '45', from: '2026-12-31' })).rejects.toMatchObject({
    field: 'from',
  });
  await expect(readReason(t.as('front-desk'), { code: '45' })).rejects.toThrow(/may not/);
});

test('a follow-up is whose its reason names, and due in as many days', async () => {
  await t.db
    .updateTable('reason_code')
    .set({ follow_up_owner: 'Ina', follow_up_days: 2 })
    .where('code', '=', '97')
    .where('group_code', '=', '*')
    .execute();
  const made = await sentClaim(t);
  await postedRemittance(t, [says(made, 0, ['CO-97:145.00'])]);
  const raised = await t.db
    .selectFrom('follow_up')
    .select(['owner', 'due_date'])
    .where('charge_id', '=', made.charges[0]!)
    .execute();
  expect(raised).toEqual([{ owner: 'Ina', due_date: addDays(TODAY, 2) }]);
  await t.db
    .updateTable('reason_code')
    .set({ follow_up_owner: null, follow_up_days: null })
    .where('code', '=', '97')
    .execute();
});

test('a code of our own is warned of where it is keyed, with what it goes on as', async () => {
  await t.db
    .insertInto('reason_code')
    .values({
      group_code: 'CO',
      code: 'HH1',
      words: 'House rule',
      patient_words: '',
      travels_as: 'CO-192',
      standard: false,
    })
    .execute();
  const made = await sentClaim(t);
  const keyedId = await startKeyed(t.context, {
    payerId: made.claim.payer_id,
    amount: '68.00',
    method: 'CHK',
    trace: 'OWN1',
    paymentDate: TODAY,
    source: 'mail',
    key: 'own code',
  });
  const keyedClaimId = await addKeyedClaim(t.context, {
    keyedId,
    controlNumber: made.claim.control_number,
    key: 'own code',
  });
  const warnings = async () => (await readKeyed(t.context, keyedId)).claims[0]!.warnings;
  expect(await warnings()).toEqual([]);
  await saveKeyedClaim(t.context, {
    keyedClaimId,
    status: '1',
    payerClaimNumber: '',
    lines: [
      {
        number: 1,
        allowed: null,
        deductible: ZERO,
        coinsurance: ZERO,
        copay: cents(3000),
        paid: cents(6800),
        reasons: [{ group: 'CO', reason: 'HH1', amount: cents(4700) }],
        remarks: [],
      },
    ],
    seen: 1,
  });
  expect(await warnings()).toEqual(['CO-HH1 is a code of our own: it goes on to the next payer as CO-192']);
});

test('the search field finds a reason as the trade writes it', async () => {
  const found = async (text: string) =>
    (await searchEverything(t.context, text)).filter(({ href }) => href.startsWith('/remittances/reasons/'));
  expect(await found('CO-45')).toMatchObject([{ href: '/remittances/reasons/45', detail: 'every group' }]);
  expect(await found('pr 45')).toMatchObject([{ detail: 'PR' }]);
  expect(await found('CO-ZZ')).toEqual([]);
  expect(await found('45')).toEqual([]);
});
