import fc from 'fast-check';
import { calendarDate } from '../calendar';
import { type Cents, cents, sum } from '../money';
import { oldestFirst, spreadByHand, spreadInOrder, spreadInProportion, spreadBeside } from './spread';

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
