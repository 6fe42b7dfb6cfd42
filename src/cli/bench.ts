/** `bench`: runs the measurements in bench/. */
import { spawnSync } from 'node:child_process';
import { startCluster } from './cluster';

const run = (script: string): number =>
  spawnSync(process.execPath, ['--import', 'tsx', script], { stdio: 'inherit' }).status ?? 1;

/** Runs the reader's measurement, then that of ten years of data. Status 1 when a ratio is missed. */
export async function bench(): Promise<number> {
  const reader = run('bench/reader.ts');
  const cluster = await startCluster('wergeld_test', 'test');
  process.env.DATABASE_URL = cluster.url;
  try {
    return Math.max(reader, run('bench/ten-years.ts'));
  } finally {
    cluster.stop();
  }
}
