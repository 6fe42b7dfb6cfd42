/** What a payer says of a claim as a whole (CLP02, claim status code; ASC X12N 005010X221A1, loop 2100). */

import type { RemitClaim } from '../x12/remittance835';

/** One status: in which order the payer decided, whether it forwarded the claim, and what else it is. */
export interface RemitStatusRule {
  words: string;
  /** First, second or third payer; null where the order does not matter. */
  position: 1 | 2 | 3 | null;
  /** The payer handed the claim on to the next one itself. */
  forwarded?: true;
  /** Takes an earlier decision back. */
  reversal?: true;
  /** Decides nothing. */
  nothing?: true;
}

const RULES: Readonly<Record<string, RemitStatusRule>> = {
  '1': { words: 'primary', position: 1 },
  '2': { words: 'secondary', position: 2 },
  '3': { words: 'tertiary', position: 3 },
  '4': { words: 'denied', position: null },
  '19': { words: 'primary, forwarded', position: 1, forwarded: true },
  '20': { words: 'secondary, forwarded', position: 2, forwarded: true },
  '21': { words: 'tertiary, forwarded', position: 3, forwarded: true },
  '22': { words: 'reversal', position: null, reversal: true },
  '23': { words: 'not theirs, forwarded', position: null, nothing: true },
  '25': { words: 'predetermination', position: null, nothing: true },
};

/** The rule of a status; null for one that is not known here, which then decides nothing by itself. */
export const remitStatus = (code: string): RemitStatusRule | null => RULES[code] ?? null;

/**
 * Whether a word says that the claim could not be processed: reason CO-16 with remark MA130 (its claim has no appeal, a new one is sent).
 * Remittance Advice Remark Codes, from memory.
 */
export const isUnprocessable = ({
  remarks,
  adjustments,
  lines,
  paid,
}: Pick<RemitClaim, 'remarks' | 'adjustments' | 'lines' | 'paid'>): boolean =>
  paid === 0 &&
  [...remarks, ...lines.flatMap((line) => line.remarks)].includes('MA130') &&
  [...adjustments, ...lines.flatMap((line) => line.adjustments)].some(
    ({ group, reason }) => group === 'CO' && reason === '16',
  );
