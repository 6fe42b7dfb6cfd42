/** What pages of one account, claim or remittance are called in the browser. */
import { type RawBuilder, sql } from 'kysely';
import { type Context, type Permission, allow } from '../access';

type Kind = 'account' | 'claim' | 'remittance';

const TITLES: Record<Kind, { permission: Permission; query: (id: number) => RawBuilder<{ title: string }> }> =
  {
    account: {
      permission: 'read accounts',
      query: (id) =>
        sql`select last || ', ' || first || ' · ' || number as title from household where id = ${id}`,
    },
    claim: {
      permission: 'read claims',
      query: (id) =>
        sql`
          select p.last || ', ' || p.first || ' · claim ' || m.control_number as title
          from claim m
            join patient p on p.id = m.patient_id
          where m.id = ${id}`,
    },
    remittance: {
      permission: 'read remittances',
      query: (id) => sql`select payer_name || ' · ' || trace as title from remittance where id = ${id}`,
    },
  };

/** The title; null when there is no such thing. */
export async function titleOf(context: Context, kind: Kind, id: string): Promise<string | null> {
  const { permission, query } = TITLES[kind];
  allow(context, permission);
  const number = Number(id);
  if (!Number.isSafeInteger(number)) return null;
  return (await query(number).execute(context.db)).rows[0]?.title ?? null;
}
