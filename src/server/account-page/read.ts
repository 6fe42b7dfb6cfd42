/** Reading the account page. */
import { sql } from 'kysely';
import { type Context, Refused, allow } from '../access';
import { opened } from '../closed';
import { waitsForClaim } from '../../core/accounts/unbilled';
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
  const head = db
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
      'merged_into as mergedInto',
      sql<number>`(select count(*) from charge where household_id = household.id)`.as('count'),
    ])
    .where('id', '=', householdId)
    .executeTakeFirst();
  // Side by side; of an account that is not there nothing else is told.
  const reading = readParts(context, { householdId, all });
  reading.catch(() => undefined);
  const found = await head;
  if (!found) throw new Refused('unknown', 'There is no such account');
  if (found.mergedInto !== null)
    throw new Refused('state', 'This account was merged into another one', {
      facts: { merged_into: found.mergedInto },
    });
  const parts = await reading;
  await opened(context, { kind: 'household', id: householdId });
  const { count, mergedInto: _, ...household } = found;
  return {
    ...parts,
    household,
    unbilled: parts.charges.filter(waitsForClaim).length,
    earlier: Math.max(0, count - parts.charges.length),
  };
}
