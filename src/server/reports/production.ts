/** What was done and what came of it, by provider. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { MOVEMENTS } from '../books/balances';
import { money, number, words } from '../lists/list';
import { period, report } from './report';

const moved = (part: string, sign: '' | '-' = '') =>
  sql<Cents>`coalesce(${sql.raw(sign)}sum(p.amount) filter (where a.part = ${sql.lit(part)}), 0)`;

/** Charged, written off and received in a period, by the provider of the charge. */
export const production = report({
  name: 'production',
  title: 'Charged and received, by provider',
  about:
    'By business date. What was reversed in the period is taken off again; payments count for the provider of the charge they went to.',
  permission: 'read books',
  parameters: period(30),
  columns: {
    provider: words('Provider', sql`trim(v.last || ', ' || v.first || ' ' || v.suffix)`),
    location: words('Location', sql`l.name`),
    services: number(
      'Services',
      sql`
        count(distinct p.charge_id) filter (
          where e.kind = 'charge' and not exists (select 1 from entry r where r.reverses = e.id)
        )`,
    ),
    charged: money('Charged', moved('fee', '-')),
    reduced: money('Written off', moved('reduced')),
    payers: money('From payers', moved('payer_paid')),
    patients: money('From patients', moved('patient_paid')),
  },
  filters: { provider: sql`c.provider_id`, site: sql`c.location_id` },
  groups: ['location'],
  chart: { along: 'provider', draws: ['charged', 'payers', 'patients'] },
  household: null,
  from: () =>
    sql`
      ${MOVEMENTS}
        join charge c on c.id = p.charge_id
        join provider v on v.id = c.provider_id
        join location l on l.id = c.location_id`,
  where: ({ from, to }) => sql`e.business_date between ${from} and ${to}`,
  rowBy: sql`v.id, l.id`,
  having: sql`bool_or(a.part in ('fee', 'reduced', 'payer_paid', 'patient_paid'))`,
  order: sql`l.name, v.last, v.first, v.id`,
});
