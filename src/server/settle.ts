/**
 * What reacts when a payer's word, a person's decision or a reversal has moved what is owed of charges: all of it, in its order,
 * in the transaction that moved it. Each step looks at what stands and puts right what is not; done twice, the second finds
 * nothing to do.
 */
import { sql } from 'kysely';
import { placementEndedEntry, placedEntry } from '../core/books/entries/agencies';
import { overpaidEntry, patientWriteOffEntry } from '../core/books/entries/patients';
import { toNextPayerEntry, toPatientEntry, writeOffEntry } from '../core/books/entries/payers';
import { planAcceptedEntry, planEndedEntry } from '../core/books/entries/plans';
import type { BookAccount } from '../core/books/accounts';
import type { Dimensions } from '../core/books/dimensions';
import { addDays } from '../core/calendar';
import { type Cents, ZERO, formatMoneyPlain, least, minus, negate } from '../core/money';
import type { Tx } from '../db/connect';
import type { Context } from './access';
import { keepingPlaces } from './books/holds';
import { watchBelowZero, writeEntries } from './books/journal';
import { takeOffNotBillable } from './books/not-billable';
import { freeLeftOut, tellNextPayers } from './claims/door';
import { expectWriteOffs } from './estimates/door';
import { creditAgencyPaid } from './overdue/agency-money';
import { endEmptyPlacements, notePaymentsReversed, notePlacement, tellAgency } from './overdue/placements';
import { endEmptyPlans } from './plans/books';

/** What moved the charges: a remittance, or one claim of it, whose reversal takes what follows back too. */
export interface Mover {
  remittanceId?: number;
  remittanceClaimId?: number;
}

/** Whether payers have said something of the charges, or only taken it back, so that their new word is waited for. */
export type Word = 'said' | 'taken back';

type About = Dimensions & { chargeId: number; householdId: number };
type Step = (tx: Tx, context: Context, chargeIds: readonly number[], by: Mover, word: Word) => Promise<void>;

/** What entries of a charge are about, as a part of a query on `charge as c`. */
const ABOUT = sql`
  c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId",
  c.provider_id as "providerId", c.location_id as "locationId"`;
/** No new word is waited for on a charge. @param charge its id there */
const FREE = sql`
  not exists (select 1 from part_hold k where k.charge_id = c.id and k.ended_on is null and not k.answered)`;

/**
 * What we settled ourselves with a payer's part is undone by so much as the payer stands below zero by its own word, or by an earlier
 * one's. Where that one has only taken its word back, what of it was the patient's waits for the new one.
 */
const undoOurs: Step = async (tx, context, chargeIds, by, word) => {
  const { rows } = await sql<
    About & {
      coverageId: number;
      payerId: number;
      kind: 'write-off' | 'to-patient' | 'to-next-payer';
      account: BookAccount;
      claimId: number | null;
      next: { coverageId: number; payerId: number } | null;
      ours: Cents;
      below: Cents;
    }
  >`
    select ${ABOUT}, b.coverage_id as "coverageId", b.payer_id as "payerId", o.kind, o.account,
      o.claim_id as "claimId", o.next, o.amount as ours, -b.with_payer as below
    from payer_balance b join charge c on c.id = b.charge_id
      cross join lateral (
        select coalesce(x.kind, e.kind) as kind, p.account, sum(p.amount) as amount, null::bigint as claim_id,
          null::json as next
        from posting p
          join entry e on e.id = p.entry_id
          left join entry x on x.id = e.reverses
        where p.charge_id = b.charge_id
          and p.coverage_id = b.coverage_id
          and coalesce(x.kind, e.kind) in ('write-off', 'to-patient')
          and p.account <> 'receivable/payer'
        group by 1, 2
        having sum(p.amount) > 0
        union all
        select 'to-next-payer', 'receivable/payer', sum(n.amount), p.claim_id,
          json_build_object('coverageId', n.coverage_id, 'payerId', payer_now(n.payer_id))
        from posting p
          join posting n on n.entry_id = p.entry_id and n.charge_id = p.charge_id and n.claim_id is null
          join entry e on e.id = p.entry_id
          left join entry x on x.id = e.reverses
        where p.charge_id = b.charge_id
          and p.coverage_id = b.coverage_id
          and p.claim_id is not null
          and coalesce(x.kind, e.kind) = 'to-next-payer'
        group by p.claim_id, n.coverage_id, payer_now(n.payer_id)
        having sum(n.amount) > 0) o
    where b.charge_id = any(${[...chargeIds]}::bigint[]) and b.with_payer < 0
    order by c.id, b.coverage_id, o.kind desc, o.account`.execute(tx);
  const left = new Map<string, Cents>();
  for (const { kind, account, ours, below, next, ...of } of rows) {
    const key = `${of.chargeId}/${of.coverageId}`;
    const rest = left.get(key) ?? below;
    const amount = least(rest, ours);
    left.set(key, minus(rest, amount));
    if (amount <= 0) continue;
    const shared = {
      businessDate: context.today,
      why: 'the payer pays it after all',
      amount: negate(amount),
      about: { ...of, ...by },
    };
    if (kind === 'write-off') await writeEntries(tx, context, [writeOffEntry({ ...shared, account })]);
    else if (next) await writeEntries(tx, context, [toNextPayerEntry({ ...shared, next })]);
    else {
      const write = () => writeEntries(tx, context, [toPatientEntry(shared)]);
      const cause = { remittanceClaimId: by.remittanceClaimId ?? null };
      await (word === 'said' ? write() : keepingPlaces(tx, context, [of], cause, write));
    }
  }
};

/** What may not be billed to patients comes off, or back. Most charges need neither, which one plain query says. */
const notBillable: Step = async (tx, context, chargeIds, by) => {
  const { rows } = await sql<{ id: number }>`
    select b.charge_id as id
    from charge_balance b
      join charge c on c.id = b.charge_id
    where b.charge_id = any(${[...chargeIds]}::bigint[])
      and (
        b.with_patient < 0
          or b.with_patient > 0
            and exists (select 1 from coverage v where v.case_id = c.case_id and v.bill_patient <> 'yes')
        or exists (select 1 from posting r where r.charge_id = c.id and r.remark_code is not null))`.execute(
    tx,
  );
  await takeOffNotBillable(
    tx,
    context,
    rows.map(({ id }) => id),
    by,
  );
};

/**
 * Once the new word is there, plans and agencies have again what they had, as far as it is the patient's: agencies
 * first, for less comes off plans first.
 */
const giveBackPlaces: Step = async (tx, context, chargeIds, by) => {
  const { rows } = await sql<
    About & { place: number; planId: number | null; placementId: number | null; kept: Cents; open: boolean }
  >`
    select ${ABOUT}, k.id as place, k.plan_id as "planId", k.placement_id as "placementId", k.amount as kept,
      coalesce(l.status = 'accepted', g.status in ('placed', 'accepted')) as open
    from part_hold h
      join part_hold_place k on k.hold_id = h.id and k.amount > 0
      join charge c on c.id = h.charge_id
      left join payment_plan l on l.id = k.plan_id
      left join placement g on g.id = k.placement_id
    where h.charge_id = any(${[...chargeIds]}::bigint[]) and h.ended_on is null and h.answered
    order by c.id, k.placement_id nulls last, k.id`.execute(tx);
  for (const { place, planId, placementId, kept, open, ...about } of rows) {
    const { with_patient: there } = await tx
      .selectFrom('charge_balance')
      .select('with_patient')
      .where('charge_id', '=', about.chargeId)
      .executeTakeFirstOrThrow();
    const amount = open ? least(kept, there) : ZERO;
    await tx.updateTable('part_hold_place').set({ amount: ZERO }).where('id', '=', place).execute();
    if (amount <= 0) continue;
    const shared = {
      businessDate: context.today,
      parts: [{ about: { ...about, ...by }, amount }],
    };
    await writeEntries(tx, context, [
      planId !== null
        ? planAcceptedEntry({
            ...shared,
            memo: `${formatMoneyPlain(amount)} is on the payment plan again, as the insurer has decided`,
            planId,
            from: null,
          })
        : placedEntry({
            ...shared,
            memo: 'it is with the collection agency again, as the insurer has decided',
            placementId: placementId!,
          }),
    ]);
    if (placementId === null) continue;
    await notePlacement(tx, context, placementId, 'goes on', { amount, words: 'the insurer has decided' });
    await tellAgency(tx, context, placementId, 'resume', amount, 'the insurer has decided');
  }
};

interface Lowered extends About {
  planId: number | null;
  placementId: number | null;
  open: Cents;
  below: Cents;
  hold: number | null;
}

/** What plans or agencies have of charges that stand below zero with the patient, in cents. */
const lowering = async (
  tx: Tx,
  chargeIds: readonly number[],
  place: 'plan' | 'agency',
): Promise<Lowered[]> => {
  const { rows } = await sql<Lowered>`
    select ${ABOUT}, p.plan_id as "planId", p.placement_id as "placementId", sum(p.amount) as open,
      -b.with_patient as below,
      (select min(k.id) from part_hold k where k.charge_id = c.id and k.ended_on is null and not k.answered) as hold
    from charge_balance b
      join charge c on c.id = b.charge_id
      join posting p on p.charge_id = c.id and p.account = ${`receivable/${place}`}
    where b.charge_id = any(${[...chargeIds]}::bigint[]) and b.with_patient < 0
    group by c.id, b.with_patient, p.plan_id, p.placement_id
    having sum(p.amount) > 0
    order by c.id, p.plan_id desc, p.placement_id desc`.execute(tx);
  return rows;
};

/** What plans have is lowered to what is the patient's; while a new word is waited for, the place is kept. */
const lowerPlans: Step = async (tx, context, chargeIds, by) => {
  const left = new Map<number, Cents>();
  for (const { planId, placementId: _, open, below, hold, ...about } of await lowering(
    tx,
    chargeIds,
    'plan',
  )) {
    const rest = left.get(about.chargeId) ?? below;
    const amount = least(rest, open);
    left.set(about.chargeId, minus(rest, amount));
    if (amount <= 0) continue;
    await writeEntries(tx, context, [
      planEndedEntry({
        businessDate: context.today,
        memo:
          hold === null
            ? 'less of it is yours after the insurer’s correction, and the plan has so much less'
            : 'the insurer has taken its decision back: the plan waits with it until the new one',
        planId: planId!,
        parts: [{ about: { ...about, ...by }, amount }],
      }),
    ]);
    if (hold !== null)
      await tx.insertInto('part_hold_place').values({ hold_id: hold, plan_id: planId, amount }).execute();
  }
};

/** The same of what agencies have, who are told. */
const lowerPlacements: Step = async (tx, context, chargeIds, by) => {
  const left = new Map<number, Cents>();
  for (const { placementId, planId: _, open, below, hold, ...about } of await lowering(
    tx,
    chargeIds,
    'agency',
  )) {
    const rest = left.get(about.chargeId) ?? below;
    const amount = least(rest, open);
    left.set(about.chargeId, minus(rest, amount));
    if (amount <= 0) continue;
    await writeEntries(tx, context, [
      placementEndedEntry({
        businessDate: context.today,
        memo:
          hold === null
            ? 'less of it is yours after the insurer’s correction'
            : 'the insurer has taken its decision back: the agency waits until the new one',
        placementId: placementId!,
        parts: [{ about: { ...about, ...by }, amount }],
      }),
    ]);
    const words = hold === null ? 'corrected by the insurer' : 'taken back by the insurer, who decides anew';
    await notePlacement(tx, context, placementId!, hold === null ? 'lowered' : 'held', { amount, words });
    await tellAgency(tx, context, placementId!, hold === null ? 'correction' : 'hold', amount, words);
    if (hold !== null)
      await tx
        .insertInto('part_hold_place')
        .values({ hold_id: hold, placement_id: placementId, amount })
        .execute();
  }
};

/** What we had given up of what a patient owed is taken back, so far as it never was the patient's; bad debt first. */
const takeBackGivenUp: Step = async (tx, context, chargeIds, by) => {
  const { rows } = await sql<
    About & { kind: 'write-off' | 'bad-debt'; account: BookAccount; given: Cents; below: Cents }
  >`
    select ${ABOUT}, o.kind, o.account, o.amount as given, -b.with_patient as below
    from charge_balance b
      join charge c on c.id = b.charge_id
      cross join lateral (
        select 'bad-debt' as kind, 'reduction/bad-debt' as account, sum(p.amount) as amount
        from posting p
        where p.charge_id = c.id and p.account in ('reduction/bad-debt', 'reduction/bad-debt-recovered')
        having sum(p.amount) > 0
        union all
        select 'write-off', p.account, sum(p.amount)
        from posting p
          join entry e on e.id = p.entry_id
          left join entry x on x.id = e.reverses
          where p.charge_id = c.id
            and p.coverage_id is null
            and p.account like 'reduction/%'
            and coalesce(x.kind, e.kind) = 'write-off'
          group by p.account
          having sum(p.amount) > 0) o
    where b.charge_id = any(${[...chargeIds]}::bigint[]) and b.with_patient < 0 and ${FREE}
    order by c.id, o.kind, o.account`.execute(tx);
  const left = new Map<number, Cents>();
  for (const { kind, account, given, below, ...about } of rows) {
    const rest = left.get(about.chargeId) ?? below;
    const amount = least(rest, given);
    left.set(about.chargeId, minus(rest, amount));
    if (amount > 0)
      await writeEntries(tx, context, [
        patientWriteOffEntry({
          kind,
          businessDate: context.today,
          why: 'the insurer’s decision leaves less to the patient',
          account,
          parts: [{ about: { ...about, ...by }, amount: negate(amount) }],
        }),
      ]);
  }
};

/** What was paid and is not the patient's becomes credit of who paid it: what agencies collected last, the newest receipts first. */
const creditPaid: Step = async (tx, context, chargeIds) => {
  const { rows } = await sql<About & { receiptId: number; paid: Cents; below: Cents }>`
    select ${ABOUT}, p.receipt_id as "receiptId", sum(p.amount) as paid, -b.with_patient as below
    from charge_balance b
      join charge c on c.id = b.charge_id
      join posting p on p.charge_id = c.id and p.account = 'credit/patient' and p.receipt_id is not null
    where b.charge_id = any(${[...chargeIds]}::bigint[]) and b.with_patient < 0 and ${FREE}
    group by c.id, b.with_patient, p.receipt_id
    having sum(p.amount) > 0
    order by c.id, p.receipt_id desc`.execute(tx);
  const left = new Map<number, Cents>();
  for (const { receiptId, paid, below, ...about } of rows) {
    const rest = left.get(about.chargeId) ?? below;
    const amount = least(rest, paid);
    left.set(about.chargeId, minus(rest, amount));
    if (amount > 0)
      await writeEntries(tx, context, [
        overpaidEntry({
          businessDate: context.today,
          memo: 'Less is the patient’s after the payer’s correction',
          about: { ...about, receiptId },
          amount,
        }),
      ]);
  }
  await creditAgencyPaid(tx, context, chargeIds);
};

/** What the key of a follow-up begins with that bills the next payer because we put it there. */
export const NEXT_SETTLED = 'next-payer:settled:';

/** So many days a payer is given to decide anew. */
const SUSPENDED_DAYS = 30;

/** What waits for a new word is watched with a date; what is answered is over. */
const watchHolds: Step = async (tx, context, chargeIds) => {
  await sql`
    insert into follow_up (
      kind, household_id, charge_id, coverage_id, remittance_claim_id, claim_id, words, amount, due_date, key
    )
    select 'suspended', h.household_id, h.charge_id, h.coverage_id, h.remittance_claim_id,
      (select r.claim_id from remittance_claim r where r.id = h.remittance_claim_id),
      'The payer took its decision back: what was the patient’s waits for the new one', h.amount,
      ${addDays(context.today, SUSPENDED_DAYS)}::date, 'suspended:' || h.id
    from part_hold h
    where h.charge_id = any(${[...chargeIds]}::bigint[]) and h.ended_on is null and not h.answered
    on conflict (key) do nothing`.execute(tx);
  await sql`
    with ended as (
      update part_hold h set ended_on = ${context.today}::date, ended_why = 'answered'
      where h.charge_id = any(${[...chargeIds]}::bigint[]) and h.ended_on is null and h.answered
      returning h.id
    )
    update follow_up f set closed_at = desk_now(), outcome = 'The new decision is there'
    from ended
    where f.key = 'suspended:' || ended.id and f.closed_at is null`.execute(tx);
  // What was put before the next payer and came back from there is billed to it no more.
  await sql`
    update follow_up f set closed_at = desk_now(), outcome = 'It came back from the next payer' from payer_balance b
    where f.charge_id = any(${[...chargeIds]}::bigint[])
      and f.kind = 'next-payer'
      and starts_with(f.key, ${NEXT_SETTLED})
      and f.closed_at is null
      and b.charge_id = f.charge_id
      and b.coverage_id = f.coverage_id
      and b.with_payer = 0`.execute(tx);
  await watchBelowZero(tx, context, chargeIds);
};

/** Plans and placements that have nothing any more are over, unless a place is kept; what came back to an ended one is the patient's. */
const endEmpty: Step = async (tx, context, chargeIds) => {
  await endEmptyPlans(tx, context, chargeIds);
  await endEmptyPlacements(tx, context, chargeIds);
};

/** What is expected to come off goes by what stands of decisions now. */
const expected: Step = (tx, context, chargeIds) => expectWriteOffs(tx, context, chargeIds);

/** What claims to next payers tell goes by what stands of the earlier ones' decisions. */
const nextPayers: Step = (tx, context, chargeIds) => tellNextPayers(tx, context, chargeIds);

/** What was left out of corrections is free once the payer has taken back what it had decided of it. */
const leftOut: Step = (tx, context, chargeIds) => freeLeftOut(tx, context, { chargeIds });

/** The steps, in their order. */
const STEPS: readonly Step[] = [
  expected,
  undoOurs,
  notBillable,
  giveBackPlaces,
  lowerPlans,
  lowerPlacements,
  takeBackGivenUp,
  creditPaid,
  watchHolds,
  endEmpty,
  nextPayers,
  leftOut,
];

/** Puts right what follows for charges whose amounts were moved. Their households are locked. */
export async function settleParts(
  tx: Tx,
  context: Context,
  chargeIds: readonly number[],
  by: Mover = {},
  word: Word = 'said',
): Promise<void> {
  const ids = [...new Set(chargeIds)].sort((a, b) => a - b);
  if (ids.length === 0) return;
  // Most decisions leave nothing to put right, which one plain query says.
  const { rows } = await sql<{ id: number }>`
    select b.charge_id as id
    from charge_balance b
      join charge c on c.id = b.charge_id
    where b.charge_id = any(${ids}::bigint[]) and (least(b.with_payer, b.with_patient, b.on_plan, b.at_agency) < 0
      or exists (select 1 from payer_balance y where y.charge_id = b.charge_id and y.with_payer < 0)
        or exists (select 1 from part_hold h where h.charge_id = b.charge_id and h.ended_on is null)
      or exists (
        select 1
        from follow_up f
        where f.charge_id = b.charge_id and f.kind in ('overpaid', 'next-payer') and f.closed_at is null
      )
      or c.expects
      or exists (
        select 1
        from claim_line l
          join claim m on m.id = l.claim_id and m.position > 1
        where l.charge_id = b.charge_id and l.bills
      )
      or exists (select 1 from claim_line l where l.charge_id = b.charge_id and l.left_out and l.current)
      or b.with_patient > 0
        and exists (select 1 from coverage v where v.case_id = c.case_id and v.bill_patient <> 'yes')
      or exists (
        select 1
        from posting p
        where p.charge_id = b.charge_id
          and (p.plan_id is not null or p.placement_id is not null or p.remark_code is not null)
      ))`.execute(tx);
  const moved = rows.map(({ id }) => id);
  if (moved.length === 0) return;
  for (const step of STEPS) await step(tx, context, moved, by, word);
}

/** The charges that entries are about. */
async function chargesOfEntries(tx: Tx, entryIds: readonly number[]): Promise<number[]> {
  const rows = await tx
    .selectFrom('posting')
    .select('charge_id')
    .distinct()
    .where('entry_id', '=', sql<number>`any(${[...entryIds]}::bigint[])`)
    .execute();
  return rows.flatMap(({ charge_id }) => charge_id ?? []);
}

/** What follows when entries were reversed: payments of agencies are noted as taken back, and the charges are put right. */
export async function afterReversal(
  tx: Tx,
  context: Context,
  entryIds: readonly number[],
  why: string,
): Promise<void> {
  if (entryIds.length === 0) return;
  await notePaymentsReversed(tx, context, entryIds, why);
  await settleParts(tx, context, await chargesOfEntries(tx, entryIds), {}, 'taken back');
}
