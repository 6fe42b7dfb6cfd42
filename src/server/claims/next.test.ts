/** Claims go on to the next payer by themselves: in the evening, unless the payer before handed them on, and told anew when it decides anew. */
import { sql } from 'kysely';
import { startWork } from '../jobs/work';
import { fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  decided,
  doWork,
  household,
  postedRemittance,
  secondCoverage,
  sentClaim,
} from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { addCoverage } from '../accounts/coverage';
import { findList } from '../lists/read';
import { reverseRemittance } from '../remittances/reverse';
import { inTransaction } from '../use-case';
import { buildClaims } from './build';
import { notOnFile, sayDelay } from './drafts';
import { withdrawClaim } from './hold';
import { claimText, readClaim } from './read';
import { replaceClaim } from './replace';
import { sendClaims } from './send';
import { payerTold } from './stale';

const t = fileDatabase();
const CEDAR = 'Cedar Sound Health';

/** A visit of 145.00, sent to the first payer of two. */
async function twoPayers() {
  const s = await sentClaim(t);
  const second = await secondCoverage(t, s.patientId);
  return { ...s, second };
}
type Two = Awaited<ReturnType<typeof twoPayers>>;
const FIRST = ['CO-45:47.00', 'PR-3:30.00'];
const firstSays = (s: Two, more: Partial<ReturnType<typeof decided>> = {}, paid = 6800, reasons = FIRST) =>
  postedRemittance(t, [
    {
      ...decided(s.claim.control_number, [{ control: s.controls[0]!, charge: 14_500, paid, reasons }]),
      ...more,
    },
  ]);
const evening = async (): Promise<void> => {
  await inTransaction(t.context, (act) => startWork(act, 'claims of the evening', {}));
  await doWork(t);
};
const laterOf = (s: Two) =>
  t.db
    .selectFrom('claim')
    .selectAll()
    .where('household_id', '=', s.householdId)
    .where('coverage_id', '=', s.second)
    .orderBy('id', 'desc')
    .executeTakeFirst();
const followUps = (s: Two) =>
  t.db
    .selectFrom('follow_up')
    .select(['kind', 'closed_as', 'outcome'])
    .where('household_id', '=', s.householdId)
    .orderBy('id')
    .execute();
const payerIs = (set: Record<string, unknown>) =>
  t.db.updateTable('payer').set(set).where('name', '=', CEDAR).execute();
afterEach(() => payerIs({ new_claims: 'evening', later_filing_days: null }));

describe('in the evening', () => {
  test('what waits with first payers and what was passed on is built, and the follow-up of it ends', async () => {
    const s = await twoPayers();
    await firstSays(s);
    expect(await followUps(s)).toMatchObject([{ kind: 'next-payer', closed_as: null }]);
    const fresh = await household(t, true);
    await charge(t, t.context, fresh.patientId, '90.00');
    await evening();
    const later = (await laterOf(s))!;
    expect(later).toMatchObject({ status: 'ready', position: 2, total: 14_500 });
    expect(await followUps(s)).toMatchObject([
      { closed_as: 'answered', outcome: `Billed with claim ${later.control_number}` },
    ]);
    expect(
      await t.db.selectFrom('claim').select('status').where('household_id', '=', fresh.householdId).execute(),
    ).toEqual([{ status: 'ready' }]);
    // Once: the next evening finds nothing.
    await evening();
    expect((await laterOf(s))!.id).toBe(later.id);
    // Withdrawn, it is followed again, and built again.
    await withdrawClaim(t.context, { claimId: later.id, why: 'by mistake' });
    expect(await followUps(s)).toMatchObject([{ closed_as: null, outcome: '' }]);
    await evening();
    expect((await laterOf(s))!.id).not.toBe(later.id);
    expect(await brokenInvariants(t)).toEqual([]);
  });

  test.each([
    ['asked', undefined],
    ['held', 'held'],
    ['sent', 'sent'],
  ] as const)('as the payer says: %s', async (new_claims, status) => {
    await payerIs({ new_claims });
    const { householdId, patientId } = await household(t, true);
    await charge(t, t.context, patientId, '90.00');
    await evening();
    const claim = await t.db
      .selectFrom('claim')
      .select('status')
      .where('household_id', '=', householdId)
      .executeTakeFirst();
    expect(claim?.status).toBe(status);
    // Asked for, it is built whatever the payer says of evenings.
    if (!claim) expect(await buildClaims(t.context, { householdId })).toHaveLength(1);
  });

  test('what a person, a case or chosen charges have is built alone', async () => {
    const s = await twoPayers();
    await firstSays(s);
    const one = await charge(t, t.context, s.patientId, '90.00', '99213', '2026-03-12' as never);
    await charge(t, t.context, s.patientId, '80.00', '99213', '2026-03-13' as never);
    const built = await buildClaims(t.context, { chargeIds: [one, ...s.charges], which: 'all' });
    const totals = await t.db
      .selectFrom('claim')
      .select('total')
      .where('id', 'in', built)
      .orderBy('total')
      .execute();
    expect(totals).toEqual([{ total: 9000 }, { total: 14_500 }]);
    expect(await buildClaims(t.context, { patientId: s.patientId, which: 'all' })).toHaveLength(1);
    expect(await buildClaims(t.context, { patientId: s.patientId, which: 'all' })).toEqual([]);
    await expect(buildClaims(t.context, { chargeIds: [] })).rejects.toThrow('Choose a charge');
  });
});

describe('handed on by the payer before', () => {
  const answer = (s: Two, later: { control: string }, control: string) =>
    postedRemittance(t, [
      decided(
        control,
        [{ control: later.control, charge: 14_500, paid: 2000, reasons: ['OA-23:115.00', 'PR-2:10.00'] }],
        '2',
      ),
    ]);

  test('it is followed and not sent; the answer under the first claim’s number is posted to it', async () => {
    const s = await twoPayers();
    await firstSays(s, { status: '19' });
    await evening();
    const later = (await laterOf(s))!;
    expect(later).toMatchObject({ status: 'sent', transmission_id: null, sent_date: '2026-03-16' });
    expect(await followUps(s)).toMatchObject([
      { outcome: `Handed on by the payer before, followed with claim ${later.control_number}` },
    ]);
    await expect(sendClaims(t.context, { claimIds: [later.id] })).rejects.toThrow('was sent already');
    expect(await claimText(t.context, await readClaim(t.context, later.id))).toContain('AMT*D*68.00');
    // Under the number of the claim that the first payer had, with its line’s number.
    await answer(s, { control: s.controls[0]! }, s.claim.control_number);
    expect((await laterOf(s))!.status).toBe('closed');
    const { figures } = await readAccount(t.context, s.householdId);
    expect([figures.withPayer, figures.withPatient]).toEqual([0, 1000]);
    expect(await brokenInvariants(t)).toEqual([]);
  });

  test('silent for two weeks it is work; not on file it is ours again, and goes as an original', async () => {
    const s = await twoPayers();
    await firstSays(s, { status: '19' });
    await evening();
    const { id, control_number: number } = (await laterOf(s))!;
    const unanswered = async (day: string) =>
      (
        await findList({ ...t.context, today: day as never }, 'claims', {
          view: 'unanswered',
          search: number,
        })
      ).count;
    expect([await unanswered('2026-03-29'), await unanswered('2026-03-30')]).toEqual([0, 1]);
    await expect(sendClaims(t.context, { claimIds: [id] })).rejects.toThrow('was sent already');
    await notOnFile(t.context, { claimId: id, why: 'their desk, by telephone' });
    await expect(notOnFile(t.context, { claimId: id, why: 'again' })).rejects.toThrow('waits with its payer');
    expect((await laterOf(s))!).toMatchObject({
      status: 'rejected',
      hold_reason: 'Not on file with the payer: their desk, by telephone',
    });
    await sendClaims(t.context, { claimIds: [id] });
    const sent = (await laterOf(s))!;
    expect(sent).toMatchObject({ status: 'sent', frequency: '1' });
    expect(sent.transmission_id).not.toBeNull();
    const [line] = await t.db.selectFrom('claim_line').select('id').where('claim_id', '=', id).execute();
    await answer(s, { control: `L${line!.id}` }, number);
    expect((await laterOf(s))!.status).toBe('closed');
  });

  test('handed to somebody else, it is billed; named by a number that is nobody’s, it is followed', async () => {
    const [elsewhere, unknown] = [await twoPayers(), await twoPayers()];
    await firstSays(elsewhere, { status: '19', crossover: { name: 'Tern Mutual Dental', id: 'TMD77' } });
    await firstSays(unknown, { status: '19', crossover: { name: 'Clearing pool', id: '0001' } });
    await t.db
      .insertInto('payer')
      .values({ name: 'Somebody else', payer_id: 'TMD77' })
      .onConflict((on) => on.doNothing())
      .execute();
    await evening();
    expect((await laterOf(elsewhere))!.status).toBe('ready');
    expect((await laterOf(unknown))!.status).toBe('sent');
  });
});

describe('the payer before decides anew', () => {
  const sentLater = async () => {
    const s = await twoPayers();
    const remittanceId = await firstSays(s);
    await evening();
    const { id } = (await laterOf(s))!;
    await sendClaims(t.context, { claimIds: [id] });
    return { ...s, id, remittanceId };
  };
  const stale = async (id: number) => {
    const { count } = await findList(t.context, 'claims', { view: 'stale' });
    const claim = await readClaim(t.context, id);
    return [claim.staleSince, count > 0];
  };

  test('a claim that is on its way is stale, and no more once what it tells stands again', async () => {
    const s = await sentLater();
    expect(await stale(s.id)).toEqual([null, false]);
    await reverseRemittance(t.context, { remittanceId: s.remittanceId, why: 'posted by mistake' });
    expect(await stale(s.id)).toEqual(['2026-03-16', true]);
    expect((await readClaim(t.context, s.id)).events.at(-1)!.words).toBe(
      'Cedar Sound Health decided anew: this claim tells what stands no more',
    );
    await firstSays(s);
    expect(await stale(s.id)).toEqual([null, false]);
  });

  test('it ends with a corrected claim that tells what stands, or when the payer was told', async () => {
    const s = await sentLater();
    await reverseRemittance(t.context, { remittanceId: s.remittanceId, why: 'wrong' });
    await firstSays(s, {}, 5800, ['CO-45:47.00', 'PR-3:40.00']);
    expect((await stale(s.id))[0]).toBe('2026-03-16');
    await payerTold(t.context, { claimId: s.id, why: 'their desk, by fax' });
    expect(await stale(s.id)).toEqual([null, false]);
    await expect(payerTold(t.context, { claimId: s.id, why: 'again' })).rejects.toThrow('tells what stands');
    await sql`update claim set stale_since = '2026-03-16', payer_claim_number = 'P9' where id = ${s.id}`.execute(
      t.db,
    );
    await sql`update claim set status = 'accepted' where id = ${s.id}`.execute(t.db);
    const by = await replaceClaim(t.context, { claimId: s.id, as: '7', payerClaimNumber: 'P9', why: 'anew' });
    expect((await readClaim(t.context, by)).content.otherPayers![0]!.decided!.paid).toBe(5800);
    expect((await stale(s.id))[1]).toBe(false);
  });

  test('a draft follows at once', async () => {
    const s = await twoPayers();
    const remittanceId = await firstSays(s);
    await evening();
    const { id } = (await laterOf(s))!;
    await reverseRemittance(t.context, { remittanceId, why: 'posted by mistake' });
    expect((await laterOf(s))!.status).toBe('draft');
    await firstSays(s, {}, 9800, ['CO-45:27.00', 'PR-3:20.00']);
    const { status, content } = await readClaim(t.context, id);
    expect([status, content.otherPayers![0]!.decided!.paid]).toEqual(['ready', 9800]);
  });
});

test('a third payer is told of both before it, each as it decided, and each balances', async () => {
  const s = await twoPayers();
  const plan = await t.db
    .selectFrom('insurance_plan as n')
    .innerJoin('payer as y', 'y.id', 'n.payer_id')
    .select('n.id')
    .where('y.name', 'not in', [CEDAR, 'Ironwood Casualty'])
    .orderBy('n.id')
    .executeTakeFirstOrThrow();
  await addCoverage(t.context, {
    patientId: s.patientId,
    insurancePlanId: plan.id,
    memberId: 'THIRD77',
    position: 3,
    key: 'third-payer-coverage',
  });
  await firstSays(s);
  await evening();
  const second = (await laterOf(s))!;
  await sendClaims(t.context, { claimIds: [second.id] });
  const [line] = await t.db.selectFrom('claim_line').select('id').where('claim_id', '=', second.id).execute();
  await postedRemittance(t, [
    decided(
      second.control_number,
      [{ control: `L${line!.id}`, charge: 14_500, paid: 2000, reasons: ['OA-23:115.00', 'PR-2:10.00'] }],
      '2',
    ),
  ]);
  await evening();
  const third = await t.db
    .selectFrom('claim')
    .select(['id', 'status'])
    .where('household_id', '=', s.householdId)
    .where('position', '=', 3)
    .executeTakeFirstOrThrow();
  const { content } = await readClaim(t.context, third.id);
  expect([third.status, content.total]).toEqual(['ready', 14_500]);
  expect(content.otherPayers!.map(({ decided: word }) => word!.paid)).toEqual([6800, 2000]);
  const text = await claimText(t.context, await readClaim(t.context, third.id));
  for (const segment of [
    'SBR*T*18',
    'SBR*P*18',
    'SBR*S*18',
    'AMT*D*68.00',
    'AMT*D*20.00',
    'CAS*OA*23*115.00',
  ])
    expect(text).toContain(segment);
});

test('a reason code of our own stops the claim until it says as which standard one it goes on', async () => {
  const own = { words: 'Their own', patient_words: '', reduction_account: 'reduction/contract' as const };
  await t.db
    .insertInto('reason_code')
    .values({ group_code: 'CO', code: 'ZZ7', ...own })
    .execute();
  const s = await twoPayers();
  await firstSays(s, {}, 6800, ['CO-ZZ7:47.00', 'PR-3:30.00']);
  await evening();
  const { id } = (await laterOf(s))!;
  await expect(sendClaims(t.context, { claimIds: [id] })).rejects.toThrow(
    'Reason ZZ7 of Cedar Sound Health is a code of our own',
  );
  await t.db.updateTable('reason_code').set({ travels_as: 'OA-192' }).where('code', '=', 'ZZ7').execute();
  await sendClaims(t.context, { claimIds: [id] });
  expect(await claimText(t.context, await readClaim(t.context, id))).toContain('CAS*OA*192*47.00');
});

test('the limit of a next payer runs from the first decision, whatever is corrected afterwards; late, it says why', async () => {
  await payerIs({ later_filing_days: 30 });
  const s = await twoPayers();
  const remittanceId = await firstSays(s);
  await evening();
  const { id } = (await laterOf(s))!;
  const wrong = async (today: string) => {
    await expect(sendClaims({ ...t.context, today: today as never }, { claimIds: [id] })).rejects.toThrow(
      'The filing limit for',
    );
  };
  await reverseRemittance(t.context, { remittanceId, why: 'posted by mistake' });
  await postedRemittance(
    t,
    [
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14_500, paid: 5800, reasons: ['CO-45:47.00', 'PR-3:40.00'] },
      ]),
    ],
    {},
  );
  await wrong('2026-04-16');
  await expect(sayDelay(t.context, { claimId: id, reason: '12' as never })).rejects.toThrow();
  await sayDelay(t.context, { claimId: id, reason: '7' });
  await sendClaims({ ...t.context, today: '2026-04-16' as never }, { claimIds: [id] });
  expect(await claimText(t.context, await readClaim(t.context, id))).toMatch(/CLM\*.*\*7~/);
  await expect(sayDelay(t.context, { claimId: id, reason: '' })).rejects.toThrow('was sent');
});
