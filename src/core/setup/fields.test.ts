import fc from 'fast-check';
import { toDecimal, cents } from '../money';
import {
  type FieldRule,
  amount,
  choice,
  code,
  date,
  npi,
  percent,
  pick,
  reference,
  several,
  state,
  taxId,
  text,
  whole,
  yesNo,
  zip,
} from './fields';

/** What a field makes of a text: the value, or what is wrong with it. */
function parsed(field: FieldRule, value: unknown): unknown {
  const result = field.schema.safeParse(value);
  return result.success ? result.data : `wrong: ${result.error.issues[0]!.message}`;
}

test.each([
  [text('Name', { needed: true }), ' Cedar ', 'Cedar'],
  [text('Name', { needed: true }), '  ', 'wrong: is missing'],
  [text('Name'), 'x'.repeat(201), 'wrong: may have 200 characters'],
  [npi('NPI'), '1234567893', '1234567893'],
  [npi('NPI'), '1234567890', 'wrong: NPI 1234567890 does not pass its check digit'],
  [npi('NPI'), '', 'wrong: NPI (empty) does not pass its check digit'],
  [zip('ZIP'), '98199-0001', '98199-0001'],
  [zip('ZIP'), '9819', 'wrong: has five or nine digits'],
  [whole('Days', 0, 120), '120', 120],
  [whole('Days', 0, 120), '121', 'wrong: is out of its range, 0 to 120'],
  [whole('Days', 0, 120), '-1', 'wrong: is not a whole number'],
  [whole('Days', 0, 120), '1e2', 'wrong: is not a whole number'],
  [amount('Fee'), '1,250.5', 125_050],
  [amount('Fee'), '-0.01', 'wrong: is not an amount such as 12.50'],
  [amount('Fee'), '', 'wrong: is not an amount such as 12.50'],
  [amount('Maximum', { open: true }), '', null],
  [amount('Fee'), '1000000.00', 100_000_000],
  [amount('Fee'), '1000000.01', 'wrong: is at most 1\u2009000\u2009000.00'],
  [amount('Fee'), '99999999', 'wrong: is at most 1\u2009000\u2009000.00'],
  [state('State'), ' wa ', 'WA'],
  [state('State'), 'XX', 'wrong: is not a state code such as WA'],
  [state('State'), 'Washington', 'wrong: is not a state code such as WA'],
  [state('State'), '', ''],
  [state('State', { needed: true }), '', 'wrong: is not a state code such as WA'],
  [taxId('Tax id'), '91-1234567', '91-1234567'],
  [taxId('Tax id'), '911234567', '911234567'],
  [taxId('Tax id'), '123-45-6789', '123-45-6789'],
  [taxId('Tax id'), '', 'wrong: has nine digits, such as 91-1234567'],
  [taxId('Tax id'), '12', 'wrong: has nine digits, such as 91-1234567'],
  [taxId('Tax id'), '9-11234567', 'wrong: has nine digits, such as 91-1234567'],
  [pick('Category'), '', 'wrong: is missing'],
  [pick('Category'), ' office ', 'office'],
  [percent('Pays'), '80', 8000],
  [percent('Pays'), '12.5 %', 1250],
  [percent('Pays'), '100.01', 'wrong: is written like 80 % or 12.5 %'],
  [percent('Pays'), '-1', 'wrong: is written like 80 % or 12.5 %'],
  [percent('Pays'), '', 'wrong: is written like 80 % or 12.5 %'],
  [date('From'), '', null],
  [date('From'), '2026-02-29', 'wrong: is not a date (YYYY-MM-DD)'],
  [date('From'), '2024-02-29', '2024-02-29'],
  [choice('Per', ['visit', 'service']), 'visit', 'visit'],
  [choice('Per', ['visit', 'service']), 'constructor', 'wrong: is not one of the choices'],
  [choice('Paper', { LETTER: 'US letter', A4: 'A4' }), 'US letter', 'wrong: is not one of the choices'],
  [reference('Payer'), '12', 12],
  [reference('Payer'), '', 'wrong: is missing'],
  [reference('Payer', { open: true }), '', null],
  [reference('Payer'), '12; drop table payer', 'wrong: is missing'],
  [several('Waived'), 'preventive, office;; ', ['preventive', 'office']],
  [code('Code'), ' d0120 ', 'D0120'],
  [code('Code'), '', 'wrong: is missing'],
  [yesNo('Active'), true, true],
] as const)('%j: what is typed is parsed, or refused in words', (field, typed, expected) =>
  expect(parsed(field, typed)).toEqual(expected),
);

test('what a form shows is read back as what is kept', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 99_999_999 }),
      fc.integer({ min: 0, max: 10_000 }),
      (kept, points) => {
        expect(amount('Fee').show(kept)).toBe(toDecimal(cents(kept)));
        expect(parsed(amount('Fee'), amount('Fee').show(kept))).toBe(kept);
        expect(parsed(percent('Pays'), percent('Pays').show(points))).toBe(points);
      },
    ),
  );
  expect(amount('Maximum', { open: true }).show(null)).toBe('');
  expect(several('Waived').show(['a', 'b'])).toBe('a, b');
  expect(yesNo('Active').show(undefined)).toBe(false);
});
