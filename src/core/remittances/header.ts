/** Whether a remittance as a whole can be believed: from whom it is, for whom, and what it does. */
import { type CalendarDate, addDays, formatDate } from '../calendar';
import { formatMoneyPlain } from '../money';
import type { RemitHeader } from '../x12/remittance835';

/** A payment date further away than this is a slip: days before and after today (common practice, no source). */
const BELIEVABLE = { before: 5 * 365, after: 60 };

/** Reasons to hold a remittance, by its header alone. */
export function headerFaults(
  header: RemitHeader,
  known: { payer: boolean; payee: boolean; today: CalendarDate },
): string[] {
  const { payer, payee, payment, handling, creditDebit, date } = header;
  const faults: string[] = [];
  if (!known.payer) faults.push(`Payer “${payer.name}” (${payer.id || 'no id'}) is not in Setup`);
  if (!known.payee) {
    const id = payee.npi
      ? `NPI ${payee.npi}`
      : payee.taxId
        ? `tax id ${payee.taxId}`
        : 'neither NPI nor tax id';
    faults.push(`It pays “${payee.name}” (${id}), which is not ours`);
  }
  if (payment < 0) faults.push('The payment is below zero: the payer asks for money back');
  if (creditDebit === 'D' && payment !== 0)
    faults.push(
      `The payer takes ${formatMoneyPlain(payment)} from our account instead of paying it (BPR03 D)`,
    );
  if (handling === 'P')
    faults.push('It only announces a transfer (BPR01 P): the payment comes apart from it');
  if (handling === 'H' && payment !== 0)
    faults.push(`It is for information only (BPR01 H), but pays ${formatMoneyPlain(payment)}`);
  if (date < addDays(known.today, -BELIEVABLE.before) || date > addDays(known.today, BELIEVABLE.after))
    faults.push(`Its date, ${formatDate(date)}, cannot be right`);
  return faults;
}
