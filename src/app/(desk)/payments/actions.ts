'use server';
/** What is done at the payments station. */
import { idField } from '../../../core/fields';
import { parseInput } from '../../../server/input';
import { refundCredit, spendCredit } from '../../../server/payments/credit';
import { readEnvelopeCharges, reverseReceipt, takeReceipt } from '../../../server/payments/receipts';
import { ask, perform } from '../../session';

/** Takes a payment. */
export const takeReceiptAction = async (input: unknown) => perform(takeReceipt, input);
/** What the other accounts of one envelope owe. */
export const envelopeAction = async (householdId: unknown) =>
  ask((context) => readEnvelopeCharges(context, parseInput(idField, householdId)));
/** Uses credit for charges, plans or what is with an agency. @returns cents used */
export const spendCreditAction = async (input: unknown) => perform(spendCredit, input);
/** Gives credit of a receipt back. @returns the refund’s id */
export const refundCreditAction = async (input: unknown) => perform(refundCredit, input);
/** Reverses a receipt with a reason. */
export const reverseReceiptAction = async (input: unknown) => perform(reverseReceipt, input);
