/** Files for agencies: the hand-over of each placement, and notices after it. Each is the same however often it is written. */
import { join } from 'node:path';
import { sql } from 'kysely';
import { type CalendarDate, calendarDate } from '../../core/calendar';
import { readSettings } from '../../core/exchange/connections';
import { type Cents, ZERO } from '../../core/money';
import { type HandOver, handOverCsv, handOverJson, writeNotices } from '../../core/overdue/agency';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import { foldersOf, writeWhole } from '../folders';
import { type Act, inTransaction } from '../use-case';
import { mayBeWritten } from './hand-over';

/** Writes what waits for agencies. A kill between file and record writes the same file again. @returns names of the files */
export async function writeAgencyFiles(context: Context): Promise<string[]> {
  const written: string[] = [];
  const placements = await context.db
    .selectFrom('placement')
    .select('id')
    .where('placed_on', 'is not', null)
    .where('written_at', 'is', null)
    .where('ended_on', 'is', null)
    .orderBy('id')
    .execute();
  for (const { id } of placements)
    written.push(...(await inTransaction(context, (act) => writeHandOver(act, id))));
  const connections = await context.db
    .selectFrom('agency_notice as n')
    .innerJoin('placement as l', 'l.id', 'n.placement_id')
    .select('l.connection_id as id')
    .distinct()
    .where('n.written_at', 'is', null)
    .execute();
  for (const { id } of connections)
    written.push(...(await inTransaction(context, (act) => writeNoticesOf(act.db, id))));
  return written;
}

async function writeHandOver(act: Act, placementId: number): Promise<string[]> {
  const tx = act.db;
  const placement = await tx
    .selectFrom('placement as l')
    .innerJoin('connection as c', 'c.id', 'l.connection_id')
    .innerJoin('household as h', 'h.id', 'l.household_id')
    .select([
      'l.id',
      'l.number',
      'l.amount',
      'l.placed_on',
      'l.household_id',
      'l.objections',
      'l.decided',
      'c.folder',
      'c.settings',
      'h.number as account',
      sql<string>`h.first || ' ' || h.last`.as('name'),
      'h.line1',
      'h.line2',
      'h.city',
      'h.state',
      'h.zip',
      'h.phone',
      'h.email',
    ])
    .where('l.id', '=', placementId)
    .where('l.written_at', 'is', null)
    .where('l.ended_on', 'is', null)
    .forUpdate('l')
    .skipLocked()
    .executeTakeFirst();
  const practice = await tx.selectFrom('practice').selectAll().executeTakeFirst();
  if (!placement || !practice || !(await mayBeWritten(act, placement))) return [];
  const { rows: charges } = await sql<{
    number: number;
    date: CalendarDate;
    amount: Cents;
    since: CalendarDate | null;
  }>`
    select c.id as number, c.service_date as date, t.amount,
      (select min(d.since) from debt_layer d where d.charge_id = c.id and d.open > 0) as since
    from placement_charge t
      join charge c on c.id = t.charge_id
    where t.placement_id = ${placementId} order by c.service_date, c.id`.execute(tx);
  const last = await tx
    .selectFrom('receipt as r')
    .innerJoin('receipt_balance as k', 'k.receipt_id', 'r.id')
    .select(['r.received_on as date', 'r.amount'])
    .where('r.household_id', '=', placement.household_id)
    .where('k.booked', '>', ZERO)
    .orderBy('r.received_on', 'desc')
    .orderBy('r.id', 'desc')
    .executeTakeFirst();
  const letters = await tx
    .selectFrom('letter as l')
    .innerJoin('mail_piece as p', 'p.id', 'l.piece_id')
    .select('l.date')
    .where('l.household_id', '=', placement.household_id)
    .where('l.patient_id', 'is', null)
    .where('p.status', '<>', 'void')
    .orderBy('l.date')
    .execute();
  const one: HandOver = {
    format: 'wergeld-placement',
    version: 1,
    placement: placement.number,
    client: readSettings('agency', placement.settings).clientId,
    date: calendarDate(placement.placed_on!),
    practice: {
      name: practice.name,
      line1: practice.line1,
      city: practice.city,
      state: practice.state,
      zip: practice.zip,
      phone: practice.phone,
    },
    account: placement.account,
    debtor: {
      name: placement.name,
      line1: placement.line1,
      line2: placement.line2,
      city: placement.city,
      state: placement.state,
      zip: placement.zip,
      phone: placement.phone,
      email: placement.email,
    },
    amount: placement.amount,
    charges: charges.map(({ number, ...charge }) => ({ number: String(number), ...charge })),
    lastPayment: last ?? null,
    letters: letters.map(({ date }) => date),
  };
  const { outbox } = await foldersOf(placement.folder);
  const names = [`placement-${placement.number}.csv`, `placement-${placement.number}.json`];
  await writeWhole(join(outbox, names[0]!), handOverCsv(one));
  await writeWhole(join(outbox, names[1]!), handOverJson(one));
  await tx
    .updateTable('placement')
    .set({ written_at: sql<Date>`desk_now()` })
    .where('id', '=', placementId)
    .execute();
  return names;
}

async function writeNoticesOf(tx: Tx, connectionId: number): Promise<string[]> {
  const rows = await tx
    .selectFrom('agency_notice as n')
    .innerJoin('placement as l', 'l.id', 'n.placement_id')
    .innerJoin('connection as c', 'c.id', 'l.connection_id')
    .select([
      'n.id',
      'l.number as placement',
      'n.kind',
      'n.made_on as date',
      'n.amount',
      'n.words',
      'c.folder',
    ])
    .where('l.connection_id', '=', connectionId)
    .where('n.written_at', 'is', null)
    .orderBy('n.id')
    .forUpdate('n')
    .skipLocked()
    .execute();
  const [first] = rows;
  if (!first) return [];
  const { outbox } = await foldersOf(first.folder);
  // By its first notice alone: written again after a kill, with later ones, it takes the place of what was left.
  const name = `notices-${first.id}.csv`;
  await writeWhole(join(outbox, name), writeNotices(rows));
  await tx
    .updateTable('agency_notice')
    .set({ written_at: sql<Date>`desk_now()` })
    .where(
      'id',
      'in',
      rows.map(({ id }) => id),
    )
    .execute();
  return [name];
}
