import fc from 'fast-check';
import { addDays, calendarDate } from '../calendar';
import { basisPoints, cents } from '../money';
import { lateChargeOf } from './late';
import type { LateRule } from './policy';
import { type Message, messageHolds, messagesFor } from './messages';
import { BrokenWords, VARIABLE_NAMES, type WordsFacts, fillWords, readWords } from './variables';

const today = calendarDate('2026-03-16');
const ago = (days: number) => addDays(today, -days);
const facts: WordsFacts = {
  guarantor: 'Łukasz Varga',
  account: 'A-10207',
  date: today,
  dueDate: addDays(today, 14),
  amount: cents(123_456),
  pastDue: cents(0),
  credit: cents(0),
  withPayers: cents(0),
  onPlan: cents(0),
  oldest: ago(40),
  practice: 'Osprey',
  phone: '555-0100',
  hours: '8 to 5',
};

describe('words with variables', () => {
  test('each stands for its fact, however it is written', () => {
    expect(fillWords('{Guarantor}, { amount due } is due on {due date}: {oldest days} days.', facts)).toBe(
      'Łukasz Varga, 1\u2009234.56 is due on 30 Mar 2026: 40 days.',
    );
    expect(fillWords('{oldest since}', { ...facts, oldest: null })).toBe('16 Mar 2026');
    for (const name of VARIABLE_NAMES)
      expect(fillWords(`{${name}}`, facts)).not.toMatch(/[{}]|undefined|null/);
  });

  test.each([
    ['Dear {guarantr}', 'There is no variable {guarantr}, at letter 6'],
    ['{constructor}', 'There is no variable {constructor}, at letter 1'],
    ['{}', 'There is no variable {}, at letter 1'],
    ['open {amount due', 'A { without its }, at letter 6'],
    ['{ {date}', 'A { without its }, at letter 1'],
    ['x } y', 'A } without its {, at letter 3'],
    ['{date} }', 'A } without its {, at letter 8'],
  ])('%s is refused at its place', (text, words) => {
    expect(() => readWords(text)).toThrow(BrokenWords);
    expect(() => readWords(text)).toThrow(words);
  });

  test('whatever is typed is read or refused in words; text without braces stays as it is', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        if (!/[{}]/.test(text)) expect(fillWords(text, facts)).toBe(text);
        else
          try {
            readWords(text);
          } catch (error) {
            expect(error).toBeInstanceOf(BrokenWords);
          }
      }),
    );
  });
});

describe('messages', () => {
  const plain: Message = {
    text: 'Hello',
    ageFrom: null,
    ageTo: null,
    due: 'any',
    insured: 'any',
    onPlan: 'any',
    siteId: null,
    monthFrom: null,
    monthTo: null,
  };
  test.each<[Partial<Message>, Partial<WordsFacts>, boolean]>([
    [{}, {}, true],
    [{ ageFrom: 40 }, {}, true],
    [{ ageFrom: 41 }, {}, false],
    [{ ageTo: 40 }, {}, true],
    [{ ageTo: 39 }, {}, false],
    [{ ageFrom: 1 }, { oldest: null }, false],
    [{ due: 'normal' }, {}, true],
    [{ due: 'normal' }, { pastDue: cents(1) }, false],
    [{ due: 'partly' }, { pastDue: cents(1) }, true],
    [{ due: 'partly' }, { pastDue: cents(123_456) }, false],
    [{ due: 'past' }, { pastDue: cents(123_456) }, true],
    [{ due: 'past' }, { pastDue: cents(123_455) }, false],
    [{ insured: 'yes' }, {}, false],
    [{ insured: 'yes' }, { withPayers: cents(1) }, true],
    [{ insured: 'no' }, { withPayers: cents(1) }, false],
    [{ onPlan: 'no' }, {}, true],
    [{ onPlan: 'yes' }, { onPlan: cents(1) }, true],
    [{ siteId: 2 }, {}, false],
    [{ siteId: 1 }, {}, true],
    [{ monthFrom: 3, monthTo: 3 }, {}, true],
    [{ monthFrom: 4 }, {}, false],
    [{ monthTo: 2 }, {}, false],
    [{ monthFrom: 11, monthTo: 2 }, {}, false],
    [{ monthFrom: 11, monthTo: 3 }, {}, true],
  ])('%j with %j: %s', (message, more, holds) =>
    expect(messageHolds({ ...plain, ...message }, { ...facts, ...more }, 1)).toBe(holds),
  );

  test('the first so many that hold, in their order', () => {
    const list = ['a', 'b', 'c', 'd'].map((text, index) => ({
      ...plain,
      text,
      siteId: index === 1 ? 9 : null,
    }));
    expect(messagesFor(list, facts, 1, 2)).toEqual(['a', 'c']);
    expect(messagesFor(list, facts, 1, 0)).toEqual([]);
    expect(messagesFor(list, facts, 9, 9)).toEqual(['a', 'b', 'c', 'd']);
  });
});

describe('late charges', () => {
  const yearly: LateRule = {
    kind: 'yearly',
    flat: cents(0),
    rate: basisPoints(1200),
    least: cents(0),
    most: null,
  };
  const cycle = { cycle: 'days', cycleNumber: 28 } as const;
  const part = (amount: number, days: number) => ({ amount: cents(amount), since: ago(days - 1) });

  test('200.00 for 30 days at 12 % is 1.97', () => {
    // Common practice, no source.
    expect(lateChargeOf(yearly, cycle, [part(20_000, 30)], null, today)).toBe(197);
  });

  test('each part by its own days, rounded once; from the last one on', () => {
    // 100.00 × 12 % × (30 + 60) / 365 = 2.9589; two roundings would be 0.99 + 1.97.
    expect(lateChargeOf(yearly, cycle, [part(10_000, 30), part(10_000, 60)], null, today)).toBe(296);
    expect(lateChargeOf(yearly, cycle, [part(20_000, 90)], ago(30), today)).toBe(197);
    expect(lateChargeOf(yearly, cycle, [part(20_000, 90)], ago(27), today)).toBe(0);
  });

  test('flat, with a least and a most, none, and nothing past due', () => {
    expect(
      lateChargeOf({ ...yearly, kind: 'flat', flat: cents(500) }, cycle, [part(1, 1)], null, today),
    ).toBe(500);
    expect(lateChargeOf({ ...yearly, kind: 'flat', flat: cents(500) }, cycle, [], null, today)).toBe(0);
    expect(lateChargeOf({ ...yearly, least: cents(200) }, cycle, [part(20_000, 30)], null, today)).toBe(200);
    expect(lateChargeOf({ ...yearly, most: cents(150) }, cycle, [part(20_000, 30)], null, today)).toBe(150);
    expect(lateChargeOf({ ...yearly, least: cents(200) }, cycle, [part(1, 1)], null, today)).toBe(0);
    expect(lateChargeOf({ ...yearly, kind: 'none' }, cycle, [part(20_000, 30)], null, today)).toBe(0);
  });

  test('split into periods it is at most a cent apart for each from the whole; more past due is never less', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1_000_000 }),
        fc.integer({ min: 56, max: 300 }),
        fc.integer({ min: 28, max: 28 }),
        fc.integer({ min: 0, max: 10_000 }),
        (amount, days, at, rate) => {
          const rule = { ...yearly, rate: basisPoints(rate) };
          const whole = lateChargeOf(rule, cycle, [part(amount, days)], null, today);
          const first = lateChargeOf(
            rule,
            cycle,
            [{ amount: cents(amount), since: ago(days - 1) }],
            null,
            ago(at),
          );
          const second = lateChargeOf(rule, cycle, [part(amount, days)], ago(at), today);
          expect(Math.abs(whole - first - second)).toBeLessThanOrEqual(1);
          expect(lateChargeOf(rule, cycle, [part(amount + 100, days)], null, today)).toBeGreaterThanOrEqual(
            whole,
          );
        },
      ),
    );
  });
});
