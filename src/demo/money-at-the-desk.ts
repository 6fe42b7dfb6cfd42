/**
 * Stories of money at the desk: five visits paid at once, a check that came back, refunds, check-in, a drawer counted short, receipts by
 * e-mail, owners who are not heard of, and what was taken to the bank week by week.
 */
import { rm } from 'node:fs/promises';
import { resolve } from 'node:path';
import { type CalendarDate, addDays, weekday } from '../core/calendar';
import type { Db } from '../db/connect';
import { enterCharge } from '../server/accounts/charges';
import { addMember, registerHousehold } from '../server/accounts/register';
import { setDelivery } from '../server/statements/household';
import { makeDeposit } from '../server/payments/deposit';
import { giveBack } from '../server/payments/refund';
import { writeCreditLetters } from '../server/payments/unclaimed';
import { closeDrawer, dropFromDrawer, openDrawer } from '../server/payments/drawers';
import { sendReceipts } from '../server/payments/receipt-mail';
import { returnTender } from '../server/payments/put-right';
import { takeReceipt } from '../server/payments/take';
import { readCard, startReading, takePayment } from '../server/payments/terminal';
import { importVisits } from '../server/payments/visits';
import { serveTerminal } from '../standins/terminal';
import type { On } from './diary';

/** Where the demo's terminal keeps what it did. */
const FOLDER = (): string => process.env.WERGELD_TERMINAL_FOLDER ?? resolve('.data/terminal');

/** A household that pays by itself. @returns it with its first person */
const selfPayer = (on: On, day: CalendarDate, last: string, first: string) =>
  registerHousehold(on(day, 'front-desk'), {
    last,
    first,
    birthDate: '1979-09-21',
    sex: 'F',
    line1: '17 Tern Lane',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98190-0144',
    phone: '206-555-0144',
    email: '',
    sure: true,
    key: `demo ${last} household`,
  });

/** A visit that nobody insures. */
const visit = (on: On, day: CalendarDate, patientId: number, providerId: number, fee: string) =>
  enterCharge(on(day), {
    patientId,
    providerId,
    serviceDate: day,
    code: '99213',
    diagnoses: ['I10'],
    fee,
    sure: true,
    key: `demo money ${patientId} ${day} ${fee}`,
  });

/** The stories, on the last days of the year. */
export async function moneyAtTheDesk(on: On, db: Db, today: CalendarDate, provider: number): Promise<void> {
  const { id: site } = await db.selectFrom('location').select('id').orderBy('id').executeTakeFirstOrThrow();
  await rm(FOLDER(), { recursive: true, force: true });
  const given = process.env.WERGELD_TERMINAL;
  const terminal = await serveTerminal(0, { folder: FOLDER(), today: () => today });
  process.env.WERGELD_TERMINAL = terminal.url;
  try {
    await storiesOf(on, today, provider, site, terminal.url);
    await silentOwners(on, today, site);
    await toTheBank(on, db, addDays(today, -3));
    // Nothing of the demo is left to be done by whoever comes next.
    await sendReceipts(on(today, 'manager'));
  } finally {
    await terminal.stop();
    if (given === undefined) delete process.env.WERGELD_TERMINAL;
    else process.env.WERGELD_TERMINAL = given;
  }
}

async function storiesOf(
  on: On,
  today: CalendarDate,
  provider: number,
  site: number,
  url: string,
): Promise<void> {
  const clerk = on(today, 'front-desk');
  const card = async (lastFour: string, amount: number): Promise<string> => {
    const key = crypto.randomUUID();
    await startReading(clerk, { key, locationId: site, entry: 'device', amount });
    await fetch(`${url}/frame/${key}`, { method: 'POST', body: new URLSearchParams({ card: lastFour }) });
    await readCard(clerk, { key, locationId: site });
    return key;
  };
  // Yesterday's drawer was two dollars short.
  const before = on(addDays(today, -1), 'front-desk');
  const old = await openDrawer(before, { locationId: site, opening: '100.00', key: 'demo drawer before' });
  const five = await selfPayer(on, addDays(today, -45), 'Vasquez', 'Carmen');
  const people = [five.patientId];
  for (const [first, birthDate] of [
    ['Tomas', '2012-03-02'],
    ['Elena', '2015-11-19'],
  ] as const)
    people.push(
      (
        await addMember(on(addDays(today, -45), 'front-desk'), {
          householdId: five.householdId,
          last: 'Vasquez',
          first,
          birthDate,
          sex: 'F',
          sure: true,
          key: `demo Vasquez ${first}`,
        })
      ).patientId,
    );
  const visits = [
    [0, 40, '120.00'],
    [0, 30, '580.00'],
    [0, 20, '318.00'],
    [1, 10, '100.00'],
    [2, 5, '115.00'],
  ] as const;
  for (const [whose, ago, fee] of visits)
    await visit(on, addDays(today, -ago), people[whose]!, provider, fee);
  await takeReceipt(before, {
    householdId: five.householdId,
    locationId: site,
    tenders: [{ tender: 'cash', amount: '64.00', given: '70.00' }],
    paidBy: 'Rosa Vasquez',
    note: 'the rest tomorrow',
    key: 'demo Vasquez before',
  });
  await dropFromDrawer(before, { drawerId: old, amount: '50.00', words: 'safe', key: 'demo drop' });
  await closeDrawer(before, {
    drawerId: old,
    counted: '112.00',
    checks: 0,
    why: 'two dollars too much given out as change',
    key: 'demo drawer closed',
  });
  await openDrawer(clerk, { locationId: site, opening: '100.00', key: 'demo drawer today' });
  // All that is left at once: cash, and a debit card for the rest.
  await takePayment(clerk, {
    householdId: five.householdId,
    locationId: site,
    tenders: [
      { tender: 'cash', amount: '936.00', given: '940.00' },
      { tender: 'card', amount: '233.00', reading: await card('2003', 23_300) },
    ],
    key: 'demo Vasquez today',
  });
  // A check that came back.
  const bounced = await selfPayer(on, addDays(today, -25), 'Petrov', 'Anton');
  await visit(on, addDays(today, -25), bounced.patientId, provider, '145.00');
  const { receiptId } = await takeReceipt(on(addDays(today, -20), 'front-desk'), {
    householdId: bounced.householdId,
    locationId: site,
    tenders: [{ tender: 'check', amount: '145.00', reference: '2207' }],
    key: 'demo Petrov check',
  });
  const manager = on(addDays(today, -6), 'manager');
  const tender = await clerk.db
    .selectFrom('tender')
    .select('id')
    .where('receipt_id', '=', receiptId)
    .executeTakeFirstOrThrow();
  await returnTender(manager, {
    tenderId: tender.id,
    why: 'not enough on the account',
    fee: true,
    noChecks: true,
    key: 'demo Petrov returned',
  });
  // Paid too much by a credit card with its surcharge; a part of it went back.
  const over = await selfPayer(on, addDays(today, -3), 'Haugen', 'Liv');
  const paid = await takePayment(clerk, {
    householdId: over.householdId,
    locationId: site,
    tenders: [{ tender: 'card', amount: '80.00', surcharge: 200, reading: await card('1005', 8_000) }],
    key: 'demo Haugen card',
  });
  await giveBack(on(today, 'manager'), {
    receiptId: paid.receiptId,
    amount: '20.00',
    tender: 'card',
    reference: '',
    why: 'one visit less',
    key: 'demo Haugen back',
  });
  // More than a biller may give back: it waits for the manager.
  const moved = await selfPayer(on, addDays(today, -12), 'Oyelaran', 'Bisi');
  const deposit = await takeReceipt(on(addDays(today, -12), 'front-desk'), {
    householdId: moved.householdId,
    locationId: site,
    tenders: [{ tender: 'check', amount: '340.00', reference: '1189' }],
    note: 'deposit for a treatment that is not done after all',
    key: 'demo Oyelaran check',
  });
  await giveBack(on(today, 'biller'), {
    receiptId: deposit.receiptId,
    amount: '340.00',
    tender: 'check',
    reference: 'R-1044',
    why: 'moved to another town',
    key: 'demo Oyelaran back',
  });
  // Every receipt of this account goes by e-mail.
  await clerk.db
    .updateTable('household')
    .set({ email: 'liv.haugen@example.com' })
    .where('id', '=', over.householdId)
    .execute();
  await setDelivery(clerk, { householdId: over.householdId, delivery: 'mail', receiptsByEmail: true });
  // Who is expected today, as the program that plans visits tells it.
  await importVisits(clerk, {
    name: 'today.csv',
    text: [
      'key,last,first,birth date,day,time,provider,site,reason,codes',
      `p-101,Vasquez,Tomas,2012-03-02,${today},08:45,Okafor,Harbor Street,check of the ears,99213`,
      `p-102,Haugen,Liv,1979-09-21,${today},09:30,Tamura,Harbor Street,knee after the fall,97110 97140`,
      `p-103,Petrov,Anton,1979-09-21,${today},10:15,Okafor,Harbor Street,blood pressure`,
      `p-104,Winters,Jo,1988-01-30,${today},11:00,Brandt,Mill Lane,first visit`,
    ].join('\n'),
  });
  const expected = await clerk.db
    .selectFrom('expected_visit')
    .select('id')
    .where('source_key', '=', 'p-102')
    .executeTakeFirstOrThrow();
  await takeReceipt(clerk, {
    householdId: over.householdId,
    locationId: site,
    expectedVisitId: expected.id,
    tenders: [{ tender: 'cash', amount: '35.00', given: '40.00' }],
    key: 'demo Haugen check-in',
  });
}

/** Two owners of credit who were not heard of for almost three years: one is to be written to, to one a letter is out. */
async function silentOwners(on: On, today: CalendarDate, site: number): Promise<void> {
  for (const [last, first, ago] of [
    ['Kessler', 'Ilse', 1040],
    ['Abernathy', 'Roy', 1065],
  ] as const) {
    const day = addDays(today, -ago);
    const { householdId } = await selfPayer(on, day, last, first);
    await takeReceipt(on(day, 'front-desk'), {
      householdId,
      locationId: site,
      tenders: [{ tender: 'check', amount: last === 'Kessler' ? '96.40' : '118.00', reference: '318' }],
      key: `demo ${last} credit`,
    });
    if (last === 'Abernathy')
      await writeCreditLetters(on(addDays(today, -30), 'manager'), {
        owners: [{ householdId }],
        key: 'demo Abernathy letter',
      });
  }
}

/** What was taken until a day, brought to the bank at the end of each week; after what is closed on the first day that is open. */
async function toTheBank(on: On, db: Db, until: CalendarDate): Promise<void> {
  const places = await db.selectFrom('place').select(['id', 'kind']).where('closed_on', 'is', null).execute();
  const bank = places.find(({ kind }) => kind === 'bank')!.id;
  const { closed_through: closed } = await db
    .selectFrom('practice')
    .select('closed_through')
    .executeTakeFirstOrThrow();
  for (const { id: fromPlaceId, kind } of places) {
    if (kind !== 'undeposited' && kind !== 'clearing') continue;
    const waiting = await db
      .selectFrom('tender as t')
      .innerJoin('receipt as r', 'r.id', 't.receipt_id')
      .select(['t.id', 'r.received_on as day'])
      .where('t.place_id', '=', fromPlaceId)
      .where('t.state', '=', 'taken')
      .where('r.received_on', '<=', until)
      .orderBy('r.received_on')
      .execute();
    const weeks = new Map<CalendarDate, number[]>();
    for (const { id, day } of waiting) {
      const friday = addDays(day, (12 - weekday(day)) % 7);
      const open = closed !== null && friday <= closed ? addDays(closed, 1) : friday;
      const date = open > until ? until : open;
      weeks.set(date, [...(weeks.get(date) ?? []), id]);
    }
    for (const [date, tenderIds] of weeks)
      await makeDeposit(on(date, 'manager'), {
        fromPlaceId,
        toPlaceId: bank,
        date,
        number: '',
        tenderIds,
        key: `demo deposit ${fromPlaceId} ${date}`,
      });
  }
}
