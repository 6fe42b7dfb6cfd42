/**
 * Who gets a statement: rows *take when …* and *leave out when …* weighed on what is known of a household. Each household is
 * in with its reasons or out with its reasons.
 */
import { type CalendarDate, addMonths, daysBetween, formatDate } from '../calendar';
import { type Cents, add, cents, formatMoneyPlain, minus } from '../money';
import { counted } from '../words';
import { type StatementPolicy, cycleComesRound } from './policy';

/** What of a household is weighed. Amounts in cents; dates null where there was none. */
export interface HouseholdFacts {
  householdId: number;
  /** The patient alone whose services are weighed, because they go to a confidential address; null for the rest of the household. */
  patientId: number | null;
  account: string;
  name: string;
  siteId: number | null;
  /** The household in whose envelope it goes: itself, or the one that it is mailed with, whose delivery and address count. */
  envelope: number;
  /** What the patient owes now, without credit and without what may not be billed. */
  owed: Cents;
  /** What stands with the patient and may not be billed. */
  forbidden: Cents;
  credit: Cents;
  /** What its payment plans ask for until its statement would be due, and since or until when the first of it; what is elsewhere. */
  installments: Cents;
  onPlan: Cents;
  atAgency: Cents;
  withPayers: Cents;
  /** The age of the oldest amount: since when the patient is responsible, or the date of its service. */
  oldest: CalendarDate | null;
  lastStatement: CalendarDate | null;
  /** The last one that was handed over in person. */
  handedOver: CalendarDate | null;
  lastPayerPayment: CalendarDate | null;
  lastService: CalendarDate | null;
  /** The newest service that is on no claim yet. */
  unbilledService: CalendarDate | null;
  claimsOut: number;
  /** The next installment of its plans that comes due, and how many days the oldest missed one is behind; null where nothing runs. */
  installmentOn: CalendarDate | null;
  planBehind: number | null;
  providerIds: readonly number[];
  category: string | null;
  addressIncomplete: boolean;
  addressReturned: CalendarDate | null;
  delivery: 'mail' | 'print-shop' | 'email' | 'none';
  deliveryWhy: string;
  hasEmail: boolean;
  emailReturned: CalendarDate | null;
  holdUntil: CalendarDate | null;
  holdWhy: string;
  /** What is charged so much above a good faith estimate that it may be disputed, and nobody has looked at, in words. */
  aboveEstimate: readonly string[];
  /** Names of the stops on the account that stop statements. */
  stops: readonly string[];
  /** The batch of a piece that is not out yet; 0 for one without a batch. */
  openBatch: number | null;
}

/** A row of a set. `number` is in days, months or cents, as its condition asks; `choices` are ids or names as text. */
export interface SelectionRow {
  side: 'take' | 'leave';
  what: ConditionId;
  number?: number | undefined;
  choices?: string[] | undefined;
}

interface Weighing {
  facts: HouseholdFacts;
  policy: StatementPolicy;
  today: CalendarDate;
  number: number;
  choices: readonly string[];
}

interface Condition {
  /** Which side of a set it stands on by nature; it may stand on either. */
  side: SelectionRow['side'];
  /** What it says after *take when* or *leave out when*; `…` stands for its number or choice. */
  words: string;
  asks: 'nothing' | 'days' | 'months' | 'money' | 'category' | 'site' | 'provider';
  holds(on: Weighing): boolean;
  /** Why it holds, and why it does not, of this household. */
  yes(on: Weighing): string;
  no(on: Weighing): string;
}

/**
 * What would be due on the statement of a household: what is owed less credit, and what its payment plans ask for until then, in
 * cents; below zero is credit left over.
 */
export const dueNow = ({
  owed,
  credit,
  installments,
}: Pick<HouseholdFacts, 'owed' | 'credit' | 'installments'>): Cents => add(minus(owed, credit), installments);
const hasCreditLeft = (facts: HouseholdFacts): boolean => facts.credit > 0 && dueNow(facts) < 0;
/** Nothing is asked for, and nothing held: only then does it matter where the rest is. */
const asksNothing = ({ owed, credit, installments }: HouseholdFacts): boolean =>
  owed <= 0 && credit <= 0 && installments <= 0;
const m = formatMoneyPlain;
const dated = (date: CalendarDate | null, none: string): string => (date ? formatDate(date) : none);
const lastSaid = ({ facts }: Weighing): string =>
  facts.lastStatement
    ? `its last statement is of ${formatDate(facts.lastStatement)}`
    : 'it never had a statement';

/** Whether a day lies within the last months. */
const within = (day: CalendarDate | null, months: number, today: CalendarDate): boolean =>
  day !== null && day > addMonths(today, -months);

/** Whether a day is after the last statement, or there was none. */
const sinceLast = (day: CalendarDate | null, { facts }: Weighing): boolean =>
  day !== null && (facts.lastStatement === null || day > facts.lastStatement);

/** Every condition that a row can have. */
export const CONDITIONS = {
  cycle: {
    side: 'take',
    words: 'its cycle has come round',
    asks: 'nothing',
    holds: ({ facts, policy, today }) => cycleComesRound(policy, facts.lastStatement, today),
    yes: (on) => `its cycle has come round: ${lastSaid(on)}`,
    no: (on) => `its cycle has not come round: ${lastSaid(on)}`,
  },
  'last-older': {
    side: 'take',
    words: 'the last statement is older than … days',
    asks: 'days',
    holds: ({ facts, number, today }) =>
      facts.lastStatement === null || daysBetween(facts.lastStatement, today) > number,
    yes: lastSaid,
    no: lastSaid,
  },
  'payer-paid': {
    side: 'take',
    words: 'a payer has paid since the last statement',
    asks: 'nothing',
    holds: (on) => sinceLast(on.facts.lastPayerPayment, on),
    yes: ({ facts }) => `a payer paid on ${dated(facts.lastPayerPayment, '')}`,
    no: ({ facts }) =>
      facts.lastPayerPayment
        ? `no payer has paid since ${formatDate(facts.lastPayerPayment)}`
        : 'no payer has ever paid',
  },
  'new-charge': {
    side: 'take',
    words: 'there is a new charge since the last statement',
    asks: 'nothing',
    holds: (on) => sinceLast(on.facts.lastService, on),
    yes: ({ facts }) => `a service of ${dated(facts.lastService, '')} is new`,
    no: () => 'nothing new since its last statement',
  },
  installment: {
    side: 'take',
    words: 'an installment comes due within … days',
    asks: 'days',
    holds: ({ facts, number, today }) =>
      facts.installmentOn !== null && daysBetween(today, facts.installmentOn) <= number,
    yes: ({ facts }) => `an installment is due on ${dated(facts.installmentOn, '')}`,
    no: ({ facts }) =>
      facts.installmentOn
        ? `its next installment is due on ${formatDate(facts.installmentOn)}`
        : 'no plan runs',
  },
  'oldest-over': {
    side: 'take',
    words: 'the oldest amount is older than … days',
    asks: 'days',
    holds: ({ facts, number, today }) => facts.oldest !== null && daysBetween(facts.oldest, today) > number,
    yes: ({ facts }) => `its oldest amount is of ${dated(facts.oldest, '')}`,
    no: ({ facts }) =>
      facts.oldest ? `its oldest amount is of ${formatDate(facts.oldest)}` : 'no amount is owed',
  },
  'balance-below': {
    side: 'leave',
    words: 'what is due is below …',
    asks: 'money',
    holds: ({ facts, number }) => dueNow(facts) < number,
    yes: ({ facts, number }) => `${m(dueNow(facts))} is due, less than ${m(cents(number))}`,
    no: ({ facts }) => `${m(dueNow(facts))} is due`,
  },
  credit: {
    side: 'leave',
    words: 'it has more credit than it owes',
    asks: 'nothing',
    holds: ({ facts }) => hasCreditLeft(facts),
    yes: ({ facts }) => `${m(facts.credit)} of credit, ${m(facts.owed)} owed`,
    no: () => 'it has no credit left over',
  },
  'address-incomplete': {
    side: 'leave',
    words: 'the address is incomplete',
    asks: 'nothing',
    holds: ({ facts }) => facts.addressIncomplete,
    yes: () => 'the address is incomplete',
    no: () => 'the address is complete',
  },
  'mail-returned': {
    side: 'leave',
    words: 'mail came back',
    asks: 'nothing',
    holds: ({ facts }) => facts.addressReturned !== null,
    yes: ({ facts }) => `mail came back on ${dated(facts.addressReturned, '')}`,
    no: () => 'no mail came back',
  },
  'claims-out': {
    side: 'leave',
    words: 'claims are out',
    asks: 'nothing',
    holds: ({ facts }) => facts.claimsOut > 0,
    yes: ({ facts }) => `${counted(facts.claimsOut, 'claim is', 'claims are')} out`,
    no: () => 'no claim is out',
  },
  unbilled: {
    side: 'leave',
    words: 'a service of the last … months is on no claim yet',
    asks: 'months',
    holds: ({ facts, number, today }) => within(facts.unbilledService, number, today),
    yes: ({ facts }) => `a service of ${dated(facts.unbilledService, '')} is on no claim yet`,
    no: () => 'every service is on its claim',
  },
  'plan-good': {
    side: 'leave',
    words: 'its plan is in good order',
    asks: 'nothing',
    holds: ({ facts }) => facts.planBehind === 0,
    yes: () => 'its plan is in good order',
    no: ({ facts }) =>
      facts.planBehind === null ? 'no plan runs' : `its plan is ${facts.planBehind} days behind`,
  },
  'not-seen': {
    side: 'leave',
    words: 'nobody of it was seen for … months',
    asks: 'months',
    holds: ({ facts, number, today }) => !within(facts.lastService, number, today),
    yes: ({ facts }) => `nobody was seen since ${dated(facts.lastService, 'the beginning')}`,
    no: ({ facts }) => `somebody was seen on ${dated(facts.lastService, '')}`,
  },
  'handed-over': {
    side: 'leave',
    words: 'one was handed over in the last … days',
    asks: 'days',
    holds: ({ facts, number, today }) =>
      facts.handedOver !== null && daysBetween(facts.handedOver, today) <= number,
    yes: ({ facts }) => `one was handed over on ${dated(facts.handedOver, '')}`,
    no: () => 'none was handed over lately',
  },
  category: {
    side: 'leave',
    words: 'its category is …',
    asks: 'category',
    holds: ({ facts, choices }) => facts.category !== null && choices.includes(facts.category),
    yes: ({ facts }) => `its category is ${facts.category ?? ''}`,
    no: ({ facts }) => `its category is ${facts.category ?? 'none'}`,
  },
  site: {
    side: 'take',
    words: 'its site is …',
    asks: 'site',
    holds: ({ facts, choices }) => facts.siteId !== null && choices.includes(String(facts.siteId)),
    yes: () => 'its site is among those chosen',
    no: () => 'its site is not among those chosen',
  },
  provider: {
    side: 'take',
    words: 'it was seen by …',
    asks: 'provider',
    holds: ({ facts, choices }) => facts.providerIds.some((id) => choices.includes(String(id))),
    yes: () => 'it was seen by one of those chosen',
    no: () => 'it was seen by none of those chosen',
  },
} as const satisfies Record<string, Condition>;

/** A condition of a row. */
export type ConditionId = keyof typeof CONDITIONS;
/** All of them. */
export const CONDITION_IDS = Object.keys(CONDITIONS) as [ConditionId, ...ConditionId[]];

/** What leaves a household out whatever the rows say: the reason's id with its words, null where it does not hold. */
const ALWAYS = {
  'not-billable': ({ facts }: Weighing): string | null =>
    facts.owed <= 0 && facts.forbidden > 0 ? `${m(facts.forbidden)} may not be billed to the patient` : null,
  'nothing-due': ({ facts }: Weighing): string | null =>
    asksNothing(facts)
      ? facts.onPlan > 0 || facts.atAgency > 0 || facts.withPayers > 0
        ? null
        : 'nothing is owed'
      : dueNow(facts) === 0
        ? 'its credit pays all of it'
        : null,
  'on-plan': ({ facts }: Weighing): string | null =>
    asksNothing(facts) && facts.onPlan > 0
      ? `${m(facts.onPlan)} is on a payment plan, ${facts.installmentOn ? `which asks next on ${formatDate(facts.installmentOn)}` : 'which asks for nothing now'}`
      : null,
  'at-agency': ({ facts }: Weighing): string | null =>
    asksNothing(facts) && facts.atAgency > 0 ? `${m(facts.atAgency)} is with an agency` : null,
  'with-payers': ({ facts }: Weighing): string | null =>
    asksNothing(facts) && facts.withPayers > 0 ? `${m(facts.withPayers)} is still with payers` : null,
  'below-least': ({ facts, policy }: Weighing) =>
    dueNow(facts) > 0 && dueNow(facts) < policy.least
      ? `${m(dueNow(facts))} is due, less than the policy’s ${m(policy.least)}`
      : null,
  'above-estimate': ({ facts }: Weighing) =>
    facts.aboveEstimate.length > 0
      ? `${facts.aboveEstimate.join('; ')}: the patient may dispute it, look at it first`
      : null,
  stop: ({ facts }: Weighing) => (facts.stops.length > 0 ? `stopped: ${facts.stops.join(', ')}` : null),
  hold: ({ facts, today }: Weighing) =>
    facts.holdUntil !== null && facts.holdUntil >= today
      ? `held until ${formatDate(facts.holdUntil)}: ${facts.holdWhy}`
      : null,
  'no-delivery': ({ facts }: Weighing) =>
    facts.delivery === 'none' ? `gets none: ${facts.deliveryWhy}` : null,
  'no-email': ({ facts }: Weighing) =>
    facts.delivery !== 'email'
      ? null
      : facts.emailReturned
        ? `e-mail came back on ${formatDate(facts.emailReturned)}`
        : facts.hasEmail
          ? null
          : 'goes by e-mail, and there is no address',
  'open-piece': ({ facts }: Weighing) =>
    facts.openBatch === null ? null : 'one is prepared and not out yet',
} as const satisfies Record<string, (on: Weighing) => string | null>;

/** Why a household is out whatever the rows say. */
type AlwaysId = keyof typeof ALWAYS;

/** Every reason: a condition, what always holds, or that no row takes the household, or that no row is needed. */
export type ReasonId = ConditionId | AlwaysId | 'no-row-takes-it' | 'everybody';

/** A reason in words. */
export interface Reason {
  id: ReasonId;
  words: string;
}

/** Whether a household is in or out, and why; at least one reason. */
export interface Choice {
  in: boolean;
  reasons: Reason[];
}

/** Credit that is left over is sent only where a row asks for those. */
const ASKS_FOR_CREDIT: readonly ConditionId[] = ['credit', 'balance-below'];

/** Each reason once, though two rows say it. */
const once = (reasons: readonly Reason[]): Reason[] =>
  reasons.filter((reason, index) => reasons.findIndex(({ id }) => id === reason.id) === index);

/**
 * Weighs the rows on one household. A row of *leave out* that holds, or anything that always holds, leaves it out, with every
 * reason; else a row of *take* that holds takes it. Without any row of *take*, everybody who owes is taken.
 */
export function choose(
  facts: HouseholdFacts,
  rows: readonly SelectionRow[],
  policy: StatementPolicy,
  today: CalendarDate,
): Choice {
  const weigh = (row: SelectionRow) => {
    const condition: Condition = CONDITIONS[row.what];
    const on = { facts, policy, today, number: row.number ?? 0, choices: row.choices ?? [] };
    const holds = condition.holds(on);
    return { row, holds, reason: { id: row.what, words: holds ? condition.yes(on) : condition.no(on) } };
  };
  const weighed = rows.map(weigh);
  const takes = weighed.filter(({ row }) => row.side === 'take');
  const taking = takes.filter(({ holds }) => holds);
  const on = { facts, policy, today, number: 0, choices: [] };
  const out: Reason[] = [
    ...Object.entries(ALWAYS).flatMap(([id, holds]) => {
      const words = holds(on);
      return words === null ? [] : [{ id: id as AlwaysId, words }];
    }),
    ...weighed.filter(({ row, holds }) => row.side === 'leave' && holds).map(({ reason }) => reason),
  ];
  const leftOver = hasCreditLeft(facts);
  const asked = taking.some(({ row }) => ASKS_FOR_CREDIT.includes(row.what));
  if (leftOver && !asked && !out.some(({ id }) => id === 'credit'))
    out.push({ id: 'credit', words: CONDITIONS.credit.yes(on) });
  if (takes.length > 0 && taking.length === 0)
    out.push({ id: 'no-row-takes-it', words: takes.map(({ reason }) => reason.words).join('; ') });
  if (out.length > 0) return { in: false, reasons: once(out) };
  return {
    in: true,
    reasons:
      taking.length > 0
        ? once(taking.map(({ reason }) => reason))
        : [{ id: 'everybody', words: `${m(dueNow(facts))} is due` }],
  };
}

/** Places where a reason is mended: how the household is written to, its account, its claims, the piece that is prepared, the policy. */
const MENDED: Partial<Record<ReasonId, 'mail' | 'account' | 'claims' | 'piece' | 'policy' | 'estimates'>> = {
  'above-estimate': 'estimates',
  'address-incomplete': 'mail',
  'no-email': 'mail',
  'mail-returned': 'mail',
  hold: 'mail',
  'no-delivery': 'mail',
  stop: 'mail',
  'not-billable': 'account',
  'plan-good': 'account',
  category: 'mail',
  'claims-out': 'claims',
  unbilled: 'account',
  credit: 'account',
  'open-piece': 'piece',
  'below-least': 'policy',
};

/** The address at which a reason is mended; null where there is nothing to mend. */
export function mendingPlace(reason: ReasonId, facts: HouseholdFacts): string | null {
  const account = `/accounts/${facts.householdId}`;
  const place = MENDED[reason];
  if (place === undefined) return null;
  const addresses: Record<typeof place, string> = {
    mail: `${account}?show=statements`,
    account,
    claims: `/claims?view=all&search=${encodeURIComponent(facts.account)}`,
    piece: facts.openBatch ? `/statements/batches/${facts.openBatch}` : account,
    policy: '/setup/statement-policy',
    estimates: `/accounts/estimates?view=above&search=${encodeURIComponent(facts.account)}`,
  };
  return addresses[place];
}
