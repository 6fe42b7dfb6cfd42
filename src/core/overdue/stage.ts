/**
 * Where an overdue account stands: its stage is the last letter that was sent for the present debt, what comes next and when,
 * or why it is spared. All of it follows from the record.
 */
import { type CalendarDate, addDays, daysBetween, formatDate } from '../calendar';
import { type Cents, formatMoneyPlain, sum } from '../money';
import { counted } from '../words';
import type { OverduePolicy, Stage } from './policy';

/** What is past due of a charge, in cents, and the first day on which it is. */
export interface PastDueCharge {
  chargeId: number;
  amount: Cents;
  since: CalendarDate;
}

/** A letter that went out: its stage’s place in the order, and the charges that it named. */
export interface SentLetter {
  stageId: number | null;
  position: number;
  date: CalendarDate;
  chargeIds: readonly number[];
}

/** What somebody promised: an amount in cents by a day, and what has been paid since. */
export interface PromiseFacts {
  amount: Cents;
  madeOn: CalendarDate;
  by: CalendarDate;
  paid: Cents;
}

/** What is known of an account that is past due. Dates null where there was none. */
export interface OverdueFacts {
  charges: readonly PastDueCharge[];
  /** Letters that were sent and not voided, in the order in which they went out. */
  letters: readonly SentLetter[];
  lastPayment: CalendarDate | null;
  promise: PromiseFacts | null;
  /** The day on which a reduction for hardship was asked for that nobody decided yet. */
  hardshipAsked: CalendarDate | null;
  /** Days that its running plan is behind; 0 in good order, null where none runs. */
  planBehind: number | null;
  claimsOut: number;
  /** Names of what stops letters, and whether something stops the agency. */
  stops: readonly string[];
  stopsAgency: boolean;
  /** One is prepared and not out yet. */
  openLetter: boolean;
  /** A placement that was proposed or approved and is not handed over. */
  placement: 'none' | 'proposed' | 'placed';
  /** The last placement that came to nothing, or that nobody wanted: on which day, and how it ended in words. */
  cameBack: { on: CalendarDate; words: string } | null;
  /** A day on which somebody wants to be called, or was to be tried again. */
  againOn: CalendarDate | null;
}

/** How a promise stands: the journal says whether it was kept. */
export function promiseState(promise: PromiseFacts, today: CalendarDate): 'open' | 'kept' | 'broken' {
  if (promise.paid >= promise.amount) return 'kept';
  return today > promise.by ? 'broken' : 'open';
}

/** What was promised, in words. */
export const promiseWords = ({ amount, by }: Pick<PromiseFacts, 'amount' | 'by'>): string =>
  `promised ${formatMoneyPlain(amount)} by ${formatDate(by)}`;

/** That a reduction was asked for, in words. */
export const hardshipWords = (on: CalendarDate): string =>
  `a reduction for hardship was asked for on ${formatDate(on)}`;

/** What can be done next. */
export const ACTIONS = {
  letter: 'letter',
  call: 'call',
  agency: 'agency',
  wait: 'wait',
  none: 'nothing',
} as const;
/** What can be done next. */
export type OverdueAction = keyof typeof ACTIONS;

/** Why an account is spared. */
export const SPARED = {
  stop: 'stopped',
  'small-balance': 'less than the policy’s least',
  'recent-payment': 'paid lately',
  promise: 'promise not yet due',
  hardship: 'reduction asked for',
  plan: 'plan in good order',
  claims: 'claim open',
  placed: 'with an agency',
} as const;
/** Why an account is spared. */
export type SparedId = keyof typeof SPARED;

/** Where an account stands. Amounts in cents. */
export interface OverdueOutlook {
  pastDue: Cents;
  since: CalendarDate;
  daysPastDue: number;
  /** The stage of the last letter of this debt; null before the first. */
  stage: Stage | null;
  /** What was sent last for this debt. */
  lastLetter: CalendarDate | null;
  /** The stage whose letter is next; null when all were sent. */
  next: Stage | null;
  action: OverdueAction;
  /** The day of the next action; null when nothing is to be done. */
  on: CalendarDate | null;
  why: string;
  spared: readonly { id: SparedId; words: string; until: CalendarDate | null }[];
}

/**
 * The last letter of the present debt: the newest one that named a charge which is past due still. A debt that was cured, so
 * that none of those charges is past due any more, begins anew.
 */
export function lastLetterOf(
  letters: readonly SentLetter[],
  charges: readonly PastDueCharge[],
): SentLetter | null {
  const open = new Set(charges.map(({ chargeId }) => chargeId));
  return letters.findLast(({ chargeIds }) => chargeIds.some((id) => open.has(id))) ?? null;
}

/** The stage whose letter comes after a place in the order; none is skipped. */
const after = (stages: readonly Stage[], position: number): Stage | null =>
  [...stages].sort((a, b) => a.position - b.position).find((stage) => stage.position > position) ?? null;

const latest = (...days: CalendarDate[]): CalendarDate => days.reduce((a, b) => (b > a ? b : a));

/** Why an account is spared, each reason in words and until when it holds where that is known. */
function reasonsToSpare(
  facts: OverdueFacts,
  policy: OverduePolicy,
  pastDue: Cents,
  today: CalendarDate,
): OverdueOutlook['spared'] {
  const spared: { id: SparedId; words: string; until: CalendarDate | null }[] = [];
  const { promise, lastPayment } = facts;
  if (facts.stops.length > 0)
    spared.push({ id: 'stop', words: `stopped: ${facts.stops.join(', ')}`, until: null });
  if (facts.placement === 'placed') spared.push({ id: 'placed', words: 'with an agency', until: null });
  if (pastDue < policy.least)
    spared.push({
      id: 'small-balance',
      words: `${formatMoneyPlain(pastDue)}, less than the policy’s ${formatMoneyPlain(policy.least)}`,
      until: null,
    });
  if (promise && promiseState(promise, today) === 'open')
    spared.push({
      id: 'promise',
      words: promiseWords(promise),
      until: promise.by,
    });
  if (facts.hardshipAsked)
    spared.push({ id: 'hardship', words: hardshipWords(facts.hardshipAsked), until: null });
  if (policy.recentDays > 0 && lastPayment && daysBetween(lastPayment, today) < policy.recentDays)
    spared.push({
      id: 'recent-payment',
      words: `paid on ${formatDate(lastPayment)}`,
      until: addDays(lastPayment, policy.recentDays - 1),
    });
  if (policy.sparePlans && facts.planBehind === 0)
    spared.push({ id: 'plan', words: 'its plan is in good order', until: null });
  if (policy.spareClaims && facts.claimsOut > 0)
    spared.push({
      id: 'claims',
      words: `${counted(facts.claimsOut, 'claim is', 'claims are')} out`,
      until: null,
    });
  return spared;
}

/** The day on which what spares an account ends, when all of it has its end. */
const sparedUntil = (spared: OverdueOutlook['spared']): CalendarDate | null =>
  spared.some(({ until }) => until === null)
    ? null
    : addDays(latest(...spared.map(({ until }) => until!)), 1);

/**
 * Where an account stands that has something past due. A letter is due when the debt is as old as its stage asks and so many
 * days lie between it and the letter before; a broken promise and a day on which somebody is to be called come before letters.
 * @param facts with at least one charge past due
 */
export function outlookOf(
  facts: OverdueFacts,
  policy: OverduePolicy,
  stages: readonly Stage[],
  today: CalendarDate,
): OverdueOutlook {
  const pastDue = sum(facts.charges.map(({ amount }) => amount));
  const since = facts.charges.map((charge) => charge.since).reduce((a, b) => (b < a ? b : a));
  const last = lastLetterOf(facts.letters, facts.charges);
  const next = after(stages, last?.position ?? 0);
  const spared = reasonsToSpare(facts, policy, pastDue, today);
  const lastLetter = last?.date ?? null;
  const { action, on, why } =
    spared.length > 0
      ? waiting(spared)
      : nextAction(facts, policy, { pastDue, since, lastLetter, next }, today);
  return {
    pastDue,
    since,
    daysPastDue: daysBetween(since, today) + 1,
    stage: last ? (stages.find(({ id }) => id === last.stageId) ?? stageSent(last)) : null,
    lastLetter,
    next,
    action,
    on,
    why,
    spared,
  };
}

type Next = Pick<OverdueOutlook, 'action' | 'on' | 'why'>;

/** What comes next of an account that is spared. */
function waiting(spared: OverdueOutlook['spared']): Next {
  const on = sparedUntil(spared);
  return { action: on ? 'wait' : 'none', on, why: spared.map(({ words }) => words).join('; ') };
}

/** A stage that Setup has no more, as its letter says it. */
const stageSent = (letter: SentLetter): Stage => ({
  id: letter.stageId ?? 0,
  position: letter.position,
  name: `Stage ${letter.position}`,
  days: 0,
  templateId: 0,
});

/** What comes next of an account that nothing spares. */
function nextAction(
  facts: OverdueFacts,
  policy: OverduePolicy,
  { since, next, lastLetter, pastDue }: Pick<OverdueOutlook, 'since' | 'next' | 'lastLetter' | 'pastDue'>,
  today: CalendarDate,
): Next {
  const { promise, againOn } = facts;
  if (promise && promiseState(promise, today) === 'broken')
    return {
      action: 'call',
      on: today,
      why: `${promiseWords(promise)}, paid ${formatMoneyPlain(promise.paid)}`,
    };
  if (facts.planBehind !== null && facts.planBehind > 0)
    return { action: 'call', on: today, why: `its plan is ${facts.planBehind} days behind` };
  if (againOn && againOn <= today) return { action: 'call', on: today, why: 'to be tried again' };
  if (facts.placement === 'proposed') return { action: 'agency', on: today, why: 'proposed for an agency' };
  if (next) {
    const on = latest(
      addDays(since, Math.max(0, next.days - 1)),
      ...(lastLetter ? [addDays(lastLetter, policy.betweenLetters)] : []),
    );
    if (on > today)
      return { action: 'wait', on: againOn && againOn < on ? againOn : on, why: `${next.name} then` };
    return facts.openLetter
      ? { action: 'wait', on: today, why: `${next.name} is prepared and not out yet` }
      : { action: 'letter', on: today, why: next.name };
  }
  // Every letter was sent, or the policy has none.
  const on = addDays(lastLetter ?? since, policy.agencyDays);
  if (on > today)
    return { action: 'wait', on: againOn && againOn < on ? againOn : on, why: 'every letter was sent' };
  // An agency that had this debt, or was not to have it, is not proposed for it again: a person decides.
  const back = facts.cameBack && facts.cameBack.on >= (lastLetter ?? since) ? facts.cameBack : null;
  const kept = facts.stopsAgency
    ? 'no agency'
    : pastDue < policy.agencyLeast
      ? 'too little for an agency'
      : back && `its placement was ${back.words} on ${formatDate(back.on)}`;
  if (!kept) return { action: 'agency', on: today, why: 'every letter was sent' };
  const why = `every letter was sent, ${kept}`;
  return againOn ? { action: 'wait', on: againOn, why } : { action: 'call', on: today, why };
}
