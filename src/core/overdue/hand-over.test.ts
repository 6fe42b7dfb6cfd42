/** What keeps a hand-over that was approved from being written; *common practice, no source*. */
import { calendarDate } from '../calendar';
import { ZERO, cents } from '../money';
import { type HandOverFacts, againstHandOver, heldWhy } from './hand-over';

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
const why = (facts: Partial<HandOverFacts>, seen: string[] = []): string =>
  heldWhy(againstHandOver({ ...nothing, ...facts }, today), seen);

test('nothing speaks against it where nothing happened', () => {
  expect(why({})).toBe('');
  expect(why(promise('2026-03-15'))).toBe('');
  expect(why(promise('2026-03-20', cents(5000)))).toBe('');
});

test.each([
  [{ stops: ['bankrupt', 'dispute'] }, 'a stop keeps it from agencies: bankrupt, dispute'],
  [promise('2026-03-16'), 'promised 50.00 by 16 Mar 2026'],
  [{ hardshipAsked: calendarDate('2026-03-14') }, 'a reduction for hardship was asked for on 14 Mar 2026'],
  [{ paid: cents(4000) }, '40.00 was paid to us since it was approved'],
  [{ suspended: true }, 'a payer took its word on it back and has not said the new one'],
])('%j', (facts: Partial<HandOverFacts>, words) => {
  expect(why(facts)).toBe(words);
});

test('what a person decided holds no more, what is new does, and a stop always', () => {
  const seen = ['promised 50.00 by 16 Mar 2026', '40.00 was paid to us since it was approved'];
  expect(why({ ...promise('2026-03-16'), paid: cents(4000) }, seen)).toBe('');
  expect(why({ ...promise('2026-03-16'), paid: cents(6000) }, seen)).toBe(
    '60.00 was paid to us since it was approved',
  );
  const stop = 'a stop keeps it from agencies: attorney';
  expect(why({ stops: ['attorney'] }, [stop])).toBe(stop);
});
