/**
 * Credit whose owner is not heard of. It never becomes income: it rests as long as the state of the owner's last address says, a letter
 * asks the owner first, and then it is handed over to that state, which keeps it for the owner.
 */
import { sql } from 'kysely';
import { refundEntry } from '../../core/books/entries/patients';
import { type CalendarDate, addDays, formatDate } from '../../core/calendar';
import { type Cents, ZERO, add, formatMoneyPlain, negate, sum } from '../../core/money';
import { creditLetterDocument, creditLetterWords, readDormancy } from '../../core/payments/dormancy';
import {
  answerCreditLetterInput,
  creditLettersInput,
  dormancyInput,
  handOverCreditInput,
} from '../../core/payments/input';
import { type Context, Refused, allow, audit } from '../access';
import { broughtLines } from '../brought';
import { heldReceipts } from '../books/balances';
import { lockHouseholds, writeEntries } from '../books/journal';
import { allowOpen } from '../closed';
import { day, list, money, textLike, words } from '../lists/list';
import { noteBeside } from '../notes/notes';
import { addressWindow, factsBeside, letterhead } from '../print/blocks';
import { Paper } from '../print/paper';
import { type Act, useCase } from '../use-case';
import { FREE, HELD, PROPOSED } from './credits';
import { keepRefund } from './receipts';
import { keepTender } from './tenders';

/**
 * Credit that is free, with what its state says: since when its owner was not heard of (a payment, a service, a call in which somebody
 * was spoken to, an answer to a letter), the day until which it rests, and the letter that is out since.
 */
const DORMANT = sql`
  ${HELD}
  left join confidential_address x on x.patient_id = nullif(g.part, 0) and x.ended_on is null
  cross join lateral (
    select
      greatest(
        (
          select max(r.received_on)
          from receipt r
            join receipt_balance b on b.receipt_id = r.id
          where r.household_id = g.household_id
            and r.refund_of is null
            and r.placement_id is null
            and (g.part = 0 or r.patient_id = g.part)
        ),
        (
          select max(c.service_date)
          from charge c
          where c.household_id = g.household_id
            and c.status = 'done'
            and c.patient_id is not null
            and (g.part = 0 or c.patient_id = g.part)
        ),
        (
          select max(k.business_date)
          from contact k
          where k.household_id = g.household_id
            and (k.direction = 'in' or k.outcome in ('spoke', 'refused', 'promise', 'dispute', 'hardship'))
            and not exists (select from contact_void z where z.contact_id = k.id)
        ),
        (
          select max(w.answered_on)
          from credit_letter w
          where w.household_id = g.household_id and coalesce(w.patient_id, 0) = g.part
        ),
        g.since
      )::date as on_day,
      case when g.part = 0 then h.state else x.state end as state
  ) n
  left join dormancy d on d.state = n.state
  cross join lateral (
    select (n.on_day + make_interval(months => d.months))::date as until,
      (n.on_day + make_interval(months => d.months))::date - d.letter_days as letter_from
  ) u
  left join lateral (
    select w.id, w.date
    from credit_letter w
    where w.household_id = g.household_id
      and coalesce(w.patient_id, 0) = g.part
      and w.answered_on is null
      and w.handed_on is null
      and w.date > n.on_day
    order by w.id desc
    limit 1
  ) w on true`;

/** What no open charge takes, in cents: what open charges take is not unclaimed. */
const REST = sql<Cents>`(${FREE} - ${PROPOSED})`;
/** Asked first, once for all: credit that is younger than any state lets it rest is none of this; months differ by three days. */
const isOld = (today: CalendarDate) => sql<boolean>`
  g.since <= ${today}::date - (
    select make_interval(months => min(o.months), days => -3 - max(o.letter_days)) from dormancy o
  )`;
const isToWrite = (today: CalendarDate) => sql<boolean>`
  (${isOld(today)} and d.state is not null and w.id is null and ${REST} >= d.least and u.letter_from <= ${today}::date)`;
const isToHandOver = (today: CalendarDate) => sql<boolean>`
  (
    ${isOld(today)}
    and d.state is not null
    and u.until <= ${today}::date
    and case when w.id is null then ${REST} < d.least else w.date + d.letter_days <= ${today}::date end
  )`;

/** Credit whose owner is not heard of, that of the longest silence first. */
export const unclaimedList = list({
  name: 'unclaimed',
  noun: ['credit', 'credits'],
  permission: 'read accounts',
  station: 'Payments',
  path: '/payments/unclaimed',
  from: DORMANT,
  always: () => sql`${REST} > 0`,
  household: sql`g.household_id`,
  id: sql`g.id`,
  columns: {
    account: words('Account', sql`h.number`),
    owner: words(
      'Owner',
      sql`case when g.part = 0 then h.last || ', ' || h.first else coalesce(x.name, '') || ', kept apart' end`,
    ),
    state: words('State', sql`coalesce(n.state, '')`),
    heard: day('Last heard of', sql`n.on_day`),
    letterFrom: day('Letter from', sql`u.letter_from`),
    letter: day('Letter of', sql`w.date`),
    until: day('Rests until', sql`greatest(u.until, w.date + d.letter_days)`),
    amount: money('Credit', REST),
  },
  hidden: {
    householdId: sql<number>`g.household_id`,
    patientId: sql<number | null>`nullif(g.part, 0)`,
    letterId: sql<number | null>`w.id`,
  },
  views: {
    write: {
      label: 'To write to',
      without: ['letter'],
      where: ({ today }) => isToWrite(today),
      waits: {
        words: ['owner of credit is to be written to', 'owners of credit are to be written to'],
        sum: 'amount',
      },
    },
    out: {
      label: 'Letter is out',
      without: ['letterFrom'],
      where: ({ today }) => sql`w.id is not null and not ${isToHandOver(today)}`,
    },
    hand: {
      label: 'To hand over',
      without: ['letterFrom'],
      where: ({ today }) => isToHandOver(today),
      waits: {
        words: ['credit is to be handed over to a state', 'credits are to be handed over to a state'],
        sum: 'amount',
      },
    },
    rests: {
      label: 'Rests',
      where: ({ today }) =>
        sql`d.state is not null and w.id is null and not ${isToWrite(today)} and not ${isToHandOver(today)}`,
    },
    unknown: { label: 'State not in the table', where: () => sql`d.state is null` },
    all: { label: 'All' },
  },
  search: (like) => sql`lower(h.last || ', ' || h.first) like ${like} or ${textLike(sql`h.number`, like)}`,
  order: sql`n.on_day, g.id`,
});

/** Whose credit. */
interface Owner {
  householdId: number;
  patientId: number | null;
}
/** What is known of dormant credit of an owner, in cents, and whether a letter, or handing it over, is due. */
interface Dormant extends Owner {
  account: string;
  amount: Cents;
  /** What open charges take of its credit. */
  proposed: Cents;
  heard: CalendarDate;
  state: string;
  until: CalendarDate | null;
  letterFrom: CalendarDate | null;
  letterDays: number | null;
  letterId: number | null;
  toWrite: boolean;
  toHandOver: boolean;
}

/** Where the credit of owners stands, locked. @throws Refused where one of them holds none */
async function readDormant(act: Act, owners: readonly Owner[]): Promise<Dormant[]> {
  await lockHouseholds(
    act.db,
    owners.map(({ householdId }) => householdId),
  );
  const { rows } = await sql<Dormant>`
    select g.household_id as "householdId", nullif(g.part, 0) as "patientId", h.number as account, ${REST} as amount,
      ${PROPOSED} as proposed, n.on_day as heard, coalesce(n.state, '') as state, u.until,
      u.letter_from as "letterFrom", d.letter_days as "letterDays", w.id as "letterId",
      coalesce(${isToWrite(act.today)}, false) as "toWrite", coalesce(${isToHandOver(act.today)}, false) as "toHandOver"
    from ${DORMANT}
      join unnest(
        ${owners.map(({ householdId }) => householdId)}::bigint[], ${owners.map(({ patientId }) => patientId ?? 0)}::bigint[]
      ) asked (household_id, part) on asked.household_id = g.household_id and asked.part = g.part
    where ${REST} > 0
    order by g.household_id, g.part`.execute(act.db);
  if (rows.length < new Set(owners.map((one) => `${one.householdId}/${one.patientId ?? 0}`)).size)
    throw new Refused('nothing', 'One of these accounts holds no credit that is free: look again', 'owners');
  for (const { account, proposed } of rows)
    if (proposed > 0)
      throw new Refused(
        'blocked',
        `${account}: ${formatMoneyPlain(proposed)} of its credit can pay what is open: use it first`,
        { field: 'owners', facts: { account, proposed } },
      );
  return rows;
}

const later = (a: CalendarDate, b: CalendarDate): CalendarDate => (a > b ? a : b);

const cannot = (one: Dormant, what: string): Refused =>
  new Refused(
    'state',
    one.until === null
      ? `${one.account}: ${one.state || 'no state'} is not in the table of Setup`
      : `${one.account}: last heard of on ${formatDate(one.heard)}. ${what}`,
    { field: 'owners', facts: { account: one.account } },
  );

/** Writes to owners who were not heard of for as long as their state says. @returns the letters */
export const writeCreditLetters = useCase({
  name: 'write credit letters',
  permission: 'reverse entries',
  input: creditLettersInput,
  once: (data) => data.key,
  async run(act, { owners }): Promise<number[]> {
    const practice = await act.db.selectFrom('practice').selectAll().executeTakeFirst();
    if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
    const letters: number[] = [];
    for (const one of await readDormant(act, owners)) {
      if (one.letterId !== null) throw cannot(one, 'A letter is out already');
      if (!one.toWrite || one.until === null)
        throw cannot(one, `No letter is due${one.letterFrom ? ` before ${formatDate(one.letterFrom)}` : ''}`);
      const to = await addressOf(act, one);
      if (to.line1 === '') throw cannot(one, 'Its owner has no address that mail reaches');
      const { id } = await act.db
        .insertInto('credit_letter')
        .values({
          household_id: one.householdId,
          patient_id: one.patientId,
          date: act.today,
          amount: one.amount,
          content: creditLetterDocument.write({
            paper: practice.paper,
            practice: {
              name: practice.name,
              line1: practice.line1,
              line2: '',
              city: practice.city,
              state: practice.state,
              zip: practice.zip,
              phone: practice.phone,
            },
            account: one.account,
            to,
            date: act.today,
            amount: one.amount,
            lastContact: one.heard,
            // A letter that goes out late has as long to be answered as one that does not.
            until: later(one.until, addDays(act.today, one.letterDays ?? 0)),
          }),
          user_name: act.user.name,
        })
        .returning('id')
        .executeTakeFirstOrThrow();
      letters.push(id);
      await act.note(
        'wrote to owner',
        { kind: 'household', id: one.householdId },
        { amount: formatMoneyPlain(one.amount) },
      );
    }
    return letters;
  },
});

/** The address of an owner: of credit that is kept apart the confidential one alone. */
async function addressOf(act: Act, { householdId, patientId }: Owner) {
  if (patientId === null) {
    const row = await act.db
      .selectFrom('household')
      .select(['first', 'last', 'line1', 'line2', 'city', 'state', 'zip'])
      .where('id', '=', householdId)
      .executeTakeFirstOrThrow();
    const { first, last, ...place } = row;
    return { name: `${first} ${last}`, ...place };
  }
  return act.db
    .selectFrom('confidential_address')
    .select(['name', 'line1', 'line2', 'city', 'state', 'zip'])
    .where('patient_id', '=', patientId)
    .where('ended_on', 'is', null)
    .executeTakeFirstOrThrow();
}

/** An owner answered: the credit rests anew from that day. */
export const answerCreditLetter = useCase({
  name: 'answer credit letter',
  permission: 'take payments',
  input: answerCreditLetterInput,
  async run(act, { creditLetterId, words: answered }) {
    const letter = await act.db
      .selectFrom('credit_letter')
      .select(['household_id', 'answered_on', 'handed_on'])
      .where('id', '=', creditLetterId)
      .forUpdate()
      .executeTakeFirst();
    if (!letter) throw new Refused('unknown', 'There is no such letter');
    if (letter.answered_on !== null)
      throw new Refused('already', `It was answered on ${formatDate(letter.answered_on)}`);
    if (letter.handed_on !== null)
      throw new Refused(
        'state',
        `It was handed over on ${formatDate(letter.handed_on)}: the state pays the owner`,
      );
    await act.db
      .updateTable('credit_letter')
      .set({ answered_on: act.today, answered, answered_by: act.user.name })
      .where('id', '=', creditLetterId)
      .execute();
    await act.note('owner answered', { kind: 'household', id: letter.household_id }, { words: answered });
  },
});

/**
 * Hands credit over to the state of its owners, which keeps it for them: each receipt's is a refund of its own under the number given,
 * which is reversed like any other when the owner is heard of after all. @returns cents
 */
export const handOverCredit = useCase({
  name: 'hand over credit',
  permission: 'approve refunds',
  input: handOverCreditInput,
  once: (data) => data.key,
  async run(act, { owners, number }): Promise<Cents> {
    const dormant = await readDormant(act, owners);
    const states = new Set(dormant.map(({ state }) => state));
    if (states.size > 1)
      throw new Refused(
        'invalid',
        `These are of ${[...states].sort().join(', ')}: each state has a check of its own`,
        'owners',
      );
    let total = ZERO;
    for (const one of dormant) {
      if (!one.toHandOver)
        throw cannot(
          one,
          one.letterId === null
            ? 'Its owner was not written to'
            : `It rests until ${one.until ? formatDate(one.until) : 'later'}, and its letter has time to be answered`,
        );
      const held = await heldReceipts(act.db, one.householdId, one.patientId);
      await refuseAskedBack(
        act,
        one,
        held.map(({ id }) => id),
      );
      for (const receipt of held) await handOver(act, one, receipt, number);
      const amount = sum(held.map(({ left }) => left));
      total = add(total, amount);
      if (one.letterId !== null)
        await act.db
          .updateTable('credit_letter')
          .set({ handed_on: act.today, handed_number: number })
          .where('id', '=', one.letterId)
          .execute();
      await act.note(
        'handed over to the state',
        { kind: 'household', id: one.householdId },
        { state: one.state, number, amount: formatMoneyPlain(amount) },
      );
    }
    return total;
  },
});

/** @throws Refused where a terminal, or a manager, is asked to give some of it back */
async function refuseAskedBack(act: Act, { account }: Dormant, receiptIds: readonly number[]): Promise<void> {
  const [request, pending] = await Promise.all([
    act.db
      .selectFrom('refund_request')
      .select('id')
      .where('receipt_id', 'in', [0, ...receiptIds])
      .where('status', '=', 'asked')
      .executeTakeFirst(),
    act.db
      .selectFrom('receipt as r')
      .innerJoin('tender as t', 't.receipt_id', 'r.id')
      .select('t.id')
      .where('r.refund_of', 'in', [0, ...receiptIds])
      .where('t.state', '=', 'pending')
      .executeTakeFirst(),
  ]);
  if (request || pending)
    throw new Refused(
      'blocked',
      `${account}: some of its credit is asked back, and that is not decided yet`,
      {
        field: 'owners',
        facts: { account },
      },
    );
}

async function handOver(
  act: Act,
  { householdId, patientId, state }: Dormant,
  { id: receiptId, left }: { id: number; left: Cents },
  number: string,
): Promise<void> {
  const refundId = await keepRefund(
    act,
    { id: receiptId, household_id: householdId, patient_id: patientId, location_id: null },
    left,
    state,
  );
  const why = `unclaimed property, to ${state}`;
  await noteBeside(act, { receipt_id: refundId, household_id: householdId }, why);
  const cash = await keepTender(act.db, act, {
    receiptId: refundId,
    tender: 'check',
    reference: number,
    amount: negate(left),
    refundOf: null,
    ownCheck: true,
    drawer: null,
  });
  await writeEntries(act.db, act, [
    refundEntry({
      businessDate: act.today,
      memo: `Check ${number}: ${why}`,
      householdId,
      refundId,
      receiptId,
      cash,
      amount: left,
    }),
  ]);
}

/** Brings in how long credit rests, by state, in the place of the table before. @returns how many states it has */
export const bringDormancy = useCase({
  name: 'bring dormancy',
  permission: 'change setup',
  input: dormancyInput,
  async run(act, { text }) {
    const { rules: lines, wrong } = readDormancy(text);
    const rules = broughtLines({ lines, wrong });
    await act.db
      .deleteFrom('dormancy')
      .where(
        'state',
        'not in',
        rules.map(({ state }) => state),
      )
      .execute();
    for (const { state, months, letterDays, least, source } of rules)
      await act.db
        .insertInto('dormancy')
        .values({ state, months, letter_days: letterDays, least, source })
        .onConflict((conflict) =>
          conflict.column('state').doUpdateSet({ months, letter_days: letterDays, least, source }),
        )
        .execute();
    await act.note('brought in', { kind: 'dormancy', id: 'all' }, { states: rules.length });
    return rules.length;
  },
});

/** Letters to owners as one PDF, each on pages of its own, the same however often they are printed. */
export async function creditLettersPaper(
  context: Context,
  { ids }: { ids: readonly number[] },
): Promise<{ name: string; bytes: Buffer }> {
  allow(context, 'read accounts');
  await allowOpen(context, { creditLetterId: ids });
  const letters = await context.db
    .selectFrom('credit_letter')
    .select(['id', 'household_id', 'content'])
    .where('id', 'in', [0, ...ids])
    .orderBy('id')
    .execute();
  const [first] = letters;
  if (!first || letters.length < new Set(ids).size) throw new Refused('unknown', 'There is no such letter');
  const contents = letters.map(({ content }) => creditLetterDocument.read(content));
  const paper = await Paper.open(contents[0]!.paper, 'Letters about credit', contents[0]!.practice.name);
  for (const content of contents) {
    paper.turn();
    letterhead(paper, content.practice);
    const { to } = content;
    addressWindow(paper, [to.name, to.line1, to.line2, `${to.city}, ${to.state} ${to.zip}`]);
    factsBeside(paper, [
      ['Account', content.account],
      ['Date', formatDate(content.date)],
      ['Your credit', formatMoneyPlain(content.amount)],
    ]);
    paper.paragraph('Your money with us', paper.left, paper.y, paper.width, { size: 13, strong: true }, 'H2');
    paper.y += 8;
    for (const text of creditLetterWords(content)) {
      paper.paragraph(text, paper.left, paper.y, paper.width, { size: 10.5 });
      paper.y += 8;
    }
    paper.foot(
      (page, pages) => `Account ${content.account} · ${formatDate(content.date)} · page ${page} of ${pages}`,
    );
  }
  for (const { household_id } of letters)
    await audit(
      context.db,
      context,
      'printed',
      { kind: 'household', id: household_id },
      { what: 'letter about credit' },
    );
  return {
    name: letters.length === 1 ? `credit-letter-${first.id}.pdf` : 'credit-letters.pdf',
    bytes: await paper.finish(),
  };
}
