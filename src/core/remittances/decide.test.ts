import { calendarDate } from '../calendar';
import fc from 'fast-check';
import { ZERO, cents, sum } from '../money';
import { sampleRemitClaim } from '../x12/samples';
import type { RemitClaim, RemitLine } from '../x12/remittance835';
import { type LineDecision, type OurLine, type ReasonTable, decideClaim, movementOf } from './decide';
import { NOTHING_DECIDED, type DecidedParts, movedBy, verdictOn } from './verdict';

const reasons: ReasonTable = (group, reason) => {
  const denial = ['97', '16', '27'].includes(reason);
  if (reason === '999') return null;
  if (group === 'PR') return null;
  return {
    reductionAccount: group === 'PI' ? 'reduction/payer' : 'reduction/contract',
    denial,
    followUp: denial ? 'while-money' : reason === '223' ? 'always' : 'never',
    owner: reason === '16' ? 'Ina' : '',
    days: reason === '16' ? 2 : reason === '97' ? 9 : null,
    words: `reason ${reason}`,
  };
};

const ours = (...charges: number[]): OurLine[] =>
  charges.map((charge, index) => ({
    chargeId: index + 1,
    control: `L${index + 1}`,
    code: '99213',
    charge: cents(charge),
    tax: ZERO,
    expectedAllowed: null,
    tolerance: ZERO,
    earlier: null,
  }));

const line = (
  control: string,
  charge: number,
  paid: number,
  adjustments: [string, string, number][],
  code = '99213',
): RemitLine => ({
  code,
  billed: '',
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
    ['PR', '3', 'pass-on'],
    ['PR', '27', 'stay'],
    ['OA', '23', 'stay'],
    ['CR', '223', 'stay'],
    ['CO', '97', 'stay'],
    ['PI', '16', 'stay'],
    ['CO', '999', 'stay'],
    ['OA', '209', 'stay'],
  ] as const)('%s-%s: %s', (group, reason, movement) => {
    expect(movementOf({ group, reason, amount: cents(1) }, reasons(group, reason)).movement).toBe(movement);
  });

  test('PI without a rule goes to the payer’s reductions', () => {
    expect(movementOf({ group: 'PI', reason: '999', amount: cents(1) }, null).reductionAccount).toBe(
      'reduction/payer',
    );
  });
});

describe('a reason of which the table does not know what it moves', () => {
  const judged = (adjustments: [string, string, number][], paid: number, as?: 'additional') => {
    const total = paid + adjustments.reduce((all, [, , amount]) => all + amount, 0);
    return verdictOn(
      claim([line('L1', total, paid, adjustments)]),
      {
        position: 1,
        serviceDate: calendarDate('2026-03-02'),
        paidOn: calendarDate('2026-03-12'),
        lines: ours(total),
        decidedSoFar: new Map(),
        decided: false,
      },
      reasons,
      as,
    );
  };

  test.each(['CO', 'PI'])('%s holds the claim, and says which and how much', (group) => {
    expect(
      judged(
        [
          [group, '999', 1200],
          ['PR', '3', 800],
        ],
        7000,
      ),
    ).toEqual({
      do: 'hold',
      kind: 'reason',
      words: `${group}-999 of 12.00: Setup does not know whether it takes off or refuses`,
    });
  });

  test('also where nothing is paid: a denial by an unknown code is none', () => {
    expect(judged([['CO', '999', 9000]], 0)).toMatchObject({ do: 'hold', kind: 'reason' });
  });

  test.each(['PR', 'OA', 'CR'])('%s does not need the table: its group says what moves', (group) => {
    expect(judged([[group, '999', 1200]], 7000).do).toBe('post');
  });

  test('what is paid on top moves nothing but money, and is not asked', () => {
    expect(judged([['CO', '999', 1200]], 7000, 'additional').do).toBe('post');
  });
});

/** N781 to N783 on a line or the claim; from memory. */
describe('what may never be collected from the patient', () => {
  const passed = (remarks: string[], ofClaim: string[] = []) =>
    decide(
      claim([{ ...line('L1', 9000, 7000, [['PR', '1', 2000]]), remarks }], { remarks: ofClaim }),
      ours(9000),
    )[0]!.adjustments;

  test.each(['N781', 'N782', 'N783'])('%s is kept with what is passed on', (remark) => {
    expect(passed([remark])).toMatchObject([{ movement: 'pass-on', remark }]);
    expect(passed([], [remark])).toMatchObject([{ movement: 'pass-on', remark }]);
  });

  test('other remarks are not', () => {
    expect(passed(['N130', 'MA01'])[0]).not.toHaveProperty('remark');
  });
});

/** Rules of the trade where nothing else is said: common practice, no source. */
describe('what is no payment and no plain denial', () => {
  const one = (remit: RemitClaim, lines = ours(9000)) => decide(remit, lines)[0]!;
  const kinds = (item: LineDecision) => item.followUps.map(({ kind }) => kind);
  const moves = (item: LineDecision) => item.adjustments.map(({ movement }) => movement);

  test.each(['1', '4', '19'])(
    'nothing paid, allowed or passed on is a denial under status %s, and stays',
    (status) => {
      const found = one(claim([line('L1', 9000, 0, [['CO', '45', 9000]])], { status }));
      expect(found).toMatchObject({ denied: true, followUps: [{ kind: 'denial', amount: 9000 }] });
      expect(movedBy(found)).toEqual(NOTHING_DECIDED);
    },
  );

  test('nothing paid, but the deductible passed on, is no denial', () => {
    const found = one(
      claim(
        [
          line('L1', 9000, 0, [
            ['CO', '45', 3000],
            ['PR', '1', 6000],
          ]),
        ],
        { status: '4' },
      ),
    );
    expect(found).toMatchObject({ denied: false, followUps: [] });
    expect(movedBy(found)).toEqual({ paid: 0, reduced: 3000, passedOn: 6000 });
  });

  test.each(['22', '26', '27', '31'])('PR-%s bills nobody until somebody has looked', (reason) => {
    const found = one(claim([line('L1', 9000, 0, [['PR', reason, 9000]])]));
    expect(moves(found)).toEqual(['stay']);
    expect(found.followUps).toMatchObject([{ kind: 'reason', rule: 'always', amount: 9000 }]);
  });

  test('CO-253 lowers the payment, not what is allowed: no short payment', () => {
    const contract: OurLine[] = [{ ...ours(9000)[0]!, expectedAllowed: cents(6000) }];
    const found = one(
      claim([
        line('L1', 9000, 5880, [
          ['CO', '45', 3000],
          ['CO', '253', 120],
        ]),
      ]),
      contract,
    );
    expect(kinds(found)).toEqual([]);
    expect(movedBy(found)).toEqual({ paid: 5880, reduced: 3120, passedOn: 0 });
  });

  test('SVC06 names what was billed: the line is found, whatever code was decided', () => {
    const changed = { ...line('', 9000, 4000, [['CO', '45', 5000]], '99212'), billed: '99213' };
    expect(decide(claim([changed]), [{ ...ours(9000)[0]!, code: '99213' }])).toMatchObject([
      { chargeId: 1, paid: 4000 },
    ]);
  });

  test('lines put together: what is in another line is neither denied nor short, the whole is compared', () => {
    const lines: OurLine[] = [
      { ...ours(6000, 4000)[0]!, code: '80053', expectedAllowed: cents(4000) },
      { ...ours(6000, 4000)[1]!, code: '85025', expectedAllowed: cents(2000) },
    ];
    const bundle = (paid: number) =>
      decide(
        claim([
          {
            ...line(
              'L1',
              6000,
              paid,
              [
                ['CO', '94', 0 - 1000],
                ['CO', '45', 7000 - paid],
              ],
              '80050',
            ),
            billed: '80053',
          },
          line('L2', 4000, 0, [['CO', '97', 4000]], '85025'),
        ]),
        lines,
      );
    expect(bundle(6000).flatMap(kinds)).toEqual([]);
    expect(bundle(6000).map(movedBy)).toEqual([
      { paid: 6000, reduced: 0, passedOn: 0 },
      { paid: 0, reduced: 4000, passedOn: 0 },
    ]);
    expect(bundle(5000).flatMap((item) => item.followUps)).toMatchObject([
      { kind: 'short-payment', amount: 1000 },
    ]);
  });

  test('a line split without our number is matched by its code, and must add up', () => {
    const parts = [line('', 6000, 500, [['CO', '45', 5500]]), line('', 3000, 300, [['PR', '2', 2700]])];
    expect(decide(claim(parts), ours(9000))).toMatchObject([{ chargeId: 1, paid: 800 }]);
    expect(decideClaim(claim(parts.slice(0, 1)), ours(9000), reasons)).toEqual({
      words: 'line 99213 is charged 60.00 there and 90.00 here',
    });
  });

  test('units that the payer changed move nothing by themselves', () => {
    const fewer = { ...line('L1', 9000, 3000, [['CO', '45', 6000]]), units: 1 };
    expect(one(claim([fewer]))).toMatchObject({ paid: 3000, denied: false, followUps: [] });
  });

  test('a claim without lines must be charged as ours is', () => {
    const whole = (charge: number) =>
      claim([], {
        charge: cents(charge),
        paid: cents(6000),
        adjustments: [{ group: 'CO', reason: '45', amount: cents(charge - 6000) }],
      });
    expect(decide(whole(14000), ours(9000, 5000)).map(movedBy)).toEqual([
      { paid: 3857, reduced: 5143, passedOn: 0 },
      { paid: 2143, reduced: 2857, passedOn: 0 },
    ]);
    expect(decideClaim(whole(13999), ours(9000, 5000), reasons)).toMatchObject({
      words: expect.stringMatching(/139\.99 there and 140\.00 here/),
    });
  });
});

describe('a later payer', () => {
  const later = (paid: number, reduced: number): OurLine[] => [
    { ...ours(14500)[0]!, earlier: { paid: cents(paid), reduced: cents(reduced) } },
  ];

  test('OA-23 must be what the earlier ones paid and reduced here', () => {
    const said = (amount: number) =>
      claim([line('L1', 14500, 14500 - amount, [['OA', '23', amount]])], { status: '2' });
    expect(decide(said(11500), later(6800, 4700)).map(movedBy)).toEqual([
      { paid: 3000, reduced: 0, passedOn: 0 },
    ]);
    expect(decideClaim(said(11400), later(6800, 4700), reasons)).toEqual({
      words: 'line 99213 says that earlier payers paid and reduced 114.00; here it is 115.00',
    });
  });

  test('its CO-45 reduces only what goes beyond theirs', () => {
    const found = decide(
      claim(
        [
          line('L1', 14500, 2000, [
            ['OA', '23', 6800],
            ['CO', '45', 5700],
          ]),
        ],
        { status: '2' },
      ),
      later(6800, 4700),
    );
    expect(found.map(movedBy)).toEqual([{ paid: 2000, reduced: 1000, passedOn: 0 }]);
  });

  test('paying nothing because the earlier ones paid all is no denial; refusing the rest is one, of the rest', () => {
    const [full] = decide(
      claim([line('L1', 14500, 0, [['OA', '23', 14500]])], { status: '2' }),
      later(9800, 4700),
    );
    expect(full).toMatchObject({ denied: false, followUps: [] });
    const [rest] = decide(
      claim(
        [
          line('L1', 14500, 0, [
            ['OA', '23', 11500],
            ['CO', '45', 3000],
          ]),
        ],
        { status: '2' },
      ),
      later(6800, 4700),
    );
    expect(rest).toMatchObject({ denied: true, followUps: [{ kind: 'denial', amount: 3000 }] });
  });
});

describe('judging a decision against what stands', () => {
  const paid = claim([
    line('L1', 14500, 6800, [
      ['CO', '45', 4700],
      ['PR', '3', 3000],
    ]),
  ]);
  const stands: DecidedParts = { paid: cents(6800), reduced: cents(4700), passedOn: cents(3000) };
  const judge = (
    remit: RemitClaim,
    decidedSoFar: DecidedParts | null,
    as: Parameters<typeof verdictOn>[3] = 'said',
    position = 1,
    paidOn = calendarDate('2026-03-16'),
  ) =>
    verdictOn(
      remit,
      {
        position,
        lines: ours(14500),
        serviceDate: calendarDate('2026-03-02'),
        paidOn,
        decidedSoFar: new Map(decidedSoFar ? [[1, decidedSoFar]] : []),
        decided: decidedSoFar !== null,
      },
      reasons,
      as,
    );
  const back = (remit: RemitClaim): RemitClaim => ({
    ...remit,
    status: '22',
    charge: cents(-remit.charge),
    paid: cents(-remit.paid),
    lines: remit.lines.map((item) => ({
      ...item,
      charge: cents(-item.charge),
      paid: cents(-item.paid),
      adjustments: item.adjustments.map((one) => ({ ...one, amount: cents(-one.amount) })),
    })),
  });

  test('the first one is posted, a second one waits for a person', () => {
    expect(judge(paid, null).do).toBe('post');
    expect(judge(paid, stands)).toEqual({
      do: 'hold',
      kind: 'second',
      words: 'it is decided already, just so: 68.00 would be paid twice',
    });
    expect(judge(claim([line('L1', 14500, 9800, [['CO', '45', 4700]])]), stands)).toMatchObject({
      kind: 'second',
      words: 'it is decided already with 68.00 paid; this pays 98.00, and nothing was taken back',
    });
  });

  test('after a denial, which moved nothing, a payment is the first decision', () => {
    expect(judge(paid, NOTHING_DECIDED).do).toBe('post');
  });

  test('paid on top moves the payment alone', () => {
    const verdict = judge(claim([line('L1', 14500, 500, [['CO', '45', 14000]])]), stands, 'additional');
    expect(verdict.do === 'post' && verdict.decisions.map(movedBy)).toEqual([
      { paid: 500, reduced: 0, passedOn: 0 },
    ]);
  });

  test('a reversal takes back exactly what stands, else it waits', () => {
    const verdict = judge(back(paid), stands);
    expect(verdict.do === 'post' && verdict.decisions.map(movedBy)).toEqual([
      { paid: -6800, reduced: -4700, passedOn: -3000 },
    ]);
    expect(judge(back(paid), null)).toMatchObject({
      kind: 'reversal',
      words: 'it takes back a decision that does not stand here',
    });
    expect(judge(back(paid), { ...stands, paid: cents(6700) })).toMatchObject({
      kind: 'reversal',
      words:
        'it takes back 68.00 paid, 47.00 reduced and 30.00 passed on, and what stands here is 67.00 paid, 47.00 reduced and 30.00 passed on',
    });
    // A person may mean it: what is left stands.
    const meant = judge(back(paid), { ...stands, paid: cents(6900) }, 'meant');
    expect(meant.do === 'post' && meant.decisions.map(movedBy)).toEqual([
      { paid: -6800, reduced: -4700, passedOn: -3000 },
    ]);
    expect(judge(back(paid), null, 'meant').do).toBe('hold');
    // A denial of one line beside a paid one is taken back together with it.
    const both = claim([
      line('L1', 14500, 6800, [
        ['CO', '45', 4700],
        ['PR', '3', 3000],
      ]),
      line('L2', 4200, 0, [['CO', '45', 4200]]),
    ]);
    const verdict2 = verdictOn(
      back(both),
      {
        position: 1,
        lines: ours(14500, 4200),
        serviceDate: calendarDate('2026-03-02'),
        paidOn: calendarDate('2026-03-16'),
        decidedSoFar: new Map([[1, stands]]),
        decided: true,
      },
      reasons,
    );
    expect(verdict2.do).toBe('post');
  });

  test('a denial taken back moves nothing and waits for nobody, if it was decided here', () => {
    const denial = claim([line('L1', 14500, 0, [['CO', '16', 14500]])]);
    expect(judge(back(denial), NOTHING_DECIDED)).toEqual({
      do: 'note',
      words: 'it takes back a denial, of which nothing stood',
    });
    expect(judge(back(denial), null)).toMatchObject({ do: 'hold', kind: 'reversal' });
    expect(judge(back(paid), NOTHING_DECIDED)).toMatchObject({ do: 'hold', kind: 'reversal' });
    expect(judge(back(denial), stands)).toMatchObject({ do: 'hold', kind: 'reversal' });
  });

  test.each(['23', '25'])('status %s moves nothing, and is held when it pays', (status) => {
    expect(judge(claim([line('L1', 14500, 0, [['CO', '45', 14500]])], { status }), null).do).toBe('note');
    expect(judge({ ...paid, status }, null)).toMatchObject({ do: 'hold', kind: 'status' });
  });

  test('a payment dated before the service moves nothing until a person has looked at it', () => {
    const dated = (day: string, as: 'said' | 'meant' = 'said') => judge(paid, null, as, 1, calendarDate(day));
    expect(dated('2026-03-01')).toEqual({
      do: 'hold',
      kind: 'date',
      words: 'it is dated 1 Mar 2026, before the service of 2 Mar 2026',
    });
    expect(dated('1995-03-16').do).toBe('hold');
    expect(dated('2026-03-02').do).toBe('post');
    expect(dated('1995-03-16', 'meant').do).toBe('post');
  });

  test('an unknown status decides nothing; the order of payers must be that of the claim, unless a person says so', () => {
    expect(judge({ ...paid, status: '7' }, null)).toMatchObject({ kind: 'status' });
    for (const status of ['2', '3', '20', '21'])
      expect(judge({ ...paid, status }, null)).toMatchObject({ kind: 'order' });
    expect(judge({ ...paid, status: '19' }, null).do).toBe('post');
    expect(judge({ ...paid, status: '2' }, null, 'meant').do).toBe('post');
  });
});

describe('what is adjusted for the claim as a whole', () => {
  const whole = (adjustments: readonly [string, string, number][], lines: Parameters<typeof claim>[0]) => {
    const made = claim(lines);
    const off = adjustments.reduce((all, [, , amount]) => all + amount, 0);
    return {
      ...made,
      paid: cents(made.paid - off),
      adjustments: adjustments.map(([group, reason, amount]) => ({
        group: group as 'PR',
        reason,
        amount: cents(amount),
      })),
    };
  };
  test('a denied line bears nothing of it, and no line is paid less than nothing', () => {
    // 30.00 of deductible over a denied line of 100.00, one paid 10.00 and one paid 60.00.
    const found = decide(
      whole(
        [['PR', '1', 3000]],
        [
          line('L1', 10_000, 0, [['CO', '50', 10_000]]),
          line('L2', 5000, 1000, [['CO', '45', 4000]]),
          line('L3', 9000, 6000, [['CO', '45', 3000]]),
        ],
      ),
      ours(10_000, 5000, 9000),
    );
    expect(found.map(({ paid, denied }) => [paid, denied])).toEqual([
      [0, true],
      [571, false],
      [3429, false],
    ]);
  });
  test('more than the lines were paid is held, and says so', () => {
    expect(
      decideClaim(
        whole([['PR', '1', 3000]], [line('L1', 10_000, 2000, [['CO', '45', 8000]])]),
        ours(10_000),
        reasons,
      ),
    ).toEqual({ words: 'PR-1 of 30.00 for the claim as a whole is more than its lines can bear, 20.00' });
  });
  test('without lines each is paid what its adjustments leave, to the cent', () => {
    const found = decide(
      { ...whole([['CO', '45', 3334], ['PR', '2', 3333]], []), charge: cents(10_001), paid: cents(3334) }, // prettier-ignore
      ours(3333, 3334, 3334),
    );
    for (const [index, { paid, adjustments }] of found.entries())
      expect(paid + adjustments.reduce((all, { amount }) => all + amount, 0)).toBe([3333, 3334, 3334][index]);
    expect(found.reduce((all, { paid }) => all + paid, 0)).toBe(3334);
    expect(found.every(({ paid }) => paid >= 0)).toBe(true);
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
    expect(
      decideClaim(claim([line('', 7700, 0, [['CO', '45', 7700]], '99299')]), ours(9000), reasons),
    ).toEqual({
      words: 'line 99299 of 77.00 is not on our claim',
    });
    expect(decideClaim(claim([]), [], reasons)).toEqual({ words: 'our claim has no lines' });
  });

  test('denials, unknown codes and “always” raise follow-ups; ordinary ones do not', () => {
    const [denied] = decide(claim([line('L1', 9000, 0, [['CO', '97', 9000]])]), ours(9000));
    expect(denied).toMatchObject({
      denied: true,
      followUps: [{ kind: 'denial', rule: 'while-money', amount: 9000 }],
    });
    const [unknown] = decide(claim([line('L1', 9000, 8000, [['CO', '999', 1000]])]), ours(9000));
    expect(unknown!.adjustments).toMatchObject([{ movement: 'stay' }]);
    expect(unknown!.followUps).toMatchObject([{ kind: 'reason', rule: 'always' }]);
    const [always] = decide(claim([line('L1', 9000, 8900, [['CR', '223', 100]])]), ours(9000));
    expect(always!.followUps).toMatchObject([{ kind: 'reason', rule: 'always' }]);
    const [plain] = decide(claim([line('L1', 9000, 8000, [['CO', '45', 1000]])]), ours(9000));
    expect(plain!.followUps).toEqual([]);
  });

  test('a follow-up is whose its reason names, in as many days: of several the soonest, the first that names somebody', () => {
    const of = (...reasons: [string, string, number][]) =>
      decide(claim([line('L1', 9000, 0, reasons)]), ours(9000))[0]!.followUps;
    expect(of(['CO', '16', 9000])).toMatchObject([{ owner: 'Ina', days: 2 }]);
    expect(of(['CO', '97', 9000])).toMatchObject([{ owner: '', days: 9 }]);
    expect(of(['CO', '27', 9000])).toMatchObject([{ owner: '', days: null }]);
    expect(of(['CO', '97', 4000], ['CO', '16', 5000])).toMatchObject([{ owner: 'Ina', days: 2 }]);
    const [part] = decide(claim([line('L1', 9000, 3000, [['CO', '16', 6000]])]), ours(9000));
    expect(part!.followUps).toMatchObject([{ kind: 'denial', owner: 'Ina', days: 2 }]);
  });

  test('a short payment is measured against the contract, to the cent; a denial is not one', () => {
    const contract = (allowed: number): OurLine[] => [{ ...ours(9000)[0]!, expectedAllowed: cents(allowed) }];
    const paid = claim([line('L1', 9000, 6000, [['CO', '45', 3000]])]);
    expect(decide(paid, contract(6000))[0]!.followUps).toEqual([]);
    expect(decide(paid, contract(6001))[0]!.followUps).toMatchObject([{ kind: 'short-payment', amount: 1 }]);
    // What Setup lets pass of this payer's lines is no difference; a cent more is one.
    const lets = (tolerance: number) => [{ ...contract(6005)[0]!, tolerance: cents(tolerance) }];
    expect(decide(paid, lets(5))[0]!.followUps).toEqual([]);
    expect(decide(paid, lets(4))[0]!.followUps).toMatchObject([{ amount: 5 }]);
    // Where the payer takes tax, both are compared and named.
    const [taxed] = decide(paid, [{ ...contract(6500)[0]!, tax: cents(500) }]);
    expect(taxed!.followUps).toMatchObject([
      { amount: 500, words: 'Allowed 60.00, the contract and tax say 65.00: 5.00 short' },
    ]);
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
        const borne = sum(lines.map((item) => (withLines ? item.paid : item.charge)));
        const lowered = cents(borne - sum(atClaim.map((item) => item.amount)));
        // More than the lines can bear is held.
        fc.pre(lowered >= 0);
        const remit = claim(withLines ? lines : [], {
          adjustments: atClaim,
          paid: lowered,
          charge: sum(lines.map((item) => item.charge)),
        });
        const found = decide(remit, ours(...lines.map((item) => item.charge)));
        expect(sum(found.map((item) => item.paid))).toBe(lowered);
        expect(found.every((item) => item.paid >= 0)).toBe(true);
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
