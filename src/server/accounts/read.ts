/** Reading the account page. */
import { sql } from 'kysely';
import { type Context, Refused, allow, audit } from '../access';
import { unbilledIn } from './ledger';
import { type AccountParts, readParts } from './parts';

/** Everything the account page shows: who answers for it, and its parts. */
export interface AccountPage extends AccountParts {
  household: {
    id: number;
    number: string;
    last: string;
    first: string;
    line1: string;
    line2: string;
    city: string;
    state: string;
    zip: string;
    phone: string;
    email: string;
    notice: string;
  };
  /** Charges that wait with their first payer and are on no claim to it. */
  unbilled: number;
  /** Charges left out because the account is long. */
  earlier: number;
}

/**
 * Reads an account whole; a fixed number of queries whatever its length.
 * @param all reads every charge of a long account instead of the newest ones
 */
export async function readAccount(context: Context, householdId: number, all = false): Promise<AccountPage> {
  allow(context, 'read accounts');
  const { db } = context;
  const found = await db
    .selectFrom('household')
    .select([
      'id',
      'number',
      'last',
      'first',
      'line1',
      'line2',
      'city',
      'state',
      'zip',
      'phone',
      'email',
      'notice',
      sql<number>`(select count(*) from charge where household_id = household.id)`.as('count'),
    ])
    .where('id', '=', householdId)
    .executeTakeFirst();
  if (!found) throw new Refused('There is no such account');
  const { count, ...household } = found;
  const [parts] = await Promise.all([
    readParts(context, { householdId, all }),
    audit(db, context, 'read', { kind: 'household', id: householdId }),
  ]);
  return {
    ...parts,
    household,
    unbilled: unbilledIn(parts.charges).length,
    earlier: Math.max(0, count - parts.charges.length),
  };
}
