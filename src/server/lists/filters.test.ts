/** Lists and reports narrowed to a payer, a provider, a site: the same in rows, sums, files, kept views and figures. */
import { text } from 'node:stream/consumers';
import { TODAY, fileDatabase } from '../../testing/database';
import { charge, dentalCharge, household, sentClaim } from '../../testing/desk';
import { openFigures } from '../books/balances';
import { reportOf } from '../reports';
import { keepView } from './choose';
import { findList, readList } from './read';
import { listSheet } from './sheet';
import { LISTS } from './index';

const t = fileDatabase();

beforeAll(async () => {
  await sentClaim(t, ['145.00', '42.00']);
  const { patientId } = await household(t);
  await charge(t, t.context, patientId, '100.00');
  await dentalCharge(t, patientId, { fee: '60.00' });
});

const payerId = async (): Promise<number> =>
  (await t.db.selectFrom('claim').select('payer_id').executeTakeFirstOrThrow()).payer_id;

test('a list narrowed is those rows with their sums, whatever else is asked, and its file as well', async () => {
  const payer = await payerId();
  const all = await readList(t.context, 'with-payers', {});
  const own = await readList(t.context, 'with-payers', { payer: String(payer) });
  const family = await readList(t.context, 'with-payers', { provider: String(t.providers.family) });
  expect(all.narrowed.map(({ name, value }) => [name, value])).toEqual([
    ['payer', null],
    ['provider', null],
    ['site', null],
  ]);
  expect(own.narrowed[0]).toMatchObject({ value: payer });
  const { rows } = await t.pool.query<{ n: number; sum: number }>(
    `select count(*)::int as n, sum(with_payer)::bigint as sum from payer_balance where with_payer <> 0 and payer_id = $1`,
    [payer],
  );
  expect([own.count, own.sums.amount]).toEqual([rows[0]!.n, rows[0]!.sum]);
  expect(family.count).toBeLessThan(all.count);
  expect(family.rows.every(({ provider }) => provider === family.rows[0]!.provider)).toBe(true);
  const both = await readList(t.context, 'with-payers', { payer: String(payer), search: 'no such thing' });
  expect(both.count).toBe(0);
  const asked = { provider: String(t.providers.family) };
  const { body } = await listSheet(t.context, LISTS['with-payers'], asked, 'csv');
  expect((await text(body)).trim().split('\n')).toHaveLength(family.count + 1);
});

test('what is no id, or belongs to another list, narrows nothing; an id that is gone narrows to nothing', async () => {
  const all = await readList(t.context, 'claims', { view: 'all' });
  for (const payer of ['', '0', '-3', '1 or true', '9'.repeat(20), ['x', '1']])
    expect((await readList(t.context, 'claims', { view: 'all', payer })).count).toBe(all.count);
  expect((await readList(t.context, 'claims', { view: 'all', payer: '99999999' })).count).toBe(0);
  expect((await readList(t.context, 'receipts', { payer: '1' })).narrowed).toEqual([]);
});

test('a kept view keeps what it is narrowed to, and refuses a filter that the list has not', async () => {
  const payer = await payerId();
  const view = { list: 'claims', name: 'theirs', view: 'all', order: '' };
  await keepView(t.context, { ...view, filters: { payer } });
  expect((await readList(t.context, 'claims', {})).kept).toEqual([
    { name: 'theirs', view: 'all', order: '', filters: { payer } },
  ]);
  await expect(keepView(t.context, { ...view, list: 'receipts', filters: { payer } })).rejects.toThrow(
    /no such filter/,
  );
});

test('the figure on Today, the report and the list it leads to are one sum', async () => {
  const { withPayers, withPatients } = await openFigures(t.db, TODAY);
  expect((await findList(t.context, 'accounts', { view: 'owes' })).sums.withPatient).toBe(withPatients);
  const listed = await findList(t.context, 'with-payers', {});
  const report = await reportOf('payer-aging')!.read(t.context, {});
  expect(withPayers).toBeGreaterThan(0);
  expect([listed.sums.amount, report.totals.total]).toEqual([withPayers, withPayers]);
  for (const { leads, total } of report.groups[0]!.rows) {
    const address = Object.fromEntries(new URL(String(leads), 'http://desk').searchParams);
    expect((await readList(t.context, 'with-payers', address)).sums.amount).toBe(total);
  }
  const payer = String(await payerId());
  const narrowed = await reportOf('payer-aging')!.read(t.context, { payer });
  expect(narrowed.rows).toBe(1);
  expect(narrowed.totals.total).toBe((await readList(t.context, 'with-payers', { payer })).sums.amount);
});
