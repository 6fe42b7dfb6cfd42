/**
 * Histories of one household, held against a second ledger that knows nothing of this program. A test file that imports this has a
 * database of its own for them.
 */
import fc from 'fast-check';
import { sql } from 'kysely';
import { type CalendarDate, addDays, daysBetween } from '../core/calendar';
import { type Cents, cents, formatMoneyPlain, toDecimal } from '../core/money';
import { TODAY, fileDatabase } from './database';
import { brokenInvariants, decided, household, postedRemittance, secondCoverage } from './desk';
import { FULL, PROPERTIES } from './runs';
import { SecondLedger } from './second-ledger';
import { Refused } from '../server/access';
import { takeOffForbidden } from '../server/accounts/bill-patient';
import { enterCharge } from '../server/accounts/charges';
import { addCoverage, changeCoverage } from '../server/accounts/coverage';
import { readStory } from '../server/accounts/ledger';
import { mergeHouseholds, mergePeople } from '../server/accounts/merge';
import { moveCharge } from '../server/accounts/move';
import { addMember } from '../server/accounts/register';
import { buildClaims } from '../server/claims/build';
import { sendClaims } from '../server/claims/send';
import { settleWaiting } from '../server/follow-ups/work';
import { postAgencyPayment, recoverBadDebt, writeOffBadDebt } from '../server/overdue/agency-money';
import { readOverdue } from '../server/overdue/facts';
import { recallPlacement } from '../server/overdue/placements';
import { approvePlacements, proposePlacements } from '../server/overdue/proposals';
import { writeOffSmall } from '../server/overdue/small';
import { spendCredit } from '../server/payments/credit';
import { refundCredit } from '../server/payments/refund';
import { expectVisit, freeReserved } from '../server/payments/visits';
import { returnTender } from '../server/payments/put-right';
import { reverseReceipt } from '../server/payments/receipts';
import { takeReceipt } from '../server/payments/take';
import { plansOf } from '../server/plans/read';
import { acceptPlan, cancelPlan, proposePlan } from '../server/plans/agree';
import { watchPlans } from '../server/plans/watch';
import { weighHouseholds } from '../server/statements/choosing';
import { setConfidential } from '../server/accounts/confidential';
import { postLate } from '../server/statements/late';
import { prepareStatement } from '../server/statements/prepare';
import { householdAging } from '../server/books/balances';

const t = fileDatabase();
beforeAll(async () => {
  await t.db
    .updateTable('statement_policy')
    .set({ late_kind: 'flat', late_flat: cents(500) })
    .execute();
});

const STEPS = [
  'visit',
  'visit',
  'own',
  'own',
  'decide',
  'decide',
  'decide',
  'decide',
  'settle',
  'settle',
  'pay',
  'pay',
  'spend',
  'check in',
  'free',
  'give back',
  'comes back',
  'reverse',
  'plan',
  'installment',
  'watch plan',
  'cancel plan',
  'state',
  'state',
  'wait',
  'wait',
  'late',
  'place',
  'agency pays',
  'pay agency',
  'recall',
  'give up',
  'recover',
  'small',
  'forbid',
  'word',
  'word',
  'word',
  'take back',
  'merge',
  'move',
  'next',
] as const;
/** What comes between two stations. */
type Seam = 'unbilled visit' | 'uncover' | 'same word' | 'less for the patient' | 'paid after all';
/** What a payer says of a visit, in cents. */
interface Said {
  paid: number;
  off: number;
  patient: number;
  group?: 'CO' | 'PI';
  reason?: string;
  open?: number;
  /** The group and code under which it is left open. */
  openAs?: string;
}
/** What is done next, with two numbers of which it makes amounts and choices. */
export interface Step {
  do: (typeof STEPS)[number] | Seam;
  a: number;
  b: number;
}
/** A step of a history. */
export const step = (what: Step['do'], a = 100, b = 1): Step => ({ do: what, a, b });
/** What takes several steps in their order to come about. */
const OPENINGS: readonly (readonly Step[])[] = [
  [],
  [step('own', 8000), step('wait', 9), step('own', 8000), step('pay', 5000), step('pay', 5000)],
  [step('own', 8000), step('state'), step('wait', 39), step('late'), step('place')],
  [
    step('own', 8000),
    step('state'),
    step('wait', 39),
    step('place'),
    step('agency pays', 2000),
    step('pay agency', 1000),
  ],
  [
    step('own', 8000),
    step('state'),
    step('wait', 39),
    step('place'),
    step('recall'),
    step('give up'),
    step('pay', 3000),
    step('recover'),
  ],
  [step('pay', 5000), step('own', 3000), step('spend'), step('move'), step('merge', 0, 1)],
  [step('visit', 14_400), step('decide', 0, 3), step('next', 3000)],
  [step('own', 300), step('wait', 39), step('wait', 39), step('small')],
  // Denied, passed to the patient and paid; left open under CR and written off; then whatever the payer says.
  [step('visit', 14_400), step('decide', 0, 4), step('settle', 1), step('pay', 14_499)],
  [step('visit', 9000), step('decide', 5000, 6), step('settle', 0)],
  [step('visit', 9000), step('decide', 5000, 0), step('wait', 9), step('take back'), step('wait', 9)],
  [
    step('visit', 9000),
    step('decide', 9000, 3),
    step('plan', 0, 1),
    step('wait', 39),
    step('watch plan'),
    step('installment', 2000),
  ],
];
const histories = fc.record({
  apart: fc.boolean(),
  twice: fc.boolean(),
  steps: fc
    .tuple(
      fc.constantFrom(...OPENINGS),
      fc.array(fc.record({ do: fc.constantFrom(...STEPS), a: fc.nat(30_000), b: fc.nat(1000) }), {
        minLength: 6,
        maxLength: 30,
      }),
    )
    .map(([opening, more]) => [...opening, ...more]),
});

const START = addDays(TODAY, -400);
const dayOf = (date: CalendarDate): number => daysBetween(START, date);
let serial = 0;
/** The last refusal of each step. */
const refused = new Map<string, string>();
const key = (): string => `second-ledger-${(serial += 1)}`;

/**
 * Plays a history with both. A household of two: one is covered, by two payers where that is said, the other pays for itself, with an
 * address apart where that is said.
 * @returns the steps that were done
 */
export async function play(apart: boolean, steps: readonly Step[], twice = false): Promise<string[]> {
  const made = await household(t, true, { birthDate: '1980-01-01' });
  const { patientId } = made;
  let { householdId } = made;
  const addOne = () =>
    addMember(t.context, {
      householdId,
      last: 'Tester',
      first: `Own ${(serial += 1)}`,
      birthDate: '2000-01-01',
      sex: 'F',
      key: key(),
    });
  const sibling = async (): Promise<number> => (await addOne()).patientId;
  const member = await addOne();
  if (apart)
    await setConfidential(t.context, {
      patientId: member.patientId,
      name: 'Own Tester',
      line1: '9 Quiet Lane',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98191',
      why: 'asked for it',
    });
  if (twice) await secondCoverage(t, patientId);
  const { grace_days: grace, due_days: dueDays } = await t.db
    .selectFrom('statement_policy')
    .select(['grace_days', 'due_days'])
    .where('location_id', 'is', null)
    .executeTakeFirstOrThrow();
  const ledger = new SecondLedger(grace);
  const apartPart = apart ? String(member.patientId) : '';
  let own = member.patientId;
  /** Visits to come for which money is kept. */
  const comings: number[] = [];
  /** What was charged to who pays for himself. */
  const owns: number[] = [];
  let today = START;
  const at = () => ({ ...t.context, today });
  const visits: {
    chargeId: number;
    controlNumber: string;
    control: string;
    fee: number;
    open: boolean;
    /** Of the second case. */
    accident: boolean;
    /** What the payer has said that stands, with its reasons; null for a denial, which leaves nothing. */
    said?: Said | null;
    /** It has taken that back, and not said its new word. */
    back?: boolean;
    settled?: boolean;
    /** What the first payer left to the next one, which has not decided it. */
    next?: number;
  }[] = [];
  let forbidden = false;
  let plan: { id: number; rate: number } | null = null;
  let placement: number | null = null;
  const done: string[] = [];

  /** Interest that came due on the plan, a month each, and whether it still runs. */
  async function planNow(
    { id, rate }: { id: number; rate: number },
    then: () => void = () => undefined,
  ): Promise<() => void> {
    const known = new Set(ledger.charges.map((charge) => charge.id));
    const interest = await t.db
      .selectFrom('charge')
      .select(['id', 'service_date'])
      .where('household_id', '=', householdId)
      .where('kind', '=', 'interest')
      .orderBy('service_date')
      .execute();
    const { status } = await t.db
      .selectFrom('payment_plan')
      .select('status')
      .where('id', '=', id)
      .executeTakeFirstOrThrow();
    return () => {
      for (const one of interest)
        if (!known.has(one.id)) ledger.interest(one.id, dayOf(one.service_date), rate);
      then();
      if (status === 'accepted') return;
      ledger.back('plan');
      plan = null;
    };
  }

  let accident: number | null = null;
  /** A second case of the covered person, which has an insurer of its own; made once. */
  async function accidentCase(): Promise<number> {
    if (accident !== null) return accident;
    const { id } = await t.owner
      .insertInto('care_case')
      .values({ patient_id: patientId, name: 'Therapy', kind: 'therapy', standing: false })
      .returning('id')
      .executeTakeFirstOrThrow();
    await addCoverage(at(), {
      patientId,
      caseId: id,
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId: `ACC${(serial += 1)}`,
      groupNumber: 'ACCIDENT',
      key: key(),
    });
    accident = id;
    return id;
  }

  /** Does a step with both; what the program refuses did not happen. */
  const acts: Record<string, (step: Step) => Promise<(() => void) | null>> = {
    visit: async ({ a, b }) => {
      const fee = 100 + a;
      // Every third one is of an accident, with an insurer of its own.
      const caseId = b % 3 === 2 && !forbidden ? await accidentCase() : null;
      const chargeId = await enterCharge(at(), {
        patientId,
        caseId,
        providerId: t.providers.family,
        serviceDate: today,
        code: '99213',
        fee: toDecimal(cents(fee)),
        diagnoses: ['I10'],
        sure: true,
        key: key(),
      });
      const [claimId] = await buildClaims(at(), { householdId });
      await sendClaims(at(), { claimIds: [claimId!] });
      const line = await t.db
        .selectFrom('claim_line as l')
        .innerJoin('claim as m', 'm.id', 'l.claim_id')
        .select(['l.id', 'm.control_number'])
        .where('l.claim_id', '=', claimId!)
        .executeTakeFirstOrThrow();
      return () => {
        visits.push({
          chargeId,
          controlNumber: line.control_number,
          control: `L${line.id}`,
          fee,
          open: true,
          accident: caseId !== null,
        });
        ledger.charge(chargeId, dayOf(today), fee, true);
        if (forbidden) ledger.forbid([chargeId]);
      };
    },
    own: async ({ a }) => {
      const fee = 100 + (a % 9000);
      const chargeId = await enterCharge(at(), {
        patientId: own,
        providerId: t.providers.family,
        serviceDate: today,
        code: '99213',
        fee: toDecimal(cents(fee)),
        sure: true,
        key: key(),
      });
      return () => {
        owns.push(chargeId);
        ledger.charge(chargeId, dayOf(today), fee, false, apartPart);
      };
    },
    decide: async ({ a, b }) => {
      const undecided = visits.filter(({ open }) => open);
      const visit = undecided[a % Math.max(1, undecided.length)];
      if (!visit) return null;
      const { fee } = visit;
      const one = a % (fee + 1);
      const two = Math.min(fee - one, Math.floor(a / 3) % (fee + 1));
      const rest = fee - one - two;
      // Paid, off and the patient's, in shares that differ; a denial; all the patient's; a part that OA leaves open.
      const shapes = [
        { paid: one, off: two, patient: rest, group: 'CO', reason: '45', open: 0 },
        { paid: one, off: two, patient: rest, group: 'PI', reason: '204', open: 0 },
        { paid: fee, off: 0, patient: 0, group: 'CO', reason: '45', open: 0 },
        { paid: 0, off: 0, patient: fee, group: 'CO', reason: '45', open: 0 },
        { paid: 0, off: fee, patient: 0, group: 'CO', reason: '97', open: 0 },
        { paid: one, off: two, patient: 0, group: 'CO', reason: '45', open: rest },
        { paid: one, off: two, patient: 0, group: 'CO', reason: '45', open: rest, openAs: 'CR-129' },
      ] as const satisfies Said[];
      const said: Said & { open: number } = shapes[b % shapes.length]!;
      if (said.paid === 0 && said.patient === 0 && said.off < fee) return null;
      const reasons = [
        ...(said.off > 0 ? [`${said.group}-${said.reason}:${(said.off / 100).toFixed(2)}`] : []),
        ...(said.patient > 0 ? [`PR-3:${(said.patient / 100).toFixed(2)}`] : []),
        ...(said.open > 0 ? [`${said.openAs ?? 'OA-23'}:${(said.open / 100).toFixed(2)}`] : []),
      ];
      await postedRemittance(
        t,
        [decided(visit.controlNumber, [{ control: visit.control, charge: fee, paid: said.paid, reasons }])],
        { date: today },
        at(),
      );
      return () => {
        visit.open = false;
        visit.said = said.paid === 0 && said.patient === 0 ? null : said;
        const next = twice && !visit.accident;
        if (next && said.patient > 0) visit.next = said.patient;
        ledger.decide(visit.chargeId, dayOf(today), said, next);
      };
    },
    // What the first payer left to the patient, the next one decides.
    next: async ({ a, b }) => {
      const left = visits.filter(({ next }) => next !== undefined);
      const visit = left[b % Math.max(1, left.length)];
      if (!visit) return null;
      const { fee, next } = visit;
      const paid = a % (next! + 1);
      const off = Math.min(next! - paid, Math.floor(a / 3) % (next! + 1));
      const said = { paid, off, patient: next! - paid - off };
      if (said.paid === 0 && said.patient === 0) return null;
      const reasonOf = (code: string, amount: number): string[] =>
        amount > 0 ? [`${code}:${(amount / 100).toFixed(2)}`] : [];
      const claimIds = await buildClaims(at(), { householdId, which: 'next' });
      if (claimIds.length > 0) await sendClaims(at(), { claimIds });
      const line = await t.db
        .selectFrom('claim_line as l')
        .innerJoin('claim as m', 'm.id', 'l.claim_id')
        .select(['l.id', 'm.control_number'])
        .where('l.charge_id', '=', visit.chargeId)
        .where('m.position', '=', 2)
        .executeTakeFirstOrThrow();
      const reasons = [
        ...reasonOf('OA-23', fee - next!),
        ...reasonOf('CO-45', off),
        ...reasonOf('PR-3', said.patient),
      ];
      await postedRemittance(
        t,
        [decided(line.control_number, [{ control: `L${line.id}`, charge: fee, paid, reasons }], '2')],
        { date: today },
        at(),
      );
      return () => {
        delete visit.next;
        ledger.decide(visit.chargeId, dayOf(today), said);
      };
    },
    settle: async ({ a, b }) => {
      if (twice) return null;
      const waiting = visits.filter(
        ({ open, back, chargeId }) => !open && !back && ledger.of(chargeId).payer > 0,
      );
      const visit = waiting[b % Math.max(1, waiting.length)];
      if (!visit) return null;
      const to = a % 2 === 0 || forbidden ? 'off' : 'patient';
      // What was denied under the payer's own group is the patient's by an exception alone, and nothing else takes one.
      const exception = to === 'patient' && visit.said === null ? 'notice' : undefined;
      await settleWaiting(at(), { chargeId: visit.chargeId, to, exception, why: 'by decision' });
      return () => {
        visit.settled = true;
        ledger.settle(visit.chargeId, dayOf(today), to);
      };
    },
    pay: async ({ a, b }) => {
      const tender = (['cash', 'check', 'transfer'] as const)[b % 3]!;
      // Often a part of what is owed, so that it matters what it goes to.
      const amount = 1 + (b % 4 === 0 ? a : a % 6000);
      // Now and then a part of it in cash.
      const inCash = tender !== 'cash' && a % 3 === 0 ? Math.floor(amount / 3) : 0;
      const tenders: Record<string, number> = {
        ...(inCash > 0 ? { cash: inCash } : {}),
        [tender]: amount - inCash,
      };
      const { receiptId } = await takeReceipt(at(), {
        householdId,
        tenders: Object.entries(tenders).map(([kind, part]) => ({
          tender: kind as typeof tender,
          amount: toDecimal(cents(part)),
          reference: `R${(serial += 1)}`,
        })),

        key: key(),
      });
      return () => ledger.receipt(receiptId, tenders);
    },
    spend: async () => {
      await spendCredit(at(), { householdId, key: key() });
      return () => ledger.spend();
    },
    reverse: async ({ b }) => {
      const able = ledger.receipts.filter(
        ({ reversed, pieces, back, tenders }) =>
          !reversed &&
          back === 0 &&
          Object.keys(tenders).length > 0 &&
          pieces.every(({ of }) => of === 'patient'),
      );
      const receipt = able[b % Math.max(1, able.length)];
      if (!receipt) return null;
      await reverseReceipt(at(), { receiptId: receipt.id, why: 'returned' });
      return () => ledger.reverse(receipt.id);
    },
    'comes back': async ({ a, b }) => {
      const able = ledger.receipts.filter(
        ({ reversed, pieces, back, reserved, left, tenders }) =>
          !reversed &&
          !reserved &&
          back === 0 &&
          Object.keys(tenders).some((tender) => tender !== 'cash') &&
          pieces.every(({ of }) => of === 'patient') &&
          // What a payer's new word made credit of a charge is of the whole receipt, and of no tender.
          pieces.reduce((all, { amount }) => all + amount, left) ===
            Object.values(tenders).reduce((all, one) => all + one, 0),
      );
      const receipt = able[b % Math.max(1, able.length)];
      if (!receipt) return null;
      const bounced = Object.keys(receipt.tenders).filter((tender) => tender !== 'cash');
      const tender = bounced[a % bounced.length]!;
      const { id: tenderId } = await t.db
        .selectFrom('tender')
        .select('id')
        .where('receipt_id', '=', receipt.id)
        .where('kind', '=', tender as 'check')
        .executeTakeFirstOrThrow();
      await returnTender(at(), { tenderId, why: 'not covered', key: key() });
      return () => ledger.comesBack(receipt.id, tender);
    },
    'check in': async ({ a }) => {
      const amount = 1 + (a % 4000);
      const expectedVisitId = await expectVisit(at(), {
        patientId: own,
        day: addDays(today, 20),
        key: key(),
      });
      const { receiptId } = await takeReceipt(at(), {
        householdId,
        expectedVisitId,
        tenders: [{ tender: 'cash', amount: toDecimal(cents(amount)) }],
        key: key(),
      });
      comings.push(expectedVisitId);
      return () => ledger.receipt(receiptId, { cash: amount }, 'visit');
    },
    free: async () => {
      if (comings.length === 0) return null;
      for (const expectedVisitId of comings.splice(0))
        await freeReserved(at(), { expectedVisitId, why: 'asked for' });
      return () => ledger.free();
    },
    'give back': async ({ a, b }) => {
      const able = ledger.receipts.filter(({ left, reversed }) => left > 0 && !reversed);
      const receipt = able[b % Math.max(1, able.length)];
      if (!receipt) return null;
      const [tender, came] = Object.entries(receipt.tenders)[0] ?? ['', 0];
      const amount = Math.min(receipt.left, came - receipt.back, 1 + (a % 3000));
      if (amount <= 0) return null;
      await refundCredit(at(), {
        receiptId: receipt.id,
        tenderId: (
          await t.db
            .selectFrom('tender')
            .select('id')
            .where('receipt_id', '=', receipt.id)
            .where('kind', '=', tender as 'cash')
            .executeTakeFirstOrThrow()
        ).id,
        amount: toDecimal(cents(amount)),
        tender: tender as 'cash',
        reference: tender === 'cash' ? '' : `B${(serial += 1)}`,
        why: 'too much',
        key: key(),
      });
      return () => ledger.giveBack(receipt.id, tender, amount);
    },
    plan: async ({ b }) => {
      if (plan) return null;
      const rate = b % 2 === 0 ? 0 : 1200;
      const id = await proposePlan(at(), {
        householdId,
        installments: 6,
        rate: String(rate / 100),
        first: addDays(today, 30),
        sure: true,
        key: key(),
      });
      await acceptPlan(at(), { planId: id, signedBy: 'Nr Tester' });
      return () => {
        plan = { id, rate };
        ledger.agree();
      };
    },
    installment: async ({ a }) => {
      const left = ledger.charges.reduce((all, charge) => all + charge.plan, 0);
      if (!plan || left === 0) return null;
      const amount = 1 + (a % left);
      const { receiptId } = await takeReceipt(at(), {
        householdId,
        tenders: [{ tender: 'cash', amount: toDecimal(cents(amount)) }],

        plans: { [plan.id]: toDecimal(cents(amount)) },
        key: key(),
      });
      // What interest came due by that day is charged first.
      return planNow(plan, () => ledger.receipt(receiptId, { cash: amount }, 'plan'));
    },
    'watch plan': async () => {
      if (!plan) return null;
      await watchPlans(at());
      return planNow(plan);
    },
    'cancel plan': async () => {
      if (!plan) return null;
      await cancelPlan(at(), { planId: plan.id, why: 'asked for it' });
      return planNow(plan);
    },
    state: async ({ b }) => {
      const part = apart && b % 2 === 0 ? member.patientId : null;
      await prepareStatement(at(), { householdId, patientId: part, key: key() });
      return () => ledger.state(part === null ? '' : String(part), dayOf(today), dayOf(today) + dueDays);
    },
    wait: async ({ a }) => {
      today = addDays(today, 1 + (a % 40));
      return () => undefined;
    },
    late: async () => {
      const before = ledger.charges.length;
      await postLate(at(), { householdIds: [householdId], key: key() });
      const late = await t.db
        .selectFrom('charge')
        .select('id')
        .where('household_id', '=', householdId)
        .where('kind', '=', 'late')
        .orderBy('id', 'desc')
        .executeTakeFirstOrThrow();
      return () => {
        expect(before).toBe(ledger.charges.length);
        ledger.charge(late.id, dayOf(today), 500, false);
      };
    },
    place: async () => {
      if (placement !== null) return null;
      const { id: connectionId } = await t.db
        .selectFrom('connection')
        .select('id')
        .where('kind', '=', 'agency')
        .executeTakeFirstOrThrow();
      await proposePlacements(at(), {
        householdIds: [householdId],
        connectionId,
        why: 'nobody answers',
        sure: true,
      });
      const { id } = await t.db
        .selectFrom('placement')
        .select('id')
        .where('household_id', '=', householdId)
        .where('status', '=', 'proposed')
        .executeTakeFirstOrThrow();
      await approvePlacements(at(), { placementIds: [id], sure: true });
      return () => {
        placement = id;
        ledger.place(dayOf(today));
      };
    },
    'agency pays': async ({ a }) => {
      const open = ledger.charges.reduce((all, charge) => all + charge.agency, 0);
      if (placement === null || open === 0) return null;
      const gross = 1 + (a % open);
      await postAgencyPayment(at(), {
        placementId: placement,
        reference: `A${(serial += 1)}`,
        paidOn: today,
        gross: toDecimal(cents(gross)),
        key: key(),
      });
      return () => {
        // A quarter is its fee, which it keeps (the agency of the invented practice).
        ledger.collected(gross, Math.round(gross / 4));
        if (gross === open) placement = null;
      };
    },
    'pay agency': async ({ a }) => {
      const open = ledger.charges.reduce((all, charge) => all + charge.agency, 0);
      if (placement === null || open === 0) return null;
      const amount = 1 + (a % open);
      const { receiptId } = await takeReceipt(at(), {
        householdId,
        tenders: [{ tender: 'cash', amount: toDecimal(cents(amount)) }],

        agency: toDecimal(cents(amount)),
        key: key(),
      });
      return () => {
        ledger.receipt(receiptId, { cash: amount }, 'agency');
        if (amount === open) placement = null;
      };
    },
    recall: async () => {
      if (placement === null) return null;
      await recallPlacement(at(), { placementId: placement, why: 'came to the desk' });
      return () => {
        placement = null;
        ledger.back('agency');
      };
    },
    'give up': async () => {
      await writeOffBadDebt(at(), { householdId, why: 'moved away', key: key() });
      return () => ledger.giveUp('bad debt');
    },
    recover: async () => {
      await recoverBadDebt(at(), { householdId, key: key() });
      return () => ledger.recover();
    },
    small: async () => {
      await writeOffSmall(at(), { householdIds: [householdId], key: key() });
      return () => ledger.giveUp('small balance');
    },
    word: async ({ a, b }) => {
      const decidedOnce = visits.filter(({ said, open }) => !open && said !== undefined);
      const visit = decidedOnce[a % Math.max(1, decidedOnce.length)];
      if (!visit || forbidden || twice) return null;
      const { fee, said } = visit;
      const one = a % (fee + 1);
      const two = Math.min(fee - one, Math.floor(a / 3) % (fee + 1));
      const words: Said[] = [
        { paid: one, off: two, patient: fee - one - two },
        { paid: fee, off: 0, patient: 0 },
        { paid: 0, off: 0, patient: fee },
        ...(said ? [said] : []),
      ];
      const next = words[b % words.length]!;
      return next.paid === 0 && next.patient === 0 ? null : another(visit, next);
    },
    'take back': async ({ a }) => {
      const stands = visits.filter(({ said, back, settled }) => said && !back && !settled);
      const visit = stands[a % Math.max(1, stands.length)];
      if (!visit || forbidden || twice) return null;
      await postedRemittance(
        t,
        [decided(visit.controlNumber, [lineOf(visit, -1, visit.said!)], '22')],
        { date: today },
        at(),
      );
      return () => {
        visit.back = true;
        ledger.takeBack(visit.chargeId);
      };
    },
    // Of whom it is written once they are one, the second ledger has nothing to say.
    merge: async ({ b }) => {
      if (apart || b % 2 === 0) {
        const into = await household(t, false);
        await mergeHouseholds(at(), { householdId, intoHouseholdId: into.householdId, why: 'one account' });
        return () => {
          ({ householdId } = into);
        };
      }
      const twin = await sibling();
      await mergePeople(at(), { patientId: own, intoPatientId: twin, why: 'one person' });
      return () => {
        own = twin;
      };
    },
    // What was entered for one of them who pays for himself is another's who does: it is owed anew, and paid by what paid it.
    move: async ({ a }) => {
      const chargeId = owns[a % Math.max(1, owns.length)];
      if (chargeId === undefined || apart) return null;
      const patientOf = await sibling();
      const id = await moveCharge(at(), { chargeId, patientId: patientOf, why: 'the sister was here' });
      return () => {
        owns.splice(owns.indexOf(chargeId), 1, id);
        ledger.move(chargeId, id, dayOf(today));
      };
    },
    forbid: async () => {
      // What may not be billed is told by itself; with words that are taken back in between it is another story.
      if (twice || accident !== null || visits.some(({ back }) => back)) return null;
      const coverage = await t.db
        .selectFrom('covered')
        .select(['id', 'bill_patient', 'member_id', 'group_number'])
        .where('case_id', '=', made.caseId)
        .executeTakeFirstOrThrow();
      if (coverage.bill_patient !== 'yes') return null;
      await changeCoverage(at(), {
        coverageId: coverage.id,
        memberId: coverage.member_id,
        groupNumber: coverage.group_number,
        billPatient: 'never',
        billPatientWhy: 'medicaid',
      });
      await takeOffForbidden(at(), { householdId }).catch((error: unknown) => {
        if (!(error instanceof Refused)) throw error;
      });
      return () => {
        forbidden = true;
        ledger.forbid(visits.map(({ chargeId }) => chargeId));
      };
    },
  };

  type Visit = (typeof visits)[number];
  const lineOf = (
    { control, fee }: Visit,
    sign: 1 | -1,
    { paid, off, patient, group, reason, open = 0, openAs = 'OA-23' }: Said,
  ) => {
    const reasonOf = (code: string, amount: number): string[] =>
      amount > 0 ? [`${code}:${((sign * amount) / 100).toFixed(2)}`] : [];
    return {
      control,
      charge: sign * fee,
      paid: sign * paid,
      reasons: [
        ...reasonOf(`${group ?? 'CO'}-${reason ?? '45'}`, off),
        ...reasonOf('PR-3', patient),
        ...reasonOf(openAs, open),
      ],
    };
  };

  /** Another word of the payer on a visit: what stands is taken back in the same remittance, unless it was before. */
  async function another(visit: Visit, said: Said) {
    const { controlNumber, said: before, back } = visit;
    await postedRemittance(
      t,
      [
        ...(before && !back ? [decided(controlNumber, [lineOf(visit, -1, before)], '22')] : []),
        decided(controlNumber, [lineOf(visit, 1, said)]),
      ],
      { date: today },
      at(),
    );
    return () => {
      Object.assign(visit, { said, back: false, settled: false });
      ledger.word(visit.chargeId, dayOf(today), said);
    };
  }
  Object.assign(acts, {
    'unbilled visit': async ({ a }) => {
      const chargeId = await enterCharge(at(), {
        patientId,
        providerId: t.providers.family,
        serviceDate: today,
        code: '99213',
        fee: toDecimal(cents(a)),
        sure: true,
        key: key(),
      });
      return () => ledger.charge(chargeId, dayOf(today), a, true);
    },
    uncover: async () => {
      const coverage = await t.db
        .selectFrom('covered')
        .select(['id', 'member_id', 'group_number'])
        .where('case_id', '=', made.caseId)
        .executeTakeFirstOrThrow();
      await changeCoverage(at(), {
        coverageId: coverage.id,
        memberId: coverage.member_id,
        groupNumber: coverage.group_number,
        validTo: addDays(START, -1),
      });
      return () => ledger.uncover(dayOf(today));
    },
    'same word': () => another(visits.at(-1)!, visits.at(-1)!.said!),
    'less for the patient': () => {
      const visit = visits.at(-1)!;
      const { paid, off, patient } = visit.said!;
      return another(visit, { paid: paid + patient, off, patient: 0 });
    },
    'paid after all': () => another(visits.at(-1)!, { paid: 6800, off: 4700, patient: 3000 }),
  } satisfies Record<Seam, (step: Step) => Promise<(() => void) | null>>);

  for (const [index, step] of steps.entries()) {
    let tell: (() => void) | null;
    try {
      tell = await acts[step.do]!(step);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      refused.set(step.do, error.message);
      tell = null;
    }
    if (!tell) continue;
    tell();
    done.push(step.do);
    const said = `${index}: ${done.join(', ')}`;
    const told = asTold(ledger, today, apartPart);
    // Every cent after each step; what is asked, told and late of it after every other one, and at the end.
    if (index % 2 === 0 || index === steps.length - 1)
      expect({ said, ...(await booked(householdId, today, apartPart)) }).toEqual({ said, ...told });
    else {
      const { charges, credit, reserved } = told;
      expect({ said, ...(await nowOf(householdId)) }).toEqual({ said, charges, credit, reserved });
    }
  }
  return done;
}

/** What the second ledger says, in the shape of {@link booked}. */
function asTold(ledger: SecondLedger, today: CalendarDate, apart: string) {
  const day = dayOf(today);
  const credit = ledger.credit;
  const parts = apart === '' ? [''] : ['', apart];
  const owed = ledger.charges.reduce(
    (all, { patient, forbidden }) => all + (forbidden ? 0 : Math.max(0, patient)),
    0,
  );
  const payers = ledger.charges.reduce((all, { payer }) => all + payer, 0);
  return {
    charges: ledger.charges
      .map(({ id, payer, patient, plan, agency, reduced, paidByPayer, paidByPatient }) => ({
        id,
        payer,
        patient,
        plan,
        agency,
        reduced,
        paidByPayer,
        paidByPatient,
      }))
      .sort((a, b) => a.id - b.id),
    credit,
    reserved: ledger.reserved,
    feeOwed: ledger.feeOwed,
    cash: Object.fromEntries(Object.entries(ledger.cash).filter(([, amount]) => amount !== 0)),
    due: Object.fromEntries(parts.map((part) => [part, ledger.due(part)])),
    closing: [
      owed === 0 ? 'Nothing is yours to pay now' : `Together ${words(owed)} is yours to pay now`,
      ...(credit > 0
        ? [
            `${words(credit)} of your money is held as credit${owed === 0 ? '' : owed > credit ? `, so that ${words(owed - credit)} is left` : ', which pays all of it'}`,
          ]
        : []),
      ...(payers > 0 ? [`${words(payers)} is still with insurers`] : []),
    ].join('; '),
    aging: ledger.aging(day),
    pastDue: Object.fromEntries(parts.map((part) => [part, ledger.pastDue(part, day)])),
  };
}
const words = (amount: number): string => formatMoneyPlain(cents(amount));

/** Where every cent of a household stands. */
async function nowOf(householdId: number) {
  const charges = await t.db
    .selectFrom('charge_balance as b')
    .innerJoin('charge as c', 'c.id', 'b.charge_id')
    .select([
      'c.id',
      'b.with_payer as payer',
      'b.with_patient as patient',
      'b.on_plan as plan',
      'b.at_agency as agency',
      'b.reduced',
      'b.payer_paid as paidByPayer',
      sql<Cents>`b.patient_paid + b.agency_paid`.as('paidByPatient'),
    ])
    .where('c.household_id', '=', householdId)
    .orderBy('c.id')
    .execute();
  const { credit, reserved } = await t.db
    .selectFrom('household_balance as b')
    .select([
      'b.credit',
      sql<number>`
        (select coalesce(sum(v.credit), 0) from reserved_part v where v.household_id = b.household_id)`.as(
        'reserved',
      ),
    ])
    .where('household_id', '=', householdId)
    .executeTakeFirstOrThrow();
  return { charges, credit: credit - reserved, reserved };
}

/** What the program says of a household. */
async function booked(householdId: number, today: CalendarDate, apart: string) {
  const context = { ...t.context, today };
  const { rows: cash } = await sql<{ tender: string; amount: number }>`
    select substr(p.account, 6) as tender, sum(p.amount) as amount from posting p join entry e on e.id = p.entry_id
    where p.account like 'cash/%'
      and (
        p.household_id in (select id from household where ${householdId} in (id, merged_into))
          or e.id in (
            select entry_id
            from posting
            where household_id in (select id from household where ${householdId} in (id, merged_into))
          )
      )
    group by 1
    having sum(p.amount) <> 0`.execute(t.db);
  const { rows: fees } = await sql<{ owed: number }>`
    select coalesce(-sum(p.amount), 0) as owed
    from posting p
      join placement l on l.id = p.placement_id
    where p.account = 'payable/agency-fee' and l.household_id = ${householdId}`.execute(t.db);
  const parts = apart === '' ? [''] : ['', apart];
  const { weighed } = await weighHouseholds(context, { rows: [] }, [householdId]);
  // What a plan asks for is on the bill besides, and is never more than what is left on it with the interest until then.
  const dueOf = (part: string): number => {
    const one = weighed.find(({ facts }) => String(facts.patientId ?? '') === part);
    return one ? one.due - one.facts.installments : 0;
  };
  for (const { facts } of weighed) {
    const plans = facts.patientId === null ? await plansOf(context, householdId) : [];
    const most = plans.reduce(
      (all, { status, left, rate }) =>
        all + (status === 'accepted' ? left + Math.ceil((left * rate) / 10_000) : 0),
      0,
    );
    expect(facts.installments).toBeGreaterThanOrEqual(0);
    expect(facts.installments).toBeLessThanOrEqual(most);
  }
  const overdue = await readOverdue(context, [householdId]);
  const pastOf = (part: string): number =>
    overdue
      .find(({ patientId }) => String(patientId ?? '') === part)
      ?.facts.charges.reduce((all, { amount }) => all + amount, 0) ?? 0;
  const { closing } = await readStory(context, householdId);
  return {
    ...(await nowOf(householdId)),
    feeOwed: fees[0]!.owed,
    cash: Object.fromEntries(cash.map(({ tender, amount }) => [tender, amount])),
    due: Object.fromEntries(parts.map((part) => [part, dueOf(part)])),
    closing: closing.replace(/\.$/, ''),
    aging: await householdAging(t.db, householdId, today),
    pastDue: Object.fromEntries(parts.map((part) => [part, pastOf(part)])),
  };
}

/**
 * Plays generated histories. A step that never happened in one of them proves nothing.
 * @param seed added to the one that is kept where not all is tried
 */
export async function playMany(many: number, seed = 0): Promise<void> {
  const happened = new Map<string, number>();
  await fc.assert(
    fc.asyncProperty(histories, async ({ apart, twice, steps }) => {
      for (const what of await play(apart, steps, twice)) happened.set(what, (happened.get(what) ?? 0) + 1);
    }),
    // Shorter histories are looked for with everything alone: each takes seconds.
    {
      numRuns: many,
      endOnFailure: !FULL,
      ...(PROPERTIES.seed === undefined ? {} : { seed: PROPERTIES.seed + seed }),
    },
  );
  const never = STEPS.filter((what) => !happened.has(what));
  expect(never.map((what) => [what, refused.get(what)])).toEqual([]);
  expect(await brokenInvariants(t)).toEqual([]);
}
