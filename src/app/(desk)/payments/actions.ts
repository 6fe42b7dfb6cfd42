'use server';
/** What is done at the payments station. */
import { idField } from '../../../core/fields';
import { parseInput } from '../../../server/input';
import { spendCredit } from '../../../server/payments/credit';
import {
  giveBack,
  settleRefund,
  type decideRefund,
  type refundCredit,
} from '../../../server/payments/refund';
import { applyCredits } from '../../../server/payments/credits';
import { closeDrawer, dropFromDrawer, openDrawer } from '../../../server/payments/drawers';
import { makeDeposit, undoDeposit } from '../../../server/payments/deposit';
import { compareDay } from '../../../server/payments/day';
import { readTakingForm } from '../../../server/payments/form';
import {
  correctTender,
  moveReceipt,
  returnTender,
  takeAgain,
  transferCredit,
  voidCard,
  type askForVoid,
} from '../../../server/payments/put-right';
import { readEnvelopeCharges } from '../../../server/books/open-lines';
import { emailReceipt } from '../../../server/payments/receipt-mail';
import { reverseAllocation, reverseReceipt } from '../../../server/payments/receipts';
import type { takeReceipt } from '../../../server/payments/take';
import { askAgain, readCard, startReading, takePayment } from '../../../server/payments/terminal';
import { answerCreditLetter, handOverCredit, writeCreditLetters } from '../../../server/payments/unclaimed';
import {
  cancelVisit,
  expectVisit,
  freeReserved,
  importVisits,
  matchVisit,
  readToCollect,
} from '../../../server/payments/visits';
import type { Asks, InputOf } from '../../../server/use-case';
import { ask, askAndShow, perform } from '../../session';

/** Takes a payment, its cards by the terminal. */
export const takePaymentAction = async (input: InputOf<typeof takeReceipt>) =>
  askAndShow((context) => takePayment(context, input));
/** What the form of a payment needs beside the account. */
export const takingFormAction = async (householdId: unknown) =>
  ask((context) => readTakingForm(context, householdId));
/** Asks the terminal for a card. */
export const startReadingAction = async (input: Asks<typeof startReading>) =>
  ask((context) => startReading(context, input));
/** What the terminal has read; null while it waits. */
export const readCardAction = async (input: Asks<typeof readCard>) =>
  ask((context) => readCard(context, input));
/** Asks the terminal again what came of an attempt. */
export const askAgainAction = async (input: Asks<typeof askAgain>) =>
  askAndShow((context) => askAgain(context, input));
/** What the other accounts of one envelope owe. */
export const envelopeAction = async (householdId: unknown) =>
  ask((context) => readEnvelopeCharges(context, parseInput(idField, householdId)));
/** Uses credit for charges, plans or what is with an agency. @returns cents used */
export const spendCreditAction = async (input: InputOf<typeof spendCredit>) => perform(spendCredit, input);
/** Gives credit of a receipt back, through the terminal where it came from one. */
export const giveBackAction = async (input: InputOf<typeof refundCredit>) =>
  askAndShow((context) => giveBack(context, input));
/** Decides on a refund that was asked for. */
export const settleRefundAction = async (input: InputOf<typeof decideRefund>) =>
  askAndShow((context) => settleRefund(context, input));
/** Letters to owners of credit who were not heard of. */
export const writeCreditLettersAction = async (input: InputOf<typeof writeCreditLetters>) =>
  perform(writeCreditLetters, input);
/** An owner answered. */
export const answerCreditLetterAction = async (input: InputOf<typeof answerCreditLetter>) =>
  perform(answerCreditLetter, input);
/** Credit goes to the state of its owners. */
export const handOverCreditAction = async (input: InputOf<typeof handOverCredit>) =>
  perform(handOverCredit, input);
/** Pays what is open of many accounts with their credit. */
export const applyCreditsAction = async (input: InputOf<typeof applyCredits>) => perform(applyCredits, input);
/** Takes a card back on its day, through the terminal. */
export const voidCardAction = async (input: InputOf<typeof askForVoid>) =>
  askAndShow((context) => voidCard(context, input));
/** Takes back what a receipt pays of one charge. */
export const reverseAllocationAction = async (input: InputOf<typeof reverseAllocation>) =>
  perform(reverseAllocation, input);
/** Reverses a receipt with a reason. */
export const reverseReceiptAction = async (input: InputOf<typeof reverseReceipt>) =>
  perform(reverseReceipt, input);
/** A receipt goes by e-mail. */
export const emailReceiptAction = async (input: InputOf<typeof emailReceipt>) => perform(emailReceipt, input);
/** A check or a debit came back, or a card is contested. */
export const returnTenderAction = async (input: InputOf<typeof returnTender>) => perform(returnTender, input);
/** What came back is there after all. */
export const takeAgainAction = async (input: InputOf<typeof takeAgain>) => perform(takeAgain, input);
/** What a tender truly was. */
export const correctTenderAction = async (input: InputOf<typeof correctTender>) =>
  perform(correctTender, input);
/** Moves a payment to the account whose it is. */
export const moveReceiptAction = async (input: InputOf<typeof moveReceipt>) => perform(moveReceipt, input);
/** Credit of a receipt goes to another account. */
export const transferCreditAction = async (input: InputOf<typeof transferCredit>) =>
  perform(transferCredit, input);
/** Opens one's drawer at a site. */
export const openDrawerAction = async (input: InputOf<typeof openDrawer>) => perform(openDrawer, input);
/** Takes cash out of a drawer into safety. */
export const dropAction = async (input: InputOf<typeof dropFromDrawer>) => perform(dropFromDrawer, input);
/** Closes a drawer that was counted. */
export const closeDrawerAction = async (input: InputOf<typeof closeDrawer>) => perform(closeDrawer, input);
/** Takes tenders to the bank. */
export const makeDepositAction = async (input: InputOf<typeof makeDeposit>) => perform(makeDeposit, input);
/** The terminal's list of a day against ours. */
export const compareDayAction = async (input: Asks<typeof compareDay>) =>
  ask((context) => compareDay(context, input));
/** Undoes a deposit. */
export const undoDepositAction = async (input: InputOf<typeof undoDeposit>) => perform(undoDeposit, input);
/** What is to be collected of a visit. */
export const toCollectAction = async (input: Asks<typeof readToCollect>) =>
  ask((context) => readToCollect(context, input));
/** A visit to come that somebody types. */
export const expectVisitAction = async (input: InputOf<typeof expectVisit>) => perform(expectVisit, input);
/** A file of visits to come. */
export const importVisitsAction = async (input: InputOf<typeof importVisits>) => perform(importVisits, input);
/** Whose visit it is. */
export const matchVisitAction = async (input: InputOf<typeof matchVisit>) => perform(matchVisit, input);
/** A visit that does not come. */
export const cancelVisitAction = async (input: InputOf<typeof cancelVisit>) => perform(cancelVisit, input);
/** Frees the money that was taken for a visit. */
export const freeReservedAction = async (input: InputOf<typeof freeReserved>) => perform(freeReserved, input);
