import { spawn } from 'node:child_process';
import { mkdirSync, utimesSync, writeFileSync } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { sql } from 'kysely';
import { cents } from '../../core/money';
import { sampleRemitClaim } from '../../core/x12/samples';
import { fileDatabase } from '../../testing/database';
import { brokenInvariants, decided, intake, remitText, sentClaim } from '../../testing/desk';
import { closedGate } from '../../testing/gate';
import { foldersOf } from '../folders';
import { exchangeRound } from '../exchange/round';
import { takeReceipt } from '../payments/take';
import { payerCredit } from '../books/balances';
import { closeFollowUp, settleWaiting } from '../follow-ups/work';
import { matchHeld } from './held';
import { postRemittance } from './post';
import { readRemittance } from './read';
import { reverseRemittance } from './reverse';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

const balances = (ids: number[]) =>
  t.db.selectFrom('charge_balance').selectAll().where('charge_id', 'in', ids).orderBy('charge_id').execute();
const followUps = (householdId: number) =>
  t.db
    .selectFrom('follow_up')
    .select(['kind', 'words', 'amount'])
    .where('household_id', '=', householdId)
    .where('closed_at', 'is', null)
    .orderBy('id')
    .execute();

describe('posting', () => {
  test('contractual, paid, deductible, coinsurance and copay go where their group codes send them', async () => {
    const s = await sentClaim(t, ['145.00', '42.00']);
    const text = remitText([
      decided(s.claim.control_number, [
        {
          control: s.controls[0]!,
          charge: 14500,
          paid: 4000,
          reasons: ['CO-45:47.00', 'PR-1:18.00', 'PR-3:30.00', 'PR-2:10.00'],
        },
        { control: s.controls[1]!, charge: 4200, paid: 2600, reasons: ['CO-45:16.00'] },
      ]),
    ]);
    const { outcomes } = await intake(t.context, text);
    expect(await postRemittance(t.context, outcomes[0]!.remittanceId!)).toEqual({ posted: 1, unmatched: 0 });
    expect(await balances(s.charges)).toMatchObject([
      { payer_paid: 4000, reduced: 4700, with_patient: 5800, with_payer: 0 },
      { payer_paid: 2600, reduced: 1600, with_patient: 0, with_payer: 0 },
    ]);
    expect(
      await t.db
        .selectFrom('claim')
        .select(['status', 'payer_claim_number'])
        .where('id', '=', s.claim.id)
        .executeTakeFirstOrThrow(),
    ).toEqual({ status: 'closed', payer_claim_number: 'PCN1' });
  });

  test('a denied line stays with the payer, says so in the books, and is followed up; writing it off ends it', async () => {
    const s = await sentClaim(t, ['145.00', '42.00']);
    const { outcomes } = await intake(
      t.context,
      remitText([
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] },
          { control: s.controls[1]!, charge: 4200, paid: 0, reasons: ['CO-97:42.00'] },
        ]),
      ]),
    );
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    expect((await balances(s.charges))[1]).toMatchObject({ with_payer: 4200, with_patient: 0, reduced: 0 });
    expect(await followUps(s.householdId)).toMatchObject([{ kind: 'denial', amount: 4200 }]);
    expect(
      await settleWaiting(t.context, { chargeId: s.charges[1], to: 'off', why: 'payer confirmed' }),
    ).toBe(4200);
    expect((await balances(s.charges))[1]).toMatchObject({ with_payer: 0, reduced: 4200 });
    expect(await followUps(s.householdId)).toEqual([]);
    await expect(
      settleWaiting(t.context, { chargeId: s.charges[1], to: 'off', why: 'again' }),
    ).rejects.toThrow(/Nothing waits with a payer/);
  });

  test('less than the contract raises a short payment', async () => {
    const s = await sentClaim(t);
    const { outcomes } = await intake(
      t.context,
      remitText([
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 5000, reasons: ['CO-45:65.00', 'PR-3:30.00'] },
        ]),
      ]),
    );
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    const [raised] = await followUps(s.householdId);
    // Contract 98.00 in the demo's schedule, allowed 80.00.
    expect(raised).toMatchObject({ kind: 'short-payment', amount: 1800 });
    const { id } = await t.db
      .selectFrom('follow_up')
      .select('id')
      .where('household_id', '=', s.householdId)
      .executeTakeFirstOrThrow();
    await closeFollowUp(t.context, { followUpId: id, outcome: 'called' });
    await expect(closeFollowUp(t.context, { followUpId: id, outcome: 'again' })).rejects.toThrow(
      /closed already/,
    );
  });

  test('an adjustment of the claim as a whole is spread over its lines without losing a cent', async () => {
    const s = await sentClaim(t, ['100.00', '50.00', '50.00']);
    const claim = decided(
      s.claim.control_number,
      s.controls.map((control, index) => ({
        control,
        charge: index === 0 ? 10000 : 5000,
        paid: index === 0 ? 10000 : 5000,
        reasons: [],
      })),
    );
    claim.adjustments = [{ group: 'CO', reason: '45', amount: cents(3333) }];
    claim.paid = cents(20000 - 3333);
    const { outcomes } = await intake(t.context, remitText([claim]));
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    const found = await balances(s.charges);
    expect(found.reduce((all, item) => all + item.reduced, 0)).toBe(3333);
    expect(found.every((item) => item.with_payer === 0)).toBe(true);
  });

  test('a reversal (status 22) and its correction leave the corrected decision', async () => {
    const before = await payerCredit(t.db);
    const s = await sentClaim(t);
    const first = [{ control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] }];
    const back = [{ control: s.controls[0]!, charge: -14500, paid: -9800, reasons: ['CO-45:-47.00'] }];
    const right = [
      { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
    ];
    for (const claims of [
      [decided(s.claim.control_number, first)],
      [decided(s.claim.control_number, back, '22'), decided(s.claim.control_number, right)],
    ]) {
      const payment = cents(claims.reduce((all, claim) => all + claim.paid, 0));
      const { outcomes } = await intake(
        t.context,
        remitText(
          claims,
          payment < 0
            ? { payment: cents(0), providerAdjustments: [{ code: 'WO', reference: 'PCN1', amount: payment }] }
            : {},
        ),
      );
      await postRemittance(t.context, outcomes[0]!.remittanceId!);
    }
    expect(await balances(s.charges)).toMatchObject([
      { payer_paid: 6800, reduced: 4700, with_patient: 3000, with_payer: 0 },
    ]);
    // The payer kept back 30.00 that it had overpaid: it waits in the payer's credit until somebody says what it paid.
    expect((await payerCredit(t.db)) - before).toBe(3000);
  });

  test('one claim of a remittance is reversed, the rest stays; the patient’s payment waits for its new word', async () => {
    const [a, b] = [await sentClaim(t), await sentClaim(t)];
    const lines = (control: string) => [
      { control, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
    ];
    const { outcomes } = await intake(
      t.context,
      remitText([
        decided(a.claim.control_number, lines(a.controls[0]!)),
        decided(b.claim.control_number, lines(b.controls[0]!)),
      ]),
    );
    const id = outcomes[0]!.remittanceId!;
    await postRemittance(t.context, id);
    await takeReceipt(t.context, {
      householdId: a.householdId,
      tenders: [{ tender: 'cash', amount: '30.00' }],

      key: 'overpaid-test',
    });
    const page = await readRemittance(t.context, id);
    await reverseRemittance(t.context, {
      remittanceId: id,
      why: 'wrong patient',
      remittanceClaimId: page.rows[0]!.id,
    });
    expect(await balances(a.charges)).toMatchObject([
      { with_payer: 14500, with_patient: -3000, payer_paid: 0 },
    ]);
    expect(await balances(b.charges)).toMatchObject([{ with_payer: 0, with_patient: 3000 }]);
    expect((await followUps(a.householdId)).map((item) => item.kind)).toEqual(['suspended']);
  });
});

describe('what cannot be posted', () => {
  test('a claim that is not ours is held with its money, visible, and can be matched', async () => {
    const before = await payerCredit(t.db);
    const s = await sentClaim(t);
    const stranger = sampleRemitClaim('XX999', 14500, 9800);
    const { outcomes } = await intake(t.context, remitText([stranger]));
    expect(await postRemittance(t.context, outcomes[0]!.remittanceId!)).toEqual({ posted: 0, unmatched: 1 });
    expect((await payerCredit(t.db)) - before).toBe(9800);
    const page = await readRemittance(t.context, outcomes[0]!.remittanceId!);
    expect(page).toMatchObject({ status: 'posted', held: 9800, unmatched: 1 });
    await expect(
      matchHeld(t.context, { remittanceClaimId: page.rows[0]!.id, controlNumber: 'NOPE' }),
    ).rejects.toThrow(/No claim has the number NOPE/);
    await matchHeld(t.context, {
      remittanceClaimId: page.rows[0]!.id,
      controlNumber: s.claim.control_number,
    });
    expect((await payerCredit(t.db)) - before).toBe(0);
    expect(await balances(s.charges)).toMatchObject([{ payer_paid: 9800, reduced: 4700, with_payer: 0 }]);
    await expect(
      matchHeld(t.context, { remittanceClaimId: page.rows[0]!.id, controlNumber: s.claim.control_number }),
    ).rejects.toThrow(/not held any more/);
  });

  test('one that does not balance is kept, explained and not posted; put right, it takes its place', async () => {
    const s = await sentClaim(t);
    const good = decided(s.claim.control_number, [
      { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] },
    ]);
    const bad = {
      ...good,
      lines: [
        { ...good.lines[0]!, adjustments: [{ group: 'CO' as const, reason: '45', amount: cents(4699) }] },
      ],
    };
    const { outcomes } = await intake(t.context, remitText([bad], { trace: 'OFF1' }));
    expect(outcomes[0]).toMatchObject({
      result: 'held',
      why: expect.stringMatching(
        /line 1 \(99213\): the line is paid 98\.00, but charge less adjustments give 98\.01/,
      ),
    });
    await expect(postRemittance(t.context, outcomes[0]!.remittanceId!)).rejects.toThrow(/held/);
    const again = await intake(t.context, remitText([good], { trace: 'OFF1' }));
    expect(await postRemittance(t.context, again.outcomes[0]!.remittanceId!)).toEqual({
      posted: 1,
      unmatched: 0,
    });
  });

  test('the same file, and the same payment in another file, post nothing', async () => {
    const s = await sentClaim(t);
    const claims = [
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] },
      ]),
    ];
    const text = remitText(claims, { trace: 'SAME' });
    const { outcomes } = await intake(t.context, text);
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    const entries = async () =>
      (
        await t.db
          .selectFrom('entry')
          .select(sql<number>`count(*)`.as('n'))
          .executeTakeFirstOrThrow()
      ).n;
    const before = await entries();
    expect(await intake(t.context, text)).toMatchObject({
      status: 'duplicate',
      outcomes: [{ result: 'refused', why: expect.stringMatching(/same file was read before/) }],
    });
    expect((await intake(t.context, remitText(claims, { trace: 'SAME' }))).outcomes[0]).toMatchObject({
      result: 'refused',
      why: expect.stringMatching(/brought in before/),
    });
    expect(await postRemittance(t.context, outcomes[0]!.remittanceId!)).toEqual({ posted: 0, unmatched: 0 });
    expect(await entries()).toBe(before);
  });

  test.each([
    ['0 bytes', () => '', /the file is empty/],
    ['a PDF renamed', () => `%PDF-1.4\n${'stream '.repeat(60)}`, /expected ISA/],
    ['truncated', (text: string) => text.slice(0, -60), /breaks off/],
    ['a wrong count', (text: string) => text.replace(/SE\*\d+/, 'SE*3'), /SE01/],
    [
      'letters for money',
      (text: string) => text.replace('*145.00*', '*14S.00*'),
      /expected an amount of money/,
    ],
    ['not an answer', (text: string) => text.replace('ST*835', 'ST*850'), /850 is not an answer/],
  ])('%s: a clear error, nothing changed', async (_name, spoil, words) => {
    const s = await sentClaim(t);
    const text = spoil(
      remitText([
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] },
        ]),
      ]),
    );
    const count = async () =>
      (
        await t.db
          .selectFrom('remittance')
          .select(sql<number>`count(*)`.as('n'))
          .executeTakeFirstOrThrow()
      ).n;
    const before = await count();
    const found = await intake(t.context, text);
    expect(found.status).toBe('set aside');
    expect(found.outcomes[0]!.why).toMatch(words);
    expect(await count()).toBe(before);
  });
});

describe('two at once, and a kill', () => {
  test('two coordinators post the same remittance: every claim once', async () => {
    const all = [];
    for (let index = 0; index < 12; index += 1) all.push(await sentClaim(t));
    const { outcomes } = await intake(
      t.context,
      remitText(
        all.map((s) =>
          decided(s.claim.control_number, [
            { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] },
          ]),
        ),
      ),
    );
    const id = outcomes[0]!.remittanceId!;
    const results = await Promise.all([
      postRemittance(t.context, id),
      postRemittance(t.as('biller'), id),
      postRemittance(t.context, id),
    ]);
    expect(results.reduce((sum, result) => sum + result.posted, 0)).toBe(12);
    expect(results.reduce((sum, result) => sum + result.unmatched, 0)).toBe(0);
    expect((await balances(all.flatMap((s) => s.charges))).every((item) => item.payer_paid === 9800)).toBe(
      true,
    );
  });

  test('the same file twice at the same moment is taken once', async () => {
    const s = await sentClaim(t);
    const text = remitText([
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] },
      ]),
    ]);
    const found = await Promise.all([
      intake(t.context, text),
      intake(t.context, text),
      intake(t.context, text),
    ]);
    expect(found.map((item) => item.status).sort()).toEqual(['duplicate', 'duplicate', 'read']);
  });

  test('a double click takes a payment once', async () => {
    const s = await sentClaim(t);
    const input = {
      householdId: s.householdId,
      tenders: [{ tender: 'cash' as const, amount: '12.00' }],

      key: 'double-click',
    };
    const made = await Promise.all([takeReceipt(t.context, input), takeReceipt(t.context, input)]);
    expect(made[0].receiptId).toBe(made[1].receiptId);
    expect(
      (
        await t.db
          .selectFrom('household_balance')
          .select('credit')
          .where('household_id', '=', s.householdId)
          .executeTakeFirstOrThrow()
      ).credit,
    ).toBe(1200);
  });

  test('kill -9 in the middle of posting a large file, then again: nothing lost, nothing twice', async () => {
    const s = [];
    for (let index = 0; index < 4; index += 1) s.push(await sentClaim(t));
    const ours = s.map((one) =>
      decided(one.claim.control_number, [
        { control: one.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] },
      ]),
    );
    const strangers = Array.from({ length: 1500 }, (_, index) => sampleRemitClaim(`BIG${index}`, 5000, 4000));
    const { outcomes } = await intake(
      t.context,
      remitText([...strangers.slice(0, 700), ...ours, ...strangers.slice(700)]),
    );
    const id = outcomes[0]!.remittanceId!;
    const posted = async () =>
      (
        await t.db
          .selectFrom('remittance_claim')
          .select(sql<number>`count(*) filter (where status <> 'ready')`.as('n'))
          .where('remittance_id', '=', id)
          .executeTakeFirstOrThrow()
      ).n;
    // In the middle of ours.
    const gate = await closedGate(
      t.pool,
      'remittance_claim',
      `new.remittance_id = ${id} and new.number = 703 and new.status <> 'ready'`,
    );
    const script = `import { db } from './src/db/connect'; import { systemContext } from './src/server/access'; import { postRemittance } from './src/server/remittances/post'; systemContext(db()).then((context) => postRemittance(context, ${id})).then(() => process.exit(0));`;
    const child = spawn(process.execPath, ['src/testing/script.mjs', script], {
      env: { ...process.env, DATABASE_URL: t.ownerUrl },
      stdio: 'ignore',
    });
    const ended = new Promise((resolve) => child.on('exit', (_code, signal) => resolve(signal)));
    await gate.reached();
    child.kill('SIGKILL');
    expect(await ended).toBe('SIGKILL');
    await gate.open();
    expect(await posted()).toBe(702);
    await postRemittance(t.context, id);
    expect(await readRemittance(t.context, id)).toMatchObject({
      status: 'posted',
      posted: 4 * 9800,
      held: 1500 * 4000,
    });
    const { rows } = await sql<{
      booked: number;
    }>`select sum(amount) as booked from posting where remittance_id = ${id} and account = 'cash/transfer'`.execute(
      t.db,
    );
    expect(rows[0]!.booked).toBe(4 * 9800 + 1500 * 4000);
  });
});

describe('folder exchange', () => {
  test('whole files are read and archived, half-written ones wait, broken ones are set aside with the reason', async () => {
    const folders = await foldersOf('tideline');
    const s = await sentClaim(t);
    const text = remitText([
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] },
      ]),
    ]);
    const past = new Date(Date.now() - 60_000);
    const put = (name: string, content: string, at = past) => {
      writeFileSync(join(folders.inbox, name), content);
      utimesSync(join(folders.inbox, name), at, at);
    };
    mkdirSync(folders.inbox, { recursive: true });
    put('good.835', text);
    put('copy.835', text);
    put('broken.835', text.slice(0, 300));
    put('nul.835', text.replace('Tester', 'Tes\u0000er'));
    put('growing.835', text.slice(0, 200), new Date());
    put('arriving.835.part', text.slice(0, 200));
    const round = await exchangeRound(t.context);
    expect(Object.fromEntries(round.read.map((file) => [file.file, file.status]))).toEqual({
      'copy.835': 'read',
      'good.835': 'duplicate',
      'broken.835': 'set aside',
      'nul.835': 'set aside',
    });
    expect((await readdir(folders.inbox)).sort()).toEqual(['arriving.835.part', 'growing.835']);
    expect((await readdir(join(folders.archive, 'set-aside'))).sort()).toEqual([
      'broken.835',
      'broken.835.reason.txt',
      'nul.835',
      'nul.835.reason.txt',
    ]);
    expect(
      (await readdir(folders.outbox)).filter((name) => name.endsWith('-837P.x12')).length,
    ).toBeGreaterThan(0);
  });
});
