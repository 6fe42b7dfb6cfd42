/** Monthly statements of agencies against our books. */
import { sql } from 'kysely';
import { z } from 'zod';
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

/** What our books say of the placements of an agency that were handed over, as its statement would. */
export async function placementsOfAgency(db: Db, connectionId: number): Promise<OurPlacement[]> {
  const { rows } = await sql<OurPlacement>`
    select l.number as placement, l.amount as placed, coalesce(y.gross, 0) as collected, coalesce(y.fee, 0) as fee, coalesce(y.paid, 0) as paid,
      coalesce((select sum(p.amount) from posting p where p.placement_id = l.id and p.account = 'receivable/agency'), 0) as balance
    from placement l left join lateral (select sum(y.gross) as gross, sum(y.fee) as fee, sum(case when y.direct then 0 when l.pays = 'net' then y.gross - y.fee else y.gross end) as paid
      from agency_payment y where y.placement_id = l.id and y.reversed_on is null) y on true
    where l.connection_id = ${connectionId} and l.placed_on is not null order by l.id`.execute(db);
  return rows;
}

/** A statement of an agency with what differs from our books as they are now. */
export interface StatementPage {
  id: number;
  agency: string;
  receivedOn: string;
  lines: number;
  differences: StatementDifference[];
}

/** The newest statements of agencies, each compared with our books as they are now. */
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
  const ours = new Map<number, OurPlacement[]>();
  for (const { connection_id: id } of rows)
    if (!ours.has(id)) ours.set(id, await placementsOfAgency(context.db, id));
  return rows.map(({ id, connection_id, received_on, lines, name }) => {
    const read = agencyLinesDocument.read(lines);
    return {
      id,
      agency: name,
      receivedOn: received_on,
      lines: read.length,
      differences: compareStatement(read, ours.get(connection_id)!),
    };
  });
}
