/** Where a running plan stands: what is paid, what is due, whether it is behind. */
import { type CalendarDate, daysBetween, formatDate } from '../calendar';
import { type BasisPoints, type Cents, ZERO, add, formatMoneyPlain, least, minus, most, sum } from '../money';
import { counted } from '../words';
import { interestThrough } from './interest';
import { levelOf } from './quote';
import type { Every, Extra, InterestBy } from './terms';

/** What became of a plan, as the record keeps it. */
export const PLAN_STATUSES = {
  proposed: 'proposed',
  accepted: 'accepted',
  finished: 'finished',
  changed: 'changed',
  cancelled: 'cancelled',
  broken: 'broken',
} as const;
/** What became of a plan. */
export type PlanStatus = keyof typeof PLAN_STATUSES;

/** The state of a plan as it is shown. */
export const PLAN_STATES = {
  proposed: 'proposed',
  agreed: 'agreed',
  running: 'running',
  ahead: 'ahead',
  behind: 'behind',
  broken: 'broken',
  finished: 'finished',
  changed: 'changed',
  cancelled: 'cancelled',
} as const;
/** The state of a plan. */
export type PlanState = keyof typeof PLAN_STATES;

/** What is known of a plan. Amounts in cents. */
export interface ProgressFacts {
  status: PlanStatus;
  rate: BasisPoints;
  every: Every;
  extra: Extra;
  interestBy: InterestBy;
  first: CalendarDate;
  /** How many due dates have had their interest, and through which day it is counted. */
  counted: number;
  through: CalendarDate;
  installments: readonly { number: number; date: CalendarDate; amount: Cents }[];
  /** What was paid and not taken back, in the order of the days, with the principal that was open after it. */
  payments: readonly { date: CalendarDate; amount: Cents; principal: Cents }[];
  /** What stands on the plan now, of it principal; interest that has come due and is not in the books yet counted. */
  left: Cents;
  principal: Cents;
  /** Since when the down payment that was agreed is due, and what of it is not made. */
  downOn: CalendarDate;
  downLeft: Cents;
}

/** One installment as it stands. */
export interface InstallmentProgress {
  number: number;
  date: CalendarDate;
  /** What is to be paid of it, and what is. */
  amount: Cents;
  paid: Cents;
  /** `dropped` is no longer needed, since the plan is over sooner. */
  state: 'paid' | 'part' | 'due' | 'to come' | 'dropped';
}

/** Where a plan stands. Amounts in cents. */
export interface PlanProgress {
  state: PlanState;
  installments: InstallmentProgress[];
  paid: Cents;
  left: Cents;
  /** What is due now: installments whose day has come, less what was paid of them. */
  due: Cents;
  /** What of the down payment is not made, which stands with the patient and not on the plan. */
  downLeft: Cents;
  /** Since when it is asked for: the oldest installment whose day has come, or the down payment, that is not paid. */
  since: CalendarDate | null;
  daysBehind: number;
  /** How many installments whose day is past are not paid, the down payment counted as one; and the oldest of them or of today. */
  missed: number;
  oldest: InstallmentProgress | null;
  next: { number: number; date: CalendarDate; amount: Cents } | null;
}

/**
 * Puts payments to installments: those whose day has come first, then the next one to come; what goes beyond that is extra. Where
 * extra money lowers what is to come, it is leveled anew on the day of that money, and stays so when its day comes.
 * @returns what each installment asks for in all and what is paid of it, and the extra money, in cents
 */
function assign(facts: ProgressFacts): { asked: Cents[]; paid: Cents[]; extra: Cents } {
  const { installments } = facts;
  const asked = installments.map(({ amount }) => amount);
  const paid = installments.map((): Cents => ZERO);
  let extra: Cents = ZERO;
  for (const payment of facts.payments) {
    let left = payment.amount;
    const put = (index: number): void => {
      const part = least(left, most(ZERO, minus(asked[index]!, paid[index]!)));
      paid[index] = add(paid[index]!, part);
      left = minus(left, part);
    };
    installments.forEach(({ date }, index) => {
      if (date <= payment.date) put(index);
    });
    const next = installments.findIndex(
      ({ date }, index) => date > payment.date && paid[index]! < asked[index]!,
    );
    if (next >= 0) put(next);
    extra = add(extra, left);
    if (left === 0 || facts.extra !== 'lowers') continue;
    const later = installments.flatMap(({ date }, index) =>
      date > payment.date && paid[index] === 0 ? [index] : [],
    );
    if (later.length === 0) continue;
    const before = sum(
      installments.map((_, index) =>
        later.includes(index) ? ZERO : most(ZERO, minus(asked[index]!, paid[index]!)),
      ),
    );
    const principal = most(ZERO, minus(payment.principal, before));
    const level = levelOf(principal, facts.rate, facts.every, later.length);
    for (const index of later) asked[index] = least(asked[index]!, level);
  }
  return { asked, paid, extra };
}

/**
 * What is still to be paid of each installment, as its day will find it: what is left, and the interest that comes until then,
 * goes by their order until nothing is left, so that after extra money, or with less owed, the plan is over sooner. The last one
 * asks for all that is left, be it more than was agreed, since somebody paid late, or less.
 */
function toPay(
  facts: ProgressFacts,
  asked: readonly Cents[],
  paid: readonly Cents[],
  today: CalendarDate,
): Cents[] {
  let { left, principal, counted, through } = facts;
  return facts.installments.map(({ date }, index) => {
    if (date > today)
      for (const due of interestThrough({ ...facts, principal, counted, through }, date)) {
        left = add(left, due.amount);
        ({ counted } = due);
        through = due.date;
      }
    const last = index === facts.installments.length - 1;
    const part = last
      ? most(ZERO, left)
      : least(most(ZERO, minus(asked[index]!, paid[index]!)), most(ZERO, left));
    left = minus(left, part);
    principal = least(principal, most(ZERO, left));
    return part;
  });
}

const ENDED: Partial<Record<PlanStatus, PlanState>> = {
  proposed: 'proposed',
  finished: 'finished',
  changed: 'changed',
  cancelled: 'cancelled',
  broken: 'broken',
};

/** Where a plan stands on a day. */
export function progressOf(facts: ProgressFacts, today: CalendarDate): PlanProgress {
  const { asked: leveled, paid, extra } = assign(facts);
  const running = facts.status === 'accepted';
  const open = running ? toPay(facts, leveled, paid, today) : facts.installments.map((): Cents => ZERO);
  const installments = facts.installments.map(({ number, date }, index): InstallmentProgress => {
    const [asked, done] = [open[index]!, paid[index]!];
    const scheduled = facts.installments[index]!.amount;
    // Of a plan that does not run, what was agreed is shown; what is unpaid of an ended one is asked no more.
    if (!running)
      return {
        number,
        date,
        amount: scheduled,
        paid: done,
        state: facts.status === 'proposed' ? 'to come' : done >= scheduled ? 'paid' : 'dropped',
      };
    const state =
      asked === 0
        ? done > 0
          ? 'paid'
          : 'dropped'
        : date <= today
          ? done > 0
            ? 'part'
            : 'due'
          : done > 0
            ? 'part'
            : 'to come';
    return { number, date, amount: add(asked, done), paid: done, state };
  });
  const behind = installments.filter((one, index) => one.date <= today && open[index]! > 0);
  const downLeft = running ? facts.downLeft : ZERO;
  const [oldest = null] = behind;
  const since = downLeft > 0 ? facts.downOn : (oldest?.date ?? null);
  const nextIndex = installments.findIndex((one, index) => one.date > today && open[index]! > 0);
  const next = nextIndex < 0 ? null : installments[nextIndex]!;
  const ahead = extra > 0 || installments.some(({ date, paid: done }) => date > today && done > 0);
  const begun = facts.payments.length > 0 || installments.some(({ date }) => date <= today);
  return {
    state:
      ENDED[facts.status] ??
      (since !== null && since < today ? 'behind' : ahead ? 'ahead' : begun ? 'running' : 'agreed'),
    installments,
    paid: sum(facts.payments.map(({ amount }) => amount)),
    left: facts.left,
    due: sum(installments.map((one, index) => (one.date <= today ? open[index]! : ZERO))),
    downLeft,
    oldest,
    since,
    daysBehind: since === null ? 0 : daysBetween(since, today),
    missed: behind.filter(({ date }) => date < today).length + (downLeft > 0 && facts.downOn < today ? 1 : 0),
    next: next && { number: next.number, date: next.date, amount: open[nextIndex]! },
  };
}

/** What a running plan asks for until a day: each installment that comes due and is not paid, in cents. */
export const asksUntil = (
  { state, installments }: Pick<PlanProgress, 'state' | 'installments'>,
  day: CalendarDate,
): { number: number; date: CalendarDate; amount: Cents }[] =>
  state === 'proposed'
    ? []
    : installments.flatMap(({ number, date, amount, paid, state: its }) =>
        date <= day && amount > paid && its !== 'dropped' && its !== 'paid'
          ? [{ number, date, amount: minus(amount, paid) }]
          : [],
      );

/** Where a running plan stands, in words for the patient. */
export function planWords(number: string, { due, downLeft, oldest, next, left }: PlanProgress): string {
  const parts = [
    downLeft > 0 && `${formatMoneyPlain(downLeft)} of the down payment is not made`,
    due > 0 &&
      `${formatMoneyPlain(due)} of it ${oldest === null ? 'is due now' : `was due on ${formatDate(oldest.date)}`}`,
    next && `the next installment of ${formatMoneyPlain(next.amount)} is due on ${formatDate(next.date)}`,
    `${formatMoneyPlain(left)} is left in all`,
  ].filter(Boolean);
  return `Payment plan ${number}: ${parts.join('; ')}.`;
}

/** When a plan counts as broken. */
export interface BrokenRule {
  /** So many installments missed; 0 never. */
  missed: number;
  /** So many days behind; 0 never. */
  days: number;
}

/** Why a plan is broken by the rule, in words; null when it is not. */
export function brokenBy(progress: PlanProgress, rule: BrokenRule): string | null {
  if (rule.missed > 0 && progress.missed >= rule.missed)
    return `${counted(progress.missed, progress.downLeft > 0 ? 'payment is' : 'installment is', progress.downLeft > 0 ? 'payments are' : 'installments are')} missed`;
  if (rule.days > 0 && progress.daysBehind >= rule.days) return `it is ${progress.daysBehind} days behind`;
  return null;
}
