'use server';
/** What is done at the remittances station. */
import type { z } from 'zod';
import { changeFollowUp, closeFollowUp, settleWaiting } from '../../../server/follow-ups/work';
import { startPosting } from '../../../server/jobs/work';
import { adjustmentInput } from '../../../core/remittances/credit';
import { parseInput } from '../../../server/input';
import { creditCounters, settleCredit, undoCredit } from '../../../server/remittances/credit';
import {
  checkRemittance,
  decideHeld,
  matchHeld,
  sayReasonOnce,
  takeUpAgain,
} from '../../../server/remittances/held';
import {
  addKeyedClaim,
  changeKeyed,
  closeAndPost,
  dropKeyed,
  dropKeyedClaim,
  reopenKeyed,
  saveKeyedClaim,
  sayKeyedAdjustments,
  startKeyed,
} from '../../../server/remittances/keyed';
import { keyedCandidates } from '../../../server/remittances/keyed-page';
import {
  letContractLinesBe,
  lookAgainAtContractLines,
  writeContractLetter,
} from '../../../server/remittances/contract-letters';
import { reverseRemittance } from '../../../server/remittances/reverse';
import type { Asks, InputOf } from '../../../server/use-case';
import { ask, askAndShow, perform } from '../../session';

/** Starts posting remittances in the background: by id, or all that are ready. @returns the work’s id */
export const postAction = async (input: InputOf<typeof startPosting>) => perform(startPosting, input);
/** Matches a held claim of a remittance to ours by its control number and posts it. */
export const matchAction = async (input: InputOf<typeof matchHeld>) => perform(matchHeld, input);
/** Says what a held claim is: a correction, a payment on top, money to give back or to keep. */
export const decideHeldAction = async (input: InputOf<typeof decideHeld>) => perform(decideHeld, input);
/** Says what a reason does that Setup does not know, and weighs again what waits for it. @returns how many claims are posted by it */
export const sayReasonAction = async (input: Asks<typeof sayReasonOnce>) =>
  ask((context) => sayReasonOnce(context, input));
/** Weighs a held remittance again. @returns why it is still held */
export const checkRemittanceAction = async (input: InputOf<typeof checkRemittance>) =>
  perform(checkRemittance, input);
/** Makes what was reversed of a remittance ready to post anew. @returns how many claims */
export const takeUpAgainAction = async (input: InputOf<typeof takeUpAgain>) => perform(takeUpAgain, input);
/** Reverses a posted remittance, or one claim of it, with a reason. */
export const reverseRemittanceAction = async (input: InputOf<typeof reverseRemittance>) =>
  perform(reverseRemittance, input);
/** Closes a follow-up with what came of it. */
export const closeFollowUpAction = async (input: InputOf<typeof closeFollowUp>) =>
  perform(closeFollowUp, input);
/** Goes on with a follow-up: a later date, an owner, what was said. */
export const changeFollowUpAction = async (input: InputOf<typeof changeFollowUp>) =>
  perform(changeFollowUp, input);
/**
 * Writes off what a payer does not pay of a charge, passes it to the patient or puts it before the next payer, with a
 * reason.
 * @returns cents
 */
export const settleAction = async (input: InputOf<typeof settleWaiting>) => perform(settleWaiting, input);
/** Settles a provider adjustment in the payer's credit. @returns what is left open, in cents */
export const settleCreditAction = async (input: InputOf<typeof settleCredit>) => perform(settleCredit, input);
/** What a provider adjustment can be set off against. */
export const creditCountersAction = async (input: z.input<typeof adjustmentInput>) =>
  ask((context) => creditCounters(context, parseInput(adjustmentInput, input).adjustmentId));
/** Undoes what was done with a provider adjustment. */
export const undoCreditAction = async (input: InputOf<typeof undoCredit>) => perform(undoCredit, input);
/** Begins to key a remittance from paper. @returns its id */
export const startKeyedAction = async (input: InputOf<typeof startKeyed>) => perform(startKeyed, input);
/** Puts the head of a keyed remittance right. */
export const changeKeyedAction = async (input: InputOf<typeof changeKeyed>) => perform(changeKeyed, input);
/** Adds a claim that a paper speaks of. @returns its row */
export const addKeyedClaimAction = async (input: InputOf<typeof addKeyedClaim>) =>
  perform(addKeyedClaim, input);
/** Keeps what is keyed of a claim. */
export const saveKeyedClaimAction = async (input: InputOf<typeof saveKeyedClaim>) =>
  perform(saveKeyedClaim, input);
/** Takes a claim out of a keyed remittance. */
export const dropKeyedClaimAction = async (input: InputOf<typeof dropKeyedClaim>) =>
  perform(dropKeyedClaim, input);
/** Says interest and offsets of a keyed remittance. */
export const sayKeyedAdjustmentsAction = async (input: InputOf<typeof sayKeyedAdjustments>) =>
  perform(sayKeyedAdjustments, input);
/** Closes a keyed remittance and posts it. */
export const closeKeyedAction = async (input: Asks<typeof closeAndPost>) =>
  askAndShow((context) => closeAndPost(context, input));
/** Opens a closed one again, with a reason. */
export const reopenKeyedAction = async (input: InputOf<typeof reopenKeyed>) => perform(reopenKeyed, input);
/** Drops one that was begun by mistake. */
export const dropKeyedAction = async (input: InputOf<typeof dropKeyed>) => perform(dropKeyed, input);
/** Claims that are out at the payer of a keyed remittance. */
export const keyedCandidatesAction = async (input: Asks<typeof keyedCandidates>) =>
  ask((context) => keyedCandidates(context, input));
/** Asks a payer by letter for what its contract says. @returns the letter’s id */
export const writeContractLetterAction = async (input: InputOf<typeof writeContractLetter>) =>
  perform(writeContractLetter, input);
/** Lets differences from contracts be, with a reason. @returns how many lines */
export const letContractLinesBeAction = async (input: InputOf<typeof letContractLinesBe>) =>
  perform(letContractLinesBe, input);
/** Looks again at differences that were let be. @returns how many lines */
export const lookAgainAction = async (input: InputOf<typeof lookAgainAtContractLines>) =>
  perform(lookAgainAtContractLines, input);
