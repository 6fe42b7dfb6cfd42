/** Units of timed services (Medicare Claims Processing Manual, chapter 5, 20.2, its table and examples, from memory). */
import fc from 'fast-check';
import { runs } from '../../testing/runs';
import { type Timed, timedUnits } from './timed';

const pt = (minutes: number, more: Partial<Timed> = {}): Timed => ({
  minutes,
  discipline: 'PT',
  per: 15,
  ...more,
});
const total = (...minutes: number[]): number[] =>
  timedUnits(
    minutes.map((one) => pt(one)),
    'total',
  );

test.each([
  [7, 0],
  [8, 1],
  [22, 1],
  [23, 2],
  [37, 2],
  [38, 3],
  [52, 3],
  [53, 4],
  [67, 4],
  [68, 5],
  [82, 5],
  [83, 6],
  [97, 6],
  [98, 7],
  [112, 7],
  [113, 8],
  [127, 8],
])('the table of the manual: %s minutes are %s units', (minutes, units) => {
  expect(total(minutes)).toEqual([units]);
});

test.each([
  // 24 + 23: 47 minutes are 3 units, 2 of the longer one.
  [
    [24, 23],
    [2, 1],
  ],
  // 20 + 20: 40 minutes are 3 units; either may have 2.
  [
    [20, 20],
    [2, 1],
  ],
  [
    [33, 7],
    [2, 1],
  ],
  // 18 + 13 + 10 + 8: 49 minutes are 3 units, and the shortest is not billed.
  [
    [18, 13, 10, 8],
    [1, 1, 1, 0],
  ],
  // 7 + 7 + 7: 21 minutes are 1 unit.
  [
    [7, 7, 7],
    [1, 0, 0],
  ],
])('minutes of the day together: %j are %j', (minutes, units) => {
  expect(total(...minutes)).toEqual(units);
});

test('each by itself counts from more than half a unit on', () => {
  expect(timedUnits([pt(33), pt(7), pt(8)], 'each')).toEqual([2, 0, 1]);
  expect(timedUnits([pt(15, { per: 30 }), pt(16, { per: 30 })], 'each')).toEqual([0, 1]);
});

test('disciplines and units of other length are counted apart', () => {
  const mixed = [pt(7), pt(7, { discipline: 'OT' }), pt(7)];
  expect(timedUnits(mixed, 'total')).toEqual([1, 0, 0]);
  expect(timedUnits([pt(20), pt(20, { per: 30 })], 'total')).toEqual([1, 1]);
});

test('what stands already keeps what it has, and the day has no more', () => {
  expect(timedUnits([pt(33, { units: 2 }), pt(7)], 'total')).toEqual([2, 1]);
  // 8 + 8 are 16 minutes, 1 unit, which the first one has.
  expect(timedUnits([pt(8, { units: 1 }), pt(8)], 'total')).toEqual([1, 0]);
  expect(timedUnits([pt(8, { units: 1 }), pt(8, { units: 1 }), pt(15)], 'total')).toEqual([1, 1, 0]);
});

test('together they are what the day’s minutes are, and no service has more than it took', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 120 }), { minLength: 1, maxLength: 8 }), (minutes) => {
      const units = total(...minutes);
      const all = minutes.reduce((sum, one) => sum + one, 0);
      expect(units.reduce((sum, one) => sum + one, 0)).toBe(Math.floor((all + 7) / 15));
      for (const [at, one] of units.entries()) {
        expect(one).toBeGreaterThanOrEqual(Math.floor(minutes[at]! / 15));
        expect(one).toBeLessThanOrEqual(Math.floor(minutes[at]! / 15) + 1);
      }
    }),
    { numRuns: runs(200) },
  );
});
