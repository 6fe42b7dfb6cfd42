/** Charge sets: services that are entered together by one name, also made from what was just entered. */
import { sql } from 'kysely';
import { makeSetInput } from '../../core/setup/added';
import { type Cents, toDecimal } from '../../core/money';
import type { Db } from '../../db/connect';
import { Refused } from '../access';
import { useCase } from '../use-case';

/** A service as a set or an earlier visit proposes it; texts as they are typed. */
export interface ProposedLine {
  code: string;
  units: number | null;
  minutes: number | null;
  /** Null: those that the service usually has. */
  modifiers: string[] | null;
  /** Empty: the usual one. */
  fee: string;
}

/** A charge set that is offered. */
export interface OfferedSet {
  id: number;
  name: string;
  lines: ProposedLine[];
}

/** The charge sets in use, by name; of services that are active. One query. */
export async function readChargeSets(db: Db): Promise<OfferedSet[]> {
  const { rows } = await sql<{
    id: number;
    name: string;
    lines: (Omit<ProposedLine, 'fee'> & { fee: Cents | null })[];
  }>`
    select s.id, s.name,
      json_agg(
        json_build_object('code', l.code, 'units', l.units, 'minutes', l.minutes, 'modifiers', nullif(l.modifiers, '{}'),
          'fee', l.fee)
        order by l.position
      ) as lines
    from charge_set s
      join charge_set_line l on l.charge_set_id = s.id
      join service_code c on c.code = l.code and c.active
    where s.active
    group by s.id, s.name
    order by s.name`.execute(db);
  return rows.map(({ lines, ...set }) => ({
    ...set,
    lines: lines.map(({ fee, ...line }) => ({ ...line, fee: fee === null ? '' : toDecimal(fee) })),
  }));
}

/**
 * Makes a charge set from services that were entered, in the order given: codes, units or minutes, and modifiers; what differs each
 * time, such as tooth, diagnoses and fee, is not taken along.
 * @returns its id
 * @throws Refused when its name is taken, or the services are not of one person
 */
export const makeChargeSet = useCase({
  name: 'make charge set',
  permission: 'enter charges',
  input: makeSetInput,
  async run(act, { name, chargeIds }): Promise<number> {
    const tx = act.db;
    const { rows: lines } = await sql<{
      code: string;
      units: number;
      minutes: number | null;
      modifiers: string[];
      patient: number;
    }>`
      select c.code, c.units, c.minutes, c.modifiers, c.patient_id as patient
      from unnest(${chargeIds}::bigint[]) with ordinality k (id, place)
        join charge c on c.id = k.id and c.kind = 'service'
      order by k.place`.execute(tx);
    if (lines.length !== chargeIds.length) throw new Refused('unknown', 'There is no such service');
    if (new Set(lines.map(({ patient }) => patient)).size > 1)
      throw new Refused('others', 'These services are not one person’s');
    const made = await tx
      .insertInto('charge_set')
      .values({ name })
      .onConflict((conflict) => conflict.doNothing())
      .returning('id')
      .executeTakeFirst();
    if (!made) throw new Refused('already', `There is a set “${name}” already`, 'name');
    await tx
      .insertInto('charge_set_line')
      .values(
        lines.map(({ code, units, minutes, modifiers }, index) => ({
          charge_set_id: made.id,
          position: index + 1,
          code,
          units: minutes === null ? units : null,
          minutes,
          modifiers,
        })),
      )
      .execute();
    await act.note('made', { kind: 'charge set', id: made.id }, { name, services: lines.length });
    return made.id;
  },
});
