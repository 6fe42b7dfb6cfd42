/** Every kind of rule that is kept reaches the estimate; what is said of a policy is said of it alone. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { charge, household, estimateTyped } from '../../testing/desk';

const t = fileDatabase();

/** A person born in 1980 with a policy that says a rule; and what is estimated of a visit of 145.00, of which 98.00 is allowed. */
async function saying(rule: Record<string, unknown>) {
  const made = await household(t);
  const { policy_id } = await t.db
    .selectFrom('covered')
    .select('policy_id')
    .where('patient_id', '=', made.patientId)
    .executeTakeFirstOrThrow();
  // Without the copay of the plan, all that is allowed is paid.
  await t.db
    .insertInto('benefit_rule')
    .values({ kind: 'copay', amount: 0 as never, policy_id })
    .execute();
  await t.db
    .insertInto('benefit_rule')
    .values({ policy_id, ...rule } as never)
    .execute();
  const estimated = async (more: object = {}) => {
    const typed = { caseId: made.caseId, code: '99213', units: 1, fee: '145.00', date: TODAY, ...more };
    const one = (await estimateTyped(t.context, typed))!;
    return [one.payers[0]!.pays, one.patient];
  };
  return { ...made, estimated };
}

test.each<[string, Record<string, unknown>, number[]]>([
  ['nothing else', { kind: 'maximum', amount: null }, [9800, 0]],
  ['a deductible of the household', { kind: 'deductible', amount: 3000, holder: 'household' }, [6800, 3000]],
  [
    'a copay in place of all else',
    { kind: 'copay', amount: 2500, copay_order: 'instead', valid_from: TODAY },
    [7300, 2500],
  ],
  ['a maximum for life', { kind: 'maximum', amount: 5000, every: 'life' }, [5000, 4800]],
  ['out of pocket, with a deductible that is more', { kind: 'out-of-pocket', amount: 0 }, [9800, 0]],
  ['no visits', { kind: 'limit', measure: 'visits', quantity: 0 }, [0, 9800]],
  [
    'of a group of codes, of which it is none',
    { kind: 'limit', measure: 'visits', quantity: 0, codes: ['97110'] },
    [9800, 0],
  ],
  ['covered through 18 years', { kind: 'ages', age_through: 18 }, [0, 9800]],
  ['covered from 40 years on', { kind: 'ages', age_from: 40 }, [9800, 0]],
  // 62.00 is allowed for 99212.
  ['paid as a shorter visit', { kind: 'lesser-service', paid_as: '99212' }, [6200, 3600]],
  ['without an approval', { kind: 'approval' }, [0, 9800]],
  ['of several, the first whole', { kind: 'several', shares: [10_000, 5000] }, [9800, 0]],
])('%s', async (_, rule, expected) => {
  const { estimated } = await saying(rule);
  expect(await estimated()).toEqual(expected);
});

test('of several in a visit the second is less, in the order of what is allowed', async () => {
  const { patientId, estimated } = await saying({ kind: 'several', shares: [10_000, 5000] });
  await charge(t, t.context, patientId, '205.00', '99214');
  expect(await estimated()).toEqual([4900, 0]);
});

test('with an approval of the case on the day it is paid', async () => {
  const { caseId, estimated } = await saying({ kind: 'approval' });
  await sql`
    insert into care_authorization (case_id, payer_id, kind, state, number, asked_on, answered_on, valid_from, valid_to)
    select ${caseId}, payer_id, 'prior-authorization', 'approved', 'AUTH1', ${TODAY}, ${TODAY}, ${TODAY}, ${TODAY}
    from coverage_plan
    where case_id = ${caseId}`.execute(t.owner);
  expect(await estimated()).toEqual([9800, 0]);
  expect(await estimated({ date: addDays(TODAY, -1) })).toEqual([0, 9800]);
});

test('in the first months of the coverage nothing is paid', async () => {
  const { caseId, estimated } = await saying({ kind: 'waiting', quantity: 6 });
  // A coverage that has been there always is over it.
  expect(await estimated()).toEqual([9800, 0]);
  await sql`update coverage set valid_from = ${addDays(TODAY, -30)} where case_id = ${caseId}`.execute(
    t.owner,
  );
  expect(await estimated()).toEqual([0, 9800]);
});
