/** The follow-ups that a decision raises and ends. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { type Cents, ZERO, add, formatMoneyPlain, sum } from '../../core/money';
import type { LineDecision } from '../../core/remittances/decide';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import type { ClaimRow, Next } from './our-claim';

type Kind = 'denial' | 'short-payment' | 'reason' | 'next-payer';

/** What the outcome of a follow-up begins with that ended because nothing of its line waits with the payer any more. */
const SETTLED = 'Settled with ';
/** What it says where we settled the line ourselves. */
export const OURS = {
  patient: 'Passed to the patient',
  off: 'Written off',
  next: 'Put before the next payer',
} as const;

/** Ends follow-ups of these kinds on lines of which nothing waits with the payer any more. @param by what settled them, in words */
export async function endSettled(
  tx: Tx,
  lines: { chargeIds: readonly number[]; coverageId: number },
  kinds: readonly Kind[],
  by: string,
): Promise<void> {
  const { chargeIds, coverageId } = lines;
  if (chargeIds.length === 0) return;
  await sql`
    update follow_up f set closed_at = desk_now(), closed_as = 'settled', outcome = ${SETTLED + by}
    from payer_balance b
    where f.charge_id = any(${[...chargeIds]}::bigint[])
      and f.kind = any(${[...kinds]}::text[])
      and f.closed_at is null
      and b.charge_id = f.charge_id
      and b.coverage_id = coalesce(f.coverage_id, ${coverageId})
        and b.coverage_id = ${coverageId}
        and b.with_payer = 0`.execute(tx);
}

/**
 * Brings the last follow-up back that ended because its line was settled, where that was taken back, the claim is decided all
 * the same, and nobody follows what waits again. Its record says why.
 */
export async function bringBackSettled(
  tx: Tx,
  context: Context,
  chargeIds: readonly number[],
): Promise<void> {
  await sql`
    with last as (
      select max(f.id) as id from follow_up f
        join payer_balance b on b.charge_id = f.charge_id and b.coverage_id = f.coverage_id and b.with_payer > 0
        join claim_line l on l.charge_id = b.charge_id and l.coverage_id = b.coverage_id and l.bills
        join claim m on m.id = l.claim_id and m.status = 'decided'
      where f.charge_id = any(${[...chargeIds]}::bigint[])
        and f.closed_at is not null
        and f.closed_as in ('settled', 'ours')
        and not exists (
          select 1
          from follow_up o
          where o.charge_id = f.charge_id
            and o.coverage_id = f.coverage_id
            and o.closed_at is null
            and o.kind <> 'suspended'
        )
      group by f.charge_id, f.coverage_id),
    noted as (
      insert into note (household_id, about, follow_up_id, business_date, user_name, words)
      select f.household_id, 'follow-up', f.id, ${context.today}::date, ${context.user.name},
        'Open again: ' || regexp_replace(f.outcome, ${`^${SETTLED}`}, '') || ' was taken back'
      from follow_up f join last using (id))
    update follow_up f set closed_at = null, closed_as = null, outcome = '' from last where f.id = last.id`.execute(
    tx,
  );
}

/** Ends the follow-ups of these kinds that decisions have raised which do not stand any more. @param outcome in words */
export async function endRaised(
  tx: Tx,
  remittanceClaimIds: readonly number[],
  outcome: string,
  kinds: readonly Kind[] = ['denial', 'short-payment', 'reason', 'next-payer'],
): Promise<void> {
  await sql`
    update follow_up set closed_at = desk_now(), outcome = ${outcome}
    where remittance_claim_id = any(${[...remittanceClaimIds]}::bigint[])
      and kind = any(${[...kinds]}::text[])
      and closed_at is null`.execute(tx);
}

/** Days until a follow-up is due. */
export const FOLLOW_UP_DAYS = { denial: 5, 'short-payment': 10, reason: 7, 'next-payer': 3 } as const;

/** Raises what the decisions ask for: by reason code, for a short payment, and for what passed on to the next payer. */
export async function raiseFollowUps(
  tx: Tx,
  context: Context,
  claim: ClaimRow,
  remittanceClaimId: number,
  decided: readonly LineDecision[],
  next: Next,
  forwarded: boolean,
): Promise<void> {
  const raised = decided.some(
    (line) =>
      line.followUps.length > 0 || (next && line.adjustments.some((item) => item.movement === 'pass-on')),
  );
  if (!raised) return;
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
        due_date: addDays(context.today, item.days ?? FOLLOW_UP_DAYS[item.kind]),
        owner: item.owner,
        key: `${item.kind}:${remittanceClaimId}:${line.chargeId}:${index}`,
      })),
    ...passedOn(line, next).map(({ amount, payer, coverageId }) => ({
      ...about(line, coverageId),
      kind: 'next-payer' as const,
      words: forwarded
        ? `${formatMoneyPlain(amount)} passed on to ${payer}; the payer forwarded the claim, wait for its answer`
        : `${formatMoneyPlain(amount)} passed on to ${payer}: bill the next payer`,
      amount,
      due_date: addDays(context.today, FOLLOW_UP_DAYS['next-payer']),
      owner: '',
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
