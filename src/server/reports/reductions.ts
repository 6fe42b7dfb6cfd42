/** What was taken off, and why. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { MOVEMENTS } from '../books/balances';
import { money, number, words } from '../lists/list';
import { period, report } from './report';

/** Reductions of a period by book account and reason code. */
export const reductions = report({
  name: 'reductions',
  title: 'Written off, by reason',
  about: 'By business date, with the reason that the payer or we gave; what was reversed is taken off again.',
  permission: 'read books',
  parameters: period(30),
  columns: {
    account: words('Book account', sql`a.words`),
    reason: words('Reason', sql`coalesce(p.reason_group || '-' || p.reason_code, 'by hand')`),
    words: words('In words', sql`coalesce(max(r.words), max(s.words), '')`),
    entries: number('Entries', sql`count(distinct e.id)`),
    amount: money('Amount', sql<Cents>`sum(p.amount)`),
  },
  groups: ['account'],
  chart: { along: 'reason', draws: ['amount'] },
  household: null,
  from: () =>
    sql`
      ${MOVEMENTS}
        left join reason_code r on r.group_code = p.reason_group and r.code = p.reason_code
        left join reason_code s on s.group_code = '*' and s.code = p.reason_code`,
  where: ({ from, to }) => sql`a.part = 'reduced' and e.business_date between ${from} and ${to}`,
  rowBy: sql`a.code, a.words, p.reason_group, p.reason_code`,
  having: sql`sum(p.amount) <> 0`,
  order: sql`a.words, sum(p.amount) desc, p.reason_group, p.reason_code`,
});
