/** Reading the ledger of a household, and the balance story that it tells. */
import { sql } from 'kysely';
import type { ClaimStatus } from '../../core/claims/life';
import { atContract } from '../../core/books/expected';
import { type ChargeTotals, chargedIn } from '../../core/books/strip';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, sum } from '../../core/money';
import { type ChargeStory, type StoryCharge, tellBalance, tellCharge } from '../../core/statements/story';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { allowOpen, opened } from '../closed';
import { TOTALS_OF_B, householdFigures } from '../books/balances';
import { type LedgerEntry, readEntries } from '../books/entries';
import { readOwed } from '../books/owed';

/** One payer of a charge: what it holds, in cents, and the current claim to it. */
export interface LedgerPayer {
  coverageId: number;
  payer: string;
  withPayer: Cents;
  claimId: number | null;
  claimNumber: string | null;
  claimStatus: ClaimStatus | null;
  /** That claim corrects one that the payer has. */
  corrects: boolean;
  /** It was left out of a claim that corrected one: somebody voids it or bills it. */
  leftOut: boolean;
}

/** One row of the ledger: a charge, with its totals in cents and its payers in the order of the coverages. */
export interface LedgerCharge extends ChargeTotals {
  id: number;
  kind: StoryCharge['kind'];
  date: CalendarDate;
  patientId: number | null;
  caseId: number | null;
  /** The name of its case; empty where it is the standing one. */
  caseName: string;
  /** What the contracted fee, at which it stands, is less than the office fee; zero where it stands at that. */
  contractOff: Cents;
  locationId: number | null;
  patient: string;
  code: string;
  description: string;
  provider: string;
  providerId: number | null;
  units: number;
  tooth: string;
  surfaces: string;
  area: string;
  prosthesis: '' | 'I' | 'R';
  priorPlacement: CalendarDate | null;
  /** Of which form its claim is; null where it is no service. */
  form: 'professional' | 'dental' | null;
  diagnoses: string[];
  modifiers: string[];
  status: 'planned' | 'done' | 'void';
  /** The fee of a planned service, in cents; it is in no books yet. */
  plannedFee: Cents;
  /** The patient pays it, and no insurer learns of it. */
  keptFromPayers: boolean;
  /** What stands with the patient and may not be billed, in cents. */
  forbidden: Cents;
  version: number;
  payers: LedgerPayer[];
}

/** A charge of the ledger with its entries, as the story tells it. */
export interface ToldCharge extends LedgerCharge {
  entries: LedgerEntry[];
}

/** One charge that a receipt paid, or paid once. `amount` in cents. */
export interface PaidLine {
  entryId: number;
  date: CalendarDate;
  patient: string;
  what: string;
  amount: Cents;
  undone: boolean;
}

/** What of a charge the ledger shows, but for its entries. */
const chargesWithPayers = (db: Db) =>
  db
    .selectFrom('charge as c')
    // What is planned stands in no books.
    .leftJoin('charge_balance as b', 'b.charge_id', 'c.id')
    .leftJoin('patient as p', 'p.id', 'c.patient_id')
    .leftJoin('provider as v', 'v.id', 'c.provider_id')
    .select([
      'c.id',
      'c.kind',
      'c.service_date as date',
      'c.patient_id as patientId',
      'c.case_id as caseId',
      'c.location_id as locationId',
      'c.provider_id as providerId',
      'c.description',
      'c.units',
      'c.tooth',
      'c.surfaces',
      'c.area',
      'c.prosthesis',
      'c.prior_placement as priorPlacement',
      'c.form',
      'c.diagnoses',
      'c.modifiers',
      'c.status',
      sql<Cents>`case when c.status = 'planned' then c.fee + c.tax else 0 end`.as('plannedFee'),
      'c.kept_from_payers as keptFromPayers',
      'c.version',
      sql<Cents>`case when c.at_contract then c.contract_off else 0 end`.as('contractOff'),
      ...TOTALS_OF_B,
      sql<Cents>`coalesce((select n.amount from not_billable n where n.charge_id = c.id), 0)`.as('forbidden'),
      sql<string>`coalesce(p.first, '')`.as('patient'),
      sql<string>`coalesce((select k.name from care_case k where k.id = c.case_id and not k.standing), '')`.as(
        'caseName',
      ),
      sql<string>`coalesce(c.code, '')`.as('code'),
      sql<string>`coalesce(v.first || ' ' || v.last, '')`.as('provider'),
      // Every payer that was asked or has a claim of it, each once.
      sql<LedgerPayer[]>`
        coalesce(
          (
            select
              json_agg(
                json_build_object('coverageId', o.id, 'payer', y.name, 'withPayer', coalesce(w.with_payer, 0),
          'claimId', m.id, 'claimNumber', m.control_number, 'claimStatus', m.status,
          'corrects', coalesce(m.replaces is not null and m.frequency <> '8', false),
          'leftOut', exists (
            select
            from claim_line x
              join claim z on z.id = x.claim_id
            where x.charge_id = c.id and x.coverage_id = o.id and x.left_out and z.status <> 'withdrawn'
          )) order by o.position)
        from (
            select coverage_id from payer_balance where charge_id = c.id
            union select coverage_id from claim_line where charge_id = c.id and bills
          ) a
          join coverage_plan o on o.id = a.coverage_id
          join payer y on y.id = o.payer_id
          left join payer_balance w on w.coverage_id = o.id and w.charge_id = c.id
          left join claim_line l on l.coverage_id = o.id and l.charge_id = c.id and l.bills
          left join claim m on m.id = l.claim_id), '[]')`.as('payers'),
    ]);

/** Charges with their payers, oldest first, at most `limit` of the newest; one query whatever their number. */
export async function readCharges(db: Db, householdId: number, limit: number): Promise<LedgerCharge[]> {
  const charges = await chargesWithPayers(db)
    .where('c.household_id', '=', householdId)
    .orderBy('c.service_date', 'desc')
    .orderBy('c.id', 'desc')
    .limit(limit)
    .execute();
  return charges.reverse().map(withTotals);
}

/** All charges of several households with their entries, by household, oldest first; two queries. */
export async function readChargesOf(
  db: Db,
  householdIds: readonly number[],
): Promise<Map<number, ToldCharge[]>> {
  const charges = await chargesWithPayers(db)
    .select('c.household_id as householdId')
    .where('c.household_id', '=', sql<number>`any(${[...householdIds]}::bigint[])`)
    .orderBy('c.service_date')
    .orderBy('c.id')
    .execute();
  const byHousehold = new Map<number, ToldCharge[]>();
  for (const { householdId, ...charge } of await withEntries(db, charges)) {
    const own = byHousehold.get(householdId);
    if (own) own.push(charge);
    else byHousehold.set(householdId, [charge]);
  }
  return byHousehold;
}

type Totals = { [Part in keyof ChargeTotals]: Cents | null };

async function withEntries<Row extends { id: number; contractOff: Cents } & Totals>(
  db: Db,
  charges: readonly Row[],
): Promise<(Omit<Row, keyof ChargeTotals> & ChargeTotals & { entries: LedgerEntry[] })[]> {
  const entries = await readEntries(
    db,
    charges.map((charge) => charge.id),
  );
  return charges.map((charge) => ({ ...withTotals(charge), entries: entries.get(charge.id) ?? [] }));
}

/** What is planned stands in no books: it has moved nothing. */
const withTotals = <Row extends Totals & { contractOff: Cents }>(
  charge: Row,
): Omit<Row, keyof ChargeTotals> & ChargeTotals => atContract(inBooks(charge), charge.contractOff);
const inBooks = <Row extends Totals>(charge: Row): Omit<Row, keyof ChargeTotals> & ChargeTotals => ({
  ...charge,
  fee: charge.fee ?? ZERO,
  tax: charge.tax ?? ZERO,
  added: charge.added ?? ZERO,
  opened: charge.opened ?? ZERO,
  payerPaid: charge.payerPaid ?? ZERO,
  patientPaid: charge.patientPaid ?? ZERO,
  agencyPaid: charge.agencyPaid ?? ZERO,
  reduced: charge.reduced ?? ZERO,
  expected: charge.expected ?? ZERO,
  withPayer: charge.withPayer ?? ZERO,
  withPatient: charge.withPatient ?? ZERO,
  onPlan: charge.onPlan ?? ZERO,
  atAgency: charge.atAgency ?? ZERO,
});

/** The entries under one charge of a household, in the order in which they were written. */
export async function readChargeEntries(
  context: Context,
  householdId: number,
  chargeId: number,
): Promise<LedgerEntry[]> {
  allow(context, 'read accounts');
  await allowOpen(context, { householdId });
  const { db } = context;
  const own = await db
    .selectFrom('charge')
    .select('id')
    .where('id', '=', chargeId)
    .where('household_id', '=', householdId)
    .executeTakeFirst();
  if (!own) throw new Refused('unknown', 'There is no such charge on this account');
  return (await readEntries(db, [chargeId])).get(chargeId) ?? [];
}

/** What a receipt paid of a household's charges, oldest first; what was taken back stands there as undone. */
export async function readPaidBy(
  context: Context,
  householdId: number,
  receiptId: number,
): Promise<PaidLine[]> {
  allow(context, 'read accounts');
  await allowOpen(context, { householdId });
  const { rows } = await sql<PaidLine>`
    select e.id as "entryId", c.service_date as date, coalesce(i.first, '') as patient,
      concat_ws(' ', c.code, c.description) as what, sum(p.amount)::bigint as amount,
      exists (select 1 from entry x where x.reverses = e.id) as undone
    from posting p
      join entry e on e.id = p.entry_id and e.kind = 'allocation'
      join charge c on c.id = p.charge_id and c.household_id = ${householdId}
      left join patient i on i.id = c.patient_id
    where p.receipt_id = ${receiptId} and p.account = 'credit/patient'
    group by e.id, c.id, i.first
    order by c.service_date, c.id, e.id`.execute(context.db);
  return rows;
}

/** The balance story of a household: every charge that is open, or one charge. */
export async function readStory(
  context: Context,
  householdId: number,
  chargeId?: number,
): Promise<{ charges: ChargeStory[]; closing: string }> {
  allow(context, 'read accounts');
  const [ledger, figures, parts] = await Promise.all([
    readChargesOf(context.db, [householdId]),
    householdFigures(context.db, householdId),
    readOwed(context, [householdId]),
  ]);
  await opened(context, { kind: 'household', id: householdId }, 'read story');
  const charges = ledger.get(householdId) ?? [];
  const open = charges.filter((charge) => (chargeId ? charge.id === chargeId : isOpen(charge)));
  return {
    charges: open.map((charge) => tellCharge(asStory(charge))),
    closing: tellBalance(
      sum(parts.map(({ owed }) => owed)),
      sum(parts.map(({ credit }) => credit)),
      figures.withPayer,
    ),
  };
}

/** Open in its parts, though they may cancel each other. */
const isOpen = (c: ToldCharge): boolean =>
  c.withPayer !== 0 || c.withPatient !== 0 || c.onPlan !== 0 || c.atAgency !== 0;

/** A ledger row as the story tells it. */
export const asStory = (c: ToldCharge): StoryCharge => ({
  chargeId: c.id,
  kind: c.kind,
  date: c.date,
  patient: c.patient,
  service: c.tooth ? `${c.description}, tooth ${c.tooth}` : c.description,
  provider: c.provider,
  caseName: c.caseName,
  charged: chargedIn(c),
  contractOff: c.contractOff,
  tax: c.tax,
  waiting: c.payers.map(({ coverageId, payer, withPayer }) => ({ coverageId, payer, amount: withPayer })),
  withPatient: c.withPatient,
  forbidden: c.forbidden,
  onPlan: c.onPlan,
  atAgency: c.atAgency,
  entries: c.entries,
});
