/** Bringing in remittances: streamed, checked for balance, matched to our claims, kept. Nothing is posted here. */
import type { CalendarDate } from '../../core/calendar';
import { counted } from '../../core/words';
import { sql } from 'kysely';
import { createHash, randomUUID } from 'node:crypto';
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
  type Remittance,
  read835,
} from '../../core/x12/remittance835';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import type { Outcome } from '../outcome';
import { REASONS_KEPT, doubtsOf, findClaims, findPayer, postsNothing, strangerWords } from './matching';

const BATCH = 250;

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

/** The paper from which a remittance is keyed. */
interface KeyedFrom {
  id: number;
  payerId: number;
  receivedDate: CalendarDate;
}

/**
 * Brings in a remittance that was keyed, in the transaction given, on the same rules as one of a file.
 * @returns its id, and why it is held, if it is
 */
export async function receiveKeyed(
  tx: Tx,
  context: Context,
  { claims, providerAdjustments, ...header }: Remittance,
  keyed: KeyedFrom,
): Promise<{ remittanceId: number; reasons: string[] }> {
  const open = await OpenRemittance.begin(tx, context, header, null, keyed);
  for (const claim of claims) await open.take(claim);
  const { remittanceId } = await open.finish(providerAdjustments);
  const { hold_reasons: reasons } = await tx
    .selectFrom('remittance')
    .select('hold_reasons')
    .where('id', '=', remittanceId!)
    .executeTakeFirstOrThrow();
  return { remittanceId: remittanceId!, reasons: reasons === null ? [] : holdReasonsDocument.read(reasons) };
}

class OpenRemittance {
  private readonly reasons: string[] = [];
  private readonly content = createHash('sha256');
  private waiting: { number: number; claim: RemitClaim }[] = [];
  private count = 0;
  private unmatched = 0;
  private paid = ZERO;

  private constructor(
    private readonly tx: Tx,
    private readonly context: Context,
    private readonly header: RemitHeader,
    private readonly key: string,
    private readonly payerId: number | null,
    private readonly id: number,
    private readonly keyed: KeyedFrom | null,
  ) {}

  static async begin(
    tx: Tx,
    context: Context,
    header: RemitHeader,
    fileId: number | null,
    keyed: KeyedFrom | null = null,
  ): Promise<OpenRemittance> {
    const key = header.originator || header.payer.id || header.payer.name;
    // Whoever brings the same payment at the same moment waits until this one is kept, and then finds it.
    await sql`select pg_advisory_xact_lock(hashtextextended(${`${key}/${header.trace}/${header.payment}`}, 0))`.execute(
      tx,
    );
    const payerId = keyed === null ? await findPayer(tx, header) : keyed.payerId;
    const { id } = await tx
      .insertInto('remittance')
      .values({
        payer_id: payerId,
        payer_key: key,
        payer_name: header.payer.name,
        payer_number: header.payer.id,
        payee_name: header.payee.name,
        payee_npi: header.payee.npi,
        payee_tax_id: header.payee.taxId,
        handling: header.handling,
        credit_debit: header.creditDebit,
        trace: header.trace,
        originator: header.originator,
        amount: header.payment,
        method: header.method,
        payment_date: header.date,
        file_id: fileId,
        received_date: keyed?.receivedDate ?? context.today,
        keyed_id: keyed?.id ?? null,
        content_key: `reading ${randomUUID()}`,
        status: 'held',
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    return new OpenRemittance(tx, context, header, key, payerId, id, keyed);
  }

  async take(claim: RemitClaim): Promise<void> {
    this.count += 1;
    this.content.update(JSON.stringify(claim));
    this.paid = add(this.paid, claim.paid);
    for (const fault of claimFaults(claim))
      if (this.reasons.length < REASONS_KEPT) this.reasons.push(fault.words);
    this.waiting.push({ number: this.count, claim });
    if (this.waiting.length >= BATCH) await this.write();
  }

  private async write(): Promise<void> {
    const batch = this.waiting.splice(0);
    if (batch.length === 0) return;
    const found = await findClaims(
      this.tx,
      this.payerId,
      batch.map(({ claim }) => claim),
    );
    this.unmatched += found.filter((id) => id === null).length;
    await this.tx
      .insertInto('remittance_claim')
      .values(
        batch.map(({ number, claim }, index) => ({
          remittance_id: this.id,
          number,
          control_number: claim.controlNumber,
          claim_id: found[index]!,
          content: remitClaimDocument.write(claim),
          charge: claim.charge,
          paid: claim.paid,
          status: 'ready' as const,
          hold_kind: found[index] === null ? 'stranger' : '',
          hold_reason: found[index] === null ? strangerWords(claim) : '',
        })),
      )
      .execute();
  }

  /** One that was here before goes away again; one that was held gives its place. @returns why it is refused */
  private async before(contentKey: string): Promise<string | null> {
    const { rows } = await sql<{ id: number; status: string; same: boolean; nothing: boolean }>`
      select r.id, r.status, r.content_key = ${contentKey} as same, ${postsNothing} as nothing from remittance r
      where r.payer_key = ${this.key}
        and r.trace = ${this.header.trace}
        and r.amount = ${this.header.payment}
        and r.id <> ${this.id}`.execute(this.tx);
    const same = rows.find((row) => row.same && row.status !== 'held');
    if (same) {
      await this.tx.deleteFrom('remittance').where('id', '=', this.id).execute();
      return `this payment (payer, trace number, amount and content) was brought in before${same.nothing ? '; it was reversed: post it anew on its page' : ''}`;
    }
    // A held one posted nothing: the same payment arriving again, put right, takes its place.
    const replaced = rows.filter((row) => row.status === 'held' && (row.same || this.header.payment !== 0));
    for (const { id } of replaced) await this.tx.deleteFrom('remittance').where('id', '=', id).execute();
    return null;
  }

  async finish(providerAdjustments: ProviderAdjustment[]): Promise<Outcome> {
    const outcome = { kind: '835', trace: this.header.trace, amount: this.header.payment };
    await this.write();
    if (this.keyed) this.content.update(`keyed ${this.keyed.id} ${this.id}`);
    const contentKey = this.content.update(JSON.stringify(providerAdjustments)).digest('hex');
    // What is keyed takes the place of nothing: that it is here already is found before.
    const before = this.keyed ? null : await this.before(contentKey);
    if (before) return { ...outcome, result: 'refused', why: before };
    const doubts = await doubtsOf(this.tx, this.context.today, {
      id: this.id,
      header: this.header,
      payerKey: this.key,
      payerId: this.payerId,
    });
    this.reasons.unshift(...doubts);
    const fault = paymentFault(this.header.trace, this.header.payment, this.paid, providerAdjustments);
    if (fault) this.reasons.push(fault.words);
    const status = this.reasons.length > 0 ? 'held' : 'ready';
    await this.tx
      .updateTable('remittance')
      .set({
        status,
        content_key: contentKey,
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
