/**
 * The work of an evening through the real use cases: 10 000 claims are built, checked, sent, and decided by one remittance
 * which is received and posted; with two years of data and with twenty. Posting is told beside the bare inserts of the same
 * rows, a transaction a claim. Status 1 when posting takes more than two and a half times those, both
 * evenings together, or anything grows by more than 1.3.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import { cents } from '../src/core/money';
import { checkBooks } from '../src/server/books/check';
import { buildClaims } from '../src/server/claims/build';
import { sendClaims } from '../src/server/claims/send';
import { takeFile } from '../src/server/exchange/intake';
import { finishWork } from '../src/server/jobs/run';
import { startChecking } from '../src/server/jobs/work';
import { postRemittance } from '../src/server/remittances/post';
import { type TestDatabase, testDatabase } from '../src/testing/database';
import { decided, remitText } from '../src/testing/desk';
import { fill, visits } from './fill';

const CLAIMS = Number(process.env.BENCH_CLAIMS ?? 10_000);
const QUIET = pino({ level: 'silent' });
const MOST_TIMES_BARE = 2.5;
const MOST_GROWTH = 1.3;

type Times = Map<string, number>;

/** The remittance that decides all claims that were sent, as a file. */
async function remittance(t: TestDatabase, folder: string): Promise<string> {
  const { rows } = await t.pool.query<{ number: string; line: string }>(
    `
      select m.control_number as number, l.id as line
      from claim m
        join claim_line l on l.claim_id = m.id
        join charge c on c.id = l.charge_id
      where c.description = 'Evening'
      order by l.id`,
  );
  const claims = rows.map(({ number, line }) =>
    decided(number, [
      { control: `L${line}`, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
    ]),
  );
  const path = join(folder, 'evening.835');
  writeFileSync(path, remitText(claims, { payment: cents(claims.length * 6800), trace: 'EVENING' }));
  return path;
}

/** The rows that posting writes for a claim, written barely: one transaction a claim, nothing asked, nothing decided. */
async function bare(t: TestDatabase): Promise<void> {
  const { rows } = await t.pool.query<Record<string, string>>(
    `
      select m.id, m.household_id, m.patient_id, m.case_id, m.coverage_id, m.payer_id, m.provider_id, m.location_id,
        l.charge_id, c.id as row, c.remittance_id
      from remittance_claim c
        join claim m on m.id = c.claim_id
        join claim_line l on l.claim_id = m.id
        join remittance r on r.id = c.remittance_id
      where r.trace = 'EVENING'
      order by c.id`,
  );
  const client = await t.pool.connect();
  try {
    for (const one of rows) {
      await client.query('begin');
      const { rows: made } = await client.query<{ id: string }>({
        name: 'bare-entry',
        text: `
          insert into entry (kind, posting_date, business_date, user_id, memo, key)
          values ('payer-decision', '2026-03-16', '2026-03-16', 'bare', 'bare', $1)
          returning id`,
        values: [`bare:${one.row}`],
      });
      await client.query({
        name: 'bare-postings',
        text: `
          insert into posting (
            entry_id, account, amount, household_id, patient_id, case_id, charge_id, coverage_id, payer_id,
            claim_id, remittance_id, remittance_claim_id, provider_id, location_id, reason_group, reason_code
          )
          select $1::bigint, x.account, x.amount, $2::bigint, $3::bigint, $4::bigint, $5::bigint, $6::bigint,
            $7::bigint, $8::bigint, $9::bigint, $10::bigint, $11::bigint, $12::bigint, x.g, x.c
          from (
            values ('cash/transfer', 6800, null, null), ('receivable/payer', -6800, null, null),
              ('reduction/contract', 4700, 'CO', '45'), ('receivable/payer', -4700, 'CO', '45'),
              ('receivable/patient', 3000, 'PR', '3'), ('receivable/payer', -3000, 'PR', '3')
          ) x (account, amount, g, c)`,
        values: [
          made[0]!.id,
          one.household_id,
          one.patient_id,
          one.case_id,
          one.charge_id,
          one.coverage_id,
          one.payer_id,
          one.id,
          one.remittance_id,
          one.row,
          one.provider_id,
          one.location_id,
        ],
      });
      await client.query({
        name: 'bare-claim',
        text: `update claim set status = 'closed', payer_claim_number = 'PCN1' where id = $1`,
        values: [one.id],
      });
      await client.query({
        name: 'bare-event',
        text: `
          insert into claim_event (claim_id, business_date, status, cause_kind, cause, words)
          values ($1, '2026-03-16', 'closed', 'file', 'bare', 'bare')`,
        values: [one.id],
      });
      await client.query({
        name: 'bare-row',
        text: `update remittance_claim set status = 'posted', note = '' where id = $1`,
        values: [one.row],
      });
      await client.query('commit');
    }
  } finally {
    client.release();
  }
}

async function evening(households: number, charges: number): Promise<Times> {
  const t = await testDatabase();
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-evening-'));
  const times: Times = new Map();
  const timed = async (name: string, run: () => Promise<unknown>): Promise<void> => {
    const start = performance.now();
    await run();
    times.set(name, performance.now() - start);
  };
  try {
    await fill(t, households, charges);
    await visits(t, CLAIMS);
    await timed('build', async () => {
      while ((await buildClaims(t.context, {})).length > 0);
    });
    await timed('check', async () => {
      const id = await startChecking(t.context, {});
      await finishWork(t.db, id!, QUIET);
    });
    await timed('send', async () => {
      while ((await sendClaims(t.context, {})).length > 0);
    });
    const path = await remittance(t, folder);
    let remittanceId = 0;
    await timed('receive', async () => {
      const { outcomes } = await takeFile(t.context, path, 'evening.835', null);
      remittanceId = outcomes[0]!.remittanceId!;
    });
    await timed('post', () => postRemittance(t.context, remittanceId));
    await timed('books check', async () => {
      const faults = (await checkBooks(t.db)).flatMap(({ id, faults: found }) =>
        found.map((one) => `${id}: ${one}`),
      );
      if (faults.length > 0) throw new Error(`The books do not hold: ${faults.slice(0, 3).join('; ')}`);
    });
    // The same rows once more, over those: nothing reads them after.
    await timed('post, bare inserts', () => bare(t));
    return times;
  } finally {
    rmSync(folder, { recursive: true, force: true });
    await t.close();
  }
}

const small = await evening(200, 5_000);
const large = await evening(2_000, 50_000);
let missed = 0;
for (const [name, ms] of large) {
  const growth = ms / small.get(name)!;
  // Proving the books reads all of them.
  const grows = growth > MOST_GROWTH && name !== 'books check';
  if (grows) missed += 1;
  process.stdout.write(
    `${name.padEnd(20)} ${(ms / CLAIMS).toFixed(3).padStart(8)} ms a claim ${(ms / 1000).toFixed(1).padStart(7)} s   ${growth.toFixed(2)} times a tenth of the data${grows ? '  MISSED' : ''}\n`,
  );
}
const both = (name: string): number => small.get(name)! + large.get(name)!;
const times = both('post') / both('post, bare inserts');
if (times > MOST_TIMES_BARE) missed += 1;
process.stdout.write(
  `posting takes ${times.toFixed(2)} times the bare inserts${times > MOST_TIMES_BARE ? '  MISSED' : ''}\n`,
);
process.exitCode = missed > 0 ? 1 : 0;
