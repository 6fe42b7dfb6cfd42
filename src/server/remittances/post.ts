/** Posting remittances: claim by claim, each in a transaction of its own, so that it can stop and go on anywhere. */
import { sql } from 'kysely';
import type { BookAccount } from '../../core/books/accounts';
import { type EntryDraft, payerCreditEntry, payerDecisionEntry } from '../../core/books/entries';
import { type CalendarDate, addDays } from '../../core/calendar';
import { type Cents, add, formatMoneyPlain, negate } from '../../core/money';
import {
  type LineDecision,
  type OurLine,
  type ReasonTable,
  decideClaim,
} from '../../core/remittances/decide';
import type { ProviderAdjustment, RemitClaim } from '../../core/x12/remittance835';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import { lockHouseholds, reverseEntries, writeEntries } from '../books/journal';
import { recordStep } from '../claims/build';

/** The cash account of a payment method (BPR04). */
const cashAccount = (method: string): BookAccount => (method === 'CHK' ? 'cash/check' : 'cash/transfer');

/** How a posting went: claims posted, and those whose money is held in the payer's credit. */
export interface Posted {
  posted: number;
  unmatched: number;
}

/** Reads the reason code table once. */
export async function readReasons(db: Db | Tx): Promise<ReasonTable> {
  const rows = await db.selectFrom('reason_code').selectAll().execute();
  const table = new Map(rows.map((row) => [`${row.group_code}-${row.code}`, row]));
  return (group, reason) => {
    const row = table.get(`${group}-${reason}`) ?? table.get(`*-${reason}`);
    return row
      ? {
          reductionAccount: row.reduction_account as BookAccount,
          denial: row.denial,
          followUp: row.follow_up as 'never',
          words: row.words,
        }
      : null;
  };
}

/**
 * Posts a remittance that balances. Safe to start twice, at once or after a kill: each claim is posted once.
 * @param progress called after each claim
 * @throws Refused when the remittance is held
 */
export async function postRemittance(
  context: Context,
  remittanceId: number,
  progress: (done: number) => Promise<void> = async () => undefined,
): Promise<Posted> {
  allow(context, 'post remittances');
  const begun = await context.db.transaction().execute(async (tx) => {
    const remit = await tx
      .selectFrom('remittance')
      .selectAll()
      .where('id', '=', remittanceId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!remit) throw new Refused('There is no such remittance');
    if (remit.status === 'posted') return null;
    if (remit.status === 'held')
      throw new Refused(`This remittance is held: ${(remit.hold_reasons as string[])[0] ?? ''}`);
    if (remit.status === 'ready') {
      await tx.updateTable('remittance').set({ status: 'posting' }).where('id', '=', remittanceId).execute();
      await writeEntries(tx, context, providerEntries(remit));
      await audit(tx, context, 'posted', { kind: 'remittance', id: remittanceId });
    }
    return remit;
  });
  const result = { posted: 0, unmatched: 0 };
  if (!begun) return result;
  const reasons = await readReasons(context.db);
  const claims = await context.db
    .selectFrom('remittance_claim')
    .select('id')
    .where('remittance_id', '=', remittanceId)
    .where('status', '=', 'ready')
    .orderBy('number')
    .execute();
  for (const { id } of claims) {
    const outcome = await context.db
      .transaction()
      .execute((tx) => postClaim(tx, context, begun, id, reasons, null));
    if (outcome === 'posted') result.posted += 1;
    else if (outcome === 'unmatched') result.unmatched += 1;
    await progress(result.posted + result.unmatched);
  }
  await context.db
    .updateTable('remittance')
    .set({ status: 'posted', posted_at: new Date() })
    .where('id', '=', remittanceId)
    .where('status', '=', 'posting')
    .where(({ not, exists, selectFrom }) =>
      not(
        exists(
          selectFrom('remittance_claim')
            .select('id')
            .where('remittance_id', '=', remittanceId)
            .where('status', '=', 'ready'),
        ),
      ),
    )
    .execute();
  return result;
}

interface RemitRow {
  id: number;
  payer_id: number | null;
  trace: string;
  method: string;
  payment_date: string;
  payer_name: string;
  provider_adjustments: unknown;
}

/** Provider-level adjustments: interest is income, everything else waits in the payer's credit until somebody says what it is. */
function providerEntries(remit: RemitRow): EntryDraft[] {
  return (remit.provider_adjustments as ProviderAdjustment[]).map((item, index) =>
    payerCreditEntry({
      kind: 'provider-adjustment',
      businessDate: remit.payment_date as CalendarDate,
      memo: `Provider adjustment ${item.code} ${item.reference}`.trim(),
      key: `plb:${remit.id}:${index}`,
      about: { payerId: remit.payer_id!, remittanceId: remit.id },
      cashAccount: cashAccount(remit.method),
      against: item.code === 'L6' ? 'income/interest' : 'credit/payer',
      amount: negate(item.amount as Cents),
    }),
  );
}

async function postClaim(
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
  const content = row.content as RemitClaim;
  const claimId = chosenClaim ?? row.claim_id;
  const claim =
    claimId === null
      ? undefined
      : await tx
          .selectFrom('claim')
          .selectAll()
          .where('id', '=', claimId)
          .forNoKeyUpdate()
          .executeTakeFirst();
  const lines = claim ? await ourLines(tx, claim.id) : [];
  const decided = claim ? decideClaim(content, lines, reasons) : { words: row.hold_reason };
  const businessDate = remit.payment_date as CalendarDate;
  if (!claim || !Array.isArray(decided)) {
    const words = Array.isArray(decided) ? '' : decided.words;
    if (chosenClaim) throw new Refused(`This does not fit that claim: ${words}`);
    await writeEntries(tx, context, [
      payerCreditEntry({
        kind: 'payer-credit',
        businessDate,
        memo: `Held: claim ${row.control_number}`,
        key: `held:${id}`,
        about: { payerId: remit.payer_id!, remittanceId: remit.id, remittanceClaimId: id },
        cashAccount: cashAccount(remit.method),
        against: 'credit/payer',
        amount: content.paid,
      }),
    ]);
    await tx
      .updateTable('remittance_claim')
      .set({ status: 'unmatched', hold_reason: words || row.hold_reason })
      .where('id', '=', id)
      .execute();
    return 'unmatched';
  }
  const next = await tx
    .selectFrom('coverage as c')
    .innerJoin('coverage as o', (join) =>
      join.onRef('o.case_id', '=', 'c.case_id').on(sql<boolean>`o.position = c.position + 1`),
    )
    .innerJoin('plan', 'plan.id', 'o.plan_id')
    .select(['o.id as coverageId', 'plan.payer_id as payerId'])
    .where('c.id', '=', claim.coverage_id)
    .executeTakeFirst();
  const charges = await tx
    .selectFrom('charge')
    .select(['id', 'provider_id', 'location_id'])
    .where(
      'id',
      'in',
      decided.map((item) => item.chargeId),
    )
    .execute();
  const drafts = decided.map((item) => {
    const charge = charges.find((one) => one.id === item.chargeId)!;
    return payerDecisionEntry({
      businessDate,
      memo: `${remit.payer_name}, ${remit.method === 'CHK' ? 'check' : 'transfer'} ${remit.trace}`,
      key: `decision:${id}:${item.chargeId}`,
      cashAccount: chosenClaim ? 'credit/payer' : cashAccount(remit.method),
      paid: item.paid,
      adjustments: item.adjustments,
      next: next ?? null,
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
        providerId: charge.provider_id,
        locationId: charge.location_id,
      },
    });
  });
  await writeEntries(tx, context, drafts);
  const remaining = await tx
    .selectFrom('charge_balance')
    .select(['charge_id', 'with_payer', sql<number>`with_payer + with_patient`.as('open')])
    .where(
      'charge_id',
      'in',
      lines.map((line) => line.chargeId),
    )
    .execute();
  await raiseFollowUps(
    tx,
    context,
    claim,
    id,
    decided,
    new Map(remaining.map((item) => [item.charge_id, item.open])),
  );
  const status = remaining.every((item) => item.with_payer === 0) ? 'closed' : 'decided';
  await tx
    .updateTable('claim')
    .set({ status, payer_claim_number: content.payerClaimNumber || claim.payer_claim_number })
    .where('id', '=', claim.id)
    .execute();
  await recordStep(
    tx,
    context,
    claim.id,
    status,
    { kind: 'file', name: `remittance ${remit.trace}` },
    `${remit.payer_name} decided: paid ${formatMoneyPlain(content.paid)} of ${formatMoneyPlain(content.charge)}`,
  );
  await tx
    .updateTable('remittance_claim')
    .set({ status: 'posted', claim_id: claim.id, hold_reason: '' })
    .where('id', '=', id)
    .execute();
  return 'posted';
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
    code: row.code,
    charge: row.fee as Cents,
    expectedAllowed: row.expected_allowed as Cents | null,
  }));
}

/** Days until a follow-up is due. */
const FOLLOW_UP_DAYS = { denial: 5, 'short-payment': 10, reason: 7 } as const;

async function raiseFollowUps(
  tx: Tx,
  context: Context,
  claim: { id: number; household_id: number },
  remittanceClaimId: number,
  decided: readonly LineDecision[],
  open: ReadonlyMap<number, number>,
): Promise<void> {
  const rows = decided.flatMap((line) =>
    line.followUps
      .filter((item) => item.rule === 'always' || (open.get(line.chargeId) ?? 0) > 0)
      .map((item, index) => ({
        kind: item.kind,
        household_id: claim.household_id,
        claim_id: claim.id,
        charge_id: line.chargeId,
        remittance_claim_id: remittanceClaimId,
        words: item.words,
        amount: item.amount,
        due_date: addDays(context.today, FOLLOW_UP_DAYS[item.kind]),
        key: `${item.kind}:${remittanceClaimId}:${line.chargeId}:${index}`,
      })),
  );
  if (rows.length > 0)
    await tx
      .insertInto('follow_up')
      .values(rows)
      .onConflict((conflict) => conflict.column('key').doNothing())
      .execute();
}

/** Matches a held claim of a posted remittance to a claim of ours: its money leaves the payer's credit. */
export async function matchHeld(
  context: Context,
  remittanceClaimId: number,
  controlNumber: string,
): Promise<void> {
  allow(context, 'post remittances');
  await context.db.transaction().execute(async (tx) => {
    // Locked, so that it is not reversed as a whole while one of its claims is matched.
    const row = await tx
      .selectFrom('remittance as r')
      .innerJoin('remittance_claim as c', 'c.remittance_id', 'r.id')
      .selectAll('r')
      .where('c.id', '=', remittanceClaimId)
      .forNoKeyUpdate('r')
      .executeTakeFirst();
    const claim = await tx
      .selectFrom('claim')
      .select('id')
      .where('control_number', '=', controlNumber.trim())
      .executeTakeFirst();
    if (!row || !claim) throw new Refused(`No claim has the number ${controlNumber}`, 'controlNumber');
    const outcome = await postClaim(tx, context, row, remittanceClaimId, await readReasons(tx), claim.id);
    if (outcome === 'before') throw new Refused('This was matched already');
    await audit(
      tx,
      context,
      'matched',
      { kind: 'remittance claim', id: remittanceClaimId },
      { claim: claim.id },
    );
  });
}

/** Reverses what one claim of a remittance posted, or the whole remittance; the rest stays and both stay visible. */
export async function reverseRemittance(
  context: Context,
  remittanceId: number,
  why: string,
  remittanceClaimId?: number,
): Promise<number> {
  allow(context, 'reverse entries');
  return context.db.transaction().execute(async (tx) => {
    const remit = await tx
      .selectFrom('remittance')
      .select(['id', 'status'])
      .where('id', '=', remittanceId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (remit?.status !== 'posted') throw new Refused('Only a posted remittance can be reversed');
    let query = tx
      .selectFrom('posting')
      .select('entry_id')
      .distinct()
      .where('remittance_id', '=', remittanceId);
    if (remittanceClaimId) query = query.where('remittance_claim_id', '=', remittanceClaimId);
    const entries = await query.execute();
    const reversed = await reverseEntries(
      tx,
      context,
      entries.map((entry) => entry.entry_id),
      why,
    );
    let claims = tx
      .updateTable('remittance_claim')
      .set({ status: 'reversed' })
      .where('remittance_id', '=', remittanceId)
      .where('status', 'in', ['posted', 'unmatched']);
    if (remittanceClaimId) claims = claims.where('id', '=', remittanceClaimId);
    const touched = await claims.returning(['claim_id']).execute();
    for (const { claim_id } of touched) {
      if (claim_id === null) continue;
      await tx.updateTable('claim').set({ status: 'accepted' }).where('id', '=', claim_id).execute();
      await recordStep(
        tx,
        context,
        claim_id,
        'accepted',
        { kind: 'user', name: context.user.name },
        `The posted decision was reversed: ${why}`,
      );
    }
    await audit(
      tx,
      context,
      'reversed',
      { kind: 'remittance', id: remittanceId },
      { why, claim: remittanceClaimId ?? null },
    );
    return reversed;
  });
}

/** Sum of what waits in the payers' credit, in cents. */
export async function payerCredit(db: Db): Promise<Cents> {
  const row = await db
    .selectFrom('posting')
    .select(sql<number>`coalesce(-sum(amount), 0)`.as('total'))
    .where('account', '=', 'credit/payer')
    .executeTakeFirstOrThrow();
  return add(0 as Cents, row.total as Cents);
}
