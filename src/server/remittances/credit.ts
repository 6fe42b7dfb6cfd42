/** The credit of payers: what provider adjustments have left there, and the ways out of it. */
import { sql } from 'kysely';
import {
  type CreditItem,
  creditAppliedEntry,
  givenUpEntry,
  payerReturnEntry,
  setOffEntry,
} from '../../core/books/entries/payers';
import { addDays } from '../../core/calendar';
import { DECIDED, isDecidable, isIn } from '../../core/claims/life';
import { type Cents, absolute, formatMoneyPlain, minus, negate } from '../../core/money';
import { spreadInOrder } from '../../core/payments/spread';
import { settleCreditInput, undoCreditInput } from '../../core/remittances/credit';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { lockHouseholds, reverseEntries, writeEntries } from '../books/journal';
import { byUser, moveClaims, settledStatus, statusAsDecided } from '../claims/door';
import { type Act, useCase } from '../use-case';
import { cashAccount, isHeld } from './payer-money';
import { bringBackSettled, endSettled } from './raise';

/** An item of a payer's credit, by what it is and its id. */
interface Item {
  kind: 'adjustment' | 'claim';
  id: number;
}

/** Locks items of the credit: their remittances first, lowest id first, as everywhere. */
async function lockItems(tx: Tx, items: readonly Item[]): Promise<void> {
  const of = (kind: Item['kind']): number[] => items.filter((item) => item.kind === kind).map(({ id }) => id);
  await sql`
    select 1 from remittance where id in (
      select remittance_id from provider_adjustment where id = any(${of('adjustment')}::bigint[])
      union all
      select remittance_id
      from remittance_claim
      where id = any(${of('claim')}::bigint[])) order by id for no key update`.execute(tx);
}

/** A provider adjustment with what is open of it, above zero when it is held for the payer. */
async function readAdjustment(tx: Tx, id: number) {
  const item = await tx
    .selectFrom('provider_adjustment as a')
    .innerJoin('remittance as r', 'r.id', 'a.remittance_id')
    .innerJoin('payer as y', 'y.id', 'a.payer_id')
    .leftJoin('provider_adjustment_balance as b', 'b.provider_adjustment_id', 'a.id')
    .select(['a.id', 'a.code', 'a.reference', 'a.payer_id', 'a.remittance_id', 'r.trace', 'r.method'])
    .select(['y.name as payer', sql<Cents>`coalesce(b.open, 0)`.as('open')])
    .where('a.id', '=', id)
    .executeTakeFirst();
  if (!item) throw new Refused('unknown', 'There is no such provider adjustment');
  return item;
}
type Adjustment = Awaited<ReturnType<typeof readAdjustment>>;

const words = (item: Adjustment): string =>
  `provider adjustment ${item.code} ${item.reference}`.trim() + ` of ${item.trace}`;
const about = (item: Adjustment) => ({
  payerId: item.payer_id,
  remittanceId: item.remittance_id,
  providerAdjustmentId: item.id,
});

/** What of a held claim's money is in the payer's credit, in cents. */
async function heldCredit(db: Db, remittanceClaimId: number): Promise<Cents> {
  const { rows } = await sql<{ open: Cents }>`
    select coalesce(-sum(amount), 0) as open
    from posting
    where remittance_claim_id = ${remittanceClaimId} and account = 'credit/payer'`.execute(db);
  return rows[0]!.open;
}

/** @throws Refused when part of a held claim's money has left the payer's credit */
export async function wholeInCredit(tx: Tx, remittanceClaimId: number, paid: Cents): Promise<void> {
  if ((await heldCredit(tx, remittanceClaimId)) !== paid)
    throw new Refused(
      'blocked',
      'Part of its money is set off against a provider adjustment: undo that first',
    );
}

/**
 * Settles a provider adjustment, whole or in part: applied to a claim, explained by another item of the credit, given up, or
 * gone back. @returns what is left open, in cents
 * @throws Refused when less is open than is to be settled, or what it is settled against does not fit
 */
export const settleCredit = useCase({
  name: 'settle payer credit',
  permission: 'post remittances',
  input: settleCreditInput,
  once: ({ key }) => key,
  async run(act, input): Promise<Cents> {
    const { adjustmentId, as, why } = input;
    await lockItems(act.db, [
      { kind: 'adjustment', id: adjustmentId },
      ...(input.against ? [input.against] : []),
    ]);
    const item = await readAdjustment(act.db, adjustmentId);
    if (item.open === 0) throw new Refused('nothing', 'Nothing of it is open any more');
    if (item.open !== input.open)
      throw new Refused('state', `${formatMoneyPlain(item.open)} of it is open now: look at it again`, {
        facts: { open: item.open },
      });
    const size = input.amount ?? absolute(item.open);
    if (size > absolute(item.open))
      throw new Refused('limit', `Only ${formatMoneyPlain(absolute(item.open))} of it is open`, 'amount');
    const amount = item.open > 0 ? size : negate(size);
    const businessDate = act.today;
    if (as === 'apply') await applyToClaim(act, item, amount, input.controlNumber, why);
    else if (as === 'refund') await setOff(act, item, amount, input.against!, why);
    else if (as === 'give-up')
      await writeEntries(act.db, act, [givenUpEntry({ businessDate, why, about: about(item), amount })]);
    else
      await writeEntries(act.db, act, [
        payerReturnEntry({
          businessDate,
          memo: `${amount > 0 ? 'Returned' : 'Paid back by the payer'}: ${words(item)}, ${why}`,
          about: about(item),
          cashAccount: cashAccount(item.method),
          amount,
        }),
      ]);
    await act.note('settled', { kind: 'provider adjustment', id: adjustmentId }, { as, amount, why });
    return minus(item.open, amount);
  },
});

/** Pays the lines of a claim with what is held, or takes back from them what the payer has taken. */
async function applyToClaim(
  act: Act,
  item: Adjustment,
  amount: Cents,
  controlNumber: string,
  why: string,
): Promise<void> {
  const tx = act.db;
  const found = await tx
    .selectFrom('claim')
    .select(['id', 'household_id'])
    .where('control_number', '=', controlNumber)
    .executeTakeFirst();
  if (!found)
    throw new Refused('unknown', `No claim has the number ${controlNumber}`, {
      field: 'controlNumber',
      facts: { controlNumber },
    });
  await lockHouseholds(tx, [found.household_id]);
  const claim = await tx
    .selectFrom('claim')
    .selectAll()
    .where('id', '=', found.id)
    .forNoKeyUpdate()
    .executeTakeFirstOrThrow();
  if (claim.payer_id !== item.payer_id)
    throw new Refused('others', `Claim ${controlNumber} went to another payer than ${item.payer}`, {
      field: 'controlNumber',
      facts: { controlNumber },
    });
  if (!isDecidable(claim.status))
    throw new Refused('invalid', `Claim ${controlNumber} is ${claim.status}: the payer does not have it`, {
      field: 'controlNumber',
      facts: { controlNumber },
    });
  const lines = await tx
    .selectFrom('claim_line as l')
    .innerJoin('charge as c', 'c.id', 'l.charge_id')
    .innerJoin('payer_balance as b', (join) =>
      join.onRef('b.charge_id', '=', 'l.charge_id').onRef('b.coverage_id', '=', 'l.coverage_id'),
    )
    .select(['l.charge_id as id', 'c.provider_id', 'c.location_id'])
    .select(amount > 0 ? 'b.with_payer as owed' : 'b.paid as owed')
    .where('l.claim_id', '=', claim.id)
    .orderBy('l.number')
    .execute();
  const { parts, left } = spreadInOrder(absolute(amount), lines);
  if (left > 0) {
    const most = formatMoneyPlain(minus(absolute(amount), left));
    throw new Refused(
      'state',
      amount > 0
        ? `Only ${most} waits with the payer on claim ${controlNumber}`
        : `The payer has paid only ${most} on claim ${controlNumber}`,
      'amount',
    );
  }
  const memo = `${item.payer}, ${words(item)}: ${why}`;
  const entries = await writeEntries(
    tx,
    act,
    parts.map((part) => {
      const line = lines.find(({ id }) => id === part.id)!;
      return creditAppliedEntry({
        businessDate: act.today,
        memo,
        amount: amount > 0 ? part.amount : negate(part.amount),
        about: {
          ...about(item),
          chargeId: part.id,
          householdId: claim.household_id,
          patientId: claim.patient_id,
          caseId: claim.case_id,
          coverageId: claim.coverage_id,
          claimId: claim.id,
          providerId: line.provider_id,
          locationId: line.location_id,
        },
      });
    }),
  );
  if (amount < 0)
    await followTaken(
      act,
      claim,
      parts.map((part, index) => ({ ...part, entryId: entries[index]! })),
      `${formatMoneyPlain(absolute(amount))} taken back: ${memo}`,
    );
  else
    await endSettled(
      tx,
      { chargeIds: parts.map(({ id }) => id), coverageId: claim.coverage_id },
      ['denial', 'short-payment', 'reason'],
      words(item),
    );
  await settle(act, claim, memo);
}

/** A decided claim stands where its money stands; one that waits for its decision goes on waiting. */
async function settle(
  act: Act,
  claim: { id: number; status: Parameters<typeof moveClaims>[2][number]['status'] },
  said: string,
): Promise<void> {
  if (isIn(DECIDED, claim.status))
    await moveClaims(act.db, act, [claim], await settledStatus(act.db, claim.id), byUser(act), said);
}

/** Days until somebody looks at what a payer has taken back. */
const LOOK_DAYS = 7;

/** The key of the follow-up of what an entry took back of a charge. */
const takenKey = (chargeId: number, entryId: number): string => `taken:${chargeId}:${entryId}`;

/** What was taken back waits with the payer again: somebody follows it. */
async function followTaken(
  act: Act,
  claim: { id: number; household_id: number; coverage_id: number },
  parts: readonly { id: number; amount: Cents; entryId: number }[],
  said: string,
): Promise<void> {
  await act.db
    .insertInto('follow_up')
    .values(
      parts.map(({ id, amount, entryId }) => ({
        kind: 'reason' as const,
        household_id: claim.household_id,
        claim_id: claim.id,
        charge_id: id,
        coverage_id: claim.coverage_id,
        words: said,
        amount,
        due_date: addDays(act.today, LOOK_DAYS),
        key: takenKey(id, entryId),
      })),
    )
    .execute();
}

/** Another item of the credit: what is open of it, and what its postings are about. */
async function counterItem(
  act: Act,
  against: Item,
): Promise<{ open: Cents; item: CreditItem; said: string; heldClaim: number | null }> {
  if (against.kind === 'adjustment') {
    const other = await readAdjustment(act.db, against.id);
    return { open: other.open, item: about(other), said: words(other), heldClaim: null };
  }
  const row = await act.db
    .selectFrom('remittance_claim as c')
    .innerJoin('remittance as r', 'r.id', 'c.remittance_id')
    .select([
      'c.id',
      'c.status',
      'c.control_number',
      'r.id as remittanceId',
      'r.payer_id as payerId',
      'r.trace',
    ])
    .where('c.id', '=', against.id)
    .forNoKeyUpdate()
    .executeTakeFirst();
  if (!row || row.payerId === null || !isHeld(row.status))
    throw new Refused('already', 'Its money is not in the payer’s credit any more', 'against');
  return {
    open: await heldCredit(act.db, row.id),
    item: { payerId: row.payerId, remittanceId: row.remittanceId, remittanceClaimId: row.id },
    said: `held claim ${row.control_number} of ${row.trace}`,
    heldClaim: row.id,
  };
}

/** Two items that explain each other leave the credit together. */
async function setOff(act: Act, item: Adjustment, amount: Cents, against: Item, why: string): Promise<void> {
  const other = await counterItem(act, against);
  if (other.item.payerId !== item.payer_id)
    throw new Refused('others', 'That is the credit of another payer', 'against');
  if (other.open === 0 || other.open > 0 === amount > 0)
    throw new Refused(
      'limit',
      'One of the two must be held for the payer, the other one taken by it',
      'against',
    );
  const size = absolute(amount);
  if (size > absolute(other.open))
    throw new Refused('limit', `Only ${formatMoneyPlain(absolute(other.open))} is open there`, 'amount');
  await writeEntries(act.db, act, [
    setOffEntry({
      businessDate: act.today,
      memo: `${words(item)} against ${other.said}: ${why}`,
      held: amount > 0 ? about(item) : other.item,
      taken: amount > 0 ? other.item : about(item),
      amount: size,
    }),
  ]);
  if (other.heldClaim !== null && size === absolute(other.open))
    await act.db
      .updateTable('remittance_claim')
      .set({ status: 'returned', note: `The payer took it with ${words(item)}: ${why}` })
      .where('id', '=', other.heldClaim)
      .execute();
}

/** What a person does with payer credit, and may undo. */
const DONE_BY_HAND = ['credit-applied', 'credit-set-off', 'credit-given-up', 'payer-return'] as const;

/** Undoes what was done with a provider adjustment: it is open again. */
export const undoCredit = useCase({
  name: 'undo payer credit',
  permission: 'reverse entries',
  input: undoCreditInput,
  async run(act, { entryId, why }) {
    const tx = act.db;
    const known = await tx
      .selectFrom('posting as p')
      .innerJoin('entry as e', 'e.id', 'p.entry_id')
      .select([
        'p.provider_adjustment_id as id',
        'p.remittance_claim_id as claim',
        sql<number | null>`household_now(p.household_id)`.as('household'),
      ])
      .where('e.id', '=', entryId)
      .where('e.kind', 'in', [...DONE_BY_HAND])
      .orderBy('p.id')
      .execute();
    if (!known.some(({ id }) => id !== null)) throw new Refused('nothing', 'There is nothing to undo');
    await lockItems(
      tx,
      known.map((row) => ({ kind: row.claim ? 'claim' : 'adjustment', id: (row.claim ?? row.id)! })),
    );
    await lockHouseholds(
      tx,
      known.flatMap(({ household }) => household ?? []),
    );
    const undone = await reverseEntries(tx, act, [entryId], why);
    if (undone.length === 0) throw new Refused('already', 'This was undone before');
    await afterUndoing(tx, act, undone, why);
    await act.note('undone', { kind: 'entry', id: entryId }, { why });
  },
});

/**
 * What follows when uses of payer credit are reversed: claims stand where their money stands, and a held claim that was set
 * off is held again.
 */
export async function afterUndoing(
  tx: Tx,
  context: Context,
  entryIds: readonly number[],
  why: string,
): Promise<void> {
  const touched = await tx
    .selectFrom('posting as p')
    .innerJoin('entry as e', 'e.id', 'p.entry_id')
    .select(['e.id', 'e.kind', 'p.claim_id', 'p.charge_id', 'p.remittance_claim_id'])
    .distinct()
    .where('e.id', '=', sql<number>`any(${[...entryIds]}::bigint[])`)
    .where('e.kind', 'in', ['credit-applied', 'credit-set-off'])
    .execute();
  const held = touched.flatMap((row) => row.remittance_claim_id ?? []);
  const claims = touched.flatMap((row) => row.claim_id ?? []);
  if (held.length > 0)
    await tx
      .updateTable('remittance_claim')
      .set({ status: 'kept', note: `Held again: ${why}` })
      .where('id', 'in', held)
      .where('status', '=', 'returned')
      .execute();
  if (claims.length === 0) return;
  const rows = await tx
    .selectFrom('claim')
    .select(['id', 'status'])
    .where('id', 'in', claims)
    .orderBy('id')
    .forNoKeyUpdate()
    .execute();
  for (const claim of rows)
    if (isIn(DECIDED, claim.status))
      await moveClaims(
        tx,
        context,
        [claim],
        await statusAsDecided(tx, claim.id),
        byUser(context),
        `Payer credit on it was undone: ${why}`,
      );
  const charges = touched.flatMap((row) => row.charge_id ?? []);
  await tx
    .updateTable('follow_up')
    .set({ closed_at: sql`desk_now()`, outcome: `It was undone: ${why}` })
    .where('closed_at', 'is', null)
    .where(
      'key',
      'in',
      touched.flatMap((row) => (row.charge_id === null ? [] : takenKey(row.charge_id, row.id))),
    )
    .execute();
  await bringBackSettled(tx, context, charges);
}

/** What a provider adjustment can be set off against: what the same payer has open on the other side. Cents. */
export async function creditCounters(
  context: Context,
  adjustmentId: number,
): Promise<{ value: string; label: string; open: Cents }[]> {
  allow(context, 'read remittances');
  const { rows } = await sql<{ value: string; label: string; open: Cents }>`
    with mine as (
      select a.payer_id, b.open
      from provider_adjustment a
        join provider_adjustment_balance b on b.provider_adjustment_id = a.id
      where a.id = ${adjustmentId}
    )
    select 'adjustment-' || a.id as value, trim(a.code || ' ' || a.reference) || ' of ' || r.trace as label, b.open
    from mine m
      join provider_adjustment a on a.payer_id = m.payer_id
      join provider_adjustment_balance b on b.provider_adjustment_id = a.id
      join remittance r on r.id = a.remittance_id
    where sign(b.open) = -sign(m.open)
    union all
    select 'claim-' || c.id, 'claim ' || c.control_number || ' of ' || r.trace, h.open
    from mine m
      join remittance r on r.payer_id = m.payer_id
      join remittance_claim c on c.remittance_id = r.id and c.status in ('unmatched', 'kept')
      cross join lateral (
        select coalesce(-sum(p.amount), 0) as open
        from posting p
        where p.remittance_claim_id = c.id and p.account = 'credit/payer'
      ) h
    where sign(h.open) = -sign(m.open)
    order by 3 desc, 1 limit 200`.execute(context.db);
  return rows;
}
