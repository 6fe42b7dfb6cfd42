/** What is said of codes of our own, and of codes of other days. */
import type { CalendarDate } from '../calendar';
import { type ReasonUseRule, reasonWarnings } from './reason-warnings';

const day = (text: string): CalendarDate => text as CalendarDate;
const rule = (group: string, code: string, more: Partial<ReasonUseRule> = {}): ReasonUseRule => ({
  group,
  code,
  standard: true,
  travelsAs: '',
  validFrom: null,
  validTo: null,
  ...more,
});
const RULES = [
  rule('*', '45'),
  rule('*', 'HH1', { standard: false, travelsAs: 'CO-192' }),
  rule('PR', 'HH1', { standard: false }),
  rule('*', '92', { validFrom: day('2026-01-01'), validTo: day('2026-06-30') }),
];
const of = (group: 'CO' | 'PR', reason: string, date: string | null = '2026-03-16'): string[] =>
  reasonWarnings([{ group, reason }], RULES, date === null ? null : day(date));

test('a standard code says nothing, nor does one that Setup does not know', () => {
  expect(of('CO', '45')).toEqual([]);
  expect(of('CO', 'ZZ9')).toEqual([]);
});

test('a code of our own does not travel as itself; the row of its group comes first', () => {
  expect(of('CO', 'HH1')).toEqual(['CO-HH1 is a code of our own: it goes on to the next payer as CO-192']);
  expect(of('PR', 'HH1')).toEqual([
    'PR-HH1 is a code of our own and names no standard one: the next payer’s claim stops at it',
  ]);
});

test('a code of other days is said, its own days are not, nor a line without a day', () => {
  expect(of('CO', '92', '2025-12-31')).toEqual(['CO-92 is valid for services from 1 Jan 2026']);
  expect(of('CO', '92', '2026-07-01')).toEqual(['CO-92 is valid for services until 30 Jun 2026']);
  for (const date of ['2026-01-01', '2026-06-30', null]) expect(of('CO', '92', date)).toEqual([]);
});

test('each is said once', () => {
  const twice = [
    { group: 'CO' as const, reason: 'HH1' },
    { group: 'CO' as const, reason: 'HH1' },
  ];
  expect(reasonWarnings(twice, RULES, null)).toHaveLength(1);
});
