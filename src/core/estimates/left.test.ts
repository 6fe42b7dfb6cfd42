/** What is left, as the account's head says it. */
import { calendarDate } from '../calendar';
import { cents } from '../money';
import { countsOn } from './left';
import type { Rule, RuleOf } from './rules';

const DAY = calendarDate('2026-03-16');
const YEAR = { every: 'year' } as const;
const limit = (id: string, more: Partial<RuleOf<'limit'>>): Rule => ({
  kind: 'limit',
  id,
  measure: 'visits',
  most: 20,
  holder: 'person',
  period: YEAR,
  ...more,
});

test('what there is, what was used and what is left, of what counts over more than a day', () => {
  const rules: Rule[] = [
    limit('visits', {}),
    limit('units', { measure: 'units', most: 4, period: { every: 'day' } }),
    limit('crowns', { measure: 'services', most: 1, byTooth: true }),
    limit('money', { measure: 'money', most: 100_000, holder: 'household', scope: { category: 'major' } }),
    { kind: 'out-of-pocket', id: 'out', amount: cents(500_000), holder: 'person', period: YEAR },
    { kind: 'deductible', id: 'first', amount: cents(5000), holder: 'person', period: YEAR },
    {
      kind: 'deductible',
      id: 'spared',
      amount: cents(0),
      holder: 'person',
      period: YEAR,
      scope: { category: 'office' },
    },
    { kind: 'copay', id: 'copay', amount: cents(3000), once: 'visit', order: 'between' },
  ];
  const used: Record<string, number> = { visits: 3, money: 120_000, first: 2000 };
  const found = countsOn(
    { rules, begins: null, used: ({ id }, from) => (from === '2026-01-01' ? (used[id] ?? 0) : -1) },
    DAY,
  );
  const household = (amount: number): Rule => ({
    kind: 'deductible',
    id: 'household',
    amount: cents(amount),
    holder: 'household',
    period: YEAR,
  });
  // Of the household only where less is left there than of the person's: 30.00 are.
  const said = (amount: number) =>
    countsOn({ rules: [household(amount), ...rules], begins: null, used: ({ id }) => used[id] ?? 0 }, DAY)
      .map(({ words }) => words)
      .filter((words) => words.startsWith('deductible'));
  expect(said(3000)).toEqual(['deductible']);
  expect(said(2999)).toEqual(['deductible', 'deductible of the household']);
  expect(found).toMatchObject([
    { words: 'deductible', money: true, most: 5000, used: 2000, left: 3000 },
    { words: 'out of pocket', money: true, most: 500_000, used: 0, left: 500_000 },
    {
      words: 'yearly maximum for major of the household',
      money: true,
      most: 100_000,
      used: 120_000,
      left: 0,
    },
    { words: '20 visits a year', money: false, most: 20, used: 3, left: 17 },
  ]);
});
