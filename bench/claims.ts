/**
 * Claims that go on: 10 000 claims are checked and written to a file, beside the writer alone; and the claims to next payers that 2 000
 * decisions call for are built, beside bare inserts of the same rows. Status 1 when checking and writing takes more than twice the
 * writer, or building more than four times the inserts.
 */
import { checkClaim } from '../src/core/claims/rules';
import type { ClaimContent } from '../src/core/claims/content';
import { cents } from '../src/core/money';
import { write837 } from '../src/core/x12/claim837';
import { SAMPLE_INTERCHANGE, sampleClaim, sampleContext } from '../src/core/x12/samples';
import { buildClaims } from '../src/server/claims/build';
import { sendClaims } from '../src/server/claims/send';
import { type TestDatabase, testDatabase } from '../src/testing/database';
import { decided, postedRemittance } from '../src/testing/desk';
import { fill, visits } from './fill';

const CLAIMS = Number(process.env.BENCH_CLAIMS ?? 10_000);
const DECISIONS = Number(process.env.BENCH_DECISIONS ?? 2_000);
const MOST_TIMES_WRITER = 2;
const MOST_TIMES_INSERTS = 4;
let missed = 0;
const say = (words: string, times: number, most: number): void => {
  const over = times > most;
  if (over) missed += 1;
  process.stdout.write(`${words}: ${times.toFixed(2)} times${over ? '  MISSED' : ''}\n`);
};

/** Checks and writes claims, and writes them alone: the best of five each, in turn. */
function checkAndWrite(): void {
  const claims: ClaimContent[] = Array.from({ length: CLAIMS }, (_, at) => ({
    ...sampleClaim(),
    controlNumber: `OL${100_000 + at}A`,
  }));
  const context = sampleContext();
  const write = (list: readonly ClaimContent[]): number =>
    write837({
      interchange: SAMPLE_INTERCHANGE,
      controlNumber: '1',
      date: '20260316',
      time: '0600',
      submitter: { name: 'Osprey', contact: 'Desk', phone: '2065550100' },
      receiverName: 'Tideline',
      claims: list,
    }).length;
  const best = { both: Infinity, writer: Infinity };
  for (let turn = 0; turn < 5; turn += 1) {
    const start = performance.now();
    write(claims.filter((claim) => checkClaim(claim, context).length === 0));
    const between = performance.now();
    write(claims);
    best.both = Math.min(best.both, between - start);
    best.writer = Math.min(best.writer, performance.now() - between);
  }
  process.stdout.write(
    `check and write      ${(best.both / CLAIMS).toFixed(4)} ms a claim\nwrite alone          ${(best.writer / CLAIMS).toFixed(4)} ms a claim\n`,
  );
  say('checking and writing takes', best.both / best.writer, MOST_TIMES_WRITER);
}

/** A second insurer for everybody. */
async function secondInsurer(t: TestDatabase): Promise<void> {
  await t.pool.query(`
    with made as (
      insert into policy (insurance_plan_id, holder_id)
      select (select max(n.id) from insurance_plan n where n.payer_id <> (select payer_id from insurance_plan where id = q.insurance_plan_id)),
        q.holder_id
      from policy q
        join party h on h.id = q.holder_id
        join patient p on p.id = h.patient_id
      where p.last = 'Bulk'
      returning id, holder_id
    ),
    insured as (
      insert into policy_person (policy_id, patient_id, relationship)
      select m.id, h.patient_id, 'self' from made m join party h on h.id = m.holder_id
      returning id, policy_id, patient_id
    ),
    numbered as (
      insert into policy_number (policy_person_id, member_id) select id, 'NEXT' || id from insured
    )
    insert into coverage (case_id, position, policy_id)
    select c.id, 2, i.policy_id from insured i join care_case c on c.patient_id = i.patient_id`);
}

/** The rows of claims that were built, written barely: three inserts a claim, nothing asked. */
async function bare(t: TestDatabase, ids: readonly number[]): Promise<void> {
  const { rows } = await t.pool.query<Record<string, unknown>>(
    `
      select m.*, l.charge_id
      from claim m
        join claim_line l on l.claim_id = m.id
      where m.id = any($1::bigint[])
      order by m.id`,
    [ids],
  );
  const client = await t.pool.connect();
  try {
    await client.query('begin');
    await client.query(`update claim_line set current = false where claim_id = any($1::bigint[])`, [ids]);
    for (const one of rows) {
      const { rows: made } = await client.query<{ id: string }>({
        name: 'bare-claim',
        text: `
          insert into claim (
            control_number, household_id, patient_id, case_id, coverage_id, position, payer_id, location_id,
            provider_id, form, total, service_date, content, findings
          )
          values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)
          returning id`,
        values: [
          `B${String(one.control_number)}`,
          one.household_id,
          one.patient_id,
          one.case_id,
          one.coverage_id,
          one.position,
          one.payer_id,
          one.location_id,
          one.provider_id,
          one.form,
          one.total,
          one.service_date,
          JSON.stringify(one.content),
          JSON.stringify(one.findings),
        ],
      });
      await client.query({
        name: 'bare-line',
        text: `insert into claim_line (claim_id, number, charge_id, coverage_id) values ($1, 1, $2, $3)`,
        values: [made[0]!.id, one.charge_id, one.coverage_id],
      });
      await client.query({
        name: 'bare-event',
        text: `
          insert into claim_event (claim_id, business_date, status, cause_kind, cause, words)
          values ($1, '2026-03-16', 'draft', 'user', 'bare', 'bare')`,
        values: [made[0]!.id],
      });
    }
    await client.query('commit');
  } finally {
    client.release();
  }
}

async function nextPayers(): Promise<void> {
  const t = await testDatabase();
  try {
    await fill(t, DECISIONS, DECISIONS);
    await visits(t, DECISIONS);
    while ((await buildClaims(t.context, {})).length > 0);
    while ((await sendClaims(t.context, {})).length > 0);
    await secondInsurer(t);
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
    await postedRemittance(t, claims, { payment: cents(claims.length * 6800), trace: 'NEXT' });
    await t.pool.query('vacuum analyze');
    const start = performance.now();
    const built = await buildClaims(t.context, { which: 'next', evening: true });
    const build = performance.now() - start;
    const begun = performance.now();
    await bare(t, built);
    const inserts = performance.now() - begun;
    process.stdout.write(
      `next payers          ${(build / built.length).toFixed(3)} ms a claim of ${built.length}\nbare inserts         ${(inserts / built.length).toFixed(3)} ms a claim\n`,
    );
    if (built.length < DECISIONS)
      throw new Error(`${built.length} claims of ${DECISIONS} decisions were built`);
    say('building for next payers takes', build / inserts, MOST_TIMES_INSERTS);
  } finally {
    await t.close();
  }
}

checkAndWrite();
await nextPayers();
process.exitCode = missed > 0 ? 1 : 0;
