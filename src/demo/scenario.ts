/**
 * The Osprey Landing scenario: eighteen months of visits, claims, answers, payments and statements, made through the same use cases
 * that people use, with the stand-ins on the other side. Everything is invented and the same for every start on one day.
 */
import { rm, utimes } from 'node:fs/promises';
import pino from 'pino';
import { join } from 'node:path';
import { type CalendarDate, addDays, addMonths, weekday } from '../core/calendar';
import { cents, toDecimal } from '../core/money';
import type { Db } from '../db/connect';
import { addMember, registerHousehold } from '../server/accounts/register';
import { chargeAccount, enterCharge } from '../server/accounts/charges';
import { changeCoverage } from '../server/accounts/coverage';
import type { Context, Role } from '../server/access';
import { buildClaims } from '../server/claims/build';
import { claimsGoOn } from './claims-go-on';
import { contractLetter } from './contract-letter';
import { moneyAtTheDesk } from './money-at-the-desk';
import { paperRemittance } from './paper-remittance';
import { sendClaims } from '../server/claims/send';
import { exchangeRoot } from '../server/folders';
import { exchangeRound } from '../server/exchange/round';
import { spendCredit } from '../server/payments/credit';
import { openCharges } from '../server/books/open-lines';
import { takeReceipt } from '../server/payments/take';
import { acceptPlan, cancelPlan, proposePlan } from '../server/plans/agree';
import { watchPlans } from '../server/plans/watch';
import { postRemittance } from '../server/remittances/post';
import { closeFollowUp, settleWaiting } from '../server/follow-ups/work';
import { confirmPrinted } from '../server/batches/again';
import { draftStatements } from '../server/batches/drafts';
import { setConfidential } from '../server/accounts/confidential';
import { setStop } from '../server/accounts/stops';
import { addNote } from '../server/notes/notes';
import { setDelivery } from '../server/statements/household';
import { FIRST_ROWS } from '../core/statements/sets';
import { finishWork } from '../server/jobs/run';
import { startSendingBatch } from '../server/jobs/work';
import { PAYER_LIST, clearinghouseRound, payerListRound } from '../standins/clearinghouse';
import { draw } from '../standins/payers';
import { standinState } from './outside';
import { overdueHappens } from './overdue';
import { setUpPractice } from './setup';
import { storiesHappen } from './stories';
import { type At, type On, openDiary } from './diary';
import { type DemoHousehold, HOUSEHOLDS, type Person, VISITS } from './households';

const SEED = 'osprey';
const pick = (text: string, sides: number): number => draw(SEED, text, sides);

/** One round of everything: ours, the stand-in's, ours. Fresh files are made to look settled. */
async function fullRound(context: Context): Promise<void> {
  await exchangeRound(context);
  const root = join(exchangeRoot(), 'tideline');
  const listed = (await payerListRound(root)) ? [PAYER_LIST] : [];
  for (const name of [...listed, ...(await clearinghouseRound(root, standinState(), context.today, SEED))]) {
    const past = new Date(Date.now() - 60_000);
    await utimes(join(root, 'inbox', name), past, past);
  }
  await exchangeRound(context);
}

/** So many days the history is long: eighteen months. */
const DAYS = 548;

/**
 * Loads the scenario into an empty, migrated database.
 * @param today the last day of the history
 * @param users who did the work of the year
 * @param say told what is being done
 */
export async function loadScenario(
  db: Db,
  today: CalendarDate,
  users: Readonly<Record<Role, { id: string; name: string }>>,
  say: (words: string) => void,
): Promise<void> {
  // The stand-in starts without memory; files of an earlier scenario would answer claims that no longer exist.
  for (const folder of ['tideline', 'shoreline', 'pelican', 'gannet'])
    await rm(join(exchangeRoot(), folder), { recursive: true, force: true });
  const { providers, insurancePlans } = await setUpPractice(db);
  const on: On = (day, role = 'biller') => ({
    db,
    // Some hour of the day's work.
    now: new Date(`${day}T17:00:00Z`),
    today: day,
    user: { ...users[role], role },
  });
  const start = addDays(today, -DAYS);
  say('registering households');
  const people = await registerAll(on(start), insurancePlans);
  const named = (last: string): Person =>
    people.find((person) => HOUSEHOLDS[person.index]!.last === last && person.member === 0)!;
  const diary = openDiary(today);
  storiesHappen(diary.at, on, named, providers, insurancePlans);
  plansHappen(diary.at, on, people);
  overdueHappens(
    diary.at,
    on,
    named('Marlowe').householdId,
    ['Sato', 'Achterberg'].map((last) => named(last).householdId),
  );
  diary.at(20, (day) => writeToSome(on(day, 'manager'), people));
  diary.at(2, (day) => billOtherwise(on(day, 'manager'), people, providers));
  say('eighteen months of visits, claims and payments');
  const weeks = Math.floor(DAYS / 7);
  for (let week = 0; week < weeks; week += 1) {
    const monday = addDays(start, week * 7 + ((8 - weekday(start)) % 7));
    if (monday > today) break;
    await visitsOfWeek(on, people, providers, monday, today);
    const friday = addDays(monday, 4);
    if (friday > addDays(today, -8)) continue;
    await diary.until(friday);
    const context = on(friday);
    await buildClaims(context, {});
    await sendClaims(context, {});
    await fullRound(context);
    // Claims are decided in the round after the one that accepts them; the last weeks stay open for the desk to work.
    if (week % 2 === 1 && friday < addDays(today, -12)) await postAll(context);
    await patientsPay(on(addDays(friday, -1), 'front-desk'), people, week);
    if (week % 4 === 3) await workDenials(context);
    if (week % 4 === 3 && week < weeks - 5) await statements(context, week);
  }
  say('the last days');
  // One visit was entered without its diagnosis: its claim waits to be fixed.
  const hurried = people.find((person) => !person.dental && person.insured && person.index === 22)!;
  await enterCharge(on(addDays(today, -3)), {
    patientId: hurried.patientId,
    providerId: providers.family,
    serviceDate: addDays(today, -3),
    code: '99213',
    key: 'demo without diagnosis',
  });
  await claimsGoOn(on, today, insurancePlans, providers['family']!);
  await diary.until(addDays(today, -1));
  await buildClaims(on(addDays(today, -1)), {});
  await fullRound(on(today));
  await diary.until(today);
  const { id: householdId } = await db
    .selectFrom('household')
    .select('id')
    .where('last', '=', 'Marchetti')
    .executeTakeFirstOrThrow();
  await addNote(on(today), {
    householdId,
    words: 'Calls only after 4 pm',
    pinned: true,
    key: 'demo pinned note',
  });
  await moneyAtTheDesk(on, db, today, providers['family']!);
  await paperRemittance(on, db, today);
  await contractLetter(on, today);
}

async function registerAll(context: Context, insurancePlans: Record<string, number>): Promise<Person[]> {
  const people: Person[] = [];
  for (const [index, family] of HOUSEHOLDS.entries()) {
    const plan = (member: number) =>
      family.group
        ? {
            insurancePlanId: insurancePlans[family.group],
            memberId: memberId(
              family.group,
              index,
              member,
              family.ended && member === 0,
              family.mistyped && member === 0,
              family.again,
            ),
            groupNumber: family.group,
          }
        : {};
    const address = {
      line1: `${3 + index * 2} ${family.street}`,
      city: 'Osprey Landing',
      state: 'WA',
      zip: `9819${index % 10}-0${100 + index}`,
      phone: `555-01${String(index + 20).padStart(2, '0')}`,
      email: `${plainLetters(family.members[0]!.first)}.${plainLetters(family.last)}@example.com`,
    };
    const [head, ...others] = family.members;
    const made = await registerHousehold(context, {
      last: family.last,
      first: head!.first,
      birthDate: head!.birth,
      sex: head!.sex,
      ...address,
      ...plan(0),
      key: `demo household ${index}`,
    });
    const dental = family.group?.startsWith('TD') ?? index % 3 === 0;
    people.push({
      householdId: made.householdId,
      patientId: made.patientId,
      index,
      member: 0,
      insured: !!family.group,
      dental,
    });
    for (const [n, other] of others.entries()) {
      const added = await addMember(context, {
        householdId: made.householdId,
        last: family.last,
        first: other.first,
        birthDate: other.birth,
        sex: other.sex,
        ...plan(n + 1),
        key: `demo member ${index} ${n}`,
      });
      people.push({
        householdId: made.householdId,
        patientId: added.patientId,
        index,
        member: n + 1,
        insured: !!family.group,
        dental,
      });
    }
  }
  return people;
}

const plainLetters = (text: string): string =>
  text
    .normalize('NFD')
    .toLowerCase()
    .replace(/[^a-z]/g, '');

/** A member's id; its end says what the payer's books hold of it. */
function memberId(
  group: string,
  index: number,
  member: number,
  ended = false,
  mistyped = false,
  again?: DemoHousehold['again'],
): string {
  const serial = (index + 11) * 10 + member;
  const tail = ended
    ? '99'
    : again
      ? { 'deductible met': '88', 'pays less': '77' }[again]
      : String(serial % 77).padStart(2, '0');
  const id = group.startsWith('CS')
    ? `CSH${String(10000 + serial * 7).padStart(5, '0')}${tail}`
    : group.startsWith('NL')
      ? `NL${String(200000 + serial * 7).padStart(6, '0')}${tail}`
      : `T${String(300000 + serial * 7).padStart(6, '0')}${tail}`;
  return mistyped ? id.replace(/^[A-Z]+/, 'X') : id;
}

async function visitsOfWeek(
  on: On,
  people: readonly Person[],
  providers: Record<string, number>,
  monday: CalendarDate,
  today: CalendarDate,
): Promise<void> {
  for (const person of people) {
    const label = `${person.index}.${person.member}.${monday}`;
    const every = HOUSEHOLDS[person.index]!.everyWeeks ?? 15;
    if (every === 0 || pick(`visit ${label}`, every) !== 0) continue;
    const day = addDays(monday, pick(`day ${label}`, 5));
    if (day > today) continue;
    const context = on(day);
    const kinds = VISITS.filter(
      (visit) =>
        visit.dental === person.dental && (!visit.story || HOUSEHOLDS[person.index]!.story === visit.story),
    );
    const chosen = kinds[pick(`kind ${label}`, kinds.length)]!;
    for (const [n, service] of chosen.services.entries()) {
      await enterCharge(context, {
        patientId: person.patientId,
        providerId: providers[chosen.provider],
        serviceDate: day,
        code: service.code,
        units: service.units ?? 1,
        diagnoses: chosen.diagnoses,
        tooth: service.tooth ?? '',
        surfaces: service.surfaces ?? '',
        key: `demo ${label} ${n}`,
      });
    }
    if (!person.insured && pick(`cash ${label}`, 2) === 0)
      await payOpen(context, person.householdId, `cash ${label}`, 'cash');
  }
}

async function payOpen(
  context: Context,
  householdId: number,
  key: string,
  tender: 'cash' | 'check',
  share = 100,
): Promise<void> {
  const owed = (await openCharges(context, [householdId])).reduce((total, charge) => total + charge.owed, 0);
  const amount = cents(Math.floor((owed * share) / 100));
  if (amount <= 0) return;
  await takeReceipt(context, {
    householdId,
    tenders: [
      {
        tender,
        amount: toDecimal(amount),
        reference: tender === 'check' ? String(1000 + pick(key, 8999)) : '',
      },
    ],

    key: `demo ${key}`,
  });
}

async function patientsPay(context: Context, people: readonly Person[], week: number): Promise<void> {
  for (const person of people.filter((item) => item.member === 0)) {
    const habit = HOUSEHOLDS[person.index]!.pays ?? 'well';
    const label = `pay ${person.index} ${week}`;
    if (habit === 'never') continue;
    if (habit === 'ahead' && week % 9 === 4) {
      await takeReceipt(context, {
        householdId: person.householdId,
        tenders: [{ tender: 'check', amount: '150.00', reference: String(2000 + week) }],

        key: `demo ahead ${person.index} ${week}`,
      });
    } else if (habit === 'ahead')
      await spendCredit(context, {
        householdId: person.householdId,
        key: `demo credit ${person.index} ${week}`,
      }).catch(() => undefined);
    else if (habit === 'well' && pick(label, 3) === 0)
      await payOpen(context, person.householdId, label, pick(`${label} how`, 2) === 0 ? 'cash' : 'check');
    else if (habit === 'slowly' && pick(label, 6) === 0)
      await payOpen(context, person.householdId, label, 'check', 40);
  }
}

async function postAll(context: Context): Promise<void> {
  const ready = await context.db
    .selectFrom('remittance')
    .select('id')
    .where('status', '=', 'ready')
    .orderBy('id')
    .execute();
  for (const { id } of ready) await postRemittance(context, id);
}

/** Denials of small parts are written off after a while; the newest stay for the desk. */
async function workDenials(context: Context): Promise<void> {
  const old = await context.db
    .selectFrom('follow_up as f')
    .innerJoin('charge_balance as b', 'b.charge_id', 'f.charge_id')
    .select(['f.id', 'f.kind', 'f.charge_id', 'f.amount', 'b.with_payer'])
    .where('f.closed_at', 'is', null)
    .where('f.due_date', '<', addDays(context.today, -21))
    .orderBy('f.id')
    .execute();
  for (const item of old) {
    if (item.kind === 'short-payment')
      await closeFollowUp(context, {
        followUpId: item.id,
        outcome: 'Called the payer: paid as its schedule says',
      });
    else if (item.kind === 'denial' && item.with_payer > 0 && item.with_payer <= 14_000)
      await settleWaiting(context, {
        chargeId: item.charge_id!,
        to: 'off',
        why: 'Included in another service, confirmed by the payer',
      });
  }
}

/** The statements of four weeks: prepared by the rules, printed here, confirmed. */
async function statements(context: Context, week: number): Promise<void> {
  const { batchId } = await draftStatements(context, {
    title: 'Every four weeks',
    rows: [...FIRST_ROWS],
    key: `demo statements ${week}`,
  });
  const log = pino({ level: 'silent' });
  const workId = await startSendingBatch(context, { batchId });
  await finishWork(context.db, workId, log);
  await confirmPrinted(context, { batchId });
}

/** Some accounts are not like the others: by e-mail or print shop, stopped, held, with a word for the patient. */
async function writeToSome(context: Context, people: readonly Person[]): Promise<void> {
  const heads = people.filter((person) => person.member === 0);
  const head = (at: number): number => heads[at % heads.length]!.householdId;
  const reason = async (name: string): Promise<number> =>
    (
      await context.db
        .selectFrom('stop_reason')
        .select('id')
        .where('name', '=', name)
        .executeTakeFirstOrThrow()
    ).id;
  for (const at of [3, 8, 13, 18]) await setDelivery(context, { householdId: head(at), delivery: 'email' });
  for (const at of [5, 10, 15, 20, 25])
    await setDelivery(context, { householdId: head(at), delivery: 'print-shop' });
  await setDelivery(context, {
    householdId: head(30),
    delivery: 'none',
    deliveryWhy: 'pays at each visit',
    category: 'staff',
  });
  await setDelivery(context, {
    householdId: head(32),
    delivery: 'mail',
    holdUntil: addDays(context.today, 20),
    holdWhy: 'the employer pays a part of it next month',
  });
  await setStop(context, {
    householdId: head(34),
    reasonId: await reason('attorney'),
    note: 'wants everything in writing to the attorney',
  });
  await addNote(context, {
    householdId: head(6),
    audience: 'patient',
    words: 'Thank you for the new insurance card: the claim of January was sent again.',
    times: 2,
    key: 'demo note',
  });
}

/**
 * Some are billed otherwise: one whose cost shares may not be billed, one with an address apart, two in one envelope, one who
 * keeps a visit from the insurer, and one with planned treatment.
 */
async function billOtherwise(
  context: Context,
  people: readonly Person[],
  providers: Record<string, number>,
): Promise<void> {
  const named = (last: string, member = 0): Person =>
    people.find((person) => HOUSEHOLDS[person.index]!.last === last && person.member === member)!;
  const finn = named('O’Rourke', 1);
  const coverage = await context.db
    .selectFrom('covered as o')
    .innerJoin('care_case as k', 'k.id', 'o.case_id')
    .select(['o.id', 'o.member_id', 'o.group_number'])
    .where('k.patient_id', '=', finn.patientId)
    .executeTakeFirstOrThrow();
  await changeCoverage(context, {
    coverageId: coverage.id,
    memberId: coverage.member_id,
    groupNumber: coverage.group_number,
    billPatient: 'never',
    billPatientWhy: 'medicaid',
  });
  await setConfidential(context, {
    patientId: named('Abernathy', 1).patientId,
    name: 'June Abernathy',
    line1: '4 Heron Steps',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98191-0044',
    why: 'asked for on the telephone, looked at by the manager',
  });
  const { number } = await context.db
    .selectFrom('household')
    .select('number')
    .where('id', '=', named('Castellano').householdId)
    .executeTakeFirstOrThrow();
  await setDelivery(context, {
    householdId: named('Petrov').householdId,
    delivery: 'mail',
    mailedWith: number,
  });
  await enterCharge(context, {
    patientId: named('Delacroix').patientId,
    providerId: providers.family,
    serviceDate: context.today,
    code: '99213',
    diagnoses: ['I10'],
    keptFromPayers: true,
    sure: true,
    key: 'demo kept visit',
  });
  const crown = named('Halvorsen');
  for (const [at, code] of ['D2740', 'D2950', 'D0220'].entries())
    await enterCharge(context, {
      patientId: crown.patientId,
      providerId: providers.dental,
      serviceDate: addDays(context.today, 10 + at * 14),
      code,
      tooth: '19',
      planned: true,
      sure: true,
      key: `demo planned ${at}`,
    });
}

/**
 * Plans in each state: proposed, agreed, running, ahead, behind, broken, finished, changed, cancelled, for balances that were
 * brought in some time ago.
 */
function plansHappen(at: At, on: On, people: readonly Person[]): void {
  const heads = people.filter((person) => person.member === 0);
  const made = new Map<string, number>();
  const agree = (
    who: number,
    days: number,
    amount: string,
    more: { rate?: string; installments?: number; accepted?: boolean; replaces?: string } = {},
  ): string => {
    const name = `${who} ${days}`;
    at(days, async (day) => {
      const { householdId, index } = heads[who]!;
      const then = on(day, 'manager');
      const chargeIds =
        amount === ''
          ? []
          : [
              await chargeAccount(then, {
                householdId,
                kind: 'opening',
                amount,
                date: day,
                memo: 'Brought in from the earlier system',
                key: `demo opening ${name}`,
              }),
            ];
      const planId = await proposePlan(then, {
        householdId,
        chargeIds,
        replaces: more.replaces === undefined ? undefined : made.get(more.replaces),
        amount: amount === '' ? undefined : amount,
        rate: more.rate ?? '0',
        installments: more.installments ?? 6,
        first: addMonths(day, 1),
        key: `demo plan ${name}`,
      });
      made.set(name, planId);
      if (more.accepted !== false) await acceptPlan(then, { planId, signedBy: HOUSEHOLDS[index]!.last });
    });
    return name;
  };
  const pay = (name: string, days: number, amount: string): void =>
    at(days, async (day) => {
      const planId = made.get(name)!;
      await takeReceipt(on(day, 'front-desk'), {
        householdId: heads[Number(name.split(' ')[0])]!.householdId,
        tenders: [{ tender: 'check', amount, reference: String(3000 + planId * 100 + days) }],

        plans: { [planId]: amount },
        key: `demo installment of ${planId} ${days}`,
      });
    });
  agree(16, 1, '480.00', { accepted: false });
  agree(17, 4, '600.00', { rate: '5', installments: 12 });
  const running = agree(4, 70, '560.00', { rate: '5' });
  const level = '94.70';
  pay(running, 40, level);
  pay(running, 10, level);
  const ahead = agree(19, 65, '420.00');
  pay(ahead, 30, '70.00');
  pay(ahead, 5, '210.00');
  const behind = agree(9, 75, '390.00');
  pay(behind, 44, '65.00');
  // One of those that hold no credit, which would need no plan.
  const finished = agree(24, 100, '150.00', { installments: 3 });
  pay(finished, 68, '50.00');
  pay(finished, 40, '100.00');
  agree(22, 95, '240.00');
  at(20, (day) => watchPlans(on(day, 'manager')));
  const changed = agree(23, 50, '720.00', { installments: 9 });
  pay(changed, 19, '80.00');
  agree(23, 3, '', { replaces: changed, installments: 16, rate: '4' });
  const cancelled = agree(12, 45, '200.00', { installments: 4 });
  at(15, (day) =>
    cancelPlan(on(day, 'manager'), {
      planId: made.get(cancelled)!,
      why: 'pays all of it when the bonus comes',
    }),
  );
}
