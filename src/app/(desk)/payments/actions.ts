'use server';
/** What is done at the payments station. */
import { reverseReceipt, spendCredit, takeReceipt } from '../../../server/payments/receipts';
import { perform } from '../../session';

/** Takes a payment. */
export const takeReceiptAction = async (input: unknown) => perform(takeReceipt, input);
/** Puts a household’s credit on its open charges, oldest first. @returns cents used */
export const spendCreditAction = async (input: unknown) => perform(spendCredit, input);
/** Reverses a receipt with a reason. */
export const reverseReceiptAction = async (input: unknown) => perform(reverseReceipt, input);
