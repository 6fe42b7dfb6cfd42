/** The list of follow-ups. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { day, list, money, textLike, words } from '../lists/list';

/** Open follow-ups, the most pressing first. What waits is what the payer of the claim still holds of the charge. */
export const followUpsList = list({
  name: 'follow-ups',
  noun: ['follow-up', 'follow-ups'],
  permission: 'read remittances',
  station: 'Remittances',
  path: '/remittances/follow-ups',
  from: sql`
    follow_up f
      left join payer_balance b on b.charge_id = f.charge_id and b.coverage_id = f.coverage_id
      left join charge_balance g on g.charge_id = f.charge_id and f.coverage_id is null`,
  shown: sql`
    left join household h on h.id = f.household_id
    left join claim m on m.id = f.claim_id
    left join charge c on c.id = f.charge_id
    left join patient p on p.id = c.patient_id
    left join coverage_plan o on o.id = f.coverage_id
    left join payer y on y.id = o.payer_id`,
  always: () => sql`f.closed_at is null`,
  household: sql`f.household_id`,
  id: sql`f.id`,
  columns: {
    dueDate: day('Due', sql`f.due_date`),
    patient: words('Patient', sql<string | null>`p.last || ', ' || p.first`),
    kind: words('Kind', sql`replace(f.kind, '-', ' ')`),
    words: words('What', sql`f.words`),
    service: words('Service', sql<string | null>`trim(coalesce(c.code, '') || ' ' || c.description)`),
    controlNumber: words('Claim', sql<string | null>`m.control_number`),
    amount: money('Amount', sql`f.amount`),
    waiting: money('With payer', sql<Cents>`coalesce(b.with_payer, g.with_payer, 0)`),
    owner: words('Owner', sql`f.owner`, { extra: true }),
    account: words('Account', sql<string | null>`h.number`, { extra: true }),
  },
  hidden: {
    householdId: sql<number | null>`f.household_id`,
    claimId: sql<number | null>`f.claim_id`,
    chargeId: sql<number | null>`f.charge_id`,
    coverageId: sql<number | null>`f.coverage_id`,
    version: sql<number>`f.version`,
    payer: sql<string | null>`y.name`,
    /** Whether a claim asks the payer for it now. */
    billed: sql<boolean>`
      exists (
        select from claim_line l where l.charge_id = f.charge_id and l.coverage_id = f.coverage_id and l.bills
      )`,
    /** What was said and done, the newest first. */
    notes: sql<{ day: string; by: string; words: string }[]>`
      coalesce(
        (
          select
            json_agg(
              json_build_object('day', n.business_date, 'by', n.user_name, 'words', n.words) order by n.id desc
            )
          from note n
          where n.follow_up_id = f.id
        ),
        '[]'
      )`,
  },
  views: {
    all: {
      label: 'All',
      waits: {
        words: ['follow-up is open', 'follow-ups are open'],
        sum: 'amount',
      },
    },
    denial: { label: 'Denials', where: () => sql`f.kind = 'denial'` },
    short: { label: 'Short payments', where: () => sql`f.kind = 'short-payment'` },
    next: { label: 'Next payer', where: () => sql`f.kind = 'next-payer'` },
    suspended: { label: 'Taken back', where: () => sql`f.kind = 'suspended'` },
    elsewhere: { label: 'Other insurer', where: () => sql`f.kind = 'other-insurer'` },
    overpaid: { label: 'Overpaid', where: () => sql`f.kind = 'overpaid'` },
  },
  search: (like) =>
    sql.join(
      [
        textLike(sql`f.words`, like),
        sql`f.claim_id in (select id from claim where lower(control_number) like ${like})`,
        sql`f.household_id in (select household_id from patient where search like ${like})`,
      ],
      sql` or `,
    ),
  // What concerns one household stands together, at its most pressing date.
  order: sql`min(f.due_date) over (partition by coalesce(f.household_id, -f.id)), f.household_id, f.due_date, f.id`,
});
