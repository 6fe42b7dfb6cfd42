'use server';
/** What is done at the statements station. */
import { idField } from '../../../core/fields';
import { startSendingBatch } from '../../../server/jobs/work';
import { parseInput } from '../../../server/input';
import { confirmPrinted, printAnew, sendAgain, voidPieces } from '../../../server/statements/again';
import { previewRun } from '../../../server/statements/choosing';
import {
  addHousehold,
  editPieces,
  putBackPieces,
  refreshPieces,
  takeOutPieces,
  startDrafting,
} from '../../../server/statements/drafts';
import {
  addPatientNote,
  endConfidential,
  endPatientNote,
  liftStop,
  readMail,
  setConfidential,
  setDelivery,
  setStop,
} from '../../../server/statements/household';
import { postLate } from '../../../server/statements/late';
import { previewWords } from '../../../server/statements/content';
import { prepareStatement, previewStatement } from '../../../server/statements/prepare';
import { saveSet } from '../../../server/statements/sets';
import { ask, perform } from '../../session';

/** Prepares a household’s statement. @returns its id */
export const statementAction = async (input: unknown) => perform(prepareStatement, input);
/** What a run by these rows would do. */
export const previewAction = async (input: unknown, only?: string) =>
  ask((context) => previewRun(context, input, only));
/** Saves rows under a name. */
export const saveSetAction = async (input: unknown) => perform(saveSet, input);
/** Begins a batch of drafts of those whom the rows take. */
export const draftAction = async (input: unknown) => perform(startDrafting, input);
/** Changes drafts. */
export const editPiecesAction = async (input: unknown) => perform(editPieces, input);
/** Makes drafts anew from the books. */
export const refreshPiecesAction = async (input: unknown) => perform(refreshPieces, input);
/** Takes pieces out. */
export const takeOutAction = async (input: unknown) => perform(takeOutPieces, input);
/** Puts pieces back. */
export const putBackAction = async (input: unknown) => perform(putBackPieces, input);
/** Adds a household to a batch. */
export const addHouseholdAction = async (input: unknown) => perform(addHousehold, input);
/** Sends a batch in the background. */
export const sendBatchAction = async (input: unknown) => perform(startSendingBatch, input);
/** Says that pieces were printed and mailed. */
export const printedAction = async (input: unknown) => perform(confirmPrinted, input);
/** Hands pieces over once more. */
export const sendAgainAction = async (input: unknown) => perform(sendAgain, input);
/** Says that pieces never reached anybody. */
export const voidAction = async (input: unknown) => perform(voidPieces, input);

/** How a household is written to. */
export const mailAction = async (householdId: unknown) =>
  ask((context) => readMail(context, parseInput(idField, householdId)));
/** Sets how a household is written to. */
export const deliveryAction = async (input: unknown) => perform(setDelivery, input);
/** Stops something on an account. */
export const stopAction = async (input: unknown) => perform(setStop, input);
/** Lifts a stop. */
export const liftAction = async (input: unknown) => perform(liftStop, input);
/** Gives a patient a confidential address. */
export const confidentialAction = async (input: unknown) => perform(setConfidential, input);
/** Ends a confidential address. */
export const endConfidentialAction = async (input: unknown) => perform(endConfidential, input);
/** Adds a note for the patient. */
export const noteAction = async (input: unknown) => perform(addPatientNote, input);
/** Ends a note for the patient. */
export const endNoteAction = async (input: unknown) => perform(endPatientNote, input);

/** Puts late charges on accounts. */
export const lateAction = async (input: unknown) => perform(postLate, input);
/** Words with variables as they would stand on a household’s statement. */
export const wordsAction = async (input: unknown) => ask((context) => previewWords(context, input));
/** Makes new papers of what came back, to be printed here. @returns how many, and why others are not */
export const printAnewAction = async (input: unknown) => perform(printAnew, input);
/** What a statement would ask for today, before it is recorded. */
export const previewStatementAction = async (input: unknown) =>
  ask((context) => previewStatement(context, input));
