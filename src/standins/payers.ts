/** Simulated payers: they decide claims by their benefit terms, by arithmetic of their own, and explain it in an 835. */
import { createHash } from 'node:crypto';
import type { CalendarDate } from '../core/calendar';
import { payLines } from './payer-estimate';
import { type Cents, ZERO, add, basisPoints, cents, least, minus, negate, portion, sum } from '../core/money';
import type { ReadClaim } from '../core/x12/claim837';
import type { Adjustment } from '../core/x12/adjustments';
import type { ProviderAdjustment, RemitClaim, RemitLine, Remittance } from '../core/x12/remittance835';
import { STANDIN_CATEGORIES, type StandinPayer } from './payer-book';

/** What a member has used in a year, by `payer|member|year`. Cents. */
export type Accumulators = Record<string, { deductible: Cents; paid: Cents }>;

/** A number from 0 to `sides` − 1 that depends on the seed and a text only. */
export function draw(seed: string, text: string, sides: number): number {
  return createHash('sha256').update(`${seed}|${text}`).digest().readUInt32BE(0) % sides;
}

/** Members whose id ends so have no coverage any more in the payer's books. */
const ENDED = /99$/;

/** What a payer finds when it looks at a claim again: the deductible was met elsewhere, or its plan pays less than it had said. */
export type Finding = 'deductible met' | 'pays less';

/** Members whose claims a payer looks at again, by the end of their ids: what it finds, and after how many days. */
const AGAIN: readonly [end: RegExp, finding: Finding, days: number][] = [
  [/88$/, 'deductible met', 42],
  [/77$/, 'pays less', 210],
];
/** So much less it pays then, in basis points. */
const LESS = 2000;

/** Whether and when a payer says anew what it has decided; null where it stands. */
export function saysAnew(claim: ReadClaim, said: RemitClaim): { finding: Finding; days: number } | null {
  const found = AGAIN.find(([end]) => end.test(claim.subscriber.memberId));
  return found && claim.frequency === '1' && said.status === '1' && said.patientResponsibility > 0
    ? { finding: found[1], days: found[2] }
    : null;
}

/** Decides one claim and counts what the member has used; looked at again, by what was found. */
export function decide(
  payer: StandinPayer,
  claim: ReadClaim,
  used: Accumulators,
  seed: string,
  finding?: Finding,
): RemitClaim {
  const base = {
    controlNumber: claim.controlNumber,
    charge: claim.total,
    payerClaimNumber: payerClaimNumber(payer, claim),
    patient: { last: claim.patient.last, first: claim.patient.first, memberId: claim.subscriber.memberId },
    date: claim.lines[0]?.date ?? null,
    adjustments: [] as Adjustment[],
    remarks: [] as string[],
  };
  const group = payer.groups[claim.subscriber.groupNumber] ?? Object.values(payer.groups)[0]!;
  if (ENDED.test(claim.subscriber.memberId)) {
    const lines = claim.lines.map((line) =>
      lineOf(line, ZERO, [{ group: 'CO', reason: '27', amount: line.charge }]),
    );
    return { ...base, status: '4', paid: ZERO, patientResponsibility: ZERO, lines, remarks: ['N30'] };
  }
  const key = `${payer.payerId}|${claim.subscriber.memberId}|${base.date?.slice(0, 4)}`;
  const counted = used[key] ?? { deductible: ZERO, paid: ZERO };
  const before = finding === 'deductible met' ? { ...counted, deductible: group.terms.deductible } : counted;
  const terms =
    finding === 'pays less'
      ? {
          ...group.terms,
          percentages: Object.fromEntries(
            Object.entries(group.terms.percentages).map(([category, share]) => [
              category,
              basisPoints(Math.max(0, share - LESS)),
            ]),
          ),
        }
      : group.terms;
  // By the person and the day, not by our number: what one claim is paid does not hang on how many were sent before it.
  const short =
    draw(seed, `short ${claim.subscriber.memberId} ${claim.patient.first} ${base.date ?? ''}`, 11) === 0;
  const bundled = (code: string): boolean => payer.bundled.includes(code);
  const paidFor = claim.lines.filter((line) => !bundled(line.code));
  const parts = payLines(
    paidFor.map((line) => ({
      number: line.number,
      category: STANDIN_CATEGORIES[line.code] ?? 'other',
      units: line.units,
      // Tax is paid with what is covered.
      charge: minus(line.charge, line.tax ?? ZERO),
      date: line.date,
      unitFee: allowed(payer, line.code, short && line.code === paidFor[0]?.code),
    })),
    terms,
    before,
  );
  const decided = claim.lines.map((line) => {
    const found = parts.find((item) => item.number === line.number);
    if (!found)
      return {
        ...lineOf(line, ZERO, [{ group: 'CO', reason: '97', amount: line.charge }]),
        remarks: ['M15'],
      };
    const tax = line.tax ?? ZERO;
    const taxPaid = found.notCovered > 0 ? ZERO : tax;
    const adjustments: Adjustment[] = (
      [
        ['CO', '45', found.writeOff],
        ['PR', '45', minus(minus(minus(line.charge, tax), found.allowed), found.writeOff)],
        ['PR', '1', found.deductible],
        ['PR', '2', found.coinsurance],
        ['PR', '3', found.copay],
        ['PR', '96', add(found.notCovered, minus(tax, taxPaid))],
        ['PR', '119', found.overMaximum],
      ] as const
    )
      .filter(([, , amount]) => amount !== 0)
      .map(([group, reason, amount]) => ({ group, reason, amount }));
    return { ...lineOf(line, add(found.pays, taxPaid), adjustments), allowed: add(found.allowed, tax) };
  });
  const lines = claim.lines.map((line, index) => afterEarlier(claim, line, decided[index]!));
  const paid = sum(lines.map((line) => line.paid));
  used[key] = {
    deductible: add(counted.deductible, sum(parts.map((item) => item.deductible))),
    paid: add(before.paid, paid),
  };
  const patientResponsibility = sum(
    lines.flatMap((line) =>
      line.adjustments.filter((item) => item.group === 'PR').map((item) => item.amount),
    ),
  );
  return { ...base, status: String(claim.coverageOrder), paid, patientResponsibility, lines };
}

/**
 * What a next payer pays of a line: no more than what the payer before left to the patient; the rest is what was paid and reduced
 * before it (OA-23). A first payer's word stays as it is.
 */
function afterEarlier(
  claim: ReadClaim,
  { number, charge }: ReadClaim['lines'][number],
  word: RemitLine,
): RemitLine {
  const before = claim.otherPayers?.findLast(
    ({ coverageOrder, decided }) => coverageOrder < claim.coverageOrder && decided,
  )?.decided;
  const line = before?.lines.find((one) => one.number === number);
  if (!line) return word;
  const left = sum(line.adjustments.filter(({ group }) => group === 'PR').map(({ amount }) => amount));
  const paid = least(word.paid, left);
  const adjustments: Adjustment[] = (
    [
      ['OA', '23', minus(charge, left)],
      ['PR', '2', minus(left, paid)],
    ] as const
  )
    .filter(([, , amount]) => amount !== 0)
    .map(([group, reason, amount]) => ({ group, reason, amount }));
  return { ...word, paid, adjustments, allowed: null };
}

const allowed = (payer: StandinPayer, code: string, short: boolean): Cents | null => {
  const fee = payer.fees[code] ?? null;
  return fee !== null && short ? minus(fee, portion(fee, basisPoints(1200))) : fee;
};

const lineOf = (line: ReadClaim['lines'][number], paid: Cents, adjustments: Adjustment[]): RemitLine => ({
  code: line.code,
  billed: '',
  modifiers: line.modifiers,
  charge: line.charge,
  paid,
  units: line.units,
  date: line.date,
  adjustments,
  lineControl: line.control,
  allowed: null,
  remarks: [],
});

/** The number a payer gives a claim. */
export const payerClaimNumber = (payer: StandinPayer, claim: { controlNumber: string }): string =>
  `${payer.payerId}${claim.controlNumber.replace(/\D/g, '')}`;

/** Takes a decision back: the same with its signs turned (CLP02 22), and what the member has used with it. */
export function takeBack(payer: StandinPayer, said: RemitClaim, used: Accumulators): RemitClaim {
  const turn = <T extends { amount: Cents }>(item: T): T => ({ ...item, amount: negate(item.amount) });
  const before = used[`${payer.payerId}|${said.patient.memberId}|${said.date?.slice(0, 4)}`];
  const deductible = sum(
    said.lines.flatMap(({ adjustments }) =>
      adjustments.filter(({ group, reason }) => group === 'PR' && reason === '1').map(({ amount }) => amount),
    ),
  );
  if (before) {
    before.deductible = minus(before.deductible, deductible);
    before.paid = minus(before.paid, said.paid);
  }
  return {
    ...said,
    status: '22',
    charge: negate(said.charge),
    paid: negate(said.paid),
    patientResponsibility: negate(said.patientResponsibility),
    adjustments: said.adjustments.map(turn),
    lines: said.lines.map((line) => ({
      ...line,
      charge: negate(line.charge),
      paid: negate(line.paid),
      allowed: line.allowed === null ? null : negate(line.allowed),
      adjustments: line.adjustments.map(turn),
    })),
  };
}

/** Now and then a payer settles something besides the claims: it takes an overpayment, or pays an adjustment. */
function besides(serial: number, claims: readonly RemitClaim[]): ProviderAdjustment[] {
  const paid = claims.find((claim) => claim.paid > cents(3500));
  return [
    ...(serial % 9 === 0 ? [{ code: 'L6', reference: `INT${serial}`, amount: cents(-137) }] : []),
    ...(serial % 29 === 0 && paid
      ? [{ code: 'WO', reference: paid.payerClaimNumber, amount: cents(3500) }]
      : []),
    ...(serial % 31 === 0 ? [{ code: 'CS', reference: `ADJ${serial}`, amount: cents(-1840) }] : []),
  ];
}

/**
 * Puts decided claims into one remittance; one in a while also pays a claim that is not this practice's. What would pay less
 * than nothing is carried forward (FB) and withheld from a later payment (WO).
 * @param owing what is carried from earlier ones. Cents
 */
export function remit(
  payer: StandinPayer,
  claims: RemitClaim[],
  serial: number,
  today: CalendarDate,
  payee: Remittance['payee'],
  owing: Cents = ZERO,
): Remittance & { owed: Cents } {
  const stray: RemitClaim[] =
    serial % 37 === 0
      ? [
          {
            controlNumber: `QX${serial}881`,
            status: '1',
            charge: cents(12500),
            paid: cents(7350),
            patientResponsibility: ZERO,
            payerClaimNumber: `${payer.payerId}900${serial}`,
            adjustments: [{ group: 'CO', reason: '45', amount: cents(5150) }],
            patient: { last: 'Halloran', first: 'Wes', memberId: '' },
            date: today,
            remarks: [],
            lines: [],
          },
        ]
      : [];
  const all = [...claims, ...stray];
  const others = besides(serial, claims);
  const due = minus(sum(all.map((claim) => claim.paid)), sum(others.map((item) => item.amount)));
  const reference = `FWD${payer.payerId}`;
  const providerAdjustments = [
    ...others,
    ...(due < 0 ? [{ code: 'FB', reference, amount: due }] : []),
    ...(due > 0 && owing > 0 ? [{ code: 'WO', reference, amount: least(due, owing) }] : []),
  ];
  const payment =
    due < 0 ? ZERO : minus(due, sum(providerAdjustments.slice(others.length).map((item) => item.amount)));
  return {
    handling: payment === 0 ? 'H' : 'I',
    payment,
    creditDebit: 'C',
    method: payment === 0 ? 'NON' : 'ACH',
    date: today,
    trace: `${payer.payerId}-${String(serial).padStart(6, '0')}`,
    originator: payer.originator,
    payer: { name: payer.name, id: payer.payerId },
    payee,
    claims: all,
    providerAdjustments,
    owed: due < 0 ? minus(owing, due) : minus(owing, least(due, owing)),
  };
}
