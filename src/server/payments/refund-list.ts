/** The list of refunds that were asked for because they are above what one may give back without a manager. */
import { sql } from 'kysely';
import { day, list, money, textLike, words } from '../lists/list';

/** Refunds that were asked for, what waits for a decision first. */
export const refundRequestsList = list({
  name: 'refund-requests',
  noun: ['refund', 'refunds'],
  permission: 'read accounts',
  station: 'Payments',
  path: '/payments/refunds',
  from: sql`
    refund_request q
      join receipt r on r.id = q.receipt_id
      join household h on h.id = r.household_id
      join tender_kind k on k.code = q.kind`,
  household: sql`r.household_id`,
  id: sql`q.id`,
  columns: {
    account: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    askedOn: day('Asked', sql`q.asked_on`),
    askedBy: words('By', sql`q.asked_by`),
    why: words('Why', sql`q.why`),
    tender: words(
      'Goes back by',
      sql`k.words || case when q.reference = '' then '' else ' ' || q.reference end`,
    ),
    received: day('Received', sql`r.received_on`, { extra: true }),
    amount: money('Amount', sql`q.amount`),
    decided: words(
      'Decided',
      sql<string>`case when q.status = 'asked' then '' else q.status || ' by ' || q.decided_by end`,
    ),
    decidedWhy: words('Its reason', sql`q.decided_why`, { extra: true }),
  },
  hidden: {
    householdId: sql<number>`h.id`,
    status: sql<'asked' | 'approved' | 'refused'>`q.status`,
  },
  views: {
    asked: {
      label: 'Not decided',
      without: ['decided'],
      where: () => sql`q.status = 'asked'`,
      waits: {
        words: ['refund waits for a manager', 'refunds wait for a manager'],
        sum: 'amount',
        rail: true,
      },
    },
    decided: { label: 'Decided', where: () => sql`q.status <> 'asked'` },
    all: { label: 'All' },
  },
  search: (like) => sql`lower(h.last || ', ' || h.first) like ${like} or ${textLike(sql`h.number`, like)}`,
  order: sql`(q.status <> 'asked'), q.id desc`,
});
