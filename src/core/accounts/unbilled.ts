/** Which charges of a ledger wait to be put on a claim: known to the screen and the server alike. */
import type { Cents } from '../money';

/** What decides it: whether it is done, and what waits with which payer on which claim. */
interface Billable {
  status: 'planned' | 'done' | 'void';
  payers: readonly { withPayer: Cents; claimId: number | null; leftOut: boolean }[];
}

/** Whether something of a charge waits with a payer, first or next, without being on a claim to it. */
export const isUnbilled = ({ status, payers }: Billable): boolean =>
  status === 'done' && payers.some(({ withPayer, claimId }) => withPayer > 0 && claimId === null);

/** Whether it is put on a claim with the others: what was left out of a correction is only where it is chosen. */
export const waitsForClaim = ({ status, payers }: Billable): boolean =>
  isUnbilled({ status, payers: payers.filter(({ leftOut }) => !leftOut) });
