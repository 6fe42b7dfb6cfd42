/** What is said of a reason code is what decisions do with it. */
import type { CalendarDate } from '../calendar';
import { cents } from '../money';
import { movementOf } from './decide';
import { type ReasonRow, reasonShows } from './reason-words';

const row = (more: Partial<ReasonRow> = {}): ReasonRow => ({
  group: '*',
  words: 'test',
  patientWords: '',
  denial: false,
  followUp: 'never',
  owner: '',
  days: null,
  account: 'Contractual write-offs',
  contract: true,
  travelsAs: '',
  standard: true,
  validFrom: null,
  validTo: null,
  ...more,
});
const first = (code: string, more: Partial<ReasonRow> = {}): string => reasonShows(code, row(more))[0]!;

test('what moves the money is said by group', () => {
  expect(first('45')).toMatch(/Under CO it takes off.*under PI it takes off on the payer’s own account/);
  expect(first('90', { contract: false, account: 'Other' })).toMatch(
    /groups \(CO, PI\) it takes off, as “Other”/,
  );
  expect(first('97', { denial: true })).toMatch(/\(CO, PI\) it refuses/);
  expect(first('97', { group: 'PI', denial: false })).toMatch(/^It takes off/);
  expect(first('45', { group: 'PR' })).toMatch(/passes on/);
  expect(first('23', { group: 'OA' })).toBe('It moves nothing by itself.');
});

test.each(['1', '22', '26', '27', '31', '45', '96'])('under PR %s does what is said', (code) => {
  const does = movementOf({ group: 'PR', reason: code, amount: cents(100) }, null).movement;
  for (const group of ['*', 'PR'])
    expect(/waits for a look/.test(first(code, { group }))).toBe(does === 'stay');
});

test('follow-ups, days, the next payer and the patient', () => {
  const said = reasonShows(
    'HH1',
    row({
      followUp: 'always',
      owner: 'Ina',
      days: 1,
      standard: false,
      patientWords: 'by our rule',
      validFrom: '2026-01-01' as CalendarDate,
    }),
  ).slice(1);
  expect(said).toEqual([
    'On follow-ups: always followed up, even at zero by Ina, within 1 day.',
    'On the statement and in the balance story: “by our rule”.',
    'It is a code of our own and names no standard one: the next payer’s claim stops at it.',
    'Valid from 1 Jan 2026.',
  ]);
});
