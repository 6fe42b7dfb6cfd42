/** Whether a remittance as a whole may be posted: from whom, for whom, whether it balances, whether it was here before. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, add, formatMoneyPlain } from '../../core/money';
import { claimFaults, paymentFault } from '../../core/remittances/balance';
import { providerAdjustmentsDocument, remitClaimDocument } from '../../core/remittances/document';
import { headerFaults } from '../../core/remittances/header';
import { remitStatus } from '../../core/remittances/status';
import type { RemitClaim, RemitHeader } from '../../core/x12/remittance835';
import type { Tx } from '../../db/connect';

/** So many reasons are kept; a file that is wrong throughout says the same again and again. */
export const REASONS_KEPT = 50;

/** The payer of a remittance: by its id, then by further numbers kept for payers, by name only where it gives no number. */
export async function findPayer(
  tx: Tx,
  header: Pick<RemitHeader, 'payer' | 'originator'>,
): Promise<number | null> {
  const { id, name } = header.payer;
  const numbers = [id, header.originator].filter(Boolean);
  const { rows } = await sql<{ id: number }>`
    select payer_now(id) as id from (
      select id, 1 as rank from payer where payer_id <> '' and payer_id = ${id}
      union all select payer_id, 2 from payer_identifier where value = any(${numbers})
      union all select id, 3 from payer where ${id} = '' and lower(name) = ${name.toLowerCase()}
    ) found order by rank, id limit 1`.execute(tx);
  return rows[0]?.id ?? null;
}

/** Whether we are who is paid: by the NPI or tax id of the practice or a provider, or a number kept besides them. */
async function isPayee(tx: Tx, { npi, taxId }: RemitHeader['payee']): Promise<boolean> {
  const tax = taxId.replace(/\D/g, '');
  const { rows } = await sql<{ ours: boolean }>`
    select
      exists (
        select 1
        from practice
        where (${npi} <> '' and npi = ${npi}) or (${tax} <> '' and regexp_replace(tax_id, '\\D', '', 'g') = ${tax})
      )
      or exists (select 1 from provider where ${npi} <> '' and npi = ${npi})
      or exists (
        select 1
        from payee_identifier
        where (kind = 'npi' and value = ${npi})
          or (kind = 'tax-id' and ${tax} <> '' and regexp_replace(value, '\\D', '', 'g') = ${tax})
      ) as ours`.execute(tx);
  return rows[0]!.ours;
}

/** Nothing of it is posted: it was held, or everything that it had posted is reversed. */
export const postsNothing = sql<boolean>`(r.status = 'held' or (r.status = 'posted' and not exists (
  select 1
  from remittance_claim c
  where c.remittance_id = r.id and c.status in ('posted', 'unmatched', 'kept', 'returned'))
  and exists (select 1 from remittance_claim c where c.remittance_id = r.id and c.status = 'reversed'))
  -- One that names no claim has its provider adjustments alone.
  or (r.status = 'posted' and not exists (select 1 from remittance_claim c where c.remittance_id = r.id)
  and exists (select 1 from posting p where p.remittance_id = r.id)
  and not exists (
    select 1
    from posting p
      join entry e on e.id = p.entry_id
    where p.remittance_id = r.id
      and e.reverses is null
      and not exists (select 1 from entry w where w.reverses = e.id)
  )))`;

/** A remittance as it was read, with the payer that was found. */
export interface Matched {
  id: number;
  header: RemitHeader;
  payerKey: string;
  payerId: number | null;
}

/**
 * Another remittance of the same payer, number and amount that stands. Files tell payers apart by what they send of themselves; paper says
 * none of that, so that it is told by the payer in Setup.
 */
export async function samePayment(
  tx: Tx,
  {
    id,
    payerKey,
    payerId,
    header,
    paper = false,
  }: { paper?: boolean } & Pick<Matched, 'id' | 'payerKey' | 'payerId'> & {
      header: Pick<RemitHeader, 'trace' | 'payment'>;
    },
): Promise<{ id: number; keyed: boolean } | null> {
  const { rows } = await sql<{ id: number; keyed: boolean }>`
    select r.id, r.keyed_id is not null as keyed
    from remittance r
    where r.trace = ${header.trace}
      and r.amount = ${header.payment}
      and (
        r.payer_key = ${payerKey}
          or payer_now(r.payer_id) = ${payerId} and (${paper}::boolean or r.keyed_id is not null)
      )
      and r.id <> ${id}
      and not ${postsNothing}
    limit 1`.execute(tx);
  return rows[0] ?? null;
}

/** Reasons to hold it for what it says of itself, and for another one under the same number that stands. */
export async function doubtsOf(tx: Tx, today: CalendarDate, remit: Matched): Promise<string[]> {
  const { header } = remit;
  const faults = headerFaults(header, {
    payer: remit.payerId !== null,
    payee: await isPayee(tx, header.payee),
    today,
  });
  if (header.payment === 0) return faults;
  const here = await samePayment(tx, remit);
  return here === null
    ? faults
    : [
        ...faults,
        `Payment ${header.trace} of ${formatMoneyPlain(header.payment)} is here already${here.keyed ? ', keyed from paper,' : ''} and says other things: reverse that one first if this is right`,
      ];
}

/**
 * The bills of ours that claims of a remittance mean: by our number; else by the payer's number for the same patient. What was
 * asked beforehand moves no money.
 */
export async function findClaims(
  tx: Tx,
  payerId: number | null,
  claims: readonly RemitClaim[],
): Promise<(number | null)[]> {
  if (claims.length === 0) return [];
  const ours = await tx
    .selectFrom('claim')
    .select(['id', 'control_number'])
    .where('control_number', 'in', [...new Set(claims.map((claim) => claim.controlNumber))])
    .where('status', '<>', 'withdrawn')
    .where('purpose', '=', 'bill')
    .execute();
  const ids = new Map(ours.map((claim) => [claim.control_number, claim.id]));
  const handed = await handedOn(tx, payerId, [...ids.keys()]);
  /** Of one payer that has both places, its word on the next one says so. */
  const byHanded = ({ controlNumber, status }: RemitClaim): number | undefined =>
    handed.find(
      ({ number, position, same }) =>
        number === controlNumber && (!same || remitStatus(status)?.position === position),
    )?.id;
  const unknown = claims.filter((claim) => !ids.has(claim.controlNumber) && claim.payerClaimNumber);
  const theirs =
    unknown.length > 0 && payerId !== null
      ? await tx
          .selectFrom('claim as m')
          .innerJoin('patient as p', 'p.id', 'm.patient_id')
          .innerJoin('covered as o', 'o.id', 'm.coverage_id')
          .select(['m.id', 'm.payer_claim_number', 'p.last', 'p.first'])
          // By whatever number the payer knew the person.
          .select(
            sql<
              string[]
            >`array(select member_id from policy_number where policy_person_id = o.policy_person_id)`.as(
              'numbers',
            ),
          )
          .where(
            'm.payer_claim_number',
            'in',
            unknown.map((claim) => claim.payerClaimNumber),
          )
          .where('m.payer_id', '=', payerId)
          .where('m.status', '<>', 'withdrawn')
          .where('m.purpose', '=', 'bill')
          .orderBy('m.id', 'desc')
          .execute()
      : [];
  const plain = (text: string): string => text.trim().toLowerCase();
  const byTheirs = (claim: RemitClaim): number | null =>
    theirs.find(
      (row) =>
        row.payer_claim_number === claim.payerClaimNumber &&
        plain(row.last) === plain(claim.patient.last) &&
        (plain(row.first).startsWith(plain(claim.patient.first)) ||
          row.numbers.includes(claim.patient.memberId)),
    )?.id ?? null;
  return claims.map((claim) => byHanded(claim) ?? ids.get(claim.controlNumber) ?? byTheirs(claim));
}

/** Claims that the payer before handed on to this one: the answer bears the number of the claim that that one had. */
async function handedOn(
  tx: Tx,
  payerId: number | null,
  numbers: readonly string[],
): Promise<{ id: number; number: string; position: number; same: boolean }[]> {
  if (payerId === null || numbers.length === 0) return [];
  return tx
    .selectFrom('claim as m')
    .innerJoin('remittance_claim as w', 'w.id', 'm.forwarded_by')
    .innerJoin('claim as b', 'b.id', 'w.claim_id')
    .select([
      'm.id',
      'm.position',
      'b.control_number as number',
      sql<boolean>`b.payer_id = m.payer_id`.as('same'),
    ])
    .where('b.control_number', '=', sql<string>`any(${[...numbers]})`)
    .where('m.payer_id', '=', payerId)
    .where('m.status', '<>', 'withdrawn')
    .orderBy('m.id')
    .execute();
}

/** What is said of a claim that is none of ours. */
export const strangerWords = (claim: RemitClaim): string =>
  `No claim of ours has the number ${claim.controlNumber}`;

const BATCH = 250;

/** Weighs a held remittance again, its balance too, and looks for its claims anew. @returns reasons to hold it */
export async function matchAgain(tx: Tx, today: CalendarDate, remittanceId: number): Promise<string[]> {
  const row = await tx
    .selectFrom('remittance')
    .selectAll()
    .where('id', '=', remittanceId)
    .executeTakeFirstOrThrow();
  const header: RemitHeader = {
    handling: row.handling,
    payment: row.amount,
    creditDebit: row.credit_debit,
    method: row.method,
    date: row.payment_date,
    trace: row.trace,
    originator: row.originator,
    payer: { name: row.payer_name, id: row.payer_number },
    payee: { name: row.payee_name, npi: row.payee_npi, taxId: row.payee_tax_id },
  };
  const payerId = await findPayer(tx, header);
  await tx.updateTable('remittance').set({ payer_id: payerId }).where('id', '=', remittanceId).execute();
  const reasons = await doubtsOf(tx, today, { id: remittanceId, header, payerKey: row.payer_key, payerId });
  let paid: Cents = ZERO;
  for (let after = 0; ;) {
    const batch = await tx
      .selectFrom('remittance_claim')
      .select(['id', 'content'])
      .where('remittance_id', '=', remittanceId)
      .where('status', '=', 'ready')
      .where('id', '>', after)
      .orderBy('id')
      .limit(BATCH)
      .execute();
    if (batch.length === 0) break;
    after = batch.at(-1)!.id;
    const claims = batch.map(({ content }) => remitClaimDocument.read(content));
    const found = await findClaims(tx, payerId, claims);
    for (const claim of claims) {
      paid = add(paid, claim.paid);
      reasons.push(...claimFaults(claim).map((fault) => fault.words));
    }
    await sql`
      update remittance_claim c set claim_id = f.claim_id,
        hold_kind = case when f.claim_id is null then 'stranger' else '' end, hold_reason = f.words
      from unnest(
        ${batch.map(({ id }) => id)}::bigint[], ${found}::bigint[],
        ${claims.map((claim, index) => (found[index] === null ? strangerWords(claim) : ''))}::text[]
      ) as f (id, claim_id, words)
      where c.id = f.id`.execute(tx);
  }
  const adjustments =
    row.provider_adjustments === null ? [] : providerAdjustmentsDocument.read(row.provider_adjustments);
  const fault = paymentFault(header.trace, header.payment, paid, adjustments);
  if (fault) reasons.push(fault.words);
  return reasons.slice(0, REASONS_KEPT);
}
