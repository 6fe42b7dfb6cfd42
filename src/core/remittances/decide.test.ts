import fc from 'fast-check';
import { cents, sum } from '../money';
import { sampleRemitClaim } from '../x12/samples';
import type { RemitClaim, RemitLine } from '../x12/remittance835';
import { type LineDecision, type OurLine, type ReasonTable, decideClaim, movementOf } from './decide';

const reasons: ReasonTable = (group, reason) => {
  const denial = ['97', '16', '27'].includes(reason);
  if (reason === '999') return null;
  return {
    reductionAccount: group === 'PI' ? 'reduction/payer' : 'reduction/contract',
    denial,
    followUp: denial ? 'while-money' : reason === '223' ? 'always' : 'never',
    words: `reason ${reason}`,
  };
};

const ours = (...charges: number[]): OurLine[] =>
  charges.map((charge, index) => ({
    chargeId: index + 1,
    control: `L${index + 1}`,
    code: '99213',
    charge: cents(charge),
    expectedAllowed: null,
  }));

const line = (
  control: string,
  charge: number,
  paid: number,
  adjustments: [string, string, number][],
  code = '99213',
): RemitLine => ({
  code,
  modifiers: [],
  charge: cents(charge),
  paid: cents(paid),
  units: 1,
  date: null,
  adjustments: adjustments.map(([group, reason, amount]) => ({
    group: group as 'CO',
    reason,
    amount: cents(amount),
  })),
  lineControl: control,
  allowed: null,
  remarks: [],
});

const claim = (lines: RemitLine[], more: Partial<RemitClaim> = {}): RemitClaim => ({
  ...sampleRemitClaim('OL1'),
  charge: sum(lines.map((item) => item.charge)),
  paid: sum(lines.map((item) => item.paid)),
  lines,
  ...more,
});

const decide = (remit: RemitClaim, lines: OurLine[]): LineDecision[] => {
  const found = decideClaim(remit, lines, reasons);
  if (!Array.isArray(found)) throw new Error(found.words);
  return found;
};

describe('how an adjustment moves money', () => {
  test.each([
    ['CO', '45', 'reduce'],
    ['PI', '45', 'reduce'],
    ['PR', '1', 'pass-on'],
    ['PR', '27', 'pass-on'],
    ['OA', '23', 'stay'],
    ['CR', '223', 'stay'],
    ['CO', '97', 'stay'],
    ['PI', '16', 'stay'],
    ['CO', '999', 'reduce'],
  ] as const)('%s-%s: %s', (group, reason, movement) => {
    expect(movementOf({ group, reason, amount: cents(1) }, reasons(group, reason)).movement).toBe(movement);
  });

  test('PI without a rule goes to the payer’s reductions', () => {
    expect(movementOf({ group: 'PI', reason: '999', amount: cents(1) }, null).reductionAccount).toBe(
      'reduction/payer',
    );
  });
});

describe('deciding a claim', () => {
  test('lines are matched by control number even when they come in another order', () => {
    const found = decide(
      claim([line('L2', 5000, 100, [['CO', '45', 4900]]), line('L1', 9000, 200, [['CO', '45', 8800]])]),
      ours(9000, 5000),
    );
    expect(found.find((item) => item.chargeId === 1)!.paid).toBe(200);
    expect(found.find((item) => item.chargeId === 2)!.paid).toBe(100);
  });

  test('without control numbers, by code and charge', () => {
    const found = decide(claim([line('', 5000, 100, [['CO', '45', 4900]])]), ours(9000, 5000));
    expect(found).toMatchObject([{ chargeId: 2, paid: 100 }]);
  });

  test('a line that the payer split comes together on our charge', () => {
    const found = decide(
      claim([line('L1', 6000, 500, [['CO', '45', 5500]]), line('L1', 3000, 300, [['PR', '2', 2700]])]),
      ours(9000),
    );
    expect(found).toMatchObject([{ chargeId: 1, paid: 800 }]);
    expect(found[0]!.adjustments.map((item) => item.amount)).toEqual([5500, 2700]);
  });

  test('a line that is not ours holds the claim, in words', () => {
    expect(decideClaim(claim([line('', 7700, 0, [['CO', '45', 7700]])]), ours(9000), reasons)).toEqual({
      words: 'line 99213 of 77.00 is not on our claim',
    });
    expect(decideClaim(claim([]), [], reasons)).toEqual({ words: 'our claim has no lines' });
  });

  test('denials, unknown codes and “always” raise follow-ups; ordinary ones do not', () => {
    const [denied] = decide(claim([line('L1', 9000, 0, [['CO', '97', 9000]])]), ours(9000));
    expect(denied).toMatchObject({
      denied: true,
      followUps: [{ kind: 'denial', rule: 'while-money', amount: 9000 }],
    });
    const [unknown] = decide(claim([line('L1', 9000, 0, [['CO', '999', 9000]])]), ours(9000));
    expect(unknown!.followUps).toMatchObject([{ kind: 'reason', rule: 'always' }]);
    const [always] = decide(claim([line('L1', 9000, 8900, [['CR', '223', 100]])]), ours(9000));
    expect(always!.followUps).toMatchObject([{ kind: 'reason', rule: 'always' }]);
    const [plain] = decide(claim([line('L1', 9000, 8000, [['CO', '45', 1000]])]), ours(9000));
    expect(plain!.followUps).toEqual([]);
  });

  test('a short payment is measured against the contract, to the cent; a denial is not one', () => {
    const contract = (allowed: number): OurLine[] => [{ ...ours(9000)[0]!, expectedAllowed: cents(allowed) }];
    const paid = claim([line('L1', 9000, 6000, [['CO', '45', 3000]])]);
    expect(decide(paid, contract(6000))[0]!.followUps).toEqual([]);
    expect(decide(paid, contract(6001))[0]!.followUps).toMatchObject([{ kind: 'short-payment', amount: 1 }]);
    expect(
      decide(claim([line('L1', 9000, 0, [['CO', '97', 9000]])]), contract(6000))[0]!.followUps.map(
        (item) => item.kind,
      ),
    ).toEqual(['denial']);
  });

  test('whatever the lines, what is decided is what the claim says: paid and every group’s adjustments', () => {
    const adjustment = fc.tuple(
      fc.constantFrom('CO', 'PR', 'OA', 'PI'),
      fc.constantFrom('45', '1', '97'),
      fc.integer({ min: 1, max: 4000 }),
    );
    const made = fc.array(
      fc.record({
        adjustments: fc.array(adjustment, { maxLength: 3 }),
        paid: fc.integer({ min: 0, max: 9000 }),
      }),
      { minLength: 1, maxLength: 6 },
    );
    fc.assert(
      fc.property(made, fc.array(adjustment, { maxLength: 2 }), fc.boolean(), (parts, whole, withLines) => {
        const lines = parts.map((part, index) =>
          line(
            `L${index + 1}`,
            part.paid + part.adjustments.reduce((all, item) => all + item[2], 0),
            part.paid,
            part.adjustments,
          ),
        );
        const atClaim = whole.map(([group, reason, amount]) => ({
          group: group as 'CO',
          reason,
          amount: cents(amount),
        }));
        const lowered = cents(sum(lines.map((item) => item.paid)) - sum(atClaim.map((item) => item.amount)));
        const remit = claim(withLines ? lines : [], {
          adjustments: atClaim,
          paid: lowered,
          charge: sum(lines.map((item) => item.charge)),
        });
        const found = decide(remit, ours(...lines.map((item) => item.charge)));
        expect(sum(found.map((item) => item.paid))).toBe(lowered);
        const total = (group: string) =>
          sum(
            found.flatMap((item) =>
              item.adjustments.filter((one) => one.group === group).map((one) => one.amount),
            ),
          );
        for (const group of ['CO', 'PR', 'OA', 'PI']) {
          const said = [...atClaim, ...(withLines ? lines.flatMap((item) => item.adjustments) : [])].filter(
            (item) => item.group === group,
          );
          expect(total(group)).toBe(sum(said.map((item) => item.amount)));
        }
      }),
    );
  });
});
