/**
 * What is overdue in the scenario: accounts whose balance was brought in some months ago, each with a story of its own, from the
 * first reminder to an agency and back.
 */
import { utimes } from 'node:fs/promises';
import { join } from 'node:path';
import pino from 'pino';
import { type CalendarDate, addDays } from '../core/calendar';
import { chargeAccount } from '../server/accounts/charges';
import { registerHousehold } from '../server/accounts/register';
import { type Context, Refused } from '../server/access';
import { exchangeRoot } from '../server/folders';
import { exchangeRound } from '../server/exchange/round';
import { finishWork } from '../server/jobs/run';
import { startSendingBatch } from '../server/jobs/work';
import { assignOverdue, logContact, watchPromises } from '../server/overdue/contacts';
import { draftLetters } from '../server/overdue/due-letters';
import { recoverBadDebt, writeOffBadDebt } from '../server/overdue/agency-money';
import { recallPlacement } from '../server/overdue/placements';
import { approvePlacements, proposeByRule, proposePlacements } from '../server/overdue/proposals';
import { takeReceipt } from '../server/payments/take';
import { confirmPrinted } from '../server/batches/again';
import { prepareStatement } from '../server/statements/prepare';
import type { At, On } from './diary';
import { agencyTurn } from './outside';

/** Sends the letters that are due on a day; that nobody gets one is no fault. */
async function lettersOn(context: Context, householdIds: number[]): Promise<void> {
  try {
    const { batchId } = await draftLetters(context, {
      householdIds,
      key: `demo letters ${context.today} ${householdIds.length}`,
    });
    const workId = await startSendingBatch(context, { batchId: batchId! });
    await finishWork(context.db, workId, pino({ level: 'silent' }));
    await confirmPrinted(context, { batchId: batchId! });
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
  }
}

/** The agency takes its turn, and we read what it says. */
async function agencyRoundOn(context: Context): Promise<void> {
  await exchangeRound(context);
  const past = new Date(Date.now() - 60_000);
  for (const name of await agencyTurn(context.today))
    await utimes(join(exchangeRoot(), 'gannet', 'inbox', name), past, past);
  await exchangeRound(context);
}

/** Who owes for long: each has one story. */
const DEBTORS = [
  ['Quill', 'Merritt', '1971-03-09', 'Barnacle Row'],
  ['Thackeray', 'Odile', '1964-08-22', 'Spindrift Way'],
  ['Banerjee', 'Kavi', '1988-12-05', 'Dory Lane'],
  ['Lindqvist', 'Astrid', '1979-06-17', 'Lighthouse Hill'],
  ['Mbeki', 'Thandi', '1990-01-30', 'Oyster Street'],
  ['Fairweather', 'Clem', '1957-11-11', 'Tidewater Close'],
  ['Sorensen', 'Nils', '1983-04-02', 'Cormorant Court'],
  ['Ibarra', 'Luz', '1976-09-26', 'Capstan Road'],
  ['Whitlock', 'Esme', '1995-02-14', 'Breakwater Path'],
  ['Novak', 'Jiri', '1969-07-08', 'Harpoon Alley'],
  ['Ekwueme', 'Ngozi', '1986-10-19', 'Sandpiper Walk'],
  ['Dunmore', 'Hollis', '1973-05-03', 'Mainsail Street'],
  ['Yamada', 'Rin', '1992-03-21', 'Ebb Court'],
  ['Castell', 'Ione', '1981-08-15', 'Mooring Lane'],
  ['Rasmus', 'Bo', '1967-12-28', 'Jetty Row'],
  ['Delgado', 'Pilar', '1984-11-23', 'Windlass Street'],
] as const;

/** Registers those who owe. @returns their households in the order of the list */
async function registerDebtors(context: Context): Promise<number[]> {
  const ids: number[] = [];
  for (const [at, [last, first, birthDate, street]] of DEBTORS.entries()) {
    const { householdId } = await registerHousehold(context, {
      last,
      first,
      birthDate,
      sex: at % 2 === 0 ? 'M' : 'F',
      line1: `${11 + at * 3} ${street}`,
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98199',
      phone: `555-01${String(60 + at)}`,
      key: `demo debtor ${at}`,
    });
    ids.push(householdId);
  }
  return ids;
}

/**
 * Notes what is overdue, and small balances that are left over from long ago.
 * @param never the household that never pays its visits, whose debt goes to an agency as well
 */
export function overdueHappens(at: At, on: On, never: number, unpaid: readonly number[]): void {
  let heads: number[] = [];
  at(221, async (day) => (heads = await registerDebtors(on(day, 'front-desk'))));
  const [paid, , disputed, returned, recovered, waiting, promised, broken, argues, young, first, second] =
    DEBTORS.keys();
  const head = (which: number | undefined): number => heads[which!]!;
  /** A balance brought in so many days ago, with its statement of the day after. */
  const owes = (which: number, amount: string, days: number): void => {
    at(days, async (day) =>
      chargeAccount(on(day, 'manager'), {
        householdId: head(which),
        kind: 'opening',
        amount,
        date: day,
        memo: 'Brought in from the earlier system',
        key: `demo overdue ${head(which)} ${days}`,
      }),
    );
    at(days - 1, async (day) =>
      prepareStatement(on(day), {
        householdId: head(which),
        key: `demo overdue statement ${head(which)} ${days}`,
      }),
    );
  };
  for (const [which, amount] of ['412.60', '655.00', '238.40', '519.75', '187.20'].entries())
    owes(which, amount, 220);
  for (const [which, amount] of [
    [waiting!, '946.30'],
    [promised!, '364.00'],
    [broken!, '275.50'],
    [argues!, '158.00'],
  ] as const)
    owes(which, amount, 140);
  owes(young!, '84.00', 20);
  owes(first!, '129.90', 42);
  owes(second!, '301.15', 70);
  owes(15, '212.45', 90);
  for (const [which, amount] of ['3.20', '7.85', '9.10'].entries())
    at(120, async (day) =>
      chargeAccount(on(day, 'manager'), {
        householdId: head(12 + which),
        kind: 'opening',
        amount,
        date: day,
        memo: 'Brought in from the earlier system',
        key: `demo small ${which}`,
      }),
    );
  // Stages at 10, 30 and 60 days past due, which begins twenty-five days after the statement.
  const written = [...DEBTORS.keys()].filter((which) => which !== young && (which < 12 || which === 15));
  for (const days of [180, 160, 130, 100, 80, 50, 30])
    at(days, async (day) => lettersOn(on(day, 'collector'), [never, ...unpaid, ...written.map(head)]));
  const call = (
    days: number,
    which: number,
    more: (day: CalendarDate) => Omit<Parameters<typeof logContact>[1], 'householdId' | 'kind' | 'key'>,
  ): void =>
    at(days, async (day) =>
      logContact(on(day, 'collector'), {
        householdId: head(which),
        kind: 'call',
        sure: true,
        key: `demo contact ${head(which)} ${days}`,
        ...more(day),
      }),
    );
  call(24, waiting!, () => ({ outcome: 'no-answer' }));
  call(20, waiting!, () => ({ outcome: 'left-word', said: 'asked to be called back' }));
  call(6, promised!, (day) => ({
    outcome: 'promise',
    whom: 'the guarantor',
    said: 'gets paid on the 25th',
    amount: '180.00',
    by: addDays(day, 15),
  }));
  call(15, broken!, (day) => ({
    outcome: 'promise',
    said: 'will send a check',
    amount: '100.00',
    by: addDays(day, 11),
  }));
  call(9, argues!, () => ({
    direction: 'in',
    outcome: 'dispute',
    said: 'says the visit of June was another person’s',
  }));
  call(3, second!, (day) => ({ outcome: 'no-answer', againOn: addDays(day, 3) }));
  agencyHappens(at, on, {
    placed: () => [head(paid), never, head(disputed), head(returned), head(recovered)],
    recovered: () => head(recovered),
    waiting: () => head(waiting),
  });
  at(0, async (day) => {
    await watchPromises(on(day, 'manager'));
    await proposeByRule(on(day));
    const { id: userId } = on(day, 'collector').user;
    await assignOverdue(on(day, 'manager'), {
      householdIds: [waiting, broken, second].map(head),
      userId,
    });
  });
}

/** Accounts that go to an agency: what its answers do to five, one that is given up and pays after all, one that waits for a manager. */
function agencyHappens(
  at: At,
  on: On,
  accounts: { placed: () => number[]; recovered: () => number; waiting: () => number },
): void {
  const propose = async (context: Context, householdId: number, why: string): Promise<unknown> => {
    const { id: connectionId } = await context.db
      .selectFrom('connection')
      .select('id')
      .where('kind', '=', 'agency')
      .executeTakeFirstOrThrow();
    return proposePlacements(context, { householdIds: [householdId], connectionId, why, sure: true });
  };
  at(62, async (day) => {
    for (const householdId of accounts.placed())
      await propose(on(day, 'collector'), householdId, 'every letter was sent, nobody answers');
  });
  at(60, async (day) => {
    const proposals = await on(day)
      .db.selectFrom('placement')
      .select('id')
      .where('status', '=', 'proposed')
      .execute();
    await approvePlacements(on(day, 'manager'), { placementIds: proposals.map(({ id }) => id), sure: true });
  });
  for (const days of [60, 45, 30, 12]) at(days, async (day) => agencyRoundOn(on(day, 'manager')));
  // One is given up and pays after all.
  at(11, async (day) => {
    const { id: placementId } = await on(day)
      .db.selectFrom('placement')
      .select('id')
      .where('household_id', '=', accounts.recovered())
      .executeTakeFirstOrThrow();
    await recallPlacement(on(day, 'manager'), { placementId, why: 'moved away, nobody knows where' });
    await agencyRoundOn(on(day, 'manager'));
  });
  at(10, async (day) =>
    writeOffBadDebt(on(day, 'manager'), {
      householdId: accounts.recovered(),
      why: 'moved away, nobody knows where',
      key: 'demo bad debt',
    }),
  );
  at(3, async (day) => {
    const householdId = accounts.recovered();
    await takeReceipt(on(day, 'front-desk'), {
      householdId,
      tenders: [{ tender: 'check', amount: '60.00', reference: '4410' }],

      key: 'demo late payment',
    });
    await recoverBadDebt(on(day, 'front-desk'), { householdId, key: 'demo recovery' });
  });
  at(1, async (day) =>
    propose(on(day, 'collector'), accounts.waiting(), 'every letter was sent, calls are not answered'),
  );
}
