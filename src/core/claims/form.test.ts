/** Values of a professional claim in the boxes of the pre-printed form (1500, version 02/12, from memory). */
import { calendarDate } from '../calendar';
import { cents } from '../money';
import { sampleClaim } from '../x12/samples';
import type { ClaimContent } from './content';
import { type Mark, FORM_LINES, formPages, testMarks } from './form';

const TODAY = calendarDate('2026-03-16');
const boxes = (more: Partial<ClaimContent> = {}, page = 0, continued = false): Record<string, string> =>
  Object.fromEntries(
    formPages({ ...sampleClaim(), ...more }, continued, TODAY)[page]!.map(({ box, text }) => [box, text]),
  );
const many = (count: number) =>
  Array.from({ length: count }, (_, index) => ({ ...sampleClaim().lines[0]!, number: index + 1 }));

test('the first payer’s claim: who, what, when, and one square of each row', () => {
  expect(boxes()).toMatchObject({
    carrier1: 'CEDAR SOUND HEALTH',
    '1.group': 'X',
    '1a': 'CSH1000011',
    '2': 'MARCHETTI, ROSA',
    '3.month': '05',
    '3.F': 'X',
    '6.self': 'X',
    '10a.no': 'X',
    '11': 'CS-200',
    '11d.no': 'X',
    '21.A': 'I10',
    '21.B': 'J069',
    '24A.from.1': '03 09 26',
    '24D.1': '99213',
    '24D.1.1': '25',
    '24E.1': 'AB',
    '24F.1': '145 00',
    '25.EIN': 'X',
    '26': 'OL100001A',
    '27.yes': 'X',
    '28': '187 00',
  });
  expect(boxes()).not.toHaveProperty('9');
});

test('the next payer’s: the other insurance and what it paid (9, 9a, 9d, 11d, 29)', () => {
  const [line] = sampleClaim().lines;
  const other = {
    coverageOrder: 1,
    filingCode: 'CI',
    payer: { name: 'Tern', payerId: 'T1' },
    subscriber: {
      last: 'Quill',
      first: 'Ana',
      middle: '',
      suffix: '',
      memberId: 'M1',
      groupNumber: 'G1',
      planName: '',
    },
    relationship: 'spouse' as const,
    decided: {
      paid: cents(6800),
      date: TODAY,
      payerClaimNumber: '',
      adjustments: [],
      remarks: [],
      lines: [
        {
          number: line!.number,
          code: line!.code,
          modifiers: [],
          paid: cents(6800),
          units: 1,
          adjustments: [],
        },
      ],
    },
  };
  expect(boxes({ coverageOrder: 2, otherPayers: [other] })).toMatchObject({
    '9': 'QUILL, ANA',
    '9a': 'G1',
    '9d': 'TERN',
    '11d.yes': 'X',
    '29': '68 00',
  });
});

test('each page is a claim of its own with its total; where the payer lets it go on, the total stands on the last', () => {
  const lines = many(8);
  const claim = { lines, total: cents(8 * 14_500) };
  expect(FORM_LINES).toBe(6);
  expect([boxes(claim)['28'], boxes(claim, 1)['28']]).toEqual(['870 00', '290 00']);
  expect([boxes(claim, 0, true)['28'], boxes(claim, 1, true)['28']]).toEqual(['CONTINUED', '1160 00']);
});

test('every box lies on the sheet, and none over another', () => {
  const all = [...testMarks()];
  const over = (a: Mark, b: Mark): boolean =>
    a !== b && a.y === b.y && a.x < b.x + b.width && b.x < a.x + a.width;
  for (const mark of all) {
    expect(mark.x).toBeGreaterThanOrEqual(18);
    expect(mark.x + mark.width).toBeLessThanOrEqual(612 - 14);
    expect(mark.y).toBeLessThanOrEqual(792 - 12);
  }
  expect(all.filter((a) => all.some((b) => over(a, b))).map(({ box }) => box)).toEqual([]);
});
