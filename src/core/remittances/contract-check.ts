/**
 * What a first payer allowed against what its contract says, line by line: what it should have paid by its own shares, the likeliest
 * cause, and lines of one cause together.
 */
import { type CalendarDate, formatDate } from '../calendar';
import { type Cents, ZERO, add, cents, formatMoneyPlain, minus, sum } from '../money';
import { counted } from '../words';

/** A line that a first payer allowed otherwise than its contract says. Amounts in cents, tax and all where not else said. */
export interface DecidedLine {
  payerId: number;
  code: string;
  units: number;
  serviceDate: CalendarDate;
  charge: Cents;
  /** Tax that is in it, of which no fee says anything. */
  tax: Cents;
  /** What the contract allows, and what the payer did. */
  expected: Cents;
  allowed: Cents;
  paid: Cents;
  /** What of the allowed the payer left to the patient, or the next payer: by kind, as it said. */
  deductible: Cents;
  coinsurance: Cents;
  copay: Cents;
  otherShare: Cents;
  /** Lowered by the federal sequestration, which takes off what is paid and not what is allowed. */
  sequestered: Cents;
}

/** What a payer should have paid, and how that comes about, in words. */
export interface ExpectedPayment {
  pays: Cents;
  steps: string[];
}

/** A part of an amount by a share that was taken of another one: whole percents where they explain it to the cent. */
function inProportion(of: Cents, part: Cents, whole: Cents): { amount: Cents; percent: number | null } {
  if (whole <= 0 || part === 0) return { amount: ZERO, percent: null };
  const percent = Math.round((part * 100) / whole);
  const fits = Math.abs((whole * percent) / 100 - part) <= 1;
  return {
    amount: cents(Math.round(fits ? (of * percent) / 100 : (of * part) / whole)),
    percent: fits ? percent : null,
  };
}

/**
 * What the payer pays of what the contract allows, with the shares of the patient as it took them itself: the deductible and the copay
 * stay, unless the deductible took all of it; the coinsurance and the sequestration keep their share.
 */
export function expectedPayment(line: DecidedLine): ExpectedPayment {
  const { expected, allowed, deductible, copay, otherShare, coinsurance, paid, sequestered } = line;
  const steps = [`Charged ${formatMoneyPlain(line.charge)}`, `contract ${formatMoneyPlain(expected)}`];
  const beside = add(copay, otherShare);
  const whole = deductible > 0 && coinsurance === 0 && paid === 0 && sequestered === 0;
  const takes = whole ? minus(expected, beside) : deductible;
  const before = minus(minus(allowed, beside), deductible);
  const after = minus(minus(expected, beside), takes);
  const say = (words: string, amount: Cents): void => {
    if (amount !== 0) steps.push(`${words} ${formatMoneyPlain(amount)}`);
  };
  say('deductible', takes);
  say('copay', copay);
  say('other of the patient', otherShare);
  const shared = inProportion(after, coinsurance, before);
  say(
    shared.percent === null
      ? 'coinsurance'
      : `coinsurance ${shared.percent} % of ${formatMoneyPlain(after)}:`,
    shared.amount,
  );
  const pays = minus(after, shared.amount);
  const less = inProportion(pays, sequestered, add(paid, sequestered));
  say('sequestration', less.amount);
  const left = cents(Math.max(0, minus(pays, less.amount)));
  steps.push(`pays ${formatMoneyPlain(left)}`, `paid ${formatMoneyPlain(paid)}`);
  return { pays: left, steps };
}

/** A fee of one unit, where the line's contract or another one has it. Cents. */
export interface KnownFee {
  schedule: string;
  /** Of the line's own contract. */
  own: boolean;
  /** Where it is done in a facility, or elsewhere, other than the line was. */
  elsewhere: boolean;
  amount: Cents;
  /** From when it holds, the day before the next one holds; null: from the beginning, or still. */
  since: CalendarDate | null;
  until: CalendarDate | null;
}

/** Why, by the likeliest: what it is grouped by, and in words that follow the code. */
export interface Cause {
  key: string;
  words: string;
}

const MOST_PERCENT = 99;

/** The likeliest cause of a difference: the first that explains it to the cent, in the order of how often it is the one. */
export function causeOf(line: DecidedLine, fees: readonly KnownFee[]): Cause {
  const { units, serviceDate } = line;
  const allowed = minus(line.allowed, line.tax);
  const expected = minus(line.expected, line.tax);
  const comes = ({ amount }: KnownFee): boolean => amount > 0 && amount * units === allowed;
  const holds = ({ since, until }: KnownFee): boolean =>
    (since === null || since <= serviceDate) && (until === null || serviceDate <= until);
  const own = fees.filter((fee) => fee.own && !fee.elsewhere);
  const earlier = own.findLast((fee) => comes(fee) && fee.until !== null && fee.until < serviceDate);
  if (earlier)
    return {
      key: `until ${earlier.until}`,
      words: `paid at the fee that ended on ${formatDate(earlier.until!)}`,
    };
  const later = own.find((fee) => comes(fee) && fee.since !== null && fee.since > serviceDate);
  if (later)
    return {
      key: `from ${later.since}`,
      words: `paid at the fee that begins on ${formatDate(later.since!)}`,
    };
  if (fees.some((fee) => fee.own && fee.elsewhere && holds(fee) && comes(fee)))
    return { key: 'elsewhere', words: 'paid at the fee of the other kind of place' };
  const now = own.find(holds);
  if (now && now.amount > 0 && allowed % now.amount === 0) {
    const many = allowed / now.amount;
    if (many > 0 && many !== units)
      return { key: `units ${many}/${units}`, words: `paid for ${many} of ${counted(units, 'unit')}` };
  }
  const other = fees.find((fee) => !fee.own && !fee.elsewhere && holds(fee) && comes(fee));
  if (other) return { key: `by ${other.schedule}`, words: `paid by “${other.schedule}”` };
  if (line.allowed === line.charge) return { key: 'as charged', words: 'allowed as charged' };
  const percent = expected > 0 ? Math.round(((expected - allowed) * 100) / expected) : 0;
  if (
    percent !== 0 &&
    Math.abs(percent) <= MOST_PERCENT &&
    Math.abs((expected * (100 - percent)) / 100 - allowed) <= 1
  )
    return {
      key: `percent ${percent}`,
      words: percent > 0 ? `paid at ${percent} % less` : `paid at ${-percent} % more`,
    };
  return { key: 'other', words: allowed < expected ? 'paid at less' : 'paid at more' };
}

/** A line with what it should have been paid and why it was not. */
export interface CheckedLine extends DecidedLine {
  cause: Cause;
  /** What the payer should have paid, in cents. */
  pays: Cents;
  steps: string[];
}

/** A line as it is looked at. */
export function checkedLine<Line extends DecidedLine>(
  line: Line,
  fees: readonly KnownFee[],
): Line & CheckedLine {
  return { ...line, ...expectedPayment(line), cause: causeOf(line, fees) };
}

/** What the payer still owes by the contract; less than zero: what it paid beyond. Cents. */
export const owing = ({ pays, paid }: Pick<CheckedLine, 'pays' | 'paid'>): Cents => minus(pays, paid);

/** Lines of one payer, one code and one cause. Sums in cents. */
export interface CauseGroup<Line> {
  key: string;
  payerId: number;
  code: string;
  words: string;
  since: CalendarDate;
  until: CalendarDate;
  /** Allowed below the contract; below zero: above it. */
  difference: Cents;
  /** What the payer owes of it by its own shares. */
  owed: Cents;
  lines: Line[];
}

/** Lines by payer, code and cause: what is most at stake first, the lines of each by their day. */
export function byCause<Line extends CheckedLine>(lines: readonly Line[]): CauseGroup<Line>[] {
  const groups = new Map<string, Line[]>();
  for (const line of lines) {
    const key = `${line.payerId}|${line.code}|${line.cause.key}`;
    const there = groups.get(key);
    if (there) there.push(line);
    else groups.set(key, [line]);
  }
  return [...groups]
    .map(([key, found]): CauseGroup<Line> => {
      const sorted = found.toSorted((a, b) =>
        a.serviceDate < b.serviceDate ? -1 : a.serviceDate > b.serviceDate ? 1 : 0,
      );
      const first = sorted[0]!;
      return {
        key,
        payerId: first.payerId,
        code: first.code,
        words: `${first.code} ${first.cause.words}`,
        since: first.serviceDate,
        until: sorted.at(-1)!.serviceDate,
        difference: sum(sorted.map(({ expected, allowed }) => minus(expected, allowed))),
        owed: sum(sorted.map(owing)),
        lines: sorted,
      };
    })
    .toSorted((a, b) => Math.abs(b.difference) - Math.abs(a.difference) || (a.key < b.key ? -1 : 1));
}
