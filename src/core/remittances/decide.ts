/** From what a remittance says about a claim to what is posted on each of its charges. */
import type { BookAccount } from '../books/accounts';
import type { DecidedAdjustment } from '../books/entries';
import { type Cents, ZERO, add, formatMoneyPlain, minus, split, sum } from '../money';
import type { Adjustment, RemitClaim } from '../x12/remittance835';

/** What the practice's table says of a reason code. */
export interface ReasonRule {
  reductionAccount: BookAccount;
  denial: boolean;
  followUp: 'never' | 'while-money' | 'always';
  /** What it means, for the practice. */
  words: string;
}

/** A line of our claim that a remittance may speak of. Amounts in cents. */
export interface OurLine {
  chargeId: number;
  control: string;
  code: string;
  charge: Cents;
  /** What the contract allows; null when there is no contract. */
  expectedAllowed: Cents | null;
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
  }[];
}

/** Why a claim of a remittance cannot be posted. */
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

/**
 * How an adjustment moves money. CO and PI reduce, PR passes on, OA and CR are neutral. A denial under CO or PI stays
 * with the payer and is followed up: it is written off only when a person decides so.
 */
export function movementOf(adjustment: Adjustment, rule: ReasonRule | null): DecidedAdjustment {
  let movement: DecidedAdjustment['movement'] = 'stay';
  if (adjustment.group === 'PR') movement = 'pass-on';
  else if ((adjustment.group === 'CO' || adjustment.group === 'PI') && !rule?.denial) movement = 'reduce';
  return {
    ...adjustment,
    movement,
    reductionAccount:
      rule?.reductionAccount ?? (adjustment.group === 'PI' ? 'reduction/payer' : 'reduction/contract'),
  };
}

/**
 * Decides a claim. Lines are matched by line control number, then by code and charge; amounts given for the claim as
 * a whole are spread over its lines in proportion to their charges.
 * @returns the decisions, or the reason to hold the claim
 */
export function decideClaim(
  claim: RemitClaim,
  ours: readonly OurLine[],
  reasons: ReasonTable,
): LineDecision[] | Hold {
  if (ours.length === 0) return { words: 'our claim has no lines' };
  const reversal = claim.status === '22';
  const sign = reversal || claim.charge < 0 ? -1 : 1;
  const decisions = new Map<number, LineDecision>();
  const linesPaid = sum(claim.lines.map((line) => line.paid));
  const left = new Set(ours);

  for (const line of claim.lines) {
    const match =
      [...left].find((our) => line.lineControl !== '' && our.control === line.lineControl) ??
      [...left].find((our) => our.code === line.code && our.charge === sign * line.charge) ??
      ours.find((our) => line.lineControl !== '' && our.control === line.lineControl);
    if (!match) return { words: `line ${line.code} of ${formatMoneyPlain(line.charge)} is not on our claim` };
    left.delete(match);
    const found = decisionFor(decisions, match.chargeId);
    found.paid = add(found.paid, line.paid);
    found.adjustments.push(
      ...line.adjustments.map((item) => movementOf(item, reasons(item.group, item.reason))),
    );
    found.remarks.push(...line.remarks);
  }

  const targets = claim.lines.length > 0 ? ours.filter((our) => decisions.has(our.chargeId)) : ours;
  const weights = targets.map((our) => our.charge);
  const wholePaid = claim.lines.length > 0 ? ZERO : minus(claim.paid, linesPaid);
  split(wholePaid, weights).forEach((part, index) => {
    const decision = decisionFor(decisions, targets[index]!.chargeId);
    decision.paid = add(decision.paid, part);
  });
  for (const item of claim.adjustments) {
    split(item.amount, weights).forEach((amount, index) => {
      const decided = movementOf({ ...item, amount }, reasons(item.group, item.reason));
      // With lines, a claim-level adjustment also lowers what the lines' payments add up to.
      const decision = decisionFor(decisions, targets[index]!.chargeId);
      decision.adjustments.push(decided);
      if (claim.lines.length > 0) decision.paid = minus(decision.paid, amount);
    });
  }
  for (const our of targets) if (!reversal) judge(decisions.get(our.chargeId)!, our, reasons);
  return [...decisions.values()];
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

/** Marks denials, compares what is allowed with the contract, and says what must be followed up. */
function judge(decision: LineDecision, our: OurLine, reasons: ReasonTable): void {
  let reduced = ZERO;
  for (const item of decision.adjustments) {
    if (item.movement === 'reduce') reduced = add(reduced, item.amount);
    const rule = reasons(item.group, item.reason);
    const code = `${item.group}-${item.reason}`;
    if (rule?.denial) decision.denied = true;
    if (rule && rule.followUp !== 'never') {
      decision.followUps.push({
        kind: rule.denial ? 'denial' : 'reason',
        words: `${code}: ${rule.words}`,
        amount: item.amount,
        rule: rule.followUp,
      });
    } else if (!rule && item.group !== 'PR') {
      decision.followUps.push({
        kind: 'reason',
        words: `${code} (${GROUP_WORDS[item.group]}) is not in the reason code table`,
        amount: item.amount,
        rule: 'always',
      });
    }
  }
  const allowed = minus(our.charge, reduced);
  if (!decision.denied && our.expectedAllowed !== null && allowed < our.expectedAllowed) {
    const short = minus(our.expectedAllowed, allowed);
    decision.followUps.push({
      kind: 'short-payment',
      words: `Allowed ${formatMoneyPlain(allowed)}, the contract says ${formatMoneyPlain(our.expectedAllowed)}: ${formatMoneyPlain(short)} short`,
      amount: short,
      rule: 'always',
    });
  }
}
