/** What a plan covers, and one person's policy of it: a visit answers while a rule is typed; a policy may say otherwise. */
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, household } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { saveSetup } from '../setup/save';
import { dropOwnRule, estimateVisit, readTerms, sayOwnRule } from './terms';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
/** A plan without a contract, of which nothing is said yet. */
async function barePlan(): Promise<number> {
  const { payer_id } = await t.db
    .selectFrom('insurance_plan')
    .select('payer_id')
    .orderBy('id')
    .executeTakeFirstOrThrow();
  const key = await saveSetup(t.context, {
    table: 'plans',
    values: {
      payer_id: String(payer_id),
      name: `Bare ${(serial += 1)}`,
      contracted: false,
      coordination: 'standard',
      timed_units: 'total',
    },
  });
  return Number(key);
}
const say = (planId: number, table: string, values: Record<string, string | boolean>, row?: string) =>
  saveSetup(t.context, {
    table,
    values: { insurance_plan_id: String(planId), ...values },
    ...(row ? { row } : {}),
  });
const visit = (planId: number, more: Partial<Parameters<typeof estimateVisit>[1]> = {}) =>
  estimateVisit(t.context, { planId, day: TODAY, services: [{ code: '99213', fee: '100.00' }], ...more });
const patientPart = async (planId: number, more: Partial<Parameters<typeof estimateVisit>[1]> = {}) => {
  const { services, draft } = await visit(planId, more);
  return [services.reduce((all, { patient }) => all + patient, 0), draft];
};
const SHARE = { category: 'office visit', codes: '', share: '80 %', valid_from: '' };

test('a rule that is being typed counts before it is saved, in the place of the one that stands; half a rule does not', async () => {
  const { category } = await t.db
    .selectFrom('service_code')
    .select('category')
    .where('code', '=', '99213')
    .executeTakeFirstOrThrow();
  const share = { ...SHARE, category };
  const planId = await barePlan();
  expect(await patientPart(planId)).toEqual([10_000, false]);
  const draft = { table: 'shares', values: share } as const;
  expect(await patientPart(planId, { draft })).toEqual([2000, true]);
  expect(await patientPart(planId)).toEqual([10_000, false]);
  await say(planId, 'shares', share);
  expect(await patientPart(planId)).toEqual([2000, false]);
  expect(
    await patientPart(planId, { draft: { table: 'shares', values: { ...share, share: '50 %' } } }),
  ).toEqual([5000, true]);
  expect(
    await patientPart(planId, { draft: { table: 'shares', values: { ...share, share: 'many' } } }),
  ).toEqual([2000, false]);
  expect(
    await patientPart(planId, {
      draft: { table: 'deductibles', values: { amount: '30.00', holder: 'person', category: '' } },
    }),
  ).toEqual([4400, true]);
  // From tomorrow on, it is not of today.
  expect(
    await patientPart(planId, {
      draft: { table: 'shares', values: { ...share, share: '50 %', valid_from: '2026-03-17' } },
    }),
  ).toEqual([2000, true]);
});

test('a group of codes instead of a category, on every kind of rule that has a scope', async () => {
  const planId = await barePlan();
  await say(planId, 'shares', { codes: '99213, 87880', category: '', share: '100 %' });
  expect(await patientPart(planId)).toEqual([0, false]);
  expect((await patientPart(planId, { services: [{ code: '80053', fee: '48.00' }] }))[0]).toBe(4800);
  await say(planId, 'limits', {
    codes: '87880',
    category: '',
    quantity: '0',
    measure: 'services',
    holder: 'person',
    every: 'year',
    months: '',
    anchor: '',
    then_pays: 'patient',
    warning: 'none',
  });
  expect((await patientPart(planId, { services: [{ code: '87880', fee: '42.00' }] }))[0]).toBe(4200);
  await expect(
    say(planId, 'shares', { codes: '99213', category: 'therapy', share: '1 %' }),
  ).rejects.toMatchObject({ field: 'codes' });
  await expect(say(planId, 'shares', { codes: '', category: '', share: '1 %' })).rejects.toMatchObject({
    field: 'category',
  });
  await expect(say(planId, 'shares', { codes: 'NONE9', category: '', share: '1 %' })).rejects.toMatchObject({
    field: 'codes',
  });
  const page = await readTerms(t.context, planId, null);
  expect(page.rules.map(({ table, owner, holds, values }) => [table, owner, holds, values['codes']])).toEqual(
    expect.arrayContaining([
      ['shares', 'plan', true, '87880, 99213'],
      ['limits', 'plan', true, '87880'],
    ]),
  );
});

test('one policy says otherwise than its plan: said once, put right, and taken back; nobody else’s changes', async () => {
  const one = await household(t);
  const other = await household(t);
  const coverageOf = async ({ householdId }: { householdId: number }) =>
    (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages[0]!;
  const coverage = await coverageOf(one);
  const { planId } = coverage;
  const part = async (coverageId: number, more: object = {}) =>
    (await patientPart(planId, { coverageId, services: [{ code: '99213' }], ...more }))[0];
  const before = await part(coverage.id);
  const values = { amount: '5.00', counted_for: 'visit', copay_order: 'between', codes: '', valid_from: '' };
  // While it is typed, before it is said.
  expect(await part(coverage.id, { draft: { table: 'copays', values } })).not.toBe(before);
  const ruleId = await sayOwnRule(t.as('front-desk'), { coverageId: coverage.id, table: 'copays', values });
  const said = await part(coverage.id);
  expect(said).not.toBe(before);
  expect(await part((await coverageOf(other)).id)).toBe(before);
  expect(
    await sayOwnRule(t.context, {
      coverageId: coverage.id,
      table: 'copays',
      values: { ...values, amount: '9.00' },
    }),
  ).toBe(ruleId);
  expect(await part(coverage.id)).toBe(Number(said) + 400);
  const page = await readTerms(t.as('front-desk'), planId, coverage.id);
  const copays = page.rules.filter(({ table }) => table === 'copays');
  expect(copays.map(({ owner, holds }) => [owner, holds])).toEqual(
    expect.arrayContaining([
      ['plan', false],
      ['coverage', true],
    ]),
  );
  await dropOwnRule(t.context, { coverageId: coverage.id, ruleId });
  expect(await part(coverage.id)).toBe(before);
  await expect(dropOwnRule(t.context, { coverageId: coverage.id, ruleId })).rejects.toThrow(/no such rule/);
  // The plan's own rule is not one coverage's to take away.
  const plans = copays.find(({ owner }) => owner === 'plan')!;
  await expect(dropOwnRule(t.context, { coverageId: coverage.id, ruleId: plans.id })).rejects.toThrow(
    /no such rule/,
  );
  await expect(
    sayOwnRule(t.context, { coverageId: coverage.id, table: 'copays', values: { ...values, amount: 'x' } }),
  ).rejects.toMatchObject({ field: 'amount' });
});

test('who may not read Setup sees no plan, and a coverage of another plan is none', async () => {
  const { householdId } = await household(t);
  const [coverage] = (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages;
  await expect(readTerms(t.as('front-desk'), coverage!.planId, null)).rejects.toThrow(/may not/);
  await expect(
    estimateVisit(t.as('front-desk'), { planId: coverage!.planId, day: TODAY, services: [] }),
  ).rejects.toThrow(/may not/);
  await expect(readTerms(t.context, await barePlan(), coverage!.id)).rejects.toThrow(/no such coverage/);
  await expect(readTerms(t.context, 999_999, null)).rejects.toThrow(/no such plan/);
  await expect(
    estimateVisit(t.context, { planId: coverage!.planId, day: TODAY, services: [{ code: 'NONE9' }] }),
  ).rejects.toMatchObject({ field: 'services' });
  await expect(
    visit(coverage!.planId, { services: [{ code: '99213', fee: '-5.00' }] }),
  ).rejects.toMatchObject({ field: 'services' });
});
