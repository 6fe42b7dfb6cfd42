/** Weighing against a second opinion: ten thousand answers of payers, in every order. */
import fc from 'fast-check';
import { CHARGES, type PayerEvent, anyPayerEvent, claimOfEvent, opinionOf } from '../../testing/payer-oracle';
import { type Cents, add, cents, sum } from '../money';
import { NOTHING_STANDS, type OurLine, type ReasonTable, type Standing, movedBy, weighClaim } from './decide';

const reasons: ReasonTable = () => ({
  reductionAccount: 'reduction/contract',
  denial: false,
  followUp: 'never',
  words: 'known',
});
const OURS = { controlNumber: 'OL1', controls: ['L1', 'L2'], codes: ['99213', '80053'] };
const LINES: OurLine[] = CHARGES.map((charge, index) => ({
  chargeId: index,
  control: OURS.controls[index]!,
  code: OURS.codes[index]!,
  charge: cents(charge),
  expectedAllowed: null,
  earlier: null,
}));

/** What the program makes of the events: where the charges stand, what is held, and how often. */
function posted(events: readonly PayerEvent[]) {
  const standing = new Map<number, Standing>();
  let credit: Cents = cents(0);
  let holds = 0;
  events.forEach((_, at) => {
    const claim = claimOfEvent(events, at, OURS);
    if (!claim) return;
    const verdict =
      claim.controlNumber === OURS.controlNumber
        ? weighClaim(claim, { position: 1, lines: LINES, standing }, reasons)
        : ({ do: 'hold', kind: 'stranger', words: 'none of ours' } as const);
    if (verdict.do === 'hold') {
      expect(verdict.words).not.toBe('');
      holds += 1;
      credit = add(credit, claim.paid);
    }
    if (verdict.do === 'post')
      for (const item of verdict.decisions) {
        const before = standing.get(item.chargeId) ?? NOTHING_STANDS;
        const more = movedBy(item);
        standing.set(item.chargeId, {
          paid: add(before.paid, more.paid),
          reduced: add(before.reduced, more.reduced),
          passedOn: add(before.passedOn, more.passedOn),
        });
      }
  });
  const charges = CHARGES.map((charge, index) => {
    const { paid, reduced, passedOn } = standing.get(index) ?? NOTHING_STANDS;
    return { paid, reduced, patient: passedOn, payer: charge - paid - reduced - passedOn };
  });
  return { charges, credit, holds };
}

const sequences = fc.array(anyPayerEvent, { minLength: 1, maxLength: 8 });

test('property: it agrees with the second opinion on ten thousand remittances', () => {
  let seen = 0;
  fc.assert(
    fc.property(sequences, (events) => {
      seen += events.length;
      const { charges, credit } = posted(events);
      expect({ charges, credit }).toEqual(opinionOf(events));
    }),
    { numRuns: 2500 },
  );
  expect(seen).toBeGreaterThan(10_000);
});

test('property: the patient’s part never grows by a repetition, and no cent of a payment is lost', () => {
  fc.assert(
    fc.property(sequences, (events) => {
      const once = posted(events);
      const claims = events.flatMap((_, at) => claimOfEvent(events, at, OURS) ?? []);
      expect(sum(once.charges.map((item) => cents(item.paid))) + once.credit).toBe(
        sum(claims.map((claim) => claim.paid)),
      );
      const decisions = events.filter((event) => event.kind === 'decision').length;
      for (let of = 0; of < decisions; of += 1) {
        const twice = posted([...events, { kind: 'again', of }]);
        twice.charges.forEach((charge, index) => {
          const before = once.charges[index]!;
          // Where something stands on the claim, nothing moves; else the repetition is the first decision.
          if (once.charges.some((item) => item.paid !== 0 || item.reduced !== 0 || item.patient !== 0))
            expect(charge).toEqual(before);
          else expect(charge.patient).toBeLessThanOrEqual(CHARGES[index]!);
        });
      }
    }),
    { numRuns: 600 },
  );
});

test('property: whatever the order, it ends in the same balances or in holds that say why', () => {
  fc.assert(
    fc.property(
      sequences.chain((events) =>
        fc.tuple(
          fc.constant(events),
          fc.shuffledSubarray([...events.keys()], { minLength: events.length, maxLength: events.length }),
        ),
      ),
      ([events, order]) => {
        // A repetition means the same decision wherever it comes: it is written out before it is moved.
        const out = events.map((_, at) => claimOfEvent(events, at, OURS)).filter((claim) => claim !== null);
        const run = (claims: typeof out) => {
          const standing = new Map<number, Standing>();
          let holds = 0;
          for (const claim of claims) {
            if (claim.controlNumber !== OURS.controlNumber) continue;
            const verdict = weighClaim(claim, { position: 1, lines: LINES, standing }, reasons);
            if (verdict.do === 'hold') holds += 1;
            if (verdict.do === 'post')
              for (const item of verdict.decisions) {
                const before = standing.get(item.chargeId) ?? NOTHING_STANDS;
                const more = movedBy(item);
                standing.set(item.chargeId, {
                  paid: add(before.paid, more.paid),
                  reduced: add(before.reduced, more.reduced),
                  passedOn: add(before.passedOn, more.passedOn),
                });
              }
          }
          return { holds, stands: LINES.map(({ chargeId }) => standing.get(chargeId) ?? NOTHING_STANDS) };
        };
        const first = run(out);
        const other = run(order.flatMap((at) => out[at] ?? []));
        if (first.holds === 0 && other.holds === 0) expect(other.stands).toEqual(first.stands);
      },
    ),
    { numRuns: 1500 },
  );
});
