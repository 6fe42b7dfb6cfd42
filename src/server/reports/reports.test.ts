import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buffer, text } from 'node:stream/consumers';
import { sql } from 'kysely';
import Papa from 'papaparse';
import readXlsxFile from 'read-excel-file/node';
import { addDays } from '../../core/calendar';
import { cents, formatMoneyPlain } from '../../core/money';
import { TODAY, type TestDatabase, testDatabase } from '../../testing/database';
import {
  charge,
  decided,
  doWork,
  household,
  intake,
  overdueOf,
  placementOf,
  planOf,
  remitText,
  sentClaim,
} from '../../testing/desk';
import { startSendingBatch } from '../jobs/work';
import { postAgencyPayment } from '../overdue/agency-money';
import { logContact } from '../overdue/contacts';
import { draftLetters } from '../overdue/due-letters';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { watchPlans } from '../plans/watch';
import { postRemittance } from '../remittances/post';
import { confirmPrinted } from '../batches/again';
import { REPORTS, reportOf } from './index';
import { openDb, openPool } from '../../db/connect';
import { FULL } from '../../testing/runs';
import { type ReportPage, SHOWN_ROWS } from './report';
import { reportPdf, reportSheet } from './write';

let t: TestDatabase;
let folder = '';
beforeAll(async () => {
  t = await testDatabase();
  folder = mkdtempSync(join(tmpdir(), 'wergeld-reports-'));
  const s = await sentClaim(t, ['145.00', '42.00']);
  const { outcomes } = await intake(
    t.context,
    remitText([
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
        { control: s.controls[1]!, charge: 4200, paid: 0, reasons: ['CO-97:42.00'] },
      ]),
    ]),
  );
  await postRemittance(t.context, outcomes[0]!.remittanceId!);
  const self = await household(t, false, { last: '=Formula' });
  for (const [fee, ago] of [
    ['80.00', 100],
    ['60.00', 10],
  ] as const) {
    const day = addDays(TODAY, -ago);
    await charge(t, { ...t.context, today: day }, self.patientId, fee, '99213', day);
  }
  const taken = await takeReceipt(t.context, {
    householdId: self.householdId,
    tenders: [{ tender: 'cash', amount: '30.00' }],

    key: 'report-receipt-1',
  });
  await takeReceipt(t.context, {
    householdId: self.householdId,
    tenders: [{ tender: 'cash', amount: '25.00' }],

    key: 'report-receipt-2',
  });
  await reverseReceipt(t.context, { receiptId: taken.receiptId, why: 'test' });
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await t.close();
});

const read = (name: string, address: Record<string, string> = {}): Promise<ReportPage> =>
  reportOf(name)!.read(t.context, address);
const rowsOf = (page: ReportPage) => page.groups.flatMap((group) => group.rows);
const booked = async (query: string): Promise<number> =>
  (await sql<{ n: number }>`select coalesce(${sql.raw(query)}, 0) as n`.execute(t.db)).rows[0]!.n;

test('what patients owe by age is what the books say, by either way of counting', async () => {
  const owed = await booked('(select sum(with_patient) from charge_balance)');
  const page = await read('patient-aging');
  expect(page.totals.total).toBe(owed);
  expect([0, 1, 2, 3, 4].reduce((all, index) => all + page.totals[`days${index}`]!, 0)).toBe(owed);
  // 80.00 a hundred days ago less 25.00, 60.00 ten days ago; the copay of the visit is new.
  expect(page.totals).toMatchObject({ days0: 9000, days3: 5500 });
  expect((await read('patient-aging', { age: 'service' })).totals.total).toBe(owed);
});

test('what payers hold is what the books say', async () => {
  const page = await read('payer-aging');
  expect(page.totals.total).toBe(await booked('(select sum(with_payer) from charge_balance)'));
  expect(rowsOf(page)).toMatchObject([{ payer: 'Cedar Sound Health', charges: 1, total: 4200 }]);
});

test('production counts each part once, and what was reversed not at all', async () => {
  const page = await read('production', { from: addDays(TODAY, -365) });
  const part = (name: string, sign = '') =>
    booked(
      `(select ${sign}sum(p.amount)
        from posting p
          join book_account a on a.code = p.account
        where a.part = '${name}' and p.charge_id is not null)`,
    );
  expect(page.totals).toMatchObject({
    services: 4,
    charged: await part('fee', '-'),
    payers: await part('payer_paid'),
    patients: await part('patient_paid'),
  });
  expect(page.totals.contract! + page.totals.reduced!).toBe(await part('reduced'));
  expect(page.totals.patients).toBe(2500);
  // However its rows are made, they are the same together.
  for (const by of ['day', 'category', 'visit'])
    expect((await read('production', { from: addDays(TODAY, -365), by })).totals).toEqual(page.totals);
  expect(page.about).toMatch(/counts write-offs of contracts when the payer answers/);
  // Outside its period a report says nothing.
  expect((await read('production', { from: '2020-01-01', to: '2020-12-31' })).rows).toBe(0);
});

test('reductions stand under their reason, in words', async () => {
  const page = await read('reductions');
  expect(rowsOf(page)).toMatchObject([
    { account: 'Contractual write-offs', reason: 'CO-45', words: 'Over the contracted fee', amount: 4700 },
  ]);
});

test('plans: what is outstanding is what the books say, promised and collected by month, and how they end', async () => {
  const { householdId, planId } = await planOf(t);
  await takeReceipt(t.context, {
    householdId,
    tenders: [{ tender: 'cash', amount: '40.00' }],

    plans: { [planId]: '40.00' },
    key: 'report-plan-1',
  });
  const broken = await planOf(t);
  const late = { ...t.context, today: addDays(TODAY, 80) };
  const outstanding = await read('plan-outstanding');
  expect(outstanding.totals).toMatchObject({ left: 56_000, due: 0 });
  expect(outstanding.totals.left).toBe(await booked('(select sum(on_plan) from charge_balance)'));
  const months = await read('plan-months', { from: '2026-01-01', to: '2026-12-31' });
  expect(months.totals).toMatchObject({ promised: 60_000, collected: 4_000 });
  await watchPlans(late);
  const ends = await read('plan-outcomes', { from: '2026-01-01', to: '2026-12-31' });
  expect(rowsOf(ends)).toMatchObject([{ terms: '1 to 3 installments', plans: 2, broken: 2, rate: '100 %' }]);
  expect(broken.planId).toBeGreaterThan(0);
});

test('what is overdue: letters with what came, stages with what became of them, promises, agencies', async () => {
  const lettered = await overdueOf(t);
  const paidUp = await overdueOf(t, { fee: '100.00' });
  const { batchId } = await draftLetters(t.context, {
    householdIds: [lettered.householdId, paidUp.householdId],
    key: 'report-letters-1',
  });
  await doWorkOn(batchId!);
  await takeReceipt(
    { ...t.context, today: addDays(TODAY, 30) },
    {
      householdId: paidUp.householdId,
      tenders: [{ tender: 'cash', amount: '100.00' }],
      key: 'report-paid-1',
    },
  );
  await takeReceipt(
    { ...t.context, today: addDays(TODAY, 31) },
    {
      householdId: lettered.householdId,
      tenders: [{ tender: 'cash', amount: '40.00' }],
      key: 'report-paid-2',
    },
  );
  const later = (name: string, address: Record<string, string> = {}) =>
    reportOf(name)!.read({ ...t.context, today: addDays(TODAY, 60) }, address);
  // The second payment came on the thirty-first day.
  expect(rowsOf(await later('letter-returns'))).toMatchObject([
    {
      letter: 'First reminder',
      version: '1',
      letters: 2,
      answered: 1,
      named: 34_000,
      came: 10_000,
      share: '29 %',
    },
  ]);
  expect(rowsOf(await later('stage-moves'))).toMatchObject([
    {
      month: '2026-03',
      stage: 'First reminder',
      letters: 2,
      moved: 0,
      placed: 0,
      cured: 1,
      still: 1,
      named: 34_000,
      paid: 14_000,
    },
  ]);
  for (const [amount, by] of [
    ['30.00', addDays(TODAY, 5)],
    ['50.00', addDays(TODAY, 90)],
  ] as const)
    await logContact(t.context, {
      householdId: lettered.householdId,
      kind: 'call',
      outcome: 'promise',
      amount,
      by,
      sure: true,
      key: `report-promise-${amount}`,
    });
  await logContact(t.context, {
    householdId: paidUp.householdId,
    kind: 'call',
    outcome: 'promise',
    amount: '30.00',
    by: addDays(TODAY, 5),
    sure: true,
    key: 'report-promise-3',
  });
  expect(rowsOf(await later('promises-kept'))).toMatchObject([
    { month: '2026-03', promises: 3, kept: 0, broken: 1, ended: 1, open: 1, amount: 11_000, share: '0 %' },
  ]);
  const placed = await placementOf(t);
  await postAgencyPayment(t.context, {
    placementId: placed.placementId,
    reference: 'R1',
    paidOn: TODAY,
    gross: '60.00',
    key: 'report-agency-1',
  });
  expect(rowsOf(await later('agency-recovery'))).toMatchObject([
    {
      state: 'accepted',
      placements: 1,
      age: '60',
      amount: 24_000,
      collected: 6000,
      fee: 1500,
      open: 18_000,
      share: '25 %',
    },
  ]);
});

/** Sends a batch and says that it was printed. */
async function doWorkOn(batchId: number): Promise<void> {
  await startSendingBatch(t.context, { batchId });
  await doWork(t);
  await confirmPrinted(t.context, { batchId });
}

describe.each(REPORTS.map((report) => [report.name] as const))('%s', (name) => {
  const address = { from: '2020-01-01' };

  test('groups hold every row once, and their totals add up', async () => {
    const plain = await read(name, address);
    const grouping = plain.parameters.find((item) => item.key === 'group');
    for (const { value } of grouping?.choices ?? []) {
      const page = await read(name, { ...address, group: value });
      expect(rowsOf(page)).toHaveLength(plain.rows);
      expect(page.totals).toEqual(plain.totals);
      for (const [key, total] of Object.entries(page.totals))
        expect(page.groups.reduce((all, group) => all + group.totals[key]!, 0)).toBe(total);
    }
  });

  test('what makes no sense is read as not said', async () => {
    const usual = await read(name);
    expect(
      await read(name, { from: 'yesterday', to: '', age: '__proto__', group: "x'; drop table charge" }),
    ).toEqual(usual);
  });

  test('as CSV, XLSX and on paper it says what the screen says', async () => {
    const page = await read(name, address);
    const report = reportOf(name)!;
    const csv = Papa.parse<string[]>(
      (await text((await reportSheet(t.context, report, address, 'csv')).body)).trimEnd(),
    ).data;
    expect(csv[0]).toEqual(page.columns.map((column) => column.title));
    expect(csv).toHaveLength(page.rows + 1);
    expect(csv.flat().some((cell) => cell.startsWith('='))).toBe(false);
    const [sheet] = await readXlsxFile(
      await buffer((await reportSheet(t.context, report, address, 'xlsx')).body),
    );
    expect(sheet!.data).toHaveLength(page.rows + 1);
    const file = join(folder, 'report.pdf');
    writeFileSync(file, await reportPdf(t.context, report, address));
    const printed = execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).replace(
      /\s+/g,
      ' ',
    );
    expect(printed).toContain(page.title);
    for (const { key, kind } of page.columns)
      if (kind === 'money')
        expect(printed).toContain(formatMoneyPlain(cents(page.totals[key]!)).replace(/\s/g, ' '));
  });

  test('a role that may not read it is refused, and what is taken out is on the audit trail', async () => {
    const report = reportOf(name)!;
    await expect(report.read(t.as('front-desk'), {})).rejects.toThrow(/may not read books/);
    await expect(reportPdf(t.as('front-desk'), report, {})).rejects.toThrow(/may not read books/);
    await reportPdf(t.as('biller'), report, {});
    const row = await t.db
      .selectFrom('audit')
      .select(['user_id', 'action'])
      .where('subject_kind', '=', 'report')
      .where('subject_id', '=', name)
      .orderBy('id', 'desc')
      .executeTakeFirstOrThrow();
    expect(row).toEqual({ user_id: 'biller', action: 'exported' });
  });
});

test('a period that ends before it begins is empty, and no error', async () => {
  const page = await read('production', { from: '2026-03-16', to: '2026-03-01' });
  expect(page.rows).toBe(0);
  expect(
    await reportPdf(t.context, reportOf('production')!, { from: '2026-03-16', to: '2026-03-01' }),
  ).toBeInstanceOf(Buffer);
});

test('a long report is never cut without a word: totals are of all, the screen says how much it shows, files hold all', async () => {
  const MANY = FULL ? 20_500 : SHOWN_ROWS + 300;
  await t.pool.query(`
    with h as (
      insert into household (last, first, line1, city, state, zip)
      select 'Long', 'Nr ' || n, n || ' Row', 'Osprey Landing', 'WA', '98199'
      from generate_series(1, ${MANY}) n
      returning id
    ),
    c as (
      insert into charge (household_id, kind, description, fee, service_date)
      select id, 'opening', 'Brought in', 5000, '2026-01-05'
      from h
      returning id, household_id
    ),
    e as (
      insert into entry (kind, posting_date, business_date, user_id, memo)
      values ('opening', '2026-03-01', '2026-01-05', 'test', 'Brought in')
      returning id
    )
    insert into posting (entry_id, account, amount, household_id, charge_id)
    select e.id, a.account, a.amount, c.household_id, c.id
    from c, e, (values ('receivable/patient', 5000), ('opening/balance', -5000)) a (account, amount)`);
  const page = await read('patient-aging');
  expect(page.totals.total).toBe(await booked('(select sum(with_patient) from charge_balance)'));
  expect(page.rows).toBeGreaterThanOrEqual(MANY);
  expect([page.shown, rowsOf(page).length]).toEqual([SHOWN_ROWS, SHOWN_ROWS]);
  const report = reportOf('patient-aging')!;
  const file = await text((await reportSheet(t.context, report, {}, 'csv')).body);
  const lines = Papa.parse<string[]>(file.trimEnd()).data;
  expect(lines).toHaveLength(page.rows + 1);
  const at = lines[0]!.indexOf('Together');
  expect(lines.slice(1).reduce((all, line) => all + Math.round(Number(line[at]) * 100), 0)).toBe(
    page.totals.total,
  );
  if (FULL) await expect(reportPdf(t.context, report, {})).rejects.toThrow(/Paper holds 20000 rows/);
  // Nobody waits for it any more: the connection is given back.
  const single = openPool(t.url, 1, { connection: 5, statement: 60 });
  const context = { ...t.context, db: openDb(single) };
  try {
    const gone = new AbortController();
    await reportSheet(context, report, {}, 'csv', gone.signal);
    gone.abort();
    expect((await report.read(context, {})).rows).toBe(page.rows);
    const { body } = await reportSheet(context, report, {}, 'csv');
    body.destroy();
    expect((await report.read(context, {})).rows).toBe(page.rows);
  } finally {
    await single.end();
  }
});
