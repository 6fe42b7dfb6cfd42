/** Adjustments (CAS) as a payer says them of a claim or a line, in remittances and in what is sent to the next payer. */
import { z } from 'zod';
import { centsField } from '../fields';
import { toDecimal } from '../money';
import { need, needMoney, quantity, text } from './elements';
import { type X12Writer, expected } from './interchange';
import type { Segment } from './segments';

/** Group codes of adjustments (CAS01): contractual, patient, other, payer-initiated, correction. */
export const GROUP_CODES = ['CO', 'PR', 'OA', 'PI', 'CR'] as const;

/** The schema of an adjustment. */
export const adjustmentSchema = z.object({
  group: z.enum(GROUP_CODES),
  /** Claim adjustment reason code. */
  reason: z.string(),
  /** In cents: positive lowers what is paid. */
  amount: centsField,
  /** Units that were adjusted, where the payer says them. */
  quantity: z.number().optional(),
});
/** One adjustment. */
export type Adjustment = z.output<typeof adjustmentSchema>;

/** The adjustments of a segment: up to six of one group. @throws X12Error naming the element */
export function readAdjustments(segment: Segment): Adjustment[] {
  const group = need(segment, 1, 'a group code');
  const known = GROUP_CODES.find((code) => code === group);
  if (!known) expected(segment, 1, `expected a group code (CO, PR, OA, PI or CR), found “${group}”`);
  const found: Adjustment[] = [];
  for (let at = 2; at <= 17; at += 3) {
    if (text(segment, at) === '' && text(segment, at + 1) === '') continue;
    found.push({
      group: known,
      reason: need(segment, at, 'a reason code'),
      amount: needMoney(segment, at + 1, 'the adjustment amount'),
      ...(text(segment, at + 2) === '' ? {} : { quantity: quantity(segment, at + 2, 0) }),
    });
  }
  return found;
}

/** Writes adjustments group by group, six a segment. */
export function writeAdjustments(x: X12Writer, list: readonly Adjustment[]): void {
  for (const group of GROUP_CODES) {
    const own = list.filter((item) => item.group === group);
    for (let at = 0; at < own.length; at += 6)
      x.segment(
        'CAS',
        group,
        ...own
          .slice(at, at + 6)
          .flatMap(({ reason, amount, quantity: units }) => [
            reason,
            toDecimal(amount),
            units === undefined ? '' : String(units),
          ]),
      );
  }
}
