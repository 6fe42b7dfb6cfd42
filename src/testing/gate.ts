/**
 * A gate in a test's database: what comes to write a certain row waits before it, for as long as the test wants, and
 * may be killed there.
 */
import type pg from 'pg';

/** A closed gate. */
export interface Gate {
  /** Resolves when somebody stands before it. @throws Error when nobody came in time */
  reached: () => Promise<void>;
  /** Lets through whoever waits, and everybody after. */
  open: () => Promise<void>;
}

const GATES = 7_239_099;
let gates = 0;

/**
 * Closes a gate.
 * @param owner a pool of the owner
 * @param table whose rows are written
 * @param row a condition for the row as it is to be, such as `new.id = 7`
 */
export async function closedGate(owner: pg.Pool, table: string, row: string): Promise<Gate> {
  const number = (gates += 1);
  const name = `gate_${process.pid}_${number}`;
  const client = await owner.connect();
  await client.query('select pg_advisory_lock($1, $2)', [GATES, number]);
  await client.query(
    `create function ${name}() returns trigger language plpgsql as $$ begin
       if ${row} then perform pg_advisory_xact_lock(${GATES}, ${number}); end if; return new; end $$;
     create trigger ${name} before insert or update on ${table} for each row execute function ${name}()`,
  );
  return {
    reached: async () => {
      for (const until = performance.now() + 60_000; performance.now() < until;) {
        const { rowCount } = await client.query(
          `
            select 1
            from pg_locks
            where locktype = 'advisory'
              and database = (select oid from pg_database where datname = current_database())
              and classid = $1
              and objid = $2
              and not granted`,
          [GATES, number],
        );
        if (rowCount) return;
        await new Promise((resolve) => setTimeout(resolve, 10));
      }
      throw new Error(`Nobody came to ${row} of ${table}`);
    },
    open: async () => {
      try {
        await client.query('select pg_advisory_unlock($1, $2)', [GATES, number]);
        await client.query(`drop trigger ${name} on ${table}; drop function ${name}()`);
      } finally {
        client.release(true);
      }
    },
  };
}
