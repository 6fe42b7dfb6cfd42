import fc from 'fast-check';
import { calendarDate } from '../calendar';
import { ACCOUNT_CLASSES } from './accounts';
import { ZERO, cents, sum } from '../money';
import { chargeEntry } from './entries/charges';
import { allocationEntry, receiptEntry } from './entries/patients';
import { payerCreditEntry, payerDecisionEntry } from './entries/payers';
import { UnbalancedEntry, balanced, reversalEntry, sumOfClass } from './entry';
import { adds, stripParts } from './strip';

const day = calendarDate('2026-03-16');
const about = {
  chargeId: 1,
  householdId: 1,
  patientId: 1,
  providerId: 1,
  coverageId: 1,
  payerId: 1,
  claimId: 1,
  remittanceId: 1,
};
const money = fc.integer({ min: -90_000, max: 90_000 }).map((n) => cents(n));

describe('entries', () => {
  test('whatever a payer decides, the entry balances and moves exactly what was said', () => {
    const adjustment = fc.record({
      group: fc.constantFrom('CO', 'PR', 'OA'),
      reason: fc.constantFrom('45', '1', '23'),
      amount: money,
      movement: fc.constantFrom('reduce', 'pass-on', 'stay') as fc.Arbitrary<'stay'>,
      reductionAccount: fc.constant('reduction/contract' as const),
    });
    fc.assert(
      fc.property(money, fc.array(adjustment, { maxLength: 6 }), fc.boolean(), (paid, adjustments, next) => {
        const draft = payerDecisionEntry({
          businessDate: day,
          memo: '',
          key: 'k',
          about,
          cashAccount: 'cash/transfer',
          paid,
          adjustments,
          next: next ? { coverageId: 2, payerId: 2 } : null,
        });
        expect(sum(draft.postings.map((posting) => posting.amount))).toBe(0);
        balanced(draft);
        const of = (movement: string) =>
          sum(
            adjustments.filter((item) => (item.movement as string) === movement).map((item) => item.amount),
          );
        expect(sumOfClass(draft.postings, 'cash')).toBe(paid);
        expect(sumOfClass(draft.postings, 'reduction')).toBe(of('reduce'));
        const patients = draft.postings.filter((posting) => posting.account === 'receivable/patient');
        expect(sum(patients.map((posting) => posting.amount))).toBe(next ? 0 : of('pass-on'));
        expect(
          sum(draft.postings.filter((posting) => posting.coverageId === 2).map((posting) => posting.amount)),
        ).toBe(next ? of('pass-on') : 0);
      }),
    );
  });

  test('an entry that does not balance, as a whole or for one charge, is refused; an empty one is left out', () => {
    const postings = [
      { account: 'cash/cash' as const, amount: cents(5) },
      { account: 'credit/patient' as const, amount: cents(-5), chargeId: 1 },
    ];
    expect(() => balanced({ kind: 'receipt', businessDate: day, memo: '', postings })).toThrow(
      UnbalancedEntry,
    );
    expect(
      balanced({
        kind: 'receipt',
        businessDate: day,
        memo: '',
        postings: [{ account: 'cash/cash', amount: cents(0) }],
      }),
    ).toBeNull();
  });

  test('an entry that balances keeps what it says, without its postings of nothing', () => {
    const draft = {
      kind: 'receipt' as const,
      businessDate: day,
      memo: 'as it was',
      key: 'tender:1',
      postings: [
        { account: 'cash/cash' as const, amount: cents(5) },
        { account: 'credit/patient' as const, amount: cents(-5) },
        { account: 'credit/patient' as const, amount: cents(0) },
      ],
    };
    expect(balanced(draft)).toEqual({ ...draft, postings: draft.postings.slice(0, 2) });
    // What is on one charge does not make up for what is on another, nor for what is on none.
    const off = [
      { account: 'receivable/patient' as const, amount: cents(5), chargeId: 1 },
      { account: 'credit/patient' as const, amount: cents(-5), chargeId: 2 },
    ];
    expect(() => balanced({ ...draft, postings: off })).toThrow(UnbalancedEntry);
  });

  test('what a payer reduces, passes on and leaves open each keeps its reason', () => {
    const adjust = (group: string, movement: 'reduce' | 'pass-on' | 'stay') => ({
      group,
      reason: '45',
      amount: cents(100),
      movement,
      reductionAccount: 'reduction/contract' as const,
    });
    const { postings } = payerDecisionEntry({
      businessDate: day,
      memo: '',
      key: 'k',
      about,
      cashAccount: 'cash/check',
      paid: ZERO,
      adjustments: [adjust('CO', 'reduce'), adjust('PR', 'pass-on'), adjust('OA', 'stay')],
      next: null,
    });
    const said = postings
      .filter(({ amount }) => amount !== 0)
      .map(({ account, amount, reasonGroup }) => [account, amount, reasonGroup ?? '']);
    expect(said).toEqual([
      ['reduction/contract', 100, 'CO'],
      ['receivable/payer', -100, 'CO'],
      ['receivable/patient', 100, 'PR'],
      ['receivable/payer', -100, 'PR'],
      ['receivable/payer', -100, 'OA'],
      ['receivable/payer', 100, ''],
    ]);
  });

  test('a receipt is cash and credit, payer money is cash and what it stands against', () => {
    const lines = (postings: readonly { account: string; amount: number }[]) =>
      postings.map(({ account, amount }) => [account, amount]);
    expect(
      lines(
        receiptEntry({
          businessDate: day,
          memo: '',
          about: { householdId: 1, receiptId: 1 },
          cash: { account: 'cash/check', tenderId: 1, placeId: 1 },
          amount: cents(500),
        }).postings,
      ),
    ).toEqual([
      ['cash/check', 500],
      ['credit/patient', -500],
    ]);
    expect(
      lines(
        payerCreditEntry({
          kind: 'payer-credit',
          businessDate: day,
          memo: '',
          key: 'k',
          about: { payerId: 1, remittanceId: 1 },
          cashAccount: 'cash/transfer',
          against: 'credit/payer',
          amount: cents(700),
        }).postings,
      ),
    ).toEqual([
      ['cash/transfer', 700],
      ['credit/payer', -700],
    ]);
  });

  test('a reversal undoes every posting', () => {
    for (const draft of [
      chargeEntry({ businessDate: day, memo: '', fee: cents(500), about, coverage: null }),
      receiptEntry({
        businessDate: day,
        memo: '',
        about: { householdId: 1, receiptId: 1 },
        cash: { account: 'cash/check', tenderId: 1, placeId: 1 },
        amount: cents(500),
      }),
      allocationEntry({
        businessDate: day,
        memo: '',
        about: { householdId: 1, receiptId: 1, chargeId: 1 },
        amount: cents(500),
      }),
    ]) {
      const back = reversalEntry({ id: 1, postings: draft.postings }, day, 'why');
      for (const wanted of ACCOUNT_CLASSES)
        expect(sumOfClass([...draft.postings, ...back.postings], wanted)).toBe(0);
      expect(back.reverses).toBe(1);
    }
  });
});

describe('fee strip', () => {
  test('its parts are the fee', () => {
    const totals = {
      fee: cents(14500),
      tax: ZERO,
      added: ZERO,
      opened: ZERO,
      agencyPaid: ZERO,
      payerPaid: cents(6800),
      patientPaid: cents(1000),
      reduced: cents(4700),
      expected: ZERO,
      withPayer: cents(0),
      withPatient: cents(2000),
      onPlan: cents(0),
      atAgency: cents(0),
    };
    expect(adds(totals)).toBe(true);
    expect(sum(stripParts(totals).map((part) => part.amount))).toBe(14500);
    // 68.00, 10.00, 47.00 and 20.00 of 145.00, in parts per thousand.
    expect(stripParts(totals).map(({ permille }) => permille)).toEqual([469, 69, 324, 138]);
    expect(adds({ ...totals, withPatient: cents(2001) })).toBe(false);
    expect(stripParts(totals).map((part) => part.part)).toEqual([
      'payerPaid',
      'patientPaid',
      'reduced',
      'withPatient',
    ]);
    expect(
      stripParts({
        ...totals,
        payerPaid: ZERO,
        patientPaid: ZERO,
        reduced: ZERO,
        expected: ZERO,
        withPatient: ZERO,
      }),
    ).toEqual([]);
  });
});
