/**
 * A second, independent ledger of one household: plain amounts by charge, by day and by whose money it is, with nothing of the
 * program's. It is told what happened, works out for itself where every cent is, and is held against the books after each step.
 * Rules: what practices commonly do, no source; what is owed and past due as the product's own rules say it.
 */

/** Whole cents. */
type Money = number;
/** A day as a number, so that days are counted by subtraction. */
type Day = number;

/** Where a charge's cents are. */
export interface Now {
  payer: Money;
  patient: Money;
  plan: Money;
  agency: Money;
  reduced: Money;
  paidByPayer: Money;
  paidByPatient: Money;
}

interface Charge extends Now {
  id: number;
  /** The day of the service, by which what is oldest is found. */
  day: Day;
  /** Whose statement it stands on: a patient’s with an address apart, or the household’s. */
  part: string;
  /** What of it is owed by patient, plan and agency together, by the day on which each part became the patient’s; oldest first. */
  layers: Layer[];
  /** What statements asked for of it, and what credit stood against; `at` in the order of what happened. */
  stated: { at: number; on: Day; due: Day; asked: Money; credit: Money }[];
  /** What came off what stands with the patient, as it happened. */
  off: { at: number; amount: Money }[];
  /** Interest of a plan, which is paid before the rest of it. */
  interest: boolean;
  /** Given up as bad debt and not recovered. */
  givenUp: Money;
  /** Taken off as a small balance. */
  small: Money;
  /** What waited with the payer and we took off, or passed to the patient, ourselves. */
  ours: Money;
  /** What waits for the payer’s new word, since it took its own back: where it was, and whether a statement has said it gone. */
  held: { patient: Money; plan: Money; agency: Money; layers: Layer[]; gone: boolean } | null;
  /** May not be billed to the patient, whoever passed it on. */
  forbidden: boolean;
}

/** A part of a debt and its day. */
interface Layer {
  since: Day;
  amount: Money;
}

/** A part of a receipt that pays a charge, and what it paid of it. */
interface Piece {
  at: number;
  charge: Charge;
  of: 'patient' | 'plan' | 'agency' | 'givenUp';
  amount: Money;
  /** Of which days it was. */
  took: Layer[];
  /** The tender that paid it; null where credit did. */
  tender: string | null;
}
interface Receipt {
  id: number;
  /** How it came, by tender. */
  tenders: Record<string, Money>;
  left: Money;
  pieces: Piece[];
  reversed: boolean;
  /** It is kept for a visit to come. */
  reserved: boolean;
  /** What of it was given back. */
  back: Money;
}

/** Age of a debt in days: the last day of each bucket but the last. */
const BUCKETS = [30, 60, 90, 120];

/** A part becomes the patient's on a day. */
function raise(charge: Charge, since: Day, amount: Money): void {
  if (amount > 0) charge.layers = [...charge.layers, { since, amount }].sort((a, b) => a.since - b.since);
}

/** What comes off takes what is oldest. */
function lower(charge: Charge, amount: Money): Layer[] {
  const took: Layer[] = [];
  let left = amount;
  charge.layers = charge.layers.flatMap((layer) => {
    const part = Math.min(left, layer.amount);
    left -= part;
    if (part > 0) took.push({ since: layer.since, amount: part });
    return part < layer.amount ? [{ since: layer.since, amount: layer.amount - part }] : [];
  });
  return took;
}

/** What stands with the patient by its days: the newest, for plans and agencies took the oldest. */
function withPatient(charge: Charge): Layer[] {
  let left = Math.max(0, charge.patient);
  return [...charge.layers].reverse().flatMap(({ since, amount }) => {
    const part = Math.min(left, amount);
    left -= part;
    return part > 0 ? [{ since, amount: part }] : [];
  });
}

/** The ledger of one household. */
export class SecondLedger {
  readonly charges: Charge[] = [];
  readonly receipts: Receipt[] = [];
  readonly cash: Record<string, Money> = {};
  /** What agencies are owed as their fee: a quarter of what came to the desk for what they have. */
  feeOwed: Money = 0;

  constructor(
    /** Days after its due day within which a statement is not past due. */
    private readonly grace: number,
  ) {}
  private at = 0;

  /** A charge, at a payer where the patient is covered; what is put on the account is the patient’s. */
  charge(id: number, day: Day, fee: Money, covered: boolean, part = ''): void {
    this.charges.push({
      id,
      day,
      part,
      layers: covered ? [] : [{ since: day, amount: fee }],
      payer: covered ? fee : 0,
      patient: covered ? 0 : fee,
      plan: 0,
      agency: 0,
      reduced: 0,
      paidByPayer: 0,
      paidByPatient: 0,
      stated: [],
      off: [],
      interest: false,
      givenUp: 0,
      small: 0,
      ours: 0,
      held: null,
      forbidden: false,
    });
  }

  /**
   * What a payer decided of a charge that waits with it: paid, taken off (CO, PI, CR), the patient’s (PR); what OA leaves stays.
   * Nothing paid and nothing passed on is a denial, which moves nothing until a person settles it. Where another payer is next, what
   * would be the patient's is with that one.
   */
  decide(id: number, day: Day, said: { paid: Money; off: Money; patient: Money }, next = false): void {
    const charge = this.of(id);
    if (said.paid === 0 && said.patient === 0) return;
    charge.payer -= said.paid + said.off + (next ? 0 : said.patient);
    charge.paidByPayer += said.paid;
    charge.reduced += said.off;
    if (!next && charge.forbidden) charge.reduced += said.patient;
    else if (!next) {
      charge.patient += said.patient;
      raise(charge, day, said.patient);
    }
    this.money('transfer', said.paid);
  }

  /**
   * A payer's later word on a charge: on its own side in full, in place of the word before and of what we had settled ourselves;
   * on the patient's side by the difference. Less comes off what stands unpaid with the patient, then the plan, then the agency,
   * then what was given up; what was paid becomes credit. More is the patient's of that day.
   */
  word(id: number, day: Day, said: { paid: Money; off: Money; patient: Money }): void {
    const charge = this.of(id);
    if (charge.held) this.goOn(charge, day, said.patient);
    this.money('transfer', said.paid - charge.paidByPayer);
    const given = charge.givenUp + charge.small;
    const owedBefore = charge.patient + charge.plan + charge.agency + given + charge.paidByPatient;
    const off = charge.reduced - given;
    charge.payer += charge.paidByPayer + off + owedBefore - said.paid - said.off - said.patient;
    charge.paidByPayer = said.paid;
    charge.reduced += said.off - off;
    charge.ours = 0;
    let less = owedBefore - said.patient;
    if (less < 0) {
      charge.patient -= less;
      raise(charge, day, -less);
    }
    for (const place of ['patient', 'plan', 'agency', 'givenUp', 'small'] as const) {
      const part = Math.min(Math.max(less, 0), charge[place]);
      charge[place] -= part;
      if (place === 'givenUp' || place === 'small') charge.reduced -= part;
      else lower(charge, part);
      less -= part;
    }
    for (const receipt of [...this.receipts].reverse())
      for (const piece of [...receipt.pieces].reverse().filter((one) => one.charge === charge)) {
        const part = Math.min(Math.max(less, 0), piece.amount);
        piece.amount -= part;
        charge.paidByPatient -= part;
        receipt.left += part;
        less -= part;
      }
  }

  /** The payer takes its word back and has not said the new one: what was the patient's waits, in its places; what was paid stays. */
  takeBack(id: number): void {
    const charge = this.of(id);
    this.money('transfer', -charge.paidByPayer);
    const { patient, plan, agency, layers, paidByPatient } = charge;
    const given = charge.givenUp + charge.small;
    charge.payer +=
      charge.paidByPayer + (charge.reduced - given) + patient + plan + agency + given + paidByPatient;
    charge.paidByPayer = 0;
    charge.reduced = given;
    charge.held = { patient, plan, agency, layers, gone: false };
    Object.assign(charge, { patient: 0 - given - paidByPatient, plan: 0, agency: 0, layers: [] });
  }

  /** What was held is there again, for the new word to change it. Gone by a statement, it is of that day. */
  private goOn(charge: Charge, day: Day, said: Money): void {
    const { patient, plan, agency, layers, gone } = charge.held!;
    charge.held = null;
    charge.payer -= patient + plan + agency + charge.givenUp + charge.small + charge.paidByPatient;
    Object.assign(charge, { patient, plan, agency, layers });
    if (!gone) return;
    const open = patient + plan + agency;
    charge.layers = open > 0 ? [{ since: day, amount: open }] : [];
    if (said > 0) charge.stated = [];
  }

  /** Coverage is over: what nobody was billed for is the patient's from that day. */
  uncover(day: Day): void {
    for (const charge of this.charges.filter(({ payer }) => payer > 0)) {
      charge.patient += charge.payer;
      raise(charge, day, charge.payer);
      charge.payer = 0;
    }
  }

  /** What waits with a payer is taken off, or passed to the patient of that day, by decision. */
  settle(id: number, day: Day, to: 'off' | 'patient'): void {
    const charge = this.of(id);
    charge.ours += charge.payer;
    if (to === 'off') charge.reduced += charge.payer;
    else {
      charge.patient += charge.payer;
      raise(charge, day, charge.payer);
    }
    charge.payer = 0;
  }

  /** A receipt: to the plan or to what the agency has where that is said, else to what is owed, oldest first; the rest is credit. */
  receipt(
    id: number,
    tenders: Record<string, Money>,
    to: 'patient' | 'plan' | 'agency' | 'visit' = 'patient',
  ): void {
    const amount = Object.values(tenders).reduce((all, one) => all + one, 0);
    const receipt: Receipt = {
      id,
      tenders,
      left: amount,
      pieces: [],
      reversed: false,
      reserved: to === 'visit',
      back: 0,
    };
    // What credit does not stand against is paid first, each oldest first.
    const asked = this.asked();
    this.receipts.push(receipt);
    for (const [tender, part] of Object.entries(tenders)) this.money(tender, part);
    if (to === 'visit') return;
    if (to === 'patient')
      for (const { charge, left } of asked) this.pay(receipt, 'patient', { charge, most: left });
    this.pay(receipt, to);
    this.deal(receipt);
    if (to === 'agency') this.feeOwed += Math.round(amount / 4);
  }

  /** What was kept for visits to come is credit as any other. */
  free(): void {
    for (const receipt of this.receipts) receipt.reserved = false;
  }

  /** A part of what is left of a receipt goes back by the tender that it came with. */
  giveBack(id: number, tender: string, amount: Money): void {
    const receipt = this.receipts.find((one) => one.id === id)!;
    receipt.left -= amount;
    receipt.back += amount;
    this.money(tender, -amount);
  }

  /** Credit pays what is owed, the oldest receipt first; the household’s pays nothing that is kept apart. */
  spend(): void {
    for (const receipt of this.held()) this.pay(receipt, 'patient', { part: '' });
  }

  /** Credit pays what was given up. */
  recover(): void {
    for (const receipt of this.held()) this.pay(receipt, 'givenUp');
  }

  /** A receipt that never was: every charge owes again what it paid, where it stood. */
  reverse(id: number): void {
    const receipt = this.receipts.find((one) => one.id === id)!;
    this.undo(receipt.pieces);
    for (const [tender, amount] of Object.entries(receipt.tenders)) this.money(tender, -amount);
    Object.assign(receipt, { left: 0, pieces: [], reversed: true, reserved: false });
  }

  /**
   * One tender of a receipt comes back: what it paid is owed again, where it stood; then what credit paid, the newest first, until
   * none is missing.
   */
  comesBack(id: number, tender: string): void {
    const receipt = this.receipts.find((one) => one.id === id)!;
    const gone = receipt.tenders[tender]!;
    const own = receipt.pieces.filter((piece) => piece.tender === tender);
    const { [tender]: _, ...others } = receipt.tenders;
    receipt.tenders = others;
    receipt.left -= gone - own.reduce((all, { amount }) => all + amount, 0);
    const back = [...own];
    for (const piece of receipt.pieces.filter((one) => one.tender === null).reverse()) {
      if (receipt.left >= 0) break;
      receipt.left += piece.amount;
      back.push(piece);
    }
    this.undo(back);
    receipt.pieces = receipt.pieces.filter((piece) => !back.includes(piece));
    this.money(tender, -gone);
  }

  /** What was paid is owed again, where it stood. */
  private undo(pieces: readonly Piece[]): void {
    for (const { at, charge, of, amount, took } of pieces) {
      charge.paidByPatient -= amount;
      for (const { since, amount: back } of took) raise(charge, since, back);
      charge.off = charge.off.filter((one) => one.at !== at);
      if (of === 'givenUp') {
        charge.givenUp += amount;
        charge.reduced += amount;
      } else charge[of] += amount;
    }
    this.forbid(pieces.filter(({ charge }) => charge.forbidden).map(({ charge }) => charge.id));
  }

  /** Deals what a receipt has paid to its tenders, one after the other. */
  private deal(receipt: Receipt): void {
    const left = { ...receipt.tenders };
    receipt.pieces = receipt.pieces.flatMap((piece) => {
      const parts: Piece[] = [];
      const days = { layers: [...piece.took] } as Charge;
      let rest = piece.amount;
      for (const tender of Object.keys(left)) {
        const amount = Math.min(rest, left[tender]!);
        if (amount <= 0) continue;
        left[tender]! -= amount;
        rest -= amount;
        const at = parts.length === 0 ? piece.at : (this.at += 1);
        const took = piece.of === 'givenUp' ? [] : lower(days, amount);
        parts.push({ ...piece, at, amount, took, tender });
      }
      const off = piece.charge.off.findIndex((one) => one.at === piece.at);
      if (off >= 0) piece.charge.off.splice(off, 1, ...parts.map(({ at, amount }) => ({ at, amount })));
      return parts;
    });
  }

  /** What the patient owes beyond credit goes onto a payment plan, but what goes to an address apart. */
  agree(): void {
    for (const { charge, left } of this.asked()) {
      if (charge.part !== '') continue;
      charge.plan += left;
      charge.patient -= left;
    }
  }

  /** Interest of a month on what is open on the plan, interest not counted: a charge of its own on the plan. Rate in basis points. */
  interest(id: number, day: Day, rate: number): void {
    const principal = this.charges.reduce((all, { plan, interest }) => all + (interest ? 0 : plan), 0);
    const amount = Math.round((principal * rate) / 10_000 / 12);
    if (amount === 0) return;
    this.charge(id, day, amount, false);
    Object.assign(this.of(id), { patient: 0, plan: amount, interest: true });
  }

  /** What is past due goes to an agency, but what goes to an address apart. */
  place(today: Day): void {
    for (const { charge, amount } of this.late('', today)) {
      charge.agency += amount;
      charge.patient -= amount;
    }
  }

  /** What is open of it comes back. */
  back(from: 'plan' | 'agency'): void {
    for (const charge of this.charges) {
      charge.patient += charge[from];
      charge[from] = 0;
      if (!charge.held) continue;
      charge.held.patient += charge.held[from];
      charge.held[from] = 0;
    }
  }

  /** What an agency collected pays what it has, oldest first; its fee is kept back. */
  collected(gross: Money, fee: Money): void {
    this.money('transfer', gross - fee);
    let left = gross;
    for (const charge of this.oldest()) {
      const part = Math.min(left, charge.agency);
      charge.agency -= part;
      lower(charge, part);
      charge.paidByPatient += part;
      left -= part;
    }
  }

  /**
   * A charge that was another person's is out of the books, and in them anew for that one, owed since that day: what had paid it
   * pays it there.
   */
  move(id: number, to: number, today: Day): void {
    const old = this.of(id);
    const fee = old.patient + old.paidByPatient;
    this.charge(to, old.day, fee, false, old.part);
    const moved = this.of(to);
    moved.layers = [{ since: today, amount: fee }];
    for (const receipt of this.receipts) {
      const pieces = receipt.pieces.filter(({ charge }) => charge === old);
      const amount = pieces.reduce((all, piece) => all + piece.amount, 0);
      receipt.pieces = receipt.pieces.filter(({ charge }) => charge !== old);
      receipt.left += amount;
      if (amount > 0) this.pay(receipt, 'patient', { charge: moved, most: amount });
    }
    Object.assign(old, { patient: 0, paidByPatient: 0, layers: [], stated: [], off: [] });
  }

  /** What the patient owes beyond credit is given up: as bad debt, which may be recovered, or as a small balance. */
  giveUp(as: 'bad debt' | 'small balance'): void {
    for (const { charge, left } of this.asked()) {
      charge.reduced += left;
      if (as === 'bad debt') charge.givenUp += left;
      else charge.small += left;
      charge.patient -= left;
      lower(charge, left);
      charge.off.push({ at: (this.at += 1), amount: left });
    }
  }

  /** Charges that the law or the contract keeps from the patient: what stands there is taken off, and what comes there. */
  forbid(ids: readonly number[]): void {
    for (const charge of ids.map((id) => this.of(id))) {
      charge.forbidden = true;
      charge.reduced += charge.patient;
      lower(charge, charge.patient);
      charge.patient = 0;
    }
  }

  /** A statement shows what is owed on it, and asks for what credit does not cover. */
  state(part: string, on: Day, due: Day): void {
    for (const charge of this.charges)
      if (charge.part === part && charge.held && charge.patient <= 0) charge.held.gone = true;
    for (const { charge, left, credit } of this.asked())
      if (charge.part === part) charge.stated.push({ at: (this.at += 1), on, due, asked: left, credit });
  }

  /** Money held and not applied. */
  get credit(): Money {
    return this.receipts.reduce((all, { left, reserved }) => all + (reserved ? 0 : left), 0);
  }

  /** Money kept for visits to come. */
  get reserved(): Money {
    return this.receipts.reduce((all, { left, reserved }) => all + (reserved ? left : 0), 0);
  }

  /** What the statement of a part asks for: what is owed less the household’s credit, which is the household’s alone. */
  due(part: string): Money {
    const owed = this.owed()
      .filter((charge) => charge.part === part)
      .reduce((all, charge) => all + charge.patient, 0);
    return owed - (part === '' ? this.credit : 0);
  }

  /** What is owed by age in days, five buckets. */
  aging(today: Day): Money[] {
    const buckets = [0, 0, 0, 0, 0];
    for (const charge of this.charges) {
      // What is below zero has no age.
      if (charge.patient < 0) buckets[0]! += charge.patient;
      for (const { since, amount } of withPatient(charge)) {
        const at = BUCKETS.findIndex((last) => today - since <= last);
        buckets[at === -1 ? 4 : at]! += amount;
      }
    }
    return buckets;
  }

  /** What was stated and not paid when it was due, less the household’s credit, oldest first. */
  pastDue(part: string, today: Day): Money {
    return this.late(part, today).reduce((all, { amount }) => all + amount, 0);
  }

  /** Of each charge what a statement asked for whose due day is over, less what came off since, at most what is left of it. */
  private late(part: string, today: Day): { charge: Charge; amount: Money }[] {
    return this.asked().flatMap(({ charge, left, credit }) => {
      if (charge.part !== part) return [];
      const open = charge.stated
        .filter(({ due }) => today > due + this.grace)
        .map((said) => {
          const since = charge.off.reduce((all, { at, amount }) => all + (at > said.at ? amount : 0), 0);
          const there = withPatient(charge).reduce(
            (all, one) => all + (one.since <= said.on ? one.amount : 0),
            0,
          );
          return Math.min(there - credit, said.asked - Math.max(0, since + credit - said.credit));
        });
      const amount = Math.min(left, Math.max(0, ...open));
      return amount > 0 ? [{ charge, amount }] : [];
    });
  }

  /** What is left of each charge once the household’s credit, oldest first, is spent. */
  private asked(): { charge: Charge; left: Money; credit: Money }[] {
    let free = this.credit;
    return this.owed().map((charge) => {
      const credit = charge.part === '' ? Math.min(free, charge.patient) : 0;
      free -= credit;
      return { charge, left: charge.patient - credit, credit };
    });
  }

  /** A charge by its number. */
  of(id: number): Charge {
    return this.charges.find((charge) => charge.id === id)!;
  }

  private oldest(): Charge[] {
    return [...this.charges].sort((a, b) => a.day - b.day || a.id - b.id);
  }
  private owed(): Charge[] {
    return this.oldest().filter((charge) => charge.patient > 0 && !charge.forbidden);
  }
  private held(): Receipt[] {
    return this.receipts.filter((receipt) => receipt.left > 0 && !receipt.reserved);
  }
  private money(tender: string, amount: Money): void {
    this.cash[tender] = (this.cash[tender] ?? 0) + amount;
  }
  private pay(
    receipt: Receipt,
    of: Piece['of'],
    only: { part?: string; charge?: Charge; most?: Money } = {},
  ): void {
    const first = (of === 'patient' ? this.owed() : this.oldest()).filter(
      (charge) =>
        (only.part === undefined || charge.part === only.part) && (!only.charge || charge === only.charge),
    );
    if (of === 'plan') first.sort((a, b) => Number(b.interest) - Number(a.interest));
    for (const charge of first) {
      const amount = Math.min(receipt.left, charge[of], only.most ?? Infinity);
      if (amount <= 0) continue;
      const took = of === 'givenUp' ? [] : lower(charge, amount);
      charge[of] -= amount;
      if (of === 'givenUp') charge.reduced -= amount;
      charge.paidByPatient += amount;
      receipt.left -= amount;
      const at = (this.at += 1);
      if (of === 'patient') charge.off.push({ at, amount });
      receipt.pieces.push({ at, charge, of, amount, took, tender: null });
    }
  }
}
