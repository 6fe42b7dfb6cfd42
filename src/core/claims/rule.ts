/** What a rule is, what it is checked against, and what it finds. */
import type { CalendarDate } from '../calendar';
import type { ClaimContent, ClaimLineContent } from './content';

/** `stop` keeps a claim from being sent, `warn` asks for a look. */
export type Severity = 'stop' | 'warn';

/** The form, on which page, where a finding is mended. */
export type FixPlace =
  'patient' | 'coverage' | 'charge' | 'case' | 'provider' | 'practice' | 'payer' | 'location' | 'claim';

/** Something wrong or doubtful with a claim. */
export interface Finding {
  rule: string;
  severity: Severity;
  place: FixPlace;
  field: string;
  words: string;
  /** Line number, from 1, where one line is meant. */
  line?: number;
  reference: string;
}

/** What a claim is checked against, besides itself. */
export interface CheckContext {
  today: CalendarDate;
  /** Dates the coverage is in force; null where open. */
  coverageFrom: CalendarDate | null;
  coverageTo: CalendarDate | null;
  /** Days after service within which the payer takes claims. */
  timelyFilingDays: number;
  /** Payer settings. */
  requiresReferring: boolean;
  requiresAuthorization: boolean;
  payerAccepts: 'electronic' | 'paper' | 'hold';
  hasConnection: boolean;
  /** The payer was entered with its name alone, and nobody has said more. */
  unfinished: boolean;
  /** What is sent for it is printed and mailed, and needs an address. */
  clearinghouseMails: boolean;
  /** The transaction about which there has to be an agreement, and is none; null where all is well. */
  agreementMissing: string | null;
  /** How the payer has a claim put right that it has. */
  corrections: 'replaced' | 'reopened' | 'new';
  /** Whoever is billed takes part with the payer on the day, as far as anything is said of it. */
  takesPart: boolean;
  /** Known diagnosis codes with their validity; unknown codes are missing. */
  diagnoses: ReadonlyMap<string, { from: CalendarDate | null; to: CalendarDate | null }>;
  /** Service codes with what a line needs. */
  services: ReadonlyMap<string, { needsTooth: boolean; needsSurface: boolean; needsClia?: boolean }>;
  /** Control numbers of sent claims with the same patient, date, code and charge, by line number. */
  duplicates: ReadonlyMap<number, string>;
}

/** A problem in words, with its line where one is meant. */
export type Problem = string | { words: string; line: number };

/** One rule. `check` returns the problems it finds. */
export interface Rule {
  id: string;
  severity: Severity;
  place: FixPlace;
  field: string;
  reference: string;
  /** What is asked for, in one line. */
  title: string;
  check(claim: ClaimContent, context: CheckContext): Problem[];
}

/** One problem when something is wrong. */
export const when = (bad: boolean, words: string): Problem[] => (bad ? [words] : []);

/** A problem for each line that has one. */
export const perLine = (
  claim: ClaimContent,
  words: (line: ClaimLineContent) => string | false | null,
): Problem[] =>
  claim.lines.flatMap((line) => {
    const found = words(line);
    return found ? [{ words: found, line: line.number }] : [];
  });
