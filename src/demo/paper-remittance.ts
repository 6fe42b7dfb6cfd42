/** A remittance that came by mail for claims that went by mail: its first claim is keyed, the second one waits for the next morning. */
import { type CalendarDate, addDays } from '../core/calendar';
import { ZERO, cents } from '../core/money';
import type { Db } from '../db/connect';
import { addKeyedClaim, saveKeyedClaim, startKeyed } from '../server/remittances/keyed';
import type { On } from './diary';

/** Begins to key the paper of the payer to which claims were mailed: of 145.00 each it pays four fifths. */
export async function paperRemittance(on: On, db: Db, today: CalendarDate): Promise<void> {
  const claims = await db
    .selectFrom('claim as m')
    .innerJoin('payer as y', 'y.id', 'm.payer_id')
    .select(['m.control_number as controlNumber', 'y.id as payerId'])
    .where('y.accepts', '=', 'paper')
    .where('m.status', '=', 'sent')
    .orderBy('m.id')
    .limit(2)
    .execute();
  const biller = on(today, 'biller');
  const keyedId = await startKeyed(biller, {
    payerId: claims[0]!.payerId,
    amount: '232.00',
    method: 'CHK',
    trace: '55-20731',
    references: ['EOB 7731'],
    paymentDate: addDays(today, -4),
    receivedDate: today,
    source: 'mail',
    key: 'demo paper',
  });
  const rows: number[] = [];
  for (const { controlNumber } of claims)
    rows.push(await addKeyedClaim(biller, { keyedId, controlNumber, key: `demo paper ${controlNumber}` }));
  const part = { allowed: null, deductible: ZERO, coinsurance: cents(2900), copay: ZERO, paid: cents(11600) };
  await saveKeyedClaim(biller, {
    keyedClaimId: rows[0]!,
    status: '1',
    payerClaimNumber: 'HM-88120',
    lines: [{ number: 1, ...part, reasons: [], remarks: [] }],
    seen: 1,
  });
}
