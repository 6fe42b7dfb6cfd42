/** What of a charge stands in the books while no money has moved on it. */
import type { EntryKind } from '../../core/books/kinds';
import type { Tx } from '../../db/connect';
import { Refused } from '../access';
import { movesSomething, unreversedEntries } from '../books/journal';

/** Entries on a charge on which no money has moved. */
const ENTERED: ReadonlySet<EntryKind> = new Set([
  'charge',
  'expected-write-off',
  'coverage-change',
  'charge-correction',
  'account-charge',
  'opening',
]);

/** What stands in the way of taking a charge out of the books, with what to do about it. */
async function whatMoved(tx: Tx, chargeId: number): Promise<string> {
  const b = await tx
    .selectFrom('charge_balance')
    .select(['on_plan', 'at_agency', 'agency_paid', 'payer_paid', 'patient_paid'])
    .where('charge_id', '=', chargeId)
    .executeTakeFirstOrThrow();
  if (b.on_plan !== 0) return 'it is on a payment plan, which is changed or cancelled first';
  if (b.at_agency !== 0 || b.agency_paid !== 0)
    return 'it is with an agency, or was paid there: recall it first';
  if (b.payer_paid !== 0) return 'a payer has paid it: void its claim, or reverse the remittance first';
  if (b.patient_paid !== 0) return 'it is paid: take the payments off it first';
  return 'what was decided or written off of it is undone first';
}

/**
 * The entries that put a charge into the books and stand.
 * @throws Refused when money has moved on it and was not taken back
 */
export async function enteredOnly(tx: Tx, chargeId: number): Promise<number[]> {
  const unreversed = await unreversedEntries(tx, chargeId);
  const others = unreversed.filter(({ kind }) => !ENTERED.has(kind));
  const moved = await movesSomething(
    tx,
    chargeId,
    others.map(({ id }) => id),
  );
  if (moved) throw new Refused('blocked', `Money has moved on this charge: ${await whatMoved(tx, chargeId)}`);
  return unreversed.filter(({ kind }) => ENTERED.has(kind)).map(({ id }) => id);
}
