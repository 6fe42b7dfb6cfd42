/** The list of remittances. */
import { sql } from 'kysely';
import { holdReasonsDocument } from '../../core/remittances/document';
import { counted } from '../../core/words';
import { day, list, money, number, textLike, words } from '../lists/list';

/** Remittances, newest first, searched by trace or payer. */
export const remittancesList = list({
  name: 'remittances',
  noun: ['remittance', 'remittances'],
  permission: 'read remittances',
  station: 'Remittances',
  path: '/remittances',
  from: sql`remittance r`,
  household: null,
  id: sql`r.id`,
  columns: {
    trace: words('Trace', sql`r.trace`),
    payer: words('Payer', sql`r.payer_name`),
    date: day('Paid on', sql`r.payment_date`),
    method: words(
      'How',
      sql`case r.method when 'CHK' then 'check' when 'NON' then 'no payment' else 'transfer' end`,
    ),
    status: words('Status', sql<'held' | 'ready' | 'posting' | 'posted'>`r.status`),
    why: words('Why it waits', null),
    claims: number('Claims', sql`r.claims`),
    amount: money('Payment', sql`r.amount`),
  },
  hidden: {
    /** Parsed after reading. */
    holdReasons: sql<string[]>`r.hold_reasons`,
    unmatched: sql<number>`
      (select count(*) from remittance_claim c where c.remittance_id = r.id and c.status = 'unmatched')`,
  },
  finish(row) {
    const holdReasons = row.holdReasons === null ? [] : holdReasonsDocument.read(row.holdReasons);
    const unmatched =
      row.unmatched > 0
        ? `${counted(row.unmatched, 'claim is', 'claims are')} held; the money is in the payer’s credit`
        : '';
    return { holdReasons, why: holdReasons[0] ?? unmatched };
  },
  filters: { payer: sql`r.payer_id` },
  views: {
    ready: {
      label: 'Ready',
      where: () => sql`r.status in ('ready', 'posting')`,
      waits: {
        words: ['remittance is ready to post', 'remittances are ready to post'],
        sum: 'amount',
        rail: true,
      },
    },
    held: {
      label: 'Held',
      where: () => sql`r.status = 'held'`,
      waits: {
        words: ['remittance is held as a whole', 'remittances are held as a whole'],
        sum: 'amount',
        rail: true,
      },
    },
    unmatched: {
      label: 'With held claims',
      where: () => sql`r.id in (select remittance_id from remittance_claim where status = 'unmatched')`,
      waits: {
        words: ['remittance has claims that are held', 'remittances have claims that are held'],
        sum: 'amount',
        rail: true,
      },
    },
    posted: { label: 'Posted', where: () => sql`r.status = 'posted'` },
    all: { label: 'All' },
  },
  search: (like) => sql`${textLike(sql`r.trace`, like)} or ${textLike(sql`r.payer_name`, like)}`,
  order: sql`r.payment_date desc, r.id desc`,
});
