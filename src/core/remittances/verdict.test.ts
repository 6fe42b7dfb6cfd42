/** Weighing against a second opinion: thousands of answers of payers, in every order. */
import { calendarDate } from '../calendar';
import fc from 'fast-check';
import { CHARGES, type PayerEvent, anyPayerEvent, claimOfEvent, opinionOf } from '../../testing/payer-oracle';
import { type Cents, ZERO, add, cents, sum } from '../money';
import type { RemitClaim } from '../x12/remittance835';
import { type OurLine, type ReasonTable } from './decide';
import { NOTHING_DECIDED, type DecidedParts, movedBy, plus, verdictOn } from './verdict';
import { FULL, runs } from '../../testing/runs';

const reasons: ReasonTable = () => ({
  reductionAccount: 'reduction/contract',
  denial: false,
  followUp: 'never',
  owner: '',
  days: null,
  words: 'known',
});
const OURS = { controlNumber: 'OL1', controls: ['L1', 'L2'], codes: ['99213', '80053'] };
const LINES: OurLine[] = CHARGES.map((charge, index) => ({
  chargeId: index,
  control: OURS.controls[index]!,
  code: OURS.codes[index]!,
  charge: cents(charge),
  tax: ZERO,
  expectedAllowed: null,
  tolerance: ZERO,
  earlier: null,
}));

/** The events as claims of remittances; those that repeat what never came are left out. */
const claimsOf = (events: readonly PayerEvent[]): RemitClaim[] =>
  events.flatMap((_, at) => claimOfEvent(events, at, OURS) ?? []);

/** What the program makes of claims: where the charges stand, what is in the credit, and how many are held. */
function posted(claims: readonly RemitClaim[]) {
  const decidedSoFar = new Map<number, DecidedParts>();
  let credit: Cents = cents(0);
  let holds = 0;
  let decided = false;
  for (const claim of claims) {
    const verdict =
      claim.controlNumber === OURS.controlNumber
        ? verdictOn(
            claim,
            {
              position: 1,
              lines: LINES,
              serviceDate: calendarDate('2026-03-02'),
              paidOn: calendarDate('2026-03-16'),
              decidedSoFar,
              decided,
            },
            reasons,
          )
        : ({ do: 'hold', kind: 'stranger', words: 'none of ours' } as const);
    if (verdict.do === 'hold') {
      expect(verdict.words).not.toBe('');
      holds += 1;
      credit = add(credit, claim.paid);
    }
    if (verdict.do === 'post') decided = true;
    if (verdict.do === 'post')
      for (const item of verdict.decisions) {
        decidedSoFar.set(
          item.chargeId,
          plus(decidedSoFar.get(item.chargeId) ?? NOTHING_DECIDED, movedBy(item)),
        );
      }
  }
  const charges = CHARGES.map((charge, index) => {
    const { paid, reduced, passedOn } = decidedSoFar.get(index) ?? NOTHING_DECIDED;
    return { paid, reduced, patient: passedOn, payer: charge - paid - reduced - passedOn };
  });
  return { charges, credit, holds };
}

const sequences = fc.array(anyPayerEvent, { minLength: 1, maxLength: 8 });

test('property: it agrees with the second opinion on thousands of remittances', () => {
  let seen = 0;
  fc.assert(
    fc.property(sequences, (events) => {
      seen += events.length;
      const { charges, credit } = posted(claimsOf(events));
      expect({ charges, credit }).toEqual(opinionOf(events));
    }),
    { numRuns: runs(2500) },
  );
  expect(seen).toBeGreaterThan(FULL ? 10_000 : 2_500);
});

test('property: the patient’s part never grows by a repetition, and no cent of a payment is lost', () => {
  fc.assert(
    fc.property(sequences, fc.nat(), (events, which) => {
      const claims = claimsOf(events);
      const once = posted(claims);
      expect(sum(once.charges.map((item) => cents(item.paid))) + once.credit).toBe(
        sum(claims.map((claim) => claim.paid)),
      );
      if (claims.length === 0) return;
      const again = claims[which % claims.length]!;
      const twice = posted([...claims, again]);
      const stands = once.charges.some(({ payer }, index) => payer !== CHARGES[index]);
      // Where something stands on the claim, only its reversal moves; else what is repeated is the first decision.
      if (stands && again.status !== '22') expect(twice.charges).toEqual(once.charges);
      twice.charges.forEach((charge, index) =>
        expect(charge.patient).toBeLessThanOrEqual(stands ? once.charges[index]!.patient : CHARGES[index]!),
      );
    }),
    { numRuns: runs(1500) },
  );
});

test('property: whatever the order, it ends in the same balances or in holds that say why', () => {
  const shuffled = sequences.chain((events) => {
    const claims = claimsOf(events);
    const all = { minLength: claims.length, maxLength: claims.length };
    return fc.tuple(fc.constant(claims), fc.shuffledSubarray(claims, all));
  });
  fc.assert(
    fc.property(shuffled, ([claims, others]) => {
      const [one, other] = [posted(claims), posted(others)];
      if (one.holds === 0 && other.holds === 0) expect(other.charges).toEqual(one.charges);
    }),
    { numRuns: runs(1500) },
  );
});
