import { calendarDate } from '../calendar';
import { ZERO, cents } from '../money';
import { type StoryCharge, type StoryEntry, tellBalance, tellCharge } from './story';

const entry = (more: Partial<StoryEntry>): StoryEntry => ({
  entryId: 1,
  kind: 'payer-decision',
  date: calendarDate('2026-03-12'),
  payer: 'Cedar Sound Health',
  memo: '',
  undone: false,
  paidByPayer: ZERO,
  paidByPatient: ZERO,
  paidByAgency: cents(0),
  reduced: [],
  expected: ZERO,
  passedOn: [],
  refused: [],
  exception: null,
  coverageId: 1,
  ...more,
});

const charge = (more: Partial<StoryCharge>): StoryCharge => ({
  chargeId: 7,
  kind: 'service',
  date: calendarDate('2026-03-02'),
  patient: 'Rosa',
  service: 'Office visit, 20 minutes',
  provider: 'Ngozi Okafor',
  charged: cents(14500),
  tax: ZERO,
  waiting: [],
  withPatient: ZERO,
  onPlan: ZERO,
  atAgency: ZERO,
  entries: [],
  ...more,
});

const words = (one: StoryCharge): string[] => tellCharge(one).sentences.map((sentence) => sentence.words);

describe('balance story', () => {
  test('says for which case it was, where that is not general care', () => {
    expect(words(charge({}))[0]).toBe(
      'On 2 Mar 2026, Rosa had: Office visit, 20 minutes, with Ngozi Okafor. The fee is 145.00.',
    );
    expect(words(charge({ caseName: 'Left knee' }))[0]).toBe(
      'On 2 Mar 2026, Rosa had: Office visit, 20 minutes, with Ngozi Okafor, for “Left knee”. The fee is 145.00.',
    );
  });

  test('tells a visit from the fee to what is left, in order, each reason in its words', () => {
    const told = words(
      charge({
        withPatient: cents(2000),
        entries: [
          entry({ kind: 'charge' }),
          entry({
            entryId: 2,
            paidByPayer: cents(6800),
            reduced: [{ words: 'the discount of our contract', amount: cents(4700) }],
            expected: ZERO,
            passedOn: [
              { words: 'your copay for the visit', amount: cents(2000) },
              { words: 'goes to your yearly deductible', amount: cents(1000) },
            ],
          }),
          entry({
            entryId: 3,
            kind: 'allocation',
            date: calendarDate('2026-03-15'),
            paidByPatient: cents(1000),
            paidByAgency: cents(0),
          }),
        ],
      }),
    );
    expect(told).toEqual([
      'On 2 Mar 2026, Rosa had: Office visit, 20 minutes, with Ngozi Okafor. The fee is 145.00.',
      'Cedar Sound Health decided on 12 Mar 2026 and paid 68.00.',
      '47.00 was taken off: the discount of our contract.',
      '20.00 passed to you: your copay for the visit.',
      '10.00 passed to you: goes to your yearly deductible.',
      'On 15 Mar 2026 you paid 10.00.',
      '20.00 is yours to pay.',
    ]);
  });

  test('every sentence of an entry leads to that entry', () => {
    const { sentences } = tellCharge(
      charge({
        entries: [
          entry({ entryId: 42, paidByPayer: cents(1), passedOn: [{ words: 'x', amount: cents(1) }] }),
        ],
      }),
    );
    expect(sentences.map((sentence) => sentence.entryId)).toEqual([undefined, 42, 42, undefined]);
  });

  test('a refusal says what was refused and that it is worked on', () => {
    const told = words(
      charge({
        waiting: [{ coverageId: 1, payer: 'Cedar Sound Health', amount: cents(3500) }],
        entries: [entry({ refused: [{ words: 'counted with another service', amount: cents(3500) }] })],
      }),
    );
    expect(told).toContain('Cedar Sound Health decided on 12 Mar 2026 and paid nothing.');
    expect(told).toContain('35.00 was refused: counted with another service. We are following it up.');
    expect(told.at(-1)).toBe('35.00 is still waiting for Cedar Sound Health.');
  });

  test('once nothing waits with that payer, nobody follows it up any more', () => {
    const refused = entry({ refused: [{ words: 'counted with another service', amount: cents(3500) }] });
    const passed = entry({
      kind: 'to-patient',
      memo: 'your plan had ended',
      passedOn: [{ words: 'x', amount: cents(3500) }],
      exception: 'not-in-force',
    });
    const other = { coverageId: 2, payer: 'Northline Mutual', amount: cents(100) };
    const told = words(charge({ waiting: [other], entries: [refused, passed] }));
    expect(told).toContain('35.00 was refused: counted with another service.');
    expect(told).toContain(
      'On 12 Mar 2026 35.00 passed from Cedar Sound Health to you: your plan had ended, since your coverage was not in force on that day.',
    );
  });

  test('what was taken back is said to be; why is for us', () => {
    const told = words(
      charge({
        entries: [
          entry({ paidByPayer: cents(100), undone: true }),
          entry({ kind: 'reversal', memo: 'wrong patient' }),
          entry({ kind: 'allocation', paidByPatient: cents(5), undone: true }),
          entry({ kind: 'write-off', memo: 'goodwill', reduced: [{ words: 'goodwill', amount: cents(50) }] }),
        ],
      }),
    );
    expect(told).toContain('Cedar Sound Health decided on 12 Mar 2026 and paid 1.00 (corrected later).');
    expect(told).toContain('On 12 Mar 2026 an earlier entry was taken back.');
    expect(told).toContain('On 12 Mar 2026 you paid 0.05 (taken back later).');
    expect(told).toContain('On 12 Mar 2026 we took off 0.50.');
    expect(told.at(-1)).toBe('Nothing is left to pay.');
  });

  test('money at every place is named', () => {
    expect(
      words(
        charge({
          waiting: [{ coverageId: 1, payer: 'Cedar Sound Health', amount: cents(100) }],
          onPlan: cents(200),
          atAgency: cents(300),
          withPatient: cents(400),
        }),
      ).at(-1),
    ).toBe(
      '1.00 is still waiting for Cedar Sound Health, 2.00 is on a payment plan, 3.00 is with a collection agency, 4.00 is yours to pay.',
    );
    expect(words(charge({ withPatient: cents(-400) })).at(-1)).toBe(
      '4.00 too much was paid and is being looked at.',
    );
  });

  test('the closing sentence has what is owed, held and expected', () => {
    expect(tellBalance(cents(3000), ZERO, ZERO)).toBe('Together 30.00 is yours to pay now.');
    expect(tellBalance(ZERO, cents(500), cents(700))).toBe(
      'Nothing is yours to pay now; 5.00 of your money is held as credit; 7.00 is still with insurers.',
    );
  });
});
