import fc from 'fast-check';
import { calendarDate } from '../calendar';
import { type Cents, cents, sum } from '../money';
import {
  changeOf,
  dealTaking,
  oldestFirst,
  spreadAs,
  spreadBeside,
  spreadByHand,
  spreadInOrder,
  spreadInProportion,
  tendered,
} from './spread';

const open = (amounts: number[]) =>
  amounts.map((owed, index) => ({
    id: index + 1,
    date: calendarDate(`2026-01-${String(index + 1).padStart(2, '0')}`),
    owed: cents(owed),
  }));

describe('spreading money', () => {
  test('1 000.00 over 120, 580, 318, 100 and 115 leaves 18 on the third; a card for 233 clears the rest', () => {
    // Check value: common practice, no source.
    const charges = open([12000, 58000, 31800, 10000, 11500]);
    const first = spreadInOrder(cents(100_000), oldestFirst(charges));
    expect(first).toEqual({
      parts: [
        { id: 1, amount: 12000 },
        { id: 2, amount: 58000 },
        { id: 3, amount: 30000 },
      ],
      left: 0,
    });
    const rest = charges
      .map((charge) => ({
        ...charge,
        owed: cents(charge.owed - (first.parts.find((part) => part.id === charge.id)?.amount ?? 0)),
      }))
      .filter((charge) => charge.owed > 0);
    expect(rest.map((charge) => charge.owed)).toEqual([1800, 10000, 11500]);
    expect(spreadInOrder(cents(23_300), oldestFirst(rest)).left).toBe(0);
  });

  test('whatever the way, parts and rest are the money, and no charge gets more than it owes', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 10_000_000 }),
        fc.array(fc.integer({ min: 1, max: 500_000 }), { maxLength: 28 }),
        (amount, owed) => {
          const charges = open(owed);
          for (const spread of [
            spreadInOrder(cents(amount), charges),
            spreadInProportion(cents(amount), charges),
          ]) {
            expect(sum([...spread.parts.map((part) => part.amount), spread.left])).toBe(amount);
            for (const part of spread.parts)
              expect(part.amount).toBeLessThanOrEqual(charges[part.id - 1]!.owed);
            if (spread.left > 0)
              expect(sum(spread.parts.map((part) => part.amount))).toBe(
                sum(charges.map((charge) => charge.owed)),
              );
          }
        },
      ),
    );
  });

  test('oldest first by date, then by number, and what was given stays in its order', () => {
    const day = (id: number, date: string) => ({ id, date: calendarDate(date), owed: cents(100) });
    const given = [day(3, '2026-02-01'), day(2, '2026-01-05'), day(9, '2026-01-01'), day(1, '2026-01-05')];
    expect(oldestFirst(given).map(({ id }) => id)).toEqual([9, 1, 2, 3]);
    expect(oldestFirst([...given].reverse()).map(({ id }) => id)).toEqual([9, 1, 2, 3]);
    expect(given.map(({ id }) => id)).toEqual([3, 2, 9, 1]);
  });

  test('in proportion: nothing to spread, nothing owed, and parts of nothing are left out', () => {
    expect(spreadInProportion(cents(500), [])).toEqual({ parts: [], left: 500 });
    expect(spreadInProportion(cents(0), open([100]))).toEqual({ parts: [], left: 0 });
    expect(spreadInProportion(cents(1), open([100, 100]))).toEqual({
      parts: [{ id: 1, amount: 1 }],
      left: 0,
    });
    expect(spreadInProportion(cents(500), open([100, 200]))).toEqual({
      parts: [
        { id: 1, amount: 100 },
        { id: 2, amount: 200 },
      ],
      left: 200,
    });
  });

  test('by hand: parts of nothing are left out, and what is left is said', () => {
    const charges = open([100, 200]);
    const wanted = (parts: [number, number][]) => new Map(parts.map(([id, part]) => [id, cents(part)]));
    expect(
      spreadByHand(
        cents(250),
        charges,
        wanted([
          [1, 0],
          [2, 200],
        ]),
      ),
    ).toEqual({
      parts: [{ id: 2, amount: 200 }],
      left: 50,
    });
    expect(spreadByHand(cents(200), charges, wanted([[2, 200]]))).toEqual({
      parts: [{ id: 2, amount: 200 }],
      left: 0,
    });
    expect(spreadByHand(cents(199), charges, wanted([[2, 200]]))).toMatch(/more than the money/);
  });

  test('by hand, what is wrong is said', () => {
    const charges = open([1000, 500]);
    const hand = (parts: [number, number][]) =>
      spreadByHand(cents(1200), charges, new Map(parts.map(([id, amount]) => [id, amount as Cents])));
    expect(
      hand([
        [2, 500],
        [1, 700],
      ]),
    ).toEqual({
      parts: [
        { id: 2, amount: 500 },
        { id: 1, amount: 700 },
      ],
      left: 0,
    });
    expect(hand([[1, 1001]])).toMatch('more than its charge owes');
    expect(
      hand([
        [1, 1000],
        [2, 500],
      ]),
    ).toMatch('more than the money taken');
    expect(hand([[9, 1]])).toMatch('no longer open');
    expect(hand([[1, -1]])).toMatch('below zero');
  });
});

test('money goes first to what credit does not stand against, then to the rest, and never twice', () => {
  const charges = [
    { id: 1, owed: cents(5000), left: cents(0) },
    { id: 2, owed: cents(4000), left: cents(1000) },
    { id: 3, owed: cents(2000), left: cents(2000) },
  ];
  expect(spreadBeside(cents(3000), charges)).toEqual({
    parts: [
      { id: 2, amount: 1000 },
      { id: 3, amount: 2000 },
    ],
    left: 0,
  });
  expect(spreadBeside(cents(9000), charges)).toEqual({
    parts: [
      { id: 1, amount: 5000 },
      { id: 2, amount: 2000 },
      { id: 3, amount: 2000 },
    ],
    left: 0,
  });
  expect(spreadBeside(cents(11_001), charges).left).toBe(1);
});

const visit = (id: number, patientId: number, date: string, owed: number, left = owed) => ({
  id,
  patientId,
  date: calendarDate(date),
  owed: cents(owed),
  left: cents(left),
});
/** Visits of 120.00, 580.00 and 318.00 of one person, 100.00 and 115.00 of two others (common practice, no source). */
const VISITS = [
  visit(1, 1, '2026-01-02', 12_000),
  visit(2, 1, '2026-01-12', 58_000),
  visit(3, 1, '2026-01-22', 31_800),
  visit(4, 2, '2026-02-01', 10_000),
  visit(5, 3, '2026-02-06', 11_500),
];

describe('one taking of several tenders', () => {
  test('1,000.00 cash and a card for 233.00: what each pays', () => {
    const spread = spreadAs(cents(123_300), VISITS, { way: 'oldest' });
    if (typeof spread === 'string') throw new Error(spread);
    expect(spread.left).toBe(0);
    const [cash, card] = dealTaking([cents(100_000), cents(23_300)], {
      parts: spread.parts,
      plans: [],
      agency: cents(0),
    });
    expect(cash!.parts).toEqual([
      { id: 1, amount: 12_000 },
      { id: 2, amount: 58_000 },
      { id: 3, amount: 30_000 },
    ]);
    expect(card!.parts).toEqual([
      { id: 3, amount: 1_800 },
      { id: 4, amount: 10_000 },
      { id: 5, amount: 11_500 },
    ]);
    expect(tendered([{ amount: cents(100_000) }, { amount: cents(23_300) }])).toBe(123_300);
  });

  test('in one’s own order nothing else is paid, and what is not there is said', () => {
    expect(spreadAs(cents(20_000), VISITS, { way: 'chosen', order: [5, 4, 5] })).toEqual({
      parts: [
        { id: 5, amount: 11_500 },
        { id: 4, amount: 8_500 },
      ],
      left: 0,
    });
    expect(spreadAs(cents(30_000), VISITS, { way: 'chosen', order: [4] })).toEqual({
      parts: [{ id: 4, amount: 10_000 }],
      left: 20_000,
    });
    expect(spreadAs(cents(1), VISITS, { way: 'chosen', order: [99] })).toMatch(/no longer open/);
    expect(spreadAs(cents(1), VISITS, { way: 'chosen' })).toMatch(/Choose/);
  });

  test('one person first, oldest first, then the others', () => {
    expect(spreadAs(cents(22_000), VISITS, { way: 'person', first: 2 })).toEqual({
      parts: [
        { id: 4, amount: 10_000 },
        { id: 1, amount: 12_000 },
      ],
      left: 0,
    });
  });

  test('by hand and in proportion go as before', () => {
    const parts = new Map([[3, cents(5)]]);
    expect(spreadAs(cents(6), VISITS, { way: 'hand', parts })).toEqual({
      parts: [{ id: 3, amount: 5 }],
      left: 1,
    });
    expect(spreadAs(cents(4), VISITS, { way: 'hand', parts })).toMatch(/more than the money/);
    const even = spreadAs(cents(123_300), VISITS, { way: 'proportion' });
    expect(even).toMatchObject({ left: 0 });
  });

  test('whatever is wished: never more than open, parts and rest are the tenders, and each tender is dealt whole', () => {
    const charges = fc.array(
      fc.record({ owed: fc.integer({ min: 1, max: 90_000 }), patientId: fc.integer({ min: 1, max: 3 }) }),
      { maxLength: 12 },
    );
    fc.assert(
      fc.property(
        charges,
        fc.array(fc.integer({ min: 1, max: 200_000 }), { minLength: 1, maxLength: 5 }),
        fc.constantFrom('oldest' as const, 'chosen' as const, 'proportion' as const, 'person' as const),
        fc.array(fc.nat({ max: 50_000 }), { maxLength: 2 }),
        fc.nat({ max: 20_000 }),
        (owing, given, way, onPlans, toAgency) => {
          const open = owing.map(({ owed, patientId }, at) =>
            visit(at + 1, patientId, `2026-01-${String(at + 1).padStart(2, '0')}`, owed),
          );
          const tenders = given.map((amount) => cents(amount));
          const all = sum(tenders);
          const plans = onPlans.map((amount, at) => ({ id: 100 + at, amount: cents(amount) }));
          const aside = sum([...plans.map(({ amount }) => amount), cents(toAgency)]);
          fc.pre(aside <= all);
          const spread = spreadAs(cents(all - aside), open, {
            way,
            order: open.map(({ id }) => id).reverse(),
            first: 2,
          });
          if (typeof spread === 'string') return expect(open).toEqual([]);
          for (const { id, amount } of spread.parts) expect(amount).toBeLessThanOrEqual(open[id - 1]!.owed);
          expect(sum([...spread.parts.map(({ amount }) => amount), spread.left])).toBe(all - aside);
          const dealt = dealTaking(tenders, { parts: spread.parts, plans, agency: cents(toAgency) });
          dealt.forEach((one, at) =>
            expect(
              sum([
                ...one.parts.map(({ amount }) => amount),
                ...one.plans.map(({ amount }) => amount),
                one.agency,
                one.left,
              ]),
            ).toBe(tenders[at]),
          );
          expect(sum(dealt.map(({ left }) => left))).toBe(spread.left);
          for (const { id, amount } of spread.parts)
            expect(
              sum(
                dealt.flatMap((one) => one.parts.filter((part) => part.id === id).map((part) => part.amount)),
              ),
            ).toBe(amount);
        },
      ),
    );
  });

  test('change is what was handed over less what is paid; less is none', () => {
    expect(changeOf(cents(5_000), cents(4_010))).toBe(990);
    expect(changeOf(cents(5_000), cents(5_000))).toBe(0);
    expect(changeOf(cents(4_999), cents(5_000))).toBeNull();
  });
});
