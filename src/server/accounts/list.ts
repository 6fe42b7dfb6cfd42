/** The list of accounts. */
import { sql } from 'kysely';
import { parseDate } from '../../core/calendar';
import { PINNED } from '../notes/notes';
import { day, list, money, textLike, words } from '../lists/list';

/** Accounts by name, number, birth date (YYYY-MM-DD) or phone. */
export const accountsList = list({
  name: 'accounts',
  noun: ['account', 'accounts'],
  permission: 'read accounts',
  station: 'Accounts',
  path: '/accounts',
  from: sql`household h join household_balance b on b.household_id = h.id`,
  household: sql`h.id`,
  id: sql`h.id`,
  always: () => sql`h.merged_into is null`,
  columns: {
    number: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    members: words(
      'Members',
      sql`(select string_agg(p.first, ', ' order by p.birth_date) from patient p where p.household_id = h.id and p.merged_into is null)`,
    ),
    phone: words('Phone', sql`h.phone`),
    lastVisit: day(
      'Last visit',
      sql`
        (
          select max(c.service_date)
          from charge c
          where c.household_id = h.id and c.kind = 'service' and c.status = 'done'
        )`,
    ),
    withPayer: money('With payers', sql`b.with_payer`),
    withPatient: money('Owes now', sql`b.with_patient`),
    elsewhere: money('On plans or placed', sql`(b.on_plan + b.at_agency)`),
    credit: money('Less credit', sql`b.credit`),
    balance: money('Balance', sql`(b.with_payer + b.with_patient + b.on_plan + b.at_agency - b.credit)`),
    lastPayment: day(
      'Last payment',
      sql`
        (
          select max(r.received_on)
          from receipt r
            join receipt_balance k on k.receipt_id = r.id and k.booked > 0
          where r.household_id = h.id and r.amount > 0
        )`,
      { extra: true },
    ),
    lastStatement: day(
      'Last statement',
      sql`(select max(s.date) from statement s where s.household_id = h.id)`,
      { extra: true },
    ),
  },
  hidden: { notice: PINNED },
  filters: { site: sql`h.location_id` },
  views: {
    all: { label: 'All' },
    // What was paid of a part that waits for a payer's new word stands below zero: the sum is what Today says.
    owes: { label: 'Patient owes', where: () => sql`b.with_patient <> 0` },
    credit: {
      label: 'Holds credit',
      where: () => sql`b.credit > 0`,
      waits: {
        words: ['household holds credit not applied', 'households hold credit not applied'],
        sum: 'credit',
      },
    },
  },
  search(like, text) {
    const digits = text.replace(/\D/g, '');
    return sql.join(
      [
        sql`exists (select 1 from patient p where p.household_id = h.id and p.search like ${like})`,
        sql`lower(h.first || ' ' || h.last || ', ' || h.first) like ${like}`,
        textLike(sql`h.number`, like),
        sql`exists (select from household m where m.merged_into = h.id and ${textLike(sql`m.number`, like)})`,
        ...(parseDate(text)
          ? [sql`exists (select 1 from patient p where p.household_id = h.id and p.birth_date = ${text})`]
          : []),
        ...(digits.length >= 4 ? [sql`regexp_replace(h.phone, '\\D', '', 'g') like ${`%${digits}%`}`] : []),
      ],
      sql` or `,
    );
  },
  order: sql`h.last, h.first, h.id`,
});
