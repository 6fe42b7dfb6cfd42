/** Held claims, decided by a person, and remittances taken up again: what each leaves, and where the patient's money is after it. */
import { cents } from '../../core/money';
import type { RemitClaim, Remittance } from '../../core/x12/remittance835';
import { fileDatabase } from '../../testing/database';
import { brokenInvariants, intake, postedRemittance, remitText, says, sentClaim } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { takeReceipt } from '../payments/take';
import { checkRemittance, decideHeld, matchHeld, sayReasonOnce, takeUpAgain } from './held';
import { postRemittance } from './post';
import { readRemittance } from './read';
import { reverseRemittance } from './reverse';

const t = fileDatabase();
let serial = 0;
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

type Sent = Awaited<ReturnType<typeof sentClaim>>;
const stranger = (): string => `NOT-OURS-${(serial += 1)}`;

const remit = (claims: RemitClaim[], more: Partial<Remittance> = {}): Promise<number> =>
  postedRemittance(t, claims, more);
const rowsOf = async (remittanceId: number) => (await readRemittance(t.context, remittanceId)).rows;
const trail = async (kind: string, id: number, action: string) =>
  (
    await t.db
      .selectFrom('audit')
      .select('detail')
      .where('subject_kind', '=', kind)
      .where('subject_id', '=', String(id))
      .where('action', '=', action)
      .orderBy('id')
      .execute()
  ).map(({ detail }) => detail);
const figures = async (s: Sent) => (await readAccount(t.context, s.householdId)).figures;

/** A claim whose patient has paid 30.00 that were theirs; the decision that said so is reversed. */
async function paidTooEarly(): Promise<Sent> {
  const s = await sentClaim(t);
  const first = await remit([says(s, 6800)]);
  await takeReceipt(t.context, {
    householdId: s.householdId,
    tenders: [{ tender: 'cash', amount: '30.00' }],

    key: `held-${(serial += 1)}-paid`,
  });
  await reverseRemittance(t.context, { remittanceId: first, why: 'wrong amount' });
  return s;
}

test('matched or decided otherwise: what the patient has paid too much is credit at once, and the trail says which claim', async () => {
  const matched = await paidTooEarly();
  const [row] = await rowsOf(
    await remit([{ ...says(matched, 9800, ['CO-45:47.00']), controlNumber: stranger() }]),
  );
  await matchHeld(t.context, {
    remittanceClaimId: row!.id,
    controlNumber: matched.claim.control_number,
  });
  expect(await figures(matched)).toMatchObject({ withPatient: 0, credit: 3000 });
  expect(await trail('remittance claim', row!.id, 'matched')).toEqual([{ claim: matched.claim.id }]);

  const meant = await paidTooEarly();
  const [other] = await rowsOf(await remit([says(meant, 9800, ['CO-45:47.00'], '2')]));
  await decideHeld(t.context, { remittanceClaimId: other!.id, as: 'meant', why: 'they are first' });
  expect(await figures(meant)).toMatchObject({ withPatient: 0, credit: 3000 });
  expect(await trail('remittance claim', other!.id, 'decided')).toEqual([
    { as: 'meant', why: 'they are first' },
  ]);
});

test('a held claim that paid nothing, or took, has nothing to give back; it is kept', async () => {
  const s = await sentClaim(t);
  const nothing = await remit([{ ...says(s, 0, ['CO-45:145.00']), controlNumber: stranger() }]);
  const took = await remit([says(s, -6800, ['CO-45:-47.00', 'PR-3:-30.00'], '22')], {
    payment: cents(0),
    providerAdjustments: [{ code: 'WO', reference: 'X', amount: cents(-6800) }],
  });
  for (const id of [nothing, took]) {
    const [row] = await rowsOf(id);
    expect(row!.status).toBe('unmatched');
    await expect(
      decideHeld(t.context, { remittanceClaimId: row!.id, as: 'returned', why: 'x' }),
    ).rejects.toThrow('There is nothing to give back');
    await decideHeld(t.context, { remittanceClaimId: row!.id, as: 'kept', why: 'seen' });
    expect((await rowsOf(id))[0]).toMatchObject({ status: 'kept', note: 'seen' });
  }
});

test('checked again: held while something is wrong, ready when nothing is; the trail says which', async () => {
  const s = await sentClaim(t);
  const { outcomes } = await intake(
    t.context,
    remitText([says(s, 6800)], {
      payer: { name: 'Cedar of old', id: `OLD-${(serial += 1)}` },
      originator: '',
    }),
  );
  const remittanceId = outcomes[0]!.remittanceId!;
  const { payer_number: value } = await t.db
    .selectFrom('remittance')
    .select('payer_number')
    .where('id', '=', remittanceId)
    .executeTakeFirstOrThrow();
  await checkRemittance(t.context, { remittanceId });
  await t.db.insertInto('payer_identifier').values({ value, payer_id: s.claim.payer_id }).execute();
  await checkRemittance(t.context, { remittanceId });
  expect(await trail('remittance', remittanceId, 'checked again')).toEqual([{ held: true }, { held: false }]);
});

test('taken up again: what a person matched stays matched, what a number finds now is found, who is a stranger says so', async () => {
  const [byHand, byNumber] = [await sentClaim(t), await sentClaim(t)];
  const nobody = stranger();
  const theirs = `THEIRS-${byNumber.claim.id}`;
  const patient = await t.db
    .selectFrom('patient')
    .select(['last', 'first'])
    .where('id', '=', byNumber.patientId)
    .executeTakeFirstOrThrow();
  const id = await remit([
    { ...says(byHand, 6800), controlNumber: stranger() },
    {
      ...says(byNumber, 6800),
      controlNumber: stranger(),
      payerClaimNumber: theirs,
      patient: { ...patient, memberId: '' },
    },
    { ...says(byNumber, 500, ['CO-45:140.00']), controlNumber: nobody },
  ]);
  await expect(takeUpAgain(t.context, { remittanceId: id })).rejects.toThrow('Nothing of it is reversed');
  const [first] = await rowsOf(id);
  await matchHeld(t.context, { remittanceClaimId: first!.id, controlNumber: byHand.claim.control_number });
  await reverseRemittance(t.context, { remittanceId: id, why: 'look' });
  await t.owner
    .updateTable('claim')
    .set({ payer_claim_number: theirs })
    .where('id', '=', byNumber.claim.id)
    .execute();
  expect(await takeUpAgain(t.context, { remittanceId: id })).toBe(3);
  const ready = (await rowsOf(id)).filter(({ status }) => status === 'ready');
  expect(ready.map(({ claimId, holdKind, holdReason }) => [claimId, holdKind, holdReason])).toEqual([
    [byHand.claim.id, '', ''],
    [byNumber.claim.id, '', ''],
    [null, 'stranger', `No claim of ours has the number ${nobody}`],
  ]);
  expect(await trail('remittance', id, 'taken up again')).toEqual([{ claims: 3 }]);
  await postRemittance(t.context, id);
  expect((await rowsOf(id)).slice(-1)).toMatchObject([{ status: 'unmatched', holdKind: 'stranger' }]);
});

test('its provider adjustments are booked as of the next version, and the claims alone leave them at theirs', async () => {
  const s = await sentClaim(t);
  const id = await remit([says(s, 6800)], {
    payment: cents(7000),
    providerAdjustments: [{ code: 'CS', reference: '', amount: cents(-200) }],
  });
  const version = async () =>
    (await t.db.selectFrom('remittance').select('version').where('id', '=', id).executeTakeFirstOrThrow())
      .version;
  const [row] = await rowsOf(id);
  await reverseRemittance(t.context, { remittanceId: id, remittanceClaimId: row!.id, why: 'look' });
  await takeUpAgain(t.context, { remittanceId: id });
  await postRemittance(t.context, id);
  expect(await version()).toBe(1);
  await reverseRemittance(t.context, { remittanceId: id, why: 'look' });
  await takeUpAgain(t.context, { remittanceId: id });
  await postRemittance(t.context, id);
  expect(await version()).toBe(2);
  expect((await readRemittance(t.context, id)).providerAdjustments[0]!.credit).toMatchObject({ open: 200 });
});

describe('a reason that Setup does not know', () => {
  const unknown = (code: string) => [`CO-${code}:47.00`, 'PR-3:30.00'];

  test('holds the claim with its money; said once, everything that waits for it is posted', async () => {
    const [one, two, besides] = [await sentClaim(t), await sentClaim(t), await sentClaim(t)];
    const id = await remit([says(one, 6800, unknown('ZZ1')), says(besides, 6800)]);
    const other = await remit([says(two, 6800, unknown('ZZ1'))]);
    const [row] = await rowsOf(id);
    expect(row).toMatchObject({
      status: 'unmatched',
      holdKind: 'reason',
      holdReason: 'CO-ZZ1 of 47.00: Setup does not know whether it takes off or refuses',
      unknown: [{ group: 'CO', reason: 'ZZ1', amount: 4700 }],
    });
    expect((await rowsOf(id))[1]).toMatchObject({ status: 'posted' });
    expect(await figures(one)).toMatchObject({ withPayer: 14500, withPatient: 0 });
    expect(
      await sayReasonOnce(t.context, {
        remittanceClaimId: row!.id,
        group: 'CO',
        code: 'ZZ1',
        denial: false,
        words: 'A discount of theirs',
      }),
    ).toBe(2);
    for (const [s, remittanceId] of [
      [one, id],
      [two, other],
    ] as const) {
      expect((await rowsOf(remittanceId))[0]).toMatchObject({ status: 'posted', unknown: [] });
      expect(await figures(s)).toMatchObject({ withPayer: 0, withPatient: 3000 });
    }
  });

  test('said to refuse, it stays with the payer and is followed up', async () => {
    const s = await sentClaim(t);
    const [row] = await rowsOf(await remit([says(s, 6800, unknown('ZZ2'))]));
    await sayReasonOnce(t.context, {
      remittanceClaimId: row!.id,
      group: 'CO',
      code: 'ZZ2',
      denial: true,
      words: 'Refused by a rule of theirs',
    });
    expect(await figures(s)).toMatchObject({ withPayer: 4700, withPatient: 3000 });
  });

  test('two of them: the second is asked for after the first; held for something else it goes on being held', async () => {
    const s = await sentClaim(t);
    await remit([says(s, 6800)]);
    const remittanceId = await remit([says(s, 6800, ['CO-ZZ3:30.00', 'PI-ZZ3:17.00', 'PR-3:30.00'])]);
    const [row] = await rowsOf(remittanceId);
    const say = (group: 'CO' | 'PI') =>
      sayReasonOnce(t.context, {
        remittanceClaimId: row!.id,
        group,
        code: 'zz3',
        denial: false,
        words: 'x',
      });
    expect(await say('CO')).toBe(0);
    const after = async () => (await rowsOf(remittanceId))[0];
    expect(await after()).toMatchObject({ holdKind: 'reason', unknown: [{ group: 'PI' }] });
    await expect(say('CO')).rejects.toThrow('Setup knows CO-ZZ3 by now');
    await say('PI');
    expect(await after()).toMatchObject({ status: 'unmatched', holdKind: 'second', unknown: [] });
    await decideHeld(t.context, { remittanceClaimId: row!.id, as: 'correction', why: 'a new word' });
    expect(await after()).toMatchObject({ status: 'posted' });
  });

  test('what it does not say is not said here, nor by who may not post', async () => {
    const s = await sentClaim(t);
    const remittanceId = await remit([says(s, 6800, unknown('ZZ4'))]);
    const [row] = await rowsOf(remittanceId);
    const said = { remittanceClaimId: row!.id, group: 'CO' as const, code: 'ZZ4', denial: false, words: 'x' };
    await expect(sayReasonOnce(t.context, { ...said, code: 'ZZ5' })).rejects.toMatchObject({ field: 'code' });
    await expect(sayReasonOnce(t.context, { ...said, code: '' })).rejects.toMatchObject({ field: 'code' });
    await expect(sayReasonOnce(t.context, { ...said, group: 'PR' as never })).rejects.toMatchObject({
      field: 'group',
    });
    await expect(sayReasonOnce(t.context, { ...said, words: '' })).rejects.toMatchObject({ field: 'words' });
    await expect(sayReasonOnce(t.as('front-desk'), said)).rejects.toThrow(/may not/);
    expect((await rowsOf(remittanceId))[0]).toMatchObject({ status: 'unmatched', holdKind: 'reason' });
  });

  test('every practice begins with the standard ones: nothing was put into this one but by its first start', async () => {
    const { rows } = await t.pool.query<{ code: string; denial: boolean; patient_words: string }>(
      `
        select code, denial, patient_words
        from reason_code
        where group_code = '*' and code in ('45', '50', '3', 'B7')
        order by code`,
    );
    expect(rows).toEqual([
      { code: '3', denial: false, patient_words: expect.stringContaining('copay') },
      { code: '45', denial: false, patient_words: expect.stringContaining('contract') },
      { code: '50', denial: true, patient_words: expect.stringContaining('need') },
      { code: 'B7', denial: true, patient_words: expect.stringContaining('not accept') },
    ]);
  });
});
