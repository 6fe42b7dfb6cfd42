import fc from 'fast-check';
import { type CalendarDate, addDays, calendarDate, daysBetween } from '../calendar';
import { cents } from '../money';
import type { OverduePolicy, Stage } from './policy';
import { type OverdueFacts, type SentLetter, lastLetterOf, promiseState, outlookOf } from './stage';
import { runs } from '../../testing/runs';

const today = calendarDate('2026-03-16');
const day = (text: string): CalendarDate => calendarDate(text);
const POLICY: OverduePolicy = {
  least: cents(2500),
  betweenLetters: 14,
  recentDays: 28,
  spareClaims: true,
  sparePlans: true,
  calls: { calls: 7, callDays: 7, quietDays: 7, from: 8, to: 21 },
  smallBelow: cents(1000),
  smallDays: 60,
  agencyDays: 30,
  agencyLeast: cents(5000),
  agencyId: null,
};
const STAGES: Stage[] = [
  { id: 11, position: 1, name: 'First reminder', days: 10, templateId: 1 },
  { id: 12, position: 2, name: 'Second reminder', days: 30, templateId: 2 },
  { id: 13, position: 3, name: 'Last letter', days: 60, templateId: 3 },
];
const facts = (more: Partial<OverdueFacts> = {}): OverdueFacts => ({
  charges: [{ chargeId: 1, amount: cents(12_000), since: day('2026-01-01') }],
  letters: [],
  lastPayment: null,
  promise: null,
  hardshipAsked: null,
  planBehind: null,
  claimsOut: 0,
  stops: [],
  stopsAgency: false,
  openLetter: false,
  placement: 'none',
  cameBack: null,
  againOn: null,
  ...more,
});
const letter = (position: number, date: string, ...chargeIds: number[]): SentLetter => ({
  stageId: 10 + position,
  position,
  date: day(date),
  chargeIds: chargeIds.length > 0 ? chargeIds : [1],
});
const stand = (more: Partial<OverdueFacts> = {}, policy: Partial<OverduePolicy> = {}, on = today) =>
  outlookOf(facts(more), { ...POLICY, ...policy }, STAGES, on);

describe('the stage', () => {
  test('is the last letter of the present debt; none is skipped, however old the debt is', () => {
    expect(stand()).toMatchObject({ stage: null, next: { position: 1 }, action: 'letter', daysPastDue: 75 });
    expect(stand({ letters: [letter(1, '2026-02-01')] })).toMatchObject({
      stage: { position: 1 },
      next: { position: 2 },
      action: 'letter',
      on: today,
    });
  });

  test('a debt that was cured begins anew: a letter about what is paid does not count', () => {
    const letters = [letter(1, '2025-06-01', 7), letter(2, '2025-07-01', 7)];
    expect(stand({ letters })).toMatchObject({ stage: null, next: { position: 1 } });
    // A payment that is taken back brings the charge and its letters back.
    const again = { charges: [{ chargeId: 7, amount: cents(9000), since: day('2025-05-01') }] };
    expect(stand({ letters, ...again })).toMatchObject({ stage: { position: 2 }, next: { position: 3 } });
  });

  test('of several letters the newest counts that names something past due', () => {
    const letters = [letter(1, '2026-01-10', 1), letter(2, '2026-02-10', 2)];
    expect(lastLetterOf(letters, facts().charges)?.position).toBe(1);
    expect(lastLetterOf([], facts().charges)).toBeNull();
  });

  test('a stage that Setup has no more is still what was sent', () => {
    expect(stand({ letters: [{ ...letter(1, '2026-03-10'), stageId: 99, position: 2 }] })).toMatchObject({
      stage: { name: 'Stage 2' },
      next: { position: 3 },
    });
  });
});

describe('the next letter', () => {
  test.each([
    // since, days past due on the day, first stage at 10 days
    ['2026-03-08', 9, 'wait', '2026-03-17'],
    ['2026-03-07', 10, 'letter', '2026-03-16'],
    ['2026-03-16', 1, 'wait', '2026-03-25'],
  ])('past due since %s: %d days, %s on %s', (since, days, action, on) => {
    const charges = [{ chargeId: 1, amount: cents(12_000), since: day(since) }];
    expect(stand({ charges })).toMatchObject({ daysPastDue: days, action, on });
  });

  test.each([
    ['2026-03-02', 'letter', '2026-03-16'],
    ['2026-03-03', 'wait', '2026-03-17'],
    ['2026-03-16', 'wait', '2026-03-30'],
  ])('after a letter of %s: %s on %s', (sent, action, on) => {
    expect(stand({ letters: [letter(1, sent)] })).toMatchObject({ action, on });
  });

  test('one that is prepared is not prepared again', () => {
    expect(stand({ openLetter: true })).toMatchObject({ action: 'wait' });
  });
});

describe('after the last letter', () => {
  const all = (date: string) => ({ letters: [letter(3, date)] });
  test.each([
    [all('2026-02-15'), {}, 'wait', '2026-03-17'],
    [all('2026-02-14'), {}, 'agency', '2026-03-16'],
    [{ ...all('2026-02-14'), stopsAgency: true }, {}, 'call', '2026-03-16'],
    [all('2026-02-14'), { agencyLeast: cents(12_001) }, 'call', '2026-03-16'],
    [all('2026-02-14'), { agencyLeast: cents(12_000) }, 'agency', '2026-03-16'],
    [{ ...all('2026-02-14'), placement: 'proposed' as const }, {}, 'agency', '2026-03-16'],
    // Whoever is to be tried again is left alone until then.
    [{ ...all('2026-02-14'), stopsAgency: true, againOn: day('2026-03-19') }, {}, 'wait', '2026-03-19'],
    [{ ...all('2026-02-14'), stopsAgency: true, againOn: day('2026-03-16') }, {}, 'call', '2026-03-16'],
    // What came back, or was withdrawn, of this debt is a person's; of an earlier one it says nothing.
    [
      { ...all('2026-02-14'), cameBack: { on: day('2026-02-14'), words: 'returned' } },
      {},
      'call',
      '2026-03-16',
    ],
    [
      { ...all('2026-02-14'), cameBack: { on: day('2026-02-13'), words: 'returned' } },
      {},
      'agency',
      '2026-03-16',
    ],
  ])('%j %j: %s on %s', (more, policy, action, on) => {
    expect(stand(more, policy)).toMatchObject({ next: null, action, on });
  });

  test('a policy without stages comes to the agency at once', () => {
    expect(outlookOf(facts(), POLICY, [], today)).toMatchObject({ next: null, action: 'agency' });
  });
});

describe('who is spared', () => {
  const promise = { amount: cents(5000), madeOn: day('2026-03-10'), paid: cents(0) };
  test.each([
    ['stop', { stops: ['bankrupt'] }, null],
    ['placed', { placement: 'placed' as const }, null],
    ['plan', { planBehind: 0 }, null],
    ['hardship', { hardshipAsked: day('2026-03-01') }, null],
    ['claims', { claimsOut: 2 }, null],
    ['recent-payment', { lastPayment: day('2026-02-17') }, '2026-03-17'],
    ['promise', { promise: { ...promise, by: day('2026-03-16') } }, '2026-03-17'],
  ])('%s', (id, more, on) => {
    expect(stand(more)).toMatchObject({ spared: [{ id }], on, action: on ? 'wait' : 'none' });
  });

  test('below the least; at the least nobody is spared', () => {
    expect(stand({}, { least: cents(12_001) }).spared).toMatchObject([{ id: 'small-balance' }]);
    expect(stand({}, { least: cents(12_000) }).spared).toEqual([]);
  });

  test('a payment of the last cycle spares, an older one does not, nor when the policy asks for none', () => {
    expect(stand({ lastPayment: day('2026-02-16') }).spared).toEqual([]);
    expect(stand({ lastPayment: today }, { recentDays: 0 }).spared).toEqual([]);
  });

  test('what the policy does not spare', () => {
    expect(stand({ claimsOut: 1 }, { spareClaims: false }).spared).toEqual([]);
    expect(stand({ planBehind: 0 }, { sparePlans: false }).spared).toEqual([]);
  });

  test('a promise is kept by what is paid, broken from the day after; a broken one is called about', () => {
    const by = day('2026-03-15');
    expect(promiseState({ ...promise, by: today }, today)).toBe('open');
    expect(promiseState({ ...promise, by }, today)).toBe('broken');
    expect(promiseState({ ...promise, by, paid: cents(4999) }, today)).toBe('broken');
    expect(promiseState({ ...promise, by, paid: cents(5000) }, today)).toBe('kept');
    expect(stand({ promise: { ...promise, by } })).toMatchObject({ action: 'call', spared: [] });
    expect(stand({ promise: { ...promise, by, paid: cents(5000) } })).toMatchObject({ action: 'letter' });
  });

  test('a plan that is behind is called about; a day to be called comes before letters', () => {
    expect(stand({ planBehind: 3 })).toMatchObject({ action: 'call', why: 'its plan is 3 days behind' });
    expect(stand({ againOn: today })).toMatchObject({ action: 'call' });
    expect(stand({ againOn: addDays(today, 1) })).toMatchObject({ action: 'letter' });
    const waiting = { letters: [letter(1, '2026-03-16')], againOn: addDays(today, 2) };
    expect(stand(waiting)).toMatchObject({ action: 'wait', on: addDays(today, 2) });
  });
});

test('any record ends in a stage, an action or a reason that the policy explains', () => {
  const when = fc.integer({ min: 0, max: 400 }).map((ago) => addDays(today, -ago));
  const record = fc.record({
    charges: fc.uniqueArray(
      fc.record({
        chargeId: fc.integer({ min: 1, max: 4 }),
        amount: fc.integer({ min: 1, max: 40_000 }).map(cents),
        since: when,
      }),
      { minLength: 1, selector: ({ chargeId }) => chargeId },
    ),
    letters: fc
      .array(
        fc.record({
          position: fc.integer({ min: 1, max: 3 }),
          date: when,
          chargeIds: fc.uniqueArray(fc.integer({ min: 1, max: 6 }), { minLength: 1 }),
        }),
        { maxLength: 6 },
      )
      .map((all) =>
        all.map((one) => ({ ...one, stageId: 10 + one.position })).sort((a, b) => (a.date < b.date ? -1 : 1)),
      ),
    lastPayment: fc.option(when),
    promise: fc.option(
      fc.record({
        amount: fc.integer({ min: 1, max: 20_000 }).map(cents),
        madeOn: when,
        by: fc.integer({ min: -30, max: 30 }).map((days) => addDays(today, days)),
        paid: fc.integer({ min: 0, max: 20_000 }).map(cents),
      }),
    ),
    hardshipAsked: fc.option(when),
    planBehind: fc.option(fc.integer({ min: 0, max: 90 })),
    claimsOut: fc.integer({ min: 0, max: 2 }),
    stops: fc.constantFrom([], ['attorney']),
    stopsAgency: fc.boolean(),
    openLetter: fc.boolean(),
    placement: fc.constantFrom('none' as const, 'proposed' as const, 'placed' as const),
    cameBack: fc.option(fc.record({ on: when, words: fc.constantFrom('withdrawn', 'returned') })),
    againOn: fc.option(fc.integer({ min: -5, max: 5 }).map((days) => addDays(today, days))),
  });
  fc.assert(
    fc.property(record, (given: OverdueFacts) => {
      const outlook = outlookOf(given, POLICY, STAGES, today);
      // The stage by another way: the newest letter, counted from the end, that shares a charge with the debt.
      let stage: number | null = null;
      for (const sent of given.letters)
        for (const { chargeId } of given.charges)
          if (sent.chargeIds.includes(chargeId)) stage = sent.position;
      expect(outlook.stage?.position ?? null).toBe(stage);
      expect(outlook.next?.position ?? 4).toBe((stage ?? 0) + 1);
      expect(outlook.pastDue).toBe(given.charges.reduce((all, { amount }) => all + amount, 0));
      const letterDue = outlook.action === 'letter';
      if (letterDue) {
        expect(outlook.spared).toEqual([]);
        expect(outlook.daysPastDue).toBeGreaterThanOrEqual(outlook.next!.days);
        if (outlook.lastLetter)
          expect(daysBetween(outlook.lastLetter, today)).toBeGreaterThanOrEqual(POLICY.betweenLetters);
        expect(given.openLetter || given.placement === 'placed' || given.stops.length > 0).toBe(false);
        expect(given.hardshipAsked).toBeNull();
      }
      if (outlook.action === 'agency' && given.placement === 'none') {
        expect(given.stopsAgency).toBe(false);
        expect(outlook.pastDue).toBeGreaterThanOrEqual(POLICY.agencyLeast);
        expect(outlook.next).toBeNull();
        if (given.cameBack) expect(given.cameBack.on < (outlook.lastLetter ?? outlook.since)).toBe(true);
      }
      if (outlook.action === 'none') expect(outlook.spared.length).toBeGreaterThan(0);
      else expect(outlook.on! >= today).toBe(true);
      expect(outlook.why).not.toBe('');
    }),
    { numRuns: runs(1500) },
  );
});
