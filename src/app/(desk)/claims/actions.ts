'use server';
/** What is done at the claims station. */
import type { z } from 'zod';
import { claimInput } from '../../../core/claims/input';
import { buildClaims } from '../../../server/claims/build';
import { checkOnceMore, checkOnly } from '../../../server/claims/check-only';
import {
  addLines,
  correctProvider,
  leaveOutLine,
  putBackLine,
  toldByHand,
} from '../../../server/claims/correct';
import { mergeClaims, notOnFile, sayDelay, splitClaim } from '../../../server/claims/drafts';
import { payerTold } from '../../../server/claims/stale';
import { holdClaim, noteOnClaim, releaseClaim, withdrawClaim } from '../../../server/claims/hold';
import { printClaims } from '../../../server/claims/printing';
import { freeVoided, replaceClaim } from '../../../server/claims/replace';
import { sendClaims } from '../../../server/claims/send';
import { startChecking, startSending } from '../../../server/jobs/work';
import { readClaim } from '../../../server/claims/read';
import { parseInput } from '../../../server/input';
import type { InputOf } from '../../../server/use-case';
import { ask, perform } from '../../session';

/** Builds claims from unbilled charges: a household’s, or all. @returns the claims’ ids */
export const buildClaimsAction = async (input: InputOf<typeof buildClaims>) => perform(buildClaims, input);
/** What decides about a claim, for the look beside a list. */
export const claimPeekAction = async (input: z.input<typeof claimInput>) =>
  ask(async (context) => {
    const { lines, events, findings } = await readClaim(context, parseInput(claimInput, input).claimId);
    return { lines, findings, last: events.at(-1) };
  });
/** Checks again, in the background, all claims that are not sent. @returns the work’s id */
export const recheckAction = async (input: InputOf<typeof startChecking>) => perform(startChecking, input);
/** Checks claims without sending them, those named or all. @returns the check’s id */
export const checkOnlyAction = async (input: InputOf<typeof checkOnly>) => perform(checkOnly, input);
/** Looks again at the claims of a check. */
export const checkOnceMoreAction = async (input: InputOf<typeof checkOnceMore>) =>
  perform(checkOnceMore, input);
/** Prints claims that go on paper. @returns the print’s id */
export const printClaimsAction = async (input: InputOf<typeof printClaims>) => perform(printClaims, input);
/** Makes one draft of several. @returns its id */
export const mergeClaimsAction = async (input: InputOf<typeof mergeClaims>) => perform(mergeClaims, input);
/** Makes a claim of its own of some lines of a draft. @returns its id */
export const splitClaimAction = async (input: InputOf<typeof splitClaim>) => perform(splitClaim, input);
/** Says why a claim is late. */
export const sayDelayAction = async (input: InputOf<typeof sayDelay>) => perform(sayDelay, input);
/** Takes a claim back that the payer says it does not have. */
export const notOnFileAction = async (input: InputOf<typeof notOnFile>) => perform(notOnFile, input);
/** Ends that a claim tells the old whose payer was told. */
export const payerToldAction = async (input: InputOf<typeof payerTold>) => perform(payerTold, input);
/** Sends claims by id, or all that are ready; the exchange writes their files. */
export const sendClaimsAction = async (input: InputOf<typeof sendClaims>) => perform(sendClaims, input);
/** Notes something on a claim. */
export const noteOnClaimAction = async (input: InputOf<typeof noteOnClaim>) => perform(noteOnClaim, input);
/** Holds a claim back with a reason. */
export const holdClaimAction = async (input: InputOf<typeof holdClaim>) => perform(holdClaim, input);
/** Lets a held claim go. */
export const releaseClaimAction = async (input: InputOf<typeof releaseClaim>) => perform(releaseClaim, input);
/** Withdraws a claim that the payer does not have, with a reason; its charges are unbilled again. */
export const withdrawClaimAction = async (input: InputOf<typeof withdrawClaim>) =>
  perform(withdrawClaim, input);
/** Makes a claim that corrects or voids one that the payer has. @returns its id */
export const replaceClaimAction = async (input: InputOf<typeof replaceClaim>) => perform(replaceClaim, input);
/** Puts right who did what a claim bills, and where, on the claim that corrects it. */
export const correctProviderAction = async (input: InputOf<typeof correctProvider>) =>
  perform(correctProvider, input);
/** Leaves a line out of a correction. */
export const leaveOutLineAction = async (input: InputOf<typeof leaveOutLine>) => perform(leaveOutLine, input);
/** Puts a line that was left out back on a correction. */
export const putBackLineAction = async (input: InputOf<typeof putBackLine>) => perform(putBackLine, input);
/** Adds services to a correction. */
export const addLinesAction = async (input: InputOf<typeof addLines>) => perform(addLines, input);
/** Notes that a correction or a void was told by telephone or form. */
export const toldByHandAction = async (input: InputOf<typeof toldByHand>) => perform(toldByHand, input);
/** Ends a void that the payer has confirmed: its charges can be billed anew. */
export const freeVoidedAction = async (input: InputOf<typeof freeVoided>) => perform(freeVoided, input);
/** Sends, in the background, all claims that are ready. @returns the work’s id */
export const sendAllAction = async (input: InputOf<typeof startSending>) => perform(startSending, input);
