/** Working follow-ups: a later date, an owner, what was said; closing one; settling what a payer does not pay. */
import { DECIDED } from '../../core/claims/life';
import { claimIn } from '../claim-states';
import { sql } from 'kysely';
import { NOT_BILLABLE_WHY } from '../../core/accounts/bill-patient';
import type { BookAccount } from '../../core/books/accounts';
import { toNextPayerEntry, toPatientEntry, writeOffEntry } from '../../core/books/entries/payers';
import type { Passing } from '../../core/books/passing';
import { type CalendarDate, addDays, formatDate } from '../../core/calendar';
import { type Cents, ZERO, formatMoneyPlain, sum } from '../../core/money';
import { closeInput, followUpInput, settleInput } from '../../core/remittances/input';
import type { Tx } from '../../db/connect';
import { Refused } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';
import { takeExpectedBack } from '../estimates/door';
import { answerHolds } from '../books/holds';
import { notBillable } from '../books/not-billable';
import { byUser, moveClaims, settledStatus } from '../claims/door';
import { noteBeside } from '../notes/notes';
import { FOLLOW_UP_DAYS, OURS } from '../remittances/door';
import { NEXT_SETTLED, settleParts } from '../settle';
import { type Act, useCase } from '../use-case';
import { refuseOlder } from '../versions';

/** Puts what was said and done on a follow-up's record. */
async function note(act: Act, followUpId: number, words: string): Promise<void> {
  const { household_id } = await act.db
    .selectFrom('follow_up')
    .select('household_id')
    .where('id', '=', followUpId)
    .executeTakeFirstOrThrow();
  await noteBeside(act, { follow_up_id: followUpId, household_id }, words);
}

const LABELS = { dueDate: 'Due', owner: 'Owner' } as const;

/** Goes on with a follow-up: another date, who works it, and what was said. */
export const changeFollowUp = useCase({
  name: 'change follow-up',
  permission: 'work follow-ups',
  input: followUpInput,
  async run(act, { followUpId, dueDate, owner, note: said, version }) {
    const there = await act.db
      .selectFrom('follow_up')
      .select(['due_date as dueDate', 'owner', 'version', 'closed_at'])
      .where('id', '=', followUpId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!there) throw new Refused('unknown', 'There is no such follow-up');
    if (there.closed_at) throw new Refused('date', 'This follow-up is closed');
    refuseOlder(version, there.version, there, { dueDate, owner }, LABELS);
    if (dueDate < act.today && dueDate !== there.dueDate)
      throw new Refused('date', 'The next look at it lies in the past', 'dueDate');
    const changes = [
      dueDate !== there.dueDate && `due ${formatDate(dueDate)}`,
      owner !== there.owner && (owner ? `${owner} works it` : 'nobody works it'),
    ].filter(Boolean);
    if (changes.length === 0 && !said) return;
    await act.db
      .updateTable('follow_up')
      .set({ due_date: dueDate, owner })
      .where('id', '=', followUpId)
      .execute();
    await note(act, followUpId, [said, ...changes].filter(Boolean).join(' · '));
    await act.note('changed', { kind: 'follow-up', id: followUpId }, { dueDate, owner });
  },
});

/**
 * Closes a follow-up with what came of it. Money that would then wait with a payer whom nobody asks any more keeps it open. One
 * that watches a word which was taken back ends the waiting: what was kept for it is given up, and what was paid becomes credit.
 * @throws Refused with the ways out
 */
export const closeFollowUp = useCase({
  name: 'close follow-up',
  permission: 'work follow-ups',
  input: closeInput,
  async run(act, { followUpId, outcome }) {
    const known = await act.db
      .selectFrom('follow_up')
      .select('household_id')
      .where('id', '=', followUpId)
      .executeTakeFirst();
    await lockHouseholds(act.db, known?.household_id ? [known.household_id] : []);
    const done = await act.db
      .updateTable('follow_up')
      .set({ closed_at: sql`desk_now()`, outcome, owner: act.user.name })
      .where('id', '=', followUpId)
      .where('closed_at', 'is', null)
      .where('kind', '<>', 'overpaid')
      .returning(['id', 'kind', 'charge_id', 'coverage_id'])
      .executeTakeFirst();
    if (!done)
      throw new Refused(
        'already',
        'This follow-up is closed already, or closes itself when the balance is right',
      );
    if (done.kind === 'suspended') {
      await answerHolds(act.db, [{ chargeId: done.charge_id!, coverageId: done.coverage_id! }]);
      await settleParts(act.db, act, [done.charge_id!]);
    }
    if (done.charge_id) await refuseForgotten(act.db, done.charge_id);
    await note(act, followUpId, outcome);
    await act.note('closed', { kind: 'follow-up', id: followUpId }, { outcome });
  },
});

/** @throws Refused when an amount of a charge would wait with a payer that nobody asks */
async function refuseForgotten(tx: Tx, chargeId: number): Promise<void> {
  const { rows } = await sql<{ payer: string; amount: Cents }>`
    select y.name as payer, b.with_payer as amount
    from payer_balance b
      join charge c on c.id = b.charge_id
      join payer y on y.id = b.payer_id
    where b.charge_id = ${chargeId} and b.with_payer <> 0
      and not exists (
        select 1
        from follow_up f
        where f.charge_id = b.charge_id
          and coalesce(f.coverage_id, b.coverage_id) = b.coverage_id
          and f.closed_at is null
      )
      and not exists (
        select 1
        from claim_line l
          join claim m on m.id = l.claim_id
        where l.charge_id = b.charge_id
          and l.coverage_id = b.coverage_id
          and l.bills
          and not ${claimIn(sql`m.status`, [...DECIDED, 'withdrawn'])}
      )
      and not (
        c.coverage_id is not distinct from b.coverage_id
          and not exists (
            select 1
            from claim_line l
            where l.charge_id = b.charge_id and l.coverage_id = b.coverage_id and l.bills
          )
      )`.execute(tx);
  const [first] = rows;
  if (first)
    throw new Refused(
      'state',
      `${formatMoneyPlain(first.amount)} still waits with ${first.payer}: give it a later date, pass it to the patient or write it off`,
      { facts: { amount: first.amount } },
    );
}

const REDUCTION: BookAccount = 'reduction/payer';
/** May be billed to another payer, and be collected from nobody else (OA-209; from memory). */
const NOBODYS = '209';

/** What of a charge waits with payers that have decided, or that were never asked. The household is locked. */
async function toSettle(tx: Tx, chargeId: number, coverageId?: number) {
  let query = tx
    .selectFrom('payer_balance as b')
    .leftJoin('claim_line as l', (join) =>
      join
        .onRef('l.charge_id', '=', 'b.charge_id')
        .onRef('l.coverage_id', '=', 'b.coverage_id')
        .on('l.bills', '=', true),
    )
    .leftJoin('claim as m', 'm.id', 'l.claim_id')
    .innerJoin('coverage as o', 'o.id', 'b.coverage_id')
    .select([
      'm.id',
      'm.status',
      'm.control_number',
      'b.payer_id',
      'b.coverage_id',
      'b.with_payer',
      'o.case_id',
    ])
    .select(
      sql<boolean>`
        exists (
          select 1
          from part_hold k
          where k.charge_id = b.charge_id and k.coverage_id = b.coverage_id and k.ended_on is null
        )`.as('taken_back'),
    )
    .where('b.charge_id', '=', chargeId)
    .where('b.with_payer', '>', ZERO);
  if (coverageId) query = query.where('b.coverage_id', '=', coverageId);
  const waiting = await query.orderBy('b.coverage_id').execute();
  // A payer that took its word back had decided, and may be silent for good.
  const settled = waiting.filter(
    (item) => item.status === null || item.status === 'decided' || item.taken_back,
  );
  if (settled.length > 0) return settled;
  const [asked] = waiting;
  throw new Refused(
    'state',
    asked
      ? `It is on claim ${asked.control_number}, which is ${asked.status}: the payer has not decided it`
      : 'Nothing waits with a payer on this charge',
  );
}

/**
 * What of a charge its payers, by their last word, took off under their own groups and left open, and what no patient
 * may be asked for; cents.
 */
async function refusedBy(
  tx: Tx,
  chargeId: number,
  coverageIds: readonly number[],
): Promise<{ payers: Cents; nobodys: Cents }> {
  // Out under its reason, and where it was reduced, there: what is left was said and moved nothing.
  const { rows } = await sql<{ payers: Cents; nobodys: Cents }>`
    select coalesce(-sum(p.amount) filter (where p.reason_group in ('CO', 'PI')), 0) as payers,
      coalesce(-sum(p.amount) filter (where p.reason_group = 'OA' and p.reason_code = ${NOBODYS}), 0) as nobodys
    from posting p
    where p.charge_id = ${chargeId}
      and p.entry_id in (select last_word(${chargeId}, c) from unnest(${[...coverageIds]}::bigint[]) c)
      and p.reason_group is not null`.execute(tx);
  return rows[0]!;
}

/** @throws Refused where the patient may not be asked for what the payers of a charge leave open */
async function refuseNotPatients(
  tx: Tx,
  chargeId: number,
  coverageIds: readonly number[],
  exception: Passing | null,
): Promise<void> {
  const { payers, nobodys } = await refusedBy(tx, chargeId, coverageIds);
  if (nobodys > 0)
    throw new Refused(
      'date',
      `${formatMoneyPlain(nobodys)} of it may be collected from nobody but another payer (OA-${NOBODYS}): put it before the next payer or write it off`,
      { field: 'to', facts: { nobodys } },
    );
  if (payers > 0 && !exception)
    throw new Refused(
      'invalid',
      `The payer took ${formatMoneyPlain(payers)} of it off under its own groups (CO, PI): it is the patient’s by a stated exception alone`,
      { field: 'exception', facts: { payers } },
    );
  if (payers <= 0 && exception)
    throw new Refused(
      'nothing',
      'The payer took nothing off under its own groups: no exception is needed',
      'exception',
    );
}

/** The coverage after one on the day of a service, with its payer. */
async function coverageAfter(
  tx: Tx,
  coverageId: number,
  serviceDate: CalendarDate,
): Promise<{ coverageId: number; payerId: number; payer: string } | undefined> {
  const { rows } = await sql<{ coverageId: number; payerId: number; payer: string }>`
    select x.id as "coverageId", x.payer_id as "payerId", y.name as payer
    from coverage o
      join coverage_plan x on x.id = coverage_on(o.case_id, o.position + 1, ${serviceDate})
      join payer y on y.id = x.payer_id
    where o.id = ${coverageId}`.execute(tx);
  return rows[0];
}

/**
 * Takes what payers do not pay of a charge off it, passes it to the patient or puts it before the next payer, for a reason: what
 * stands on decided claims or was never billed. Closes the charge's follow-ups with those payers. @returns cents
 */
export const settleWaiting = useCase({
  name: 'settle with payer',
  permission: 'reverse entries',
  input: settleInput,
  async run(act, { chargeId, coverageId, to, exception = null, why }): Promise<Cents> {
    const tx = act.db;
    const charge = await tx.selectFrom('charge').selectAll().where('id', '=', chargeId).executeTakeFirst();
    if (!charge) throw new Refused('unknown', 'There is no such charge');
    await lockHouseholds(tx, [charge.household_id]);
    // What comes off is no longer only expected.
    await takeExpectedBack(tx, act, [chargeId]);
    const waiting = await toSettle(tx, chargeId, coverageId);
    const amount = sum(waiting.map((item) => item.with_payer));
    const coverageIds = waiting.map((item) => item.coverage_id);
    if (exception && to !== 'patient')
      throw new Refused('invalid', 'An exception is for what becomes the patient’s', 'exception');
    if (to === 'patient') await refuseNotPatients(tx, chargeId, coverageIds, exception);
    const next = to === 'next' ? await nextOf(tx, charge.service_date, waiting) : null;
    // What was the patient's before comes back as it was; what is written off is the word that was waited for.
    const words = waiting.map((item) => ({ chargeId, coverageId: item.coverage_id }));
    const held = await answerHolds(tx, words);
    await writeEntries(
      tx,
      act,
      waiting.map((item) => {
        const shared = {
          businessDate: act.today,
          why,
          amount: item.with_payer,
          about: {
            chargeId,
            householdId: charge.household_id,
            patientId: charge.patient_id,
            caseId: item.case_id,
            coverageId: item.coverage_id,
            payerId: item.payer_id,
            claimId: item.id,
            providerId: charge.provider_id,
            locationId: charge.location_id,
          },
        };
        if (next) return toNextPayerEntry({ ...shared, next });
        return to === 'patient'
          ? toPatientEntry({
              ...shared,
              held: held({ chargeId, coverageId: item.coverage_id }),
              exception,
            })
          : writeOffEntry({ ...shared, account: REDUCTION });
      }),
    );
    const [forbidden] = to === 'patient' ? await notBillable(tx, { chargeIds: [chargeId] }) : [];
    if (forbidden)
      throw new Refused(
        'invalid',
        `${formatMoneyPlain(forbidden.amount)} of it may not be billed to the patient (${NOT_BILLABLE_WHY[forbidden.why]}): write it off`,
        { field: 'to', facts: { amount: forbidden.amount } },
      );
    await settleParts(tx, act, [chargeId]);
    const said = `${OURS[to]} ${formatMoneyPlain(amount)}: ${why}`;
    await closeSettled(act, chargeId, coverageIds, said);
    if (next) await raiseNext(act, { ...charge, claim_id: waiting[0]!.id }, next, amount);
    for (const { id, status } of waiting)
      if (id && status === 'decided' && (await settledStatus(tx, id)) === 'closed')
        await moveClaims(tx, act, [{ id, status }], 'closed', byUser(act), said);
    await act.note(
      'settled',
      { kind: 'charge', id: chargeId },
      { amount, to, why, ...(exception ? { exception } : {}) },
    );
    return amount;
  },
});

/** The payer that comes after the one that has decided. @throws Refused where there is none, or where none has decided */
async function nextOf(
  tx: Tx,
  serviceDate: CalendarDate,
  waiting: readonly { id: number | null; coverage_id: number }[],
) {
  const [only] = waiting;
  if (waiting.length !== 1 || !only || only.id === null)
    throw new Refused('limit', 'Only what one payer has decided goes on to the next: bill it first', 'to');
  const next = await coverageAfter(tx, only.coverage_id, serviceDate);
  if (!next) throw new Refused('invalid', 'No coverage comes after this one on the day of the service', 'to');
  return next;
}

/** What was put before the next payer is billed to it. */
const raiseNext = (
  act: Act,
  charge: { id: number; household_id: number; claim_id: number | null },
  next: { coverageId: number; payer: string },
  amount: Cents,
) =>
  sql`
    insert into follow_up (kind, household_id, claim_id, charge_id, coverage_id, words, amount, due_date, key)
    select 'next-payer', ${charge.household_id}, ${charge.claim_id}, ${charge.id}, ${next.coverageId},
      ${`${formatMoneyPlain(amount)} put before ${next.payer}: bill the next payer`}, ${amount},
      ${addDays(act.today, FOLLOW_UP_DAYS['next-payer'])}::date,
      ${NEXT_SETTLED} || (select max(entry_id) from posting where charge_id = ${charge.id})`.execute(act.db);

/** Closes what is open about a charge with payers whose part of it is settled. */
async function closeSettled(
  act: Act,
  chargeId: number,
  coverageIds: readonly number[],
  words: string,
): Promise<void> {
  const closed = await act.db
    .updateTable('follow_up')
    .set({ closed_at: sql`desk_now()`, closed_as: 'ours', outcome: words, owner: act.user.name })
    .where('charge_id', '=', chargeId)
    .where('closed_at', 'is', null)
    .where('kind', 'not in', ['overpaid', 'suspended'])
    .where(({ eb, or }) => or([eb('coverage_id', 'is', null), eb('coverage_id', 'in', coverageIds)]))
    .returning('id')
    .execute();
  for (const { id } of closed) await note(act, id, words);
}
