/** What statements of households would say today, read from the books for many at once. */
import type { z } from 'zod';
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { alone, composeStatement, joinStatements, wordsOf } from '../../core/statements/compose';
import { PLAIN_OPTIONS, type StatementContent, type StatementOptions } from '../../core/statements/document';
import { wordsInput } from '../../core/statements/input';
import { dueDateOf } from '../../core/statements/policy';
import { asksUntil, planWords } from '../../core/plans/progress';
import { BrokenWords, fillWords } from '../../core/statements/variables';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { opened } from '../closed';
import { OWES_NOTHING, askedFor } from '../../core/books/owed';
import { asStory, readChargesOf } from '../accounts/door';
import { notesToPrint } from '../notes/notes';
import { readOwed } from '../books/owed';
import { parseInput } from '../input';
import { readPlans } from '../plans/door';
import { type Policies, readMessages, readPolicies } from '../setup/statement-policies';

/** What is asked for one piece. */
export interface AskedStatement {
  householdId: number;
  /** The patient alone whose services go to a confidential address; absent for the rest of the household. */
  patientId?: number | null;
  /** Other households whose statements lie in the same envelope. */
  joined?: readonly number[];
  options: StatementOptions;
  /** Words for the patient on this one alone. */
  note?: string;
  /** Until when it is to be paid; else as the policy says. */
  dueDate?: CalendarDate | undefined;
}

/** The practice as it stands on paper. @throws Refused when Setup has none */
async function practiceOf(db: Db) {
  const practice = await db.selectFrom('practice').selectAll().executeTakeFirst();
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  return practice;
}

/** Households with the address under which they are written to, and the site that they belong to. */
async function addressesOf(db: Db, ids: readonly number[]) {
  const rows = await db
    .selectFrom('household as h')
    .innerJoin('household as m', (join) => join.on('m.id', '=', sql<number>`coalesce(h.mailed_with, h.id)`))
    .select([
      'h.id',
      'h.number',
      sql<string>`h.first || ' ' || h.last`.as('own'),
      sql<string>`m.first || ' ' || m.last`.as('name'),
      'm.line1',
      'm.line2',
      'm.city',
      'm.state',
      'm.zip',
      sql<number | null>`
        coalesce(
          h.location_id,
          (
            select c.location_id
            from charge c
            where c.household_id = h.id and c.kind = 'service' and c.status <> 'void'
            order by c.service_date desc, c.id desc
            limit 1
          )
        )`.as('siteId'),
    ])
    .where('h.id', '=', sql<number>`any(${[...ids]}::bigint[])`)
    .execute();
  return new Map(rows.map((row) => [row.id, row]));
}

/** The confidential addresses of patients of households, by patient. */
async function confidentialOf(db: Db, ids: readonly number[]) {
  const rows = await db
    .selectFrom('confidential_address as a')
    .innerJoin('patient as p', 'p.id', 'a.patient_id')
    .select(['a.patient_id as patientId', 'a.name', 'a.line1', 'a.line2', 'a.city', 'a.state', 'a.zip'])
    .where('p.household_id', '=', sql<number>`any(${[...ids]}::bigint[])`)
    .where('a.ended_on', 'is', null)
    .execute();
  return new Map(rows.map(({ patientId, ...address }) => [patientId, address]));
}

/** The cases of households that are on no statements. */
async function quietCases(db: Db, ids: readonly number[]): Promise<ReadonlySet<number>> {
  const rows = await db
    .selectFrom('care_case as k')
    .innerJoin('patient as p', 'p.id', 'k.patient_id')
    .select('k.id')
    .where('k.statements', '=', false)
    .where('p.household_id', '=', sql<number>`any(${[...ids]}::bigint[])`)
    .execute();
  return new Set(rows.map(({ id }) => id));
}

/** The last day at whose end each account stood at zero. */
async function zeroDays(db: Db, ids: readonly number[]): Promise<Map<number, CalendarDate>> {
  if (ids.length === 0) return new Map();
  const { rows } = await sql<{ householdId: number; day: CalendarDate }>`
    select household_id as "householdId", max(day) as day from (
      select coalesce(h.merged_into, h.id) as household_id, e.business_date as day,
        sum(sum(p.amount)) over (partition by coalesce(h.merged_into, h.id) order by e.business_date) as balance
      from household h
        join posting p on p.household_id = h.id
        join entry e on e.id = p.entry_id
        join book_account a on a.code = p.account
      where (h.id = any(${[...ids]}::bigint[]) or h.merged_into = any(${[...ids]}::bigint[])) and (a.class = 'receivable' or a.code = 'credit/patient')
      group by 1, 2) d
    where balance = 0 group by 1`.execute(db);
  return new Map(rows.map(({ householdId, day }) => [householdId, day]));
}

/**
 * What pieces would say today, in the order in which they are asked for; a fixed number of queries whatever their number.
 * @throws Refused when Setup has no practice
 */
export async function readContents(
  context: Context,
  policies: Policies,
  asked: readonly AskedStatement[],
): Promise<StatementContent[]> {
  if (asked.length === 0) return [];
  const { db } = context;
  const ids = [...new Set(asked.flatMap(({ householdId, joined = [] }) => [householdId, ...joined]))];
  const sinceZero = asked.flatMap(({ householdId, joined = [], options }) =>
    options.range === 'zero' ? [householdId, ...joined] : [],
  );
  const practice = await practiceOf(db);
  const [addresses, confidential, charges, owed, quiet, zeros, notes, messages, plans] = await Promise.all([
    addressesOf(db, ids),
    confidentialOf(db, ids),
    readChargesOf(db, ids),
    readOwed(context, ids),
    quietCases(db, ids),
    zeroDays(db, sinceZero),
    notesToPrint(context, ids),
    readMessages(db),
    readPlans(context, sql`l.status = 'accepted' and l.household_id = any(${ids}::bigint[])`),
  ]);
  const { name, line1, city, state, zip } = practice;
  const own = { name, line1, city, state, zip };
  /** One account's statement, and the facts that its messages go by. */
  const one = (
    householdId: number,
    { options, note, dueDate, patientId = null }: Omit<AskedStatement, 'householdId'>,
  ) => {
    const household = addresses.get(householdId);
    if (!household) throw new Refused('unknown', 'There is no such account');
    const apart = patientId === null ? undefined : confidential.get(patientId);
    if (patientId !== null && !apart)
      throw new Refused('already', 'This patient has no confidential address any more');
    const { number: account, siteId, own: guarantor, ...address } = household;
    const policy = policies.of(siteId);
    const to = apart ?? address;
    const facts = {
      charges: (charges.get(householdId) ?? [])
        .filter(({ status }) => status === 'done')
        .filter(({ caseId }) => caseId === null || !quiet.has(caseId))
        // What goes to a confidential address stands nowhere else.
        .filter((charge) =>
          patientId === null
            ? charge.patientId === null || !confidential.has(charge.patientId)
            : charge.patientId === patientId,
        )
        .map((charge) => ({ story: asStory(charge), totals: charge })),
      owed: askedFor(
        owed.find((part) => part.householdId === householdId && part.patientId === patientId) ?? OWES_NOTHING,
      ),
      zeroOn: patientId === null ? (zeros.get(householdId) ?? null) : null,
      agingFrom: policy.agingFrom,
      messages,
      most: policy.messages,
      siteId,
    };
    const until = dueDate ?? dueDateOf(context.today, policy.dueDays);
    const running = patientId === null ? plans.filter((plan) => plan.householdId === householdId) : [];
    const frame = {
      paper: practice.paper,
      practice: { ...own, phone: policy.phone || practice.phone },
      remit: policy.remit.line1 ? { ...policy.remit, name: policy.remit.name || name } : own,
      hours: policy.hours,
      tenders: policy.tenders,
      account,
      to: {
        name: to.name,
        line1: to.line1,
        line2: to.line2,
        city: to.city,
        state: to.state,
        zip: to.zip,
      },
      date: context.today,
      dueDate: until,
      notes: [...(patientId === null ? (notes.get(householdId) ?? []) : []), ...(note ? [note] : [])],
      options,
      // A plan is the household's, also where one patient's services are on it.
      installments: running.flatMap((plan) =>
        asksUntil(plan, until).map((one) => ({ plan: plan.number, ...one })),
      ),
      plans: running.map((plan) => planWords(plan.number, plan)),
    };
    return { content: composeStatement(frame, facts), facts, guarantor };
  };
  return asked.map(({ householdId, joined = [], ...how }) => {
    const { content, facts, guarantor } = one(householdId, how);
    if (joined.length === 0) return alone(content);
    const others = joined.map((id) => {
      const other = one(id, { ...how, note: undefined, dueDate: content.dueDate });
      return { ...other.content, householdId: id, name: other.guarantor };
    });
    return joinStatements({ ...content, name: guarantor }, others, facts);
  });
}

/**
 * Words with variables as they would stand on a household's statement today.
 * @throws Refused naming the place where they are broken
 */
export async function previewWords(context: Context, input: z.input<typeof wordsInput>): Promise<string> {
  allow(context, 'read accounts');
  const { householdId, words } = parseInput(wordsInput, input);
  const [content] = await readContents(context, await readPolicies(context.db), [
    { householdId, options: PLAIN_OPTIONS },
  ]);
  await opened(context, { kind: 'household', id: householdId });
  try {
    return fillWords(words, wordsOf(content!));
  } catch (error) {
    if (error instanceof BrokenWords) throw new Refused('state', error.message, 'words');
    throw error;
  }
}
