/** Policies of statements and sets of rows, as the database keeps them. */
import { rowsDocument, FIRST_ROWS } from '../../core/statements/sets';
import type { Message } from '../../core/statements/messages';
import type { StatementPolicy } from '../../core/statements/policy';
import type { SelectionRow } from '../../core/statements/selection';
import type { Db } from '../../db/connect';
import { Refused } from '../access';

/** The policy of each site that has its own, and the practice's for all others. */
export interface Policies {
  of(siteId: number | null): StatementPolicy;
}

/** Reads all policies. */
export async function readPolicies(db: Db): Promise<Policies> {
  const rows = await db.selectFrom('statement_policy').selectAll().execute();
  const bySite = new Map(
    rows.map((row) => [
      row.location_id,
      {
        locationId: row.location_id,
        least: row.least,
        cycle: row.cycle,
        cycleNumber: row.cycle_number,
        dueDays: row.due_days,
        graceDays: row.grace_days,
        agingFrom: row.aging_from,
        tenders: row.tenders,
        remit: {
          name: row.remit_name,
          line1: row.remit_line1,
          city: row.remit_city,
          state: row.remit_state,
          zip: row.remit_zip,
        },
        phone: row.phone,
        hours: row.hours,
        messages: row.messages,
        late: {
          kind: row.late_kind,
          flat: row.late_flat,
          rate: row.late_rate,
          least: row.late_least,
          most: row.late_most,
        },
      } satisfies StatementPolicy,
    ]),
  );
  return { of: (siteId) => bySite.get(siteId) ?? bySite.get(null)! };
}

/** A saved set of rows. */
export interface StatementSet {
  id: number;
  name: string;
  siteId: number | null;
  /** The one that a site, or the practice, goes by. */
  standard: boolean;
  rows: SelectionRow[];
  version: number;
}

/** Reads the saved sets, by name. */
export async function readSets(db: Db): Promise<StatementSet[]> {
  const rows = await db.selectFrom('statement_set').selectAll().orderBy('name').execute();
  return rows.map(({ location_id, rows: kept, ...row }) => ({
    ...row,
    siteId: location_id,
    rows: rowsDocument.read(kept),
  }));
}

/** The rows that a household is weighed by, of its site. */
export type RowsOfSite = (siteId: number | null) => readonly SelectionRow[];

/** What a run goes by: rows as they stand, a set by its id or name, or each site’s standard set. @throws Refused when it is not there */
export async function rowsOfRun(
  db: Db,
  run: { rows?: readonly SelectionRow[] | null; setId?: number | null; setName?: string },
): Promise<RowsOfSite> {
  if (run.rows) return () => run.rows!;
  const sets = await readSets(db);
  if (run.setId || run.setName !== undefined) {
    const set = sets.find(({ id, name }) => id === run.setId || name === run.setName);
    if (!set)
      throw new Refused(
        'unknown',
        `There is no set “${run.setName ?? run.setId}”${sets.length > 0 ? `, only ${sets.map(({ name }) => `“${name}”`).join(', ')}` : ''}`,
      );
    return () => set.rows;
  }
  const standard = new Map(sets.filter((set) => set.standard).map((set) => [set.siteId, set.rows]));
  const all = standard.get(null) ?? FIRST_ROWS;
  return (siteId) => standard.get(siteId) ?? all;
}

/** The messages that are in use, in the order in which they are tried. */
export async function readMessages(db: Db): Promise<Message[]> {
  const rows = await db
    .selectFrom('statement_message')
    .selectAll()
    .where('active', '=', true)
    .orderBy('position')
    .execute();
  return rows.map((row) => ({
    text: row.words,
    ageFrom: row.age_from,
    ageTo: row.age_to,
    due: row.due,
    insured: row.insured,
    onPlan: row.on_plan,
    siteId: row.location_id,
    monthFrom: row.month_from,
    monthTo: row.month_to,
  }));
}
