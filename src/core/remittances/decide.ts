/** From what a remittance says about a claim to what is posted on each of its charges. */
import type { BookAccount } from '../books/accounts';
import type { DecidedAdjustment } from '../books/entries/payers';
import { type Cents, ZERO, add, cents, formatMoneyPlain, least, minus, negate, split, sum } from '../money';
import type { Adjustment } from '../x12/adjustments';
import type { RemitClaim, RemitLine } from '../x12/remittance835';
import { remitStatus } from './status';

/** What the practice's table says of a reason code. */
export interface ReasonRule {
  reductionAccount: BookAccount;
  denial: boolean;
  followUp: 'never' | 'while-money' | 'always';
  /** Who works its follow-ups; nobody where it is empty. */
  owner: string;
  /** In so many days; null: as its kind has it. */
  days: number | null;
  /** What it means, for the practice. */
  words: string;
}

/** What payers before this one did to a charge, in cents. */
export interface Earlier {
  paid: Cents;
  reduced: Cents;
}

/** A line of our claim that a remittance may speak of. Amounts in cents. */
export interface OurLine {
  chargeId: number;
  control: string;
  code: string;
  charge: Cents;
  /** Tax that is in it, of which the contract says nothing. */
  tax: Cents;
  /** What the contract allows, tax and all; null when there is no contract. */
  expectedAllowed: Cents | null;
  /** So much below the contract is let pass. */
  tolerance: Cents;
  /** Null where the claim goes to the first payer. */
  earlier: Earlier | null;
}

/** What is posted on one charge. */
export interface LineDecision {
  chargeId: number;
  paid: Cents;
  adjustments: DecidedAdjustment[];
  remarks: string[];
  denied: boolean;
  /** Follow-ups to raise. `amount` in cents. */
  followUps: {
    kind: 'denial' | 'short-payment' | 'reason';
    words: string;
    amount: Cents;
    rule: 'while-money' | 'always';
    /** Who works it, and in how many days, as the reason says; nobody, and as its kind has it. */
    owner: string;
    days: number | null;
  }[];
}

/** Why a claim of a remittance cannot be posted, in words. */
export interface Hold {
  words: string;
}

/** The reason code table: by group and code, then by code alone. */
export type ReasonTable = (group: string, reason: string) => ReasonRule | null;

const GROUP_WORDS: Record<string, string> = {
  CO: 'contractual',
  PI: 'payer-initiated',
  PR: 'patient',
  OA: 'other',
  CR: 'correction',
};
/** The patient's part for a cause that somebody must look at: another payer, before or after coverage, not identified. */
const LOOK_AT_PR: ReadonlySet<string> = new Set(['22', '26', '27', '31']);
/** Whether the patient’s part for a cause waits for somebody to look at it. @param code of the reason */
export const looksAtPatient = (code: string): boolean => LOOK_AT_PR.has(code);
/** What earlier payers did (OA-23). */
const EARLIER = '23';
/**
 * The remarks by which what is the patient's part may never be collected from a qualified Medicare beneficiary (N781
 * to N783; from memory).
 */
const NEVER_COLLECTED: ReadonlySet<string> = new Set(['N781', 'N782', 'N783']);
/** Lowers what is paid and not what is allowed: the federal sequestration (CO-253). */
const SEQUESTRATION = '253';
/** Paid within another line of the same claim (CO-97, when the payer put lines together). */
const INCLUDED = '97';

/**
 * How an adjustment moves money. CO and PI reduce, PR passes on, OA and CR are neutral. A denial under CO or PI stays with the
 * payer and is followed up: it is written off only when a person decides so. PR for another payer or for no coverage waits for a
 * look.
 * @param remarks of its line and claim
 */
export function movementOf(
  adjustment: Adjustment,
  rule: ReasonRule | null,
  remarks: readonly string[] = [],
): DecidedAdjustment {
  const { group, reason } = adjustment;
  let movement: DecidedAdjustment['movement'] = 'stay';
  if (group === 'PR') movement = looksAtPatient(reason) ? 'stay' : 'pass-on';
  else if ((group === 'CO' || group === 'PI') && rule && !rule.denial) movement = 'reduce';
  const remark = movement === 'pass-on' ? remarks.find((code) => NEVER_COLLECTED.has(code)) : undefined;
  return {
    ...adjustment,
    movement,
    ...(remark ? { remark } : {}),
    reductionAccount: rule?.reductionAccount ?? (group === 'PI' ? 'reduction/payer' : 'reduction/contract'),
  };
}

/** What a payer takes off under a group of its own for a reason of which nobody knows what it does. */
export interface UnknownReason extends Adjustment {
  group: 'CO' | 'PI';
}

/**
 * What of a claim the payer takes off for reasons of which the table does not say whether they reduce or refuse: nothing of it can
 * be posted until somebody says it. Cents, by reason.
 */
export function unknownReasons(
  claim: Pick<RemitClaim, 'adjustments' | 'lines'>,
  reasons: ReasonTable,
): UnknownReason[] {
  const found = new Map<string, UnknownReason>();
  for (const item of [...claim.adjustments, ...claim.lines.flatMap((line) => line.adjustments)]) {
    const { group, reason } = item;
    if ((group !== 'CO' && group !== 'PI') || reasons(group, reason)) continue;
    const before = found.get(codeOf(item));
    found.set(codeOf(item), { group, reason, amount: add(before?.amount ?? ZERO, item.amount) });
  }
  return [...found.values()];
}

/**
 * Decides a claim. Lines are matched by line control number, then by the code that was billed and the charge, then by the
 * code decided and the charge, then by code alone where the payer split a line; what the lines of a charge are charged
 * must be its charge. Amounts given for the claim as a whole are spread over its lines by what each can bear.
 * @returns the decisions, or the reason to hold the claim
 */
export function decideClaim(
  claim: RemitClaim,
  ours: readonly OurLine[],
  reasons: ReasonTable,
): LineDecision[] | Hold {
  if (!remitStatus(claim.status)?.reversal) return decidePlain(claim, ours, reasons);
  // What takes a decision back is that decision with its signs turned, so that it moves what the decision moved.
  const decided = decidePlain(turned(claim), ours, reasons);
  if (!Array.isArray(decided)) return decided;
  return decided.map((item) => ({
    ...item,
    paid: negate(item.paid),
    adjustments: item.adjustments.map(negative),
    followUps: [],
  }));
}

const negative = <T extends { amount: Cents }>(item: T): T => ({ ...item, amount: negate(item.amount) });
/** A claim with all its signs turned. */
const turned = (claim: RemitClaim): RemitClaim => ({
  ...claim,
  charge: negate(claim.charge),
  paid: negate(claim.paid),
  adjustments: claim.adjustments.map(negative),
  lines: claim.lines.map((line) => ({
    ...line,
    charge: negate(line.charge),
    paid: negate(line.paid),
    adjustments: line.adjustments.map(negative),
  })),
});

function decidePlain(
  claim: RemitClaim,
  ours: readonly OurLine[],
  reasons: ReasonTable,
): LineDecision[] | Hold {
  if (ours.length === 0) return { words: 'our claim has no lines' };
  const decisions = new Map<number, LineDecision>();
  const charged = new Map<number, Cents>();
  const left = new Set(ours);

  for (const line of claim.lines) {
    const match = matchOf(line, ours, left);
    if (!match) return { words: `line ${line.code} of ${formatMoneyPlain(line.charge)} is not on our claim` };
    left.delete(match);
    charged.set(match.chargeId, add(charged.get(match.chargeId) ?? ZERO, line.charge));
    const found = decisionFor(decisions, match.chargeId);
    found.paid = add(found.paid, line.paid);
    found.adjustments.push(
      ...line.adjustments.map((item) =>
        movementOf(item, reasons(item.group, item.reason), [...line.remarks, ...claim.remarks]),
      ),
    );
    found.remarks.push(...line.remarks);
  }
  for (const our of ours) {
    const said = charged.get(our.chargeId);
    if (said !== undefined && said !== our.charge)
      return {
        words: `line ${our.code} is charged ${formatMoneyPlain(said)} there and ${formatMoneyPlain(our.charge)} here`,
      };
  }
  const total = sum(ours.map((our) => our.charge));
  if (claim.lines.length === 0 && claim.charge !== total)
    return {
      words: `it is charged ${formatMoneyPlain(claim.charge)} there and ${formatMoneyPlain(total)} here, and names no lines`,
    };

  const targets = claim.lines.length > 0 ? ours.filter((our) => decisions.has(our.chargeId)) : ours;
  const spread = spreadOverLines(claim, targets, decisions);
  if (!Array.isArray(spread)) return spread;
  for (const { chargeId, item, amount } of spread) {
    const decision = decisionFor(decisions, chargeId);
    decision.adjustments.push(
      movementOf({ ...item, amount }, reasons(item.group, item.reason), [
        ...decision.remarks,
        ...claim.remarks,
      ]),
    );
    // With lines, a claim-level adjustment also lowers what the lines' payments add up to.
    if (claim.lines.length > 0) decision.paid = minus(decision.paid, amount);
  }
  // Without lines, each is paid what its adjustments leave of its charge.
  if (claim.lines.length === 0)
    for (const our of targets) {
      const decision = decisionFor(decisions, our.chargeId);
      decision.paid = minus(our.charge, sum(decision.adjustments.map((item) => item.amount)));
    }
  const bundled = claim.lines.some((line) => line.billed !== '' && line.billed !== line.code);
  for (const our of targets) {
    const decision = decisions.get(our.chargeId)!;
    const fault = afterEarlier(decision, our);
    if (fault) return fault;
    judge(decision, our, reasons, bundled);
  }
  shortPayments(decisions, targets, bundled);
  return [...decisions.values()];
}

/**
 * What is adjusted for the claim as a whole, spread over its lines by what each can bear: what it was paid where lines are named,
 * so that a denied line bears nothing and none is paid less than nothing; else what is left of its charge. In proportion to that.
 */
function spreadOverLines(
  claim: RemitClaim,
  targets: readonly OurLine[],
  decisions: ReadonlyMap<number, LineDecision>,
): { chargeId: number; item: Adjustment; amount: Cents }[] | Hold {
  const bears = new Map(
    targets.map((our) => [
      our.chargeId,
      claim.lines.length > 0 ? (decisions.get(our.chargeId)?.paid ?? ZERO) : our.charge,
    ]),
  );
  const parts: { chargeId: number; item: Adjustment; amount: Cents }[] = [];
  for (const item of claim.adjustments) {
    const can = targets.filter((our) => bears.get(our.chargeId)! > 0);
    const most = sum(can.map((our) => bears.get(our.chargeId)!));
    if (can.length === 0 || item.amount > most)
      return {
        words: `${codeOf(item)} of ${formatMoneyPlain(item.amount)} for the claim as a whole is more than its lines can bear, ${formatMoneyPlain(most)}`,
      };
    const shares = split(
      item.amount,
      can.map((our) => bears.get(our.chargeId)!),
    );
    // A cent of rounding that one cannot bear is another's.
    let over: Cents = ZERO;
    can.forEach((our, index) => {
      const wanted = add(shares[index]!, over);
      const amount = least(wanted, bears.get(our.chargeId)!);
      over = minus(wanted, amount);
      bears.set(our.chargeId, minus(bears.get(our.chargeId)!, amount));
      if (amount !== 0) parts.push({ chargeId: our.chargeId, item, amount });
    });
  }
  return parts;
}

/** Our line that a line of the payer speaks of. */
function matchOf(line: RemitLine, ours: readonly OurLine[], left: ReadonlySet<OurLine>): OurLine | undefined {
  const free = [...left];
  const byControl = (our: OurLine): boolean => line.lineControl !== '' && our.control === line.lineControl;
  const sameCharge = (our: OurLine): boolean => our.charge === line.charge;
  const code = line.billed || line.code;
  return (
    free.find(byControl) ??
    free.find((our) => our.code === code && sameCharge(our)) ??
    free.find((our) => our.code === line.code && sameCharge(our)) ??
    ours.find(byControl) ??
    // A line that was split, without our number: its parts must add up to our charge.
    ours.find((our) => our.code === code && line.charge < our.charge)
  );
}

/**
 * What a later payer says of those before it: OA-23 is what they paid and reduced here, or what they paid when the
 * reduction is said again as CO-45, which then reduces only what goes beyond theirs.
 */
function afterEarlier(decision: LineDecision, our: OurLine): Hold | null {
  if (!our.earlier) return null;
  const of = (group: string, reason: string): Cents =>
    sum(
      decision.adjustments
        .filter((item) => item.group === group && item.reason === reason)
        .map((item) => item.amount),
    );
  const { paid, reduced } = our.earlier;
  const said = of('OA', EARLIER);
  const again = of('CO', '45');
  if (said === add(paid, reduced)) return null;
  if (said !== paid || again < reduced)
    return {
      words: `line ${our.code} says that earlier payers paid and reduced ${formatMoneyPlain(said)}; here it is ${formatMoneyPlain(add(paid, reduced))}`,
    };
  let theirs: Cents = reduced;
  decision.adjustments = decision.adjustments.flatMap((item) => {
    if (item.group !== 'CO' || item.reason !== '45' || theirs <= 0) return [item];
    const part = cents(Math.min(theirs, item.amount));
    theirs = minus(theirs, part);
    return [
      { ...item, amount: part, movement: 'stay' as const },
      { ...item, amount: minus(item.amount, part) },
    ].filter(({ amount }) => amount !== 0);
  });
  return null;
}

const emptyDecision = (chargeId: number): LineDecision => ({
  chargeId,
  paid: ZERO,
  adjustments: [],
  remarks: [],
  denied: false,
  followUps: [],
});

function decisionFor(
  decisions: Map<number, LineDecision>,
  chargeId: number,
): LineDecision & { paid: number } {
  const found = decisions.get(chargeId) ?? emptyDecision(chargeId);
  decisions.set(chargeId, found);
  return found;
}

/** A reason as the trade writes it. */
export const codeOf = (item: { group: string; reason: string }): string => `${item.group}-${item.reason}`;

/**
 * Marks denials and says what must be followed up. A denial is nothing paid, nothing allowed and nothing passed on,
 * whatever its reasons and the claim's status: all of it stays with the payer.
 */
function judge(decision: LineDecision, our: OurLine, reasons: ReasonTable, bundled: boolean): void {
  const { adjustments } = decision;
  const before = sum(
    adjustments.filter((item) => item.group === 'OA' && item.reason === EARLIER).map((item) => item.amount),
  );
  const refused = minus(our.charge, before);
  const included = bundled && adjustments.some((item) => item.reason === INCLUDED);
  if (included)
    decision.adjustments = adjustments.map((item) =>
      item.group === 'CO' && item.reason === INCLUDED ? { ...item, movement: 'reduce' } : item,
    );
  else if (decision.paid === 0 && refused > 0 && adjustments.every((item) => item.group !== 'PR')) {
    decision.denied = true;
    decision.adjustments = adjustments.map((item) => ({ ...item, movement: 'stay' }));
    const why = adjustments.filter((item) => item.reason !== EARLIER);
    decision.followUps.push({
      kind: 'denial',
      words: why
        .map(
          (item) =>
            `${codeOf(item)}: ${reasons(item.group, item.reason)?.words ?? 'not in the reason code table'}`,
        )
        .join('; '),
      amount: refused,
      rule: 'while-money',
      ...soonest(why.flatMap((item) => reasons(item.group, item.reason) ?? [])),
    });
    return;
  }
  for (const item of decision.adjustments) {
    const rule = reasons(item.group, item.reason);
    if (included && item.reason === INCLUDED) continue;
    const raise = (kind: 'denial' | 'reason', words: string, when: 'while-money' | 'always'): void =>
      void decision.followUps.push({
        kind,
        words,
        amount: item.amount,
        rule: when,
        ...soonest(rule ? [rule] : []),
      });
    if (item.group === 'PR' && looksAtPatient(item.reason))
      raise(
        'reason',
        `${codeOf(item)}: ${rule?.words ?? 'another payer or no coverage'}; billed to nobody yet`,
        'always',
      );
    else if (rule?.denial) {
      decision.denied = true;
      raise(
        'denial',
        `${codeOf(item)}: ${rule.words}`,
        rule.followUp === 'always' ? 'always' : 'while-money',
      );
    } else if (rule && rule.followUp !== 'never')
      raise('reason', `${codeOf(item)}: ${rule.words}`, rule.followUp);
    else if (!rule && item.group !== 'PR')
      raise(
        'reason',
        `${codeOf(item)} (${GROUP_WORDS[item.group]}) is not in the reason code table`,
        'always',
      );
  }
}

/** Who works a follow-up of several reasons, and by when: by the reason that asks soonest; the first that names somebody. */
function soonest(rules: readonly ReasonRule[]): { owner: string; days: number | null } {
  const said = rules.flatMap(({ days }) => days ?? []);
  return {
    owner: rules.find(({ owner }) => owner !== '')?.owner ?? '',
    days: said.length > 0 ? Math.min(...said) : null,
  };
}

/** Compares what is allowed with the contract: line by line, or over the claim where the payer put lines together. */
function shortPayments(
  decisions: ReadonlyMap<number, LineDecision>,
  targets: readonly OurLine[],
  bundled: boolean,
): void {
  const allowedOf = (our: OurLine): Cents =>
    minus(
      our.charge,
      sum(
        decisions
          .get(our.chargeId)!
          .adjustments.filter((item) => item.movement === 'reduce' && item.reason !== SEQUESTRATION)
          .map((item) => item.amount),
      ),
    );
  const compared = targets.filter(
    (our) => our.expectedAllowed !== null && our.earlier === null && !decisions.get(our.chargeId)!.denied,
  );
  const groups = bundled ? [compared] : compared.map((our) => [our]);
  for (const group of groups) {
    if (group.length === 0) continue;
    const allowed = sum(group.map(allowedOf));
    const expected = sum(group.map((our) => our.expectedAllowed!));
    const short = minus(expected, allowed);
    if (short <= group[0]!.tolerance) continue;
    const taxed = group.some((our) => our.tax > 0);
    decisions.get(group[0]!.chargeId)!.followUps.push({
      kind: 'short-payment',
      words: `Allowed ${formatMoneyPlain(allowed)}, the contract ${taxed ? 'and tax say' : 'says'} ${formatMoneyPlain(expected)}: ${formatMoneyPlain(short)} short`,
      amount: short,
      rule: 'always',
      ...soonest([]),
    });
  }
}
