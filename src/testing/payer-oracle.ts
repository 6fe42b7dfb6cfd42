/**
 * A second opinion on what a payer's answers leave in the books, written apart from the program: it knows the statuses
 * (CLP02) and the group codes (CAS01) of ASC X12N 005010X221A1, and that nothing doubtful moves anything.
 */
import fc from 'fast-check';
import { cents } from '../core/money';
import type { Adjustment } from '../core/x12/adjustments';
import type { RemitClaim } from '../core/x12/remittance835';

/** Charges of the claim that everything here speaks of, in cents. */
export const CHARGES = [14500, 4200] as const;

/** A line as the payer decides it, in cents; what is `open` it leaves open (OA). */
interface Decided {
  paid: number;
  contract: number;
  patient: number;
  open: number;
}

/** What comes from a payer. `of` counts the events before it. */
export type PayerEvent =
  | { kind: 'decision'; status: '1' | '4' | '19'; lines: Decided[] }
  | { kind: 'again' | 'back'; of: number }
  | { kind: 'nothing'; status: '23' | '25'; paid: number }
  | { kind: 'stranger'; paid: number };

const line = (charge: number): fc.Arbitrary<Decided> =>
  fc
    .tuple(fc.nat(charge), fc.nat(charge), fc.nat(charge), fc.constantFrom('paid', 'denied', 'split'))
    .map(([a, b, c, how]) => {
      if (how === 'denied') return { paid: 0, contract: charge, patient: 0, open: 0 };
      if (how === 'paid') return { paid: a, contract: charge - a, patient: 0, open: 0 };
      const [x = 0, y = 0, z = 0] = [a, b, c].sort((left, right) => left - right);
      return { paid: x, contract: y - x, patient: z - y, open: charge - z };
    });

/** Any event. */
export const anyPayerEvent: fc.Arbitrary<PayerEvent> = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({
      kind: fc.constant('decision' as const),
      status: fc.constantFrom('1' as const, '4' as const, '19' as const),
      lines: fc.tuple(...CHARGES.map(line)),
    }),
  },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant('again' as const), of: fc.nat(8) }) },
  { weight: 3, arbitrary: fc.record({ kind: fc.constant('back' as const), of: fc.nat(8) }) },
  {
    weight: 1,
    arbitrary: fc.record({
      kind: fc.constant('nothing' as const),
      status: fc.constantFrom('23' as const, '25' as const),
      paid: fc.constantFrom(0, 500),
    }),
  },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('stranger' as const), paid: fc.nat(9000) }) },
);

/** Where the charges stand, and what waits in the payer's credit; cents. */
export interface Opinion {
  charges: { paid: number; reduced: number; patient: number; payer: number }[];
  credit: number;
}

type Moves = { paid: number; reduced: number; patient: number };
const NONE: Moves = { paid: 0, reduced: 0, patient: 0 };
const same = (a: Moves, b: Moves): boolean =>
  a.paid === b.paid && a.reduced === b.reduced && a.patient === b.patient;
/** Nothing paid and nothing passed on is a denial: it moves nothing. */
const movesOf = (item: Decided): Moves =>
  item.paid === 0 && item.patient === 0
    ? NONE
    : { paid: item.paid, reduced: item.contract, patient: item.patient };

/** The decision that an event repeats or takes back: the one so many before it, if there was one. */
function meant(events: readonly PayerEvent[], at: number): Extract<PayerEvent, { kind: 'decision' }> | null {
  const event = events[at]!;
  if (event.kind === 'decision') return event;
  const decisions = events.slice(0, at).filter((item) => item.kind === 'decision');
  return event.kind === 'again' || event.kind === 'back'
    ? (decisions[event.of % Math.max(1, decisions.length)] ?? null)
    : null;
}

/** The opinion after all events, in their order. */
export function opinionOf(events: readonly PayerEvent[]): Opinion {
  let stands: Moves[] = CHARGES.map(() => NONE);
  let credit = 0;
  events.forEach((event, at) => {
    if (event.kind === 'nothing' || event.kind === 'stranger') {
      credit += event.paid;
      return;
    }
    const decision = meant(events, at);
    if (!decision) return;
    const moves = decision.lines.map(movesOf);
    const paid = decision.lines.reduce((all, item) => all + item.paid, 0);
    const touched = stands.some((item) => !same(item, NONE));
    if (event.kind === 'back') {
      // A reversal undoes what stands, to the cent, or is money that somebody must look at.
      if (touched && stands.every((item, index) => same(item, moves[index]!)))
        stands = CHARGES.map(() => NONE);
      else credit -= paid;
    } else if (touched) credit += paid;
    else stands = moves;
  });
  return {
    charges: stands.map((item, index) => ({
      ...item,
      payer: CHARGES[index]! - item.paid - item.reduced - item.patient,
    })),
    credit,
  };
}

/** An event as a claim of a remittance; null where it repeats or takes back what never came. */
export function claimOfEvent(
  events: readonly PayerEvent[],
  at: number,
  ours: { controlNumber: string; controls: readonly string[]; codes: readonly string[] },
): RemitClaim | null {
  const event = events[at]!;
  const decision = meant(events, at);
  if ((event.kind === 'again' || event.kind === 'back') && !decision) return null;
  const sign = event.kind === 'back' ? -1 : 1;
  const made = (paidEach: number, index: number) => ({
    paid: paidEach,
    contract: CHARGES[index]! - paidEach,
    patient: 0,
    open: 0,
  });
  const total = event.kind === 'nothing' || event.kind === 'stranger' ? event.paid : 0;
  const first = Math.min(total, CHARGES[0]);
  const lines = decision?.lines ?? [made(first, 0), made(Math.min(total - first, CHARGES[1]), 1)];
  const status =
    event.kind === 'back'
      ? '22'
      : event.kind === 'stranger'
        ? '1'
        : event.kind === 'nothing'
          ? event.status
          : decision!.status;
  const adjusted = (item: Decided): Adjustment[] =>
    (
      [
        ['CO', '45', item.contract],
        ['PR', '3', item.patient],
        ['OA', '59', item.open],
      ] as const
    )
      .filter(([, , amount]) => amount !== 0)
      .map(([group, reason, amount]) => ({ group, reason, amount: cents(sign * amount) }));
  return {
    controlNumber: event.kind === 'stranger' ? `NOBODY${at}` : ours.controlNumber,
    status,
    charge: cents(sign * (CHARGES[0] + CHARGES[1])),
    paid: cents(sign * lines.reduce((all, item) => all + item.paid, 0)),
    patientResponsibility: cents(0),
    payerClaimNumber: '',
    adjustments: [],
    patient: { last: 'Tester', first: 'T', memberId: '' },
    date: null,
    remarks: [],
    lines: lines.map((item, index) => ({
      code: ours.codes[index]!,
      billed: '',
      modifiers: [],
      charge: cents(sign * CHARGES[index]!),
      paid: cents(sign * item.paid),
      units: 1,
      date: null,
      adjustments: adjusted(item),
      lineControl: ours.controls[index]!,
      allowed: null,
      remarks: [],
    })),
  };
}
