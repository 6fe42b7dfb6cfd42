/** What was the patient's by a payer's word that was taken back, kept until its new word is there. */
import { sql } from 'kysely';
import type { PassedOn } from '../../core/books/entries/payers';
import type { Layer } from '../../core/books/owed';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, least, minus, sum } from '../../core/money';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import { lockHouseholds } from './journal';

/** A charge with the coverage whose payer's word it is. */
export interface Word {
  chargeId: number;
  coverageId: number;
}

const keyOf = ({ chargeId, coverageId }: Word): string => `${chargeId}/${coverageId}`;

/**
 * Where what payers' words passed on of charges stands: by the coverage that it went to, null for the patient. Cents, by charge and
 * coverage of the word. Our own decisions about what waits with that payer are not among it.
 */
export async function passedOn(tx: Tx, words: readonly Word[]): Promise<Map<string, PassedOn[]>> {
  if (words.length === 0) return new Map();
  const { rows } = await sql<
    Word & { to: number | null; payerId: number | null; remark: string | null; amount: Cents }
  >`
    select p.charge_id as "chargeId", m.coverage_id as "coverageId",
      case when p.account = 'receivable/patient' then null else p.coverage_id end as "to",
      case when p.account = 'receivable/patient' then null else payer_now(max(p.payer_id)) end as "payerId",
      p.remark_code as remark, sum(p.amount) as amount
    from posting p join claim m on m.id = p.claim_id
    where p.charge_id = any(${words.map(({ chargeId }) => chargeId)}::bigint[])
      and m.coverage_id = any(${words.map(({ coverageId }) => coverageId)}::bigint[])
      and p.remittance_claim_id is not null
        and (
          p.account = 'receivable/patient' or (p.account = 'receivable/payer' and p.coverage_id <> m.coverage_id)
        )
    group by p.charge_id, m.coverage_id, p.account, 3, p.remark_code
    having sum(p.amount) <> 0
    order by 1, 2, 3 nulls first, p.remark_code nulls first`.execute(tx);
  const found = new Map<string, PassedOn[]>();
  for (const { to, payerId, remark, amount, ...word } of rows) {
    const key = keyOf(word);
    const own = found.get(key) ?? [];
    own.push({ coverageId: to, payerId, remark, amount });
    found.set(key, own);
  }
  return found;
}

/** What stands of words by where it went; nothing where nothing does. */
export const standsOf = (stands: Awaited<ReturnType<typeof passedOn>>, word: Word): readonly PassedOn[] =>
  stands.get(keyOf(word)) ?? [];

/** The layers that a payer's word, or our own decision about what waits with it, has made the patient's of charges. */
export async function layersOf(tx: Tx, words: readonly Word[]): Promise<Map<string, Layer[]>> {
  const found = new Map<string, Layer[]>();
  if (words.length === 0) return found;
  const { rows } = await sql<Word & { since: CalendarDate; raised: Cents }>`
    select d.charge_id as "chargeId", p.coverage_id as "coverageId", d.since, d.raised
    from debt_layer d
      join entry e on e.id = d.entry_id and e.kind in ('payer-decision', 'to-patient')
      cross join lateral (
        select max(x.coverage_id) as coverage_id
        from posting x
        where x.entry_id = d.entry_id and x.charge_id = d.charge_id and x.account = 'receivable/patient'
      ) p
    where d.charge_id = any(${words.map(({ chargeId }) => chargeId)}::bigint[])
    order by d.charge_id, d.entry_id, d.since`.execute(tx);
  for (const word of words) {
    const own = rows.filter((row) => keyOf(row) === keyOf(word));
    let off = sum(own.filter(({ raised }) => raised < 0).map(({ raised }) => minus(ZERO, raised)));
    const layers = own
      .filter(({ raised }) => raised > 0)
      .flatMap(({ since, raised }): Layer[] => {
        const part = least(off, raised);
        off = minus(off, part);
        return part < raised ? [{ since, amount: minus(raised, part) }] : [];
      });
    if (layers.length > 0) found.set(keyOf(word), layers);
  }
  return found;
}

/** What was taken back of layers, the oldest day first: what was there and is not any more. */
function takenOf(before: readonly Layer[], after: readonly Layer[]): Layer[] {
  const days = new Map<CalendarDate, Cents>();
  for (const { since, amount } of before) days.set(since, sum([days.get(since) ?? ZERO, amount]));
  for (const { since, amount } of after) days.set(since, minus(days.get(since) ?? ZERO, amount));
  return [...days]
    .filter(([, amount]) => amount > 0)
    .map(([since, amount]) => ({ since, amount }))
    .sort((a, b) => (a.since < b.since ? -1 : 1));
}

/**
 * Notes what words have made the patient's, does something that may take it back, and keeps what was taken back: the places that
 * it had on plans and with agencies stay, and nothing of it is asked, until the new word is there.
 * @param cause the claim of a remittance whose word was taken back
 */
export async function keepingPlaces<T>(
  tx: Tx,
  context: Context,
  words: readonly (Word & { householdId: number })[],
  cause: { remittanceClaimId: number | null },
  run: () => Promise<T>,
): Promise<T> {
  const before = await layersOf(tx, words);
  // Made first, so that what goes below zero meanwhile is known to be held and not overpaid.
  const made: { word: Word; id: number }[] = [];
  for (const word of words) {
    const amount = sum((before.get(keyOf(word)) ?? []).map((layer) => layer.amount));
    if (amount > 0) made.push({ word, id: await holdOf(tx, context, word, amount, cause) });
  }
  const result = await run();
  const after = await layersOf(tx, words);
  for (const one of made) {
    const taken = takenOf(before.get(keyOf(one.word)) ?? [], after.get(keyOf(one.word)) ?? []);
    await addLayers(tx, context, one.id, taken);
  }
  return result;
}

/** The open hold of a word, made where there is none. */
async function holdOf(
  tx: Tx,
  context: Context,
  { householdId, chargeId, coverageId }: Word & { householdId: number },
  amount: Cents,
  { remittanceClaimId }: { remittanceClaimId: number | null },
): Promise<number> {
  const there = await tx
    .selectFrom('part_hold')
    .select('id')
    .where('charge_id', '=', chargeId)
    .where('coverage_id', '=', coverageId)
    .where('ended_on', 'is', null)
    .executeTakeFirst();
  if (there) return there.id;
  const { id } = await tx
    .insertInto('part_hold')
    .values({
      household_id: householdId,
      charge_id: chargeId,
      coverage_id: coverageId,
      remittance_claim_id: remittanceClaimId,
      amount,
      made_on: context.today,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return id;
}

/** What was taken back goes onto a hold; one that holds nothing is ended. */
async function addLayers(tx: Tx, context: Context, holdId: number, taken: readonly Layer[]): Promise<void> {
  for (const { since, amount } of taken)
    await sql`
      insert into part_hold_layer as l (hold_id, since, amount) values (${holdId}, ${since}, ${amount})
      on conflict (hold_id, since) do update set amount = l.amount + excluded.amount`.execute(tx);
  await sql`
    with held as (select sum(l.amount) as amount from part_hold_layer l where l.hold_id = ${holdId})
    update part_hold h set amount = coalesce(held.amount, h.amount),
      ended_on = case when held.amount is null then ${context.today}::date end,
      ended_why = case when held.amount is null then 'nothing was taken back' else '' end
      from held
      where h.id = ${holdId}`.execute(tx);
}

/**
 * Says that the new word on what was held is there: what of its part was the patient's before keeps its day, unless a statement has
 * said since that it was gone.
 * @returns the layers by which an amount that becomes the patient's counts, by charge and coverage; none where nothing was held
 */
export async function answerHolds(tx: Tx, words: readonly Word[]): Promise<(word: Word) => readonly Layer[]> {
  if (words.length === 0) return () => [];
  const chargeIds = words.map(({ chargeId }) => chargeId);
  const held = await tx
    .selectFrom('part_hold')
    .select('id')
    .where('charge_id', '=', sql<number>`any(${chargeIds}::bigint[])`)
    .where('ended_on', 'is', null)
    .executeTakeFirst();
  // Most words answer no hold.
  if (!held) return () => [];
  const { rows } = await sql<Word & { layers: Layer[] | null }>`
    with answered as (
      update part_hold h set answered = true
      where h.ended_on is null
        and h.charge_id = any(${chargeIds}::bigint[])
        and h.coverage_id = any(${words.map(({ coverageId }) => coverageId)}::bigint[])
      returning h.id, h.charge_id, h.coverage_id, h.household_id, h.made_at)
    select a.charge_id as "chargeId", a.coverage_id as "coverageId",
      (
        select json_agg(json_build_object('since', l.since, 'amount', l.amount) order by l.since)
        from part_hold_layer l
        where l.hold_id = a.id
      ) as layers
    from answered a
      join charge c on c.id = a.charge_id
      left join confidential_address k on k.patient_id = c.patient_id and k.ended_on is null
    where not exists (
      select 1
      from statement s
      where s.household_id = a.household_id
        and s.patient_id is not distinct from k.patient_id
        and s.created_at > a.made_at
      and not exists (select 1 from statement_void v where v.statement_id = s.id)
        and not exists (select 1 from statement_charge t where t.statement_id = s.id and t.charge_id = a.charge_id))`.execute(
    tx,
  );
  const found = new Map(rows.map(({ layers, ...word }) => [keyOf(word), layers ?? []]));
  return (word) => found.get(keyOf(word)) ?? [];
}

/** The payers' words that entries have said, with their households locked, lowest first. */
export async function wordsOfEntries(
  tx: Tx,
  entryIds: readonly number[],
): Promise<(Word & { householdId: number })[]> {
  const { rows } = await sql<Word & { householdId: number }>`
    select distinct p.charge_id as "chargeId", m.coverage_id as "coverageId", household_now(p.household_id) as "householdId"
    from posting p
      join entry e on e.id = p.entry_id
      join claim m on m.id = p.claim_id
    where p.entry_id = any(${[...entryIds]}::bigint[]) and e.kind = 'payer-decision' and p.charge_id is not null
    order by 3, 1, 2`.execute(tx);
  await lockHouseholds(
    tx,
    rows.map(({ householdId }) => householdId),
  );
  return rows;
}

/**
 * Where the taking back of a word was itself reversed, that word stands again: what was held for it is over. The reversal has given
 * its places back, for it mirrors what was moved.
 */
export async function endHoldsOf(tx: Tx, context: Context, entryIds: readonly number[]): Promise<void> {
  await sql`
    with again as (
      select h.id from part_hold h where h.ended_on is null and exists (
        select 1
        from posting p
        where p.entry_id = any(${[...entryIds]}::bigint[])
          and p.remittance_claim_id = h.remittance_claim_id
          and p.charge_id = h.charge_id)
        and exists (
          select 1 from debt_layer d where d.charge_id = h.charge_id and d.word = h.coverage_id and d.open > 0
        )),
    places as (update part_hold_place k set amount = 0 from again where k.hold_id = again.id and k.amount > 0),
    ended as (
      update part_hold h set ended_on = ${context.today}::date, ended_why = 'the earlier decision stands again'
      from again
      where h.id = again.id
      returning h.id
    )
    update follow_up f set closed_at = desk_now(), outcome = 'The earlier decision stands again'
    from ended
    where f.key = 'suspended:' || ended.id and f.closed_at is null`.execute(tx);
}
