/** What lists of Setup show. */
import { fileDatabase } from '../../testing/database';
import { readSetup } from './read';

const t = fileDatabase();

test('a choice goes by what it is called, in the rows and in the search; its form keeps what it is', async () => {
  const find = async (search: string) => (await readSetup(t.context, 'reasons', { search })).list;
  const every = await find('every group');
  expect(every.count).toBeGreaterThan(200);
  expect(new Set(every.rows.map((row) => (row as unknown as Record<string, unknown>).group_code))).toEqual(
    new Set(['every group']),
  );
  expect((await find('while-money')).count).toBe(0);
  const [first] = (await find('while money is open')).rows;
  expect(first).toMatchObject({
    follow_up: 'while money is open',
    values: { follow_up: 'while-money' },
  });
});
