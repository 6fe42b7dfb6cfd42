/**
 * Bringing in remittances and weighing them: what is said of each, who is found for payer, payee and claim, what came before,
 * and how posting them goes as background work.
 */
import { sql } from 'kysely';
import { cents } from '../../core/money';
import type { RemitClaim, Remittance } from '../../core/x12/remittance835';
import { sampleRemitClaim } from '../../core/x12/samples';
import { fileDatabase } from '../../testing/database';
import {
  PAYEE,
  brokenInvariants,
  charge,
  decided,
  intake,
  remitText,
  says,
  sentClaim,
} from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { buildClaims } from '../claims/build';
import { sendClaims } from '../claims/send';
import { takeReceipt } from '../payments/take';
import { inTransaction } from '../use-case';
import { checkRemittance } from './held';
import { postRemittance } from './post';
import { postRemittances } from './posting';
import { readRemittance } from './read';
import { reverseRemittance } from './reverse';
import { REASONS_KEPT } from './matching';

const t = fileDatabase();
let serial = 0;
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

type Sent = Awaited<ReturnType<typeof sentClaim>>;
type More = Partial<Remittance>;
const plain = (s: Sent): RemitClaim => says(s, 6800);
const stranger = (paid = 4000): RemitClaim => sampleRemitClaim(`ANY${(serial += 1)}`, 5000, paid);
const bring = async (claims: RemitClaim[], more: More = {}) =>
  (await intake(t.context, remitText(claims, more))).outcomes[0]!;
/** A claim named by the payer's number alone, for a patient of ours. */
async function byNumber(patientId: number, payerClaimNumber: string): Promise<Partial<RemitClaim>> {
  const { last, first } = await t.db
    .selectFrom('patient')
    .select(['last', 'first'])
    .where('id', '=', patientId)
    .executeTakeFirstOrThrow();
  return {
    controlNumber: `ANY${(serial += 1)}`,
    payerClaimNumber,
    patient: { last, first, memberId: '' },
  };
}
const pageOf = (id: number | undefined) => readRemittance(t.context, id!);
/** A payer that is not the one of a claim. */
const another = async (s: Sent): Promise<number> =>
  (
    await t.db
      .selectFrom('payer')
      .select('id')
      .where('id', '<>', s.claim.payer_id)
      .orderBy('id')
      .executeTakeFirstOrThrow()
  ).id;
const payerOf = async (id: number | undefined) =>
  (await t.db.selectFrom('remittance').select('payer_id').where('id', '=', id!).executeTakeFirstOrThrow())
    .payer_id;

describe('what is said of a file', () => {
  test('how much is ready, and how many are not ours', async () => {
    const s = await sentClaim(t);
    expect(await bring([plain(s)])).toMatchObject({
      kind: '835',
      amount: 6800,
      result: 'held',
      why: '1 claim worth 68.00 ready to post',
    });
    const unknown = stranger();
    const two = await bring([plain(s), unknown], { trace: 'SAID2' });
    expect(two.why).toBe('2 claims worth 108.00 ready to post, 1 not ours');
    // Whoever looks at it before it is posted sees which.
    expect((await pageOf(two.remittanceId)).rows).toMatchObject([
      { claimId: s.claim.id, holdKind: '', holdReason: '' },
      {
        claimId: null,
        holdKind: 'stranger',
        holdReason: `No claim of ours has the number ${unknown.controlNumber}`,
      },
    ]);
  });

  test('a file that is wrong throughout: what is wrong with the whole first, so many reasons, three of them at once', async () => {
    const wrong = Array.from({ length: REASONS_KEPT + 5 }, () => ({ ...stranger(), charge: cents(5001) }));
    const { why, remittanceId } = await bring(wrong, { payee: { ...PAYEE, npi: '1999999984' } });
    expect(why!.split('; ')).toHaveLength(3);
    expect(why).toMatch(
      /^It pays “Osprey” \(NPI 1999999984\), which is not ours; ANY\d+: the claim is charged/,
    );
    const page = await pageOf(remittanceId);
    expect(page.holdReasons).toHaveLength(REASONS_KEPT + 1);
    const again = await checkRemittance(t.context, { remittanceId: remittanceId! });
    expect(again).toHaveLength(REASONS_KEPT);
    expect(again[0]).toMatch(/which is not ours$/);
    for (const reason of again.slice(1)) expect(reason).toMatch(/^ANY\d+: the claim is (charged|paid)/);
  });

  test('more claims than are written at once keep their order; weighed again all are looked for anew', async () => {
    const s = await sentClaim(t);
    const theirs = `LATE-${s.claim.id}`;
    await t.owner
      .updateTable('claim')
      .set({ payer_claim_number: theirs })
      .where('id', '=', s.claim.id)
      .execute();
    const many = Array.from({ length: 520 }, () => stranger(10));
    const ours = { ...plain(s), ...(await byNumber(s.patientId, theirs)) };
    const { remittanceId } = await bring([...many, ours], {
      payer: { name: 'New here', id: 'NEW-1' },
      originator: '',
      payment: cents(12_000 - 137),
      providerAdjustments: [{ code: 'WO', reference: '', amount: cents(137) }],
    });
    const rows = () =>
      t.db
        .selectFrom('remittance_claim')
        .select(['number', 'control_number', 'claim_id', 'hold_kind', 'hold_reason'])
        .where('remittance_id', '=', remittanceId!)
        .orderBy('number')
        .execute();
    const kept = await rows();
    expect(kept.map(({ number }) => number)).toEqual(many.map((_, index) => index + 1).concat(521));
    expect(kept.slice(0, 520).map((row) => row.control_number)).toEqual(many.map((one) => one.controlNumber));
    // Of a payer that is not known, no number of its own is known either.
    expect(kept.at(-1)).toMatchObject({ claim_id: null, hold_kind: 'stranger' });
    await t.db
      .insertInto('payer_identifier')
      .values({ value: 'NEW-1', payer_id: s.claim.payer_id })
      .execute();
    // Weighed again it balances to the cent over all of its claims.
    expect(await checkRemittance(t.context, { remittanceId: remittanceId! })).toEqual([]);
    expect(await pageOf(remittanceId)).toMatchObject({ status: 'ready', claims: 521, amount: 11_863 });
    const now = await rows();
    expect(now.at(-1)).toMatchObject({ claim_id: s.claim.id, hold_kind: '', hold_reason: '' });
    for (const row of now.slice(0, -1))
      expect(row).toMatchObject({
        claim_id: null,
        hold_kind: 'stranger',
        hold_reason: `No claim of ours has the number ${row.control_number}`,
      });
  });
});

describe('the same payment again', () => {
  test('is refused while it stands and after it was reversed, with the way to post it anew', async () => {
    const s = await sentClaim(t);
    const more = { trace: 'AGAIN1' };
    const first = await bring([plain(s)], more);
    const before = 'this payment (payer, trace number, amount and content) was brought in before';
    expect(await bring([plain(s)], more)).toMatchObject({ result: 'refused', why: before });
    await postRemittance(t.context, first.remittanceId!);
    expect(await bring([plain(s)], more)).toMatchObject({ result: 'refused', why: before });
    await reverseRemittance(t.context, { remittanceId: first.remittanceId!, why: 'x' });
    expect(await bring([plain(s)], more)).toMatchObject({
      result: 'refused',
      why: `${before}; it was reversed: post it anew on its page`,
    });
    const kept = await t.db.selectFrom('remittance').select('id').where('trace', '=', 'AGAIN1').execute();
    expect(kept).toEqual([{ id: first.remittanceId }]);
  });

  test('a held one gives its place; one of zero only to the same', async () => {
    const s = await sentClaim(t);
    const ids = async (trace: string) =>
      (
        await t.db.selectFrom('remittance').select('id').where('trace', '=', trace).orderBy('id').execute()
      ).map(({ id }) => id);
    const off = { payee: { ...PAYEE, npi: '1999999984' } };
    await bring([plain(s)], { ...off, trace: 'PLACE1' });
    const right = await bring([{ ...plain(s), remarks: ['N1'] }], { trace: 'PLACE1' });
    expect(await ids('PLACE1')).toEqual([right.remittanceId]);

    const zero = (remarks: string[]): RemitClaim => ({
      ...decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14_500, paid: 0, reasons: ['CO-45:47.00', 'PR-1:98.00'] },
      ]),
      remarks,
    });
    const held = await bring([zero([])], { ...off, trace: 'PLACE0' });
    const other = await bring([zero(['N1'])], { ...off, trace: 'PLACE0' });
    expect(await ids('PLACE0')).toEqual([held.remittanceId, other.remittanceId]);
    const same = await bring([zero([])], { trace: 'PLACE0' });
    expect(await ids('PLACE0')).toEqual([other.remittanceId, same.remittanceId]);
  });

  test('another payer’s of the same number and amount is another', async () => {
    const s = await sentClaim(t);
    await bring([plain(s)], { trace: 'OTHER1' });
    const theirs = await bring([plain(s)], { trace: 'OTHER1', originator: '1999999999' });
    expect(theirs.result).toBe('held');
    expect((await pageOf(theirs.remittanceId)).status).toBe('ready');
  });
});

describe('who it is from, and for', () => {
  test('the payer: by its number, then by further numbers, by name only where there is none', async () => {
    const s = await sentClaim(t);
    const other = await another(s);
    const further = `FUR${s.claim.id}`;
    await t.db.insertInto('payer_identifier').values({ value: further, payer_id: other }).execute();
    const name = 'Cedar Sound Health';
    for (const [more, payer] of [
      [{ payer: { name: 'Any', id: 'CSH01' }, originator: further }, s.claim.payer_id],
      [{ payer: { name, id: further }, originator: '' }, other],
      [{ payer: { name, id: '' }, originator: further }, other],
      [{ payer: { name: name.toUpperCase(), id: '' }, originator: '' }, s.claim.payer_id],
      [{ payer: { name, id: 'UNKNOWN-1' }, originator: '' }, null],
      [{ payer: { name: 'Nobody', id: '' }, originator: '' }, null],
    ] as const)
      expect([more, await payerOf((await bring([plain(s)], more)).remittanceId)]).toEqual([more, payer]);
  });

  test('who is paid: the practice or a provider by NPI, the practice by tax id, numbers kept besides', async () => {
    const s = await sentClaim(t);
    const { npi } = await t.db.selectFrom('provider').select('npi').executeTakeFirstOrThrow();
    const { tax_id: tax } = await t.db.selectFrom('practice').select('tax_id').executeTakeFirstOrThrow();
    await sql`insert into payee_identifier (value, kind) values ('1888888886', 'npi'), ('99-8877665', 'tax-id')`.execute(
      t.db,
    );
    const digits = tax.replace(/\D/g, '');
    for (const [payee, ours] of [
      [{ npi, taxId: '' }, true],
      [{ npi: '', taxId: digits }, true],
      [{ npi: '', taxId: `${digits.slice(0, 2)}-${digits.slice(2)}` }, true],
      [{ npi: '1888888886', taxId: '' }, true],
      [{ npi: '', taxId: '998877665' }, true],
      [{ npi: '998877665', taxId: '' }, false],
      [{ npi: '', taxId: '1888888886' }, false],
      [{ npi: '', taxId: '' }, false],
    ] as const) {
      const { remittanceId } = await bring([plain(s)], { payee: { name: 'Any', ...payee } });
      const { status } = await pageOf(remittanceId);
      expect([payee, status]).toEqual([payee, ours ? 'ready' : 'held']);
    }
  });

  test('the claim by the payer’s number: for the same person, by the beginning of the name or the member’s number', async () => {
    const s = await sentClaim(t);
    const number = `PAYERS-${s.claim.id}`;
    await t.owner
      .updateTable('claim')
      .set({ payer_claim_number: number })
      .where('id', '=', s.claim.id)
      .execute();
    const { last, first } = await t.db
      .selectFrom('patient')
      .select(['last', 'first'])
      .where('id', '=', s.patientId)
      .executeTakeFirstOrThrow();
    const { member_id: memberId } = await t.db
      .selectFrom('covered')
      .select('member_id')
      .where('id', '=', s.claim.coverage_id)
      .executeTakeFirstOrThrow();
    const cases: [RemitClaim['patient'], boolean][] = [
      [{ last: ` ${last.toUpperCase()} `, first: first.slice(0, 2).toUpperCase(), memberId: '' }, true],
      [{ last, first: 'Somebody', memberId: memberId! }, true],
      [{ last, first: 'Somebody', memberId: 'X1' }, false],
      [{ last: 'Else', first, memberId: memberId! }, false],
    ];
    for (const [patient, found] of cases) {
      const claim = { ...stranger(), payerClaimNumber: number, patient };
      const { remittanceId } = await bring([claim]);
      const [row] = (await pageOf(remittanceId)).rows;
      expect([patient, row!.claimId]).toEqual([patient, found ? s.claim.id : null]);
    }
    const { remittanceId } = await bring([{ ...stranger(), payerClaimNumber: 'PAYERS-NONE' }]);
    expect((await pageOf(remittanceId)).rows[0]!.claimId).toBeNull();
  });
});

test('two claims of one patient by the payer’s numbers: each finds its own', async () => {
  const s = await sentClaim(t);
  await charge(t, t.context, s.patientId, '80.00');
  const [otherId] = await buildClaims(t.context, { householdId: s.householdId });
  await sendClaims(t.context, { claimIds: [otherId!] });
  for (const [id, number] of [
    [s.claim.id, `ONE-${s.claim.id}`],
    [otherId!, `TWO-${s.claim.id}`],
  ] as const)
    await t.owner.updateTable('claim').set({ payer_claim_number: number }).where('id', '=', id).execute();
  const { remittanceId } = await bring([
    { ...stranger(), ...(await byNumber(s.patientId, `ONE-${s.claim.id}`)) },
    { ...stranger(), ...(await byNumber(s.patientId, `TWO-${s.claim.id}`)) },
  ]);
  expect((await pageOf(remittanceId)).rows.map(({ claimId }) => claimId)).toEqual([s.claim.id, otherId]);
});

describe('posting', () => {
  test('refuses what is not there or held, with the first reason; stops when told and goes on', async () => {
    await expect(postRemittance(t.context, 999_999)).rejects.toThrow('There is no such remittance');
    const [a, b] = [await sentClaim(t), await sentClaim(t)];
    const off = await bring([plain(a)], { payee: { ...PAYEE, npi: '1999999984' } });
    await expect(postRemittance(t.context, off.remittanceId!)).rejects.toThrow(
      'This remittance is held: It pays “Osprey” (NPI 1999999984), which is not ours',
    );
    await expect(postRemittance(t.as('collector'), off.remittanceId!)).rejects.toThrow(/may not/);
    const { remittanceId } = await bring([plain(a), stranger(), plain(b)]);
    const told: number[] = [];
    const stop = async (done: number) => {
      told.push(done);
      return done < 2;
    };
    expect(await postRemittance(t.context, remittanceId!, stop)).toEqual({ posted: 1, unmatched: 1 });
    expect(told).toEqual([1, 2]);
    expect((await pageOf(remittanceId)).status).toBe('posting');
    expect(await postRemittance(t.context, remittanceId!)).toEqual({ posted: 1, unmatched: 0 });
    expect((await pageOf(remittanceId)).status).toBe('posted');
    expect(await postRemittance(t.context, remittanceId!)).toEqual({ posted: 0, unmatched: 0 });
    // Begun once, however often it went on.
    const noted = await t.db
      .selectFrom('audit')
      .select('id')
      .where('subject_kind', '=', 'remittance')
      .where('subject_id', '=', String(remittanceId))
      .where('action', '=', 'posted')
      .execute();
    expect(noted).toHaveLength(1);
  });

  test('the payer corrects itself in one file: what the patient has paid too much is credit at once', async () => {
    const s = await sentClaim(t);
    await postRemittance(t.context, (await bring([plain(s)])).remittanceId!);
    await takeReceipt(t.context, {
      householdId: s.householdId,
      tenders: [{ tender: 'cash', amount: '30.00' }],

      key: 'receive corrected paid',
    });
    const back = decided(
      s.claim.control_number,
      [{ control: s.controls[0]!, charge: -14_500, paid: -6800, reasons: ['CO-45:-47.00', 'PR-3:-30.00'] }],
      '22',
    );
    const right = decided(s.claim.control_number, [
      { control: s.controls[0]!, charge: 14_500, paid: 8800, reasons: ['CO-45:47.00', 'PR-3:10.00'] },
    ]);
    await postRemittance(t.context, (await bring([back, right])).remittanceId!);
    expect((await readAccount(t.context, s.householdId)).figures).toMatchObject({
      withPatient: 0,
      credit: 2000,
    });
  });

  test('provider adjustments: interest is income and no item, one of nothing is none, each says what it is', async () => {
    const { remittanceId } = await bring([], {
      payment: cents(600),
      providerAdjustments: [
        { code: 'L6', reference: 'I-1', amount: cents(-150) },
        { code: 'CS', reference: '', amount: cents(-350) },
        { code: 'FB', reference: 'NIL', amount: cents(0) },
        { code: '72', reference: 'R-1', amount: cents(-100) },
      ],
    });
    await postRemittance(t.context, remittanceId!);
    const entries = await t.db
      .selectFrom('posting as p')
      .innerJoin('entry as e', 'e.id', 'p.entry_id')
      .select(['e.memo', 'p.account', 'p.amount', 'p.provider_adjustment_id as item'])
      .where('p.remittance_id', '=', remittanceId!)
      .orderBy('p.id')
      .execute();
    const items = await t.db
      .selectFrom('provider_adjustment')
      .select(['id', 'number', 'code', 'amount', 'version'])
      .where('remittance_id', '=', remittanceId!)
      .orderBy('number')
      .execute();
    expect(items).toMatchObject([
      { number: 1, code: 'CS', amount: 350, version: 1 },
      { number: 3, code: '72', amount: 100, version: 1 },
    ]);
    const [first, second] = items.map(({ id }) => id);
    expect(entries).toEqual([
      { memo: 'Provider adjustment L6 I-1', account: 'cash/transfer', amount: 150, item: null },
      { memo: 'Provider adjustment L6 I-1', account: 'income/interest', amount: -150, item: null },
      { memo: 'Provider adjustment CS', account: 'cash/transfer', amount: 350, item: first },
      { memo: 'Provider adjustment CS', account: 'credit/payer', amount: -350, item: first },
      { memo: 'Provider adjustment 72 R-1', account: 'cash/transfer', amount: 100, item: second },
      { memo: 'Provider adjustment 72 R-1', account: 'credit/payer', amount: -100, item: second },
    ]);
  });

  test('as background work: what there is to do, how far it is, what came of it', async () => {
    const s = await sentClaim(t);
    const ready = await bring([plain(s), stranger()]);
    const off = await bring([plain(s)], { payee: { ...PAYEE, npi: '1999999984' } });
    const items = (remittanceIds?: number[]) =>
      inTransaction(t.context, (act) => postRemittances.items(act, { remittanceIds }));
    const { trace } = await pageOf(ready.remittanceId);
    const item = { subject: String(ready.remittanceId), words: `Cedar Sound Health ${trace}`, size: 2 };
    expect(await items([ready.remittanceId!, off.remittanceId!])).toEqual([item]);
    expect(await items([])).toEqual([]);
    expect(await items()).toContainEqual(item);
    expect(postRemittances.title([item, { ...item, size: 1 }])).toBe('Posting 3 claims');
    const told: number[] = [];
    expect(
      await postRemittances.one(
        t.context,
        item.subject,
        async (done) => {
          told.push(done);
          return false;
        },
        {},
      ),
    ).toBeNull();
    expect(
      await postRemittances.one(
        t.context,
        item.subject,
        async (done) => {
          told.push(done);
          return true;
        },
        {},
      ),
    ).toBe('1 posted, 1 held');
    expect(told).toEqual([1, 2]);
    const alone = await bring([{ ...plain(await sentClaim(t)) }]);
    expect(await postRemittances.one(t.context, String(alone.remittanceId), async () => true, {})).toBe(
      '1 posted',
    );
  });
});
