/**
 * A claim that the payer has, corrected as a whole: who did it, the day, lines left out and added; what identifies it is voided instead.
 * CLM05-3 7 and 8, REF*F8, and CO-16 with MA130 from memory of 005010X222A1 and the remark codes.
 */
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, decided, postedRemittance, sentClaim } from '../../testing/desk';
import { voidCharge } from '../accounts/charges';
import { readAccount } from '../account-page/read';
import { findList } from '../lists/read';
import { reportOf } from '../reports';
import { buildClaims } from './build';
import { addLines, correctProvider, leaveOutLine, putBackLine, toldByHand } from './correct';
import { changeCharge } from './fix';
import { withdrawClaim } from './hold';
import { claimText, readClaim } from './read';
import { replaceClaim } from './replace';
import { sendClaims } from './send';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

const DECISION = ['CO-45:47.00', 'PR-3:30.00'];
/** A claim of one visit, or several, decided by line: 68.00 paid, 47.00 off, 30.00 the patient's. */
async function paid(fees = ['145.00']) {
  const s = await sentClaim(t, fees);
  await postedRemittance(t, [says(s)]);
  return s;
}
type Paid = Awaited<ReturnType<typeof sentClaim>>;
const says = (s: Paid, sign = 1, status = '1') =>
  decided(
    s.claim.control_number,
    s.controls.map((control) => ({
      control,
      charge: sign * 14_500,
      paid: sign * 6800,
      reasons: DECISION.map((one) => (sign < 0 ? one.replace(':', ':-') : one)),
    })),
    status,
  );
const correct = (s: Paid, as: '1' | '7' | '8' = '7') =>
  replaceClaim(t.context, { claimId: s.claim.id, as, why: 'put right', payerClaimNumber: 'PCN1' });
const answer = async (claimId: number) => {
  const { content } = await readClaim(t.context, claimId);
  await postedRemittance(t, [
    decided(
      content.controlNumber,
      content.lines.map(({ control }) => ({ control, charge: 14_500, paid: 6800, reasons: DECISION })),
    ),
  ]);
};
const earned = async (provider: number, from = '2026-01-01', to = '2026-12-31') => {
  const { totals } = await reportOf('production')!.read(t.context, { from, to, provider: String(provider) });
  return [totals.charged ?? 0, totals.contract ?? 0, totals.payers ?? 0, totals.services ?? 0];
};

describe('who did it', () => {
  test('a wrong provider after the payment: what moved goes over today, what is decided stays, and the payer decides anew', async () => {
    const s = await paid();
    const [family, other] = [t.providers.family!, t.providers.family2!];
    const before = [await earned(family), await earned(other)];
    const id = await correct(s);
    await correctProvider(t.context, { claimId: id, providerId: other });
    const own = [14_500, 4700, 6800, 1];
    expect([await earned(family), await earned(other)]).toEqual([
      before[0]!.map((amount, at) => amount - own[at]!),
      before[1]!.map((amount, at) => amount + own[at]!),
    ]);
    // The days before stay as they were reported.
    const yesterday = addDays(TODAY, -1);
    expect(await earned(other, '2026-01-01', yesterday)).toEqual([0, 0, 0, 0]);
    const { content, events } = await readClaim(t.context, id);
    const npi = await t.db
      .selectFrom('provider')
      .select('npi')
      .where('id', '=', other)
      .executeTakeFirstOrThrow();
    expect(content.rendering!.npi).toBe(npi.npi);
    expect(events.at(-1)!.words).toMatch(/^Done by /);
    expect((await readAccount(t.context, s.householdId)).figures.withPatient).toBe(3000);
    await sendClaims(t.context, { claimIds: [id] });
    await postedRemittance(t, [says(s, -1, '22')]);
    await answer(id);
    expect((await readAccount(t.context, s.householdId)).figures).toMatchObject({
      withPatient: 3000,
      withPayer: 0,
    });
    // What moves afterwards is the right one's at once.
    expect(await earned(other)).toEqual(before[1]!.map((amount, at) => amount + own[at]!));
    await expect(correctProvider(t.context, { claimId: id, providerId: family })).rejects.toThrow('was sent');
  });

  test('withdrawn, the first claim would say somebody else: that is put back first', async () => {
    const s = await paid();
    const id = await correct(s);
    await correctProvider(t.context, { claimId: id, providerId: t.providers.family2! });
    await expect(withdrawClaim(t.context, { claimId: id, why: 'not needed' })).rejects.toThrow(
      'somebody else did 99213',
    );
    await correctProvider(t.context, { claimId: id, providerId: t.providers.family! });
    await withdrawClaim(t.context, { claimId: id, why: 'not needed' });
    expect((await readClaim(t.context, s.claim.id)).current).toBe(true);
  });

  test('what was freed of a correction stays free when a further one is withdrawn', async () => {
    const s = await sentClaim(t, ['145.00', '145.00']);
    const refused = s.controls.map((control) => ({
      control,
      charge: 14_500,
      paid: 0,
      reasons: ['CO-16:145.00'],
    }));
    await postedRemittance(t, [decided(s.claim.control_number, refused)]);
    const first = await correct(s);
    await leaveOutLine(t.context, { claimId: first, line: 2 });
    await sendClaims(t.context, { claimIds: [first] });
    const [again] = await buildClaims(t.context, { chargeIds: [s.charges[1]!] });
    await t.db.updateTable('claim').set({ status: 'accepted' }).where('id', '=', first).execute();
    const further = await replaceClaim(t.context, {
      claimId: first,
      as: '7',
      why: 'x',
      payerClaimNumber: 'P2',
    });
    await withdrawClaim(t.context, { claimId: further, why: 'not needed' });
    const stand = await t.db
      .selectFrom('claim_line')
      .select(['claim_id', 'charge_id'])
      .where('charge_id', 'in', s.charges)
      .where('current', '=', true)
      .orderBy('charge_id')
      .execute();
    expect(stand).toEqual([
      { claim_id: first, charge_id: s.charges[0] },
      { claim_id: again, charge_id: s.charges[1] },
    ]);
  });

  test('twice, and back: each has what moved while it stood there', async () => {
    const s = await paid();
    const [family, other] = [t.providers.family!, t.providers.family2!];
    const before = [await earned(family), await earned(other)];
    const id = await correct(s);
    await correctProvider(t.context, { claimId: id, providerId: other });
    await correctProvider(t.context, { claimId: id, providerId: family });
    expect([await earned(family), await earned(other)]).toEqual(before);
    await expect(correctProvider(t.context, { claimId: id, providerId: family })).rejects.toThrow('already');
    await expect(correctProvider(t.context, { claimId: id, providerId: 99_999_999 })).rejects.toThrow(
      'no such provider',
    );
    await expect(correctProvider(t.context, { claimId: s.claim.id, providerId: other })).rejects.toThrow(
      'Only on a claim that corrects',
    );
    // By the charge alone nobody else is said to have done it.
    await expect(
      changeCharge(t.context, {
        chargeId: s.charges[0]!,
        diagnoses: ['I10'],
        modifiers: [],
        providerId: other,
      }),
    ).rejects.toThrow('say there who did it');
  });
});

test('the day is put right, into another year too, and another insurer’s day is not', async () => {
  const s = await paid();
  const id = await correct(s);
  const change = (serviceDate: string) =>
    changeCharge(t.context, {
      chargeId: s.charges[0]!,
      diagnoses: ['I10'],
      modifiers: [],
      serviceDate: serviceDate as never,
      sure: true,
    });
  await change('2025-12-30');
  const { content, serviceDate } = await readClaim(t.context, id);
  expect([content.lines[0]!.date, serviceDate]).toEqual(['2025-12-30', '2025-12-30']);
  await t.db
    .updateTable('coverage')
    .set({ valid_from: '2025-06-01' as never })
    .where('id', '=', s.claim.coverage_id ?? 0)
    .execute();
  await expect(change('2025-05-30')).rejects.toThrow(/another insurer|not in force|covers/);
});

describe('lines', () => {
  test('one left out stays where it is until the payer takes it back, then somebody voids it; nothing bills it by itself', async () => {
    const s = await paid(['145.00', '145.00']);
    const id = await correct(s);
    await leaveOutLine(t.context, { claimId: id, line: 2 });
    expect((await readClaim(t.context, id)).content.lines.map(({ number }) => number)).toEqual([1]);
    await expect(leaveOutLine(t.context, { claimId: id, line: 1 })).rejects.toThrow('only line');
    await putBackLine(t.context, { claimId: id, line: 901 });
    expect((await readClaim(t.context, id)).total).toBe(29_000);
    await leaveOutLine(t.context, { claimId: id, line: 1 });
    const out = s.charges[0]!;
    expect((await readClaim(t.context, id)).content.total).toBe(14_500);
    await sendClaims(t.context, { claimIds: [id] });
    // What was paid for it stands: it keeps its place.
    const place = await t.db
      .selectFrom('claim_line')
      .select(['claim_id', 'current'])
      .where('charge_id', '=', out)
      .where('current', '=', true)
      .execute();
    expect(place).toEqual([{ claim_id: id, current: true }]);
    const left = async () =>
      (await findList(t.context, 'unbilled', { view: 'left' })).rows.map(({ chargeId }) => chargeId);
    expect(await left()).not.toContain(out);
    await postedRemittance(t, [says(s, -1, '22')]);
    await answer(id);
    expect(await left()).toContain(out);
    expect((await readAccount(t.context, s.householdId)).unbilled).toBe(0);
    expect(await buildClaims(t.context, { householdId: s.householdId, which: 'all', evening: true })).toEqual(
      [],
    );
    expect(await buildClaims(t.context, { householdId: s.householdId })).toEqual([]);
    await voidCharge(t.context, { chargeId: out, why: 'was not done' });
    const { figures } = await readAccount(t.context, s.householdId);
    expect(figures).toMatchObject({ withPayer: 0, withPatient: 3000 });
  });

  test('of which nothing stands it is free as soon as the correction goes, and billed when it is chosen', async () => {
    const s = await sentClaim(t, ['145.00', '145.00']);
    await postedRemittance(t, [
      decided(
        s.claim.control_number,
        s.controls.map((control) => ({ control, charge: 14_500, paid: 0, reasons: ['CO-16:145.00'] })),
      ),
    ]);
    const id = await correct(s);
    await leaveOutLine(t.context, { claimId: id, line: 2 });
    await expect(voidCharge(t.context, { chargeId: s.charges[1]!, why: 'x' })).rejects.toThrow('on a claim');
    await sendClaims(t.context, { claimIds: [id] });
    expect((await readClaim(t.context, id)).events.at(-1)!.words).toContain('on no claim any more');
    const [again] = await buildClaims(t.context, { chargeIds: [s.charges[1]!] });
    expect((await readClaim(t.context, again!)).frequency).toBe('1');
  });

  test('one that was forgotten is added; somebody else’s, and what is billed, is not', async () => {
    const s = await paid();
    const id = await correct(s);
    const forgotten = await charge(t, t.context, s.patientId, '42.00', '99213', '2026-03-09' as never);
    await addLines(t.context, { claimId: id, chargeIds: [forgotten] });
    const { content } = await readClaim(t.context, id);
    expect([content.lines.map((line) => line.charge), content.total]).toEqual([[14_500, 4200], 18_700]);
    await expect(addLines(t.context, { claimId: id, chargeIds: [forgotten] })).rejects.toThrow('on no claim');
    const other = await paid();
    await expect(addLines(t.context, { claimId: id, chargeIds: other.charges })).rejects.toThrow(
      'same person',
    );
    // Withdrawn, the first claim stands again, and what was added is unbilled.
    await withdrawClaim(t.context, { claimId: id, why: 'not needed' });
    expect((await readClaim(t.context, s.claim.id)).current).toBe(true);
    expect(await buildClaims(t.context, { householdId: s.householdId })).toHaveLength(1);
  });
});

test('what identifies the claim is not corrected: it stops, and a void says what was said', async () => {
  const s = await paid();
  const before = await readClaim(t.context, s.claim.id);
  const id = await correct(s);
  await t.db
    .updateTable('policy_number')
    .set({ member_id: 'NEWNUMBER1' })
    .where(
      'policy_person_id',
      'in',
      t.db.selectFrom('policy_person').select('id').where('patient_id', '=', s.patientId),
    )
    .execute();
  await expect(sendClaims(t.context, { claimIds: [id] })).rejects.toThrow(
    /The member id is NEWNUMBER1 and was .* no correction finds it/,
  );
  await withdrawClaim(t.context, { claimId: id, why: 'it is voided instead' });
  const gone = await correct(s, '8');
  const { content } = await readClaim(t.context, gone);
  expect(content.subscriber.memberId).toBe(before.content.subscriber.memberId);
  expect(content).toMatchObject({ frequency: '8', payerClaimNumber: 'PCN1', total: before.total });
  await sendClaims(t.context, { claimIds: [gone] });
});

describe('as the payer takes it', () => {
  const payerHas = (corrections: 'replaced' | 'reopened' | 'new') =>
    t.db.updateTable('payer').set({ corrections }).where('name', '=', 'Cedar Sound Health').execute();
  afterEach(() => payerHas('replaced'));

  test('by telephone: no file is made, it is told and answered like any other', async () => {
    const s = await paid();
    const id = await correct(s);
    await expect(toldByHand(t.context, { claimId: id, why: 'x' })).rejects.toThrow(
      'takes this claim in a file',
    );
    await payerHas('reopened');
    await expect(sendClaims(t.context, { claimIds: [id] })).rejects.toThrow('reopened by form or telephone');
    await toldByHand(t.context, { claimId: id, why: 'their desk, case 77' });
    expect(await readClaim(t.context, id)).toMatchObject({
      status: 'sent',
      sentBy: 'telephone',
      transmission: null,
    });
    await expect(toldByHand(t.context, { claimId: id, why: 'x' })).rejects.toThrow('was sent');
    await postedRemittance(t, [says(s, -1, '22')]);
    await answer(id);
    expect((await readClaim(t.context, id)).status).toBe('closed');
  });

  test('what it could not process is mended and sent as an original, without its number', async () => {
    const s = await sentClaim(t);
    const word = decided(s.claim.control_number, [
      { control: s.controls[0]!, charge: 14_500, paid: 0, reasons: ['CO-16:145.00'] },
    ]);
    await expect(correct(s, '1')).rejects.toThrow('the payer must have it');
    await postedRemittance(t, [{ ...word, remarks: ['MA130'] }]);
    await expect(correct(s, '7')).rejects.toThrow('nothing to correct');
    const id = await correct(s, '1');
    await sendClaims(t.context, { claimIds: [id] });
    const claim = await readClaim(t.context, id);
    expect(claim).toMatchObject({ frequency: '1', replaces: { controlNumber: s.claim.control_number } });
    const text = await claimText(t.context, claim);
    expect(text).toContain(':B:1*');
    expect(text).not.toContain('REF*F8');
    await answer(id);
    expect((await readAccount(t.context, s.householdId)).figures).toMatchObject({
      withPayer: 0,
      withPatient: 3000,
    });
    // What was only denied is corrected.
    const denied = await paid();
    await expect(correct(denied, '1')).rejects.toThrow('could not process');
  });
});
