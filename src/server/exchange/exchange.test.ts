import { existsSync } from 'node:fs';
import { readFile, readdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { read837 } from '../../core/x12/claim837';
import { readSets } from '../../core/x12/interchange';
import { fileDatabase } from '../../testing/database';
import { charge, decided, doWork, household, intake, remitText, sentClaim } from '../../testing/desk';
import { type Conflict, type Context, Refused } from '../access';
import { enterCharge } from '../accounts/charges';
import { buildClaims } from '../claims/build';
import { sendClaims } from '../claims/send';
import { changeFees } from '../fees/change';
import { postRemittance } from '../remittances/post';
import { findList } from '../lists/read';
import { takeReceipt } from '../payments/take';
import { searchEverything } from '../search/find';
import { readSetup, rowHistory } from '../setup/read';
import { saveSetup } from '../setup/save';
import { setupTables } from '../setup/tables';
import { readToday, readWaiting, waitingIn } from '../today/read';
import { trialBalance } from '../books/balances';
import { foldersOf, moveInto, writeWhole } from '../folders';
import { writeOutbox } from './round';

const t = fileDatabase();

const LIMITED = { holder: 'person', every: 'year', then_pays: 'next', warning: 'none' };

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
    const ids = await buildClaims(t.context, { householdId: made.householdId });
    const [sent] = await sendClaims(t.context, { claimIds: ids });
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
  const row = async (table: string, search: string) =>
    (await readSetup(t.context, table, { search })).list.rows[0]!;

  test('a change of a payer stops its claims when they have been checked again, and lets them go again', async () => {
    const made = await household(t);
    await charge(t, t.context, made.patientId, '145.00');
    const [id] = await buildClaims(t.context, { householdId: made.householdId });
    const status = async () =>
      (await t.db.selectFrom('claim').select('status').where('id', '=', id!).executeTakeFirstOrThrow())
        .status;
    expect(await status()).toBe('ready');
    const payer = await row('payers', 'Cedar Sound Health');
    await saveSetup(t.context, { table: 'payers', row: payer.key, values: { accepts: 'hold' } });
    await doWork(t);
    expect(await status()).toBe('draft');
    await saveSetup(t.context, { table: 'payers', row: payer.key, values: { accepts: 'electronic' } });
    await doWork(t);
    expect(await status()).toBe('ready');
  });

  test('terms from a day on, with money and lists, are read back as they were entered', async () => {
    const plan = await row('plans', 'Harbor PPO');
    const values = {
      insurance_plan_id: plan.key,
      valid_from: '2026-07-01',
      amount: '1,250.00',
      category: '',
      holder: 'person',
    };
    const general = await saveSetup(t.context, { table: 'deductibles', values });
    const spares = { ...values, category: 'office', amount: '0' };
    const spared = await saveSetup(t.context, { table: 'deductibles', values: spares });
    const { list } = await readSetup(t.context, 'deductibles', { search: '2026-07-01' });
    expect(list.rows.map(({ key, values: { amount, category } }) => [key, amount, category])).toEqual([
      [general, '1250.00', ''],
      [spared, '0.00', 'office'],
    ]);
    const copay = {
      insurance_plan_id: plan.key,
      valid_from: '2026-07-01',
      amount: '12',
      counted_for: 'service',
      copay_order: 'between',
    };
    await saveSetup(t.context, { table: 'copays', values: copay });
    expect((await row('copays', '2026-07-01')).values).toMatchObject({ ...copay, amount: '12.00' });
    const maximum = { ...values, amount: '', every: 'year', then_pays: 'next', warning: 'confirm' };
    await saveSetup(t.context, { table: 'maximums', values: maximum });
    expect((await row('maximums', '2026-07-01')).values).toMatchObject({ amount: '', every: 'year' });
    const limit = {
      ...maximum,
      quantity: '20',
      measure: 'visits',
      every: 'months',
      months: '24',
      by_tooth: true,
    };
    await saveSetup(t.context, { table: 'limits', values: limit });
    expect((await row('limits', '2026-07-01')).values).toMatchObject({
      quantity: '20',
      months: '24',
      by_tooth: true,
    });
    const rule = { insurance_plan_id: plan.key, valid_from: '2026-07-01' };
    await saveSetup(t.context, {
      table: 'conditions',
      values: { ...rule, kind: 'lesser-service', category: 'office', paid_as: '99212' },
    });
    expect((await row('conditions', '2026-07-01')).values).toMatchObject({ paid_as: '99212', quantity: '' });
    await saveSetup(t.context, {
      table: 'reductions',
      values: { ...rule, kind: 'several', shares: '100, 50, 12.5' },
    });
    expect((await row('reductions', '2026-07-01')).values).toMatchObject({
      shares: '100, 50, 12.5',
      modifier: '',
    });
    const household = { ...values, holder: 'household', anchor: '2026-07-01' };
    await saveSetup(t.context, { table: 'out-of-pocket', values: household });
    expect((await row('out-of-pocket', '2026-07-01')).values).toMatchObject({
      holder: 'household',
      amount: '1250.00',
    });
    await saveSetup(t.context, { table: 'categories', values: { name: 'hearing' } });
    await saveSetup(t.context, {
      table: 'shares',
      values: { insurance_plan_id: plan.key, category: 'hearing', share: '12.5' },
    });
    expect((await row('shares', 'hearing')).values).toMatchObject({ share: '12.5 %', valid_from: '' });
  });

  test.each([
    ['shares', { category: 'preventve', share: '80' }, /refers to something|choices/],
    ['shares', { category: 'office', share: '80' }, /one like this already/],
    [
      'deductibles',
      { category: 'offic', amount: '0', holder: 'person' },
      /Category is not one of the choices/,
    ],
    ['maximums', { ...LIMITED, every: 'months', amount: '5' }, /Say how many months/],
    ['maximums', { ...LIMITED, months: '6', amount: '5' }, /Months are for/],
    ['maximums', { ...LIMITED, every: 'life', anchor: '2026-07-01', amount: '5' }, /Only a year begins/],
    ['conditions', { kind: 'waiting', quantity: '' }, /Months is missing/],
    ['conditions', { kind: 'approval', quantity: '6' }, /Months is not for this rule/],
    ['conditions', { kind: 'ages', age_from: '19', age_through: '18' }, /ends before/],
    ['conditions', { kind: 'ages' }, /from or through which age/],
    ['conditions', { kind: 'lesser-service', paid_as: 'NOPE' }, /refers to something/],
    ['conditions', { kind: 'several', quantity: '6' }, /Rule is not one of the choices/],
    ['reductions', { kind: 'several', shares: '100, lots' }, /are written like 100, 50, 25/],
    ['reductions', { kind: 'several', shares: '100, 50', share: '5' }, /Share is not for this rule/],
    ['reductions', { kind: 'modifier', modifier: '5', share: '50' }, /two letters or digits/],
    ['limits', { ...LIMITED, measure: 'money', quantity: '5' }, /Counted is not one of the choices/],
    ['copays', { counted_for: 'visit', copay_order: 'between', amount: '' }, /not an amount/],
    ['copays', { counted_for: 'visit', copay_order: 'between', amount: '0' }, /one like this already/],
    ['copays', { counted_for: 'year', amount: '0' }, /choices/],
    ['deductibles', { amount: '1000000.01' }, /at most 1.000.000\.00/],
    ['categories', { name: 'OFFICE' }, /one like this already/],
    ['categories', { name: '  ' }, /missing/],
  ])('a new row of %s, %j, that would destroy something is refused', async (table, values, words) => {
    const plan = await row('plans', 'Harbor PPO');
    const input = { insurance_plan_id: plan.key, ...values } as Record<string, string>;
    await expect(saveSetup(t.context, { table, values: input })).rejects.toThrow(words);
  });

  test('a fee from a day on holds from that day: the earlier one before it, for charges and for the quick line', async () => {
    const { rows } = await t.pool.query<{ id: number }>(`select id from fee_schedule where kind = 'office'`);
    await changeFees(t.context, {
      scheduleId: rows[0]!.id,
      from: '2026-03-01',
      lines: [{ code: '80053', amount: '99.00' }],
      sure: true,
      key: 'exchange-fee-from-a-day',
    });
    const fee = async (day: string): Promise<number> =>
      (await t.pool.query<{ fee: number }>(`select fee_on($1, '80053', $2) as fee`, [rows[0]!.id, day]))
        .rows[0]!.fee;
    expect(await fee('2026-03-01')).toBe(9900);
    expect(await fee('2026-02-28')).not.toBe(9900);
    const { patientId } = await household(t);
    const charged = async (serviceDate: string) => {
      const id = await enterCharge(t.context, {
        patientId,
        providerId: t.providers.family!,
        serviceDate,
        code: '80053',
        key: `dated-fee-${serviceDate}`,
      });
      return (await t.pool.query<{ fee: number }>('select fee from charge where id = $1', [id])).rows[0]!.fee;
    };
    expect([await charged('2026-02-28'), await charged('2026-03-01')]).toEqual([
      await fee('2026-02-28'),
      9900,
    ]);
  });

  test('a change made on an older version is refused with both shown, and taken when it is pressed again', async () => {
    const read = await row('diagnoses', 'J06.9');
    const save = (description: string, version: number) =>
      saveSetup(t.context, { table: 'diagnoses', row: read.key, values: { description }, version });
    await save('A cold', read.version);
    const refusal = await save('Common cold', read.version).catch((error: unknown) => error);
    expect(refusal).toMatchObject({
      differences: [{ label: 'Description', theirs: 'A cold', mine: 'Common cold' }],
      version: read.version + 1,
    });
    expect((await row('diagnoses', 'J06.9')).values.description).toBe('A cold');
    await save('Common cold', (refusal as Conflict).version as number);
    expect((await row('diagnoses', 'J06.9')).values.description).toBe('Common cold');
    const [last, before, added] = (await rowHistory(t.context, 'diagnoses', 'J06.9')).map(
      (change) => change.changes,
    );
    expect([last, before]).toEqual([
      [{ label: 'Description', from: 'A cold', to: 'Common cold' }],
      [{ label: 'Description', from: 'Cold', to: 'A cold' }],
    ]);
    // As it was added, without what was left empty.
    expect(added!.map(({ label, to }) => [label, to]).sort()).toEqual([
      ['Code', 'J06.9'],
      ['Description', 'Cold'],
    ]);
  });

  test.each([
    ['providers', { npi: '1234567890' }, /check digit/],
    ['practice', { zip: '12' }, /five or nine digits/],
    ['statement-policy', { due_days: '999' }, /out of its range/],
    ['shares', { share: 'lots' }, /written like/],
    ['shares', { share: '100.01' }, /written like/],
    ['copays', { amount: '-5' }, /not an amount/],
    ['practice', { tax_id: '' }, /nine digits/],
    ['practice', { state: 'XX' }, /state code/],
    ['locations', { state: 'Washington' }, /state code/],
    ['services', { category: 'offise' }, /Category is not one of the choices/],
    ['clearinghouses', { folder: '../../etc' }, /small letters/],
    ['clearinghouses', { senderId: '' }, /missing/],
    ['services', { description: '' }, /missing/],
    ['reasons', { reduction_account: 'cash/cash' }, /not there|choices/],
  ])('%s: %j is refused', async (table, values, words) => {
    const { list } = await readSetup(t.context, table);
    const { key } = list.rows[0]!;
    await expect(
      saveSetup(t.context, { table, row: key, values: values as Record<string, string> }),
    ).rejects.toThrow(words);
  });

  test('a row that is there already, or refers to nothing, is refused in words; only a manager changes', async () => {
    const add = (context: Context, table: string, values: Record<string, string>) =>
      saveSetup(context, { table, values });
    await expect(add(t.context, 'diagnoses', { code: 'I10', description: 'again' })).rejects.toThrow(
      /like this already/,
    );
    await expect(
      add(t.context, 'charge-set-lines', { charge_set_id: '1', position: '50', units: '1', code: 'NOPE' }),
    ).rejects.toThrow(/not there/);
    await expect(add(t.as('biller'), 'diagnoses', { code: 'X', description: 'x' })).rejects.toThrow(
      /may not change setup/,
    );
    await expect(readSetup(t.as('front-desk'), 'payers')).rejects.toThrow(Refused);
    await add(t.context, 'diagnoses', { code: 'Z99.9', description: 'New one' });
    expect((await readSetup(t.context, 'diagnoses', { search: 'new one' })).list.rows).toHaveLength(1);
  });

  test('every table shows its rows, finds them, and pages like every list', async () => {
    for (const table of setupTables()) {
      const { list, fields } = await readSetup(t.context, table.key);
      expect(list.count).toBeGreaterThan(0);
      expect(fields.map((field) => field.name)).toEqual(list.all.map((column) => column.key));
      expect(Object.keys(list.rows[0]!.values).sort()).toEqual(fields.map((field) => field.name).sort());
    }
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
    // Every line of Today says what the list says that it leads to.
    for (const { list, view, count, total } of before) {
      const found = await findList(t.context, list, { view });
      expect([list, view, found.count]).toEqual([list, view, count]);
      expect(Object.values(found.sums)).toContain(total);
    }
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    await takeReceipt(t.context, {
      householdId: s.householdId,
      tenders: [{ tender: 'check', amount: '25.00', reference: '77' }],

      key: 'today-credit',
    });
    const self = await household(t, false);
    await charge(t, t.context, self.patientId, '80.00');
    const after = await readWaiting(t.context);
    const total = (waiting: typeof after, list: string, view: string) =>
      waiting.find((item) => item.list === list && item.view === view)!.total;
    expect(waitingIn(after, 'remittances', 'ready')).toBe(waitingIn(before, 'remittances', 'ready') - 1);
    expect(waitingIn(after, 'follow-ups', 'all')).toBe(waitingIn(before, 'follow-ups', 'all') + 1);
    expect(total(after, 'accounts', 'credit') - total(before, 'accounts', 'credit')).toBe(2500);
    expect(total(after, 'statements-due', 'due') - total(before, 'statements-due', 'due')).toBe(8000);
    expect((await findList(t.context, 'receipts', { search: '77' })).rows).toMatchObject([
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
