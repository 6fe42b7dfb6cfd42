/** Postings, ledger and claims as CSV or JSON, read in pages so that size does not matter. */
import Papa from 'papaparse';
import { sql } from 'kysely';
import { guarded } from '../../core/reports/spreadsheet';
import type { Db } from '../../db/connect';

const QUERIES = {
  postings: `select p.id, p.entry_id as entry, e.posting_date, e.business_date, e.kind, e.reverses as reversed_entry, p.account, p.amount as amount_cents, h.number as household, p.patient_id as patient, p.charge_id as charge, p.coverage_id as coverage,
    y.name as payer, m.control_number as claim, r.trace as remittance, p.receipt_id as receipt, case when p.reason_code is null then null else p.reason_group || '-' || p.reason_code end as reason_code
    from posting p join entry e on e.id = p.entry_id left join household h on h.id = p.household_id left join payer y on y.id = p.payer_id left join claim m on m.id = p.claim_id left join remittance r on r.id = p.remittance_id`,
  ledger: `select c.id, h.number as household, c.patient_id as patient, c.service_date, c.code, c.description, c.units, c.status, b.fee as fee_cents, b.payer_paid as payer_paid_cents, b.patient_paid as patient_paid_cents, b.reduced as written_off_cents,
    b.with_payer as with_payer_cents, b.with_patient as patient_owes_cents, b.on_plan as on_plan_cents, b.at_agency as at_agency_cents from charge c join charge_balance b on b.charge_id = c.id join household h on h.id = c.household_id`,
  claims: `select m.id, m.control_number, m.status, m.form, h.number as household, m.patient_id as patient, y.name as payer, m.service_date, m.sent_date, m.total as total_cents, m.payer_claim_number, m.hold_reason as reason
    from claim m join household h on h.id = m.household_id join payer y on y.id = m.payer_id`,
} as const;

type ExportName = keyof typeof QUERIES;
/** Names of what can be exported. */
export const EXPORTS = Object.keys(QUERIES) as ExportName[];
/** Whether a word names what can be exported. */
export const isExport = (name: string): name is ExportName => Object.hasOwn(QUERIES, name);

const PAGE = 5000;

/** Writes an export piece by piece. Amounts are whole cents. */
export async function* exportTable(db: Db, name: ExportName, format: 'csv' | 'json'): AsyncGenerator<string> {
  let after = 0;
  let first = true;
  if (format === 'json') yield '[';
  for (;;) {
    const { rows } = await sql<
      Record<string, unknown> & { id: number }
    >`select * from (${sql.raw(QUERIES[name])}) q where id > ${after} order by id limit ${PAGE}`.execute(db);
    if (rows.length > 0) {
      after = rows.at(-1)!.id;
      if (format === 'json')
        yield rows
          .map((row, index) => `${first && index === 0 ? '\n' : ',\n'}${JSON.stringify(row)}`)
          .join('');
      else
        yield `${Papa.unparse(
          rows.map((row) =>
            Object.fromEntries(Object.entries(row).map(([key, value]) => [key, guarded(value)])),
          ),
          { header: first, newline: '\n' },
        )}\n`;
      first = false;
    }
    if (rows.length < PAGE) break;
  }
  if (format === 'json') yield '\n]\n';
}
