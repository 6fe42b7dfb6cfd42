import { type CalendarDate, calendarDate } from '../calendar';
import { basisPoints, cents } from '../money';
import { type PastContact, callDoubts, hourDoubt } from './contacts';
import { levelOf, reducedBy, reductionFor } from './hardship';
import { chanceOf, scoreOf } from './score';
import { zonesOf } from './zones';

const today = calendarDate('2026-03-16');
const POLICY = { calls: 7, callDays: 7, quietDays: 7, from: 8, to: 21 };
const call = (day: string, more: Partial<PastContact> = {}): PastContact => ({
  kind: 'call',
  direction: 'out',
  outcome: 'no-answer',
  day: calendarDate(day) as CalendarDate,
  ...more,
});
const times = (many: number, one: PastContact): PastContact[] => Array.from({ length: many }, () => one);

describe('limits of calls (12 CFR 1006.14(b)(2))', () => {
  test.each([
    ['nothing before', [], 0],
    ['six in seven days', times(6, call('2026-03-14')), 0],
    ['seven in seven days, the first on the first of them', times(7, call('2026-03-10')), 1],
    ['seven, but eight days ago', times(7, call('2026-03-09')), 0],
    ['letters and messages do not count', times(9, call('2026-03-14', { kind: 'message' })), 0],
    ['calls of theirs do not count', times(9, call('2026-03-14', { direction: 'in' })), 0],
    ['a wrong number reaches nobody', times(9, call('2026-03-14', { outcome: 'wrong-number' })), 0],
    ['left word counts as an attempt', times(7, call('2026-03-15', { outcome: 'left-word' })), 1],
    ['spoken to six days ago: the day itself is day one', [call('2026-03-10', { outcome: 'spoke' })], 1],
    ['spoken to seven days ago', [call('2026-03-09', { outcome: 'spoke' })], 0],
    ['a promise is a conversation', [call('2026-03-16', { outcome: 'promise' })], 1],
    ['they called: a conversation too', [call('2026-03-12', { outcome: 'spoke', direction: 'in' })], 1],
    ['a visit is no call', [call('2026-03-12', { outcome: 'spoke', kind: 'visit' })], 0],
    ['both', [...times(7, call('2026-03-15')), call('2026-03-15', { outcome: 'refused' })], 2],
  ])('%s', (_, history, doubts) => {
    expect(callDoubts(history, POLICY, today)).toHaveLength(doubts);
  });

  test('the policy’s own limits', () => {
    expect(
      callDoubts(times(2, call('2026-03-16')), { ...POLICY, calls: 2, callDays: 1 }, today),
    ).toHaveLength(1);
    expect(
      callDoubts([call('2026-03-16', { outcome: 'spoke' })], { ...POLICY, quietDays: 0 }, today),
    ).toEqual([]);
  });
});

describe('hours of calls (12 CFR 1006.6(b))', () => {
  const at = (utc: string) => new Date(`2026-03-16T${utc}:00Z`);
  test.each([
    // Summer time: the Pacific is seven hours behind UTC, the East four.
    ['WA', '14:59', false],
    ['WA', '15:00', true],
    ['WA', '03:59', true],
    ['WA', '04:00', false],
    ['NY', '12:00', true],
    ['NY', '11:59', false],
    // Two zones: only the hours common to both.
    ['TN', '12:30', false],
    ['TN', '13:00', true],
    ['TN', '00:59', true],
    ['TN', '01:00', false],
    // Nobody knows where that is: nothing is said.
    ['', '03:00', true],
    ['ZZ', '09:00', true],
  ])('%s at %s UTC: %s', (state, utc, may) => {
    expect(hourDoubt({ state, zip: '' }, POLICY, at(utc)) === null).toBe(may);
  });

  test('every state and the District has its zones, all of which exist', () => {
    for (const state of ['WA', 'wa', ' AK', 'DC', 'PR', 'HI'])
      for (const zone of zonesOf(state))
        expect(() => new Intl.DateTimeFormat('en', { timeZone: zone })).not.toThrow();
    expect(zonesOf('WA')).toHaveLength(1);
    expect(zonesOf('ID')).toHaveLength(2);
  });
});

describe('the score', () => {
  const none = [] as const;
  test('without a history the chance is assumed, by age', () => {
    expect(chanceOf(none, 0)).toEqual({ chance: 0.8, own: false });
    expect(chanceOf(none, 29).chance).toBe(0.8);
    expect(chanceOf(none, 30).chance).toBe(0.6);
    expect(chanceOf(none, 9999).chance).toBe(0.1);
    expect(chanceOf(none, -5).chance).toBe(0.8);
  });

  test('the own history counts from 1,000.00 on, and never beyond all of it', () => {
    const history = [
      { reached: cents(100_000), paid: cents(25_000) },
      { reached: cents(99_999), paid: cents(1) },
      { reached: cents(200_000), paid: cents(250_000) },
    ];
    expect(chanceOf(history, 5)).toEqual({ chance: 0.25, own: true });
    expect(chanceOf(history, 35)).toEqual({ chance: 0.6, own: false });
    expect(chanceOf(history, 65)).toEqual({ chance: 1, own: true });
  });

  test('amount × chance ÷ minutes of the next action', () => {
    expect(scoreOf(cents(12_000), 40, 'call', none)).toMatchObject({ minutes: 6, value: 1200 });
    expect(scoreOf(cents(12_000), 40, 'letter', none)).toMatchObject({ minutes: 2, value: 3600 });
    expect(scoreOf(cents(12_000), 40, 'wait', none)).toMatchObject({ value: 0 });
  });
});

describe('hardship', () => {
  const level = (size: number, amount: number, year = 2026) => ({ year, size, amount: cents(amount) });
  const levels = [level(1, 1_000_000), level(2, 1_400_000), level(4, 2_200_000), level(1, 900_000, 2025)];
  test('the newest year, the size entered, each further person as the last ones', () => {
    expect(levelOf([], 1)).toBeNull();
    expect(levelOf(levels, 1)).toMatchObject({ year: 2026, amount: 1_000_000 });
    expect(levelOf(levels, 4)).toMatchObject({ amount: 2_200_000 });
    expect(levelOf(levels, 6)).toMatchObject({ amount: 3_000_000 });
    // Between two that are entered, the larger: it is the kinder one.
    expect(levelOf(levels, 3)).toMatchObject({ amount: 2_200_000 });
  });

  test('bands by percent of the level, up to and with their end', () => {
    const bands = [
      { upTo: 200, reduction: basisPoints(5000) },
      { upTo: 100, reduction: basisPoints(10_000) },
    ];
    const of = (income: number) => reductionFor(level(1, 1_000_000), bands, cents(income));
    expect(of(0)).toEqual({ share: 0, reduction: 10_000 });
    expect(of(1_000_000)).toEqual({ share: 100, reduction: 10_000 });
    expect(of(1_000_001)).toEqual({ share: 100, reduction: 5000 });
    expect(of(2_000_000)).toEqual({ share: 200, reduction: 5000 });
    expect(of(2_000_001)).toEqual({ share: 200, reduction: 0 });
    expect(reducedBy(cents(12_345), basisPoints(5000))).toBe(6173);
    expect(reducedBy(cents(-5), basisPoints(5000))).toBe(0);
  });
});
