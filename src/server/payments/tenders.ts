/** Tenders of receipts, where their money is, and what they pay. */
import { sql } from 'kysely';
import { type CashOf, allocationEntry } from '../../core/books/entries/patients';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, formatMoneyPlain } from '../../core/money';
import type { Spread } from '../../core/payments/spread';
import { FIRST_PLACE, PLACE_KINDS, TENDERS, type Tender } from '../../core/payments/tenders';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import type { Owing } from '../books/open-lines';

/** A tender to be kept; amounts in cents, below zero where credit goes back. */
interface NewTender {
  receiptId: number;
  tender: Tender;
  reference: string;
  amount: Cents;
  surcharge?: Cents;
  /** What was handed over in cash. */
  given?: Cents | null;
  /** The tender that it gives back, or whose place it takes since that was written down wrongly. */
  refundOf?: number | null;
  corrects?: number | null;
  locationId?: number | null;
  /** Our own check, which is drawn on the bank and never waits for it. */
  ownCheck?: boolean;
  /** The drawer into which it goes; null for the place of its kind. */
  drawer?: { id: number; placeId: number } | null;
}

/** Where money of a tender comes: an open place of its kind, of the site where there is one. @throws Refused where Setup has none */
export async function placeFor(
  tx: Tx,
  { today }: Pick<Context, 'today'>,
  { tender, locationId = null, ownCheck = false }: Pick<NewTender, 'tender' | 'locationId' | 'ownCheck'>,
): Promise<number> {
  const kind = ownCheck ? 'bank' : FIRST_PLACE[tender];
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

/** The drawer into which cash and checks of who acts go at a site; null where none is open. It stays open until that is done. */
export async function drawerOf(
  act: Context & { db: Tx },
  tender: Tender,
  locationId: number | null,
): Promise<{ id: number; placeId: number } | null> {
  if (tender !== 'cash' && tender !== 'check') return null;
  const found = await act.db
    .selectFrom('drawer')
    .select(['id', 'place_id as placeId'])
    .where('user_id', '=', act.user.id)
    .where('location_id', '=', locationId)
    .where('closed_at', 'is', null)
    .forKeyShare()
    .executeTakeFirst();
  return found ?? null;
}

/** Keeps a tender of a receipt. @returns what its cash is about in the books */
export async function keepTender(tx: Tx, context: Context, one: NewTender): Promise<CashOf> {
  const placeId = one.drawer?.placeId ?? (await placeFor(tx, context, one));
  const { id } = await tx
    .insertInto('tender')
    .values({
      receipt_id: one.receiptId,
      kind: one.tender,
      amount: one.amount,
      surcharge: one.surcharge ?? ZERO,
      reference: one.reference,
      given: one.given ?? null,
      place_id: placeId,
      drawer_id: one.drawer?.id ?? null,
      refund_of: one.refundOf ?? null,
      corrects: one.corrects ?? null,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return { account: `cash/${one.tender}`, tenderId: id, placeId };
}

/** Cards of an account for which a terminal was asked and has not answered, in words: they may have been charged. */
export async function waitingCards(db: Db, householdId: number): Promise<string[]> {
  const rows = await db
    .selectFrom('tender as t')
    .innerJoin('receipt as r', 'r.id', 't.receipt_id')
    .select(['t.amount', 't.brand', 't.last_four as lastFour'])
    .where('r.household_id', '=', householdId)
    .where('t.state', '=', 'pending')
    .where('t.amount', '>', ZERO)
    .orderBy('t.id')
    .execute();
  return rows.map(
    ({ amount, brand, lastFour }) =>
      `${formatMoneyPlain(amount)} of ${brand} ${lastFour} waits for the terminal’s answer: it may have been charged`,
  );
}

/**
 * Entries by which a receipt pays charges, one a charge: on the day of the money, but never before the service.
 * @param tenderId the tender that pays them; null for what is used of credit later
 */
export const allocations = (
  day: CalendarDate,
  memo: string,
  receiptId: number,
  parts: Spread['parts'],
  open: readonly Owing[],
  tenderId: number | null = null,
) =>
  parts.map((part) => {
    const { householdId, patientId, date } = open.find((charge) => charge.id === part.id)!;
    return allocationEntry({
      businessDate: date > day ? date : day,
      memo,
      about: { householdId, chargeId: part.id, receiptId, patientId, tenderId },
      amount: part.amount,
    });
  });
