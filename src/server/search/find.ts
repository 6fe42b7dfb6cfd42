/** The search field: people, accounts, claims, checks and codes, as far as the role may see them. */
import { type RawBuilder, sql } from 'kysely';
import { typedDate } from '../../core/typed-date';
import { type Context, type Permission, allow, audit, may } from '../access';
import { isClosed } from '../closed';
import { likeText } from '../lists/list';

/** One thing that the search field found. */
export interface Hit {
  kind: 'account' | 'claim' | 'remittance' | 'receipt' | 'code';
  title: string;
  detail: string;
  href: string;
  /** The person, where an account was found by one. */
  patientId?: number;
}

/** Searches everything. */
export async function searchEverything(context: Context, text: string): Promise<Hit[]> {
  allow(context, 'read accounts');
  const like = likeText(text);
  if (!like || text.trim().length < 2) return [];
  // Telephone numbers and birth dates, however they are written.
  const digits = /^[-+() .0-9]+$/.test(text.trim()) ? text.replace(/\D/g, '') : '';
  // A reason as the trade writes it, such as CO-45.
  const [, group = '', reason = ''] =
    /^(co|pr|oa|pi|cr)[- ]?([a-z0-9]{1,5})$/.exec(text.trim().toLowerCase()) ?? [];
  const born = text.trim().length >= 6 ? typedDate(text, context.today) : null;
  const open = (household: RawBuilder<unknown>) => sql`not ${isClosed(context, household)}`;
  const find = async (permission: Permission, query: ReturnType<typeof sql<Hit>>): Promise<Hit[]> =>
    may(context.user.role, permission) ? (await query.execute(context.db)).rows : [];
  const found = await Promise.all([
    find(
      'read accounts',
      sql<Hit>`
        select 'account' as kind, p.last || ', ' || p.first as title,
          h.number || ' · born ' || p.birth_date as detail, '/accounts/' || h.id as href,
          p.id as "patientId"
        from patient p
          join household h on h.id = p.household_id
        where p.merged_into is null and ${open(sql`h.id`)} and (p.search like ${like} or lower(h.number) like ${like}
          or exists (select from household m where m.merged_into = h.id and lower(m.number) like ${like})
          or (${digits.length >= 4} and regexp_replace(h.phone, '\\D', '', 'g') like '%' || ${digits}::text || '%')
          or p.birth_date = ${born}::date) order by p.last, p.first limit 8`,
    ),
    find(
      'read accounts',
      sql<Hit>`
        select 'receipt' as kind, w.words || ' ' || coalesce(nullif(t.reference, ''), t.approval) as title,
          h.last || ', ' || h.first || ' · ' || r.received_on as detail, '/accounts/' || h.id as href
        from receipt r
          join tender t on t.receipt_id = r.id
          join tender_kind w on w.code = t.kind
          join household h on h.id = r.household_id
        where (t.reference <> '' and lower(t.reference) like ${like} or t.approval <> '' and lower(t.approval) like ${like})
          and ${open(sql`h.id`)} order by r.id desc limit 5`,
    ),
    find(
      'read claims',
      sql<Hit>`
        select 'claim' as kind, m.control_number as title, m.status || ' · ' || y.name as detail,
          '/claims/' || m.id as href
        from claim m
          join payer y on y.id = m.payer_id
        where lower(m.control_number) like ${like} and ${open(sql`m.household_id`)}
        order by m.id desc
        limit 5`,
    ),
    find(
      'read remittances',
      sql<Hit>`
        select 'remittance' as kind, trace as title, payer_name || ' · ' || payment_date as detail,
          '/remittances/' || id as href
        from remittance
        where lower(trace) like ${like}
        order by id desc
        limit 5`,
    ),
    find(
      'read remittances',
      sql<Hit>`
        select 'code' as kind, 'Reason ' || r.code || ' ' || r.words as title,
          case r.group_code when '*' then 'every group' else r.group_code end as detail,
          '/remittances/reasons/' || r.code as href
        from reason_code r
        where lower(r.code) = ${reason} and (r.group_code = '*' or lower(r.group_code) = ${group})
        order by r.group_code = '*'
        limit 1`,
    ),
    find(
      'read setup',
      sql<Hit>`
        select 'code' as kind, code || ' ' || description as title, category as detail,
          '/setup/services?search=' || code as href
        from service_code
        where lower(code) like ${like} or lower(description) like ${like}
        order by code
        limit 4`,
    ),
  ]);
  const hits = found.flat();
  await audit(context.db, context, 'searched', { kind: 'search', id: '' }, { text, found: hits.length });
  return hits;
}
