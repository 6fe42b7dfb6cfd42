'use server';
/** What is done at the payments station. */
import { idField } from '../../../core/fields';
import { parseInput } from '../../../server/input';
import { refundCredit, spendCredit } from '../../../server/payments/credit';
import { readEnvelopeCharges } from '../../../server/books/open-lines';
import { reverseAllocation, reverseReceipt, takeReceipt } from '../../../server/payments/receipts';
import type { InputOf } from '../../../server/use-case';
import { ask, perform } from '../../session';

/** Takes a payment. */
export const takeReceiptAction = async (input: InputOf<typeof takeReceipt>) => perform(takeReceipt, input);
/** What the other accounts of one envelope owe. */
export const envelopeAction = async (householdId: unknown) =>
  ask((context) => readEnvelopeCharges(context, parseInput(idField, householdId)));
/** Uses credit for charges, plans or what is with an agency. @returns cents used */
export const spendCreditAction = async (input: InputOf<typeof spendCredit>) => perform(spendCredit, input);
/** Gives credit of a receipt back. @returns the refund’s id */
export const refundCreditAction = async (input: InputOf<typeof refundCredit>) => perform(refundCredit, input);
/** Takes back what a receipt pays of one charge. */
export const reverseAllocationAction = async (input: InputOf<typeof reverseAllocation>) =>
  perform(reverseAllocation, input);
/** Reverses a receipt with a reason. */
export const reverseReceiptAction = async (input: InputOf<typeof reverseReceipt>) =>
  perform(reverseReceipt, input);
