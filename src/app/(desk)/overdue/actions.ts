'use server';
/** What is done at the overdue station. */
import { idField } from '../../../core/fields';
import { parseInput } from '../../../server/input';
import { readOverdueAccount } from '../../../server/overdue/account';
import {
  payAgencyFees,
  postAgencyPayment,
  recoverBadDebt,
  writeOffBadDebt,
} from '../../../server/overdue/agency-money';
import { reverseAgencyPayment } from '../../../server/overdue/reverse';
import { assignOverdue, endPromise, logContact, voidContact } from '../../../server/overdue/contacts';
import { askHardship, decideHardship } from '../../../server/overdue/hardship';
import { startLetters } from '../../../server/overdue/due-letters';
import { previewLetter, saveLetter } from '../../../server/overdue/letters';
import { recallPlacement } from '../../../server/overdue/placements';
import { releasePlacement } from '../../../server/overdue/hand-over';
import { approvePlacements, proposePlacements, withdrawPlacement } from '../../../server/overdue/proposals';
import { undoWriteOff } from '../../../server/accounts/undo';
import { writeOffSmall } from '../../../server/overdue/small';
import { ask, perform } from '../../session';

/** One account for who works it. */
export const overdueAccountAction = async (householdId: unknown) =>
  ask((context) => readOverdueAccount(context, parseInput(idField, householdId)));
/** Notes a contact. */
export const contactAction = async (input: unknown) => perform(logContact, input);
/** A contact that was noted by mistake. */
export const voidContactAction = async (input: unknown) => perform(voidContact, input);
/** A promise that is taken back. */
export const endPromiseAction = async (input: unknown) => perform(endPromise, input);
/** Gives accounts to somebody. */
export const assignAction = async (input: unknown) => perform(assignOverdue, input);
/** Prepares the letters that are due. */
export const draftLettersAction = async (input: unknown) => perform(startLetters, input);
/** Saves a letter's words. */
export const saveLetterAction = async (input: unknown) => perform(saveLetter, input);
/** A letter's words as they would go to an account today. */
export const previewLetterAction = async (input: unknown) => ask((context) => previewLetter(context, input));
/** Writes small balances off. */
export const writeOffSmallAction = async (input: unknown) => perform(writeOffSmall, input);
/** Takes a write-off back. */
export const undoWriteOffAction = async (input: unknown) => perform(undoWriteOff, input);
/** Asks for a reduction. */
export const hardshipAction = async (input: unknown) => perform(askHardship, input);
/** Decides about a reduction. */
export const decideHardshipAction = async (input: unknown) => perform(decideHardship, input);
/** Proposes accounts for an agency. */
export const proposePlacementsAction = async (input: unknown) => perform(proposePlacements, input);
/** Hands proposals over. */
export const approveAction = async (input: unknown) => perform(approvePlacements, input);
/** Lets a placement go that was held back. */
export const releaseAction = async (input: unknown) => perform(releasePlacement, input);
/** Withdraws a proposal. */
export const withdrawAction = async (input: unknown) => perform(withdrawPlacement, input);
/** Takes a placement back. */
export const recallAction = async (input: unknown) => perform(recallPlacement, input);
/** Books what an agency collected. */
export const agencyMoneyAction = async (input: unknown) => perform(postAgencyPayment, input);
/** Reverses what was booked of an agency. */
export const reverseAgencyMoneyAction = async (input: unknown) => perform(reverseAgencyPayment, input);
/** Pays an agency its fees. */
export const payFeesAction = async (input: unknown) => perform(payAgencyFees, input);
/** Gives up what a patient owes. */
export const badDebtAction = async (input: unknown) => perform(writeOffBadDebt, input);
/** Applies credit to what was given up. */
export const recoverAction = async (input: unknown) => perform(recoverBadDebt, input);
