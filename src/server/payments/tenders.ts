/** Tenders of receipts, and where their money is. */
import { sql } from 'kysely';
import type { CashOf } from '../../core/books/entries/patients';
import type { Cents } from '../../core/money';
import { FIRST_PLACE, PLACE_KINDS, TENDERS, type Tender } from '../../core/payments/tenders';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';

/** A tender to be kept; `amount` in cents, below zero where credit goes back. */
interface NewTender {
  receiptId: number;
  tender: Tender;
  reference: string;
  amount: Cents;
  /** The tender that it gives back. */
  refundOf?: number | null;
  locationId?: number | null;
}

/** Where money of a tender comes: an open place of its kind, of the site where there is one. @throws Refused where Setup has none */
async function placeFor(
  tx: Tx,
  { today }: Pick<Context, 'today'>,
  { tender, locationId = null }: Pick<NewTender, 'tender' | 'locationId'>,
): Promise<number> {
  const kind = FIRST_PLACE[tender];
  const found = await tx
    .selectFrom('place')
    .select('id')
    .where('kind', '=', kind)
    .where(({ or, eb }) => or([eb('closed_on', 'is', null), eb('closed_on', '>', today)]))
    .where(({ or, eb }) => or([eb('location_id', 'is', null), eb('location_id', '=', locationId)]))
    .orderBy(sql`location_id nulls last`)
    .orderBy('id')
    .executeTakeFirst();
  if (!found)
    throw new Refused(
      'missing',
      `${TENDERS[tender].words} has no place to go to: Setup has no open place of the kind “${PLACE_KINDS[kind]}”`,
      'tender',
    );
  return found.id;
}

/** Keeps a tender of a receipt. @returns what its cash is about in the books */
export async function keepTender(tx: Tx, context: Context, one: NewTender): Promise<CashOf> {
  const placeId = await placeFor(tx, context, one);
  const { id } = await tx
    .insertInto('tender')
    .values({
      receipt_id: one.receiptId,
      kind: one.tender,
      amount: one.amount,
      reference: one.reference,
      place_id: placeId,
      refund_of: one.refundOf ?? null,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return { account: `cash/${one.tender}`, tenderId: id, placeId };
}
