/** `bench`: runs the measurements in bench/. */
import { spawnSync } from 'node:child_process';

/** Runs the reader's measurement. Status 1 when a ratio is missed. */
export async function bench(): Promise<number> {
  return (
    spawnSync(process.execPath, ['--import', 'tsx', 'bench/reader.ts'], { stdio: 'inherit' }).status ?? 1
  );
}
