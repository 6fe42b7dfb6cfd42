/** Taking patient money: one taking, its means of payment, and what each of them pays. */
import { sql } from 'kysely';
import { z } from 'zod';
import { receiptEntry, transferEntry } from '../../core/books/entries/patients';
import { type CalendarDate, daysBetween, formatDate } from '../../core/calendar';
import { centsField } from '../../core/fields';
import { type Cents, ZERO, add, formatMoneyPlain, minus, sum } from '../../core/money';
import { documentKind } from '../../core/documents';
import { receiptInput } from '../../core/payments/input';
import { type Meant, type Spread, dealTaking, spreadAs, tendered } from '../../core/payments/spread';
import { type Surcharge, basisOf, surchargeOf } from '../../core/payments/surcharge';
import { tenderMemo } from '../../core/payments/tenders';
import type { Tx } from '../../db/connect';
import { Refused, lookAgain } from '../access';
import { receiptReversed } from '../books/balances';
import { lockHouseholds, writeEntries } from '../books/journal';
import { type Owing, envelopeOf, openCharges } from '../books/open-lines';
import { type PlanPayment, payFromReceipt } from '../plans/door';
import { payPlacement, placedOf } from '../overdue/door';
import { noteBeside } from '../notes/notes';
import { type Act, useCase } from '../use-case';
import { emailIfAll } from './receipt-mail';
import { bearingNone, householdBearsNone, readSurchargeRule } from './surcharge';
import { allocations, drawerOf, keepTender, waitingCards } from './tenders';

type Data = z.output<typeof receiptInput>;
type Means = Data['tenders'][number];

/** The patient with an address apart whose own money is taken. @throws Refused when it is none of the household */
async function ownerOf(tx: Tx, householdId: number, patientId: number | null): Promise<number | null> {
  if (patientId === null) return null;
  const apart = await tx
    .selectFrom('confidential_address as a')
    .innerJoin('patient as p', 'p.id', 'a.patient_id')
    .select('p.id')
    .where('p.id', '=', patientId)
    .where('p.household_id', '=', householdId)
    .where('a.ended_on', 'is', null)
    .executeTakeFirst();
  if (!apart)
    throw new Refused(
      'invalid',
      'This patient has no confidential address: it is the household’s money',
      'patientId',
    );
  return apart.id;
}

/** Money that came so many days ago is looked at again. */
const LONG_AGO_DAYS = 31;
/** And is not taken any more, common practice: a check is stale long before. */
const TOO_LONG_AGO_DAYS = 366;

/** The day on which money came: today where none is said. @throws Refused where it is still to come, long past, or its period is closed */
async function receivedOn(act: Act, said: CalendarDate | null): Promise<CalendarDate> {
  const day = said ?? act.today;
  if (day === act.today) return day;
  if (day > act.today) throw new Refused('date', 'This day is still to come', 'receivedOn');
  if (daysBetween(day, act.today) > TOO_LONG_AGO_DAYS)
    throw new Refused('date', 'This day is more than a year ago', 'receivedOn');
  const { closed_through: closed } = await act.db
    .selectFrom('practice')
    .select('closed_through')
    .executeTakeFirstOrThrow();
  if (closed !== null && day <= closed)
    throw new Refused(
      'date',
      `The period through ${formatDate(closed)} is closed: say a day after it`,
      'receivedOn',
    );
  return day;
}

const meantPart = z.object({ id: z.int().positive(), amount: centsField });
/** What a tender is to pay once a terminal has approved it, as it is kept. */
export const meantDocument = documentKind<Meant>(
  'what a tender is to pay',
  1,
  z.object({ parts: z.array(meantPart), plans: z.array(meantPart), agency: centsField }),
);

/** What was taken, and what a terminal is to be asked for. */
export interface Taken {
  receiptId: number;
  /** What all of it pays, with what is still to be approved. */
  spread: Spread;
  /** Attempts that a terminal is asked for. */
  attempts: number[];
}

/** Takes money and spreads it; what is left stays as the household's credit. What a terminal has to approve waits for it. */
export const takeReceipt = useCase({
  name: 'take receipt',
  permission: 'take payments',
  input: receiptInput,
  once: (data) => data.key,
  async run(act, data): Promise<Taken> {
    const tx = act.db;
    const households = data.together ? await envelopeOf(tx, data.householdId) : [data.householdId];
    await lockHouseholds(tx, households);
    const household = await tx
      .selectFrom('household')
      .select(['id', 'location_id as locationId', 'no_checks_on as noChecks'])
      .where('id', '=', data.householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('unknown', 'There is no such account');
    const locationId = data.locationId ?? household.locationId;
    if (
      data.locationId !== null &&
      !(await tx.selectFrom('location').select('id').where('id', '=', data.locationId).executeTakeFirst())
    )
      throw new Refused('unknown', 'There is no such site', 'locationId');
    const owner = await ownerOf(tx, data.householdId, data.patientId);
    const day = await receivedOn(act, data.receivedOn);
    const ago = daysBetween(day, act.today);
    if (owner !== null && data.together)
      throw new Refused('invalid', 'What is kept apart pays no other account', 'patientId');
    const open = (await openCharges(act, households)).filter(
      ({ apart }) => owner === null || apart === owner,
    );
    const owed = sum(open.map((charge) => charge.owed));
    const amount = tendered(data.tenders);
    // All that is doubtful is said at once: what a person has not seen is not meant.
    lookAgain(data.sure, [
      ago > LONG_AGO_DAYS && `It came on ${formatDate(day)}, ${ago} days ago`,
      data.owed !== undefined &&
        data.owed !== owed &&
        `The balance has changed since this was opened: ${formatMoneyPlain(owed)} is owed now, not ${formatMoneyPlain(data.owed)}`,
      household.noChecks !== null &&
        data.tenders.some(({ tender }) => tender === 'check') &&
        `No checks are taken from this account since ${formatDate(household.noChecks)}`,
      ...(await takenBefore(tx, data)),
      ...(await waitingCards(tx, data.householdId)),
    ]);
    const plans = Object.entries(data.plans ?? {})
      .map(([id, part]) => ({ id: Number(id), amount: part }))
      .filter((plan) => plan.amount !== 0);
    const onPlans = sum(plans.map((plan) => plan.amount));
    if (plans.some((plan) => plan.amount < 0)) throw new Refused('limit', 'A part is below zero', 'plans');
    if (onPlans > amount)
      throw new Refused('limit', `${formatMoneyPlain(onPlans)} goes to plans, more than is paid`, {
        field: 'plans',
        facts: { onPlans },
      });
    const toAgency = data.agency ?? ZERO;
    if (toAgency < 0 || add(onPlans, toAgency) > amount)
      throw new Refused(
        'limit',
        `${formatMoneyPlain(toAgency)} goes to what is with the agency, more than is paid`,
        { field: 'agency', facts: { toAgency } },
      );
    const visit = await visitOf(act, data);
    const reserve = data.reserve ?? (visit === null ? ZERO : amount);
    const rest = minus(minus(minus(amount, onPlans), toAgency), reserve);
    if (reserve < 0 || rest < 0)
      throw new Refused('limit', `${formatMoneyPlain(reserve)} is kept for the visit, more than is left`, {
        field: 'reserve',
        facts: { reserve },
      });
    const spread = spreadAs(rest, open, {
      way: data.spread,
      order: data.order,
      first: data.first,
      parts: new Map(Object.entries(data.parts ?? {}).map(([id, part]) => [Number(id), part])),
    });
    if (typeof spread === 'string')
      throw new Refused('state', spread, data.spread === 'chosen' ? 'order' : 'parts');
    const { id } = await tx
      .insertInto('receipt')
      .values({
        household_id: data.householdId,
        amount,
        patient_id: owner,
        received_on: day,
        location_id: visit?.locationId ?? locationId,
        provider_id: visit?.providerId ?? null,
        expected_visit_id: visit?.id ?? null,
        paid_by: data.paidBy,
        user_id: act.user.id,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await noteBeside(act, { receipt_id: id, household_id: data.householdId }, data.note);
    await shareReceipt(tx, id, data.householdId, spread, open);
    const deals = dealTaking(
      data.tenders.map((means) => means.amount),
      { parts: spread.parts, plans, agency: toAgency },
    );
    const attempts: number[] = [];
    for (const [at, means] of data.tenders.entries()) {
      const deal = deals[at]!;
      if (means.reading !== '')
        attempts.push(await awaitTerminal(act, { data, means, deal, locationId, receiptId: id }));
      else await takeTender(act, { data, means, deal, locationId, receiptId: id, day, open });
    }
    await emailIfAll(act, id);
    await act.note('took payment', { kind: 'receipt', id }, { amount });
    return { receiptId: id, spread, attempts };
  },
});

/** The visit to come for which money is taken. @throws Refused where it is somebody else's, or its time is over */
async function visitOf(act: Act, { expectedVisitId, reserve, householdId, patientId }: Data) {
  if (expectedVisitId === null) {
    if (reserve !== null) throw new Refused('missing', 'Say for which visit it is kept', 'expectedVisitId');
    return null;
  }
  const visit = await act.db
    .selectFrom('expected_visit as v')
    .leftJoin('confidential_address as a', (join) =>
      join.onRef('a.patient_id', '=', 'v.patient_id').on('a.ended_on', 'is', null),
    )
    .select([
      'v.id',
      'v.household_id as householdId',
      'v.patient_id as visitor',
      'v.provider_id as providerId',
      'v.location_id as locationId',
      'v.freed_on as freedOn',
      'v.canceled_on as canceledOn',
      'a.id as apart',
    ])
    .where('v.id', '=', expectedVisitId)
    .forUpdate('v')
    .executeTakeFirst();
  if (!visit) throw new Refused('unknown', 'There is no such visit', 'expectedVisitId');
  if (visit.householdId !== householdId)
    throw new Refused('others', 'This visit is not of this account', 'expectedVisitId');
  if (visit.freedOn !== null || visit.canceledOn !== null)
    throw new Refused('state', 'This visit is over: take a payment instead', 'expectedVisitId');
  if ((visit.apart === null ? null : visit.visitor) !== patientId)
    throw new Refused(
      'others',
      visit.apart === null
        ? 'This visit is of the household, and the money is kept apart'
        : 'This patient is kept apart: the money of this visit is theirs',
      'patientId',
    );
  return visit;
}

interface One {
  data: Data;
  means: Means;
  deal: Meant & { left: Cents };
  locationId: number | null;
  receiptId: number;
}

/** Keeps a tender that is in hand, and posts it with what it pays. */
async function takeTender(
  act: Act,
  {
    data,
    means,
    deal,
    locationId,
    receiptId,
    day,
    open,
  }: One & { day: CalendarDate; open: readonly Owing[] },
): Promise<void> {
  const cash = await keepTender(act.db, act, {
    tender: means.tender,
    reference: means.reference,
    amount: means.amount,
    given: means.given,
    receiptId,
    locationId,
    drawer: await drawerOf(act, means.tender, locationId),
  });
  await postTender(act, {
    householdId: data.householdId,
    receiptId,
    day,
    memo: tenderMemo(means),
    cash,
    amount: means.amount,
    surcharge: ZERO,
    meant: deal,
    open,
  });
}

/** Posts a tender that was taken, and what it pays of charges, plans and what is with an agency. */
export async function postTender(
  act: Act,
  one: {
    householdId: number;
    receiptId: number;
    day: CalendarDate;
    memo: string;
    cash: Awaited<ReturnType<typeof keepTender>>;
    amount: Cents;
    surcharge: Cents;
    meant: Meant;
    open: readonly Owing[];
  },
): Promise<void> {
  const { householdId, receiptId, day, memo, cash, meant, open } = one;
  const { tenderId } = cash;
  await writeEntries(act.db, act, [
    receiptEntry({
      businessDate: day,
      memo,
      about: { householdId, receiptId },
      cash,
      amount: one.amount,
      surcharge: one.surcharge,
    }),
    ...paidElsewhere(householdId, meant.parts, open).map(([other, amount]) =>
      transferEntry({ businessDate: day, memo, receiptId, tenderId, from: householdId, to: other, amount }),
    ),
    ...allocations(day, memo, receiptId, meant.parts, open, tenderId),
  ]);
  for (const { id: planId, amount } of meant.plans)
    await payOnPlan(act, householdId, { planId, receiptId, amount, memo, day });
  if (meant.agency > 0) await payAgency(act, householdId, receiptId, meant.agency, memo);
}

/** Keeps a tender that a terminal is asked to approve. @returns the attempt */
async function awaitTerminal(act: Act, { data, means, deal, locationId, receiptId }: One): Promise<number> {
  const tx = act.db;
  const reading = await tx
    .selectFrom('card_reading as r')
    .innerJoin('place as p', 'p.id', 'r.place_id')
    .select([
      'r.brand',
      'r.kind',
      'r.entry',
      'r.last_four',
      'r.token',
      'r.place_id',
      'r.user_id',
      'p.merchant',
      'p.location_id as terminalOf',
    ])
    .where('r.key', '=', means.reading)
    .executeTakeFirst();
  if (!reading || reading.user_id !== act.user.id)
    throw new Refused('unknown', 'The terminal has not read this card', 'reading');
  if (reading.terminalOf !== null && locationId !== null && reading.terminalOf !== locationId)
    throw new Refused(
      'others',
      'This card was read at the terminal of another site: read it once more',
      'reading',
    );
  const used = await tx
    .selectFrom('tender')
    .select('id')
    .where('reading', '=', means.reading)
    .executeTakeFirst();
  if (used) throw new Refused('already', 'This card was charged with: read it once more', 'reading');
  const surcharge = await saidSurcharge(act, data, means, deal, locationId, reading);
  const { id: tenderId } = await tx
    .insertInto('tender')
    .values({
      receipt_id: receiptId,
      kind: 'card',
      amount: means.amount,
      surcharge: surcharge.amount,
      reference: means.reference,
      place_id: reading.place_id,
      state: 'pending',
      brand: reading.brand,
      last_four: reading.last_four,
      card_kind: reading.kind,
      card_entry: reading.entry,
      token: reading.token,
      reading: means.reading,
      meant: meantDocument.write({ parts: deal.parts, plans: deal.plans, agency: deal.agency }),
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return keepAttempt(act, { tenderId, what: 'sale', merchant: reading.merchant });
}

/** The surcharge of a tender, which was said before. @throws Refused or Doubtful where it was not, or is another now */
async function saidSurcharge(
  act: Act,
  data: Data,
  means: Means,
  deal: One['deal'],
  locationId: number | null,
  card: Parameters<typeof surchargeOf>[1],
): Promise<Surcharge> {
  const rule = await readSurchargeRule(act.db, locationId);
  const [none, all] = await Promise.all([
    bearingNone(
      act.db,
      deal.parts.map(({ id }) => id),
    ),
    householdBearsNone(act.db, data.householdId, act.today),
  ]);
  const surcharge = surchargeOf(basisOf(deal, none, all), card, rule);
  const said = means.surcharge ?? ZERO;
  if (said !== surcharge.amount)
    throw new Refused(
      'state',
      `The surcharge is ${formatMoneyPlain(surcharge.amount)}, and ${formatMoneyPlain(said)} was said: say it before the card is charged`,
      { field: 'surcharge', facts: { surcharge: surcharge.amount, rate: surcharge.rate } },
    );
  return surcharge;
}

/** Keeps that a terminal is to be asked, under a key that it will be asked with however often. @returns the attempt */
export async function keepAttempt(
  act: Act,
  {
    tenderId,
    what,
    merchant,
    why = '',
  }: { tenderId: number; what: 'sale' | 'void' | 'refund'; merchant: string; why?: string },
): Promise<number> {
  const { id } = await act.db
    .insertInto('attempt')
    .values({
      tender_id: tenderId,
      what,
      key: sql<string>`${`${what}:${tenderId}:`} || gen_random_uuid()`,
      merchant,
      why,
      user_id: act.user.id,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return id;
}

/** Pays a plan from a receipt. A plan is paid by its own account: money of another one is moved there first, by being taken there. */
export async function payOnPlan(act: Act, householdId: number, payment: PlanPayment): Promise<void> {
  const plan = await act.db
    .selectFrom('payment_plan')
    .select('household_id')
    .where('id', '=', payment.planId)
    .executeTakeFirst();
  if (plan?.household_id !== householdId)
    throw new Refused('others', 'That plan is not of this account', 'plans');
  await payFromReceipt(act, payment);
}

/** Pays what is with an agency from a receipt. @throws Refused when less is there */
export async function payAgency(
  act: Act,
  householdId: number,
  receiptId: number,
  amount: Cents,
  memo: string,
): Promise<void> {
  const placement = await placedOf(act.db, householdId);
  if (!placement) throw new Refused('nothing', 'Nothing of this account is with an agency', 'agency');
  const paid = await payPlacement(act, { placementId: placement.id, receiptId, amount, memo });
  if (paid < amount)
    throw new Refused('limit', `${formatMoneyPlain(paid)} is with the agency, less than is paid on it`, {
      field: 'agency',
      facts: { paid },
    });
}

/** What parts pay of other households than the one that the receipt is of, in cents. */
function paidElsewhere(own: number, parts: Spread['parts'], open: readonly Owing[]): [number, Cents][] {
  const byHousehold = new Map<number, Cents>();
  for (const { id, amount } of parts) {
    const { householdId } = open.find((charge) => charge.id === id)!;
    if (householdId !== own) byHousehold.set(householdId, add(byHousehold.get(householdId) ?? ZERO, amount));
  }
  return [...byHousehold];
}

/** A receipt that pays other households' charges is theirs too. */
async function shareReceipt(
  tx: Tx,
  receiptId: number,
  own: number,
  spread: Spread,
  open: readonly Owing[],
): Promise<void> {
  const others = paidElsewhere(own, spread.parts, open);
  if (others.length > 0)
    await tx
      .insertInto('receipt_household')
      .values(others.map(([householdId]) => ({ receipt_id: receiptId, household_id: householdId })))
      .execute();
}

/** Words for each tender that was taken from the household before and stands: the same kind, reference and amount. */
async function takenBefore(tx: Tx, { householdId, tenders }: Data): Promise<string[]> {
  const found: string[] = [];
  for (const { tender, reference, amount } of tenders) {
    if (tender === 'cash' || reference === '') continue;
    const before = await tx
      .selectFrom('receipt as r')
      .innerJoin('tender as t', 't.receipt_id', 'r.id')
      .select(['r.received_on as day'])
      .where('r.household_id', '=', householdId)
      .where('t.kind', '=', tender)
      .where('t.reference', '=', reference)
      .where('t.amount', '=', amount)
      .where('t.state', '=', 'taken')
      .where(({ not }) => not(receiptReversed(sql`r.id`)))
      .executeTakeFirst();
    if (before)
      found.push(
        `${tenderMemo({ tender, reference })} over ${formatMoneyPlain(amount)} was taken on ${formatDate(before.day)} already`,
      );
  }
  return found;
}
