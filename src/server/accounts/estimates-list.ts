/** The list of estimates that were handed over. */
import { sql } from 'kysely';
import { day, list, money, textLike, words } from '../lists/list';
import { ABOVE, isToGiveAnew } from './above';

/** Estimates, newest first; those that are to be given anew, and those of which a bill may be disputed. */
export const estimatesList = list({
  name: 'estimates',
  noun: ['estimate', 'estimates'],
  permission: 'read accounts',
  station: 'Accounts',
  path: '/accounts/estimates',
  from: sql`
    treatment_estimate e
      join care_case k on k.id = e.case_id
      join patient p on p.id = k.patient_id
      join household h on h.id = p.household_id`,
  household: sql`h.id`,
  id: sql`e.id`,
  columns: {
    number: words('Estimate', sql`e.number`),
    account: words('Account', sql`h.number`),
    patient: words('Patient', sql`p.last || ', ' || p.first`),
    kind: words('Kind', sql`case e.kind when 'good-faith' then 'good faith' else 'insured' end`),
    madeOn: day('Given', sql`e.made_on`),
    validUntil: day('Valid until', sql`e.valid_until`),
    bookedFor: day('Booked for', sql`e.booked_for`),
    anewBy: day('Anew by, if changed', sql`e.anew_by`, { extra: true }),
    signedOn: day('Signed', sql`e.signed_on`),
    by: words('By', sql`e.user_name`, { extra: true }),
    amount: money('Patient', sql`e.amount`),
    above: money('Above', ABOVE),
    seen: money('Looked at', sql`e.above_seen`, { extra: true }),
  },
  hidden: { caseId: sql<number>`k.id`, householdId: sql<number>`h.id` },
  views: {
    all: { label: 'All' },
    anew: {
      label: 'To give anew',
      where: ({ today }) => isToGiveAnew(today),
      waits: {
        words: ['good faith estimate is to be given anew', 'good faith estimates are to be given anew'],
        sum: 'amount',
      },
    },
    above: {
      label: 'Charged above',
      where: () => sql`${ABOVE} > e.above_seen`,
      waits: {
        words: [
          'bill is 400.00 or more above its estimate',
          'bills are 400.00 or more above their estimates',
        ],
        sum: 'above',
      },
    },
    unsigned: {
      label: 'Not signed',
      where: ({ today }) => sql`e.signed_on is null and e.valid_until >= ${today}::date`,
    },
  },
  search: (like) =>
    sql`
      lower(p.last || ', ' || p.first) like ${like}
        or ${textLike(sql`h.number`, like)}
        or ${textLike(sql`e.number`, like)}`,
  order: sql`e.id desc`,
});
