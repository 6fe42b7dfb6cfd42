/** What goes to the next payer of what the earlier one decided: as it was received, and what stands of it. */
import fc from 'fast-check';
import { calendarDate } from '../calendar';
import { cents, sum } from '../money';
import type { Adjustment } from '../x12/adjustments';
import { sampleRemitClaim } from '../x12/samples';
import { runs } from '../../testing/runs';
import { asStandard, decidedBefore } from './decided-before';

const DAY = calendarDate('2026-03-20');
const adjustment = (group: Adjustment['group'], reason: string, amount: number): Adjustment => ({
  group,
  reason,
  amount: cents(amount),
});
/** A word on lines: their control, what was paid, and why not all. */
const word = (
  lines: readonly [control: string, charge: number, paid: number, adjustments: Adjustment[]][],
  more: object = {},
) => ({
  claim: {
    ...sampleRemitClaim('OL1'),
    status: '1',
    charge: sum(lines.map(([, charge]) => cents(charge))),
    paid: sum(lines.map(([, , paid]) => cents(paid))),
    payerClaimNumber: 'P1',
    adjustments: [],
    remarks: [],
    lines: lines.map(([lineControl, charge, paid, adjustments], index) => ({
      code: ['99213', '87880'][index] ?? '99499',
      billed: '',
      modifiers: [],
      charge: cents(charge),
      paid: cents(paid),
      units: 1,
      date: DAY,
      adjustments,
      lineControl,
      allowed: null,
      remarks: [],
    })),
    ...more,
  },
  date: DAY,
});
const LINES = [
  { number: 1, control: 'L7', code: '99213', charge: cents(14_500) },
  { number: 2, control: 'L8', code: '87880', charge: cents(2000) },
];
const FIRST = word([
  ['L7', 14_500, 6800, [adjustment('CO', '45', 4700), adjustment('PR', '3', 3000)]],
  ['L8', 2000, 0, [adjustment('PR', '1', 2000)]],
]);

test('one word goes as it was received, line by line', () => {
  const units = { ...FIRST, claim: { ...FIRST.claim, remarks: ['MA01'] } };
  expect(decidedBefore([units], LINES, true)).toEqual({
    paid: 6800,
    date: DAY,
    payerClaimNumber: 'P1',
    adjustments: [],
    remarks: ['MA01'],
    lines: [
      {
        number: 1,
        code: '99213',
        modifiers: [],
        paid: 6800,
        units: 1,
        adjustments: FIRST.claim.lines[0]!.adjustments,
      },
      {
        number: 2,
        code: '87880',
        modifiers: [],
        paid: 0,
        units: 1,
        adjustments: FIRST.claim.lines[1]!.adjustments,
      },
    ],
  });
});

test('what was taken back is not said, and the new word alone is; nothing where none stands', () => {
  const back = word([['L7', 14_500, -6800, []]], { status: '22' });
  const anew = word([['L7', 14_500, 9800, [adjustment('CO', '45', 4700)]]]);
  expect(decidedBefore([FIRST, back], LINES, true)).toBeUndefined();
  expect(decidedBefore([], LINES, true)).toBeUndefined();
  expect(decidedBefore([FIRST, back, anew], LINES, true)).toMatchObject({
    paid: 9800,
    lines: [{ number: 1, paid: 9800 }],
  });
});

test('a further payment is added, reason by reason; what comes to nothing is left out', () => {
  const more = word([['L7', 14_500, 1000, [adjustment('PR', '3', -1000), adjustment('CO', '45', 0)]]]);
  expect(decidedBefore([FIRST, more], LINES, true)!.lines[0]).toMatchObject({
    paid: 7800,
    adjustments: [adjustment('CO', '45', 4700), adjustment('PR', '3', 2000)],
  });
});

test('of a part of what was decided only the lines go, and what was said of the whole does not', () => {
  const whole = { ...FIRST, claim: { ...FIRST.claim, adjustments: [adjustment('PR', '1', 500)] } };
  expect(decidedBefore([whole], LINES, true)!.adjustments).toHaveLength(1);
  expect(decidedBefore([whole], [LINES[1]!], false)).toMatchObject({
    paid: 0,
    adjustments: [],
    lines: [{ number: 2 }],
  });
});

test('a line without our number is known by its code, by what was billed where the payer decided another one', () => {
  const unnumbered = word([['', 14_500, 100, []]]);
  unnumbered.claim.lines[0]!.code = '99212';
  unnumbered.claim.lines[0]!.billed = '99213';
  expect(decidedBefore([unnumbered], LINES, true)!.lines).toMatchObject([
    { number: 1, code: '99212', paid: 100 },
  ]);
});

test('two lines of one code are told apart by their charge, or by their order, and none is counted twice', () => {
  const ours = [
    { number: 1, control: 'L7', code: '99213', charge: cents(5000) },
    { number: 2, control: 'L8', code: '99213', charge: cents(9000) },
  ];
  const paid = (lines: readonly [charge: number, paid: number][]) => {
    const unnumbered = word(lines.map(([charge, of]) => ['', charge, of, []]));
    for (const line of unnumbered.claim.lines) line.code = '99213';
    return decidedBefore([unnumbered], ours, true)!.lines.map((line) => [line.number, line.paid]);
  };
  expect(
    paid([
      [9000, 900],
      [5000, 500],
    ]),
  ).toEqual([
    [1, 500],
    [2, 900],
  ]);
  // Charges that are none of ours: in their order; a third part goes to the first.
  expect(
    paid([
      [1, 10],
      [2, 20],
      [3, 30],
    ]),
  ).toEqual([
    [1, 40],
    [2, 20],
  ]);
});

test('a line that was split has a decision each; what was bundled names the line under which it was paid', () => {
  // Bundling and splitting in an 835 (005010X221A1, 1.10.2.6, from memory): SVC01 is what was decided, SVC06 what was billed.
  const split = word([
    ['L7', 9000, 5000, [adjustment('CO', '45', 4000)]],
    ['L7', 5500, 3000, [adjustment('PR', '2', 2500)]],
    ['L8', 2000, 0, [adjustment('CO', '97', 2000)]],
  ]);
  split.claim.lines.forEach((line, at) => {
    line.code = ['99212', '99211', '99212'][at]!;
    line.billed = ['99213', '99213', '87880'][at]!;
  });
  expect(decidedBefore([split], LINES, true)!.lines).toMatchObject([
    { number: 1, code: '99212', paid: 5000 },
    { number: 1, code: '99211', paid: 3000 },
    { number: 2, code: '99212', paid: 0, bundledInto: 1 },
  ]);
  // Two that were paid under one code are each paid for themselves.
  const both = word([
    ['L7', 14_500, 8000, [adjustment('CO', '45', 6500)]],
    ['L8', 2000, 500, [adjustment('CO', '45', 1500)]],
  ]);
  for (const line of both.claim.lines) line.code = '99499';
  both.claim.lines.forEach((line, at) => (line.billed = ['99213', '87880'][at]!));
  expect(decidedBefore([both], LINES, true)!.lines.map((line) => line.bundledInto)).toEqual([
    undefined,
    undefined,
  ]);
  // A denied line under its own code is bundled into none.
  expect(decidedBefore([FIRST], LINES, true)!.lines.map((line) => line.bundledInto)).toEqual([
    undefined,
    undefined,
  ]);
});

test('a code of our own goes on as the standard one that it names, together with what bears that already', () => {
  const own = word([
    [
      'L7',
      14_500,
      6800,
      [adjustment('CO', 'X1', 700), adjustment('CO', '45', 4000), adjustment('PR', '3', 3000)],
    ],
  ]);
  const sent = asStandard(decidedBefore([own], LINES, true)!, (one) =>
    one.reason === 'X1' ? { ...one, reason: '45' } : one,
  );
  expect(sent.lines[0]!.adjustments).toEqual([adjustment('CO', '45', 4700), adjustment('PR', '3', 3000)]);
  expect(asStandard(sent, (one) => one)).toEqual(sent);
});

test('property: what balanced with the earlier payer balances in what the next one is told', () => {
  // CLP04 and SVC: charge = paid + adjustments, by line (005010X221A1, 1.10.2.1).
  const reason = fc.record({
    group: fc.constantFrom('CO' as const, 'PR' as const, 'OA' as const),
    reason: fc.constantFrom('1', '2', '3', '45'),
    amount: fc.integer({ min: 1, max: 3000 }).map(cents),
  });
  const line = fc.record({
    charge: fc.integer({ min: 12_000, max: 20_000 }),
    adjustments: fc.array(reason, { maxLength: 4 }),
  });
  fc.assert(
    fc.property(
      fc.array(line, { minLength: 2, maxLength: 2 }),
      fc.integer({ min: 0, max: 900 }),
      (all, more) => {
        const left = ({ charge, adjustments }: (typeof all)[number]) =>
          charge - sum(adjustments.map(({ amount }) => amount));
        const first = word(
          all.map((one, at) => [LINES[at]!.control, one.charge, left(one), one.adjustments]),
        );
        // A further payment moves what the patient bears to what is paid.
        const further = word([[LINES[0]!.control, all[0]!.charge, more, [adjustment('PR', '3', -more)]]]);
        const told = decidedBefore([first, further], LINES, true)!;
        expect(told.paid).toBe(sum(told.lines.map(({ paid }) => paid)));
        for (const [at, one] of told.lines.entries())
          expect(one.paid + sum(one.adjustments.map(({ amount }) => amount))).toBe(all[at]!.charge);
      },
    ),
    { numRuns: runs(200) },
  );
});
