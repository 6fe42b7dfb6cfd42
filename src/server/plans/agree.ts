/** Agreeing plans: what one would be, proposing it, accepting it with a signature, cancelling it. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { planAcceptedEntry } from '../../core/books/entries/plans';
import type { ChargePart } from '../../core/books/entry';
import { formatDate } from '../../core/calendar';
import { type Cents, ZERO, add, formatMoneyPlain, least, minus, sum } from '../../core/money';
import { acceptInput, cancelInput, proposeInput, quoteInput } from '../../core/plans/input';
import { NoPlan, type Quote, needsDisclosure, quote } from '../../core/plans/quote';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused, allow, lookAgain, may } from '../access';
import { allowOpen } from '../closed';
import { lockHouseholds, writeEntries } from '../books/journal';
import { parseInput } from '../input';
import { keepDocument } from '../mail/pieces';
import { openCharges } from '../books/open-lines';
import { bearsLateCharges, readStops } from '../accounts/door';
import { type Act, useCase } from '../use-case';
import { chargeInterest, endPlan, giveBack, lockPlan, openOnPlan } from './books';
import { agreementPdf, readAgreement } from './paper';
import { readPlanPolicy } from './policy';
import { readPlans } from './read';

type Terms = z.output<typeof quoteInput>;

/** What a plan takes of one charge, in cents; `onPlan` where it is taken over from the plan before. */
interface Taken {
  chargeId: number;
  amount: Cents;
  onPlan: boolean;
}

/** What a plan would be, and how it stands to the practice's limits. */
export interface PlanQuote extends Quote {
  amount: Cents;
  down: Cents;
  /** Whether the law asks for a disclosure. */
  disclosure: boolean;
  /** What of it goes beyond the limits, and what speaks against asking this account, in words. */
  beyond: string[];
  against: string[];
}

/**
 * What the terms take, oldest first: the charges that are chosen, or all that the household has open, and what is
 * open on the plan before.
 */
async function takes(
  context: Context,
  { householdId, chargeIds, replaces, amount, down }: Terms,
  interestDue: Cents = ZERO,
) {
  // What credit stands against needs no plan.
  const open = (await openCharges(context, [householdId])).flatMap(({ id, left, apart }) =>
    left > 0 ? [{ id, owed: left, apart }] : [],
  );
  const missing = chargeIds?.find((id) => !open.some((charge) => charge.id === id));
  if (missing !== undefined)
    throw new Refused('already', 'A charge that is chosen is not open any more', 'chargeIds');
  // What goes to a confidential address is on the household's plan only where it is asked for.
  const chosen = open.filter(({ id, apart }) =>
    chargeIds === null ? apart === null : chargeIds.includes(id),
  );
  const before =
    replaces === null
      ? []
      : (await openOnPlan(context.db as Tx, replaces)).map(({ chargeId, open: owed }) => ({
          id: chargeId,
          owed,
        }));
  const all = add(sum([...chosen, ...before].map(({ owed }) => owed)), interestDue);
  if (all === 0) throw new Refused('nothing', 'Nothing is open that a plan could take', 'amount');
  const wanted = amount ?? all;
  if (wanted > all)
    throw new Refused('limit', `${formatMoneyPlain(all)} is open, less than that`, {
      field: 'amount',
      facts: { all },
    });
  const paidDown = down ?? ZERO;
  // The plan before is taken over whole; the down payment is of what stands with the patient.
  const onPlan = add(sum(before.map(({ owed }) => owed)), interestDue);
  let ours = minus(wanted, onPlan);
  if (ours < 0)
    throw new Refused(
      'invalid',
      `The plan before has ${formatMoneyPlain(onPlan)} open: all of it is taken over`,
      { field: 'amount', facts: { onPlan } },
    );
  if (paidDown > ours)
    throw new Refused('already', 'The down payment is more than what is not on the plan before', 'down');
  let skip = paidDown;
  const downs: { chargeId: number; amount: Cents }[] = [];
  const taken = before.map(({ id, owed }): Taken => ({ chargeId: id, amount: owed, onPlan: true }));
  for (const { id, owed } of chosen) {
    const part = least(owed, ours);
    ours = minus(ours, part);
    // What is paid down pays the oldest.
    const down = least(skip, part);
    skip = minus(skip, down);
    if (down > 0) downs.push({ chargeId: id, amount: down });
    if (part > down) taken.push({ chargeId: id, amount: minus(part, down), onPlan: false });
  }
  return { amount: wanted, down: paidDown, taken, downs };
}

function workOut(
  { rate, every, installments, installment, first, interestBy }: Terms,
  amount: Cents,
  down: Cents,
  today: Context['today'],
): Quote {
  try {
    return quote({
      amount,
      down,
      rate,
      every,
      by: installments === null ? { installment: installment! } : { installments },
      agreed: today,
      first,
      interestBy,
    });
  } catch (error) {
    if (error instanceof NoPlan) throw new Refused('state', error.message, error.field);
    throw error;
  }
}

/** So much a rate may differ by rounding, in hundredths of a percent: an eighth of a percentage point (12 CFR 1026.22(a)(2)). */
const APR_TOLERANCE = 12.5;

/** What of a quote goes beyond the practice's limits. */
async function beyondOf(db: Db, terms: Terms, found: Quote): Promise<{ words: string; field: string }[]> {
  const policy = await readPlanPolicy(db);
  return [
    found.installments.length > policy.longest && {
      words: `${found.installments.length} installments are more than ${policy.longest}`,
      field: terms.installments === null ? 'installment' : 'installments',
    },
    found.level < policy.least_installment && {
      words: `An installment of ${formatMoneyPlain(found.level)} is less than ${formatMoneyPlain(policy.least_installment)}`,
      field: terms.installments === null ? 'installment' : 'installments',
    },
    terms.rate > policy.highest_rate
      ? {
          words: `${terms.rate / 100} % is more than ${policy.highest_rate / 100} %`,
          field: 'rate',
        }
      : found.apr * 100 > policy.highest_rate + APR_TOLERANCE && {
          words: `The annual percentage rate that is disclosed is ${found.apr} %, more than ${policy.highest_rate / 100} %`,
          field: 'first',
        },
  ].filter((one) => one !== false);
}

/** Works out what a plan would be; nothing is written. @throws Refused naming the term that makes none */
export async function quotePlan(context: Context, input: z.input<typeof quoteInput>): Promise<PlanQuote> {
  allow(context, 'agree plans');
  const terms = parseInput(quoteInput, input);
  await allowOpen(context, terms);
  // Interest of the plan before that has come due is charged when this one is proposed.
  const [before] =
    terms.replaces === null
      ? []
      : await readPlans(
          context,
          sql`l.id = ${terms.replaces} and l.household_id = ${terms.householdId} and l.status = 'accepted'`,
        );
  if (terms.replaces !== null && !before)
    throw new Refused('invalid', 'That plan does not run on this account', 'replaces');
  const { amount, down } = await takes(context, terms, before?.interestDue);
  const found = workOut(terms, amount, down, context.today);
  return {
    ...found,
    amount,
    down,
    disclosure: needsDisclosure(found),
    beyond: (await beyondOf(context.db, terms, found)).map(({ words }) => words),
    against: await againstPlan(context, terms.householdId),
  };
}

/**
 * Proposes a plan: its terms stand, so that the disclosure and the agreement can be read and signed; nothing moves yet.
 * @returns its id
 */
export const proposePlan = useCase({
  name: 'propose plan',
  permission: 'agree plans',
  input: proposeInput,
  once: (data) => data.key,
  async run(act, { key: _, sure, ...terms }): Promise<number> {
    const tx = act.db;
    await lockHouseholds(tx, [terms.householdId]);
    const household = await tx
      .selectFrom('household')
      .select('id')
      .where('id', '=', terms.householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('unknown', 'There is no such account');
    if (terms.replaces !== null) await runningOf(act, terms.replaces, terms.householdId);
    lookAgain(sure, await againstPlan(act, terms.householdId));
    if (terms.lateCharges && !(await bearsLateCharges(act, terms.householdId)))
      throw new Refused(
        'invalid',
        'This account bears no late charges: they are stopped or switched off',
        'lateCharges',
      );
    const { amount, down, taken, downs } = await takes(act, terms);
    const found = workOut(terms, amount, down, act.today);
    const [first] = await beyondOf(tx, terms, found);
    if (first && !may(act.user.role, 'agree plans beyond the limits'))
      throw new Refused('blocked', `${first.words}: a manager may agree it`, first.field);
    const { id } = await tx
      .insertInto('payment_plan')
      .values({
        household_id: terms.householdId,
        amount,
        down,
        rate: terms.rate,
        every: terms.every,
        level: found.level,
        agreed_on: act.today,
        first_date: terms.first,
        interest_by: terms.interestBy,
        interest_through: act.today,
        extra: terms.extra,
        late_charges: terms.lateCharges,
        finance_charge: found.financeCharge,
        total: found.total,
        apr: Math.round(found.apr * 100),
        replaces: terms.replaces,
        user_name: act.user.name,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await tx
      .insertInto('plan_charge')
      .values(
        taken.map((one) => ({
          plan_id: id,
          charge_id: one.chargeId,
          taken_over: one.onPlan,
          amount: one.amount,
        })),
      )
      .execute();
    if (downs.length > 0)
      await tx
        .insertInto('plan_down')
        .values(downs.map((one) => ({ plan_id: id, charge_id: one.chargeId, amount: one.amount })))
        .execute();
    await tx
      .insertInto('plan_installment')
      .values(
        found.installments.map(({ number, date, principal, interest, left, amount: one }) => ({
          plan_id: id,
          number,
          date,
          amount: one,
          principal,
          interest,
          left_after: left,
        })),
      )
      .execute();
    await act.note(
      'proposed',
      { kind: 'payment plan', id },
      { amount, installments: found.installments.length },
    );
    return id;
  },
});

/** What speaks against agreeing a plan with a household: stops of what asks it for money, all of them or those set since a moment. */
async function againstPlan(context: Context, householdId: number, after?: Date): Promise<string[]> {
  const stops = (await readStops(context, householdId)).filter(
    ({ stops: what, setAt }) =>
      (after === undefined || setAt > after) &&
      what.some((one) => one === 'letters' || one === 'calls' || one === 'agency'),
  );
  return stops.length > 0
    ? [`The account is stopped (${stops.map(({ reason }) => reason).join(', ')}): it is not asked for money`]
    : [];
}

/** A running plan of a household, with its interest charged through today. @throws Refused when it is none */
async function runningOf(act: Act, planId: number, householdId: number) {
  await chargeInterest(act, planId, act.today, true);
  const plan = await lockPlan(act.db, planId);
  if (plan.household_id !== householdId)
    throw new Refused('others', 'That plan is of another account', 'replaces');
  if (plan.status !== 'accepted')
    throw new Refused('invalid', `Plan ${plan.number} is ${plan.status}`, {
      field: 'replaces',
      facts: { number: plan.number },
    });
  return plan;
}

/**
 * Accepts a proposed plan: its charges move onto it, the plan that it takes the place of ends, and its paper is kept with the
 * signature. From then on its terms are fixed. @throws Refused when what it takes has changed since
 */
export const acceptPlan = useCase({
  name: 'accept plan',
  permission: 'agree plans',
  input: acceptInput,
  async run(act, { planId, signedBy, signature, sure }) {
    const tx = act.db;
    const known = await tx
      .selectFrom('payment_plan')
      .select(['household_id', 'replaces'])
      .where('id', '=', planId)
      .executeTakeFirst();
    if (!known) throw new Refused('unknown', 'There is no such plan');
    await lockHouseholds(tx, [known.household_id]);
    if (known.replaces !== null) await runningOf(act, known.replaces, known.household_id);
    const plan = await lockPlan(tx, planId);
    if (plan.status !== 'proposed') throw new Refused('already', `This plan is ${plan.status} already`);
    if (plan.first_date < act.today)
      throw new Refused(
        'state',
        `Its first installment was due on ${formatDate(plan.first_date)}: propose it anew with a later date`,
        { facts: { first_date: plan.first_date } },
      );
    const parts = await partsOf(act, planId, plan.replaces);
    // What stood when it was proposed was decided then.
    lookAgain(sure, await againstPlan(act, plan.household_id, plan.created_at));
    const drawn =
      signature === '' ? null : Buffer.from(signature.slice(signature.indexOf(',') + 1), 'base64');
    await tx
      .updateTable('payment_plan')
      .set({ signed_by: signedBy, signature: drawn, accepted_on: act.today })
      .where('id', '=', planId)
      .execute();
    const paper = await agreementPdf(await readAgreement(tx, planId));
    await tx
      .updateTable('payment_plan')
      .set({ status: 'accepted', agreement: await keepDocument(tx, paper) })
      .where('id', '=', planId)
      .execute();
    for (const [from, own] of [
      [null, parts.filter(({ onPlan }) => !onPlan)],
      [plan.replaces, parts.filter(({ onPlan }) => onPlan)],
    ] as const)
      if (own.length > 0)
        await writeEntries(tx, act, [
          planAcceptedEntry({
            businessDate: act.today,
            memo:
              from === null
                ? `${formatMoneyPlain(sum(own.map(({ part }) => part.amount)))} went on payment plan ${plan.number}`
                : `payment plan ${plan.number} took over what was open on the one before`,
            key: `plan:${planId}:${from ?? 'patient'}`,
            planId,
            from,
            parts: own.map(({ part }) => part),
          }),
        ]);
    if (plan.replaces !== null)
      await endPlan(tx, act.today, plan.replaces, 'changed', `changed to plan ${plan.number}`, planId);
    await act.note('accepted', { kind: 'payment plan', id: planId }, { signedBy });
  },
});

/** What a proposed plan takes, as it stands now. @throws Refused when less of a charge is open than it takes */
async function partsOf(
  act: Act,
  planId: number,
  replaces: number | null,
): Promise<{ part: ChargePart; onPlan: boolean }[]> {
  const tx = act.db;
  const { rows } = await sql<{
    chargeId: number;
    householdId: number;
    patientId: number | null;
    caseId: number | null;
    providerId: number | null;
    locationId: number | null;
    amount: Cents;
    before: Cents;
    takenOver: boolean;
    description: string;
  }>`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId",
      c.provider_id as "providerId", c.location_id as "locationId", c.description, l.amount,
      l.taken_over as "takenOver",
      coalesce(
        (
          select sum(p.amount)
          from posting p
          where p.charge_id = c.id and p.plan_id = ${replaces} and p.account = 'receivable/plan'
        ),
        0
      ) as before
    from plan_charge l join charge c on c.id = l.charge_id where l.plan_id = ${planId} order by c.service_date, c.id`.execute(
    tx,
  );
  const { rows: extra } = await sql<{ n: number }>`
    select count(*) as n
    from (
      select charge_id
      from posting
      where plan_id = ${replaces} and account = 'receivable/plan'
      group by 1
      having sum(amount) <> 0
    ) o
    where o.charge_id not in (select charge_id from plan_charge where plan_id = ${planId} and taken_over)`.execute(
    tx,
  );
  const left = new Map(
    (await openCharges(act, [...new Set(rows.map(({ householdId }) => householdId))])).map((charge) => [
      charge.id,
      charge.left,
    ]),
  );
  const changed = rows.find(({ chargeId, amount, before, takenOver }) =>
    takenOver ? before !== amount : (left.get(chargeId) ?? ZERO) < amount,
  );
  if (changed || (extra[0]?.n ?? 0) > 0)
    throw new Refused(
      'state',
      `What it takes has changed since it was proposed${changed ? ` (${changed.description})` : ''}: propose it anew`,
    );
  return rows.map(({ amount, before: _, takenOver, description: __, ...about }) => ({
    part: { about, amount },
    onPlan: takenOver,
  }));
}

/**
 * Cancels a plan: what is open on it is the patient's to pay again. One that is only proposed is given up.
 * @returns cents that came back
 */
export const cancelPlan = useCase({
  name: 'cancel plan',
  permission: 'agree plans',
  input: cancelInput,
  async run(act, { planId, why }): Promise<Cents> {
    const tx = act.db;
    const known = await tx
      .selectFrom('payment_plan')
      .select('household_id')
      .where('id', '=', planId)
      .executeTakeFirst();
    if (!known) throw new Refused('unknown', 'There is no such plan');
    await lockHouseholds(tx, [known.household_id]);
    await chargeInterest(act, planId, act.today, true);
    const plan = await lockPlan(tx, planId);
    if (plan.status !== 'accepted' && plan.status !== 'proposed')
      throw new Refused('already', `This plan is ${plan.status} already`);
    const back = await giveBack(
      tx,
      act,
      planId,
      `payment plan ${plan.number} was cancelled, and what is left is yours to pay`,
    );
    await endPlan(tx, act.today, planId, 'cancelled', why);
    await act.note('cancelled', { kind: 'payment plan', id: planId }, { why, back });
    return back;
  },
});
