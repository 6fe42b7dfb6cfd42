/** Small balances, written off many at once: previewed, each household by an entry of its own, which is taken back by itself. */
import { sql } from 'kysely';
import { patientWriteOffEntry } from '../../core/books/entries/patients';
import { type Cents, formatMoneyPlain, sum } from '../../core/money';
import { smallInput } from '../../core/overdue/input';
import { Refused, lookAgain, otherThanSeen } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';
import { leftToAsk } from '../books/owed';
import { day, list, money, textLike, words } from '../lists/list';
import { useCase } from '../use-case';
import { readOverduePolicy } from './policy';

/**
 * What is owed less credit, where it is small enough: nothing with a payer, on a plan or with an agency, nothing that
 * may not be billed, nothing open or held up.
 */
const SMALL = sql`
  household_balance b join household h on h.id = b.household_id cross join overdue_policy o
  cross join lateral (
    select min(y.since) as since
    from charge g
      join patient_layer y on y.charge_id = g.id
    where g.household_id = b.household_id and y.amount > 0
  ) s`;

const isSmall = (today: string) => sql`
  b.with_patient > 0
    and b.with_patient < o.small_below
    and b.credit = 0
    and b.with_payer = 0
    and b.on_plan = 0
    and b.at_agency = 0
  and s.since <= ${today}::date - o.small_days
  and not exists (select 1 from not_billable n where n.household_id = b.household_id)
  and not exists (
    select 1
    from charge g
      join charge_balance c on c.charge_id = g.id
    where g.household_id = b.household_id and c.with_patient < 0
  )`;

/** Households whose whole balance is small and old, the largest first. */
export const smallList = list({
  name: 'small-balances',
  noun: ['account', 'accounts'],
  permission: 'read accounts',
  station: 'Overdue',
  path: '/overdue/small',
  from: SMALL,
  always: ({ today }) => isSmall(today),
  household: sql`b.household_id`,
  id: sql`h.id`,
  columns: {
    account: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    since: day('Owed since', sql`s.since`),
    lastPayment: day(
      'Last payment',
      sql`(select max(r.received_on) from receipt r where r.household_id = h.id and r.amount > 0)`,
    ),
    amount: money('Owed', sql<Cents>`b.with_patient`),
  },
  views: { all: { label: 'All' } },
  search: (like) => sql`lower(h.last || ', ' || h.first) like ${like} or ${textLike(sql`h.number`, like)}`,
  order: sql`b.with_patient desc, h.id`,
});

/**
 * Writes small balances off, each household by an entry of its own. Those that are not small any more are left out.
 * @returns how many and how much, in cents
 */
export const writeOffSmall = useCase({
  name: 'write off small balances',
  permission: 'write off small balances',
  input: smallInput,
  once: (data) => data.key,
  async run(act, { householdIds, seen, sure }) {
    const tx = act.db;
    await lockHouseholds(tx, householdIds);
    const { rows } = await sql<{ id: number }>`
      select h.id
      from ${SMALL}
      where h.id = any(${[...new Set(householdIds)]}::bigint[]) and ${isSmall(act.today)}
      order by h.id`.execute(tx);
    if (rows.length === 0) throw new Refused('state', 'None of these is a small balance now');
    const { policy } = await readOverduePolicy(tx);
    const open = await leftToAsk(
      act,
      rows.map(({ id }) => id),
    );
    const amount = sum([...open.values()].flat().map((part) => part.amount));
    lookAgain(sure, [otherThanSeen(amount, seen)]);
    const drafts = [...open.values()].map((parts) =>
      patientWriteOffEntry({
        kind: 'write-off',
        businessDate: act.today,
        why: `Small balance, below ${formatMoneyPlain(policy.smallBelow)}`,
        account: 'reduction/small-balance',
        parts,
      }),
    );
    await writeEntries(tx, act, drafts);
    for (const { id } of rows)
      await act.note(
        'wrote off',
        { kind: 'household', id },
        { amount: sum(open.get(id)!.map((part) => part.amount)) },
      );
    return { count: rows.length, amount };
  },
});
