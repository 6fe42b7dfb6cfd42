import fc from 'fast-check';
import { intoEnvelopes } from './envelopes';

const one = (householdId: number, envelope = householdId, patientId: number | null = null) => ({
  facts: { householdId, envelope, patientId },
});
const ids = (envelopes: ReturnType<typeof intoEnvelopes<ReturnType<typeof one>>>) =>
  envelopes.map(({ first, joined }) =>
    [first, ...joined].map(({ facts }) => facts.patientId ?? facts.householdId),
  );

describe('envelopes', () => {
  test('households that are mailed together share one, the one it is addressed to first', () => {
    expect(ids(intoEnvelopes([one(1), one(2, 3), one(3), one(4, 3)]))).toEqual([[1], [3, 2, 4]]);
  });

  test('where the one it is addressed to gets none, the first of the others stands for all', () => {
    expect(ids(intoEnvelopes([one(2, 3), one(4, 3)]))).toEqual([[2, 4]]);
  });

  test('a confidential address is never shared, not even with its household', () => {
    expect(ids(intoEnvelopes([one(1), one(1, 1, 70), one(1, 1, 71), one(2, 1)]))).toEqual([
      [1, 2],
      [70],
      [71],
    ]);
  });

  test('everybody lies in one envelope once', () => {
    const anybody = fc.record({
      householdId: fc.nat(30),
      envelope: fc.nat(30),
      patientId: fc.constantFrom(null, null, 70, 71),
    });
    fc.assert(
      fc.property(fc.uniqueArray(anybody, { selector: (f) => `${f.householdId}/${f.patientId}` }), (all) => {
        const taken = all.map((facts) => ({ facts }));
        const found = intoEnvelopes(taken).flatMap(({ first, joined }) => [first, ...joined]);
        expect(new Set(found)).toEqual(new Set(taken));
        expect(found).toHaveLength(taken.length);
        for (const { first, joined } of intoEnvelopes(taken))
          for (const { facts } of joined) {
            expect(facts.patientId).toBe(first.facts.patientId);
            if (facts.patientId === null) expect(facts.envelope).toBe(first.facts.envelope);
          }
      }),
    );
  });
});
