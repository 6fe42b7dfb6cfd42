/** Monthly statements of agencies against our books. */
import { sql } from 'kysely';
import { z } from 'zod';
import type { CalendarDate } from '../../core/calendar';
import { documentKind } from '../../core/documents';
import { centsField } from '../../core/fields';
import {
  type AgencyStatementLine,
  type OurPlacement,
  type StatementDifference,
  compareStatement,
} from '../../core/overdue/agency';
import type { Db } from '../../db/connect';
import { type Context, allow, audit } from '../access';

/** The lines of a statement as they are kept. */
export const agencyLinesDocument = documentKind<AgencyStatementLine[]>(
  'statement of an agency',
  1,
  z.array(
    z.object({
      placement: z.string(),
      placed: centsField,
      collected: centsField,
      fee: centsField,
      paid: centsField,
      balance: centsField,
    }),
  ),
);

/** What our books said at the end of a day of the placements of an agency that were handed over by then, as its statement would. */
export async function placementsOfAgency(
  db: Db,
  connectionId: number,
  on: CalendarDate,
): Promise<OurPlacement[]> {
  const { rows } = await sql<OurPlacement>`
    select l.number as placement, l.amount as placed, coalesce(y.gross, 0) as collected, coalesce(y.fee, 0) as fee,
      coalesce(y.paid, 0) as paid,
      coalesce(
        (
          select sum(p.amount)
          from posting p
            join entry e on e.id = p.entry_id
          where p.placement_id = l.id and p.account = 'receivable/agency' and e.business_date <= ${on}::date
        ),
        0
      ) as balance
    from placement l
      left join lateral (
        select sum(y.gross) as gross, sum(y.fee) as fee,
          sum(case when y.direct then 0 when l.pays = 'net' then y.gross - y.fee else y.gross end) as paid
      from agency_payment y
        join entry e on e.id = y.entry_id
      where y.placement_id = l.id
        and e.business_date <= ${on}::date
        and (y.reversed_on is null or y.reversed_on > ${on}::date)) y on true
    where l.connection_id = ${connectionId} and l.placed_on <= ${on}::date order by l.id`.execute(db);
  return rows;
}

/** A statement of an agency with what differs from our books as they were on the day on which it came. */
export interface StatementPage {
  id: number;
  agency: string;
  receivedOn: string;
  lines: number;
  differences: StatementDifference[];
}

/** The newest statements of agencies, each compared with our books as they were on the day on which it came. */
export async function readAgencyStatements(context: Context): Promise<StatementPage[]> {
  allow(context, 'read books');
  const rows = await context.db
    .selectFrom('agency_statement as s')
    .innerJoin('connection as c', 'c.id', 's.connection_id')
    .select(['s.id', 's.connection_id', 's.received_on', 's.lines', 'c.name'])
    .orderBy('s.id', 'desc')
    .limit(12)
    .execute();
  await audit(context.db, context, 'read', { kind: 'list', id: 'agency statements' });
  const pages: StatementPage[] = [];
  for (const { id, connection_id, received_on, lines, name } of rows) {
    const read = agencyLinesDocument.read(lines);
    const ours = await placementsOfAgency(context.db, connection_id, received_on);
    pages.push({
      id,
      agency: name,
      receivedOn: received_on,
      lines: read.length,
      differences: compareStatement(read, ours),
    });
  }
  return pages;
}
