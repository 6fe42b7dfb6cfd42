/** What a correction says otherwise, before it goes. */
import { calendarDate } from '../calendar';
import { cents } from '../money';
import { sampleClaim } from '../x12/samples';
import type { ClaimContent } from './content';
import { differences, moneyWords } from './differences';

const side = (content: ClaimContent, charges: number[]) => ({
  content,
  chargeOf: (line: number) => charges[content.lines.findIndex(({ number }) => number === line)],
});

test('the same claim is nothing otherwise, whatever its number', () => {
  const claim = sampleClaim();
  expect(differences(side(claim, [7, 8]), side({ ...claim, controlNumber: 'OL2' }, [7, 8]))).toEqual([]);
});

test('who did it, what a line says, what is left out and what is added', () => {
  const before = sampleClaim();
  const [one, two] = before.lines as [ClaimContent['lines'][0], ClaimContent['lines'][0]];
  const after: ClaimContent = {
    ...before,
    rendering: { ...before.rendering!, first: 'Kojo' },
    total: cents(20_000),
    lines: [
      { ...one, units: 2, date: calendarDate('2026-03-10') },
      { ...two, code: '36415', charge: cents(5500) },
    ],
  };
  // The second line is another charge than before.
  expect(
    differences(side(before, [7, 8]), side(after, [7, 9])).map(({ what, was, is }) => [
      what,
      was !== '',
      is !== '',
    ]),
  ).toEqual([
    ['Done by', true, true],
    ['Total', true, true],
    ['Line 1', true, true],
    ['Line 2', true, false],
    ['Added', false, true],
  ]);
});

test('what becomes of the money is said', () => {
  const none = { paid: cents(0), passedOn: cents(0) };
  expect(moneyWords('Cedar', { was: cents(14_500), is: cents(14_500) }, none)).toBe(
    'It asks for 145.00, as before. Cedar has paid nothing on it so far.',
  );
  expect(
    moneyWords(
      'Cedar',
      { was: cents(14_500), is: cents(10_000) },
      { paid: cents(6800), passedOn: cents(3000) },
    ),
  ).toBe(
    'It asks for 100.00 instead of 145.00. The 68.00 that Cedar has paid and the 30.00 that it passed on stand until it takes them back and decides anew.',
  );
});
