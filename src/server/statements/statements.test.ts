import fc from 'fast-check';
import { calendarDate } from '../../core/calendar';
import { cents } from '../../core/money';
import { printable, statementPdf } from './pdf';
import type { StatementContent } from './prepare';

const content = (words: string, amount: number): StatementContent => ({
  practice: { name: words, line1: words, city: words, state: 'WA', zip: '98199', phone: '555-0100' },
  account: 'A-10001',
  to: { name: words, line1: words, line2: '', city: words, state: 'WA', zip: '98199' },
  date: calendarDate('2026-03-16'),
  dueDate: calendarDate('2026-03-30'),
  amount: cents(amount),
  aging: [cents(amount), cents(0), cents(0), cents(0), cents(0)],
  charges: [{ chargeId: 1, title: words, owed: cents(amount), sentences: [{ words }] }],
  closing: words,
});

describe('the printed statement', () => {
  test.each([0, 99, 100_000, 123_456_789])(
    'prints an amount of %d cents, with its separators',
    async (amount) => {
      expect((await statementPdf(content('Varga', amount))).subarray(0, 5).toString()).toBe('%PDF-');
    },
  );

  test.each([
    ["O'Rourke-Ibarra, Zsófia Lucía", "O'Rourke-Ibarra, Zsófia Lucía"],
    ['Łukasz Šimunović', 'Lukasz Simunovic'],
    ['Nguyễn Thị', 'Nguyen Thi'],
    ['1\u2009234.56', '1\u00a0234.56'],
    ['a\u200bb', 'ab'],
    ['“so” – it’s 20 € …', '“so” – it’s 20 € …'],
    ['李', '?'],
  ])('%s is printed as %s', (given, printed) => expect(printable(given)).toBe(printed));

  test('whatever stands in a name or a sentence, there is a PDF', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.string({ unit: 'binary', maxLength: 80 }),
        fc.integer({ min: 0, max: 10 ** 9 }),
        async (words, amount) => {
          expect((await statementPdf(content(words, amount))).subarray(0, 5).toString()).toBe('%PDF-');
        },
      ),
      { numRuns: 60 },
    );
  });
});
