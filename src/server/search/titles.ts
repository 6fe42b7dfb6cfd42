/** What pages of one account, claim or remittance are called in the browser. */
import { type RawBuilder, sql } from 'kysely';
import { type Context, type Permission, allow } from '../access';
import { isClosed } from '../closed';

type Kind = 'account' | 'claim' | 'remittance';

const TITLES: Record<
  Kind,
  { permission: Permission; query: (id: number, context: Context) => RawBuilder<{ title: string }> }
> = {
  account: {
    permission: 'read accounts',
    query: (id, context) => sql`
          select last || ', ' || first || ' · ' || number as title
          from household
          where id = ${id} and not ${isClosed(context, sql`id`)}`,
  },
  claim: {
    permission: 'read claims',
    query: (id, context) =>
      sql`
          select p.last || ', ' || p.first || ' · claim ' || m.control_number as title
          from claim m
            join patient p on p.id = m.patient_id
          where m.id = ${id} and not ${isClosed(context, sql`m.household_id`)}`,
  },
  remittance: {
    permission: 'read remittances',
    query: (id) => sql`select payer_name || ' · ' || trace as title from remittance where id = ${id}`,
  },
};

/** The title; null when there is no such thing, or its account is closed to who asks. */
export async function titleOf(context: Context, kind: Kind, id: string): Promise<string | null> {
  const { permission, query } = TITLES[kind];
  allow(context, permission);
  const number = Number(id);
  if (!Number.isSafeInteger(number)) return null;
  return (await query(number, context).execute(context.db)).rows[0]?.title ?? null;
}
