/**
 * The one clock: `desk_now()` in the database, by which everything is written and judged. The true time; for tests and the demo
 * the owner of a database may set it, which the desk's role cannot and no command of a practice does. Clocks of their own have
 * sign-in, the queue of background work and the files of the exchange.
 */
import type pg from 'pg';

/** A local time, `2026-03-16` or `2026-03-16T10:00:00`; a day alone begins at the present time of day. */
const LOCAL = /^\d{4}-\d\d-\d\d(T\d\d:\d\d(:\d\d)?)?$/;

/**
 * Sets the clock of a database: it goes on from there.
 * @param owner a pool of the owner
 * @param local a local time in `zone`; null for the true time
 * @throws RangeError for words that are no time; what the database says where who is connected is not the owner
 */
export async function setClock(owner: pg.Pool, local: string | null, zone: string): Promise<void> {
  if (local !== null && !LOCAL.test(local)) throw new RangeError(`“${local}” is no time such as 2026-03-16`);
  const { rows } = await owner.query<{ shift: string }>(
    `select case when $1::text is null then 0 else extract(epoch from
       (
         case when $1 like '%T%' then $1::timestamp else $1::date + (clock_timestamp() at time zone $2)::time end
       ) at time zone $2
       - clock_timestamp()) end::text as shift`,
    [local, zone],
  );
  const shift = Number(rows[0]!.shift);
  await owner.query(
    `create or replace function desk_now() returns timestamptz language sql stable as $$ select now()${
      shift === 0 ? '' : ` + make_interval(secs => ${shift})`
    } $$`,
  );
}

/** Whether the clock says the true time. @param pool of anybody who may read */
export async function isTrueTime(pool: pg.Pool): Promise<boolean> {
  const { rows } = await pool.query<{ right: boolean }>('select desk_now() = now() as right');
  return rows[0]!.right;
}
