/** Backup and restore with PostgreSQL's own programs. */
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { Stop } from './cluster';

function run(program: string, args: string[], fault: string): void {
  const result = spawnSync(program, args, { encoding: 'utf8' });
  if (result.status !== 0)
    throw new Stop(`${fault}: ${(result.stderr ?? String(result.error)).trim().split('\n').at(-1)}`);
}

/** Writes the whole database to a file in pg_dump's custom format. */
export async function backup(url: string, file: string | undefined): Promise<number> {
  if (!file) throw new Stop('Say where: ./wergeld backup FILE');
  if (existsSync(file)) throw new Stop(`${file} exists already: choose another name`);
  run('pg_dump', ['--format=custom', `--file=${file}`, url], 'The backup failed');
  process.stdout.write(`Written to ${file}\n`);
  return 0;
}

/** Reads a backup into a database that holds nothing yet. */
export async function restore(url: string, file: string | undefined): Promise<number> {
  if (!file || !existsSync(file)) throw new Stop('Say which file: ./wergeld restore FILE');
  const { openPool } = await import('../db/connect');
  const pool = openPool(url, 1);
  const { rows } = await pool.query<{ n: number }>(
    `select count(*) as n from information_schema.tables where table_schema = 'public'`,
  );
  await pool.end();
  if ((rows[0]?.n ?? 0) > 0)
    throw new Stop('This database holds data already: restore goes into an empty one, named by DATABASE_URL');
  run('pg_restore', ['--no-owner', '--exit-on-error', `--dbname=${url}`, file], 'The restore failed');
  process.stdout.write(`Restored from ${file}\n`);
  return 0;
}
