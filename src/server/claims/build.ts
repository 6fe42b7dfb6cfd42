/** Building claims from unbilled charges. */
import { type NotNull, sql } from 'kysely';
import { type BillableCharge, type ClaimGroup, groupCharges } from '../../core/claims/build';
import { buildInput } from '../../core/claims/input';
import { ZERO, sum } from '../../core/money';
import { counted } from '../../core/words';
import type { Db, Tx } from '../../db/connect';
import { lockHouseholds } from '../books/journal';
import { type Act, useCase } from '../use-case';
import { refreshClaims } from './check';
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

/** What is to be billed, locked so that none is voided meanwhile. */
function billable(tx: Tx, { householdId, later }: { householdId?: number | undefined; later: boolean }) {
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
    ])
    .where('c.kind', '=', 'service');
  if (householdId) query = query.where('c.household_id', '=', householdId);
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

/**
 * Builds claims from all done charges that wait with their first payer and are on no current bill of it, of one household or of
 * all; or of one household from what was passed on to next payers.
 * Pressed again it finds nothing left. @returns the ids of the claims built
 */
export const buildClaims = useCase({
  name: 'build claims',
  permission: 'work claims',
  input: buildInput,
  async run(act, { householdId, later }) {
    const tx = act.db;
    // Several may build for a household each; who builds for all waits for them, and they for him.
    if (householdId) {
      await sql`select pg_advisory_xact_lock_shared(${BUILDING})`.execute(tx);
      await lockHouseholds(tx, [householdId]);
    } else await sql`select pg_advisory_xact_lock(${BUILDING})`.execute(tx);
    const rows = await billable(tx, { householdId, later });
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
      })),
    );
    const built = groups.length === 0 ? [] : await insertClaims(act, groups, byId);
    if (built.length > 0)
      await act.note('built claims', { kind: 'claims', id: built.length }, { claims: built });
    return built;
  },
});

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
  return ids;
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
