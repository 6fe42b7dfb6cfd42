/**
 * Keyed lines: what is typed explains itself, and says in a file what a payer would have said (the balances of ASC X12N
 * 005010X221A1, 1.10.2; worked examples are common practice, no source).
 */
import fc from 'fast-check';
import { calendarDate } from '../calendar';
import { type Cents, ZERO, cents } from '../money';
import { readRemittances, write835 } from '../x12/remittance835';
import { SAMPLE_INTERCHANGE } from '../x12/samples';
import { claimFaults } from './balance';
import {
  type KeyedLine,
  type KeyedOf,
  NOT_TYPED,
  expectedLine,
  explainLine,
  readReasons,
  remitClaimOf,
  takeLine,
  typedOf,
} from './keyed';

const line = (more: Partial<Record<keyof KeyedLine, unknown>>): KeyedLine =>
  ({
    number: 1,
    allowed: null,
    deductible: ZERO,
    coinsurance: ZERO,
    copay: ZERO,
    paid: ZERO,
    reasons: [],
    remarks: [],
    ...more,
  }) as KeyedLine;
/** A visit of 145.00 under a contract. */
const VISIT = { charge: cents(14500), contracted: true };
const said = (charge: number, typed: KeyedLine) => {
  const { adjustments, left } = explainLine({ charge: cents(charge), contracted: true }, typed);
  return [adjustments.map(({ group, reason, amount }) => `${group}-${reason} ${amount}`).join(', '), left];
};

test('what is above the allowed amount is the contract’s, the patient’s parts are named, and what is left is said', () => {
  const plain = line({ allowed: cents(9800), copay: cents(3000), paid: cents(6800) });
  expect(said(14500, plain)).toEqual(['CO-45 4700, PR-3 3000', 0]);
  expect(said(14500, { ...plain, paid: cents(6700) })).toEqual(['CO-45 4700, PR-3 3000', 100]);
  const split = line({
    allowed: cents(10000),
    deductible: cents(2000),
    coinsurance: cents(1600),
    paid: cents(6400),
  });
  expect(said(10000, split)).toEqual(['PR-1 2000, PR-2 1600', 0]);
});

test('a reason that is typed is no contract beside it: a denial, a part of it, a sequestration, an earlier payer', () => {
  const reason = (group: string, code: string, amount: number) => ({
    group,
    reason: code,
    amount: cents(amount),
  });
  expect(said(14500, line({ allowed: ZERO, reasons: [reason('CO', '97', 14500)] }))).toEqual([
    'CO-97 14500',
    0,
  ]);
  expect(said(14500, line({ reasons: [reason('CO', '16', 14500)] }))).toEqual(['CO-16 14500', 0]);
  expect(
    said(14500, line({ allowed: cents(9800), reasons: [reason('CO', '59', 700)], paid: cents(9800) })),
  ).toEqual(['CO-45 4000, CO-59 700', 0]);
  // What a next payer pays after an earlier one: the earlier word (OA-23), and its own.
  expect(said(14500, line({ reasons: [reason('OA', '23', 11500)], paid: cents(3000) }))).toEqual([
    'OA-23 11500',
    0,
  ]);
  // A reason of the patient’s that has no column of its own.
  expect(said(5000, line({ reasons: [reason('PR', '96', 5000)] }))).toEqual(['PR-96 5000', 0]);
});

test('what Enter takes explains itself; what the terms leave to nobody is taken for paid, and what cannot be is not proposed', () => {
  const part = {
    allowed: cents(9800),
    deductible: ZERO,
    coinsurance: ZERO,
    copay: cents(3000),
    paid: cents(6800),
    reasons: [],
  };
  expect(expectedLine(3, { charge: cents(14500), contracted: true }, part)).toMatchObject({
    number: 3,
    paid: 6800,
    copay: 3000,
  });
  expect(
    expectedLine(1, { charge: cents(14500), contracted: true }, { ...part, paid: cents(6000) }),
  ).toMatchObject({ paid: 6800 });
  expect(expectedLine(1, { charge: cents(2000), contracted: true }, { ...part, allowed: null })).toBeNull();
});

const amount = (most: number) => fc.integer({ min: 0, max: most }).map(cents);
const anyLine = fc
  .record({
    charge: amount(50_000),
    allowed: fc.option(amount(60_000), { nil: null }),
    deductible: amount(9_000),
    coinsurance: amount(9_000),
    copay: amount(9_000),
    reasons: fc.array(
      fc.record({
        group: fc.constantFrom('CO' as const, 'PR' as const, 'OA' as const, 'PI' as const),
        reason: fc.constantFrom('16', '45', '59', '96', '97'),
        amount: fc
          .integer({ min: -5_000, max: 9_000 })
          .filter((value) => value !== 0)
          .map(cents),
      }),
      { maxLength: 3 },
    ),
  })
  .map(({ charge, ...typed }) => ({ charge, typed: line({ ...typed, remarks: ['N130'] }) }));

test('property: a line that explains itself balances, is told to a file and read back as it was; what takes back is its mirror', () => {
  fc.assert(
    fc.property(fc.array(anyLine, { minLength: 1, maxLength: 6 }), (all) => {
      // Paid is what is left: a paper that says otherwise is not taken.
      const keyed = all.flatMap(({ charge, typed }, index) => {
        const { left } = explainLine({ charge, contracted: true }, typed);
        return left < 0 ? [] : [{ charge, typed: { ...typed, number: index + 1, paid: left } }];
      });
      fc.pre(keyed.length > 0);
      for (const { charge, typed } of keyed) {
        const { adjustments, left } = explainLine({ charge, contracted: true }, typed);
        expect(left).toBe(0);
        expect(adjustments.reduce((total, item) => total + item.amount, typed.paid as number)).toBe(charge);
      }
      const ours: KeyedOf[] = keyed.map(({ charge, typed }) => ({
        number: typed.number,
        control: `L${typed.number}`,
        code: '99213',
        modifiers: [],
        units: 1,
        date: calendarDate('2026-03-02'),
        charge,
        contracted: true,
      }));
      for (const status of ['1', '22']) {
        const claim = remitClaimOf(
          {
            controlNumber: 'OL1',
            status,
            payerClaimNumber: 'P9',
            patient: { last: 'A', first: 'B', memberId: 'M1' },
          },
          ours,
          keyed.map(({ typed }) => typed),
        );
        expect(claimFaults(claim)).toEqual([]);
        const sign = status === '22' ? -1 : 1;
        expect(claim.charge).toBe(sign * keyed.reduce((total, { charge }) => total + charge, 0));
        expect(claim.paid + 0).toBe(sign * keyed.reduce((total, { typed }) => total + typed.paid, 0) + 0);
      }
    }),
    { numRuns: 200 },
  );
});

test('what is keyed is read back from a file as it was keyed', async () => {
  const ours: KeyedOf[] = [
    {
      number: 1,
      control: 'L1',
      code: '99213',
      modifiers: ['25'],
      units: 1,
      date: calendarDate('2026-03-02'),
      charge: cents(14500),
      contracted: true,
    },
    {
      number: 2,
      control: 'L2',
      code: '36415',
      modifiers: [],
      units: 2,
      date: calendarDate('2026-03-02'),
      charge: cents(2000),
      contracted: true,
    },
  ];
  const claim = remitClaimOf(
    {
      controlNumber: 'OL1',
      status: '1',
      payerClaimNumber: 'P9',
      patient: { last: 'A', first: 'B', memberId: 'M1' },
    },
    ours,
    [
      line({ number: 1, allowed: cents(9800), copay: cents(3000), paid: cents(6800), remarks: ['N130'] }),
      line({ number: 2, reasons: [{ group: 'CO', reason: '97', amount: cents(2000) }] }),
    ],
  );
  const text = write835(
    SAMPLE_INTERCHANGE,
    [
      {
        handling: 'I',
        payment: 6800 as Cents,
        creditDebit: 'C',
        method: 'CHK',
        date: calendarDate('2026-03-10'),
        trace: 'T1',
        originator: '1999',
        payer: { name: 'Cedar', id: 'CSH01' },
        payee: { name: 'Osprey', npi: '1234567018', taxId: '' },
        claims: [claim],
        providerAdjustments: [],
      },
    ],
    '20260310',
  );
  const [read] = await readRemittances([text]);
  expect(read!.claims).toEqual([{ ...claim, date: read!.claims[0]!.date }]);
});

test('reasons and remarks are typed as they stand on paper', () => {
  expect(readReasons('co-97 12.00, PR96 3.5 n130 MA01')).toEqual({
    reasons: [
      { group: 'CO', reason: '97', amount: 1200 },
      { group: 'PR', reason: '96', amount: 350 },
    ],
    remarks: ['N130', 'MA01'],
  });
  expect(readReasons('CO-B7 -5.00')).toMatchObject({ reasons: [{ reason: 'B7', amount: -500 }] });
  expect(readReasons('CO-OWN1 5')).toMatchObject({ reasons: [{ group: 'CO', reason: 'OWN1', amount: 500 }] });
  expect(readReasons('COPAY 30')).toContain('“COPAY” is neither a reason');
  expect(readReasons('')).toEqual({ reasons: [], remarks: [] });
  expect(readReasons('CO-97')).toBe('CO-97 needs its amount');
  expect(readReasons('XX-1 5')).toContain('“XX-1” is neither a reason');
});

test('Enter takes what is expected; only what differs is typed, and what does not add up is said', () => {
  const expected = line({ allowed: cents(9800), copay: cents(3000), paid: cents(6800) });
  const take = (typed: Partial<typeof NOT_TYPED>) => takeLine(1, VISIT, { ...NOT_TYPED, ...typed }, expected);
  expect(take({})).toBe(expected);
  // Another copay: the contract stands, and what is paid follows.
  expect(take({ copay: '20' })).toMatchObject({ allowed: 9800, copay: 2000, paid: 7800 });
  // Another allowed amount: nothing of the parts is taken for granted.
  expect(take({ allowed: '90.00' })).toMatchObject({ allowed: 9000, copay: 0, paid: 9000 });
  expect(take({ allowed: '90.00', coinsurance: '18.00' })).toMatchObject({ coinsurance: 1800, paid: 7200 });
  // A denied line: the reason alone.
  expect(take({ reasons: 'CO-97 145.00' })).toMatchObject({ allowed: null, copay: 0, paid: 0 });
  expect(take({ paid: '68.00' })).toMatchObject({ paid: 6800 });
  expect(take({ paid: '67.00' })).toBe('1.00 is not explained: the charge less what is taken off is 68.00');
  expect(take({ paid: '69.00' })).toBe('1.00 is explained twice: the charge less what is taken off is 68.00');
  expect(take({ reasons: 'CO-97 146.00' })).toBe('What is taken off is 1.00 more than the charge');
  expect(take({ copay: 'thirty' })).toBe('copay “thirty” is no amount');
  expect(takeLine(1, VISIT, NOT_TYPED, null)).toContain('Nothing is expected');
  // What was keyed is typed over as it stands.
  const kept = take({ reasons: 'CO-97 45.00 N130', deductible: '20.00' }) as KeyedLine;
  expect(takeLine(1, VISIT, typedOf(kept), null)).toEqual(kept);
});

test('without a contract what is above the allowed amount is nobody’s until the paper says whose', () => {
  const without = { ...VISIT, contracted: false };
  const allowed = { ...NOT_TYPED, allowed: '116.00' };
  // Nothing is taken off by itself: all of the charge is paid, or it is said what is not.
  expect(takeLine(1, without, { ...allowed, paid: '116.00' }, null)).toBe(
    '29.00 is not explained: the charge less what is taken off is 145.00',
  );
  expect(takeLine(1, without, { ...allowed, paid: '116.00', reasons: 'PR-45 29.00' }, null)).toMatchObject({
    paid: 11600,
    reasons: [{ group: 'PR', reason: '45', amount: 2900 }],
  });
  expect(takeLine(1, VISIT, { ...allowed, paid: '116.00' }, null)).toMatchObject({ paid: 11600 });
});
