/** Working follow-ups: a later date, an owner, what was said; closing one; settling what a payer does not pay. */
import { sql } from 'kysely';
import { BILL_PATIENT_WHY } from '../../core/accounts/bill-patient';
import type { BookAccount } from '../../core/books/accounts';
import { toPatientEntry, writeOffEntry } from '../../core/books/entries/payers';
import { formatDate } from '../../core/calendar';
import { type Cents, ZERO, formatMoneyPlain, sum } from '../../core/money';
import { closeInput, followUpInput, settleInput } from '../../core/remittances/input';
import type { Tx } from '../../db/connect';
import { Refused } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';
import { answerHolds } from '../books/holds';
import { notBillable } from '../books/not-billable';
import { byUser, moveClaims, settledStatus } from '../claims/life';
import { OURS } from '../remittances/raise';
import { settleParts } from '../settle';
import { type Act, useCase } from '../use-case';
import { refuseOlder } from '../versions';

/** Puts what was said and done on a follow-up's record. */
const note = (act: Act, followUpId: number, words: string) =>
  act.db
    .insertInto('follow_up_note')
    .values({ follow_up_id: followUpId, business_date: act.today, user_name: act.user.name, words })
    .execute();

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
    if (!there) throw new Refused('There is no such follow-up');
    if (there.closed_at) throw new Refused('This follow-up is closed');
    refuseOlder(version, there.version, there, { dueDate, owner }, LABELS);
    if (dueDate < act.today && dueDate !== there.dueDate)
      throw new Refused('The next look at it lies in the past', 'dueDate');
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
      throw new Refused('This follow-up is closed already, or closes itself when the balance is right');
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
    select y.name as payer, b.with_payer as amount from payer_balance b join charge c on c.id = b.charge_id join payer y on y.id = b.payer_id
    where b.charge_id = ${chargeId} and b.with_payer <> 0
      and not exists (select 1 from follow_up f where f.charge_id = b.charge_id and coalesce(f.coverage_id, b.coverage_id) = b.coverage_id and f.closed_at is null)
      and not exists (select 1 from claim_line l join claim m on m.id = l.claim_id where l.charge_id = b.charge_id and l.coverage_id = b.coverage_id and l.current and m.status not in ('decided', 'closed', 'withdrawn'))
      and not (c.coverage_id is not distinct from b.coverage_id and not exists (select 1 from claim_line l where l.charge_id = b.charge_id and l.coverage_id = b.coverage_id and l.current))`.execute(
    tx,
  );
  const [first] = rows;
  if (first)
    throw new Refused(
      `${formatMoneyPlain(first.amount)} still waits with ${first.payer}: give it a later date, pass it to the patient or write it off`,
    );
}

const REDUCTION: BookAccount = 'reduction/payer';

/** What of a charge waits with payers that have decided, or that were never asked. The household is locked. */
async function toSettle(tx: Tx, chargeId: number, coverageId?: number) {
  let query = tx
    .selectFrom('payer_balance as b')
    .leftJoin('claim_line as l', (join) =>
      join
        .onRef('l.charge_id', '=', 'b.charge_id')
        .onRef('l.coverage_id', '=', 'b.coverage_id')
        .on('l.current', '=', true),
    )
    .leftJoin('claim as m', 'm.id', 'l.claim_id')
    .select(['m.id', 'm.status', 'm.control_number', 'b.payer_id', 'b.coverage_id', 'b.with_payer'])
    .select(
      sql<boolean>`exists (select 1 from part_hold k where k.charge_id = b.charge_id and k.coverage_id = b.coverage_id and k.ended_on is null)`.as(
        'taken_back',
      ),
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
    asked
      ? `It is on claim ${asked.control_number}, which is ${asked.status}: the payer has not decided it`
      : 'Nothing waits with a payer on this charge',
  );
}

/**
 * Takes what payers do not pay of a charge off it, or passes it to the patient, for a reason: what stands on decided
 * claims or was never billed. Closes the charge's follow-ups with those payers. @returns cents
 */
export const settleWaiting = useCase({
  name: 'settle with payer',
  permission: 'reverse entries',
  input: settleInput,
  async run(act, { chargeId, coverageId, to, why }): Promise<Cents> {
    const tx = act.db;
    const charge = await tx.selectFrom('charge').selectAll().where('id', '=', chargeId).executeTakeFirst();
    if (!charge) throw new Refused('There is no such charge');
    await lockHouseholds(tx, [charge.household_id]);
    const waiting = await toSettle(tx, chargeId, coverageId);
    const amount = sum(waiting.map((item) => item.with_payer));
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
            caseId: charge.case_id,
            coverageId: item.coverage_id,
            payerId: item.payer_id,
            claimId: item.id,
            providerId: charge.provider_id,
            locationId: charge.location_id,
          },
        };
        return to === 'patient'
          ? toPatientEntry({ ...shared, held: held({ chargeId, coverageId: item.coverage_id }) })
          : writeOffEntry({ ...shared, account: REDUCTION });
      }),
    );
    const [forbidden] = to === 'patient' ? await notBillable(tx, { chargeIds: [chargeId] }) : [];
    if (forbidden)
      throw new Refused(
        `${formatMoneyPlain(forbidden.amount)} of it may not be billed to the patient (${BILL_PATIENT_WHY[forbidden.why]}): write it off`,
        'to',
      );
    await settleParts(tx, act, [chargeId]);
    const said = `${OURS[to]} ${formatMoneyPlain(amount)}: ${why}`;
    await closeSettled(
      act,
      chargeId,
      waiting.map((item) => item.coverage_id),
      said,
    );
    for (const { id, status } of waiting)
      if (id && status === 'decided' && (await settledStatus(tx, id)) === 'closed')
        await moveClaims(tx, act, [{ id, status }], 'closed', byUser(act), said);
    await act.note('settled', { kind: 'charge', id: chargeId }, { amount, to, why });
    return amount;
  },
});

/** Closes what is open about a charge with payers whose part of it is settled. */
async function closeSettled(
  act: Act,
  chargeId: number,
  coverageIds: readonly number[],
  words: string,
): Promise<void> {
  const closed = await act.db
    .updateTable('follow_up')
    .set({ closed_at: sql`desk_now()`, outcome: words, owner: act.user.name })
    .where('charge_id', '=', chargeId)
    .where('closed_at', 'is', null)
    .where('kind', 'not in', ['overpaid', 'suspended'])
    .where(({ eb, or }) => or([eb('coverage_id', 'is', null), eb('coverage_id', 'in', coverageIds)]))
    .returning('id')
    .execute();
  for (const { id } of closed) await note(act, id, words);
}
