/** Fee schedules compared from the command line, by their names, as of a day. */
import { wergeldHere } from '../testing/command';
import { fileDatabase } from '../testing/database';
import { changeFees } from '../server/fees/change';
import { readSchedules } from '../server/fees/read';

const t = fileDatabase();
const compare = (...words: string[]) => wergeldHere(t, ['fees', 'compare', ...words]);

test('what differs is said code by code, by amount and percent, as of a day', async () => {
  const { id } = (await readSchedules(t.context)).find(({ name }) => name === 'Cedar Sound Health contract')!;
  await changeFees(t.context, {
    scheduleId: id,
    from: '2026-09-01',
    lines: [{ code: '99213', amount: '101.50' }],
    key: 'cli-fees-compare',
  });
  const now = await compare('office fees', 'Cedar Sound Health contract');
  expect(now.status).toBe(0);
  expect(now.out).toMatch(/^As of 2026-03-16: Office fees \| Cedar Sound Health contract\n/);
  expect(now.out).toMatch(/99213\s+145\.00\s+98\.00\s+-47\.00\s+−32\.41 %/);
  const later = await compare('Office fees', 'Cedar Sound Health contract', '--on', '2026-09-01', '--json');
  const { rows } = JSON.parse(later.out) as { rows: { code: string; fees: number[] }[] };
  expect(rows.find(({ code }) => code === '99213')!.fees).toEqual([14_500, 10_150]);
});

test.each([
  [['Office fees', 'Nobody’s fees'], /There is no schedule “Nobody’s fees”: Office fees/],
  [['Office fees', 'Cedar Sound Health contract', '--on', '2026-02-30'], /2026-02-30 is no date/],
  [['Office fees'], /scheduleIds|at least two/],
  [['Office fees', 'office fees'], /not compared with itself/],
])('%j is refused in words', async (words, said) => {
  const { status, err } = await compare(...words);
  expect(status).not.toBe(0);
  expect(err).toMatch(said);
});
