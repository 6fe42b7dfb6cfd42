/** The only writer of the journal. */
import { sql } from 'kysely';
import { type EntryDraft, balanced, reversalEntry } from '../../core/books/entry';
import { fromColumns, toColumns } from '../../core/books/dimensions';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';

/**
 * Takes the locks of households, lowest id first. Every transaction locks in this order, so that two never wait for each
 * other in a circle: answered press, remittance, households, remittance claim, claims, everything else. The lock lets rows
 * that refer to the household be added (which share-locks its key), for they are often added before their entry is written.
 * One that was merged stands for the one that it is: that is locked with it.
 */
export async function lockHouseholds(tx: Tx, ids: readonly number[]): Promise<void> {
  const sorted = [...new Set(ids)].sort((a, b) => a - b);
  if (sorted.length === 0) return;
  const locked = await tx
    .selectFrom('household')
    .select('merged_into')
    .where('id', 'in', sorted)
    .orderBy('id')
    .forNoKeyUpdate()
    .execute();
  const others = locked.flatMap(({ merged_into: into }) =>
    into === null || sorted.includes(into) ? [] : into,
  );
  if (others.length > 0) await lockHouseholds(tx, others);
}

/**
 * Writes entries with their postings; the database brings the kept balances along. Entries without amounts are left out.
 * @param settled the caller has locked the households, and settles the charges after it, which looks at what is below zero
 * @returns the ids written, in order, null for an entry left out
 * @throws UnbalancedEntry, or the database's refusal (closed period, a key written before)
 */
export async function writeEntries(
  tx: Tx,
  context: Context,
  drafts: readonly EntryDraft[],
  { settled = false }: { settled?: boolean } = {},
): Promise<(number | null)[]> {
  const ready = drafts.map(balanced);
  const written = ready.filter((draft) => draft !== null);
  if (written.length === 0) return ready.map(() => null);
  const postings = written.flatMap((draft) => draft.postings);
  if (!settled)
    await lockHouseholds(
      tx,
      postings.flatMap((posting) => posting.householdId ?? []),
    );
  const rows = await tx
    .insertInto('entry')
    .values(
      written.map((draft) => ({
        kind: draft.kind,
        posting_date: context.today,
        business_date: draft.businessDate,
        user_id: context.user.id,
        memo: draft.memo,
        key: draft.key ?? null,
        reverses: draft.reverses ?? null,
        exception: draft.exception ?? null,
      })),
    )
    .returning('id')
    .execute();
  await tx
    .insertInto('posting')
    .values(
      written.flatMap((draft, index) =>
        draft.postings.map((posting) => ({
          entry_id: rows[index]!.id,
          account: posting.account,
          amount: posting.amount,
          since: posting.since ?? null,
          ...toColumns(posting),
        })),
      ),
    )
    .execute();
  if (!settled)
    await watchBelowZero(tx, context, [...new Set(postings.flatMap((posting) => posting.chargeId ?? []))]);
  const ids = rows.map((row) => row.id);
  return ready.map((draft) => (draft ? ids.shift()! : null));
}

/**
 * A receivable below zero is somebody's money: it is followed up as long as it lasts. What waits for a payer's new
 * word is watched as that.
 */
export async function watchBelowZero(tx: Tx, context: Context, chargeIds: readonly number[]): Promise<void> {
  if (chargeIds.length === 0) return;
  const ids = [...chargeIds];
  // Most entries leave nothing below zero, which three short looks say in a tenth of the time.
  const { rows } = await sql`
    select 1
    from charge_balance
    where charge_id = any(${ids}::bigint[]) and least(with_payer, with_patient, on_plan, at_agency) < 0
    union all select 1 from payer_balance where charge_id = any(${ids}::bigint[]) and with_payer < 0
    union all
    select 1
    from follow_up
    where charge_id = any(${ids}::bigint[]) and kind = 'overpaid' and closed_at is null
    limit 1`.execute(tx);
  if (rows.length === 0) return;
  await sql`
    with least as materialized (
      select b.charge_id,
        least(
          b.with_payer, b.with_patient, b.on_plan, b.at_agency,
          (select min(y.with_payer) from payer_balance y where y.charge_id = b.charge_id)
        ) as amount
      from charge_balance b
      where b.charge_id = any(${ids}::bigint[])
    ),
    over as (
      update follow_up f set closed_at = desk_now(), outcome = 'No longer below zero' from least b
      where f.charge_id = b.charge_id and f.kind = 'overpaid' and f.closed_at is null and b.amount >= 0)
    insert into follow_up (kind, household_id, charge_id, words, amount, due_date, key)
    select 'overpaid', c.household_id, c.id, 'More was paid on this charge than is owed', -b.amount,
      ${context.today}::date,
      'overpaid:' || c.id || ':' || (select max(entry_id) from posting where charge_id = c.id)
    from least b join charge c on c.id = b.charge_id
    where b.amount < 0
      and not exists (select 1 from part_hold k where k.charge_id = b.charge_id and k.ended_on is null)
      and not exists (
        select 1 from follow_up f where f.charge_id = b.charge_id and f.kind = 'overpaid' and f.closed_at is null
      )
    on conflict (key) do nothing`.execute(tx);
}

/**
 * Reverses entries that were not reversed before.
 * @returns the ids of those that were reversed by this
 */
export async function reverseEntries(
  tx: Tx,
  context: Context,
  entryIds: readonly number[],
  why: string,
): Promise<number[]> {
  if (why.trim() === '') throw new Refused('missing', 'Say why it is reversed', 'why');
  if (entryIds.length === 0) return [];
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
    .select('e.id')
    .where('e.id', 'in', entryIds)
    .where('e.kind', '<>', 'reversal')
    .where(({ not, exists, selectFrom }) =>
      not(exists(selectFrom('entry as r').select('r.id').whereRef('r.reverses', '=', 'e.id'))),
    )
    .orderBy('e.id')
    .execute();
  const drafts = entries.map(({ id }) =>
    reversalEntry(
      {
        id,
        postings: postings
          .filter((row) => row.entry_id === id)
          .map((row) => ({ ...fromColumns(row), account: row.account, amount: row.amount })),
      },
      context.today,
      why,
    ),
  );
  await writeEntries(tx, context, drafts);
  return entries.map(({ id }) => id);
}

/** The entries on a charge that were not undone and undo nothing. */
export const unreversedEntries = (tx: Tx, chargeId: number) =>
  tx
    .selectFrom('entry as e')
    .select(['e.id', 'e.kind'])
    .where('e.reverses', 'is', null)
    .where(({ exists, selectFrom }) =>
      exists(
        selectFrom('posting as p')
          .select('p.id')
          .whereRef('p.entry_id', '=', 'e.id')
          .where('p.charge_id', '=', chargeId),
      ),
    )
    .where(({ not, exists, selectFrom }) =>
      not(exists(selectFrom('entry as r').select('r.id').whereRef('r.reverses', '=', 'e.id'))),
    )
    .execute();

/** The kinds of entries by which we settle ourselves what waits with a payer. */
export const SETTLING = ['write-off', 'to-patient', 'to-next-payer'] as const;

/**
 * Entries that stand by which we settled ourselves what waited with a payer of a charge: written off, or passed on to
 * the patient or the next payer.
 */
export async function settledEntries(
  tx: Tx,
  words: readonly { chargeId: number; coverageId: number }[],
): Promise<number[]> {
  const { rows } = await sql<{ id: number }>`
    select distinct e.id
    from unnest(
      ${words.map(({ chargeId }) => chargeId)}::bigint[], ${words.map(({ coverageId }) => coverageId)}::bigint[]
    ) w (charge_id, coverage_id)
      join posting p on p.charge_id = w.charge_id
        and p.coverage_id = w.coverage_id
        and p.account = 'receivable/payer'
      join entry e on e.id = p.entry_id
    where e.kind = any(${SETTLING}::text[])
      and (e.kind <> 'to-next-payer' or p.claim_id is not null)
      and not exists (select 1 from entry r where r.reverses = e.id)
    order by 1`.execute(tx);
  return rows.map(({ id }) => id);
}

/** Whether entries, taken together, leave something on a charge: a decision that the payer took back leaves nothing. */
export async function movesSomething(
  tx: Tx,
  chargeId: number,
  entryIds: readonly number[],
): Promise<boolean> {
  const { rows } = await sql`
    select 1 from posting where charge_id = ${chargeId} and entry_id = any(${[...entryIds]}::bigint[])
    group by account, coverage_id having sum(amount) <> 0 limit 1`.execute(tx);
  return rows.length > 0;
}

/** The entries of a receipt, or of a remittance or one claim of it. */
export async function entriesOf(
  tx: Tx,
  of: { receiptId: number } | { remittanceId: number; remittanceClaimId?: number },
): Promise<number[]> {
  let query = tx.selectFrom('posting').select('entry_id').distinct();
  if ('receiptId' in of) query = query.where('receipt_id', '=', of.receiptId);
  else {
    query = query.where('remittance_id', '=', of.remittanceId);
    if (of.remittanceClaimId) query = query.where('remittance_claim_id', '=', of.remittanceClaimId);
  }
  return (await query.execute()).map((row) => row.entry_id);
}
