/** The three balances that a remittance must hold (ASC X12N 005010X221A1, section 1.10.2). */
import { type Cents, formatMoneyPlain, minus, sum } from '../money';
import type { Adjustment } from '../x12/adjustments';
import type { ProviderAdjustment, RemitClaim } from '../x12/remittance835';

/** A balance that does not hold. `difference` in cents: stated less computed. */
export interface BalanceFault {
  level: 'line' | 'claim' | 'payment';
  /** Patient control number and line, or the trace number. */
  place: string;
  stated: Cents;
  computed: Cents;
  difference: Cents;
  words: string;
}

const total = (adjustments: readonly Adjustment[]): Cents => sum(adjustments.map((item) => item.amount));

/** Checks the lines and the claim: charge less adjustments is what is paid, and the lines' charges are the claim's. */
export function claimFaults(claim: RemitClaim): BalanceFault[] {
  const faults: BalanceFault[] = [];
  claim.lines.forEach((line, index) => {
    const computed = minus(line.charge, total(line.adjustments));
    if (computed !== line.paid) {
      faults.push(
        fault(
          'line',
          `${claim.controlNumber} line ${index + 1} (${line.code})`,
          line.paid,
          computed,
          'the line is paid',
          'charge less adjustments',
        ),
      );
    }
  });
  if (claim.lines.length > 0) {
    const charged = sum(claim.lines.map((line) => line.charge));
    if (charged !== claim.charge)
      faults.push(
        fault('claim', claim.controlNumber, claim.charge, charged, 'the claim is charged', 'its lines'),
      );
  }
  const computed = minus(
    claim.charge,
    sum([total(claim.adjustments), ...claim.lines.map((line) => total(line.adjustments))]),
  );
  if (computed !== claim.paid) {
    faults.push(
      fault(
        'claim',
        claim.controlNumber,
        claim.paid,
        computed,
        'the claim is paid',
        'charge less all adjustments',
      ),
    );
  }
  return faults;
}

/** Checks the payment: claims paid less provider adjustments. */
export function paymentFault(
  trace: string,
  payment: Cents,
  claimsPaid: Cents,
  providerAdjustments: readonly ProviderAdjustment[],
): BalanceFault | null {
  const computed = minus(claimsPaid, sum(providerAdjustments.map((item) => item.amount)));
  return computed === payment
    ? null
    : fault('payment', trace, payment, computed, 'the payment is', 'claims paid less provider adjustments');
}

function fault(
  level: BalanceFault['level'],
  place: string,
  stated: Cents,
  computed: Cents,
  what: string,
  how: string,
): BalanceFault {
  const words = `${place}: ${what} ${formatMoneyPlain(stated)}, but ${how} give ${formatMoneyPlain(computed)}`;
  return { level, place, stated, computed, difference: minus(stated, computed), words };
}
