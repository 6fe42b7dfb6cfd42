/** Reading the books: the trial balance. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { type Context, allow } from '../access';

/** Debits, credits and balance of each book account, in cents. */
export async function trialBalance(
  context: Context,
): Promise<{ account: string; debits: Cents; credits: Cents; balance: Cents }[]> {
  allow(context, 'read books');
  const { rows } = await sql<{ account: string; debits: Cents; credits: Cents; balance: Cents }>`
    select account, coalesce(sum(amount) filter (where amount > 0), 0) as debits, coalesce(-sum(amount) filter (where amount < 0), 0) as credits, sum(amount) as balance from posting group by account order by account`.execute(
    context.db,
  );
  return rows;
}
