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
import { startPosting } from '../server/jobs/queue';
import { spendCredit, reverseReceipt, takeReceipt } from '../server/payments/receipts';
import { matchHeld, reverseRemittance } from '../server/remittances/post';
import { closeFollowUp, writeOffDenied } from '../server/remittances/read';
import { saveSetup } from '../server/setup/tables';
import { prepareStatement } from '../server/statements/prepare';
import { may } from '../server/access';
import { parseMoney } from '../core/money';
import { z } from 'zod';
import { type Answer, answer } from './session';

const id = z.coerce.number().int().positive();
const why = z.string().trim().max(200);

async function change<T>(run: Parameters<typeof answer<T>>[0]): Promise<Answer<T>> {
  const result = await answer(run);
  if (result.ok) revalidatePath('/', 'layout');
  return result;
}

export const registerAction = async (input: unknown) =>
  change((context) => registerHousehold(context, input));
export const addMemberAction = async (householdId: unknown, input: unknown) =>
  change((context) => addMember(context, parseInput(id, householdId), input));
export const changePatientAction = async (householdId: unknown, patientId: unknown, input: unknown) =>
  change(async (context) => {
    await changePatient(context, parseInput(id, patientId), input);
    if (may(context.user.role, 'work claims'))
      await recheckClaims(context, { householdId: parseInput(id, householdId) });
  });
export const enterChargeAction = async (input: unknown) => change((context) => enterCharge(context, input));
export const changeChargeAction = async (chargeId: unknown, input: unknown) =>
  change((context) => changeCharge(context, parseInput(id, chargeId), input));
export const voidChargeAction = async (chargeId: unknown, reason: unknown) =>
  change((context) => voidCharge(context, parseInput(id, chargeId), parseInput(why, reason)));

const estimateInput = z.object({
  caseId: id,
  code: z.string().max(20),
  units: z.coerce.number().int().min(1).max(999),
  fee: z.string(),
  date: dateField,
});
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
export const chargeEstimateAction = async (caseId: unknown, chargeId: unknown) =>
  answer(
    async (context) =>
      (await estimateOpen(context, parseInput(id, caseId), null)).find((item) => item.id === chargeId) ??
      null,
  );
export const storyAction = async (householdId: unknown, chargeId?: unknown) =>
  answer((context) =>
    readStory(
      context,
      parseInput(id, householdId),
      chargeId === undefined ? undefined : parseInput(id, chargeId),
    ),
  );

export const buildClaimsAction = async (householdId?: unknown) =>
  change((context) =>
    buildClaims(context, householdId === undefined ? undefined : parseInput(id, householdId)),
  );
export const recheckAction = async () => change((context) => recheckClaims(context));
export const sendClaimsAction = async (ids?: unknown) =>
  change(async (context) => {
    const sent = await sendClaims(
      context,
      ids === undefined ? undefined : parseInput(z.array(id).max(2000), ids),
    );
    await writeOutbox(context);
    return sent;
  });
export const holdClaimAction = async (claimId: unknown, reason: unknown) =>
  change((context) => holdClaim(context, parseInput(id, claimId), parseInput(why, reason)));
export const withdrawClaimAction = async (claimId: unknown) =>
  change((context) => withdrawClaim(context, parseInput(id, claimId)));

export const postAction = async (ids?: unknown) =>
  change((context) =>
    startPosting(context, ids === undefined ? undefined : parseInput(z.array(id).max(5000), ids)),
  );
export const matchAction = async (remittanceClaimId: unknown, controlNumber: unknown) =>
  change((context) =>
    matchHeld(context, parseInput(id, remittanceClaimId), parseInput(z.string().max(40), controlNumber)),
  );
export const reverseRemittanceAction = async (remittanceId: unknown, reason: unknown, claimId?: unknown) =>
  change((context) =>
    reverseRemittance(
      context,
      parseInput(id, remittanceId),
      parseInput(why, reason),
      claimId === undefined ? undefined : parseInput(id, claimId),
    ),
  );
export const closeFollowUpAction = async (followUpId: unknown, outcome: unknown) =>
  change((context) => closeFollowUp(context, parseInput(id, followUpId), parseInput(why, outcome)));
export const writeOffAction = async (chargeId: unknown, reason: unknown) =>
  change((context) => writeOffDenied(context, parseInput(id, chargeId), parseInput(why, reason)));

export const takeReceiptAction = async (input: unknown) => change((context) => takeReceipt(context, input));
export const spendCreditAction = async (householdId: unknown) =>
  change((context) => spendCredit(context, parseInput(id, householdId)));
export const reverseReceiptAction = async (receiptId: unknown, reason: unknown) =>
  change((context) => reverseReceipt(context, parseInput(id, receiptId), parseInput(why, reason)));
export const statementAction = async (householdId: unknown, key: unknown) =>
  change((context) =>
    prepareStatement(context, parseInput(id, householdId), parseInput(z.string().min(8).max(80), key)),
  );
export const saveSetupAction = async (table: unknown, row: unknown, existing: unknown) =>
  change((context) =>
    saveSetup(context, parseInput(z.string().max(40), table), row, parseInput(z.boolean(), existing)),
  );
