/** The list of what is overdue: every account that is past due, with its stage, what comes next, and why it is spared. */
import { sql } from 'kysely';
import { type CalendarDate, daysBetween } from '../../core/calendar';
import { type Cents, ZERO, add } from '../../core/money';
import { type Score, scoreOf } from '../../core/overdue/score';
import { ACTIONS, type OverdueAction, type OverdueStanding, standingOf } from '../../core/overdue/stage';
import { bucketOf } from '../../core/statements/aging';
import type { Context } from '../access';
import { day, list, money, number, textLike, words } from '../lists/list';
import { type OverdueAccount, readOverdue, readPaidHistory } from './facts';
import { readOverduePolicy } from './policy';

/** An account that is past due, with where it stands and its score. */
export interface OverdueRow extends OverdueAccount {
  standing: OverdueStanding;
  score: Score;
}

/** Works out where accounts stand today: all that are past due, or those of the households named. */
export async function weighOverdue(context: Context, ids?: readonly number[]): Promise<OverdueRow[]> {
  const [{ policy, stages }, accounts] = await Promise.all([
    readOverduePolicy(context.db),
    readOverdue(context, ids),
  ]);
  if (accounts.length === 0) return [];
  const history = await readPaidHistory(context.db, context.today);
  return accounts.map((account) => {
    const standing = standingOf(account.facts, policy, stages, context.today);
    const score = scoreOf(standing.pastDue, standing.daysPastDue, standing.action, history);
    return { ...account, standing, score };
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

const FIELDS = {
  id: 'bigint',
  household_id: 'bigint',
  account: 'text',
  name: 'text',
  reach: 'text',
  owner_id: 'text',
  owner: 'text',
  past_due: 'bigint',
  a0: 'bigint',
  a1: 'bigint',
  a2: 'bigint',
  a3: 'bigint',
  a4: 'bigint',
  days: 'int',
  stage: 'text',
  action: 'text',
  next_stage: 'text',
  next_on: 'date',
  why: 'text',
  spared: 'boolean',
  last_contact: 'date',
  last_payment: 'date',
  last_letter: 'date',
  promise: 'bigint',
  promise_by: 'date',
  promise_id: 'bigint',
  plan: 'text',
  score: 'bigint',
  chance: 'float8',
  own: 'boolean',
  minutes: 'int',
} as const;

const flat = (row: OverdueRow, today: CalendarDate): Record<keyof typeof FIELDS, unknown> => {
  const { standing, score, facts } = row;
  const [a0, a1, a2, a3, a4] = aged(row, today);
  return {
    id: rowId(row),
    household_id: row.householdId,
    account: row.account,
    name: row.name,
    reach: reach(row),
    owner_id: row.ownerId,
    owner: row.owner,
    past_due: standing.pastDue,
    a0,
    a1,
    a2,
    a3,
    a4,
    days: standing.daysPastDue,
    stage: standing.stage?.name ?? 'no letter yet',
    action: standing.action,
    next_stage: standing.next?.name ?? '',
    next_on: standing.on,
    why: standing.why,
    spared: standing.spared.length > 0,
    last_contact: row.lastContact,
    last_payment: facts.lastPayment,
    last_letter: standing.lastLetter,
    promise: facts.promise?.amount ?? null,
    promise_by: facts.promise?.by ?? null,
    promise_id: row.promiseId,
    plan:
      facts.planBehind === null
        ? ''
        : facts.planBehind === 0
          ? 'in good order'
          : `${facts.planBehind} days behind`,
    score: score.value,
    chance: score.chance,
    own: score.own,
    minutes: score.minutes,
  };
};

/** The rows as a table that lists can be made from. */
async function rowsOf(context: Context) {
  const rows = await weighOverdue(context);
  const json = JSON.stringify(rows.map((row) => flat(row, context.today)));
  const columns = Object.entries(FIELDS).map(([name, type]) => sql`${sql.ref(name)} ${sql.raw(type)}`);
  return sql`jsonb_to_recordset(${json}::jsonb) as o (${sql.join(columns)})`;
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
