/** What is exported of payers, plans, coverages, limits and cases says what the desk says. */
import { TODAY, fileDatabase } from '../../testing/database';
import { household, postedRemittance, says, sentClaim } from '../../testing/desk';
import { openCase } from '../accounts/cases';
import { enterCharge } from '../accounts/charges';
import { sayOwnRule } from '../estimates/terms';
import { addNote } from '../notes/notes';
import { openDrawer } from '../payments/drawers';
import { refundCredit } from '../payments/refund';
import { takeReceipt } from '../payments/take';
import { EXPORTS, exportTable } from './tables';

const t = fileDatabase();
const rowsOf = async (name: (typeof EXPORTS)[number]): Promise<Record<string, unknown>[]> => {
  let text = '';
  for await (const piece of exportTable(t.db, name, 'json')) text += piece;
  return JSON.parse(text) as Record<string, unknown>[];
};

test('every export is read, and its rows have ids that are their own', async () => {
  for (const name of EXPORTS) {
    const rows = await rowsOf(name);
    expect(new Set(rows.map(({ id }) => id)).size).toBe(rows.length);
  }
});

test('a case with what was charged of it, its coverage, and what that says otherwise', async () => {
  const { patientId, caseId: standing } = await household(t);
  const caseId = await openCase(t.context, {
    patientId,
    name: 'Knee',
    kind: 'illness',
    diagnoses: [{ code: 'I10' }, { code: 'J06.9' }],
    fromCaseId: standing,
    take: ['coverages'],
    key: 'exported case',
  });
  await enterCharge(t.context, {
    patientId,
    caseId,
    providerId: t.providers.family!,
    serviceDate: TODAY,
    code: '99213',
    fee: '145.00',
    diagnoses: ['I10'],
    key: 'exported charge',
  });
  const cases = await rowsOf('cases');
  expect(cases.find(({ id }) => id === caseId)).toMatchObject({
    patient: patientId,
    name: 'Knee',
    kind: 'illness',
    standing: false,
    opened_on: TODAY,
    diagnoses: 'I10 J06.9',
    charged_cents: 14_500,
  });
  expect(cases.find(({ id }) => id === standing)).toMatchObject({ standing: true, charged_cents: 0 });
  const own = (await rowsOf('coverages')).filter((row) => row['case'] === caseId);
  expect(own).toMatchObject([
    { position: 1, payer: 'Cedar Sound Health', relationship: 'self', assigned: true },
  ]);
  const ruleId = await sayOwnRule(t.context, {
    coverageId: Number(own[0]!['id']),
    table: 'copays',
    values: { amount: '9.00', counted_for: 'visit', copay_order: 'between' },
  });
  expect((await rowsOf('limits')).find(({ id }) => id === ruleId)).toMatchObject({
    kind: 'copay',
    says: 'coverage',
    of: own[0]!['id'],
    amount_cents: 900,
  });
});

test('payers with their plans, and notes about them', async () => {
  const payers = await rowsOf('payers');
  const payer = payers.find(({ name }) => name === 'Ironwood Casualty')!;
  expect(payer).toMatchObject({ payer_id: 'IRW04', filing_code: 'AM', city: 'Tacoma', corrections: 'new' });
  expect(
    (await rowsOf('insurance-plans')).filter(({ payer: whose }) => whose === 'Ironwood Casualty'),
  ).toMatchObject([{ name: 'Car injuries', contracted: false }]);
  const noteId = await addNote(t.context, {
    payerId: Number(payer['id']),
    words: 'By mail',
    key: 'exported note',
  });
  expect((await rowsOf('notes')).find(({ id }) => id === noteId)).toMatchObject({
    about: 'payer',
    of: payer['id'],
    household: null,
  });
});

test('money at the desk says who took it by name, and moments as ISO 8601', async () => {
  const made = await household(t, false);
  const { id: locationId } = await t.db
    .selectFrom('location')
    .select('id')
    .orderBy('id')
    .executeTakeFirstOrThrow();
  await openDrawer(t.context, { locationId, opening: '50.00', key: 'exported drawer' });
  const { receiptId } = await takeReceipt(t.context, {
    householdId: made.householdId,
    locationId,
    tenders: [{ tender: 'cash', amount: '20.00' }],
    key: 'exported receipt',
  });
  await refundCredit(t.context, {
    receiptId,
    amount: '5.00',
    tender: 'cash',
    reference: '',
    why: 'too much',
    key: 'exported refund',
  });
  const { name } = t.context.user;
  expect((await rowsOf('receipts')).find((row) => row['receipt'] === receiptId)).toMatchObject({
    taken_by: name,
    amount_cents: 2000,
    state: 'taken',
  });
  expect(await rowsOf('refunds')).toMatchObject([{ given_by: name, amount_cents: 500, handed_to_state: '' }]);
  let csv = '';
  for await (const piece of exportTable(t.db, 'drawers', 'csv')) csv += piece;
  const [head = '', row = ''] = csv.split('\n');
  const cells = row.split(',');
  const said = (column: string) => cells[head.split(',').indexOf(column)];
  expect(said('user')).toBe(name);
  expect(said('opened_at')).toMatch(/^2026-03-16T\d\d:\d\d:\d\d\.\d{3}Z$/);
  expect(said('closed_at')).toBe('');
});

test('reason codes with how often and how much, by their own row where they have one', async () => {
  const before = await rowsOf('reasons');
  const of = (rows: Record<string, unknown>[], group: string, code: string) =>
    rows.find((row) => row['reason_group'] === group && row['code'] === code)!;
  const made = await sentClaim(t);
  await postedRemittance(t, [says(made, 5500, ['CO-45:60.00', 'PR-3:30.00'])]);
  const after = await rowsOf('reasons');
  const more = (group: string, code: string, field: string): number =>
    Number(of(after, group, code)[field]) - Number(of(before, group, code)[field]);
  expect([more('*', '45', 'lines'), more('*', '45', 'amount_cents')]).toEqual([1, 6000]);
  // PR-45 has a row of its own, of which nothing was said.
  expect(more('PR', '45', 'lines')).toBe(0);
  expect([more('*', '3', 'lines'), more('*', '3', 'amount_cents')]).toEqual([1, 3000]);
  const short = (await rowsOf('follow-ups')).find((row) => row['claim'] === made.claim.control_number);
  expect(short).toMatchObject({ kind: 'short-payment', amount_cents: 1300, closed_at: null });
});
