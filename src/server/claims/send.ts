/** Sending claims: one transmission a connection and form, written to the outbox. */
import { sql } from 'kysely';
import { toX12Date } from '../../core/calendar';
import type { ClaimContent } from '../../core/claims/content';
import { maySend } from '../../core/claims/rules';
import { type Cents, sum } from '../../core/money';
import { write837 } from '../../core/x12/claim837';
import { type Context, Refused, allow, audit } from '../access';
import { recordStep, refreshClaim } from './build';

/** One file that was prepared for the outbox. */
export interface Sent {
  file: string;
  claims: number;
  total: Cents;
}

const MAX_CLAIMS = 2000;

/**
 * Checks and sends claims: all that are ready, or those named. A claim with a stop is left where it is.
 * The transmission is stored with its text before the file is written, so a kill in between loses nothing.
 * @throws Refused when named claims cannot be sent
 */
export async function sendClaims(context: Context, claimIds?: readonly number[]): Promise<Sent[]> {
  allow(context, 'work claims');
  return context.db.transaction().execute(async (tx) => {
    let query = tx
      .selectFrom('claim as m')
      .innerJoin('payer as y', 'y.id', 'm.payer_id')
      .select(['m.id', 'm.form', 'y.connection_id', 'm.control_number'])
      .where('y.connection_id', 'is not', null);
    query = claimIds
      ? query
          .where('m.id', 'in', claimIds.length > 0 ? [...claimIds] : [0])
          .where('m.status', 'in', ['draft', 'ready', 'rejected'])
      : query.where('m.status', '=', 'ready');
    const claims = await query.orderBy('m.id').limit(MAX_CLAIMS).forNoKeyUpdate('m').execute();
    if (claimIds && claims.length < claimIds.length)
      throw new Refused('A claim was sent already or is not ready: nothing was sent');
    const bundles = new Map<
      string,
      { connectionId: number; form: string; ids: number[]; contents: ClaimContent[] }
    >();
    for (const claim of claims) {
      const findings = await refreshClaim(tx, context, claim.id);
      if (!maySend(findings)) {
        if (claimIds)
          throw new Refused(
            `Claim ${claim.control_number} cannot be sent: ${findings.find((item) => item.severity === 'stop')!.words}`,
          );
        continue;
      }
      const { content } = await tx
        .selectFrom('claim')
        .select('content')
        .where('id', '=', claim.id)
        .executeTakeFirstOrThrow();
      const key = `${claim.connection_id}|${claim.form}`;
      const bundle = bundles.get(key) ?? {
        connectionId: claim.connection_id!,
        form: claim.form,
        ids: [],
        contents: [],
      };
      bundle.ids.push(claim.id);
      bundle.contents.push(content as ClaimContent);
      bundles.set(key, bundle);
    }
    const practice = await tx.selectFrom('practice').selectAll().executeTakeFirst();
    const sent: Sent[] = [];
    for (const bundle of bundles.values()) {
      const connection = await tx
        .updateTable('connection')
        .set({ last_control: sql`last_control + 1` })
        .where('id', '=', bundle.connectionId)
        .returningAll()
        .executeTakeFirstOrThrow();
      const control = String(connection.last_control);
      const day = toX12Date(context.today);
      const total = sum(bundle.contents.map((content) => content.total));
      const text = write837({
        interchange: {
          senderQualifier: 'ZZ',
          sender: connection.sender_id,
          receiverQualifier: 'ZZ',
          receiver: connection.receiver_id,
          controlNumber: control.padStart(9, '0'),
          date: day.slice(2),
          time: '1200',
          usage: 'T',
        },
        controlNumber: control,
        date: day,
        time: '1200',
        submitter: { name: practice!.name, contact: practice!.contact, phone: practice!.phone },
        receiverName: connection.receiver_name,
        claims: bundle.contents,
      });
      const name = `${day}-${control.padStart(6, '0')}-${bundle.form === 'dental' ? '837D' : '837P'}.x12`;
      const { id } = await tx
        .insertInto('transmission')
        .values({
          connection_id: connection.id,
          control_number: control,
          file_name: `${connection.folder}/${name}`,
          content: text,
          claims: bundle.ids.length,
          total,
          business_date: context.today,
        })
        .returning('id')
        .executeTakeFirstOrThrow();
      await tx
        .updateTable('claim')
        .set({ status: 'sent', transmission_id: id, sent_date: context.today })
        .where('id', 'in', bundle.ids)
        .execute();
      for (const claimId of bundle.ids)
        await recordStep(
          tx,
          context,
          claimId,
          'sent',
          { kind: 'user', name: context.user.name },
          `Sent in file ${name}`,
        );
      await audit(tx, context, 'sent', { kind: 'transmission', id }, { claims: bundle.ids.length });
      sent.push({ file: name, claims: bundle.ids.length, total });
    }
    return sent;
  });
}
