/** What a rule is, what it is checked against, and what it finds. */
import type { CalendarDate } from '../calendar';
import type { ClaimContent, ClaimLineContent } from './content';
import type { ClaimNeed } from './needs';

/** `stop` keeps a claim from being sent, `warn` asks for a look. */
export type Severity = 'stop' | 'warn';

/** The form, on which page, where a finding is mended. */
export type FixPlace =
  | 'patient'
  | 'coverage'
  | 'charge'
  | 'case'
  | 'provider'
  | 'practice'
  | 'payer'
  | 'location'
  | 'reason'
  | 'claim';

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

/** What a line of a service needs. */
export interface ServiceNeeds {
  needsTooth: boolean;
  needsSurface: boolean;
  needsArea?: boolean;
  needsClia?: boolean;
  needsDrug?: boolean;
  needsOrdering?: boolean;
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
  /** Where it is a next payer, days from the earlier one's first decision instead; null where it says nothing of that. */
  laterFilingDays: number | null;
  /** The day on which the last of the payers before it first decided; null of a first payer. */
  firstDecided: CalendarDate | null;
  /** What the claim said that it takes the place of. */
  replaced: ClaimContent | null;
  /** The practice's telephone. */
  phone: string;
  /** How the payer has rules, by their id, where it has them otherwise than they are. */
  severities: ReadonlyMap<string, Severity | 'off'>;
  /** What it asks for beside them, and how much that weighs. */
  needs: ReadonlyMap<ClaimNeed, Severity>;
  /** Reason codes of our own that name no standard one. */
  ownReasons: ReadonlySet<string>;
  /** Units of a service that a day allows, and services that are not billed together, as the practice has brought them in. */
  unitLimits: ReadonlyMap<string, number>;
  notTogether: readonly { code: string; other: string; unlessModifier: boolean }[];
  requiresReferring: boolean;
  requiresAuthorization: boolean;
  payerAccepts: 'electronic' | 'paper' | 'hold';
  hasConnection: boolean;
  /** On paper: how many services one claim to it holds; null where that is the form's own limit. */
  paperLines: number | null;
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
  services: ReadonlyMap<string, ServiceNeeds>;
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
  /** The kinds of payers that it asks something of, where it is not all of them. */
  payers?: string;
  /** It holds for every payer: without it a claim could not be read, or would say what is not so. */
  fixed?: true;
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
