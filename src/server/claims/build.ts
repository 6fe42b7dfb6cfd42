/** Building claims from unbilled charges. */
import { type NotNull, sql } from 'kysely';
import type { z } from 'zod';
import { type BillableCharge, type ClaimGroup, groupCharges } from '../../core/claims/build';
import { FORM_LINES } from '../../core/claims/form';
import { buildInput } from '../../core/claims/input';
import { ZERO, sum } from '../../core/money';
import { counted } from '../../core/words';
import type { Db, Tx } from '../../db/connect';
import { lockHouseholds } from '../books/journal';
import { type Act, useCase } from '../use-case';
import { refreshClaims } from './check';
import { followForwarded } from './forwarded';
import { byUser, moveClaims } from './life';

/** New control numbers, each with a check letter so that a mistyped one is not another's. */
export async function controlNumbers(tx: Tx, count: number): Promise<string[]> {
  const { rows } = await sql<{ n: number }>`
    select nextval('control_number') as n from generate_series(1, ${count})`.execute(tx);
  return rows.map(({ n }) => `OL${n}${'ABCDEFGHJKLMNPQRSTUVWXYZ'[n % 24]}`);
}

/** Number of the lock on building claims. */
const BUILDING = 7_239_002;

/** Charges that wait with a payer and are on no current bill of it. */
const notBilled = (db: Db) =>
  db
    .selectFrom('payer_balance as b')
    .innerJoin('charge as c', 'c.id', 'b.charge_id')
    .where('b.with_payer', '>', ZERO)
    .where('c.status', '=', 'done')
    .where(({ not, exists, selectFrom }) =>
      not(
        exists(
          selectFrom('claim_line as l')
            .select('l.id')
            .whereRef('l.charge_id', '=', 'b.charge_id')
            .whereRef('l.coverage_id', '=', 'b.coverage_id')
            .where('l.bills', '=', true),
        ),
      ),
    );

/** Those that wait with their first payer: what building takes and the list of them shows. */
export const unbilledCharges = (db: Db) => notBilled(db).whereRef('c.coverage_id', '=', 'b.coverage_id');

/** Whether a charge was left out of a claim that corrected what its payer had. */
const wasLeftOut = sql<boolean>`exists (
  select
  from claim_line l
    join claim m on m.id = l.claim_id
  where l.charge_id = c.id and l.coverage_id = b.coverage_id and l.left_out and m.status <> 'withdrawn'
)`;

/** At most so many charges are taken at once; the next press takes the rest. */
const MOST = 2000;

/** Whether a charge waits with another payer than its first one, which has passed it on. */
const isLater = sql<boolean>`b.coverage_id is distinct from c.coverage_id`;
/** The current bill of the payer whose place is the nearest before. */
const before = sql<number | null>`
  (
    select l.claim_id
    from claim_line l
      join coverage e on e.id = l.coverage_id
    where l.charge_id = c.id and l.bills and e.position < o.position
    order by e.position desc
    limit 1
  )`;

/** Of whom claims are built. */
type Scope = Omit<z.output<typeof buildInput>, 'which'>;

/** What is to be billed, locked so that none is voided meanwhile. */
function billable(tx: Tx, scope: Scope, later: boolean) {
  let query = (later ? notBilled(tx).where(isLater) : unbilledCharges(tx))
    .innerJoin('payer as y', 'y.id', 'b.payer_id')
    .innerJoin('coverage as o', 'o.id', 'b.coverage_id')
    .innerJoin('care_case as k', 'k.id', 'c.case_id')
    .leftJoin('payer_provider as w', (join) =>
      join
        .onRef('w.payer_id', '=', 'b.payer_id')
        .on('w.provider_id', '=', sql<number>`coalesce(k.bill_provider_id, c.provider_id)`)
        .on(sql<boolean>`daterange(w.valid_from, w.valid_to, '[]') @> c.service_date::date`),
    )
    .select([
      'c.id',
      'c.form',
      'c.patient_id',
      'c.household_id',
      'c.case_id',
      'b.coverage_id',
      'b.payer_id',
      // Those before it that have nothing left are asked nothing.
      sql<number>`o.position - (
        select count(*)
        from coverage e
        where e.case_id = o.case_id
          and e.position < o.position
          and e.exhausted_from is not null
          and passed_over(e.id, c.service_date::date, array[c.id])
      )`.as('position'),
      sql<string>`coalesce(nullif(w.bills_as, ''), y.bills_as)`.as('bills_as'),
      sql<number>`coalesce(k.bill_provider_id, c.provider_id)`.as('bill_provider_id'),
      later ? before.as('after') : sql<number | null>`null::bigint`.as('after'),
      'c.location_id',
      'c.provider_id',
      'c.service_date',
      'c.diagnoses',
      'c.billed',
      sql<number | null>`case
        when y.accepts = 'paper' and y.paper_form = 'form' and c.form = 'professional' and not y.paper_continues
          then ${FORM_LINES}::integer
      end`.as('most'),
    ])
    .where('c.kind', '=', 'service');
  if (scope.householdId) query = query.where('c.household_id', '=', scope.householdId);
  if (scope.patientId) query = query.where('c.patient_id', '=', scope.patientId);
  if (scope.caseId) query = query.where('c.case_id', '=', scope.caseId);
  if (scope.chargeIds) query = query.where('c.id', '=', sql<number>`any(${scope.chargeIds}::bigint[])`);
  // What was left out of a correction waits for somebody to void it or to choose it.
  else query = query.where(wasLeftOut, '=', false);
  if (scope.evening) query = query.where('y.new_claims', '<>', 'asked');
  return query
    .orderBy('c.service_date')
    .orderBy('c.id')
    .limit(MOST)
    .forNoKeyUpdate('c')
    .$narrowType<{
      form: NotNull;
      patient_id: NotNull;
      case_id: NotNull;
      location_id: NotNull;
      provider_id: NotNull;
    }>()
    .execute();
}

/** How many charges are built from in the evening, of first payers and of next ones. */
export async function toBuildInTheEvening(db: Db): Promise<Record<'first' | 'next', number>> {
  const count = async (later: boolean): Promise<number> => {
    const { n } = await (later ? notBilled(db).where(isLater) : unbilledCharges(db))
      .innerJoin('payer as y', 'y.id', 'b.payer_id')
      .where('y.new_claims', '<>', 'asked')
      .where('c.kind', '=', 'service')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .executeTakeFirstOrThrow();
    return n;
  };
  return { first: await count(false), next: await count(true) };
}

/** The households of what is asked for; none where it is all. */
async function householdsOf(tx: Tx, { householdId, patientId, caseId, chargeIds }: Scope): Promise<number[]> {
  if (householdId) return [householdId];
  if (!patientId && !caseId && !chargeIds) return [];
  const { rows } = await sql<{ id: number }>`
    select distinct household_id as id
    from charge
    where id = any(${chargeIds ?? []}::bigint[])
    union
    select p.household_id
    from patient p
    where p.id = ${patientId ?? 0} or p.id = (select k.patient_id from care_case k where k.id = ${caseId ?? 0})
    order by 1`.execute(tx);
  return rows.map(({ id }) => id);
}

/**
 * Builds claims from done charges that wait with their first payer, or were passed on to a next one, and are on no current bill of it:
 * all of them, or those of a household, a person, a case, or chosen ones. What an earlier payer has handed on itself is followed
 * instead. Pressed again it finds nothing left. @returns the ids of the claims built
 */
export const buildClaims = useCase({
  name: 'build claims',
  permission: 'work claims',
  input: buildInput,
  async run(act, { which, ...scope }) {
    const tx = act.db;
    const households = await householdsOf(tx, scope);
    const all = !scope.householdId && !scope.patientId && !scope.caseId && !scope.chargeIds;
    // Several may build for a household each; who builds for all waits for them, and they for him.
    if (all) await sql`select pg_advisory_xact_lock(${BUILDING})`.execute(tx);
    else {
      await sql`select pg_advisory_xact_lock_shared(${BUILDING})`.execute(tx);
      await lockHouseholds(tx, households);
    }
    const built: number[] = [];
    for (const later of [false, true])
      if (which === 'all' || (which === 'next') === later)
        built.push(...(await buildFrom(act, await billable(tx, scope, later))));
    if (built.length > 0)
      await act.note('built claims', { kind: 'claims', id: built.length }, { claims: built });
    return built;
  },
});

/** Builds from what was read to be billed. @returns ids of the claims */
async function buildFrom(act: Act, rows: readonly Billable[]): Promise<number[]> {
  const byId = new Map(rows.map((row) => [row.id, row]));
  const groups = groupCharges(
    rows.map<BillableCharge>((row) => ({
      id: row.id,
      form: row.form,
      patientId: row.patient_id,
      caseId: row.case_id,
      coverageId: row.coverage_id,
      after: row.after,
      billing: row.bills_as === 'individual' ? `provider ${row.bill_provider_id}` : 'group',
      locationId: row.location_id,
      renderingId: row.provider_id,
      date: row.service_date,
      diagnoses: row.diagnoses,
      most: row.most,
    })),
  );
  return groups.length === 0 ? [] : insertClaims(act, groups, byId);
}

type Billable = Awaited<ReturnType<typeof billable>>[number];

/** Inserts claims with their lines and checks them, in a few statements for all. @returns their ids */
async function insertClaims(
  act: Act,
  groups: readonly ClaimGroup[],
  charges: ReadonlyMap<number, Billable>,
): Promise<number[]> {
  const tx = act.db;
  const numbers = await controlNumbers(tx, groups.length);
  const claims = await tx
    .insertInto('claim')
    .values(
      groups.map((group, index) => {
        const first = charges.get(group.charges[0]!.id)!;
        return {
          control_number: numbers[index]!,
          household_id: first.household_id,
          patient_id: first.patient_id,
          case_id: first.case_id,
          coverage_id: first.coverage_id,
          position: first.position,
          payer_id: first.payer_id,
          location_id: first.location_id,
          provider_id: first.provider_id,
          form: group.form,
          total: sum(group.charges.map((charge) => charges.get(charge.id)!.billed)),
          service_date: first.service_date,
        };
      }),
    )
    .returning('id')
    .execute();
  await tx
    .insertInto('claim_line')
    .values(
      groups.flatMap((group, index) =>
        group.charges.map((charge, at) => ({
          claim_id: claims[index]!.id,
          number: at + 1,
          charge_id: charge.id,
          coverage_id: charge.coverageId,
        })),
      ),
    )
    .execute();
  const cause = byUser(act);
  await tx
    .insertInto('claim_event')
    .values(
      groups.map((group, index) => ({
        claim_id: claims[index]!.id,
        business_date: act.today,
        status: 'draft' as const,
        cause_kind: cause.kind,
        cause: cause.name,
        words: `Built from ${counted(group.charges.length, 'charge')}`,
      })),
    )
    .execute();
  const ids = claims.map(({ id }) => id);
  await refreshClaims(tx, act, ids);
  await holdNew(act, ids);
  await followForwarded(
    tx,
    act,
    groups.map(({ charges: [first] }, index) => ({
      id: ids[index]!,
      payerId: charges.get(first!.id)!.payer_id,
      after: first!.after,
    })),
  );
  await closeBilled(act, ids);
  return ids;
}

/** Ends the follow-ups that bill a next payer: it is billed. */
async function closeBilled(act: Act, claimIds: readonly number[]): Promise<void> {
  await sql`
    with billed as (
      update follow_up f set closed_at = desk_now(), closed_as = 'answered', answered_by = m.id, owner = ${act.user.name},
        outcome = case when m.forwarded_by is null then 'Billed with claim ' else 'Handed on by the payer before, followed with claim ' end
          || m.control_number
      from claim m join claim_line l on l.claim_id = m.id
      where m.id = any(${[...claimIds]}::bigint[])
        and m.position > 1
        and f.charge_id = l.charge_id
        and f.coverage_id = l.coverage_id
        and f.kind = 'next-payer'
        and f.closed_at is null
      returning f.id, f.household_id, f.outcome)
    insert into note (household_id, about, follow_up_id, business_date, user_name, words)
    select household_id, 'follow-up', id, ${act.today}::date, ${act.user.name}, outcome
    from billed`.execute(act.db);
}

/** Holds new claims to payers whose new claims wait for somebody. */
async function holdNew(act: Act, ids: readonly number[]): Promise<void> {
  const waiting = await act.db
    .selectFrom('claim as m')
    .innerJoin('payer as y', 'y.id', 'm.payer_id')
    .select(['m.id', 'm.status'])
    .where('m.id', '=', sql<number>`any(${[...ids]}::bigint[])`)
    .where('m.status', 'in', ['draft', 'ready'])
    .where('y.new_claims', '=', 'held')
    .orderBy('m.id')
    .execute();
  const why = 'New claims to this payer are held until somebody releases them';
  await moveClaims(act.db, act, waiting, 'held', { kind: 'rule', name: 'payer' }, why, { holdReason: why });
}
