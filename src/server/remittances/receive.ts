/** Bringing in remittances: streamed, checked for balance, matched to our claims, kept. Nothing is posted here. */
import { counted } from '../../core/words';
import { sql } from 'kysely';
import { claimFaults, paymentFault } from '../../core/remittances/balance';
import { ZERO, add, formatMoneyPlain } from '../../core/money';
import {
  holdReasonsDocument,
  providerAdjustmentsDocument,
  remitClaimDocument,
} from '../../core/remittances/document';
import {
  type ProviderAdjustment,
  type RemitClaim,
  type RemitHeader,
  read835,
} from '../../core/x12/remittance835';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import type { Outcome } from '../exchange/outcome';

const BATCH = 250;
const REASONS_KEPT = 50;

/**
 * Brings in all remittances of an 835, in the transaction given.
 * @param source the file's text, in pieces of any size
 * @returns one outcome a remittance; `held` with the reason when it does not balance, `refused` when it was here before
 * @throws X12Error where the file is broken; the caller's transaction then keeps nothing
 */
export async function receiveRemittances(
  tx: Tx,
  context: Context,
  source: AsyncIterable<string>,
  fileId: number | null,
): Promise<Outcome[]> {
  const outcomes: Outcome[] = [];
  let open: OpenRemittance | null = null;
  for await (const events of read835(source)) {
    for (const event of events) {
      if (event.kind === 'header') open = await OpenRemittance.begin(tx, context, event.header, fileId);
      else if (event.kind === 'claim') await open!.take(event.claim);
      else if (event.kind === 'end') {
        outcomes.push(await open!.finish(event.providerAdjustments));
        open = null;
      }
    }
  }
  return outcomes;
}

class OpenRemittance {
  private readonly reasons: string[] = [];
  private waiting: { number: number; claim: RemitClaim }[] = [];
  private count = 0;
  private unmatched = 0;
  private paid = ZERO;

  private constructor(
    private readonly tx: Tx,
    private readonly header: RemitHeader,
    /** Null when this remittance was here before. */
    private readonly id: number | null,
    private readonly before: string,
  ) {}

  static async begin(
    tx: Tx,
    context: Context,
    header: RemitHeader,
    fileId: number | null,
  ): Promise<OpenRemittance> {
    const key = header.originator || header.payer.id || header.payer.name;
    const payer = await tx
      .selectFrom('payer')
      .select('id')
      .where((eb) =>
        eb.or([
          eb('payer_id', '=', header.payer.id || '–'),
          eb(sql`lower(name)`, '=', header.payer.name.toLowerCase()),
        ]),
      )
      .orderBy('id')
      .executeTakeFirst();
    // A held one posted nothing: the same payment arriving again, put right, takes its place.
    await tx
      .deleteFrom('remittance')
      .where('payer_key', '=', key)
      .where('trace', '=', header.trace)
      .where('amount', '=', header.payment)
      .where('status', '=', 'held')
      .execute();
    const row = await tx
      .insertInto('remittance')
      .values({
        payer_id: payer?.id ?? null,
        payer_key: key,
        payer_name: header.payer.name,
        trace: header.trace,
        originator: header.originator,
        amount: header.payment,
        method: header.method,
        payment_date: header.date,
        file_id: fileId,
        received_date: context.today,
        status: 'held',
      })
      .onConflict((conflict) => conflict.columns(['payer_key', 'trace', 'amount']).doNothing())
      .returning('id')
      .executeTakeFirst();
    const found = new OpenRemittance(
      tx,
      header,
      row?.id ?? null,
      'this payment (payer, trace number and amount) was brought in before',
    );
    if (!payer)
      found.reasons.push(`Payer “${header.payer.name}” (${header.payer.id || 'no id'}) is not in Setup`);
    if (header.payment < 0) found.reasons.push('The payment is below zero: the payer asks for money back');
    return found;
  }

  async take(claim: RemitClaim): Promise<void> {
    this.count += 1;
    if (this.id === null) return;
    this.paid = add(this.paid, claim.paid);
    for (const fault of claimFaults(claim))
      if (this.reasons.length < REASONS_KEPT) this.reasons.push(fault.words);
    this.waiting.push({ number: this.count, claim });
    if (this.waiting.length >= BATCH) await this.write();
  }

  private async write(): Promise<void> {
    const batch = this.waiting.splice(0);
    if (batch.length === 0) return;
    const ours = await this.tx
      .selectFrom('claim')
      .select(['id', 'control_number'])
      .where(
        'control_number',
        'in',
        batch.map((item) => item.claim.controlNumber),
      )
      .where('status', '<>', 'withdrawn')
      .execute();
    const ids = new Map(ours.map((claim) => [claim.control_number, claim.id]));
    const byPayer = batch
      .filter((item) => !ids.has(item.claim.controlNumber) && item.claim.payerClaimNumber)
      .map((item) => item.claim.payerClaimNumber);
    const payers =
      byPayer.length > 0
        ? await this.tx
            .selectFrom('claim')
            .select(['id', 'payer_claim_number'])
            .where('payer_claim_number', 'in', byPayer)
            .where('status', '<>', 'withdrawn')
            .execute()
        : [];
    const byNumber = new Map(payers.map((claim) => [claim.payer_claim_number, claim.id]));
    await this.tx
      .insertInto('remittance_claim')
      .values(
        batch.map(({ number, claim }) => {
          const claimId = ids.get(claim.controlNumber) ?? byNumber.get(claim.payerClaimNumber) ?? null;
          if (claimId === null) this.unmatched += 1;
          return {
            remittance_id: this.id!,
            number,
            control_number: claim.controlNumber,
            claim_id: claimId,
            content: remitClaimDocument.write(claim),
            charge: claim.charge,
            paid: claim.paid,
            status: 'ready' as const,
            hold_reason: claimId === null ? `No claim of ours has the number ${claim.controlNumber}` : '',
          };
        }),
      )
      .execute();
  }

  async finish(providerAdjustments: ProviderAdjustment[]): Promise<Outcome> {
    const outcome = { kind: '835', trace: this.header.trace, amount: this.header.payment };
    if (this.id === null) return { ...outcome, result: 'refused', why: this.before };
    await this.write();
    const fault = paymentFault(this.header.trace, this.header.payment, this.paid, providerAdjustments);
    if (fault) this.reasons.push(fault.words);
    const status = this.reasons.length > 0 ? 'held' : 'ready';
    await this.tx
      .updateTable('remittance')
      .set({
        status,
        claims: this.count,
        hold_reasons: holdReasonsDocument.write(this.reasons),
        provider_adjustments: providerAdjustmentsDocument.write(providerAdjustments),
      })
      .where('id', '=', this.id)
      .execute();
    const held = this.unmatched > 0 ? `, ${this.unmatched} not ours` : '';
    return {
      ...outcome,
      result: 'held',
      remittanceId: this.id,
      why:
        this.reasons.length > 0
          ? this.reasons.slice(0, 3).join('; ')
          : `${counted(this.count, 'claim')} worth ${formatMoneyPlain(this.paid)} ready to post${held}`,
    };
  }
}
