/** Where a running plan stands: what is paid, what is due, whether it is behind. */
import { type CalendarDate, daysBetween, formatDate } from '../calendar';
import { type BasisPoints, type Cents, ZERO, add, formatMoneyPlain, least, minus, most, sum } from '../money';
import { levelOf } from './quote';
import type { Every, Extra } from './terms';

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
export interface StandingFacts {
  status: PlanStatus;
  rate: BasisPoints;
  every: Every;
  extra: Extra;
  installments: readonly { number: number; date: CalendarDate; amount: Cents }[];
  /** What was paid and not taken back, in the order of the days. */
  payments: readonly { date: CalendarDate; amount: Cents }[];
  /** What stands on the plan now, of it principal; interest that has come due and is not in the books yet counted. */
  left: Cents;
  principal: Cents;
}

/** One installment as it stands. */
export interface InstallmentStanding {
  number: number;
  date: CalendarDate;
  /** What is to be paid of it, and what is. */
  amount: Cents;
  paid: Cents;
  /** `dropped` is no longer needed, since the plan is over sooner. */
  state: 'paid' | 'part' | 'due' | 'to come' | 'dropped';
}

/** Where a plan stands. Amounts in cents. */
export interface PlanStanding {
  state: PlanState;
  installments: InstallmentStanding[];
  paid: Cents;
  left: Cents;
  /** What is due now: installments whose day has come, less what was paid of them. */
  due: Cents;
  /** The oldest installment whose day has come and that is not paid. */
  since: CalendarDate | null;
  daysBehind: number;
  /** How many installments whose day has come are not paid. */
  missed: number;
  next: { number: number; date: CalendarDate; amount: Cents } | null;
}

/**
 * Puts payments to installments: those whose day has come first, then the next one to come; what goes beyond that is extra.
 * @returns what is paid of each installment, and the extra money, in cents
 */
function assign(
  installments: StandingFacts['installments'],
  payments: StandingFacts['payments'],
): { paid: Cents[]; extra: Cents } {
  const paid = installments.map((): Cents => ZERO);
  let extra: Cents = ZERO;
  for (const payment of payments) {
    let left = payment.amount;
    const put = (index: number): void => {
      const part = least(left, most(ZERO, minus(installments[index]!.amount, paid[index]!)));
      paid[index] = add(paid[index]!, part);
      left = minus(left, part);
    };
    installments.forEach(({ date }, index) => {
      if (date <= payment.date) put(index);
    });
    const next = installments.findIndex(
      ({ date, amount }, index) => date > payment.date && paid[index]! < amount,
    );
    if (next >= 0) put(next);
    extra = add(extra, left);
  }
  return { paid, extra };
}

/**
 * What is still to be paid of each installment: by their order until nothing is left. After extra money the plan is over
 * sooner, or what is to come is leveled anew over what is left.
 */
function toPay(facts: StandingFacts, paid: readonly Cents[], extra: Cents, today: CalendarDate): Cents[] {
  const open = facts.installments.map((one, index) => most(ZERO, minus(one.amount, paid[index]!)));
  const later = facts.installments.flatMap(({ date }, index) =>
    date > today && paid[index] === 0 ? [index] : [],
  );
  if (extra > 0 && facts.extra === 'lowers' && later.length > 0) {
    const before = sum(open.filter((_, index) => !later.includes(index)));
    const principal = most(ZERO, minus(facts.principal, before));
    const level = levelOf(principal, facts.rate, facts.every, later.length);
    for (const index of later) open[index] = least(open[index]!, level);
  }
  // What is left in the books is all that is asked, but for interest that is to come.
  const cap = facts.rate === 0 || facts.principal === 0;
  let left = facts.left;
  return open.map((amount, index) => {
    if (left <= 0) return ZERO;
    const last = index === facts.installments.length - 1;
    const part = cap ? least(amount, left) : last ? amount : least(amount, left);
    left = minus(left, part);
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
export function standingOf(facts: StandingFacts, today: CalendarDate): PlanStanding {
  const { paid, extra } = assign(facts.installments, facts.payments);
  const running = facts.status === 'accepted';
  const open = running ? toPay(facts, paid, extra, today) : facts.installments.map((): Cents => ZERO);
  const installments = facts.installments.map(({ number, date }, index): InstallmentStanding => {
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
  const since = behind[0]?.date ?? null;
  const nextIndex = installments.findIndex((one, index) => one.date > today && open[index]! > 0);
  const next = nextIndex < 0 ? null : installments[nextIndex]!;
  const ahead = extra > 0 || installments.some(({ date, paid: done }) => date > today && done > 0);
  const begun = facts.payments.length > 0 || installments.some(({ date }) => date <= today);
  return {
    state:
      ENDED[facts.status] ??
      (behind.some(({ date }) => date < today) ? 'behind' : ahead ? 'ahead' : begun ? 'running' : 'agreed'),
    installments,
    paid: sum(facts.payments.map(({ amount }) => amount)),
    left: facts.left,
    due: sum(installments.map((one, index) => (one.date <= today ? open[index]! : ZERO))),
    since,
    daysBehind: since === null ? 0 : daysBetween(since, today),
    missed: behind.filter(({ date }) => date < today).length,
    next: next && { number: next.number, date: next.date, amount: open[nextIndex]! },
  };
}

/** Where a running plan stands, in words for the patient. */
export function planWords(number: string, { due, since, next, left }: PlanStanding): string {
  const parts = [
    due > 0 &&
      `${formatMoneyPlain(due)} of it ${since === null ? 'is due now' : `was due on ${formatDate(since)}`}`,
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
export function brokenBy(standing: PlanStanding, rule: BrokenRule): string | null {
  if (rule.missed > 0 && standing.missed >= rule.missed) return `${standing.missed} installments are missed`;
  if (rule.days > 0 && standing.daysBehind >= rule.days) return `it is ${standing.daysBehind} days behind`;
  return null;
}
