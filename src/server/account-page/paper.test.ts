/** Ledgers on paper: any view over a period, planned services as an estimate, itemized receipts. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { addDays, calendarDate } from '../../core/calendar';
import { type TestDatabase, TODAY, testDatabase } from '../../testing/database';
import { charge, household, plannedCharge, dentalCharge } from '../../testing/desk';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { setConfidential } from '../accounts/confidential';
import { enterCharge } from '../accounts/charges';
import { accountPaper } from './paper';
import { addMember } from '../accounts/register';

let t: TestDatabase;
const folder = mkdtempSync(join(tmpdir(), 'wergeld-paper-'));
beforeAll(async () => {
  t = await testDatabase();
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await t.close();
});

let serial = 0;
const key = (): string => `paper-test-${(serial += 1)}`;
const told = (tool: string, ...args: string[]): string =>
  execFileSync(tool, args, { encoding: 'utf8' }).replace(/[ \t]+/g, ' ');
/** The text of what is printed, with its number of pages. */
async function printed(householdId: number, more: Record<string, unknown> = {}) {
  const { bytes } = await accountPaper(t.context, { householdId, ...more });
  const file = join(folder, 'read.pdf');
  writeFileSync(file, bytes);
  execFileSync('qpdf', ['--check', file]);
  const info = told('pdfinfo', file);
  expect(info).toMatch(/Tagged: yes/);
  return {
    text: told('pdftotext', '-layout', file, '-').replace(/\s+/g, ' '),
    pages: Number(/Pages: (\d+)/.exec(info)![1]),
  };
}
/** Two people: one visit long ago that is paid, one open of the mother; one of the son at the other site. */
async function family() {
  const made = await household(t, false, { last: 'Nguyễn', first: 'Łucja', sure: true });
  const { householdId, patientId } = made;
  const { patientId: son } = await addMember(t.context, {
    householdId,
    last: 'Nguyễn',
    first: 'Minh',
    birthDate: '2012-02-02',
    sex: 'M',
    sure: true,
    key: key(),
  });
  const old = await charge(t, t.context, patientId, '70.00', '99212', calendarDate('2025-11-03'));
  const { receiptId } = await takeReceipt(t.context, {
    householdId,
    tenders: [{ tender: 'check', amount: '70.00', reference: '4711' }],

    key: key(),
  });
  const visit = await charge(t, t.context, patientId, '145.00', '99213', addDays(TODAY, -10));
  const dental = await dentalCharge(t, son, { serviceDate: addDays(TODAY, -5), fee: '55.00' });
  return { ...made, son, old, visit, check: dental, receiptId };
}

describe('a ledger on paper', () => {
  test('everything, only what is open, only what was paid, and nobody’s name is lost', async () => {
    const { householdId } = await family();
    const all = (await printed(householdId)).text;
    expect(all).toContain('All charges');
    expect(all).toContain('Łucja Nguyễn');
    expect(all).toContain('Together 270.00 0.00 0.00 70.00 200.00');
    const open = (await printed(householdId, { what: 'open' })).text;
    expect(open).toContain('Together 200.00 0.00 0.00 0.00 200.00');
    const paid = (await printed(householdId, { what: 'paid' })).text;
    expect(paid).toContain('Together 70.00 0.00 0.00 70.00 0.00');
    expect(paid).toContain('you paid 70.00');
  });

  test('of a period, to the day; of one site; of one person', async () => {
    const { householdId, son } = await family();
    const of = async (more: Record<string, unknown>) => (await printed(householdId, more)).text;
    const day = addDays(TODAY, -10);
    expect(await of({ from: day, to: day })).toContain('Together 145.00');
    await expect(of({ from: addDays(day, 1), to: addDays(day, 2) })).rejects.toThrow(/nothing like that/);
    await expect(of({ from: TODAY, to: day })).rejects.toThrow(/before the first day/);
    const { id: siteId } = await t.db
      .selectFrom('charge as c')
      .innerJoin('location as l', 'l.id', 'c.location_id')
      .select('l.id')
      .where('c.patient_id', '=', son)
      .executeTakeFirstOrThrow();
    expect(await of({ siteId })).toContain('Together 55.00');
    expect(await of({ patientId: son })).toMatch(/Minh Nguyễn, born 2 Feb 2012.*Together 55.00/);
    await expect(of({ siteId: 99_999_999 })).rejects.toThrow(/site/);
    await expect(of({ patientId: (await family()).son })).rejects.toThrow(/no member/);
    await expect(printed(99_999_999)).rejects.toThrow(/no such account/);
  });

  test('one document each: every person’s begins on a page of its own, with its own numbers', async () => {
    const { householdId } = await family();
    const { text, pages } = await printed(householdId, { each: '1' });
    expect(pages).toBe(2);
    expect(text.match(/page 1 of 1/g)).toHaveLength(2);
    expect(text).toMatch(/Together 215.00.*Together 55.00/);
  });

  test('what goes to a confidential address is on a paper of its own alone', async () => {
    const { householdId, son } = await family();
    await setConfidential(t.context, {
      patientId: son,
      name: 'Minh',
      line1: '9 Quiet Lane',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98199',
    });
    for (const each of [undefined, '1']) {
      const { text } = await printed(householdId, { each });
      expect(text).not.toContain('Minh');
      expect(text).toContain('Together 215.00');
    }
    expect((await printed(householdId, { patientId: son })).text).toContain('Together 55.00');
    // Nor does what to collect tell of him, but where it is his alone.
    expect((await printed(householdId, { what: 'collect' })).text).not.toContain('Minh');
    expect((await printed(householdId, { what: 'collect', patientId: son })).text).toContain('Minh');
  });

  test('planned services with what each is expected to cost whom', async () => {
    const { householdId, patientId } = await household(t);
    const without = await plannedCharge(t, patientId, '145.00');
    expect(without).toBeGreaterThan(0);
    await enterCharge(t.context, {
      patientId,
      providerId: t.providers.family,
      serviceDate: addDays(TODAY, 25),
      code: '99214',
      fee: '200.00',
      tax: '2.00',
      planned: true,
      keptFromPayers: true,
      sure: true,
      key: key(),
    });
    const { text } = await printed(householdId, { what: 'planned' });
    // The plan of the tests: contracted at 98.00 for 99213, a copay of 30.00 a visit.
    expect(text).toMatch(/145.00 47.00 68.00 30.00/);
    expect(text).toMatch(/202.00 0.00 0.00 202.00/);
    expect(text).toContain('kept from insurers, as the patient asked');
    expect(text).toContain('Together 347.00 47.00 68.00 232.00');
    expect(text).toContain('This is an estimate');
    await expect(printed(householdId, { what: 'open' })).rejects.toThrow(/nothing like that/);
  });
});

describe('an itemized receipt', () => {
  test('what was paid, by person and date, with what a tax office or an insurer asks for', async () => {
    const { householdId, receiptId } = await family();
    await takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'cash', amount: '160.00' }],
      key: key(),
    });
    const { text } = await printed(householdId, { what: 'receipt' });
    expect(text).toContain('Itemized receipt of payments');
    expect(text).toMatch(/tax number \S+, NPI 1234567018/);
    expect(text).toMatch(/Check 4711 .*99212.*diagnosis I10/);
    expect(text).toMatch(/Łucja.*Together 215.00.*Minh.*Together 15.00/);
    expect(text).toContain('230.00 US dollars were paid');
    const november = await printed(householdId, {
      what: 'receipt',
      from: '2025-11-01',
      to: '2025-11-30',
    }).catch((error: Error) => error.message);
    // It was paid this month, whenever the service was.
    expect(november).toBe('Nothing was paid in this time');
    await reverseReceipt(t.context, { receiptId, why: 'It bounced' });
    const after = (await printed(householdId, { what: 'receipt' })).text;
    expect(after).not.toContain('4711');
    expect(after).toContain('160.00 US dollars were paid');
  });
});
