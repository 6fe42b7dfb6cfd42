'use server';
/** Server actions: each hands its input to a use case, which checks the role and parses. */
import { revalidatePath } from 'next/cache';
import { estimateOpen, enterCharge, voidCharge } from '../server/accounts/charges';
import { readStory } from '../server/accounts/ledger';
import {
  addMember,
  changePatient,
  dateField,
  parseInput,
  registerHousehold,
} from '../server/accounts/register';
import { buildClaims, holdClaim, recheckClaims, withdrawClaim } from '../server/claims/build';
import { changeCharge } from '../server/claims/fix';
import { sendClaims } from '../server/claims/send';
import { writeOutbox } from '../server/exchange/round';
import { chooseColumns } from '../server/lists/read';
import { startPosting } from '../server/jobs/queue';
import { spendCredit, reverseReceipt, takeReceipt } from '../server/payments/receipts';
import { matchHeld, reverseRemittance } from '../server/remittances/post';
import { closeFollowUp, writeOffDenied } from '../server/remittances/read';
import { saveSetup } from '../server/setup/tables';
import { prepareStatement } from '../server/statements/prepare';
import { may } from '../server/access';
import { parseMoney } from '../core/money';
import { LIST_NAMES } from '../core/reports/lists';
import { z } from 'zod';
import { type Answer, answer } from './session';

const id = z.coerce.number().int().positive();
const why = z.string().trim().max(200);

async function change<T>(run: Parameters<typeof answer<T>>[0]): Promise<Answer<T>> {
  const result = await answer(run);
  if (result.ok) revalidatePath('/', 'layout');
  return result;
}

/** Registers a household with its first member. Input: {@link registerHousehold}. */
export const registerAction = async (input: unknown) =>
  change((context) => registerHousehold(context, input));
/** Adds a member to a household. Input: {@link addMember}. */
export const addMemberAction = async (householdId: unknown, input: unknown) =>
  change((context) => addMember(context, parseInput(id, householdId), input));
/** Changes a person and coverage; claims of the household that are not sent yet are checked again. */
export const changePatientAction = async (householdId: unknown, patientId: unknown, input: unknown) =>
  change(async (context) => {
    await changePatient(context, parseInput(id, patientId), input);
    if (may(context.user.role, 'work claims'))
      await recheckClaims(context, { householdId: parseInput(id, householdId) });
  });
/** Enters a charge; its key makes a double press harmless. Input: {@link enterCharge}. */
export const enterChargeAction = async (input: unknown) => change((context) => enterCharge(context, input));
/** Changes what a claim says of a charge. Input: {@link changeCharge}. */
export const changeChargeAction = async (chargeId: unknown, input: unknown) =>
  change((context) => changeCharge(context, parseInput(id, chargeId), input));
/** Takes a charge back, with a reason. */
export const voidChargeAction = async (chargeId: unknown, reason: unknown) =>
  change((context) => voidCharge(context, parseInput(id, chargeId), parseInput(why, reason)));

const estimateInput = z.object({
  caseId: id,
  code: z.string().max(20),
  units: z.coerce.number().int().min(1).max(999),
  fee: z.string(),
  date: dateField,
});
/** Estimates a charge that is still being typed: fee as text, units, code and service date. @returns null when the code is unknown */
export const estimateAction = async (input: unknown) =>
  answer(async (context) => {
    const data = parseInput(estimateInput, input);
    const fee = parseMoney(data.fee);
    const found = await estimateOpen(
      context,
      data.caseId,
      fee === null ? null : { code: data.code, units: data.units, fee, date: data.date },
    );
    return found.find((item) => item.id === 0) ?? null;
  });
/** Estimates a charge as entered, beside the others of its case. */
export const chargeEstimateAction = async (caseId: unknown, chargeId: unknown) =>
  answer(
    async (context) =>
      (await estimateOpen(context, parseInput(id, caseId), null)).find((item) => item.id === chargeId) ??
      null,
  );
/** Tells how a balance came about: the household’s, or one charge’s. */
export const storyAction = async (householdId: unknown, chargeId?: unknown) =>
  answer((context) =>
    readStory(
      context,
      parseInput(id, householdId),
      chargeId === undefined ? undefined : parseInput(id, chargeId),
    ),
  );

/** Builds claims from unbilled charges: a household’s, or all. @returns the claims’ ids */
export const buildClaimsAction = async (householdId?: unknown) =>
  change((context) =>
    buildClaims(context, householdId === undefined ? undefined : parseInput(id, householdId)),
  );
/** Checks again all claims that are not sent. */
export const recheckAction = async () => change((context) => recheckClaims(context));
/** Sends claims by id, or all that are ready, and writes their files to the outbox. */
export const sendClaimsAction = async (ids?: unknown) =>
  change(async (context) => {
    const sent = await sendClaims(
      context,
      ids === undefined ? undefined : parseInput(z.array(id).max(2000), ids),
    );
    await writeOutbox(context);
    return sent;
  });
/** Holds a claim back with a reason; with an empty one it is let go. */
export const holdClaimAction = async (claimId: unknown, reason: unknown) =>
  change((context) => holdClaim(context, parseInput(id, claimId), parseInput(why, reason)));
/** Withdraws a claim that the payer does not have, with a reason; its charges are unbilled again. */
export const withdrawClaimAction = async (claimId: unknown, reason: unknown) =>
  change((context) => withdrawClaim(context, parseInput(id, claimId), parseInput(why, reason)));

/** Starts posting remittances in the background: by id, or all that are ready. @returns the work’s id */
export const postAction = async (ids?: unknown) =>
  change((context) =>
    startPosting(context, ids === undefined ? undefined : parseInput(z.array(id).max(5000), ids)),
  );
/** Matches a held claim of a remittance to ours by its control number and posts it. */
export const matchAction = async (remittanceClaimId: unknown, controlNumber: unknown) =>
  change((context) =>
    matchHeld(context, parseInput(id, remittanceClaimId), parseInput(z.string().max(40), controlNumber)),
  );
/** Reverses a posted remittance, or one claim of it, with a reason. */
export const reverseRemittanceAction = async (remittanceId: unknown, reason: unknown, claimId?: unknown) =>
  change((context) =>
    reverseRemittance(
      context,
      parseInput(id, remittanceId),
      parseInput(why, reason),
      claimId === undefined ? undefined : parseInput(id, claimId),
    ),
  );
/** Closes a follow-up with what came of it. */
export const closeFollowUpAction = async (followUpId: unknown, outcome: unknown) =>
  change((context) => closeFollowUp(context, parseInput(id, followUpId), parseInput(why, outcome)));
/** Writes off what a payer denied of a charge, with a reason. @returns cents written off */
export const writeOffAction = async (chargeId: unknown, reason: unknown) =>
  change((context) => writeOffDenied(context, parseInput(id, chargeId), parseInput(why, reason)));

/** Takes a payment; its key makes a double press harmless. Input: {@link takeReceipt}. */
export const takeReceiptAction = async (input: unknown) => change((context) => takeReceipt(context, input));
/** Puts a household’s credit on its open charges, oldest first. */
export const spendCreditAction = async (householdId: unknown) =>
  change((context) => spendCredit(context, parseInput(id, householdId)));
/** Reverses a receipt with a reason. */
export const reverseReceiptAction = async (receiptId: unknown, reason: unknown) =>
  change((context) => reverseReceipt(context, parseInput(id, receiptId), parseInput(why, reason)));
/** Prepares a household’s statement once per key. */
export const statementAction = async (householdId: unknown, key: unknown) =>
  change((context) =>
    prepareStatement(context, parseInput(id, householdId), parseInput(z.string().min(8).max(80), key)),
  );
/** Adds or changes a row of a setup table. Input: {@link saveSetup}. */
export const saveSetupAction = async (table: unknown, row: unknown, existing: unknown) =>
  change((context) =>
    saveSetup(context, parseInput(z.string().max(40), table), row, parseInput(z.boolean(), existing)),
  );

/** Keeps which columns of a list a person wants to see, in their order; none brings back those it begins with. */
export const columnsAction = async (list: unknown, columns: unknown) =>
  change((context) =>
    chooseColumns(
      context,
      parseInput(z.enum(LIST_NAMES), list),
      parseInput(z.array(z.string().max(40)).max(40), columns),
    ),
  );
