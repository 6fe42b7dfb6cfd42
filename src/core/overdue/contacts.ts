/**
 * What was tried and said, and what is too much: limits after Regulation F (12 CFR 1006.14(b)(2), 1006.6(b)). The rule binds
 * agencies; a practice sets its own in the policy.
 */
import { type CalendarDate, addDays, formatDate } from '../calendar';
import { counted } from '../words';
import type { CallPolicy } from './policy';
import { zonesOf } from './zones';

/** How somebody was reached. */
export const CONTACT_KINDS = { call: 'Call', letter: 'Letter', message: 'Message', visit: 'Visit' } as const;
/** How somebody was reached. */
export type ContactKind = keyof typeof CONTACT_KINDS;

/** What came of it. */
export const OUTCOMES = {
  'no-answer': 'no answer',
  'left-word': 'left word',
  'wrong-number': 'wrong number',
  spoke: 'spoke',
  refused: 'refused to pay',
  promise: 'promised to pay',
  dispute: 'disputes it',
  hardship: 'cannot pay',
} as const;
/** What came of it. */
export type ContactOutcome = keyof typeof OUTCOMES;

/** Outcomes that are a conversation: after one, nobody calls for some days. */
const CONVERSATIONS: readonly ContactOutcome[] = ['spoke', 'refused', 'promise', 'dispute', 'hardship'];
/** Whether an outcome is a conversation. */
export const isConversation = (outcome: ContactOutcome): boolean => CONVERSATIONS.includes(outcome);

/** A contact as the limits weigh it. `day` is the date where the practice is. */
export interface PastContact {
  kind: ContactKind;
  direction: 'out' | 'in';
  outcome: ContactOutcome;
  day: CalendarDate;
}

/**
 * What is too much about calling now, in words; empty when nothing is. Each attempt counts, answered or not, but not one to a
 * wrong number; a call of theirs counts as a conversation only. The day of the conversation is day one.
 */
export function callDoubts(
  history: readonly PastContact[],
  policy: CallPolicy,
  today: CalendarDate,
): string[] {
  const doubts: string[] = [];
  const first = addDays(today, -(policy.callDays - 1));
  const tried = history.filter(
    ({ kind, direction, outcome, day }) =>
      kind === 'call' && direction === 'out' && outcome !== 'wrong-number' && day >= first && day <= today,
  ).length;
  if (tried >= policy.calls)
    doubts.push(
      `${counted(tried, 'call')} in ${policy.callDays} days: one more is more than the policy’s ${policy.calls}`,
    );
  const talked = history
    .filter(({ kind, outcome, day }) => kind === 'call' && isConversation(outcome) && day <= today)
    .map(({ day }) => day)
    .reduce<CalendarDate | null>((a, b) => (a === null || b > a ? b : a), null);
  if (talked !== null && policy.quietDays > 0 && today < addDays(talked, policy.quietDays))
    doubts.push(
      `Somebody was spoken to on ${formatDate(talked)}: no call before ${formatDate(addDays(talked, policy.quietDays))}`,
    );
  return doubts;
}

/** The hour and minute of a moment in a zone, as minutes of the day. */
function minutesIn(zone: string, now: Date): number {
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  }).formatToParts(now);
  const part = (type: string): number => Number(parts.find((item) => item.type === type)?.value ?? 0);
  return part('hour') * 60 + part('minute');
}

const clock = (minutes: number): string =>
  `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`;

/**
 * Whether somebody may be called at a moment, by the hours where the person is; where an address may lie in two zones, the
 * hours common to both. @returns words when not; null when it may be, or nobody knows where the person is
 */
export function hourDoubt(
  address: { state: string; zip: string },
  policy: Pick<CallPolicy, 'from' | 'to'>,
  now: Date,
): string | null {
  const zones = zonesOf(address.state);
  const outside = zones
    .map((zone) => minutesIn(zone, now))
    .find((minutes) => minutes < policy.from * 60 || minutes >= policy.to * 60);
  if (outside === undefined) return null;
  return `It is ${clock(outside)} there${zones.length > 1 ? ', or may be' : ''}: calls are between ${policy.from} and ${policy.to} o’clock`;
}
