/** What a professional claim says on paper, box by box (1500 Claim Form Instruction Manual of NUCC, version 02/12; from memory). */
import { calendarDate } from '../calendar';
import { cents } from '../money';
import { sampleClaim } from '../x12/samples';
import type { ClaimContent } from './content';
import { paperPages } from './paper';

const boxes = (more: Partial<ClaimContent>, page = 0): Record<string, string> =>
  Object.fromEntries(
    paperPages({ ...sampleClaim(), ...more })[page]!.boxes.map(({ box, says }) => [box, says]),
  );
const { billing, payer, subscriber, lines, rendering } = sampleClaim();

test('who is insured, who is treated and who bills stand in their boxes', () => {
  const all = boxes({
    controlNumber: 'OL100001A',
    filingCode: 'MB',
    relationship: 'child',
    subscriber: {
      ...subscriber,
      last: 'Reyes',
      first: 'Ana',
      middle: 'M',
      memberId: 'CSH1',
      groupNumber: 'G7',
    },
  });
  expect(all).toMatchObject({
    1: 'Medicare',
    '1a': 'CSH1',
    4: 'REYES, ANA, M',
    6: 'child',
    11: 'G7',
    '11d': 'NO',
    12: 'SIGNATURE ON FILE',
    13: 'SIGNATURE ON FILE',
    26: 'OL100001A',
    27: 'YES',
    '33a': billing.npi,
  });
  expect(all[33]).toContain(billing.organization!.toUpperCase());
});

test('not signed, not assigned and not accepted leave boxes 12 and 13 empty and say NO in 27', () => {
  expect(boxes({ assignment: { accepted: false, benefits: false, signed: true } })).toMatchObject({
    12: 'SIGNATURE ON FILE',
    13: '',
    27: 'NO',
  });
  expect(boxes({ assignment: { accepted: true, benefits: true, signed: false } })).toMatchObject({
    12: '',
    13: '',
  });
});

test('the numbers by which a payer knows us: 24I and 24J shaded, 33b or 32b, 17a', () => {
  const own = { ...rendering!, references: [{ qualifier: 'G2', id: 'IND77' }] };
  const claim = {
    ...sampleClaim(),
    rendering: own,
    payer: { ...payer, references: [{ qualifier: 'G2', id: 'GRP9' }] },
    referring: {
      last: 'Okafor',
      first: 'Ngozi',
      npi: '1234567893',
      references: [{ qualifier: '0B', id: 'L5' }],
    },
  };
  const [page] = paperPages(claim);
  expect(page!.lines.map(({ qualifier, id, npi }) => [qualifier, id, npi])).toEqual(
    lines.map(() => ['G2', 'IND77', own.npi]),
  );
  expect(boxes(claim)).toMatchObject({
    17: 'DN NGOZI OKAFOR',
    '17a': '0B L5',
    '17b': '1234567893',
    '33b': 'G2 GRP9',
  });
  // A number of the payer itself is none of ours.
  expect(boxes({ payer: { ...payer, references: [{ qualifier: '2U', id: 'X' }] } })['33b']).toBe('');
  const facility = { name: 'Mill Lane', address: billing.address };
  const place = { payer: { ...payer, references: [{ qualifier: 'LU', id: 'SITE2' }] } };
  expect(boxes({ ...place, facility })).toMatchObject({ '32b': 'LU SITE2', '33b': '' });
  expect(boxes(place)).toMatchObject({ '32b': '', '33b': 'LU SITE2' });
});

test('an accident and the dates of its case: box 10, 14, 15 and 16; an injury’s number 11b', () => {
  const day = calendarDate('2026-02-03');
  expect(
    boxes({
      accident: { kind: 'AA', date: day, state: 'WA' },
      dates: {
        onset: calendarDate('2026-01-05'),
        firstTreated: calendarDate('2026-02-04'),
        disabledFrom: day,
      },
      subscriber: { ...subscriber, casualtyNumber: 'C-9' },
    }),
  ).toMatchObject({
    '10a': 'NO',
    '10b': 'YES WA',
    '10c': 'NO',
    '11b': 'Y4 C-9',
    14: '431 01 05 2026',
    15: '439 02 03 2026',
    16: '02 03 2026',
  });
});

test('six services fill a page, and each page has its own total', () => {
  const seven = Array.from({ length: 7 }, (_, at) => ({
    ...lines[0]!,
    number: at + 1,
    charge: cents(1050 * (at + 1)),
    pointers: [1, 2],
  }));
  const pages = paperPages({ ...sampleClaim(), lines: seven });
  expect(pages.map((page) => page.lines.length)).toEqual([6, 1]);
  expect([0, 1].map((page) => boxes({ lines: seven }, page)[28])).toEqual(['220 50', '73 50']);
  expect(pages[0]!.lines[0]).toMatchObject({ pointers: 'AB', charge: '10 50' });
});

test('what a payer before has paid stands in 29, and its policy in 9', () => {
  const other = {
    coverageOrder: 1,
    filingCode: 'CI',
    payer: { name: 'Cedar', payerId: 'C1' },
    subscriber: {
      last: 'Reyes',
      first: 'Luis',
      middle: '',
      suffix: '',
      memberId: 'L9',
      groupNumber: 'G1',
      planName: '',
    },
    relationship: 'spouse' as const,
  };
  const decided = {
    paid: cents(6800),
    date: null,
    payerClaimNumber: '',
    adjustments: [],
    remarks: [],
    lines: [],
  };
  expect(boxes({ coverageOrder: 2, otherPayers: [{ ...other, decided }] })).toMatchObject({
    9: 'REYES, LUIS',
    '9a': 'G1',
    '9d': 'CEDAR',
    '11d': 'YES',
    29: '68 00',
  });
  expect(boxes({ otherPayers: [{ ...other, coverageOrder: 2 }] })[29]).toBe('');
});
