/** What is owed, by age. */
import { type RawBuilder, sql } from 'kysely';
import type { Cents } from '../../core/money';
import { AGING_BUCKETS } from '../../core/statements/aging';
import { money, number, words } from '../lists/list';
import { report } from './report';

/** The bucket of an age in days, as the core counts them. */
const bucketOf = (days: RawBuilder<unknown>) =>
  sql`
    (
      case
        when ${days} <= 30 then 0
        when ${days} <= 60 then 1
        when ${days} <= 90 then 2
        when ${days} <= 120 then 3
        else 4
      end
    )`;

/** A column for each bucket, summed over `amount`; the bucket of a row is `g.bucket`. */
const buckets = (amount: RawBuilder<unknown>) =>
  Object.fromEntries(
    AGING_BUCKETS.map((bucket, index) => [
      `days${index}`,
      money(bucket, sql<Cents>`coalesce(sum(${amount}) filter (where g.bucket = ${sql.lit(index)}), 0)`),
    ]),
  );

/** What patients owe, by household. */
export const patientAging = report({
  name: 'patient-aging',
  title: 'What patients owe, by age',
  about: 'Every household that owes or is owed, the largest first. What is below zero counts as new.',
  permission: 'read books',
  parameters: {
    age: {
      label: 'Age',
      kind: 'choice',
      choices: { responsible: 'since the patient was responsible', service: 'since the service' },
    },
  },
  columns: {
    account: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    phone: words('Phone', sql`h.phone`),
    ...buckets(sql`b.amount`),
    total: money('Together', sql<Cents>`sum(b.amount)`),
  },
  filters: { provider: sql`c.provider_id`, site: sql`c.location_id` },
  household: sql`h.id`,
  leads: sql`'/accounts/' || h.id`,
  chart: { along: 'guarantor', draws: ['total'] },
  from: ({ age }, { today }) => {
    const since = age === 'service' ? sql`c.service_date` : sql`coalesce(b.since, ${today}::date)`;
    const bucket = sql`case when b.amount < 0 then 0 else ${bucketOf(sql`${today}::date - ${since}`)} end`;
    return sql`
      patient_layer b
        join charge c on c.id = b.charge_id
        join household h on h.id = c.household_id
        cross join lateral (select ${bucket} as bucket) g`;
  },
  where: () => sql`true`,
  rowBy: sql`h.id`,
  having: sql`sum(b.amount) <> 0`,
  order: sql`sum(b.amount) desc, h.number`,
});

/** What payers hold, by payer. */
export const payerAging = report({
  name: 'payer-aging',
  title: 'What payers hold, by age',
  about: 'Amounts that wait with each payer, by days since the service.',
  permission: 'read books',
  parameters: {},
  columns: {
    payer: words('Payer', sql`y.name`),
    charges: number('Charges', sql`count(*)`),
    ...buckets(sql`b.with_payer`),
    total: money('Together', sql<Cents>`sum(b.with_payer)`),
  },
  household: null,
  leads: sql`'/claims/waiting?payer=' || y.id`,
  filters: { payer: sql`b.payer_id`, provider: sql`c.provider_id`, site: sql`c.location_id` },
  chart: { along: 'payer', draws: ['total'] },
  from: (_chosen, { today }) =>
    sql`
      payer_balance b
        join charge c on c.id = b.charge_id
        join payer y on y.id = b.payer_id
        cross join lateral (select ${bucketOf(sql`${today}::date - c.service_date`)} as bucket) g`,
  where: () => sql`b.with_payer <> 0`,
  rowBy: sql`y.id`,
  order: sql`sum(b.with_payer) desc, y.name`,
});
