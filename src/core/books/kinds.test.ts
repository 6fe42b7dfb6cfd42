import { calendarDate } from '../calendar';
import { ZERO, cents } from '../money';
import { ACCOUNT_CLASSES, BOOK_ACCOUNTS, CHARGE_PARTS, accountWords, classOf, partOf } from './accounts';
import { DIMENSIONS, fromColumns, toColumns } from './dimensions';
import { ACCOUNT_CHARGES, accountChargeEntry, chargeEntry, coverageChangeEntry } from './entries/charges';
import { balanced, sumOfClass } from './entry';
import { ENTRY_KINDS, tellEntry } from './kinds';

const day = calendarDate('2026-03-16');
const nothing = {
  date: day,
  payer: 'Cedar',
  memo: 'why',
  undone: false,
  paidByPayer: ZERO,
  paidByPatient: ZERO,
  paidByAgency: cents(0),
  reduced: [],
  expected: ZERO,
  passedOn: [],
  refused: [],
  exception: null,
};

describe('book accounts', () => {
  test('each has a known class and moves a known part, or none', () => {
    for (const { class: its, part } of Object.values(BOOK_ACCOUNTS)) {
      expect(ACCOUNT_CLASSES).toContain(its);
      if (part !== null) expect(CHARGE_PARTS).toContain(part);
    }
  });

  test('interest, late charges and surcharges never count as the fee of a charge', () => {
    for (const account of ['income/interest', 'income/late-charge', 'income/surcharge'] as const)
      expect(partOf(account)).not.toBe('fee');
  });

  test('money of agencies is not payers’ money', () => {
    expect(partOf('credit/agency')).toBe('agency_paid');
  });

  test('a reduction that a practice has added is one', () => {
    expect(classOf('reduction/hardship')).toBe('reduction');
    expect(partOf('reduction/hardship')).toBe('reduced');
    expect(accountWords('reduction/hardship')).toBe('reduction/hardship');
  });
});

describe('kinds of entries', () => {
  test('each has a label, known needs, and sentences that end', () => {
    for (const kind of Object.keys(ENTRY_KINDS) as (keyof typeof ENTRY_KINDS)[]) {
      expect(ENTRY_KINDS[kind].label).toMatch(/^[a-z]/);
      for (const name of ENTRY_KINDS[kind].needs) expect(Object.keys(DIMENSIONS)).toContain(name);
      for (const sentence of tellEntry(kind, nothing, true)) expect(sentence).toMatch(/\.$/);
    }
  });

  test('why we reverse or write off is for us: no sentence for the patient tells it', () => {
    const facts = { ...nothing, memo: 'OUR OWN WORDS', reduced: [{ words: 'x', amount: cents(100) }] };
    for (const kind of ['reversal', 'write-off', 'charge', 'receipt', 'allocation'] as const)
      expect(tellEntry(kind, facts, true).join(' ')).not.toContain('OUR OWN WORDS');
    // Why something is theirs to pay now is what they ask.
    const passed = {
      ...nothing,
      memo: 'not a covered service',
      passedOn: [{ words: 'x', amount: cents(4200) }],
    };
    expect(tellEntry('to-patient', passed, false)).toEqual([
      'On 16 Mar 2026 42.00 passed from Cedar to you: not a covered service.',
    ]);
    expect(tellEntry('to-patient', { ...passed, undone: true }, false)[0]).toContain('taken back later');
  });

  test('an unbilled charge moves between payers and the patient, and nothing else changes', () => {
    const about = { chargeId: 1, householdId: 2, patientId: 3 };
    const cedar = { coverageId: 4, payerId: 5 };
    const north = { coverageId: 6, payerId: 7 };
    for (const [from, to] of [
      [null, cedar],
      [cedar, null],
      [cedar, north],
    ] as const) {
      const entry = coverageChangeEntry({
        businessDate: day,
        memo: 'x',
        amount: cents(14_500),
        about,
        from,
        to,
        tax: { amount: cents(850), from: null, to: null },
      });
      expect(balanced(entry)).not.toBeNull();
      const moved = entry.postings.map((posting) => [
        partOf(posting.account),
        posting.coverageId ?? null,
        posting.amount,
      ]);
      expect(moved).toEqual([
        [from ? 'with_payer' : 'with_patient', from?.coverageId ?? null, -14_500],
        [to ? 'with_payer' : 'with_patient', to?.coverageId ?? null, 14_500],
      ]);
    }
    // Tax goes with a payer that takes it, and comes back to the patient from one that does.
    const taxed = (from: typeof cedar | null, to: typeof cedar | null) =>
      coverageChangeEntry({
        businessDate: day,
        memo: 'x',
        amount: cents(14_500),
        about,
        from: cedar,
        to: north,
        tax: { amount: cents(850), from, to },
      }).postings.slice(2);
    expect(taxed(null, north)).toMatchObject([
      { account: 'receivable/patient', amount: -850 },
      { account: 'receivable/payer', coverageId: 6, amount: 850 },
    ]);
    expect(taxed(cedar, null)).toMatchObject([
      { account: 'receivable/payer', coverageId: 4, amount: -850 },
      { account: 'receivable/patient', amount: 850 },
    ]);
    expect(taxed(cedar, cedar)).toEqual([]);
    const nothingMoved = {
      businessDate: day,
      memo: 'x',
      amount: ZERO,
      about,
      from: null,
      to: cedar,
      tax: { amount: ZERO, from: null, to: null },
    };
    expect(balanced(coverageChangeEntry(nothingMoved))).toBeNull();
  });

  test('what is put on an account stands on its own income and nowhere else', () => {
    for (const kind of Object.keys(ACCOUNT_CHARGES) as (keyof typeof ACCOUNT_CHARGES)[]) {
      const entry = accountChargeEntry({
        kind,
        businessDate: day,
        memo: '',
        amount: cents(197),
        about: { chargeId: 1, householdId: 1 },
      });
      expect(balanced(entry)).not.toBeNull();
      expect(entry.postings.map((posting) => partOf(posting.account))).toEqual([
        'with_patient',
        kind === 'opening' ? 'opened' : 'added',
      ]);
      expect(entry.kind).toBe(ACCOUNT_CHARGES[kind].kind);
    }
  });

  test('tax is owed by the patient and payable, while the fee waits with the payer', () => {
    const entry = chargeEntry({
      businessDate: day,
      memo: '',
      fee: cents(10_000),
      tax: cents(800),
      about: { chargeId: 1, householdId: 1, patientId: 1, providerId: 1 },
      coverage: { coverageId: 1, payerId: 1 },
    });
    expect(entry.postings.map(({ account, amount }) => [account, amount])).toEqual([
      ['receivable/payer', 10_000],
      ['income/fees', -10_000],
      ['receivable/patient', 800],
      ['payable/tax', -800],
    ]);
    expect(sumOfClass(entry.postings, 'payable')).toBe(-800);
  });
});

test('dimensions go to their columns and back, what does not apply as null', () => {
  const about = { householdId: 3, reasonCode: '45' };
  const columns = toColumns(about);
  expect(columns).toMatchObject({ household_id: 3, reason_code: '45', charge_id: null });
  expect(Object.keys(columns)).toHaveLength(Object.keys(DIMENSIONS).length);
  expect(toColumns(fromColumns(columns))).toEqual(columns);
});
