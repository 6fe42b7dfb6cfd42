/** Visits brought in from the command line, and what was taken, is held and was counted, exported. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { closeDrawer, openDrawer } from '../server/payments/drawers';
import { refundCredit } from '../server/payments/refund';
import { takeReceipt } from '../server/payments/take';
import { wergeldHere } from '../testing/command';
import { TODAY, fileDatabase } from '../testing/database';
import { household } from '../testing/desk';

const t = fileDatabase();
const wergeld = (...words: string[]) => wergeldHere(t, words);

test('a file of visits is brought in, again changes nothing, and says what it cannot read', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-visits-'));
  const file = join(folder, 'visits.csv');
  try {
    await household(t, false, { last: 'Commanded', first: 'Cy', birthDate: '1970-01-02' });
    writeFileSync(
      file,
      `key,last,first,birth date,day\na,Commanded,Cy,1970-01-02,${TODAY}\nb,Nobody,Known,,${TODAY}\n`,
    );
    const first = await wergeld('visits', 'import', file);
    expect([first.status, first.out]).toEqual([0, '2 new, 0 changed, 0 canceled, 1 of nobody known\n']);
    expect(JSON.parse((await wergeld('visits', 'import', file, '--json')).out)).toMatchObject({
      fresh: 0,
      changed: 0,
    });
    writeFileSync(file, `key,last,first,day\nc,Third,One,${TODAY}\nd,Fourth,One,nonsense\n`);
    const broken = await wergeld('visits', 'import', file);
    expect([broken.status, broken.out]).toEqual([
      1,
      '1 new, 0 changed, 0 canceled, 1 of nobody known\nRow 3: day “nonsense” is no day\n',
    ]);
    writeFileSync(file, 'nothing of the kind');
    expect((await wergeld('visits', 'import', file)).err).toContain('is missing');
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});

test('receipts, credits, refunds and drawers are exported with their tenders', async () => {
  const site = await t.db.selectFrom('location').select('id').orderBy('id').executeTakeFirstOrThrow();
  const drawerId = await openDrawer(t.context, {
    locationId: site.id,
    opening: '20.00',
    key: 'export-drawer',
  });
  const { householdId } = await household(t, false);
  const { receiptId } = await takeReceipt(t.context, {
    householdId,
    locationId: site.id,
    tenders: [
      { tender: 'cash', amount: '30.00' },
      { tender: 'check', amount: '12.00', reference: '=9' },
    ],
    key: 'export-receipt',
  });
  await refundCredit(t.context, {
    receiptId,
    amount: '5.00',
    tender: 'cash',
    reference: '',
    why: 'x',
    key: 'export-refund',
  });
  await closeDrawer(t.context, { drawerId, counted: '44.00', checks: 1, why: 'lost', key: 'export-close' });
  const rows = async (what: string) =>
    JSON.parse((await wergeld('export', what, '--format', 'json')).out) as Record<string, unknown>[];
  expect(await rows('receipts')).toMatchObject([
    { receipt: receiptId, tender: 'cash', state: 'taken', amount_cents: 3000, drawer: drawerId },
    { tender: 'check', amount_cents: 1200, reference: '=9' },
    { tender: 'cash', amount_cents: -500 },
  ]);
  expect(await rows('credits')).toMatchObject([{ held_cents: 3700, reserved_for: null }]);
  expect(await rows('refunds')).toMatchObject([{ receipt: receiptId, amount_cents: 500, tender: 'cash' }]);
  expect(await rows('drawers')).toMatchObject([
    { opening_cents: 2000, expected_cents: 4500, counted_cents: 4400, difference_cents: -100, why: 'lost' },
  ]);
  // What begins like a formula is none in a spreadsheet.
  expect((await wergeld('export', 'receipts')).out).toContain(`'=9`);
});
