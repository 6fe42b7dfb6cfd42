/** The charges that are chosen in the ledger to be put on claims: kept in the address. */
import { isUnbilled } from '../../../../core/accounts/unbilled';
import type { LedgerCharge } from '../../../../server/accounts/ledger';

/** Those of the chosen that still wait. */
export function chosenToBill(charges: readonly LedgerCharge[], params: URLSearchParams): LedgerCharge[] {
  const ids = new Set((params.get('bill') ?? '').split('.').map(Number));
  return charges.filter((charge) => ids.has(charge.id) && isUnbilled(charge));
}

/** The address part after one was chosen, or not any more. */
export function toggledToBill(charges: readonly LedgerCharge[], params: URLSearchParams, id: number): string {
  const ids = chosenToBill(charges, params).map((charge) => charge.id);
  return (ids.includes(id) ? ids.filter((one) => one !== id) : [...ids, id]).join('.');
}
