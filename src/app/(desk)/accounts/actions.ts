'use server';
/** What is done at the accounts station; each hands its input to a use case. */
import { z } from 'zod';
import { idField } from '../../../core/fields';
import { takeOffForbidden } from '../../../server/accounts/bill-patient';
import { changeCase, dischargeCase, openCase, reopenCase } from '../../../server/accounts/cases';
import { seeAbove } from '../../../server/accounts/above';
import { completeCharge, enterCharge, voidCharge } from '../../../server/accounts/charges';
import { readChargeEntries, readPaidBy, readStory } from '../../../server/accounts/ledger';
import {
  addCoverage,
  changeCoverage,
  keepFromPayers,
  orderCoverages,
} from '../../../server/accounts/coverage';
import { readCaseTotals } from '../../../server/accounts/members';
import { moveCharge } from '../../../server/accounts/move';
import { addAuthorization, changeAuthorization } from '../../../server/accounts/authorizations';
import { collectToday } from '../../../server/accounts/collect';
import { notExhausted } from '../../../server/accounts/exhausted';
import {
  enterVisit,
  previewVisit,
  readLastVisit,
  readVisit,
  undoVisit,
} from '../../../server/accounts/visits';
import { addDiagnosis, addServiceCode } from '../../../server/setup/added';
import { makeChargeSet } from '../../../server/setup/charge-sets';
import {
  addOption,
  chooseOption,
  giveEstimate,
  keepNotice,
  placePlanned,
  readTreatment,
  signEstimate,
} from '../../../server/accounts/treatment';
import { tellBenefit } from '../../../server/accounts/told';
import {
  addMember,
  changePatient,
  likeHouseholds,
  registerHousehold,
} from '../../../server/accounts/register';
import { changeCharge } from '../../../server/claims/fix';
import { estimateOpen } from '../../../server/estimates/read';
import { addNote, commonNotices, endNote, readNotes, seeNotices } from '../../../server/notes/notes';
import { parseInput } from '../../../server/input';
import type { Asks, InputOf } from '../../../server/use-case';
import { ask, perform } from '../../session';

/** Registers a household with its first member. */
export const registerAction = async (input: InputOf<typeof registerHousehold>) =>
  perform(registerHousehold, input);
/** Adds a member to a household. */
export const addMemberAction = async (input: InputOf<typeof addMember>) => perform(addMember, input);
/** Households like the one that is being typed. */
export const likeAction = async (input: Asks<typeof likeHouseholds>) =>
  ask((context) => likeHouseholds(context, input));
/** Adds a coverage; one that it takes the place of ends the day before. */
export const orderCoveragesAction = async (input: InputOf<typeof orderCoverages>) =>
  perform(orderCoverages, input);
export const addCoverageAction = async (input: InputOf<typeof addCoverage>) => perform(addCoverage, input);
/** Changes what a coverage says, or ends it. */
export const changeCoverageAction = async (input: InputOf<typeof changeCoverage>) =>
  perform(changeCoverage, input);
/** Changes a person and the household's address. */
export const changePatientAction = async (input: InputOf<typeof changePatient>) =>
  perform(changePatient, input);
/** Opens a case beside the standing one. */
export const openCaseAction = async (input: InputOf<typeof openCase>) => perform(openCase, input);
/** Puts a case right. */
export const changeCaseAction = async (input: InputOf<typeof changeCase>) => perform(changeCase, input);
/** Closes a case. */
export const dischargeCaseAction = async (input: InputOf<typeof dischargeCase>) =>
  perform(dischargeCase, input);
/** Opens a case again. */
export const reopenCaseAction = async (input: InputOf<typeof reopenCase>) => perform(reopenCase, input);
/** Moves a service to another case or person. */
export const moveChargeAction = async (input: InputOf<typeof moveCharge>) => perform(moveCharge, input);
const totalsInput = z.object({ caseId: idField });
/** Reads the totals of a case beside those of its person and household. */
export const caseTotalsAction = async (input: z.input<typeof totalsInput>) =>
  ask((context) => readCaseTotals(context, parseInput(totalsInput, input).caseId));
/** Writes down what a payer allows beforehand. */
export const addAuthorizationAction = async (input: InputOf<typeof addAuthorization>) =>
  perform(addAuthorization, input);
/** Puts right what a payer allows beforehand. */
export const changeAuthorizationAction = async (input: InputOf<typeof changeAuthorization>) =>
  perform(changeAuthorization, input);
/** Says that something is left of a coverage after all. */
export const notExhaustedAction = async (input: InputOf<typeof notExhausted>) => perform(notExhausted, input);
/** Writes down what a payer told of what was used. */
export const tellBenefitAction = async (input: InputOf<typeof tellBenefit>) => perform(tellBenefit, input);
/** Enters a charge. */
export const enterChargeAction = async (input: InputOf<typeof enterCharge>) => perform(enterCharge, input);
/** Changes what claims say of a charge. */
export const changeChargeAction = async (input: InputOf<typeof changeCharge>) => perform(changeCharge, input);
/** Enters a planned service as done. */
export const completeChargeAction = async (input: InputOf<typeof completeCharge>) =>
  perform(completeCharge, input);
/** Keeps a service from insurers, or bills it to them after all. */
export const keepFromPayersAction = async (input: InputOf<typeof keepFromPayers>) =>
  perform(keepFromPayers, input);
/** Takes off an account what may not be billed to its patients. */
export const takeOffAction = async (input: InputOf<typeof takeOffForbidden>) =>
  perform(takeOffForbidden, input);
/** Takes a charge back, with a reason. */
export const voidChargeAction = async (input: InputOf<typeof voidCharge>) => perform(voidCharge, input);

/** Adds a way of treating. */
export const addOptionAction = async (input: InputOf<typeof addOption>) => perform(addOption, input);
/** Chooses a way of treating, or does not. */
export const chooseOptionAction = async (input: InputOf<typeof chooseOption>) => perform(chooseOption, input);
/** Puts planned services into a way of treating and a phase. */
export const placePlannedAction = async (input: InputOf<typeof placePlanned>) => perform(placePlanned, input);
/** Makes an estimate to hand over. */
export const giveEstimateAction = async (input: InputOf<typeof giveEstimate>) => perform(giveEstimate, input);
/** Writes down that an estimate was signed. */
export const signEstimateAction = async (input: InputOf<typeof signEstimate>) => perform(signEstimate, input);
/** Writes down that what is charged above an estimate was looked at. */
export const seeAboveAction = async (input: InputOf<typeof seeAbove>) => perform(seeAbove, input);
/** Keeps an advance notice. */
export const keepNoticeAction = async (input: InputOf<typeof keepNotice>) => perform(keepNotice, input);
const collectAsked = z.object({ householdId: idField, caseId: idField.nullable() });
/** What to ask the members of a household for today. */
export const collectAction = async (input: z.input<typeof collectAsked>) =>
  ask((context) => {
    const { householdId, caseId } = parseInput(collectAsked, input);
    return collectToday(context, householdId, caseId);
  });
/** Enters a visit. */
export const enterVisitAction = async (input: InputOf<typeof enterVisit>) => perform(enterVisit, input);
/** Takes a whole visit back. */
export const undoVisitAction = async (input: InputOf<typeof undoVisit>) => perform(undoVisit, input);
/** Looks up what is being typed, and what it is expected to cost whom. */
export const previewVisitAction = async (input: Asks<typeof previewVisit>) =>
  ask((context) => previewVisit(context, input));
const visitAsked = z.object({ chargeId: idField });
/** Reads the visit of which a charge is. */
export const visitAction = async (input: z.input<typeof visitAsked>) =>
  ask((context) => readVisit(context, parseInput(visitAsked, input).chargeId));
const caseAsked = z.object({ caseId: idField });
/** What is planned for a case. */
export const treatmentAction = async (input: z.input<typeof caseAsked>) =>
  ask((context) => readTreatment(context, parseInput(caseAsked, input).caseId));
/** The services of the last visit of a case, as they are entered again. */
export const lastVisitAction = async (input: z.input<typeof caseAsked>) =>
  ask((context) => readLastVisit(context, parseInput(caseAsked, input).caseId));
/** Makes a charge set of services that were entered. */
export const makeSetAction = async (input: InputOf<typeof makeChargeSet>) => perform(makeChargeSet, input);
/** Adds a service code that is missing. */
export const addServiceCodeAction = async (input: InputOf<typeof addServiceCode>) =>
  perform(addServiceCode, input);
/** Adds a diagnosis that is missing. */
export const addDiagnosisAction = async (input: InputOf<typeof addDiagnosis>) => perform(addDiagnosis, input);

const chargeOfCase = z.object({ caseId: idField, chargeId: idField });
/** Estimates a charge as entered, beside the others of its case. */
export const chargeEstimateAction = async (input: z.input<typeof chargeOfCase>) =>
  ask(async (context) => {
    const { caseId, chargeId } = parseInput(chargeOfCase, input);
    return (await estimateOpen(context, caseId, [])).find((item) => item.id === chargeId) ?? null;
  });

const storyInput = z.object({ householdId: idField, chargeId: idField.optional() });
/** Tells how a balance came about: the household’s, or one charge’s. */
export const storyAction = async (input: z.input<typeof storyInput>) =>
  ask((context) => {
    const { householdId, chargeId } = parseInput(storyInput, input);
    return readStory(context, householdId, chargeId);
  });

const entriesInput = z.object({ householdId: idField, chargeId: idField });
/** Reads the entries under a charge. */
export const chargeEntriesAction = async (input: z.input<typeof entriesInput>) =>
  ask((context) => {
    const { householdId, chargeId } = parseInput(entriesInput, input);
    return readChargeEntries(context, householdId, chargeId);
  });

const paidByInput = z.object({ householdId: idField, receiptId: idField });
/** Reads what a receipt paid on an account. */
export const paidByAction = async (input: z.input<typeof paidByInput>) =>
  ask((context) => {
    const { householdId, receiptId } = parseInput(paidByInput, input);
    return readPaidBy(context, householdId, receiptId);
  });

/** Writes a note on an account, for us or for the patient. */
export const noteAction = async (input: InputOf<typeof addNote>) => perform(addNote, input);
/** Ends a note. */
export const endNoteAction = async (input: InputOf<typeof endNote>) => perform(endNote, input);

/** Says that notices were read on opening. */
export const seenAction = async (input: InputOf<typeof seeNotices>) => perform(seeNotices, input);

const notesInput = z.union([z.object({ householdId: idField }), z.object({ payerId: idField })]);
/** Reads all that was noted on an account or a payer. */
export const notesAction = async (input: z.input<typeof notesInput>) =>
  ask((context) => readNotes(context, parseInput(notesInput, input)));
/** What is often noted, to choose from. */
export const commonNoticesAction = async () => ask((context) => commonNotices(context));
