import { type ListColumn, listOrder, shownColumns } from './lists';

const columns: readonly ListColumn[] = [
  { key: 'name', title: 'Name', kind: 'words' },
  { key: 'why', title: 'Why', kind: 'words', unordered: true },
  { key: 'amount', title: 'Amount', kind: 'money' },
  { key: 'phone', title: 'Phone', kind: 'words', extra: true },
];
const keys = (chosen: string[] | null): string[] => shownColumns(columns, chosen).map((column) => column.key);

test('a list begins with its own columns, and shows those that a person chose, in that order', () => {
  expect(keys(null)).toEqual(['name', 'why', 'amount']);
  expect(keys(['phone', 'name'])).toEqual(['phone', 'name']);
});

test('a choice that is older than the list leaves out what is gone, and begins anew where nothing is left', () => {
  expect(keys(['gone', 'amount'])).toEqual(['amount']);
  expect(keys(['gone'])).toEqual(['name', 'why', 'amount']);
  expect(keys([])).toEqual(['name', 'why', 'amount']);
});

test.each([
  ['amount', { key: 'amount', down: false }],
  ['-amount', { key: 'amount', down: true }],
  ['phone', { key: 'phone', down: false }],
  ['why', null],
  ['', null],
  ['-', null],
  ['--amount', null],
  ['amount desc; drop table claim', null],
  ['constructor', null],
])('“%s” orders by %j', (text, order) => expect(listOrder(columns, text)).toEqual(order));
