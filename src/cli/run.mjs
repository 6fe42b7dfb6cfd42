/**
 * Runs one of our programs: `node src/cli/run.mjs src/cli/main.ts ARGUMENTS`. What runs was built once into the checkout, in a
 * folder that is closed to everybody else: whoever could write there would run as us.
 */
import { createHash } from 'node:crypto';
import {
  chmodSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
} from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const ROOT = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
const BUILDS = join(ROOT, '.data', 'run');
/** So many builds stay: a program that runs still reads from its own. */
const KEPT = 4;

/** Folders of sources, and what is built out of them. */
const SOURCES = ['src', 'bench'];
const PROGRAMS = ['src/cli/main.ts', 'src/cli/worker.ts', 'src/cli/terminal.ts'];

const files = (folder) =>
  readdirSync(folder, { withFileTypes: true }).flatMap((item) => {
    const path = join(folder, item.name);
    if (item.isDirectory()) return files(path);
    return /\.(tsx?|mjs)$/.test(item.name) && !/\.test\.tsx?$/.test(item.name) ? [path] : [];
  });

/** The name of the build of the sources as they are. */
function nameOfBuild() {
  const hash = createHash('sha256');
  for (const path of [
    ...SOURCES.flatMap((name) => files(join(ROOT, name))),
    join(ROOT, 'package-lock.json'),
  ].sort()) {
    const { mtimeMs, size } = statSync(path);
    hash.update(`${path}\0${mtimeMs}\0${size}\0`);
  }
  return hash.digest('hex').slice(0, 24);
}

/** @throws Error when somebody else could write into a folder, or made it */
function closed(folder) {
  const { uid, mode } = statSync(folder);
  const ours = [process.getuid?.(), statSync(ROOT).uid];
  if (!ours.includes(uid) || (mode & 0o022) !== 0)
    throw new Error(`${folder} can be written to by others: remove it, and start again`);
}

async function built() {
  mkdirSync(BUILDS, { recursive: true, mode: 0o700 });
  chmodSync(join(ROOT, '.data'), 0o700);
  closed(join(ROOT, '.data'));
  closed(BUILDS);
  const folder = join(BUILDS, nameOfBuild());
  try {
    closed(folder);
    utimesSync(folder, new Date(), new Date());
    return folder;
  } catch (error) {
    if (error.code !== 'ENOENT') throw error;
  }
  const { build } = await import('esbuild');
  const making = mkdtempSync(join(BUILDS, 'making-'));
  await build({
    absWorkingDir: ROOT,
    entryPoints: [
      ...PROGRAMS,
      ...readdirSync(join(ROOT, 'bench'))
        .filter((name) => name.endsWith('.ts'))
        .map((name) => `bench/${name}`),
    ],
    outbase: '.',
    outdir: making,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    splitting: true,
    packages: 'external',
    platform: 'node',
    format: 'esm',
    target: 'node20',
    jsx: 'automatic',
    sourcemap: true,
    loader: { '.css': 'empty' },
    logLevel: 'error',
  });
  try {
    renameSync(making, folder);
  } catch (error) {
    // Another process has just made the same.
    if (!['ENOTEMPTY', 'EEXIST'].includes(error.code)) throw error;
    rmSync(making, { recursive: true, force: true });
  }
  const old = readdirSync(BUILDS)
    .filter((name) => !name.startsWith('making-'))
    .map((name) => ({
      path: join(BUILDS, name),
      used: statSync(join(BUILDS, name), { throwIfNoEntry: false })?.mtimeMs ?? 0,
    }))
    .sort((a, b) => b.used - a.used)
    .slice(KEPT);
  for (const { path } of old) rmSync(path, { recursive: true, force: true });
  return folder;
}

process.umask(0o077);
const program = relative(ROOT, resolve(ROOT, process.argv[2] ?? ''));
process.argv.splice(1, 2, join(ROOT, program));
process.setSourceMapsEnabled(true);
await import(pathToFileURL(join(await built(), program.replace(/\.ts$/, '.mjs'))).href);
