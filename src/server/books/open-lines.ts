/** What is open, charge by charge, as money is spread over it and forms show it. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { type OpenCharge, oldestFirst } from '../../core/payments/spread';
import type { Db } from '../../db/connect';
import { type Context, allow } from '../access';
import { allowOpen, closedOf, opened } from '../closed';
import { readOwed } from './owed';

/**
 * A charge that is owed on, as money is spread over it: `owed` in cents, `left` of it once credit is spent, and whose: the patient
 * with an address apart, null for the rest of the household; `patientId` is nobody's where it was put on the account.
 */
export type Owing = OpenCharge & {
  householdId: number;
  patientId: number | null;
  apart: number | null;
  left: Cents;
};

/** What households owe, by charge, oldest first, without what may not be billed. Amounts in cents. */
export async function openCharges(context: Context, householdIds: readonly number[]): Promise<Owing[]> {
  const accounts = await readOwed(context, householdIds);
  return oldestFirst(
    accounts.flatMap(({ householdId, patientId: apart, charges }) =>
      charges.map(({ chargeId, date, owed, left, patientId }) => ({
        id: chargeId,
        householdId,
        date,
        owed,
        left,
        patientId: patientId ?? null,
        apart,
      })),
    ),
  );
}

/** The households whose statements lie in one envelope with a household's, itself among them. */
export async function envelopeOf(db: Db, householdId: number): Promise<number[]> {
  const { rows } = await sql<{ id: number }>`
    select h.id
    from household h, household o
    where o.id = ${householdId} and coalesce(h.mailed_with, h.id) = coalesce(o.mailed_with, o.id)
    order by h.id`.execute(db);
  return rows.map(({ id }) => id);
}

/** A charge that is open, as the forms of money show it. `owed` in cents, `left` of it once credit is spent. */
export interface OpenLine {
  id: number;
  date: CalendarDate;
  owed: Cents;
  left: Cents;
  /** The patient with an address apart whose it is; null for the rest of the household. */
  apart: number | null;
  account: string;
  patientId: number | null;
  patient: string;
  description: string;
}

/** What households owe, by charge with its words, oldest first. */
export async function readOpenLines(context: Context, householdIds: readonly number[]): Promise<OpenLine[]> {
  const open = await openCharges(context, householdIds);
  if (open.length === 0) return [];
  const rows = await context.db
    .selectFrom('charge as c')
    .innerJoin('household as h', 'h.id', 'c.household_id')
    .leftJoin('patient as p', 'p.id', 'c.patient_id')
    .select([
      'c.id',
      'c.description',
      'h.number as account',
      sql<string>`coalesce(p.first, '')`.as('patient'),
    ])
    .where('c.id', '=', sql<number>`any(${open.map(({ id }) => id)}::bigint[])`)
    .execute();
  const about = new Map(rows.map((row) => [row.id, row]));
  return open.map(({ id, date, owed, left, apart, patientId }) => ({
    ...about.get(id)!,
    patientId,
    date,
    owed,
    left,
    apart,
  }));
}

/**
 * What the other accounts of a household's envelope owe, oldest first, but for those that are closed to who asks; each is put on
 * the audit trail as read.
 */
export async function readEnvelopeCharges(context: Context, householdId: number): Promise<OpenLine[]> {
  allow(context, 'take payments');
  await allowOpen(context, { householdId });
  const { db } = context;
  const together = (await envelopeOf(db, householdId)).filter((id) => id !== householdId);
  const closed = await closedOf(context, together);
  const others = together.filter((id) => !closed.has(id));
  for (const id of others) await opened(context, { kind: 'household', id });
  return readOpenLines(context, others);
}
