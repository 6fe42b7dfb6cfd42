/** A remittance that is keyed by another program, as JSON: the same as on the screen, whole or not at all. */
import { createHash } from 'node:crypto';
import { z } from 'zod';
import { type Cents, ZERO, toDecimal } from '../../core/money';
import { keyedFileSchema } from '../../core/remittances/keyed';
import { type Context, Refused } from '../access';
import { parseInput } from '../input';
import { inTransaction } from '../use-case';
import {
  type KeyedClosed,
  addKeyedClaim,
  closeKeyed,
  saveKeyedClaim,
  sayKeyedAdjustments,
  startKeyed,
} from './keyed';
import { postRemittance } from './post';

/** The JSON schema of a keyed remittance. */
export const keyedSchema = (): unknown => z.toJSONSchema(keyedFileSchema, { io: 'input' });

const orNone = (amount: Cents | undefined): Cents => amount ?? ZERO;

/**
 * Keys a remittance from what a file says, closes and posts it. The same file a second time is refused.
 * @throws Refused naming what is wrong; nothing of it is kept then
 */
export async function keyRemittance(context: Context, text: string): Promise<KeyedClosed> {
  let read: unknown;
  try {
    read = JSON.parse(text);
  } catch {
    throw new Refused('invalid', 'This is no JSON');
  }
  const said = parseInput(keyedFileSchema, read as z.input<typeof keyedFileSchema>);
  const remittanceId = await inTransaction(context, async (act) => {
    const payer = await act.db
      .selectFrom('payer')
      .select('id')
      .where('merged_into', 'is', null)
      .where(({ or, eb }) => or([eb('payer_id', '=', said.payer), eb('name', '=', said.payer)]))
      .orderBy('id')
      .executeTakeFirst();
    if (!payer) throw new Refused('unknown', `Payer “${said.payer}” is not in Setup`, 'payer');
    const key = `file ${createHash('sha256').update(text).digest('hex')}`.slice(0, 60);
    const keyedId = await startKeyed(act, {
      payerId: payer.id,
      amount: toDecimal(said.amount),
      method: said.method,
      trace: said.trace,
      references: said.references,
      paymentDate: said.paymentDate,
      receivedDate: said.receivedDate ?? '',
      source: said.source,
      key,
    });
    for (const [at, { controlNumber, status, payerClaimNumber, lines }] of said.claims.entries()) {
      const keyedClaimId = await addKeyedClaim(act, { keyedId, controlNumber, key: `${key}:${at}` });
      const row = await act.db
        .selectFrom('keyed_claim')
        .select(['version', 'status'])
        .where('id', '=', keyedClaimId)
        .executeTakeFirstOrThrow();
      await saveKeyedClaim(act, {
        keyedClaimId,
        status: status ?? row.status,
        payerClaimNumber,
        lines: lines.map(({ number, allowed, deductible, coinsurance, copay, paid, reasons, remarks }) => ({
          number,
          allowed: allowed ?? null,
          deductible: orNone(deductible),
          coinsurance: orNone(coinsurance),
          copay: orNone(copay),
          paid,
          reasons,
          remarks,
        })),
        seen: row.version,
      });
    }
    if (said.adjustments.length > 0) {
      const { version } = await act.db
        .selectFrom('keyed_remittance')
        .select('version')
        .where('id', '=', keyedId)
        .executeTakeFirstOrThrow();
      await sayKeyedAdjustments(act, { keyedId, adjustments: said.adjustments, seen: version });
    }
    return closeKeyed(act, { keyedId, rest: said.rest });
  });
  return { remittanceId, ...(await postRemittance(context, remittanceId)) };
}
