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
import { undoWriteOff } from '../../../server/follow-ups/undo';
import { writeOffSmall } from '../../../server/overdue/small';
import type { Asks, InputOf } from '../../../server/use-case';
import { ask, perform } from '../../session';

/** One account for who works it. */
export const overdueAccountAction = async (householdId: unknown) =>
  ask((context) => readOverdueAccount(context, parseInput(idField, householdId)));
/** Notes a contact. */
export const contactAction = async (input: InputOf<typeof logContact>) => perform(logContact, input);
/** A contact that was noted by mistake. */
export const voidContactAction = async (input: InputOf<typeof voidContact>) => perform(voidContact, input);
/** A promise that is taken back. */
export const endPromiseAction = async (input: InputOf<typeof endPromise>) => perform(endPromise, input);
/** Gives accounts to somebody. */
export const assignAction = async (input: InputOf<typeof assignOverdue>) => perform(assignOverdue, input);
/** Prepares the letters that are due. */
export const draftLettersAction = async (input: InputOf<typeof startLetters>) => perform(startLetters, input);
/** Saves a letter's words. */
export const saveLetterAction = async (input: InputOf<typeof saveLetter>) => perform(saveLetter, input);
/** A letter's words as they would go to an account today. */
export const previewLetterAction = async (input: Asks<typeof previewLetter>) =>
  ask((context) => previewLetter(context, input));
/** Writes small balances off. */
export const writeOffSmallAction = async (input: InputOf<typeof writeOffSmall>) =>
  perform(writeOffSmall, input);
/** Takes a write-off back. */
export const undoWriteOffAction = async (input: InputOf<typeof undoWriteOff>) => perform(undoWriteOff, input);
/** Asks for a reduction. */
export const hardshipAction = async (input: InputOf<typeof askHardship>) => perform(askHardship, input);
/** Decides about a reduction. */
export const decideHardshipAction = async (input: InputOf<typeof decideHardship>) =>
  perform(decideHardship, input);
/** Proposes accounts for an agency. */
export const proposePlacementsAction = async (input: InputOf<typeof proposePlacements>) =>
  perform(proposePlacements, input);
/** Hands proposals over. */
export const approveAction = async (input: InputOf<typeof approvePlacements>) =>
  perform(approvePlacements, input);
/** Lets a placement go that was held back. */
export const releaseAction = async (input: InputOf<typeof releasePlacement>) =>
  perform(releasePlacement, input);
/** Withdraws a proposal. */
export const withdrawAction = async (input: InputOf<typeof withdrawPlacement>) =>
  perform(withdrawPlacement, input);
/** Takes a placement back. */
export const recallAction = async (input: InputOf<typeof recallPlacement>) => perform(recallPlacement, input);
/** Books what an agency collected. */
export const agencyMoneyAction = async (input: InputOf<typeof postAgencyPayment>) =>
  perform(postAgencyPayment, input);
/** Reverses what was booked of an agency. */
export const reverseAgencyMoneyAction = async (input: InputOf<typeof reverseAgencyPayment>) =>
  perform(reverseAgencyPayment, input);
/** Pays an agency its fees. */
export const payFeesAction = async (input: InputOf<typeof payAgencyFees>) => perform(payAgencyFees, input);
/** Gives up what a patient owes. */
export const badDebtAction = async (input: InputOf<typeof writeOffBadDebt>) =>
  perform(writeOffBadDebt, input);
/** Applies credit to what was given up. */
export const recoverAction = async (input: InputOf<typeof recoverBadDebt>) => perform(recoverBadDebt, input);
