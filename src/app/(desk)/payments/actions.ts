'use server';
/** What is done at the payments station. */
import { idField } from '../../../core/fields';
import { parseInput } from '../../../server/input';
import {
  readEnvelopeCharges,
  reverseReceipt,
  spendCredit,
  takeReceipt,
} from '../../../server/payments/receipts';
import { ask, perform } from '../../session';

/** Takes a payment. */
export const takeReceiptAction = async (input: unknown) => perform(takeReceipt, input);
/** What the other accounts of one envelope owe. */
export const envelopeAction = async (householdId: unknown) =>
  ask((context) => readEnvelopeCharges(context, parseInput(idField, householdId)));
/** Puts a household’s credit on its open charges, oldest first. @returns cents used */
export const spendCreditAction = async (input: unknown) => perform(spendCredit, input);
/** Reverses a receipt with a reason. */
export const reverseReceiptAction = async (input: unknown) => perform(reverseReceipt, input);
