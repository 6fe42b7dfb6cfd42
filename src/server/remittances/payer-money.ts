/** Money of a payer: whose it is, how it came, whether it is held. */
import type { BookAccount } from '../../core/books/accounts';
import type { CalendarDate } from '../../core/calendar';
import { Refused } from '../access';

/** What posting needs to know of a remittance. */
export interface RemitRow {
  id: number;
  version: number;
  payer_id: number | null;
  payer_name: string;
  trace: string;
  method: string;
  payment_date: CalendarDate;
}

/** The cash account of a payment method (BPR04). */
export const cashAccount = (method: string): BookAccount =>
  method === 'CHK' ? 'cash/check' : 'cash/transfer';

/** The payer of a remittance. @throws Refused when it is not in Setup, so that nothing of it can be booked */
export function payerOf(remit: RemitRow): number {
  if (remit.payer_id === null) throw new Refused('unknown', `Payer ${remit.payer_name} is not in Setup`);
  return remit.payer_id;
}

/** Whether a claim's money is in the payer's credit: what is kept there can still be decided or given back. */
export const isHeld = (status: string): boolean => status === 'unmatched' || status === 'kept';
