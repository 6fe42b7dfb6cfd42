/** Runs a few lines of TypeScript against the sources as a process of its own, for tests that kill it: `node script.mjs LINES`. */
import { mkdtempSync, rmSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { buildSync } from 'esbuild';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
// Inside the checkout, where the packages are found.
const folder = mkdtempSync(join(root, 'node_modules', '.script-'));
const outfile = join(folder, 'script.mjs');
buildSync({
  stdin: { contents: process.argv[2], resolveDir: root, loader: 'ts' },
  outfile,
  bundle: true,
  packages: 'external',
  platform: 'node',
  format: 'esm',
  target: 'node20',
  jsx: 'automatic',
});
const running = import(pathToFileURL(outfile).href);
await running.finally(() => rmSync(folder, { recursive: true, force: true }));
