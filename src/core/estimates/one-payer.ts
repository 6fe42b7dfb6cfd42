/** What one payer is expected to do with one charge, by the rules of its coverage. */
import { addMonths, ageOn } from '../calendar';
import {
  type BasisPoints,
  type Cents,
  ZERO,
  add,
  cents,
  formatMoneyPlain,
  least,
  minus,
  most,
  portion,
  split,
  sum,
  times,
} from '../money';
import type {
  Coordination,
  Earlier,
  EstimateCharge,
  EstimateCoverage,
  PayerPart,
  Steps,
  Use,
} from './estimate';
import {
  EVER,
  type Rule,
  type RuleOf,
  allOf,
  limitWords,
  narrowestOf,
  periodStart,
  scopeWords,
} from './rules';

/** What the charges before have used of coverages. */
export class Taken {
  private readonly used = new Map<string, number>();
  private readonly services = new Map<string, Earlier[]>();

  key(place: string, { rule, from, tooth }: Omit<Use, 'quantity'>): string {
    return `${place}|${rule}|${from}|${tooth}`;
  }
  of(place: string, use: Omit<Use, 'quantity'>): number {
    return this.used.get(this.key(place, use)) ?? 0;
  }
  add(place: string, use: Use): void {
    this.used.set(this.key(place, use), this.of(place, use) + use.quantity);
  }
  served(place: string): readonly Earlier[] {
    return this.services.get(place) ?? [];
  }
  serve(place: string, one: Earlier): void {
    this.services.set(place, [...this.served(place), one]);
  }
}

/** What the payers before have paid of a charge, and what is left of it after their write-off; cents. */
export interface Before {
  paid: Cents;
  left: Cents;
}

/** One payer and one charge. */
export class OnePayer {
  constructor(
    private readonly charge: EstimateCharge,
    private readonly together: readonly EstimateCharge[],
    private readonly coverage: EstimateCoverage,
    private readonly place: string,
    private readonly taken: Taken,
    private readonly steps: Steps,
  ) {}

  private say(words: string, amount: Cents): void {
    if (amount !== 0) this.steps.push({ words: `${this.coverage.payer}: ${words}`, amount });
  }

  /** @param before null for the first payer */
  part(before: Before | null): PayerPart {
    const { charge, coverage } = this;
    const allowed = least(charge.fee, this.scheduled(charge));
    const difference = minus(charge.fee, allowed);
    const part: PayerPart = {
      payer: coverage.payer,
      allowed,
      writeOff: coverage.contracted ? difference : ZERO,
      deductible: ZERO,
      copay: ZERO,
      coinsurance: ZERO,
      notCovered: ZERO,
      overMaximum: ZERO,
      pays: ZERO,
      uses: [],
      reached: [],
    };
    this.say(
      coverage.contracted ? 'contract write-off' : 'over the allowance, stays with the patient',
      difference,
    );
    this.steps.push({ words: `${coverage.payer}: allowed`, amount: allowed });
    const why = this.whyNot();
    const [share] = narrowestOf(coverage.rules, 'share', charge);
    if (why !== null || !share) {
      part.notCovered = allowed;
      this.steps.push({
        words: `${coverage.payer}: ${why ?? `${charge.category} is not covered`}`,
        amount: allowed,
      });
      return part;
    }
    const base = this.counted(part, this.asLesser(part));
    this.shares(part, share.share, this.afterOthers(base, before));
    this.outOfPocket(part);
    this.maximums(part);
    this.steps.push({ words: `${coverage.payer}: expected payment`, amount: part.pays });
    if (before) coordinate(part, coverage.coordination, before, this.steps);
    this.count(part);
    return part;
  }

  /** What the schedule allows of a charge: by units, of several the share of each, and by its modifiers. */
  private scheduled(charge: EstimateCharge): Cents {
    const { rules } = this.coverage;
    let amount = this.unreduced(charge);
    const [several] = narrowestOf(rules, 'several', charge);
    if (several) {
      // The one of which most is allowed is the first (CMS, Medicare Claims Processing Manual, chapter 12, 40.6, from memory).
      const order = this.together
        .map((other, at) => ({ other, at, allowed: this.unreduced(other) }))
        .filter(({ other }) => narrowestOf(rules, 'several', other)[0]?.id === several.id)
        .sort((a, b) => b.allowed - a.allowed || a.at - b.at);
      const rank = order.findIndex(({ other }) => other === charge);
      amount = portion(amount, several.shares[Math.min(rank, several.shares.length - 1)]!);
    }
    for (const modifier of charge.modifiers ?? []) {
      const [rule] = narrowestOf(
        rules.filter((one) => one.kind !== 'modifier' || one.modifier === modifier),
        'modifier',
        charge,
      );
      if (rule) amount = portion(amount, rule.share);
    }
    return amount;
  }

  private unreduced({ code, units, fee, facility = false }: EstimateCharge): Cents {
    const unit = this.coverage.allowedFee(code, facility);
    return unit === null ? fee : times(unit, units);
  }

  /** Why nothing is paid, whatever is left. */
  private whyNot(): string | null {
    const { charge, coverage } = this;
    const { rules, begins = null } = coverage;
    for (const rule of allOf(rules, 'ages', charge)) {
      const { from, through } = rule;
      const age = coverage.born ? ageOn(coverage.born, charge.day) : charge.age;
      if (age === undefined) continue;
      if (typeof from === 'number' && age < from) return `covered from ${from} years of age on`;
      if (typeof through === 'number' && age > through) return `covered through ${through} years of age`;
    }
    for (const { months } of allOf(rules, 'waiting', charge))
      if (begins !== null && charge.day < addMonths(begins, months))
        return `not covered in the first ${months} months`;
    if (this.lostBefore() && allOf(rules, 'missing-tooth', charge).length > 0)
      return 'the tooth was lost before the coverage began';
    if (!charge.approved && !coverage.approved && allOf(rules, 'approval', charge).length > 0)
      return 'not paid without an approval beforehand';
    return null;
  }

  /** Whether the tooth was lost before the coverage began: where nobody knows when, it was; of one that always was, none. */
  private lostBefore(): boolean {
    const { tooth = '', lostBefore = false } = this.charge;
    const { lost, begins = null } = this.coverage;
    const on = lost?.get(tooth);
    return lostBefore || (on !== undefined && begins !== null && (on === null || on < begins));
  }

  /** What of the allowed amount is looked at, where it is paid as another service; the rest is the patient's. */
  private asLesser(part: PayerPart): Cents {
    const [rule] = narrowestOf(this.coverage.rules, 'lesser-service', this.charge);
    if (!rule) return part.allowed;
    const lesser = this.coverage.allowedFee(rule.code, this.charge.facility ?? false);
    if (lesser === null) return part.allowed;
    const base = least(part.allowed, times(lesser, this.charge.units));
    part.notCovered = minus(part.allowed, base);
    this.say(`paid as ${rule.code}, the difference stays with the patient`, part.notCovered);
    return base;
  }

  private use(rule: Rule & { period: RuleOf<'limit'>['period'] }): Omit<Use, 'quantity'> {
    const { charge, coverage } = this;
    const byTooth = rule.kind === 'limit' && rule.byTooth === true;
    const tooth = byTooth ? (charge.tooth ?? '') : '';
    // What is looked back for runs on from each service to the next.
    const from =
      rule.period.every === 'months' ? EVER : periodStart(rule.period, charge.day, coverage.begins ?? null);
    // What is of one visit is told apart from another one's of the day.
    return { rule: rule.period.every === 'visit' ? `${rule.id} ${charge.visit}` : rule.id, from, tooth };
  }

  /** What is left of a rule in the period of the charge. */
  private left(rule: RuleOf<'deductible' | 'out-of-pocket' | 'limit'>): number {
    const use = this.use(rule);
    const top = rule.kind === 'limit' ? rule.most : rule.amount;
    const looksBack = rule.kind === 'limit' && rule.period.every === 'months' && rule.measure !== 'money';
    const from = periodStart(rule.period, this.charge.day, this.coverage.begins ?? null);
    const used = looksBack
      ? this.inMonths(rule, { ...use, from })
      : this.coverage.used(rule, from, use.tooth) + this.taken.of(this.place, use);
    return Math.max(0, top - used);
  }

  /** How many counted in the months before a service, which are not yet over. */
  private inMonths(rule: RuleOf<'limit'>, { from, tooth }: Omit<Use, 'quantity'>): number {
    const counted = [...(this.coverage.earlier ?? []), ...this.taken.served(this.place)].filter(
      (one) =>
        one.day > from &&
        one.day <= this.charge.day &&
        allOf([rule], 'limit', one).length > 0 &&
        (!rule.byTooth || (one.tooth ?? '') === tooth),
    );
    if (rule.measure === 'units') return counted.reduce((all, { units }) => all + units, 0);
    return rule.measure === 'services' ? counted.length : new Set(counted.map(({ day }) => day)).size;
  }

  /** The deductibles of a charge. Nothing for a category spares it; nothing for all services is no deductible, and not one that is met. */
  private deductibles(): RuleOf<'deductible'>[] {
    return narrowestOf(this.coverage.rules, 'deductible', this.charge).filter(
      ({ amount, scope }) => amount > 0 || scope?.category || scope?.codes,
    );
  }

  private quantityLimits(): RuleOf<'limit'>[] {
    return allOf(this.coverage.rules, 'limit', this.charge).filter(({ measure }) => measure !== 'money');
  }

  /** How many of a limit a charge needs: its units, itself, or its visit or day where that did not count yet. */
  private needs(rule: RuleOf<'limit'>): number {
    const { id, measure } = rule;
    if (measure === 'units') return this.charge.units;
    if (measure === 'services') return 1;
    const before = (this.coverage.earlier ?? []).some(
      (one) => one.day === this.charge.day && allOf([rule], 'limit', one).length > 0,
    );
    return before || this.taken.of(this.place, this.mark(id, measure)) > 0 ? 0 : 1;
  }

  /** That the visit or the day of a charge has counted. */
  private mark(id: string, measure: 'money' | 'visits' | 'days' | 'copay'): Omit<Use, 'quantity'> {
    const { visit, day } = this.charge;
    return { rule: `${id} of ${measure === 'days' ? day : visit}`, from: day, tooth: '' };
  }

  /** What of an amount is within the limits that count visits, days, units and services; the rest is over the one that leaves least. */
  private counted(part: PayerPart, amount: Cents): Cents {
    let base = amount;
    for (const rule of this.quantityLimits()) {
      const [left, needed] = [this.left(rule), this.needs(rule)];
      if (needed <= left) continue;
      const within = rule.measure === 'units' ? split(amount, [left, needed - left])[0]! : ZERO;
      if (within >= base) continue;
      this.reach(part, rule, minus(base, within));
      base = within;
    }
    return base;
  }

  private reach(part: PayerPart, rule: RuleOf<'limit'>, amount: Cents): void {
    const words = `${rule.measure === 'money' ? 'the ' : ''}${limitWords(rule)}`;
    part.overMaximum = add(part.overMaximum, amount);
    this.say(`over ${words}`, amount);
    const { then = 'next', warning = 'none' } = rule;
    part.reached.push({ rule: rule.id, words, amount, then, confirm: warning === 'confirm' });
  }

  /** Maintenance of benefits: what was paid before comes off the allowed amount. */
  private afterOthers(amount: Cents, before: Before | null): Cents {
    if (before === null || this.coverage.coordination !== 'maintenance') return amount;
    const off = least(amount, before.paid);
    this.say('maintenance of benefits, what was paid before comes off the allowed amount', off);
    return minus(amount, off);
  }

  /** Deductible, copay and the plan's share of what is left, in the order of the copay. */
  private shares(part: PayerPart, share: BasisPoints, amount: Cents): void {
    const { charge, coverage } = this;
    let rest = amount;
    const takeDeductible = (): void => {
      const rules = this.deductibles();
      if (rules.length === 0) return;
      part.deductible = least(rest, cents(Math.min(...rules.map((rule) => this.left(rule)))));
      rest = minus(rest, part.deductible);
      const [rule] = rules;
      this.say(
        `goes to the ${rule!.period.every === 'year' ? 'yearly ' : ''}deductible${scopeWords(rule!)}`,
        part.deductible,
      );
    };
    const [copay] = narrowestOf(coverage.rules, 'copay', charge);
    const takeCopay = (): void => {
      if (!copay) return;
      const key = this.mark(copay.id, copay.once === 'day' ? 'days' : 'copay');
      const before = copay.once === 'service' ? 0 : this.taken.of(this.place, key);
      part.copay = least(rest, most(ZERO, minus(copay.amount, cents(before))));
      rest = minus(rest, part.copay);
      if (copay.once !== 'service') this.taken.add(this.place, { ...key, quantity: part.copay });
      this.say('copay', part.copay);
    };
    const takeShare = (): void => {
      const pays = portion(rest, share);
      part.coinsurance = minus(rest, pays);
      this.say(`coinsurance, plan pays ${share / 100} % of ${formatMoneyPlain(rest)}`, part.coinsurance);
      rest = pays;
    };
    switch (copay?.order ?? 'between') {
      case 'instead':
        takeCopay();
        break;
      case 'before':
        takeCopay();
        takeDeductible();
        takeShare();
        break;
      case 'between':
        takeDeductible();
        takeCopay();
        takeShare();
        break;
      case 'after':
        takeDeductible();
        takeShare();
        takeCopay();
        break;
    }
    part.pays = rest;
  }

  /** What the patient's part would go over the out-of-pocket limit, the payer pays; what was counted last comes off first. */
  private outOfPocket(part: PayerPart): void {
    const rules = narrowestOf(this.coverage.rules, 'out-of-pocket', this.charge);
    if (rules.length === 0) return;
    const own = sum([part.deductible, part.copay, part.coinsurance]);
    let over = most(ZERO, minus(own, cents(Math.min(...rules.map((rule) => this.left(rule))))));
    this.say('over the out-of-pocket limit, the plan pays it', over);
    part.pays = add(part.pays, over);
    for (const name of ['coinsurance', 'copay', 'deductible'] as const) {
      const off = least(part[name], over);
      part[name] = minus(part[name], off);
      over = minus(over, off);
    }
  }

  /** No more is paid than is left of any limit of money. */
  private maximums(part: PayerPart): void {
    const limits = allOf(this.coverage.rules, 'limit', this.charge)
      .filter(({ measure }) => measure === 'money')
      .map((rule) => ({ rule, left: cents(this.left(rule)) }))
      .sort((a, b) => a.left - b.left);
    const [least_] = limits;
    if (!least_ || part.pays <= least_.left) return;
    this.reach(part, least_.rule, minus(part.pays, least_.left));
    part.pays = least_.left;
  }

  /** What the charge uses of each rule that counts. */
  private count(part: PayerPart): void {
    const { rules } = this.coverage;
    const own = sum([part.deductible, part.copay, part.coinsurance]);
    const uses = (rule: RuleOf<'deductible' | 'out-of-pocket' | 'limit'>, quantity: number): void => {
      if (quantity > 0) part.uses.push({ ...this.use(rule), quantity });
    };
    for (const rule of this.deductibles()) uses(rule, part.deductible);
    for (const rule of narrowestOf(rules, 'out-of-pocket', this.charge)) uses(rule, own);
    for (const rule of allOf(rules, 'limit', this.charge)) {
      if (rule.measure === 'money') {
        uses(rule, part.pays);
        continue;
      }
      // What nothing was paid of and nothing was the patient's by the policy did not count.
      if (part.pays === 0 && own === 0) continue;
      const needed = Math.min(this.needs(rule), this.left(rule));
      uses(rule, needed);
      if (rule.measure === 'visits' || rule.measure === 'days')
        this.taken.add(this.place, { ...this.mark(rule.id, rule.measure), quantity: needed });
    }
  }
}

/**
 * Lowers what a next payer pays by its way of coordinating, and never lets all payers exceed what is left of the charge.
 * Standard: up to what is left. Non-duplication: its own payment less what the others paid. Maintenance of benefits: its share
 * of what is left of the allowed amount after what the others paid, its deductible and its copay, which was counted
 * so. Some payers call non-duplication maintenance, so that the steps say what was taken from what. Common practice, no source.
 */
function coordinate(part: PayerPart, coordination: Coordination, before: Before, steps: Steps): void {
  const alone = part.pays;
  if (coordination === 'non-duplication') {
    part.pays = most(ZERO, minus(alone, before.paid));
    if (part.pays !== alone)
      steps.push({
        words: `${part.payer}: non-duplication, ${formatMoneyPlain(alone)} less ${formatMoneyPlain(before.paid)} paid before`,
        amount: part.pays,
      });
  }
  if (part.pays > before.left) {
    part.pays = before.left;
    steps.push({ words: `${part.payer}: no more than what is left of the charge`, amount: before.left });
  }
}
