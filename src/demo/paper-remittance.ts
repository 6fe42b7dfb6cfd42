/** A remittance that came by mail and is being keyed: its first claim is whole, the second one waits for the next morning. */
import { type CalendarDate, addDays } from '../core/calendar';
import { sum, toDecimal } from '../core/money';
import type { Db } from '../db/connect';
import { addKeyedClaim, changeKeyed, saveKeyedClaim, startKeyed } from '../server/remittances/keyed';
import { readKeyed } from '../server/remittances/keyed-page';
import type { On } from './diary';

/** Begins to key the paper of the payer at which the oldest claims are out. */
export async function paperRemittance(on: On, db: Db, today: CalendarDate): Promise<void> {
  const out = await db
    .selectFrom('claim')
    .select(['control_number', 'payer_id'])
    .where('status', '=', 'accepted')
    .where('purpose', '=', 'bill')
    .orderBy('service_date')
    .orderBy('id')
    .execute();
  const payerId = out.find(
    ({ payer_id: id }) => out.filter((one) => one.payer_id === id).length >= 2,
  )?.payer_id;
  if (payerId === undefined) return;
  const claims = out.filter((one) => one.payer_id === payerId).slice(0, 2);
  const context = on(today, 'biller');
  const head = {
    payerId,
    method: 'CHK' as const,
    trace: '55-20731',
    references: ['EOB 7731'],
    paymentDate: addDays(today, -4),
    receivedDate: today,
    source: 'mail' as const,
  };
  // What is expected of them is what the paper pays.
  const keyedId = await startKeyed(context, { ...head, amount: '1.00', key: 'demo paper' });
  for (const [at, { control_number: controlNumber }] of claims.entries())
    await addKeyedClaim(context, { keyedId, controlNumber, key: `demo paper ${at}` });
  const page = await readKeyed(context, keyedId);
  const expected = page.claims.map(({ lines }) => lines.flatMap((line) => line.expected ?? []));
  const amount = sum(expected.flatMap((lines) => lines.map(({ paid }) => paid)));
  if (amount > 0)
    await changeKeyed(context, { ...head, amount: toDecimal(amount), keyedId, seen: page.version });
  const [first] = page.claims;
  await saveKeyedClaim(context, {
    keyedClaimId: first!.id,
    status: first!.status,
    payerClaimNumber: '',
    lines: expected[0]!,
    seen: first!.version,
  });
}
