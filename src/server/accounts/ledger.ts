/** Reading the ledger of a household, and the balance story that it tells. */
import { sql } from 'kysely';
import type { ChargeTotals } from '../../core/books/strip';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, add, negate } from '../../core/money';
import {
  type ChargeStory,
  type StoryCharge,
  type StoryEntry,
  tellBalance,
  tellCharge,
} from '../../core/statements/story';
import type { Db } from '../../db/connect';
import { type Context, allow, audit } from '../access';

/** One row of the ledger: a charge, with its totals in cents and the entries under it. */
export interface LedgerCharge extends ChargeTotals {
  id: number;
  date: CalendarDate;
  patientId: number;
  caseId: number;
  patient: string;
  code: string;
  description: string;
  provider: string;
  units: number;
  tooth: string;
  surfaces: string;
  diagnoses: string[];
  modifiers: string[];
  status: string;
  claimId: number | null;
  claimNumber: string | null;
  claimStatus: string | null;
  payer: string;
  entries: LedgerEntry[];
}

/** One entry under a charge. Amounts in cents. */
export interface LedgerEntry extends StoryEntry {
  postingDate: CalendarDate;
  remittanceId: number | null;
  receiptId: number | null;
  reasons: { code: string; words: string; amount: Cents }[];
}

/** Charges with their entries, oldest first, at most `limit` of the newest. */
export async function readCharges(db: Db, householdId: number, limit: number): Promise<LedgerCharge[]> {
  const charges = await db
    .selectFrom('charge as c')
    .innerJoin('charge_balance as b', 'b.charge_id', 'c.id')
    .innerJoin('patient as p', 'p.id', 'c.patient_id')
    .innerJoin('provider as v', 'v.id', 'c.provider_id')
    .leftJoin('claim_line as l', (join) => join.onRef('l.charge_id', '=', 'c.id').on('l.current', '=', true))
    .leftJoin('claim as m', 'm.id', 'l.claim_id')
    .leftJoin('coverage as o', 'o.id', 'c.coverage_id')
    .leftJoin('plan as n', 'n.id', 'o.plan_id')
    .leftJoin('payer as y', 'y.id', 'n.payer_id')
    .select([
      'c.id',
      'c.service_date as date',
      'p.id as patientId',
      'c.case_id as caseId',
      'p.first as patient',
      'c.code',
      'c.description',
      'c.units',
      'c.tooth',
      'c.surfaces',
      'c.diagnoses',
      'c.modifiers',
      'c.status',
      'b.fee',
      'b.payer_paid as payerPaid',
      'b.patient_paid as patientPaid',
      'b.reduced',
      'b.with_payer as withPayer',
      'b.with_patient as withPatient',
      'b.on_plan as onPlan',
      'b.at_agency as atAgency',
      'm.id as claimId',
      'm.control_number as claimNumber',
      'm.status as claimStatus',
      sql<string>`v.first || ' ' || v.last`.as('provider'),
      sql<string>`coalesce(y.name, '')`.as('payer'),
    ])
    .where('c.household_id', '=', householdId)
    .orderBy('c.service_date', 'desc')
    .orderBy('c.id', 'desc')
    .limit(limit)
    .execute();
  charges.reverse();
  const entries =
    charges.length === 0
      ? new Map<number, LedgerEntry[]>()
      : await readEntries(
          db,
          charges.map((charge) => charge.id),
        );
  return charges.map((charge) => ({ ...charge, entries: entries.get(charge.id) ?? [] })) as LedgerCharge[];
}

async function readEntries(db: Db, chargeIds: number[]): Promise<Map<number, LedgerEntry[]>> {
  const { rows } = await sql<{
    chargeId: number;
    entryId: number;
    kind: string;
    date: CalendarDate;
    postingDate: CalendarDate;
    memo: string;
    undone: boolean;
    account: string;
    amount: Cents;
    group: string | null;
    code: string | null;
    payer: string | null;
    remittanceId: number | null;
    receiptId: number | null;
    words: string | null;
    patientWords: string | null;
    stays: boolean;
  }>`
    select p.charge_id as "chargeId", e.id as "entryId", e.kind, e.business_date as date, e.posting_date as "postingDate", e.memo, exists (select 1 from entry x where x.reverses = e.id) as undone, p.account, p.amount,
      p.reason_group as "group", p.reason_code as code, y.name as payer, p.remittance_id as "remittanceId", p.receipt_id as "receiptId",
      coalesce(r.words, a.words) as words, coalesce(r.patient_words, a.patient_words) as "patientWords",
      e.kind = 'payer-decision' and exists (select 1 from posting s where s.entry_id = e.id and s.charge_id = p.charge_id and s.account = 'receivable/payer' and s.amount = -p.amount and s.reason_code is null and s.coverage_id = p.coverage_id) as stays
    from posting p join entry e on e.id = p.entry_id left join payer y on y.id = p.payer_id
    left join reason_code r on r.group_code = p.reason_group and r.code = p.reason_code left join reason_code a on a.group_code = '*' and a.code = p.reason_code
    where p.charge_id = any(${chargeIds}) order by e.id, p.id`.execute(db);
  const found = new Map<number, LedgerEntry[]>();
  for (const row of rows) {
    const list = found.get(row.chargeId) ?? [];
    found.set(row.chargeId, list);
    let entry = list.at(-1);
    if (entry?.entryId !== row.entryId) {
      entry = {
        entryId: row.entryId,
        kind: row.kind,
        date: row.date,
        postingDate: row.postingDate,
        payer: row.payer ?? '',
        memo: row.memo,
        undone: row.undone,
        paidByPayer: ZERO,
        paidByPatient: ZERO,
        reduced: [],
        passedOn: [],
        refused: [],
        reasons: [],
        remittanceId: row.remittanceId,
        receiptId: row.receiptId,
      };
      list.push(entry);
    }
    entry.payer ||= row.payer ?? '';
    const words = row.patientWords || row.words || (row.group ? `reason ${row.group}-${row.code}` : row.memo);
    if (row.account.startsWith('cash/') || row.account === 'credit/payer')
      entry.paidByPayer = add(entry.paidByPayer, row.amount);
    else if (row.account === 'credit/patient') entry.paidByPatient = add(entry.paidByPatient, row.amount);
    else if (row.account.startsWith('reduction/')) entry.reduced.push({ words, amount: row.amount });
    else if (row.group === 'PR' && row.account === 'receivable/patient')
      entry.passedOn.push({ words, amount: row.amount });
    if (row.group && row.account === 'receivable/payer' && row.stays)
      entry.refused.push({ words, amount: negate(row.amount) });
    if (row.group && row.account === 'receivable/payer')
      entry.reasons.push({
        code: `${row.group}-${row.code}`,
        words: row.words ?? 'not in the reason code table',
        amount: negate(row.amount),
      });
  }
  return found;
}

/** The balance story of a household: every charge that is open, or one charge. */
export async function readStory(
  context: Context,
  householdId: number,
  chargeId?: number,
): Promise<{ charges: ChargeStory[]; closing: string }> {
  allow(context, 'read accounts');
  const [charges, balance] = await Promise.all([
    readCharges(context.db, householdId, 100_000),
    context.db
      .selectFrom('household_balance')
      .selectAll()
      .where('household_id', '=', householdId)
      .executeTakeFirst(),
  ]);
  await audit(context.db, context, 'read story', { kind: 'household', id: householdId });
  const open = charges.filter((c) =>
    chargeId
      ? c.id === chargeId
      : c.withPayer !== 0 || c.withPatient !== 0 || c.onPlan !== 0 || c.atAgency !== 0,
  );
  return {
    charges: open.map((c) => tellCharge(asStory(c))),
    closing: tellBalance(
      (balance?.with_patient ?? 0) as Cents,
      (balance?.credit ?? 0) as Cents,
      (balance?.with_payer ?? 0) as Cents,
    ),
  };
}

/** A ledger row as the story tells it. */
const asStory = (c: LedgerCharge): StoryCharge => ({
  chargeId: c.id,
  date: c.date,
  patient: c.patient,
  service: c.tooth ? `${c.description}, tooth ${c.tooth}` : c.description,
  provider: c.provider,
  fee: c.fee,
  withPayer: c.withPayer,
  withPatient: c.withPatient,
  onPlan: c.onPlan,
  atAgency: c.atAgency,
  payer: c.payer,
  entries: c.entries,
});
