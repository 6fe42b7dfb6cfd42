import fc from 'fast-check';
import { calendarDate } from '../calendar';
import { basisPoints, cents, minus } from '../money';
import {
  AGENCY_ANSWERS,
  type AgencyAnswer,
  BrokenAgencyFile,
  type HandOver,
  compareStatement,
  feeOf,
  handOverCsv,
  isAgencyAnswers,
  isAgencyStatement,
  readAgencyAnswers,
  readAgencyStatement,
  readNotices,
  writeAgencyAnswers,
  writeAgencyStatement,
  writeNotices,
} from './agency';
import { type Block, FIRST_LETTERS, blocksField, brokenParts } from './letters';

const answer = (more: Partial<AgencyAnswer> = {}): AgencyAnswer => ({
  placement: 'G-1001',
  result: 'payment',
  date: calendarDate('2026-03-10'),
  reference: 'R-1',
  gross: cents(10_000),
  fee: cents(2500),
  net: cents(7500),
  words: 'a “word”, with a comma',
  ...more,
});

describe('answers of an agency', () => {
  test('are read as they were written, whatever they say', () => {
    const one = fc
      .record({
        placement: fc.integer({ min: 1, max: 999_999 }).map((id) => `G-${id}`),
        result: fc.constantFrom(...(Object.keys(AGENCY_ANSWERS) as AgencyAnswer['result'][])),
        reference: fc.stringMatching(/^[A-Z0-9-]{1,20}$/),
        gross: fc.integer({ min: 1, max: 99_999_999 }),
        share: fc.integer({ min: 0, max: 10_000 }),
        words: fc.string({ maxLength: 60 }).map((text) => text.replaceAll('\0', '').replace(/^[=@\t\r]/, '')),
      })
      .map(({ gross, share, ...rest }) => {
        const fee = feeOf(cents(gross), basisPoints(share));
        return answer({ ...rest, gross: cents(gross), fee, net: minus(cents(gross), fee) });
      });
    fc.assert(
      fc.property(fc.array(one, { maxLength: 6 }), (answers) => {
        const text = writeAgencyAnswers(answers);
        expect(isAgencyAnswers(text)).toBe(true);
        expect(isAgencyStatement(text)).toBe(false);
        expect(readAgencyAnswers(text)).toEqual(answers);
      }),
    );
  });

  test('every cut of a file is seen', () => {
    const text = writeAgencyAnswers([answer(), answer({ placement: 'G-1002' })]);
    for (let at = 0; at < text.trimEnd().length - 1; at += 1)
      expect(() => readAgencyAnswers(text.slice(0, at))).toThrow(BrokenAgencyFile);
  });

  const head = 'placement,result,date,reference,gross,fee,net,words';
  test.each([
    ['G-1,payment,2026-03-10,R,100.00,25.00,70.00,', /Line 2: 100.00 less a fee of 25.00 is not 70.00/],
    ['G-1,payment,2026-03-10,R,0,0,0,', /Line 2: a payment has its amount/],
    ['G-1,payment,2026-03-10,,100.00,0,100.00,', /its reference/],
    ['G-1,lost,2026-03-10,,0,0,0,', /Line 2: the result “lost”/],
    ['A-10201,accepted,2026-03-10,,0,0,0,', /Line 2: “A-10201” is no placement/],
    ['G-1,accepted,03/10/2026,,0,0,0,', /Line 2: “03\/10\/2026” is not a date/],
    ['G-1,accepted,1805-02-30,,0,0,0,', /is not a date/],
    ['G-1,payment,2026-03-10,R,-5,0,-5,', /Line 2: “-5” is no amount/],
    ['G-1,payment,2026-03-10,R,abc,0,0,', /Line 2: “abc” is no amount/],
    ['G-1,accepted,2026-03-10', /Line 2: 3 columns, not 8/],
  ])('%s is refused with its line', (line, words) => {
    expect(() => readAgencyAnswers(`${head}\n${line}\nend,1,,,,,,\n`)).toThrow(words);
  });
});

describe('the monthly statement', () => {
  const line = (placement: string, more = {}) => ({
    placement,
    placed: cents(10_000),
    collected: cents(4000),
    fee: cents(1000),
    paid: cents(3000),
    balance: cents(6000),
    ...more,
  });
  test('is read as it was written', () => {
    const lines = [line('G-1'), line('G-2', { balance: cents(0) })];
    expect(readAgencyStatement(writeAgencyStatement(lines))).toEqual(lines);
  });

  test('differences by line and column, and what only one of both has', () => {
    const ours = [line('G-1'), line('G-2'), line('G-3')];
    expect(compareStatement(ours, ours)).toEqual([]);
    expect(
      compareStatement(
        [line('G-1', { fee: cents(1200), paid: cents(2800) }), line('G-2'), line('G-9')],
        ours,
      ),
    ).toEqual([
      { placement: 'G-1', column: 'fee', theirs: 1200, ours: 1000 },
      { placement: 'G-1', column: 'paid', theirs: 2800, ours: 3000 },
      { placement: 'G-9', column: 'placement', theirs: 10_000, ours: null },
      { placement: 'G-3', column: 'placement', theirs: null, ours: 10_000 },
    ]);
  });

  test('a placement that stands there twice counts as its sums', () => {
    const half = line('G-1', {
      placed: cents(5000),
      collected: cents(2000),
      fee: cents(500),
      paid: cents(1500),
      balance: cents(3000),
    });
    expect(compareStatement([half, half], [line('G-1')])).toEqual([]);
  });
});

test('fees are rounded half away from zero', () => {
  expect(feeOf(cents(101), basisPoints(2500))).toBe(25);
  expect(feeOf(cents(102), basisPoints(2500))).toBe(26);
  expect(feeOf(cents(10_000), basisPoints(0))).toBe(0);
});

test('a name that a spreadsheet would run is words in the hand-over', () => {
  const address = { line1: '1 Row', line2: '', city: 'X', state: 'WA', zip: '98199', phone: '+1 555-0101' };
  const one: HandOver = {
    format: 'wergeld-placement',
    version: 1,
    placement: 'G-1',
    client: 'OLH',
    date: calendarDate('2026-03-16'),
    practice: { name: 'P', ...address },
    account: 'A-1',
    debtor: { name: '=HYPERLINK("x")', email: '@sum', ...address },
    amount: cents(100),
    charges: [{ number: '1', date: calendarDate('2026-01-01'), amount: cents(100), since: null }],
    lastPayment: null,
    letters: [],
  };
  const text = handOverCsv(one);
  expect(text).toContain(`"'=HYPERLINK(""x"")"`);
  expect(text).toContain(`'@sum`);
  expect(text).toContain('+1 555-0101');
  expect(text.trimEnd().endsWith('end,1,')).toBe(true);
});

test('notices are read as they were written', () => {
  const text = writeNotices([
    {
      id: 7,
      placement: 'G-1',
      kind: 'recall',
      date: calendarDate('2026-03-16'),
      amount: cents(0),
      words: 'paid, elsewhere',
    },
  ]);
  expect(readNotices(text)).toEqual([{ id: 'N00000007', placement: 'G-1', kind: 'recall', amount: 0 }]);
});

describe('letters', () => {
  test('those that a practice begins with can be read', () => {
    for (const { subject, blocks } of FIRST_LETTERS) {
      expect(brokenParts(subject, blocks)).toEqual([]);
      expect(blocksField.safeParse(blocks).success).toBe(true);
    }
  });

  test('a variable that nobody knows is named with its part', () => {
    const blocks: Block[] = [
      { kind: 'paragraph', text: 'Dear {guarantor},' },
      { kind: 'paragraph', text: 'pay {amout due}' },
    ];
    expect(brokenParts('About {account', blocks)).toEqual([
      { part: 0, message: 'Subject: A { without its }, at letter 7' },
      { part: 2, message: 'Part 2: There is no variable {amout due}, at letter 5' },
    ]);
  });

  test('a part with words has some, one without has none', () => {
    expect(blocksField.safeParse([{ kind: 'paragraph', text: ' ' }]).success).toBe(false);
    expect(blocksField.safeParse([{ kind: 'slip', text: 'x' }]).success).toBe(false);
    expect(blocksField.safeParse([]).success).toBe(false);
  });
});
