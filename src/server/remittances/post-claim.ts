/** Posting what a remittance says of one claim: decided by the core, written in one transaction, followed up. */
import { sql } from 'kysely';
import type { BookAccount } from '../../core/books/accounts';
import { payerCreditEntry, payerDecisionEntry } from '../../core/books/entries';
import { type CalendarDate, addDays } from '../../core/calendar';
import { isDecidable } from '../../core/claims/life';
import { type Cents, ZERO, add, formatMoneyPlain, sum } from '../../core/money';
import {
  type Hold,
  type LineDecision,
  type OurLine,
  type ReasonTable,
  decideClaim,
} from '../../core/remittances/decide';
import { remitClaimDocument } from '../../core/remittances/document';
import type { RemitClaim } from '../../core/x12/remittance835';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';
import { moveClaims, settledStatus } from '../claims/life';

/** What posting needs to know of a remittance. */
export interface RemitRow {
  id: number;
  payer_id: number | null;
  payer_name: string;
  trace: string;
  method: string;
  payment_date: CalendarDate;
}

/** The cash account of a payment method (BPR04). */
export const cashAccount = (method: string): BookAccount =>
  method === 'CHK' ? 'cash/check' : 'cash/transfer';

/** The payer of a remittance. @throws Refused when it is not in Setup, so that nothing of it can be booked */
export function payerOf(remit: RemitRow): number {
  if (remit.payer_id === null) throw new Refused(`Payer ${remit.payer_name} is not in Setup`);
  return remit.payer_id;
}

interface ClaimRow {
  id: number;
  status: Parameters<typeof isDecidable>[0];
  control_number: string;
  household_id: number;
  patient_id: number;
  case_id: number;
  coverage_id: number;
  payer_id: number;
  service_date: CalendarDate;
}

/**
 * Posts one claim of a remittance, or holds its money in the payer's credit with the reason.
 * @param chosenClaim the claim of ours that a person has matched a held one to; null while the remittance is posted
 * @throws Refused when a chosen claim does not fit
 */
export async function postClaim(
  tx: Tx,
  context: Context,
  remit: RemitRow,
  id: number,
  reasons: ReasonTable,
  chosenClaim: number | null,
): Promise<'posted' | 'unmatched' | 'before'> {
  // Whose it is, before any lock: the household is locked first, as everywhere.
  const whose = await tx
    .selectFrom('remittance_claim as c')
    .innerJoin('claim as m', (join) =>
      join.on('m.id', '=', chosenClaim ? sql.lit(chosenClaim) : sql.ref('c.claim_id')),
    )
    .select('m.household_id')
    .where('c.id', '=', id)
    .executeTakeFirst();
  if (whose) await lockHouseholds(tx, [whose.household_id]);
  const row = await tx
    .selectFrom('remittance_claim')
    .selectAll()
    .where('id', '=', id)
    .forNoKeyUpdate()
    .executeTakeFirstOrThrow();
  if (row.status !== (chosenClaim ? 'unmatched' : 'ready')) return 'before';
  const content = remitClaimDocument.read(row.content);
  const claimId = chosenClaim ?? row.claim_id;
  const claim =
    claimId === null
      ? undefined
      : await tx
          .selectFrom('claim')
          .select([
            'id',
            'status',
            'control_number',
            'household_id',
            'patient_id',
            'case_id',
            'coverage_id',
            'payer_id',
            'service_date',
          ])
          .where('id', '=', claimId)
          .forNoKeyUpdate()
          .executeTakeFirst();
  const lines = claim ? await ourLines(tx, claim.id) : [];
  const decided = claim ? decide(content, claim, lines, reasons) : { words: row.hold_reason };
  if (!claim || !Array.isArray(decided)) {
    const words = Array.isArray(decided) ? '' : decided.words;
    if (chosenClaim) throw new Refused(`This does not fit that claim: ${words}`);
    await holdMoney(tx, context, remit, { id, controlNumber: row.control_number, paid: content.paid });
    await tx
      .updateTable('remittance_claim')
      .set({ status: 'unmatched', hold_reason: words || row.hold_reason })
      .where('id', '=', id)
      .execute();
    return 'unmatched';
  }
  const next = await nextCoverage(tx, claim.coverage_id, claim.service_date);
  await writeDecisions(tx, context, remit, id, claim, decided, next, chosenClaim !== null);
  await raiseFollowUps(tx, context, claim, id, decided, next);
  await moveClaims(
    tx,
    context,
    [claim],
    await settledStatus(tx, claim.id),
    { kind: 'file', name: `remittance ${remit.trace}` },
    `${remit.payer_name} decided: paid ${formatMoneyPlain(content.paid)} of ${formatMoneyPlain(content.charge)}`,
    { payerClaimNumber: content.payerClaimNumber },
  );
  await tx
    .updateTable('remittance_claim')
    .set({ status: 'posted', claim_id: claim.id, hold_reason: '' })
    .where('id', '=', id)
    .execute();
  return 'posted';
}

function decide(
  content: RemitClaim,
  claim: ClaimRow,
  lines: readonly OurLine[],
  reasons: ReasonTable,
): LineDecision[] | Hold {
  if (!isDecidable(claim.status))
    return { words: `our claim ${claim.control_number} was not sent: it is ${claim.status}` };
  return decideClaim(content, lines, reasons);
}

/** Money that belongs to no claim of ours waits in the payer's credit. */
async function holdMoney(
  tx: Tx,
  context: Context,
  remit: RemitRow,
  held: { id: number; controlNumber: string; paid: Cents },
): Promise<void> {
  await writeEntries(tx, context, [
    payerCreditEntry({
      kind: 'payer-credit',
      businessDate: remit.payment_date,
      memo: `Held: claim ${held.controlNumber}`,
      key: `held:${held.id}`,
      about: { payerId: payerOf(remit), remittanceId: remit.id, remittanceClaimId: held.id },
      cashAccount: cashAccount(remit.method),
      against: 'credit/payer',
      amount: held.paid,
    }),
  ]);
}

/** The coverage that comes after one on the same case on the day of the service, with its payer. */
const nextCoverage = (tx: Tx, coverageId: number, day: CalendarDate) =>
  tx
    .selectFrom('coverage as c')
    .innerJoin('coverage as o', (join) =>
      join.on('o.id', '=', sql<number>`coverage_on(c.case_id, c.position + 1, ${day}::date)`),
    )
    .innerJoin('plan', 'plan.id', 'o.plan_id')
    .innerJoin('payer', 'payer.id', 'plan.payer_id')
    .select(['o.id as coverageId', 'plan.payer_id as payerId', 'payer.name as payer'])
    .where('c.id', '=', coverageId)
    .executeTakeFirst();
type Next = Awaited<ReturnType<typeof nextCoverage>>;

async function writeDecisions(
  tx: Tx,
  context: Context,
  remit: RemitRow,
  id: number,
  claim: ClaimRow,
  decided: readonly LineDecision[],
  next: Next,
  fromCredit: boolean,
): Promise<void> {
  const charges = await tx
    .selectFrom('charge')
    .select(['id', 'provider_id', 'location_id'])
    .where(
      'id',
      'in',
      decided.map((item) => item.chargeId),
    )
    .execute();
  await writeEntries(
    tx,
    context,
    decided.map((item) => {
      const charge = charges.find((one) => one.id === item.chargeId);
      return payerDecisionEntry({
        businessDate: remit.payment_date,
        memo: `${remit.payer_name}, ${remit.method === 'CHK' ? 'check' : 'transfer'} ${remit.trace}`,
        key: `decision:${id}:${item.chargeId}`,
        cashAccount: fromCredit ? 'credit/payer' : cashAccount(remit.method),
        paid: item.paid,
        adjustments: item.adjustments,
        next: next ? { coverageId: next.coverageId, payerId: next.payerId } : null,
        about: {
          chargeId: item.chargeId,
          householdId: claim.household_id,
          patientId: claim.patient_id,
          caseId: claim.case_id,
          coverageId: claim.coverage_id,
          payerId: claim.payer_id,
          claimId: claim.id,
          remittanceId: remit.id,
          remittanceClaimId: id,
          providerId: charge?.provider_id,
          locationId: charge?.location_id,
        },
      });
    }),
  );
}

async function ourLines(tx: Tx, claimId: number): Promise<OurLine[]> {
  const rows = await tx
    .selectFrom('claim_line as l')
    .innerJoin('charge as c', 'c.id', 'l.charge_id')
    .select(['l.id', 'l.charge_id', 'c.code', 'c.fee', 'l.expected_allowed'])
    .where('l.claim_id', '=', claimId)
    .orderBy('l.number')
    .execute();
  return rows.map((row) => ({
    chargeId: row.charge_id,
    control: `L${row.id}`,
    code: row.code ?? '',
    charge: row.fee,
    expectedAllowed: row.expected_allowed,
  }));
}

/** Days until a follow-up is due. */
const FOLLOW_UP_DAYS = { denial: 5, 'short-payment': 10, reason: 7, 'next-payer': 3 } as const;

/** Raises what the decisions ask for: by reason code, for a short payment, and for what passed on to the next payer. */
async function raiseFollowUps(
  tx: Tx,
  context: Context,
  claim: ClaimRow,
  remittanceClaimId: number,
  decided: readonly LineDecision[],
  next: Next,
): Promise<void> {
  const balances = await tx
    .selectFrom('charge_balance as b')
    .leftJoin('payer_balance as w', (join) =>
      join.onRef('w.charge_id', '=', 'b.charge_id').on('w.coverage_id', '=', claim.coverage_id),
    )
    .select(['b.charge_id', 'b.with_patient', 'w.with_payer'])
    .where(
      'b.charge_id',
      'in',
      decided.map((line) => line.chargeId),
    )
    .execute();
  /** What is still open of a charge with this payer or the patient. */
  const open = new Map(
    balances.map((item) => [item.charge_id, add(item.with_patient, item.with_payer ?? ZERO)]),
  );
  const about = (line: LineDecision, coverageId: number) => ({
    household_id: claim.household_id,
    claim_id: claim.id,
    charge_id: line.chargeId,
    coverage_id: coverageId,
    remittance_claim_id: remittanceClaimId,
  });
  const rows = decided.flatMap((line) => [
    ...line.followUps
      .filter((item) => item.rule === 'always' || (open.get(line.chargeId) ?? ZERO) > 0)
      .map((item, index) => ({
        ...about(line, claim.coverage_id),
        kind: item.kind,
        words: item.words,
        amount: item.amount,
        due_date: addDays(context.today, FOLLOW_UP_DAYS[item.kind]),
        key: `${item.kind}:${remittanceClaimId}:${line.chargeId}:${index}`,
      })),
    ...passedOn(line, next).map(({ amount, payer, coverageId }) => ({
      ...about(line, coverageId),
      kind: 'next-payer' as const,
      words: `${formatMoneyPlain(amount)} passed on to ${payer}: bill the next payer`,
      amount,
      due_date: addDays(context.today, FOLLOW_UP_DAYS['next-payer']),
      key: `next-payer:${remittanceClaimId}:${line.chargeId}`,
    })),
  ]);
  if (rows.length > 0)
    await tx
      .insertInto('follow_up')
      .values(rows)
      .onConflict((conflict) => conflict.column('key').doNothing())
      .execute();
}

/** What a decision passed on to the next payer, if anything. */
function passedOn(line: LineDecision, next: Next): { amount: Cents; payer: string; coverageId: number }[] {
  const amount = sum(
    line.adjustments.filter((item) => item.movement === 'pass-on').map((item) => item.amount),
  );
  return next && amount > 0 ? [{ amount, payer: next.payer, coverageId: next.coverageId }] : [];
}
