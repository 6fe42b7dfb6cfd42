/** Ids that are there and belong to somebody else: named together with one's own they are refused, and nothing changes. */
import { sql } from 'kysely';
import { TODAY, fileDatabase } from '../testing/database';
import { enterCharge } from './accounts/charges';
import { charge, decided, household, intake, remitText, sentClaim } from '../testing/desk';
import { Refused } from './access';
import { addCoverage, changeCoverage } from './accounts/coverage';
import { readAccount } from './account-page/read';
import { checkBooks } from './books/check';
import { settleWaiting } from './follow-ups/work';
import { takeReceipt } from './payments/take';
import { postRemittance } from './remittances/post';
import { reverseRemittance } from './remittances/reverse';

const t = fileDatabase();

let serial = 0;
const key = (): string => `others-${(serial += 1)}`;

const counted = async (): Promise<unknown> =>
  (
    await sql`
      select (select count(*) from entry) as entries, (select count(*) from receipt) as receipts,
        (select count(*) from coverage) as coverages,
      (select sum(version) from coverage) as versions`.execute(t.db)
  ).rows[0];

async function refusedWhole(act: Promise<unknown>): Promise<void> {
  const before = await counted();
  await expect(act).rejects.toThrow(Refused);
  expect(await counted()).toEqual(before);
  expect((await checkBooks(t.db)).flatMap(({ faults }) => faults)).toEqual([]);
}

/** A posted remittance with a denied line, of a household of its own. */
async function denied() {
  const s = await sentClaim(t);
  const { outcomes } = await intake(
    t.context,
    remitText([
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 0, reasons: ['CO-97:145.00'] },
      ]),
    ]),
  );
  const remittanceId = outcomes[0]!.remittanceId!;
  await postRemittance(t.context, remittanceId);
  const { id } = await t.db
    .selectFrom('remittance_claim')
    .select('id')
    .where('remittance_id', '=', remittanceId)
    .executeTakeFirstOrThrow();
  return { ...s, remittanceId, remittanceClaimId: id };
}
const coverageOf = async (householdId: number): Promise<number> =>
  (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages[0]!.id;

test('a payment of one household pays no charge of another', async () => {
  const [one, two] = [await household(t, false), await household(t, false)];
  const theirs = await charge(t, t.context, two.patientId, '80.00');
  await charge(t, t.context, one.patientId, '80.00');
  await refusedWhole(
    takeReceipt(t.context, {
      householdId: one.householdId,
      tenders: [{ tender: 'cash', amount: '50.00' }],

      parts: { [String(theirs)]: '50.00' },
      key: key(),
    }),
  );
});

test('a charge is not settled with the coverage of another, which owes nothing of it', async () => {
  const [one, two] = [await denied(), await denied()];
  const coverageId = await coverageOf(two.householdId);
  await refusedWhole(
    settleWaiting(t.context, { chargeId: one.charges[0]!, coverageId, to: 'off', why: 'x' }),
  );
});

test('a claim of one remittance is not reversed with another', async () => {
  const [one, two] = [await denied(), await denied()];
  await refusedWhole(
    reverseRemittance(t.context, {
      remittanceId: one.remittanceId,
      remittanceClaimId: two.remittanceClaimId,
      why: 'x',
    }),
  );
});

test('nobody is covered on the policy of somebody in another household', async () => {
  const [one, two] = [await household(t), await household(t)];
  const policy = {
    insurancePlanId: t.insurancePlans['CS-350'],
    memberId: 'CSH77',
    relationship: 'spouse' as const,
    subscriberId: two.patientId,
  };
  await refusedWhole(
    addCoverage(t.context, { ...policy, patientId: one.patientId, position: 2, key: key() }),
  );
  await refusedWhole(
    changeCoverage(t.context, {
      coverageId: await coverageOf(one.householdId),
      version: 1,
      memberId: 'CSH77',
      relationship: 'spouse',
      subscriberId: two.patientId,
    }),
  );
});

test('nothing is charged to the case of another patient, and no policy takes a place there', async () => {
  const [one, two] = [await household(t), await household(t)];
  const service = { providerId: t.providers.family, serviceDate: TODAY, code: '99213', diagnoses: ['J06.9'] };
  await refusedWhole(
    enterCharge(t.context, { ...service, patientId: one.patientId, caseId: two.caseId, key: key() }),
  );
  await refusedWhole(
    addCoverage(t.context, {
      patientId: one.patientId,
      caseId: two.caseId,
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId: 'CSH78',
      position: 2,
      key: key(),
    }),
  );
});
