/** What keeps a hand-over that was approved from being written; *common practice, no source*. */
import { type CalendarDate, calendarDate } from '../calendar';
import { ZERO, cents } from '../money';
import {
  type HandOverFacts,
  OBJECTIONS,
  type Objection,
  objectionsTo,
  objectionsWords,
  undecided,
} from './hand-over';

const today = calendarDate('2026-03-16');
const nothing: HandOverFacts = {
  stops: [],
  promise: null,
  hardshipAsked: null,
  paid: ZERO,
  suspended: false,
};
const promise = (by: string, paid = ZERO) => ({
  promise: { amount: cents(5000), madeOn: today, by: calendarDate(by), paid },
});
const holds = (facts: Partial<HandOverFacts>, decided: readonly Objection[] = []): string =>
  objectionsWords(undecided(objectionsTo({ ...nothing, ...facts }, today), decided));

test('nothing speaks against it where nothing happened', () => {
  expect(holds({})).toBe('');
  expect(holds(promise('2026-03-15'))).toBe('');
  expect(holds(promise('2026-03-20', cents(5000)))).toBe('');
});

test.each([
  [{ stops: ['bankrupt', 'dispute'] }, 'a stop keeps it from agencies: bankrupt, dispute'],
  [promise('2026-03-16'), 'promised 50.00 by 16 Mar 2026'],
  [{ hardshipAsked: calendarDate('2026-03-14') }, 'a reduction for hardship was asked for on 14 Mar 2026'],
  [{ paid: cents(4000) }, '40.00 was paid to us since it was approved'],
  [{ suspended: true }, 'a payer took its word on it back and has not said the new one'],
])('%j', (facts: Partial<HandOverFacts>, words) => {
  expect(holds(facts)).toBe(words);
});

test('what a person decided holds no more, what is new does, and a stop always', () => {
  const decided: Objection[] = [
    { code: 'promise', amount: cents(5000), by: today },
    { code: 'paid', amount: cents(4000) },
    { code: 'stop', reasons: ['attorney'] },
  ];
  expect(holds({ ...promise('2026-03-16'), paid: cents(4000) }, decided)).toBe('');
  expect(holds({ ...promise('2026-03-16'), paid: cents(6000) }, decided)).toBe(
    '60.00 was paid to us since it was approved',
  );
  expect(holds(promise('2026-03-17'), decided)).toBe('promised 50.00 by 17 Mar 2026');
  expect(holds({ suspended: true }, decided)).not.toBe('');
  expect(holds({ stops: ['attorney'] }, decided)).toBe('a stop keeps it from agencies: attorney');
});

test('objections are kept and read as they were, whatever they are called by then', () => {
  const all = objectionsTo(
    {
      stops: ['dispute'],
      ...promise('2026-03-20'),
      hardshipAsked: '2026-03-14' as CalendarDate,
      paid: cents(1),
      suspended: true,
    },
    today,
  );
  expect(all).toHaveLength(5);
  expect(OBJECTIONS.read(JSON.parse(OBJECTIONS.write(all)))).toEqual(all);
  expect(() => OBJECTIONS.read({ version: 1, value: [{ code: 'weather' }] })).toThrow(/list of objections/);
});
