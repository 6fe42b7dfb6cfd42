/** The only writer of the journal. */
import { sql } from 'kysely';
import { type EntryDraft, type Posting, balanced, reversalEntry } from '../../core/books/entries';
import type { Cents } from '../../core/money';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';

/**
 * Takes the locks of households, lowest id first. Every transaction locks in this order, so that two never wait for each
 * other in a circle: remittance, households, remittance claim, claims, everything else. The lock lets rows that refer to the
 * household be added (which share-locks its key), for they are often added before their entry is written.
 */
export async function lockHouseholds(tx: Tx, ids: readonly number[]): Promise<void> {
  const sorted = [...new Set(ids)].sort((a, b) => a - b);
  if (sorted.length > 0)
    await tx
      .selectFrom('household')
      .select('id')
      .where('id', 'in', sorted)
      .orderBy('id')
      .forNoKeyUpdate()
      .execute();
}

/**
 * Writes entries with their postings and balances. Entries without amounts are left out.
 * @returns the ids written, in order, null for an entry left out
 * @throws UnbalancedEntry, or the database's refusal (closed period, a key written before)
 */
export async function writeEntries(
  tx: Tx,
  context: Context,
  drafts: readonly EntryDraft[],
): Promise<(number | null)[]> {
  const ready = drafts.map(balanced);
  await lockHouseholds(
    tx,
    ready.flatMap((draft) => draft?.postings.flatMap((posting) => posting.householdId ?? []) ?? []),
  );
  const ids: (number | null)[] = [];
  for (const draft of ready) {
    if (!draft) {
      ids.push(null);
      continue;
    }
    const { id } = await tx
      .insertInto('entry')
      .values({
        kind: draft.kind,
        posting_date: context.today,
        business_date: draft.businessDate,
        user_id: context.user.id,
        memo: draft.memo,
        key: draft.key ?? null,
        reverses: draft.reverses ?? null,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await tx
      .insertInto('posting')
      .values(
        draft.postings.map((p) => ({
          entry_id: id,
          account: p.account,
          amount: p.amount,
          household_id: p.householdId ?? null,
          patient_id: p.patientId ?? null,
          case_id: p.caseId ?? null,
          charge_id: p.chargeId ?? null,
          coverage_id: p.coverageId ?? null,
          payer_id: p.payerId ?? null,
          claim_id: p.claimId ?? null,
          receipt_id: p.receiptId ?? null,
          remittance_id: p.remittanceId ?? null,
          remittance_claim_id: p.remittanceClaimId ?? null,
          provider_id: p.providerId ?? null,
          location_id: p.locationId ?? null,
          reason_group: p.reasonGroup ?? null,
          reason_code: p.reasonCode ?? null,
        })),
      )
      .execute();
    ids.push(id);
  }
  await watchBelowZero(tx, context, [
    ...new Set(ready.flatMap((draft) => draft?.postings.flatMap((posting) => posting.chargeId ?? []) ?? [])),
  ]);
  return ids;
}

/** A receivable below zero is somebody's money: it is followed up as long as it lasts. */
async function watchBelowZero(tx: Tx, context: Context, chargeIds: readonly number[]): Promise<void> {
  if (chargeIds.length === 0) return;
  const ids = [...chargeIds];
  await sql`
    insert into follow_up (kind, household_id, charge_id, words, amount, due_date, key)
    select 'overpaid', c.household_id, c.id, 'More was paid on this charge than is owed', -least(b.with_payer, b.with_patient), ${context.today}::date, 'overpaid:' || c.id || ':' || (select max(entry_id) from posting where charge_id = c.id)
    from charge_balance b join charge c on c.id = b.charge_id
    where b.charge_id = any(${ids}) and least(b.with_payer, b.with_patient, b.on_plan, b.at_agency) < 0 and not exists (select 1 from follow_up f where f.charge_id = b.charge_id and f.closed_at is null)
    on conflict (key) do nothing`.execute(tx);
  await sql`
    update follow_up f set closed_at = now(), outcome = 'No longer below zero' from charge_balance b
    where f.charge_id = b.charge_id and f.charge_id = any(${ids}) and f.kind = 'overpaid' and f.closed_at is null and least(b.with_payer, b.with_patient, b.on_plan, b.at_agency) >= 0`.execute(
    tx,
  );
}

/**
 * Reverses entries that were not reversed before.
 * @returns how many were reversed
 */
export async function reverseEntries(
  tx: Tx,
  context: Context,
  entryIds: readonly number[],
  why: string,
): Promise<number> {
  if (why.trim() === '') throw new Refused('Say why it is reversed', 'why');
  if (entryIds.length === 0) return 0;
  const postings = await tx
    .selectFrom('posting')
    .selectAll()
    .where('entry_id', 'in', entryIds)
    .orderBy('id')
    .execute();
  await lockHouseholds(
    tx,
    postings.flatMap((posting) => posting.household_id ?? []),
  );
  const entries = await tx
    .selectFrom('entry as e')
    .select(['e.id', 'e.kind', 'e.business_date'])
    .where('e.id', 'in', entryIds)
    .where('e.kind', '<>', 'reversal')
    .where(({ not, exists, selectFrom }) =>
      not(
        exists(
          selectFrom('entry as r')
            .select(sql`1`.as('one'))
            .whereRef('r.reverses', '=', 'e.id'),
        ),
      ),
    )
    .orderBy('e.id')
    .execute();
  const drafts = entries.map((entry) =>
    reversalEntry(
      { ...entry, postings: postings.filter((p) => p.entry_id === entry.id).map(asPosting) },
      context.today,
      why,
    ),
  );
  await writeEntries(tx, context, drafts);
  return drafts.length;
}

type PostingRow = {
  account: string;
  amount: number;
  household_id: number | null;
  patient_id: number | null;
  case_id: number | null;
  charge_id: number | null;
  coverage_id: number | null;
  payer_id: number | null;
  claim_id: number | null;
  receipt_id: number | null;
  remittance_id: number | null;
  remittance_claim_id: number | null;
  provider_id: number | null;
  location_id: number | null;
  reason_group: string | null;
  reason_code: string | null;
};

const asPosting = (row: PostingRow): Posting => ({
  account: row.account as Posting['account'],
  amount: row.amount as Cents,
  householdId: row.household_id,
  patientId: row.patient_id,
  caseId: row.case_id,
  chargeId: row.charge_id,
  coverageId: row.coverage_id,
  payerId: row.payer_id,
  claimId: row.claim_id,
  receiptId: row.receipt_id,
  remittanceId: row.remittance_id,
  remittanceClaimId: row.remittance_claim_id,
  providerId: row.provider_id,
  locationId: row.location_id,
  reasonGroup: row.reason_group,
  reasonCode: row.reason_code,
});
