/** What is treated: kinds of cases, their dates, and where a claim bears them. */
import type { CalendarDate } from '../calendar';

/** Kinds of cases, in words; everybody has one of general care, which stands. */
export const CASE_KINDS = {
  general: 'General care',
  illness: 'Illness',
  work: 'Accident at work',
  car: 'Car accident',
  accident: 'Other accident',
  therapy: 'Therapy',
  series: 'Series of treatment',
} as const;
/** The kind of a case. */
export type CaseKind = keyof typeof CASE_KINDS;

/** Whether a kind is an accident, whose day and place a claim bears (CLM11, DTP*439). */
export const isAccident = (kind: CaseKind): boolean =>
  kind === 'work' || kind === 'car' || kind === 'accident';

/**
 * The dates of a case: how X12 names them on a professional claim (005010X222A1, 2300 DTP01), and on paper the qualifier of the form of
 * NUCC (02/12). A dental claim bears the accident alone (005010X224A2).
 */
export const CASE_DATES = {
  onset: { words: 'Onset', x12: '431', box: 14 },
  firstTreated: { words: 'First treated', x12: '454', box: 15 },
  accident: { words: 'Accident', x12: '439', box: 15 },
  acute: { words: 'Acute again', x12: '453', box: 15 },
  lastSeen: { words: 'Last seen', x12: '304', box: 15 },
  firstContact: { words: 'First contact', x12: '444', box: 15 },
} as const satisfies Record<string, { words: string; x12: string; box: 14 | 15 }>;
/** A date of a case. */
export type CaseDate = keyof typeof CASE_DATES;
/** Dates of a case that are known. */
export type CaseDates = Partial<Record<CaseDate, CalendarDate>>;

/** Which date wins the one place of box 15, the first that is there. Common practice, no source. */
const BOX_15 = [
  'accident',
  'firstTreated',
  'acute',
  'lastSeen',
  'firstContact',
] as const satisfies CaseDate[];

/** The dates that a paper claim has room for: onset in box 14, one of the others in box 15, and which find no place. */
export function paperDates(dates: CaseDates): {
  box14: CaseDate | null;
  box15: CaseDate | null;
  left: CaseDate[];
} {
  const others = BOX_15.filter((name) => dates[name]);
  return { box14: dates.onset ? 'onset' : null, box15: others[0] ?? null, left: others.slice(1) };
}

/** As what a claim names somebody who is no provider of ours, or is (NM101 of 2310A, 2420E, 2310D; the qualifier of box 17). */
export const REFERRING_ROLES = { DN: 'referred', DK: 'ordered', DQ: 'supervises' } as const;

/** What may be taken over from another case of the person. */
export const CASE_PARTS = {
  coverages: 'Insurers in their order',
  diagnoses: 'Diagnoses',
  people: 'Provider, referral',
  sites: 'Sites',
  services: 'Usual services',
} as const;
/** A part of a case. */
export type CasePart = keyof typeof CASE_PARTS;

/** Why a case is closed, as it is offered; any other can be typed. */
export const DISCHARGED = [
  'Treatment ended',
  'Goals reached',
  'Patient stopped',
  'Referred elsewhere',
] as const;
