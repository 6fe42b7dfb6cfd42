/**
 * The estimate of a visit of somebody with three insurers and eight limits: milliseconds, the median of sixty, beside the same with ten
 * times the households and charges around. At most 1.3 times as long.
 */
import { addCoverage } from '../src/server/accounts/coverage';
import { sayOwnRule } from '../src/server/estimates/terms';
import { type TestDatabase, testDatabase } from '../src/testing/database';
import { estimateTyped, household } from '../src/testing/desk';
import { fill } from './fill';

const MOST = 1.3;
const TURNS = 60;
const NO_SCOPE = { category: '', codes: '', valid_from: '' };
const A_YEAR = { holder: 'person', every: 'year', months: '', anchor: '' };

/** Somebody with three insurers, of whom the first counts eight limits. @returns the case */
async function insuredThrice(t: TestDatabase): Promise<number> {
  const { patientId, caseId } = await household(t);
  const others = ['NL-A10', 'TD-5'].map((group) => t.insurancePlans[group]!);
  for (const [index, insurancePlanId] of others.entries())
    await addCoverage(t.context, {
      patientId,
      insurancePlanId,
      position: index + 2,
      memberId: `BENCH${index}`,
      key: `bench coverage ${index}`,
    });
  const { id: coverageId } = await t.db
    .selectFrom('coverage')
    .select('id')
    .where('case_id', '=', caseId)
    .where('position', '=', 1)
    .executeTakeFirstOrThrow();
  const say = (table: 'deductibles' | 'out-of-pocket' | 'maximums' | 'limits', values: object) =>
    sayOwnRule(t.context, { coverageId, table, values: { ...NO_SCOPE, ...values } as never });
  await say('deductibles', { amount: '500.00', holder: 'person', anchor: '' });
  await say('deductibles', { amount: '1000.00', holder: 'household', anchor: '' });
  await say('out-of-pocket', { amount: '5000.00', holder: 'person', anchor: '' });
  await say('out-of-pocket', { amount: '9000.00', holder: 'household', anchor: '' });
  await say('maximums', { ...A_YEAR, amount: '20000.00', then_pays: 'next', warning: 'none' });
  await say('maximums', { ...A_YEAR, every: 'life', amount: '90000.00', then_pays: 'next', warning: 'none' });
  for (const measure of ['visits', 'days'])
    await say('limits', {
      ...A_YEAR,
      quantity: '40',
      measure,
      by_tooth: false,
      then_pays: 'next',
      warning: 'none',
    });
  return caseId;
}

async function measure(households: number): Promise<number> {
  const t = await testDatabase();
  try {
    await fill(t, households, households * 3);
    const caseId = await insuredThrice(t);
    const client = await t.pool.connect();
    await client.query('vacuum analyze');
    client.release();
    const times: number[] = [];
    for (let turn = 0; turn < TURNS; turn += 1) {
      const start = performance.now();
      await estimateTyped(t.context, {
        caseId,
        code: '99213',
        units: 1,
        fee: '145.00',
        date: t.context.today,
      });
      times.push(performance.now() - start);
    }
    return times.sort((a, b) => a - b)[TURNS / 2]!;
  } finally {
    await t.close();
  }
}

async function main(): Promise<void> {
  const small = await measure(500);
  const large = await measure(5000);
  const ratio = large / small;
  process.stdout.write(
    `an estimate: ${small.toFixed(2)} ms, with ten times the data ${large.toFixed(2)} ms: ${ratio.toFixed(2)} times\n`,
  );
  process.exitCode = ratio > MOST ? 1 : 0;
}

await main();
