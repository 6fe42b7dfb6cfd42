/** An insurer's second word: in full on its side, by its difference on the patient's. */
import fc from 'fast-check';
import { type CalendarDate, addDays } from '../core/calendar';
import { TODAY, fileDatabase } from '../testing/database';
import { brokenInvariants, postedRemittance, says, secondCoverage, sentClaim } from '../testing/desk';
import { runs } from '../testing/runs';
import { readStory } from './accounts/ledger';
import { readAccount } from './account-page/read';
import { undoWriteOff } from './follow-ups/undo';
import { readOwed } from './books/owed';
import { closeFollowUp, settleWaiting } from './follow-ups/work';
import { payAgencyFees, postAgencyPayment, recoverBadDebt, writeOffBadDebt } from './overdue/agency-money';
import { approvePlacements, proposePlacements } from './overdue/proposals';
import { reverseAgencyPayment } from './overdue/reverse';
import { reverseReceipt } from './payments/receipts';
import { takeReceipt } from './payments/take';
import { acceptPlan, cancelPlan, proposePlan } from './plans/agree';
import { readPlan } from './plans/read';
import { decideHeld, takeUpAgain } from './remittances/held';
import { postRemittance } from './remittances/post';
import { reverseRemittance } from './remittances/reverse';
import { prepareStatement } from './statements/prepare';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

type Sent = Awaited<ReturnType<typeof sentClaim>>;
let serial = 0;
const key = (): string => `settle-case-${(serial += 1)}`;
const on = (today: CalendarDate) => ({ ...t.context, today });

/** What the payer says: paid, and the patient's part; the rest of 145.00 comes off. */
const word = (s: Sent, paid: number, patient: number) =>
  says(s, paid, [
    ...(145_00 - paid - patient > 0 ? [`CO-45:${((145_00 - paid - patient) / 100).toFixed(2)}`] : []),
    ...(patient > 0 ? [`PR-3:${(patient / 100).toFixed(2)}`] : []),
  ]);
const back = (s: Sent, paid: number, patient: number) =>
  says(
    s,
    -paid,
    [
      ...(145_00 - paid - patient > 0 ? [`CO-45:-${((145_00 - paid - patient) / 100).toFixed(2)}`] : []),
      ...(patient > 0 ? [`PR-3:-${(patient / 100).toFixed(2)}`] : []),
    ],
    '22',
  );
const post = (claims: Parameters<typeof postedRemittance>[1], day = TODAY) =>
  postedRemittance(t, claims, { date: day }, on(day));
/** Takes back what stands and says it anew, in one remittance. */
const again = (s: Sent, from: [number, number], to: [number, number], day = TODAY) =>
  post([back(s, ...from), word(s, ...to)], day);

const pay = async (s: Sent, amount: string, more: Record<string, unknown> = {}) =>
  (
    await takeReceipt(t.context, {
      householdId: s.householdId,
      tenders: [{ tender: 'cash', amount }],
      key: key(),
      ...more,
    })
  ).receiptId;
const stands = async (s: Sent) => {
  const { with_payer, with_patient, on_plan, at_agency, reduced, payer_paid, patient_paid, agency_paid } =
    await t.db
      .selectFrom('charge_balance')
      .selectAll()
      .where('charge_id', '=', s.charges[0]!)
      .executeTakeFirstOrThrow();
  const { credit } = (await readAccount(t.context, s.householdId)).figures;
  return {
    payer: with_payer,
    patient: with_patient,
    plan: on_plan,
    agency: at_agency,
    reduced,
    paidByPayer: payer_paid,
    paidByPatient: patient_paid + agency_paid,
    credit,
  };
};
const entryCount = async () =>
  (
    await t.db
      .selectFrom('entry')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .executeTakeFirstOrThrow()
  ).n;
const followUps = async (s: Sent) =>
  (
    await t.db
      .selectFrom('follow_up')
      .select(['kind', 'closed_at'])
      .where('household_id', '=', s.householdId)
      .orderBy('id')
      .execute()
  ).map(({ kind, closed_at }) => `${kind}${closed_at ? ' (closed)' : ''}`);
async function onPlan(s: Sent): Promise<number> {
  const id = await proposePlan(t.context, {
    householdId: s.householdId,
    installments: 3,
    rate: '0',
    first: addDays(TODAY, 30),
    key: key(),
    sure: true,
  });
  await acceptPlan(t.context, { planId: id, signedBy: 'Nr Tester' });
  return id;
}
/** What is past due of it goes to an agency, so many days later. */
async function placed(s: Sent, day = addDays(TODAY, 60)): Promise<number> {
  await prepareStatement(t.context, { householdId: s.householdId, key: key() });
  const { id: connectionId } = await t.db
    .selectFrom('connection')
    .select('id')
    .where('kind', '=', 'agency')
    .executeTakeFirstOrThrow();
  await proposePlacements(on(day), { householdIds: [s.householdId], connectionId, why: 'nobody answers' });
  const { id } = await t.db
    .selectFrom('placement')
    .select('id')
    .where('household_id', '=', s.householdId)
    .orderBy('id', 'desc')
    .executeTakeFirstOrThrow();
  await approvePlacements(on(day), { placementIds: [id] });
  return id;
}
const notices = (placementId: number) =>
  t.db
    .selectFrom('agency_notice')
    .select(['kind', 'amount'])
    .where('placement_id', '=', placementId)
    .orderBy('id')
    .execute();
const placementOf = (id: number) =>
  t.db.selectFrom('placement').select(['status']).where('id', '=', id).executeTakeFirstOrThrow();
async function decidedClaim(paid = 6800, patient = 3000): Promise<Sent & { remittanceId: number }> {
  const s = await sentClaim(t);
  return { ...s, remittanceId: await post([word(s, paid, patient)]) };
}

describe('the same patient’s part again', () => {
  test('in one remittance: the plan runs on, nothing is due, nothing is followed up', async () => {
    const s = await decidedClaim();
    const planId = await onPlan(s);
    const before = await readPlan(t.context, planId);
    const entries = await entryCount();
    await again(s, [6800, 3000], [7000, 3000]);
    // The taking back, and the new word: nothing beside them.
    expect((await entryCount()) - entries).toBe(2);
    expect(await readPlan(t.context, planId)).toEqual(before);
    expect(await stands(s)).toMatchObject({ plan: 3000, patient: 0, payer: 0, paidByPayer: 7000 });
    expect(await followUps(s)).toEqual([]);
  });

  test('what an agency has stays there, and it is told nothing', async () => {
    const s = await decidedClaim();
    const placementId = await placed(s);
    await again(s, [6800, 3000], [7000, 3000], addDays(TODAY, 61));
    expect(await placementOf(placementId)).toMatchObject({ status: 'placed' });
    expect(await notices(placementId)).toEqual([]);
    expect(await stands(s)).toMatchObject({ agency: 3000, patient: 0 });
  });

  test('the new word before the taking back in the file is the same', async () => {
    const s = await decidedClaim();
    await onPlan(s);
    await post([word(s, 7000, 3000), back(s, 6800, 3000)]);
    expect(await stands(s)).toMatchObject({ plan: 3000, patient: 0, paidByPayer: 7000 });
  });

  test('a remittance reversed and posted anew gives the plan and the agency back what they had', async () => {
    const s = await decidedClaim();
    const planId = await onPlan(s);
    await reverseRemittance(t.context, { remittanceId: s.remittanceId, why: 'looked at it again' });
    // It waits: the plan has nothing and is not over.
    expect(await stands(s)).toMatchObject({ plan: 0, patient: 0, payer: 14_500 });
    expect(await readPlan(t.context, planId)).toMatchObject({ status: 'accepted', left: 0 });
    expect(await followUps(s)).toEqual(['suspended']);
    await takeUpAgain(t.context, { remittanceId: s.remittanceId });
    await postRemittance(t.context, s.remittanceId);
    expect(await stands(s)).toMatchObject({ plan: 3000, patient: 0, payer: 0 });
    expect(await readPlan(t.context, planId)).toMatchObject({ status: 'accepted', left: 3000 });
    expect(await followUps(s)).toEqual(['suspended (closed)']);
  });

  test('two corrections after another: the plan, then the placement, has what is the patient’s and ends when nothing is', async () => {
    const s = await decidedClaim();
    const planId = await onPlan(s);
    await again(s, [6800, 3000], [8800, 1000]);
    expect(await stands(s)).toMatchObject({ plan: 1000, patient: 0, credit: 0 });
    await again(s, [8800, 1000], [9800, 0]);
    expect(await stands(s)).toMatchObject({ plan: 0, patient: 0, credit: 0 });
    expect(await readPlan(t.context, planId)).toMatchObject({ status: 'finished' });
    const other = await decidedClaim();
    const placementId = await placed(other);
    await again(other, [6800, 3000], [8800, 1000], addDays(TODAY, 61));
    await again(other, [8800, 1000], [9800, 0], addDays(TODAY, 62));
    expect(await stands(other)).toMatchObject({ agency: 0, patient: 0 });
    expect(await placementOf(placementId)).toMatchObject({ status: 'paid' });
    expect(await notices(placementId)).toEqual([
      { kind: 'correction', amount: 2000 },
      { kind: 'correction', amount: 1000 },
    ]);
  });
});

describe('less, and more, for the patient', () => {
  test('less comes off what stands with the patient, then the plan, then what was given up, then it is credit', async () => {
    const s = await decidedClaim(0, 14_500);
    await pay(s, '20.00');
    const planId = await proposePlan(t.context, {
      householdId: s.householdId,
      amount: '60.00',
      installments: 3,
      rate: '0',
      first: addDays(TODAY, 30),
      key: key(),
      sure: true,
    });
    await acceptPlan(t.context, { planId, signedBy: 'Nr Tester' });
    await writeOffBadDebt(t.context, { householdId: s.householdId, amount: '40.00', why: 'x', key: key() });
    // 145.00: 25.00 with the patient, 60.00 on the plan, 40.00 given up, 20.00 paid.
    expect(await stands(s)).toMatchObject({ patient: 2500, plan: 6000, reduced: 4000, paidByPatient: 2000 });
    const steps: [from: number, to: number, then: object][] = [
      [14_500, 13_000, { patient: 1000, plan: 6000 }],
      [13_000, 10_000, { patient: 0, plan: 4000, credit: 0 }],
      [10_000, 5000, { patient: 0, plan: 0, paidByPatient: 2000, credit: 0 }],
      [5000, 1500, { patient: 0, paidByPatient: 1500, credit: 500 }],
      [1500, 0, { patient: 0, paidByPatient: 0, credit: 2000 }],
    ];
    for (const [from, to, then] of steps) {
      await again(s, [0, from], [0, to]);
      expect(await stands(s)).toMatchObject(then);
      if (to > 0) continue;
      // Denied in the end: what the payer took off waits with it.
      expect(await stands(s)).toMatchObject({ reduced: 0 });
    }
  });

  test('more is the patient’s of that day, apart from the plan, and on the next statement', async () => {
    const s = await decidedClaim();
    const planId = await onPlan(s);
    const later = addDays(TODAY, 40);
    await again(s, [6800, 3000], [6000, 4200], later);
    expect(await stands(s)).toMatchObject({ plan: 3000, patient: 1200 });
    expect(await readPlan(t.context, planId)).toMatchObject({ left: 3000 });
    expect((await readOwed(on(later), [s.householdId]))[0]!.charges).toMatchObject([
      { owed: 1200, remaining: [{ since: later, amount: 1200 }], pastDue: [] },
    ]);
  });
});

describe('a reversal alone', () => {
  test('suspends: nothing is asked, refunded or ended, a date watches it, and the new word gives the places back', async () => {
    const s = await decidedClaim(0, 14_500);
    await pay(s, '20.00');
    const planId = await onPlan(s);
    const at = addDays(TODAY, 10);
    await post([back(s, 0, 14_500)], at);
    // 20.00 that was paid is held: no credit, and no false overpayment.
    expect(await stands(s)).toMatchObject({ payer: 14_500, patient: -2000, plan: 0, credit: 0 });
    expect(await followUps(s)).toEqual(['suspended']);
    expect(await readPlan(t.context, planId)).toMatchObject({ status: 'accepted' });
    expect(await readOwed(on(at), [s.householdId])).toEqual([]);
    // Weeks later it decides: 80.00 are the patient's, 65.00 less, which come off the plan.
    await post([word(s, 6000, 8000)], addDays(TODAY, 35));
    expect(await stands(s)).toMatchObject({
      payer: 0,
      patient: 0,
      plan: 6000,
      credit: 0,
      paidByPatient: 2000,
    });
    expect(await followUps(s)).toEqual(['suspended (closed)']);
  });

  test('an agency is told to hold, and to go on with what is still the patient’s', async () => {
    const s = await decidedClaim();
    const placementId = await placed(s);
    const at = addDays(TODAY, 61);
    await post([back(s, 6800, 3000)], at);
    expect(await stands(s)).toMatchObject({ agency: 0, patient: 0, payer: 14_500 });
    expect(await placementOf(placementId)).toMatchObject({ status: 'placed' });
    await post([word(s, 8000, 1800)], addDays(at, 20));
    expect(await stands(s)).toMatchObject({ agency: 1800, patient: 0, payer: 0 });
    expect(await notices(placementId)).toEqual([
      { kind: 'hold', amount: 3000 },
      { kind: 'resume', amount: 1800 },
    ]);
  });

  test('a person ends it at the date: passed to the patient it is where it was and as old', async () => {
    const s = await decidedClaim();
    const planId = await onPlan(s);
    const at = addDays(TODAY, 40);
    await post([back(s, 6800, 3000)], at);
    // The payer is never heard of again; all of it is the patient's.
    await settleWaiting(on(at), { chargeId: s.charges[0]!, to: 'patient', why: 'the payer is silent' });
    expect(await stands(s)).toMatchObject({ plan: 3000, patient: 11_500, payer: 0 });
    expect(await readPlan(t.context, planId)).toMatchObject({ status: 'accepted', left: 3000 });
    expect((await readOwed(on(at), [s.householdId]))[0]!.charges).toMatchObject([
      { remaining: [{ since: at, amount: 11_500 }] },
    ]);
    expect(await followUps(s)).toEqual(['suspended (closed)']);
    // It speaks after all: ours gives way.
    await post([word(s, 6800, 3000)], addDays(at, 5));
    expect(await stands(s)).toMatchObject({ plan: 3000, patient: 0, payer: 0, reduced: 4700 });
  });

  test('or ends the waiting: what was kept is given up, what was paid is credit, and the claim waits on', async () => {
    const s = await decidedClaim(0, 14_500);
    await pay(s, '20.00');
    const planId = await onPlan(s);
    const at = addDays(TODAY, 40);
    await post([back(s, 0, 14_500)], at);
    const { id: followUpId } = await t.db
      .selectFrom('follow_up')
      .select('id')
      .where('household_id', '=', s.householdId)
      .where('kind', '=', 'suspended')
      .executeTakeFirstOrThrow();
    await closeFollowUp(on(at), { followUpId, outcome: 'they will send it in a month' });
    expect(await stands(s)).toMatchObject({ payer: 14_500, patient: 0, plan: 0, credit: 2000 });
    expect(await readPlan(t.context, planId)).toMatchObject({ status: 'finished' });
  });

  test('a plan that was cancelled meanwhile gets nothing back: it is the patient’s, as old as it was', async () => {
    const s = await decidedClaim();
    const planId = await onPlan(s);
    const at = addDays(TODAY, 40);
    await post([back(s, 6800, 3000)], at);
    await cancelPlan(on(at), { planId, why: 'asked for it' });
    expect(await stands(s)).toMatchObject({ plan: 0, patient: 0, payer: 14_500 });
    await post([word(s, 6800, 3000)], addDays(at, 5));
    expect(await stands(s)).toMatchObject({ plan: 0, patient: 3000 });
    expect((await readOwed(on(at), [s.householdId]))[0]!.charges).toMatchObject([
      { remaining: [{ since: TODAY, amount: 3000 }] },
    ]);
  });

  test('taken back by us, the earlier word stands again with its plan', async () => {
    const s = await decidedClaim();
    const planId = await onPlan(s);
    const wrong = await post([back(s, 6800, 3000)], addDays(TODAY, 5));
    await reverseRemittance(on(addDays(TODAY, 6)), { remittanceId: wrong, why: 'meant another claim' });
    expect(await stands(s)).toMatchObject({ plan: 3000, patient: 0, payer: 0, paidByPayer: 6800 });
    expect(await readPlan(t.context, planId)).toMatchObject({ status: 'accepted', left: 3000 });
    expect(await followUps(s)).toEqual(['suspended (closed)']);
  });
});

describe('what we settled ourselves is undone first', () => {
  const denied = async () => {
    const s = await sentClaim(t);
    await post([says(s, 0, ['CO-50:145.00'])]);
    return s;
  };
  const settle = (s: Sent, to: 'patient' | 'off') =>
    settleWaiting(t.context, {
      chargeId: s.charges[0]!,
      to,
      exception: to === 'patient' ? 'notice' : undefined,
      why: 'the payer refused it',
    });

  test('denied, passed to the patient and paid, then paid after all: 68 + 47 + 30 = 145, and 115.00 are credit', async () => {
    const s = await denied();
    await settle(s, 'patient');
    await pay(s, '145.00');
    await post([says(s, 6800)], addDays(TODAY, 30));
    expect(await stands(s)).toEqual({
      payer: 0,
      patient: 0,
      plan: 0,
      agency: 0,
      reduced: 4700,
      paidByPayer: 6800,
      paidByPatient: 3000,
      credit: 11_500,
    });
    const { charges, closing } = await readStory(t.context, s.householdId, s.charges[0]);
    expect(closing).toMatch(/Nothing is yours to pay now/);
    expect(JSON.stringify(charges)).toMatch(/115\.00 that you had paid became credit/);
  });

  test('written off by us, then paid after all: only what the payer takes off is off', async () => {
    const s = await denied();
    await settle(s, 'off');
    expect(await stands(s)).toMatchObject({ reduced: 14_500 });
    await post([says(s, 6800)]);
    expect(await stands(s)).toMatchObject({ reduced: 4700, paidByPayer: 6800, patient: 3000, payer: 0 });
  });

  test('a part that was denied and written off, then paid on top', async () => {
    const s = await sentClaim(t);
    // 68.00 paid, 77.00 refused.
    await post([says(s, 6800, ['OA-59:77.00'])]);
    await settle(s, 'off');
    const id = await post([says(s, 4700, ['OA-59:98.00'])], addDays(TODAY, 20));
    const { id: held } = await t.db
      .selectFrom('remittance_claim')
      .select('id')
      .where('remittance_id', '=', id)
      .executeTakeFirstOrThrow();
    await decideHeld(t.context, { remittanceClaimId: held, as: 'additional', why: 'the appeal was won' });
    expect(await stands(s)).toMatchObject({ payer: 0, paidByPayer: 11_500, reduced: 3000, patient: 0 });
  });

  test('denied again, our decision stays; a person can take it back', async () => {
    const s = await denied();
    await settle(s, 'patient');
    await pay(s, '145.00');
    await post([says(s, 0, ['CO-50:145.00'])], addDays(TODAY, 9));
    expect(await stands(s)).toMatchObject({ paidByPatient: 14_500, payer: 0, credit: 0 });
    const { id } = await t.db
      .selectFrom('entry as e')
      .innerJoin('posting as p', 'p.entry_id', 'e.id')
      .select('e.id')
      .where('e.kind', '=', 'to-patient')
      .where('p.charge_id', '=', s.charges[0]!)
      .executeTakeFirstOrThrow();
    await undoWriteOff(t.context, { entryId: id, why: 'pressed the wrong one' });
    expect(await stands(s)).toMatchObject({ payer: 14_500, patient: 0, paidByPatient: 0, credit: 14_500 });
    expect((await followUps(s)).filter((one) => !one.includes('closed'))).toEqual(['denial']);
    expect(await followUps(s)).toEqual(['denial']);
    await expect(undoWriteOff(t.context, { entryId: id, why: 'x' })).rejects.toThrow(/taken back before/);
  });

  test('what was given up and is then paid is no debt below zero, and nothing of it is recovered out of credit', async () => {
    const s = await decidedClaim();
    await writeOffBadDebt(t.context, { householdId: s.householdId, why: 'moved away', key: key() });
    await again(s, [6800, 3000], [9800, 0]);
    expect(await stands(s)).toMatchObject({ patient: 0, reduced: 4700, paidByPayer: 9800, payer: 0 });
    const { closing } = await readStory(t.context, s.householdId);
    expect(closing).toMatch(/Nothing is yours to pay now/);
    await pay(s, '30.00');
    await expect(recoverBadDebt(t.context, { householdId: s.householdId, key: key() })).rejects.toThrow(
      /nothing was given up/,
    );
  });
});

describe('a correction that a person chooses', () => {
  test('after the payer’s own reversal takes back only what stands', async () => {
    const s = await decidedClaim();
    await again(s, [6800, 3000], [7300, 3000]);
    const before = await cash(s);
    const id = await post([word(s, 6000, 4000)], addDays(TODAY, 9));
    const { id: held } = await t.db
      .selectFrom('remittance_claim')
      .select('id')
      .where('remittance_id', '=', id)
      .executeTakeFirstOrThrow();
    await decideHeld(t.context, { remittanceClaimId: held, as: 'correction', why: 'the payer said so' });
    expect(before).toBe(7300);
    expect(await stands(s)).toMatchObject({ paidByPayer: 6000, patient: 4000, payer: 0 });
    // 73.00 of the one before are the payer's; not 141.00.
    expect(await heldFor(s)).toBe(7300);
  });

  test('A was right after all, and B again: as often as it takes', async () => {
    const s = await decidedClaim();
    const { id: a } = await t.db
      .selectFrom('remittance_claim')
      .select('id')
      .where('remittance_id', '=', s.remittanceId)
      .executeTakeFirstOrThrow();
    const second = await post([word(s, 6000, 4000)], addDays(TODAY, 9));
    const { id: b } = await t.db
      .selectFrom('remittance_claim')
      .select('id')
      .where('remittance_id', '=', second)
      .executeTakeFirstOrThrow();
    const choose = (id: number) =>
      decideHeld(t.context, { remittanceClaimId: id, as: 'correction', why: 'that one was right' });
    await choose(b);
    expect(await stands(s)).toMatchObject({ paidByPayer: 6000, patient: 4000 });
    await choose(a);
    expect(await stands(s)).toMatchObject({ paidByPayer: 6800, patient: 3000 });
    await choose(b);
    await choose(a);
    expect(await stands(s)).toMatchObject({ paidByPayer: 6800, patient: 3000 });
    expect(await heldFor(s)).toBe(6000);
  });

  const cash = async (s: Sent) => (await stands(s)).paidByPayer;
  const heldFor = async (s: Sent): Promise<number> => {
    const rows = await t.db
      .selectFrom('posting as p')
      .innerJoin('remittance_claim as c', 'c.id', 'p.remittance_claim_id')
      .select('p.amount')
      .where('p.account', '=', 'credit/payer')
      .where('c.control_number', '=', s.claim.control_number)
      .execute();
    return -rows.reduce((all, { amount }) => all + amount, 0);
  };
});

describe('a second coverage', () => {
  test('added after the decision, it is not turned to by the reversal', async () => {
    const s = await decidedClaim();
    await secondCoverage(t, s.patientId);
    await post([back(s, 6800, 3000)], addDays(TODAY, 5));
    expect(await stands(s)).toMatchObject({ payer: 14_500, patient: 0 });
    const by = await t.db
      .selectFrom('payer_balance')
      .select('with_payer')
      .where('charge_id', '=', s.charges[0]!)
      .execute();
    expect(by).toEqual([{ with_payer: 14_500 }]);
  });

  test('what was passed on to it, settled to the patient and paid comes back when the first payer lowers it', async () => {
    const s = await sentClaim(t);
    await secondCoverage(t, s.patientId);
    await post([word(s, 6800, 3000)]);
    expect(await stands(s)).toMatchObject({ payer: 3000, patient: 0 });
    await settleWaiting(t.context, {
      chargeId: s.charges[0]!,
      to: 'patient',
      why: 'the other one has ended',
    });
    await pay(s, '30.00');
    await again(s, [6800, 3000], [8800, 1000]);
    expect(await stands(s)).toMatchObject({ payer: 0, patient: 0, paidByPatient: 1000, credit: 2000 });
  });

  test('taken back alone by the first payer, what was settled there with the patient waits as everything else does', async () => {
    const s = await sentClaim(t);
    await secondCoverage(t, s.patientId);
    await post([word(s, 6800, 3000)]);
    const toPatient = (day: CalendarDate) =>
      settleWaiting(on(day), { chargeId: s.charges[0]!, to: 'patient', why: 'the other one has ended' });
    await toPatient(TODAY);
    await pay(s, '30.00');
    await post([back(s, 6800, 3000)], addDays(TODAY, 10));
    // The 30.00 are neither owed nor credit, and a date watches them.
    expect(await stands(s)).toMatchObject({ payer: 14_500, patient: -3000, paidByPatient: 3000, credit: 0 });
    expect((await followUps(s)).filter((kind) => kind === 'suspended')).toHaveLength(1);
    expect(await readOwed(on(addDays(TODAY, 10)), [s.householdId])).toEqual([]);
    // The new word passes 10.00 on to the second coverage again, and what was paid waits with it.
    await post([word(s, 8800, 1000)], addDays(TODAY, 20));
    expect(await stands(s)).toMatchObject({ payer: 1000, patient: -3000, credit: 0 });
    await toPatient(addDays(TODAY, 21));
    expect(await stands(s)).toMatchObject({ payer: 0, patient: 0, paidByPatient: 1000, credit: 2000 });
    expect((await followUps(s)).filter((kind) => !kind.endsWith('(closed)'))).toEqual([]);
  });
});

describe('an agency', () => {
  test('collected what the insurer pays afterwards: it is the patient’s credit, and goes back when the payment bounces', async () => {
    const s = await decidedClaim();
    const placementId = await placed(s);
    const day = addDays(TODAY, 61);
    await postAgencyPayment(on(day), {
      placementId,
      reference: 'A-1',
      paidOn: day,
      gross: '30.00',
      key: key(),
    });
    expect(await stands(s)).toMatchObject({ agency: 0, paidByPatient: 3000 });
    await again(s, [6800, 3000], [9800, 0], day);
    expect(await stands(s)).toMatchObject({ patient: 0, agency: 0, paidByPatient: 0, credit: 3000 });
    const [receipt] = (await readAccount(t.context, s.householdId)).receipts;
    await expect(reverseReceipt(t.context, { receiptId: receipt!.id, why: 'x' })).rejects.toThrow(
      /agency had collected it/,
    );
    const { id: paymentId } = await t.db
      .selectFrom('agency_payment')
      .select('id')
      .where('placement_id', '=', placementId)
      .executeTakeFirstOrThrow();
    await reverseAgencyPayment(on(day), { paymentId, why: 'bounced' });
    expect(await stands(s)).toMatchObject({ patient: 0, agency: 0, paidByPatient: 0, credit: 0 });
  });

  test('whose fee was paid for a payment that bounced is paid so much less the next time', async () => {
    const { connection_id: connectionId } = await t.db
      .selectFrom('placement')
      .select('connection_id')
      .limit(1)
      .executeTakeFirstOrThrow();
    const first = await decidedClaim();
    const placementId = await placed(first);
    const day = addDays(TODAY, 61);
    const direct = async (amount: string) =>
      (
        await takeReceipt(on(day), {
          householdId: first.householdId,
          tenders: [{ tender: 'cash', amount }],

          agency: amount,
          key: key(),
        })
      ).receiptId;
    const owedTo = async () =>
      (
        await t.db
          .selectFrom('posting as p')
          .innerJoin('placement as g', 'g.id', 'p.placement_id')
          .select(({ fn }) => fn.sum<number>('p.amount').as('amount'))
          .where('g.connection_id', '=', connectionId)
          .where('p.account', '=', 'payable/agency-fee')
          .executeTakeFirstOrThrow()
      ).amount;
    const before = -(await owedTo());
    const receiptId = await direct('20.00');
    expect(-(await owedTo()) - before).toBe(500);
    await payAgencyFees(on(day), {
      connectionId,
      amount: ((before + 500) / 100).toFixed(2),
      reference: 'F-1',
      key: key(),
    });
    await reverseReceipt(on(day), { receiptId, why: 'bounced' });
    expect(await owedTo()).toBe(500);
    await direct('28.00');
    // 7.00 for this one less 5.00 that were paid for nothing.
    expect(-(await owedTo())).toBe(200);
    await expect(
      payAgencyFees(on(day), { connectionId, amount: '2.01', reference: 'F-2', key: key() }),
    ).rejects.toThrow(/2\.00 is owed to it/);
    await payAgencyFees(on(day), { connectionId, amount: '2.00', reference: 'F-2', key: key() });
    expect(await owedTo()).toBe(0);
    expect(placementId).toBeGreaterThan(0);
  });
});

test('each reason tells its own movement, whatever else has the same amount', async () => {
  const s = await sentClaim(t);
  // 30.00 are the patient's copay, and 30.00 of another reason stay with the payer.
  await post([says(s, 3800, ['CO-45:47.00', 'PR-3:30.00', 'OA-59:30.00'])]);
  const { charges } = await readStory(t.context, s.householdId, s.charges[0]);
  const told = charges.flatMap(({ sentences }) => sentences.map(({ words }) => words));
  expect(told.filter((words) => /was refused/.test(words))).toHaveLength(1);
  expect(told.filter((words) => /refused.*copay/.test(words))).toEqual([]);
  expect(told.filter((words) => /30\.00 passed to you.*copay/.test(words))).toHaveLength(1);
});

describe('property', () => {
  const said = fc
    .tuple(fc.integer({ min: 0, max: 14_500 }), fc.integer({ min: 0, max: 14_500 }))
    .map(([paid, patient]): [number, number] => [paid, Math.min(patient, 14_500 - paid)])
    .filter(([paid, patient]) => paid + patient > 0);
  const between = fc.constantFrom('nothing', 'pay', 'plan', 'give up', 'statement', 'alone', 'credit');

  test('words w1 … wn end in the same amounts by charge and payer as wn alone, whatever stood between', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(said, between), { minLength: 2, maxLength: 5 }), async (words) => {
        const s = await sentClaim(t);
        let stood: [number, number] | null = null;
        let planned = false;
        for (const [[paid, patient], then] of words) {
          const apart = then === 'alone' && stood !== null;
          if (apart) await post([back(s, ...stood!)]);
          await post([...(stood && !apart ? [back(s, ...stood)] : []), word(s, paid, patient)]);
          stood = [paid, patient];
          const owed = (await stands(s)).patient;
          if (then === 'pay' && owed > 1) await pay(s, (Math.ceil(owed / 2) / 100).toFixed(2));
          if (then === 'credit') await pay(s, '7.00', { parts: {} });
          if (then === 'statement' && owed > 0)
            await prepareStatement(t.context, { householdId: s.householdId, key: key() });
          if (then === 'give up' && owed > 1)
            await writeOffBadDebt(t.context, {
              householdId: s.householdId,
              amount: '0.01',
              why: 'x',
              key: key(),
            }).catch(() => undefined);
          if (then === 'plan' && owed > 3000 && !planned) {
            await onPlan(s).catch(() => undefined);
            planned = true;
          }
        }
        const [paid, patient] = words.at(-1)![0];
        const now = await stands(s);
        const given = await t.db
          .selectFrom('posting')
          .select('amount')
          .where('charge_id', '=', s.charges[0]!)
          .where('account', '=', 'reduction/bad-debt')
          .execute();
        const givenUp = given.reduce((all, { amount }) => all + amount, 0);
        expect({
          paid: now.paidByPayer,
          off: now.reduced - givenUp,
          patient: now.patient + now.plan + now.agency + now.paidByPatient + givenUp,
          payer: now.payer,
        }).toEqual({ paid, off: 14_500 - paid - patient, patient, payer: 0 });
        expect(now.patient).toBeGreaterThanOrEqual(0);
      }),
      { numRuns: runs(120) },
    );
  }, 120_000);
});
