/** The list of what is overdue: every account that is past due, with its stage, what comes next, and why it is spared. */
import { sql } from 'kysely';
import { type CalendarDate, daysBetween } from '../../core/calendar';
import { type Cents, ZERO, add } from '../../core/money';
import { type Score, scoreOf } from '../../core/overdue/score';
import { ACTIONS, type OverdueAction, type OverdueOutlook, outlookOf } from '../../core/overdue/stage';
import { bucketOf } from '../../core/statements/aging';
import type { Context } from '../access';
import { day, list, money, number, textLike, words } from '../lists/list';
import { type OverdueAccount, readOverdue, readPaidHistory } from './facts';
import { readOverduePolicy } from './policy';

/** An account that is past due, with where it stands and its score. */
export interface OverdueRow extends OverdueAccount {
  outlook: OverdueOutlook;
  score: Score;
}

/** Works out where accounts stand today: all that are past due, or those of the households named. */
export async function weighOverdue(context: Context, ids?: readonly number[]): Promise<OverdueRow[]> {
  const readHistory = () => readPaidHistory(context.db, context.today);
  const [{ policy, stages }, accounts, early] = await Promise.all([
    readOverduePolicy(context.db),
    readOverdue(context, ids),
    // Of one household that is in good order it is not needed.
    ids ? null : readHistory(),
  ]);
  if (accounts.length === 0) return [];
  const history = early ?? (await readHistory());
  return accounts.map((account) => {
    const outlook = outlookOf(account.facts, policy, stages, context.today);
    const score = scoreOf(outlook.pastDue, outlook.daysPastDue, outlook.action, history);
    return Object.assign(account, { outlook, score });
  });
}

/** Rows of accounts apart have their own numbers, beyond those of households. */
const APART = 1_000_000_000_000;
/** The number of a row: the household’s, or one of its own for what goes to a confidential address. */
const rowId = ({ householdId, patientId }: OverdueAccount): number =>
  patientId === null ? householdId : APART + patientId;

/** What is past due by its age, under 31 days and over. */
function aged({ facts }: OverdueAccount, today: CalendarDate): Cents[] {
  const by = [ZERO, ZERO, ZERO, ZERO, ZERO];
  for (const { amount, since } of facts.charges) {
    const at = bucketOf(daysBetween(since, today));
    by[at] = add(by[at]!, amount);
  }
  return by;
}

/** How to reach somebody, in words. */
const reach = ({ phone, email, returned, addressIncomplete }: OverdueAccount): string =>
  [phone, email, returned ? 'mail came back' : '', addressIncomplete ? 'address incomplete' : '']
    .filter(Boolean)
    .join(' · ');

type Ages = readonly Cents[];
/** The columns of the rows as a table: the type of each, and what a row says there. */
const FIELDS: Readonly<
  Record<
    string,
    readonly [
      type: 'bigint' | 'text' | 'int' | 'date' | 'boolean' | 'float8',
      value: (row: OverdueRow, ages: Ages) => string | number | boolean | null,
    ]
  >
> = {
  id: ['bigint', rowId],
  household_id: ['bigint', (row) => row.householdId],
  account: ['text', (row) => row.account],
  name: ['text', (row) => row.name],
  reach: ['text', reach],
  owner_id: ['text', (row) => row.ownerId],
  owner: ['text', (row) => row.owner],
  past_due: ['bigint', ({ outlook }) => outlook.pastDue],
  a0: ['bigint', (_, ages) => ages[0]!],
  a1: ['bigint', (_, ages) => ages[1]!],
  a2: ['bigint', (_, ages) => ages[2]!],
  a3: ['bigint', (_, ages) => ages[3]!],
  a4: ['bigint', (_, ages) => ages[4]!],
  days: ['int', ({ outlook }) => outlook.daysPastDue],
  stage: ['text', ({ outlook }) => outlook.stage?.name ?? 'no letter yet'],
  action: ['text', ({ outlook }) => outlook.action],
  next_stage: ['text', ({ outlook }) => outlook.next?.name ?? ''],
  next_on: ['date', ({ outlook }) => outlook.on],
  why: ['text', ({ outlook }) => outlook.why],
  spared: ['boolean', ({ outlook }) => outlook.spared.length > 0],
  last_contact: ['date', (row) => row.lastContact],
  last_payment: ['date', ({ facts }) => facts.lastPayment],
  last_letter: ['date', ({ outlook }) => outlook.lastLetter],
  promise: ['bigint', ({ facts }) => facts.promise?.amount ?? null],
  promise_by: ['date', ({ facts }) => facts.promise?.by ?? null],
  promise_id: ['bigint', (row) => row.promiseId],
  plan: ['text', ({ facts }) => planWords(facts.planBehind)],
  score: ['bigint', ({ score }) => score.value],
  chance: ['float8', ({ score }) => score.chance],
  own: ['boolean', ({ score }) => score.own],
  minutes: ['int', ({ score }) => score.minutes],
};

/** How its plan goes, in words. @param behind days; null without a plan */
const planWords = (behind: number | null): string =>
  behind === null ? '' : behind === 0 ? 'in good order' : `${behind} days behind`;

/** The rows as a table that lists can be made from, a column at a time: the names of columns with every row would be most of it. */
async function rowsOf(context: Context) {
  const rows = await weighOverdue(context);
  const ages = rows.map((row) => aged(row, context.today));
  const columns = Object.values(FIELDS).map(([type, valueOf]) => {
    const values = rows.map((row, at) => valueOf(row, ages[at]!));
    // What is no text needs no quotes.
    const said = type === 'text' ? values : `{${values.map((value) => value ?? 'NULL').join(',')}}`;
    return sql`${said}::${sql.raw(type)}[]`;
  });
  return sql`unnest(${sql.join(columns)}) as o (${sql.join(Object.keys(FIELDS).map((name) => sql.ref(name)))})`;
}

/** What is to be done today, in words. */
const NEXT = sql<string>`case o.action ${sql.join(
  Object.entries(ACTIONS).map(([action, label]) => sql`when ${sql.lit(action)} then ${sql.lit(label)}`),
  sql` `,
)} end`;

const isDue = (...actions: OverdueAction[]) =>
  sql`o.action in (${sql.join(actions.map((action) => sql.lit(action)))})`;

/** Accounts that are past due, what is worth doing first at the top. */
export const overdueList = list({
  name: 'overdue',
  noun: ['account', 'accounts'],
  permission: 'read accounts',
  station: 'Overdue',
  path: '/overdue',
  from: rowsOf,
  household: sql`o.household_id`,
  id: sql`o.id`,
  columns: {
    account: words('Account', sql`o.account`),
    guarantor: words('Guarantor', sql`o.name`),
    pastDue: money('Past due', sql`o.past_due`),
    days: number('Days', sql<number>`o.days`),
    stage: words('Stage', sql`o.stage`),
    next: words('Next', NEXT),
    nextOn: day('On', sql`o.next_on`),
    why: words('Why', sql`o.why`),
    owner: words('Owner', sql`o.owner`),
    // In dollars: what each minute is worth is not summed.
    score: number('Per minute', sql<number>`o.score / 100.0`),
    lastContact: day('Last contact', sql`o.last_contact`, { extra: true }),
    lastPayment: day('Last payment', sql`o.last_payment`, { extra: true }),
    lastLetter: day('Last letter', sql`o.last_letter`, { extra: true }),
    promise: money('Promised', sql<Cents>`o.promise`, { extra: true }),
    promiseBy: day('Promised by', sql`o.promise_by`, { extra: true }),
    plan: words('Plan', sql`o.plan`, { extra: true }),
    reach: words('How to reach', sql`o.reach`, { extra: true }),
    a0: money('0–30', sql`o.a0`, { extra: true }),
    a1: money('31–60', sql`o.a1`, { extra: true }),
    a2: money('61–90', sql`o.a2`, { extra: true }),
    a3: money('91–120', sql`o.a3`, { extra: true }),
    a4: money('Over 120', sql`o.a4`, { extra: true }),
  },
  hidden: {
    householdId: sql<number>`o.household_id`,
    action: sql<OverdueAction>`o.action`,
    promiseId: sql<number | null>`o.promise_id`,
    nextStage: sql<string>`o.next_stage`,
    chance: sql<number>`o.chance`,
    own: sql<boolean>`o.own`,
    minutes: sql<number>`o.minutes`,
  },
  views: {
    work: { label: 'To do', where: () => isDue('letter', 'call', 'agency') },
    mine: { label: 'Mine', where: ({ user }) => sql`o.owner_id = ${user.id}` },
    letters: { label: 'Letters', where: () => isDue('letter') },
    calls: { label: 'Calls', where: () => isDue('call') },
    agency: { label: 'Agency', where: () => isDue('agency') },
    waiting: { label: 'Waiting', where: () => sql`o.action = 'wait' and not o.spared` },
    spared: { label: 'Spared', where: () => sql`o.spared` },
    all: { label: 'All' },
  },
  search: (like) =>
    sql`lower(o.name) like ${like} or ${textLike(sql`o.account`, like)} or lower(o.reach) like ${like}`,
  order: sql`o.score desc, o.past_due desc, o.id`,
});
