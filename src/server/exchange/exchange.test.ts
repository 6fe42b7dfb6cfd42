import { existsSync } from 'node:fs';
import { readFile, readdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { read837 } from '../../core/x12/claim837';
import { readSets } from '../../core/x12/envelope';
import { type TestDatabase, testDatabase } from '../../testing/database';
import { charge, decided, household, intake, remitText, sentClaim } from '../../testing/desk';
import { Refused } from '../access';
import { buildClaims } from '../claims/build';
import { listClaims } from '../claims/read';
import { sendClaims } from '../claims/send';
import { postRemittance } from '../remittances/post';
import { listFollowUps, listRemittances } from '../remittances/read';
import { listReceipts } from '../payments/read';
import { takeReceipt } from '../payments/receipts';
import { readSetup, saveSetup } from '../setup/tables';
import { listStatementsDue } from '../statements/read';
import { readToday, readWaiting, searchEverything } from '../today/read';
import { trialBalance } from '../books/read';
import { foldersOf, moveInto, writeWhole } from './folders';
import { writeOutbox } from './round';

let t: TestDatabase;
beforeAll(async () => {
  t = await testDatabase();
});
afterAll(() => t.close());

describe('outbox', () => {
  test('what is sent becomes one file that an 837 reader reads, written once, whoever writes', async () => {
    const s = await sentClaim(t, ['145.00', '42.00']);
    const written = (await Promise.all([writeOutbox(t.context), writeOutbox(t.context)])).flat();
    expect(new Set(written).size).toBe(written.length);
    const { outbox } = await foldersOf('tideline');
    const names = await readdir(outbox);
    expect(names.every((name) => name.endsWith('.x12'))).toBe(true);
    const texts = await Promise.all(names.map((name) => readFile(join(outbox, name), 'utf8')));
    const claims = (await readSets(texts)).sets.flatMap(read837);
    const mine = claims.find((claim) => claim.controlNumber === s.claim.control_number)!;
    expect(mine).toMatchObject({
      total: 18700,
      payer: { payerId: 'CSH01' },
      subscriber: { groupNumber: 'CS-350' },
    });
    expect(mine.lines.map((line) => line.control)).toEqual(s.controls);
    expect(await writeOutbox(t.context)).toEqual([]);
  });

  test('a transmission whose file was never written is written in the next round', async () => {
    const made = await household(t);
    await charge(t, t.context, made.patientId, '10.00');
    const ids = await buildClaims(t.context, made.householdId);
    const [sent] = await sendClaims(t.context, ids);
    const { outbox } = await foldersOf('tideline');
    expect(existsSync(join(outbox, sent!.file))).toBe(false);
    await writeOutbox(t.context);
    expect(existsSync(join(outbox, sent!.file))).toBe(true);
  });

  test('names never overwrite each other in the archive; whole files leave no half', async () => {
    const { inbox, archive } = await foldersOf('tideline');
    for (let n = 0; n < 3; n += 1) {
      await writeFile(join(inbox, 'same.835'), String(n));
      await moveInto(
        join(inbox, 'same.835'),
        join(archive, 'in'),
        'same.835',
        n === 2 ? 'the reason' : undefined,
      );
    }
    expect((await readdir(join(archive, 'in'))).sort()).toEqual([
      '2-same.835',
      '3-same.835',
      '3-same.835.reason.txt',
      'same.835',
    ]);
    await writeWhole(join(inbox, 'whole.txt'), 'x');
    expect(await readdir(inbox)).toEqual(['whole.txt']);
  });
});

describe('setup', () => {
  const row = async (table: string, pick: (row: Record<string, string | boolean>) => boolean) =>
    (await readSetup(t.context, table)).rows.find(pick)!;

  test('a change of a payer stops its claims immediately, and lets them go again', async () => {
    const made = await household(t);
    await charge(t, t.context, made.patientId, '145.00');
    const [id] = await buildClaims(t.context, made.householdId);
    const status = async () =>
      (await t.db.selectFrom('claim').select('status').where('id', '=', id!).executeTakeFirstOrThrow())
        .status;
    expect(await status()).toBe('ready');
    const payer = await row('payers', (item) => item.name === 'Cedar Sound Health');
    await saveSetup(t.context, 'payers', { ...payer, accepts: 'hold' }, true);
    expect(await status()).toBe('draft');
    await saveSetup(t.context, 'payers', { ...payer, accepts: 'electronic' }, true);
    expect(await status()).toBe('ready');
  });

  test('percentages, money and lists are read back as they were entered', async () => {
    const plan = await row('plans', (item) => item.name === 'Harbor PPO');
    await saveSetup(
      t.context,
      'plans',
      {
        ...plan,
        percentages: 'office 75 %, therapy 12.5 %',
        deductible: '1,250.00',
        maximum: '',
        deductible_waived: 'preventive, office',
      },
      true,
    );
    expect(await row('plans', (item) => item.name === 'Harbor PPO')).toMatchObject({
      percentages: 'office 75 %, therapy 12.5 %',
      deductible: '1250.00',
      maximum: '',
      deductible_waived: 'preventive, office',
    });
  });

  test.each([
    ['providers', { npi: '1234567890' }, /check digit/],
    ['practice', { zip: '12' }, /five or nine digits/],
    ['practice', { statement_due_days: '999' }, /out of its range/],
    ['plans', { percentages: 'office lots' }, /written like/],
    ['plans', { copay: '-5' }, /not an amount/],
    ['connections', { folder: '../../etc' }, /small letters/],
    ['services', { description: '' }, /missing/],
  ])('%s: %j is refused', async (table, more, words) => {
    const { rows } = await readSetup(t.context, table);
    await expect(saveSetup(t.context, table, { ...rows[0], ...more }, true)).rejects.toThrow(words);
  });

  test('a row that is there already, or refers to nothing, is refused in words; only a manager changes', async () => {
    await expect(
      saveSetup(t.context, 'diagnoses', { code: 'I10', description: 'again' }, false),
    ).rejects.toThrow(/like this already/);
    await expect(
      saveSetup(t.context, 'fees', { fee_schedule_id: '1', code: 'NOPE', amount: '1' }, false),
    ).rejects.toThrow(/not there/);
    await expect(
      saveSetup(t.as('biller'), 'diagnoses', { code: 'X', description: 'x' }, false),
    ).rejects.toThrow(/may not change setup/);
    await expect(readSetup(t.as('front-desk'), 'payers')).rejects.toThrow(Refused);
    await saveSetup(t.context, 'diagnoses', { code: 'Z99.9', description: 'New one' }, false);
    expect((await readSetup(t.context, 'diagnoses', 'new one')).rows).toHaveLength(1);
  });
});

describe('lists and Today', () => {
  test('counts and amounts of Today are those of the lists they lead to', async () => {
    const s = await sentClaim(t);
    const { outcomes } = await intake(
      t.context,
      remitText([
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 4000, reasons: ['CO-97:105.00'] },
        ]),
      ]),
    );
    const before = await readWaiting(t.context);
    expect(before).toMatchObject({
      remitReady: (await listRemittances(t.context, { view: 'ready' })).count,
      fix: (await listClaims(t.context, { view: 'fix' })).count,
      ready: (await listClaims(t.context, { view: 'ready' })).count,
    });
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    await takeReceipt(t.context, {
      householdId: s.householdId,
      amount: '25.00',
      tender: 'check',
      reference: '77',
      key: 'today-credit',
    });
    const self = await household(t, false);
    await charge(t, t.context, self.patientId, '80.00');
    const w = await readWaiting(t.context);
    expect(w.remitReady).toBe(before.remitReady - 1);
    expect([w.followUps, w.followUpsTotal]).toEqual([
      (await listFollowUps(t.context)).count,
      (await listFollowUps(t.context)).sums.amount,
    ]);
    expect(w.creditsTotal - before.creditsTotal).toBe(2500);
    expect([w.statementsDue, w.statementsDueTotal]).toEqual([
      (await listStatementsDue(t.context, {})).count,
      (await listStatementsDue(t.context, {})).sums.amount,
    ]);
    expect((await listReceipts(t.context, { search: '77' })).rows).toMatchObject([
      { amount: 2500, left: 2500, state: '' },
    ]);
  });

  test('the figures of Today are the books’', async () => {
    const figures = await readToday(t.context);
    const balance = new Map((await trialBalance(t.context)).map((item) => [item.account, item.balance]));
    expect(figures.withPayers).toBe(balance.get('receivable/payer') ?? 0);
    expect(figures.withPatients).toBe(balance.get('receivable/patient') ?? 0);
    expect(figures.payerAging.reduce((all, item) => all + item.amount, 0)).toBe(figures.withPayers);
    expect(figures.aging.reduce((all, item) => all + item.amount, 0)).toBe(figures.withPatients);
    expect([...balance.values()].reduce((all, item) => all + item, 0)).toBe(0);
  });

  test('the search field finds what the role may see', async () => {
    const s = await sentClaim(t);
    const kinds = async (role: 'biller' | 'front-desk', text: string) => [
      ...new Set((await searchEverything(t.as(role), text)).map((hit) => hit.kind)),
    ];
    expect(await kinds('biller', s.claim.control_number)).toEqual(['claim']);
    expect(await kinds('front-desk', s.claim.control_number)).toEqual([]);
    expect(await kinds('biller', 'office visit')).toEqual(['code']);
    expect(await kinds('front-desk', s.number)).toEqual(['account']);
    expect(await kinds('biller', 'x')).toEqual([]);
  });
});
