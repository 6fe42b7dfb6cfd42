import fc from 'fast-check';
import { calendarDate, daysBetween } from '../calendar';
import { creditLetterDocument, creditLetterWords, readDormancy, restsUntil } from './dormancy';
import { cents } from '../money';

describe('how long credit rests', () => {
  test('a table is read with or without its head, what is left empty is usual', () => {
    const text = 'state,months,letter days,least,source\nwa,36,75,50.00,statute\nOR,36,,,\n';
    const rules = [
      { state: 'WA', months: 36, letterDays: 75, least: 5000, source: 'statute' },
      { state: 'OR', months: 36, letterDays: 60, least: 0, source: '' },
    ];
    expect(readDormancy(text)).toEqual({ rules, wrong: [] });
    expect(readDormancy(`\uFEFF${text.split('\n').slice(1).join('\n')}`)).toEqual({ rules, wrong: [] });
  });

  test.each([
    ['Washington,36', /no state of two letters/],
    ['WA,', /no number of months/],
    ['WA,0', /no number of months/],
    ['WA,99999999', /no number of months/],
    ['WA,36,-1', /no number of days/],
    ['WA,36,60,-5.00', /no amount/],
    ['WA,36,60,five', /no amount/],
    ['WA,36\nWA,24', /WA is there twice/],
  ])('%j is wrong in its line', (text, words) => {
    const { wrong } = readDormancy(text);
    expect(wrong).toHaveLength(1);
    expect(wrong[0]!.words).toMatch(words);
    expect(wrong[0]!.line).toBe(text.includes('\n') ? 2 : 1);
  });

  // By hand: three years from the last of February of a leap year, and ninety days before.
  test('rests from the last contact, also from a day that the month does not have', () => {
    expect(restsUntil(calendarDate('2024-02-29'), { months: 36, letterDays: 90 })).toEqual({
      until: '2027-02-28',
      letterFrom: '2026-11-30',
    });
  });

  test('a letter is out as many days before as the state says', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 360 }),
        fc.integer({ min: 0, max: 730 }),
        (months, letterDays) => {
          const { until, letterFrom } = restsUntil(calendarDate('2023-05-31'), { months, letterDays });
          expect(daysBetween(letterFrom, until)).toBe(letterDays);
        },
      ),
    );
  });

  test('a letter is kept as it was, and says the amount, the day and the way out', () => {
    const content = {
      paper: 'LETTER' as const,
      practice: { name: 'P', line1: '1 A', line2: '', city: 'C', state: 'WA', zip: '98101', phone: '555' },
      account: 'A-1',
      to: { name: 'N', line1: '2 B', line2: '', city: 'D', state: 'OR', zip: '97201' },
      date: calendarDate('2026-03-16'),
      amount: cents(12345),
      lastContact: calendarDate('2023-04-01'),
      until: calendarDate('2026-04-01'),
    };
    expect(creditLetterDocument.read(JSON.parse(creditLetterDocument.write(content)))).toEqual(content);
    const words = creditLetterWords(content).join(' ');
    for (const said of ['123.45', '1 Apr 2023', '1 Apr 2026', 'law of your state, OR', '555'])
      expect(words).toContain(said);
  });
});
