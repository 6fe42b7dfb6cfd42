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
import { type Context, Refused, type Role } from '../server/access';
import { exchangeRoot } from '../server/exchange/folders';
import { exchangeRound } from '../server/exchange/round';
import { finishWork } from '../server/jobs/run';
import { startSendingBatch } from '../server/jobs/work';
import { assignOverdue, logContact, watchPromises } from '../server/overdue/contacts';
import { askHardship } from '../server/overdue/hardship';
import { draftLetters } from '../server/overdue/due-letters';
import { recoverBadDebt, writeOffBadDebt } from '../server/overdue/agency-money';
import { recallPlacement } from '../server/overdue/placements';
import { approvePlacements, proposeByRule, proposePlacements } from '../server/overdue/proposals';
import { takeReceipt } from '../server/payments/receipts';
import { confirmPrinted } from '../server/statements/again';
import { prepareStatement } from '../server/statements/prepare';
import { agencyTurn } from './outside';

type On = (day: CalendarDate, role?: Role) => Context;

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

/** Makes what is overdue, and small balances that are left over from long ago. */
export async function makeOverdue(on: On, today: CalendarDate): Promise<void> {
  const ago = (days: number): CalendarDate => addDays(today, -days);
  const heads = await registerDebtors(on(ago(221), 'front-desk'));
  /** A balance brought in so many days ago, with its statement of the day after. */
  const owes = async (householdId: number, amount: string, days: number): Promise<number> => {
    await chargeAccount(on(ago(days), 'manager'), {
      householdId,
      kind: 'opening',
      amount,
      date: ago(days),
      memo: 'Brought in from the earlier system',
      key: `demo overdue ${householdId} ${days}`,
    });
    await prepareStatement(on(ago(days - 1)), {
      householdId,
      key: `demo overdue statement ${householdId} ${days}`,
    });
    return householdId;
  };
  const [paid, part, disputed, returned, recovered, waiting, promised, broken, argues, young, first, second] =
    heads;
  const third = heads[15]!;
  const placed = [paid!, part!, disputed!, returned!, recovered!];
  for (const [at, amount] of ['412.60', '655.00', '238.40', '519.75', '187.20'].entries())
    await owes(placed[at]!, amount, 220);
  for (const [id, amount] of [
    [waiting!, '946.30'],
    [promised!, '364.00'],
    [broken!, '275.50'],
    [argues!, '158.00'],
  ] as const)
    await owes(id, amount, 140);
  await owes(young!, '84.00', 20);
  await owes(first!, '129.90', 42);
  await owes(second!, '301.15', 70);
  await owes(third, '212.45', 90);
  const all = [...placed, waiting!, promised!, broken!, argues!, first!, second!, third];
  // Stages at 10, 30 and 60 days past due, which begins twenty-five days after the statement.
  for (const days of [180, 160, 130, 100, 80, 50, 30]) await lettersOn(on(ago(days), 'collector'), all);
  const collector = (days: number): Context => on(ago(days), 'collector');
  const call = (
    days: number,
    householdId: number,
    more: Omit<Parameters<typeof logContact>[1], 'householdId' | 'kind' | 'key'>,
  ): Promise<number> =>
    logContact(collector(days), {
      householdId,
      kind: 'call',
      sure: true,
      key: `demo contact ${householdId} ${days}`,
      ...more,
    });
  await call(24, waiting!, { outcome: 'no-answer' });
  await call(20, waiting!, { outcome: 'left-word', said: 'asked to be called back' });
  await call(6, promised!, {
    outcome: 'promise',
    whom: 'the guarantor',
    said: 'gets paid on the 25th',
    amount: '180.00',
    by: addDays(today, 9),
  });
  await call(15, broken!, { outcome: 'promise', said: 'will send a check', amount: '100.00', by: ago(4) });
  await call(9, argues!, {
    direction: 'in',
    outcome: 'dispute',
    said: 'says the visit of June was another person’s',
  });
  await call(3, second!, { outcome: 'no-answer', againOn: today });
  await watchPromises(on(today, 'manager'));
  const agency = await on(today)
    .db.selectFrom('connection')
    .select('id')
    .where('kind', '=', 'agency')
    .executeTakeFirstOrThrow();
  for (const householdId of placed)
    await proposePlacements(collector(62), {
      householdIds: [householdId],
      connectionId: agency.id,
      why: 'every letter was sent, nobody answers',
    });
  const proposals = await on(today)
    .db.selectFrom('placement')
    .select('id')
    .where('status', '=', 'proposed')
    .orderBy('id')
    .execute();
  await approvePlacements(on(ago(60), 'manager'), { placementIds: proposals.map(({ id }) => id) });
  for (const days of [60, 45, 30, 12]) await agencyRoundOn(on(ago(days), 'manager'));
  // One is given up and pays after all.
  await recallPlacement(on(ago(11), 'manager'), {
    placementId: proposals[4]!.id,
    why: 'moved away, nobody knows where',
  });
  await agencyRoundOn(on(ago(11), 'manager'));
  await writeOffBadDebt(on(ago(10), 'manager'), {
    householdId: recovered!,
    why: 'moved away, nobody knows where',
    key: 'demo bad debt',
  });
  await takeReceipt(on(ago(3), 'front-desk'), {
    householdId: recovered!,
    amount: '60.00',
    tender: 'check',
    reference: '4410',
    key: 'demo late payment',
  });
  await recoverBadDebt(on(ago(3), 'front-desk'), { householdId: recovered!, key: 'demo recovery' });
  await proposePlacements(collector(1), {
    householdIds: [waiting!],
    connectionId: agency.id,
    why: 'every letter was sent, calls are not answered',
  });
  await askHardship(collector(2), {
    householdId: third,
    size: 3,
    income: '34500.00',
    evidence: 'tax return of last year',
    key: 'demo hardship',
  });
  await proposeByRule(on(today));
  const { id: userId } = collector(0).user;
  await assignOverdue(on(today, 'manager'), { householdIds: [waiting!, broken!, second!], userId });
  for (const [at, amount] of ['3.20', '7.85', '9.10'].entries())
    await chargeAccount(on(ago(120), 'manager'), {
      householdId: heads[12 + at]!,
      kind: 'opening',
      amount,
      date: ago(120),
      memo: 'Brought in from the earlier system',
      key: `demo small ${at}`,
    });
}
