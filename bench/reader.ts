/**
 * The X12 reader against the `x12-parser` package from the registry: the same generated 835, read to the end by each in a
 * process of its own, in one run. Wanted: at least three times its segments per second, peak memory below 120 MB; and the
 * memory must not grow with the file.
 */
import { spawnSync } from 'node:child_process';
import { createWriteStream, mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { once } from 'node:events';
import { transformFileSync } from '@swc/core';
import { writeFileSync, readdirSync, mkdirSync } from 'node:fs';
import { calendarDate } from '../src/core/calendar';
import { cents } from '../src/core/money';
import { write835 } from '../src/core/x12/remittance835';
import { SAMPLE_INTERCHANGE, sampleRemitClaim } from '../src/core/x12/samples';

const folder = mkdtempSync(join(tmpdir(), 'wergeld-bench-'));

/** Writes one 835 of about so many megabytes, in many interchanges of a thousand claims. */
async function generate(path: string, megabytes: number): Promise<void> {
  const out = createWriteStream(path);
  for (let serial = 1, bytes = 0; bytes < megabytes * 1e6; serial += 1) {
    const claims = Array.from({ length: 1000 }, (_, index) => sampleRemitClaim(`B${serial}N${index}`));
    const text = write835(
      { ...SAMPLE_INTERCHANGE, controlNumber: String(serial).padStart(9, '0') },
      [
        {
          payment: cents(9_800_000),
          handling: 'I',
          creditDebit: 'C',
          method: 'ACH',
          date: calendarDate('2026-03-16'),
          trace: `B${serial}`,
          originator: '1910000011',
          payer: { name: 'Cedar Sound Health', id: 'CSH01' },
          payee: { name: 'Osprey', npi: '1234567018', taxId: '' },
          claims,
          providerAdjustments: [],
        },
      ],
      '20260316',
    );
    bytes += text.length;
    if (!out.write(text)) await once(out, 'drain');
  }
  out.end();
  await once(out, 'finish');
}

/** The core as plain modules, so that no loader's memory is measured. */
function transpile(): void {
  for (const part of ['', 'x12', 'claims', 'remittances']) {
    const from = join('src/core', part);
    mkdirSync(join(folder, 'core', part), { recursive: true });
    for (const name of readdirSync(from).filter(
      (item) => item.endsWith('.ts') && !item.endsWith('.test.ts'),
    )) {
      const { code } = transformFileSync(join(from, name), {
        jsc: { parser: { syntax: 'typescript' }, target: 'es2022' },
        module: { type: 'commonjs' },
      });
      writeFileSync(join(folder, 'core', part, name.replace('.ts', '.js')), code);
    }
  }
}

const OURS = (path: string) => `
const { SegmentReader } = require('${folder}/core/x12/segments.js');
const { createReadStream } = require('node:fs');
(async () => { const reader = new SegmentReader(); let n = 0; const start = process.hrtime.bigint();
for await (const piece of createReadStream('${path}', { encoding: 'latin1', highWaterMark: 65536 })) n += reader.push(piece).length;
reader.end(); report(n, start); })();`;
const OUR_MODEL = (path: string) => `
const { read835 } = require('${folder}/core/x12/remittance835.js');
const { createReadStream } = require('node:fs');
(async () => { let n = 0; const start = process.hrtime.bigint();
for await (const events of read835(createReadStream('${path}', { encoding: 'utf8', highWaterMark: 65536 }))) n += events.length;
report(n, start); })();`;
const THEIRS = (path: string) => `
const { X12parser } = require('x12-parser');
const { createReadStream } = require('node:fs');
let n = 0; const start = process.hrtime.bigint();
createReadStream('${path}').pipe(new X12parser()).on('data', () => n++).on('end', () => report(n, start));`;

function run(script: string): { count: number; seconds: number; megabytes: number } {
  const report = `function report(n, start) { console.log(JSON.stringify({ count: n, seconds: Number(process.hrtime.bigint() - start) / 1e9, megabytes: process.resourceUsage().maxRSS / 1024 })); }\n`;
  const result = spawnSync(process.execPath, ['--max-semi-space-size=4', '-e', report + script], {
    encoding: 'utf8',
  });
  if (result.status !== 0) throw new Error(result.stderr);
  return JSON.parse(result.stdout) as { count: number; seconds: number; megabytes: number };
}

async function main(): Promise<void> {
  const [small, large] = [join(folder, 'small.835'), join(folder, 'large.835')];
  await generate(small, 20);
  await generate(large, 200);
  transpile();
  const line = (name: string, r: { count: number; seconds: number; megabytes: number }): void =>
    console.log(
      `${name.padEnd(34)} ${Math.round(r.count / r.seconds)
        .toLocaleString('en')
        .padStart(12)} a second   peak ${r.megabytes.toFixed(0).padStart(4)} MB`,
    );
  const best = (script: string) =>
    [1, 2, 3].map(() => run(script)).reduce((a, b) => (a.seconds < b.seconds ? a : b));
  const ours = best(OURS(small));
  const theirs = best(THEIRS(small));
  const big = run(OURS(large));
  const model = run(OUR_MODEL(large));
  line('segments, ours, 20 MB', ours);
  line('segments, x12-parser, 20 MB', theirs);
  line(`segments, ours, ${Math.round(statSync(large).size / 1e6)} MB`, big);
  line('remittance events, ours, 200 MB', model);
  const ratio = ours.count / ours.seconds / (theirs.count / theirs.seconds);
  const good = ours.count === theirs.count && ratio >= 3 && big.megabytes < 120 && model.megabytes < 120;
  console.log(
    `${ratio.toFixed(1)} times its segments per second (wanted 3); peak ${Math.max(big.megabytes, model.megabytes).toFixed(0)} MB (wanted below 120): ${good ? 'good' : 'missed'}`,
  );
  process.exitCode = good ? 0 : 1;
}

void main().finally(() => rmSync(folder, { recursive: true, force: true }));
