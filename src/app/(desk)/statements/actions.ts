'use server';
/** What is done at the statements station. */
import { idField } from '../../../core/fields';
import { startSendingBatch } from '../../../server/jobs/work';
import { parseInput } from '../../../server/input';
import { confirmPrinted, printAnew, sendAgain, voidPieces } from '../../../server/batches/again';
import { previewRun } from '../../../server/statements/choosing';
import {
  addHousehold,
  editPieces,
  putBackPieces,
  refreshPieces,
  takeOutPieces,
  startDrafting,
} from '../../../server/batches/drafts';
import { endConfidential, setConfidential } from '../../../server/accounts/confidential';
import { liftStop, setStop } from '../../../server/accounts/stops';
import { readMail, setDelivery } from '../../../server/statements/household';
import { postLate } from '../../../server/statements/late';
import { previewWords } from '../../../server/statements/content';
import { prepareStatement, previewStatement } from '../../../server/statements/prepare';
import { saveSet } from '../../../server/statements/sets';
import type { Asks, InputOf } from '../../../server/use-case';
import { ask, perform } from '../../session';

/** Prepares a household’s statement. @returns its id */
export const statementAction = async (input: InputOf<typeof prepareStatement>) =>
  perform(prepareStatement, input);
/** What a run by these rows would do. */
export const previewAction = async (input: Asks<typeof previewRun>, only?: string) =>
  ask((context) => previewRun(context, input, only));
/** Saves rows under a name. */
export const saveSetAction = async (input: InputOf<typeof saveSet>) => perform(saveSet, input);
/** Begins a batch of drafts of those whom the rows take. */
export const draftAction = async (input: InputOf<typeof startDrafting>) => perform(startDrafting, input);
/** Changes drafts. */
export const editPiecesAction = async (input: InputOf<typeof editPieces>) => perform(editPieces, input);
/** Makes drafts anew from the books. */
export const refreshPiecesAction = async (input: InputOf<typeof refreshPieces>) =>
  perform(refreshPieces, input);
/** Takes pieces out. */
export const takeOutAction = async (input: InputOf<typeof takeOutPieces>) => perform(takeOutPieces, input);
/** Puts pieces back. */
export const putBackAction = async (input: InputOf<typeof putBackPieces>) => perform(putBackPieces, input);
/** Adds a household to a batch. */
export const addHouseholdAction = async (input: InputOf<typeof addHousehold>) => perform(addHousehold, input);
/** Sends a batch in the background. */
export const sendBatchAction = async (input: InputOf<typeof startSendingBatch>) =>
  perform(startSendingBatch, input);
/** Says that pieces were printed and mailed. */
export const printedAction = async (input: InputOf<typeof confirmPrinted>) => perform(confirmPrinted, input);
/** Hands pieces over once more. */
export const sendAgainAction = async (input: InputOf<typeof sendAgain>) => perform(sendAgain, input);
/** Says that pieces never reached anybody. */
export const voidAction = async (input: InputOf<typeof voidPieces>) => perform(voidPieces, input);

/** How a household is written to. */
export const mailAction = async (householdId: unknown) =>
  ask((context) => readMail(context, parseInput(idField, householdId)));
/** Sets how a household is written to. */
export const deliveryAction = async (input: InputOf<typeof setDelivery>) => perform(setDelivery, input);
/** Stops something on an account. */
export const stopAction = async (input: InputOf<typeof setStop>) => perform(setStop, input);
/** Lifts a stop. */
export const liftAction = async (input: InputOf<typeof liftStop>) => perform(liftStop, input);
/** Gives a patient a confidential address. */
export const confidentialAction = async (input: InputOf<typeof setConfidential>) =>
  perform(setConfidential, input);
/** Ends a confidential address. */
export const endConfidentialAction = async (input: InputOf<typeof endConfidential>) =>
  perform(endConfidential, input);

/** Puts late charges on accounts. */
export const lateAction = async (input: InputOf<typeof postLate>) => perform(postLate, input);
/** Words with variables as they would stand on a household’s statement. */
export const wordsAction = async (input: Asks<typeof previewWords>) =>
  ask((context) => previewWords(context, input));
/** Makes new papers of what came back, to be printed here. @returns how many, and why others are not */
export const printAnewAction = async (input: InputOf<typeof printAnew>) => perform(printAnew, input);
/** What a statement would ask for today, before it is recorded. */
export const previewStatementAction = async (input: Asks<typeof previewStatement>) =>
  ask((context) => previewStatement(context, input));
