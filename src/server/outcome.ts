/** What became of a file, and of each thing in it. */
import type { Cents } from '../core/money';

/** The outcome of one transaction of a file. `kind` such as `277CA`; `amount` in cents where there is one. */
export interface Outcome {
  kind: string;
  trace: string;
  amount: Cents | null;
  result: 'posted' | 'held' | 'refused';
  why: string;
  /** For remittances: the row, so that it can be posted. */
  remittanceId?: number;
}

/** What became of a file. */
export interface Intake {
  status: 'read' | 'set aside' | 'duplicate';
  kind: string;
  outcomes: Outcome[];
}

/** A file that cannot be taken in; the message says where it is broken. */
export class BrokenFile extends Error {}
