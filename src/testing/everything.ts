/** One of everything that a desk has, for what goes through all of it: lists, screens, roles. */
import { sql } from 'kysely';
import { addOption, giveEstimate } from '../server/accounts/treatment';
import { addAuthorization } from '../server/accounts/authorizations';
import { addDiagnosis } from '../server/setup/added';
import { sampleRemitClaim } from '../core/x12/samples';
import { addDays } from '../core/calendar';
import { cents } from '../core/money';
import { creditLetterDocument } from '../core/payments/dormancy';
import { enterCharge } from '../server/accounts/charges';
import { buildClaims } from '../server/claims/build';
import { checkOnly } from '../server/claims/check-only';
import { replaceClaim } from '../server/claims/replace';
import { startPosting } from '../server/jobs/work';
import { logContact } from '../server/overdue/contacts';
import { draftLetters } from '../server/overdue/due-letters';
import { askHardship } from '../server/overdue/hardship';
import { takeReceipt } from '../server/payments/take';
import { expectVisit } from '../server/payments/visits';
import { addKeyedClaim, startKeyed } from '../server/remittances/keyed';
import { writeContractLetter } from '../server/remittances/contract-letters';
import { postRemittance } from '../server/remittances/post';
import { prepareStatement } from '../server/statements/prepare';
import { inviteUser } from '../server/users/manage';
import { TODAY, type TestDatabase } from './database';
import {
  charge,
  decided,
  draftOf,
  household,
  intake,
  overdueOf,
  placementOf,
  planOf,
  plannedCharge,
  postedRemittance,
  remitText,
  says,
  sentClaim,
} from './desk';

/**
 * A denial, a correction, a check, a paid claim with the patient's part, money that is not ours, a remittance that is held, a claim to fix, receipts,
 * a statement, drafts, a payment plan, placements, a promise, a hardship, letters, a small balance.
 * @param turn other names and numbers each time
 */
export async function someOfEverything(t: TestDatabase, turn: number) {
  const [denied, paid] = [await sentClaim(t), await sentClaim(t)];
  const line = (control: string, paidCents: number, reasons: string[]) => ({
    control,
    charge: 14500,
    paid: paidCents,
    reasons,
  });
  const text = remitText([
    decided(denied.claim.control_number, [line(denied.controls[0]!, 0, ['CO-97:145.00'])]),
    decided(paid.claim.control_number, [line(paid.controls[0]!, 6800, ['CO-45:47.00', 'PR-3:30.00'])]),
    sampleRemitClaim(`XX${turn}`),
  ]);
  const { outcomes } = await intake(t.context, text);
  const remittanceId = outcomes[0]!.remittanceId!;
  await startPosting(t.context, { remittanceIds: [remittanceId] });
  await postRemittance(t.context, remittanceId);
  const off = decided(denied.claim.control_number, [line(denied.controls[0]!, 100, ['CO-45:145.00'])]);
  const { outcomes: heldOutcomes } = await intake(t.context, remitText([off], { trace: `OFF${turn}` }));
  const heldId = heldOutcomes[0]!.remittanceId!;
  const ready = await sentClaim(t);
  const { outcomes: readyOutcomes } = await intake(
    t.context,
    remitText([decided(ready.claim.control_number, [line(ready.controls[0]!, 9800, ['CO-45:47.00'])])]),
  );
  const readyId = readyOutcomes[0]!.remittanceId!;
  // Keyed from paper, and not closed.
  const paper = await sentClaim(t);
  const keyedId = await startKeyed(t.context, {
    payerId: paper.claim.payer_id,
    amount: '68.00',
    method: 'CHK',
    trace: `KEYED${turn}`,
    paymentDate: TODAY,
    source: 'mail',
    key: `list-keyed-${turn}`,
  });
  await addKeyedClaim(t.context, {
    keyedId,
    controlNumber: paper.claim.control_number,
    key: `list-keyed-${turn}`,
  });
  // Allowed below the contract, and asked for by letter.
  const below = await sentClaim(t);
  await postedRemittance(t, [says(below, 5500, ['CO-45:60.00', 'PR-3:30.00'])]);
  await writeContractLetter(t.context, {
    payerId: below.claim.payer_id,
    lines: [{ chargeId: below.charges[0]!, coverageId: below.claim.coverage_id }],
    key: `list-letter-${turn}`,
  });
  const other = { tender: 'check' as const, reference: `=1+${turn}` };
  await takeReceipt(t.context, {
    householdId: paid.householdId,
    tenders: [{ ...other, amount: '10.00' }],
    key: `list-a-${turn}`,
  });
  await takeReceipt(t.context, {
    householdId: denied.householdId,
    tenders: [{ ...other, amount: '7.25' }],
    key: `list-b-${turn}`,
  });
  // A card that a terminal has read and not answered for.
  const reading = `list-card-${turn}-${Date.now()}`;
  await sql`
    insert into card_reading (key, place_id, user_id, brand, kind, entry, last_four, token)
    select ${reading}, min(id), ${t.context.user.id}, 'Visa', 'debit', 'chip', '2003', 'none'
    from place where merchant <> ''`.execute(t.db);
  await takeReceipt(t.context, {
    householdId: paid.householdId,
    tenders: [{ tender: 'card', amount: '3.00', reading }],
    key: `list-card-${turn}`,
  });
  // A refund that a manager is to approve.
  await sql`
    insert into refund_request (receipt_id, amount, kind, reference, why, asked_on, asked_by)
    select max(id), 100, 'check', '77', '=1+1', ${TODAY}, '@Asker'
    from receipt where household_id = ${paid.householdId} and amount > 0`.execute(t.db);
  // A letter to the owner of credit who was not heard of.
  const someone = {
    name: '@Owner',
    line1: '1 Elm',
    line2: '',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98101',
  };
  await t.db
    .insertInto('credit_letter')
    .values({
      household_id: paid.householdId,
      date: TODAY,
      amount: cents(725),
      content: creditLetterDocument.write({
        paper: 'LETTER',
        practice: { ...someone, phone: '206-555-0100' },
        account: '@A',
        to: someone,
        date: TODAY,
        amount: cents(725),
        lastContact: addDays(TODAY, -400),
        until: TODAY,
      }),
      user_name: 'Tester',
    })
    .execute();
  const { patient_id: visitor } = await t.db
    .selectFrom('charge')
    .select('patient_id')
    .where('household_id', '=', paid.householdId)
    .where('patient_id', 'is not', null)
    .orderBy('id')
    .executeTakeFirstOrThrow();
  await expectVisit(t.context, {
    patientId: visitor!,
    day: TODAY,
    time: '10:00',
    reason: `@visit ${turn}`,
    key: `list-visit-${turn}`,
  });
  await prepareStatement(t.context, { householdId: paid.householdId, key: `statement-${turn}` });
  await inviteUser(t.context, { email: `user${turn}@example.com`, name: `User ${turn}`, role: 'biller' });
  const self = await household(t, false, { last: `@Formula${turn}` });
  await charge(t, t.context, self.patientId, '80.00');
  // A number tells them apart, however often.
  await addDiagnosis(t.context, {
    code: `Y${turn % 10}${String.fromCharCode(65 + (Math.floor(turn / 10) % 26))}.${turn}`,
    description: `Added ${turn}`,
  });
  const draft = await draftOf(t);
  const plan = await planOf(t);
  const placed = await placementOf(t);
  const proposed = await placementOf(t, false);
  const late = await overdueOf(t);
  await logContact(t.context, {
    householdId: late.householdId,
    kind: 'visit',
    outcome: 'promise',
    amount: '5.00',
    by: TODAY,
    key: `list-promise-${turn}`,
  });
  await askHardship(t.context, {
    householdId: late.householdId,
    size: '2',
    income: '20000.00',
    evidence: 'pay slips',
    key: `list-hardship-${turn}`,
  });
  const lettered = await overdueOf(t);
  const { batchId: letterBatchId } = await draftLetters(t.context, {
    householdIds: [lettered.householdId],
    key: `list-letters-${turn}`,
  });
  const small = await household(t, false);
  const long = { ...t.context, today: addDays(TODAY, -90) };
  await charge(t, long, small.patientId, '4.00', '99213', addDays(TODAY, -90));
  const unready = await household(t);
  // Without a diagnosis a professional claim does not leave.
  await enterCharge(t.context, {
    patientId: unready.patientId,
    providerId: t.providers.family,
    serviceDate: TODAY,
    code: '99213',
    fee: '60.00',
    sure: true,
    key: `list-unready-${turn}`,
  });
  const { id: coverageId } = await t.db
    .selectFrom('coverage')
    .select('id')
    .where('case_id', '=', unready.caseId)
    .executeTakeFirstOrThrow();
  await addAuthorization(t.context, {
    caseId: unready.caseId,
    coverageId,
    kind: 'referral',
    state: 'approved',
    number: `R${turn}`,
    visits: '3',
    units: '',
    key: `list-allowed-${turn}`,
  });
  await plannedCharge(t, unready.patientId);
  await addOption(t.context, { caseId: unready.caseId, name: 'Another way' });
  await giveEstimate(t.context, {
    caseId: unready.caseId,
    validUntil: addDays(TODAY, 90),
    key: `list-estimate-${turn}`,
  });
  const [unreadyClaimId] = await buildClaims(t.context, { householdId: unready.householdId });
  const wrong = await sentClaim(t, ['145.00', '42.00']);
  await t.db.updateTable('claim').set({ status: 'accepted' }).where('id', '=', wrong.claim.id).execute();
  const correctionId = await replaceClaim(t.context, {
    claimId: wrong.claim.id,
    as: '7',
    payerClaimNumber: `W${turn}`,
    why: 'Somebody else did it',
  });
  const checkId = await checkOnly(t.context, { claimIds: [unreadyClaimId!, correctionId] });
  const unbilledChargeId = await charge(t, t.context, unready.patientId, '61.00', '99214');
  return {
    denied,
    paid,
    ready,
    remittanceId,
    heldId,
    keyedId,
    readyId,
    self,
    draft,
    plan,
    placed,
    proposed,
    late,
    lettered,
    letterBatchId,
    small,
    correctionId,
    checkId,
    unready: { ...unready, chargeId: unbilledChargeId, claimId: unreadyClaimId! },
  };
}

/** What {@link someOfEverything} has made. */
export type Everything = Awaited<ReturnType<typeof someOfEverything>>;
