/** Posting as background work: remittances are the items, claims are what is counted. */
import type { z } from 'zod';
import { documentKind } from '../../core/documents';
import { postInput } from '../../core/remittances/input';
import { counted } from '../../core/words';
import type { WorkKind } from '../jobs/kind';
import { postRemittance } from './post';

/** Posts remittances: those named, or all that are ready. */
export const postRemittances: WorkKind<z.output<typeof postInput>> = {
  expireSeconds: 6 * 3600,
  input: postInput,
  document: documentKind('order to post', 1, postInput),
  title: (items) =>
    `Posting ${counted(
      items.reduce((all, item) => all + item.size, 0),
      'claim',
    )}`,
  async items({ db }, { remittanceIds }) {
    let query = db
      .selectFrom('remittance')
      .select(['id', 'claims', 'payer_name', 'trace'])
      .where('status', 'in', ['ready', 'posting']);
    if (remittanceIds) query = query.where('id', 'in', remittanceIds.length > 0 ? remittanceIds : [0]);
    const remits = await query.orderBy('id').execute();
    return remits.map((remit) => ({
      subject: String(remit.id),
      words: `${remit.payer_name} ${remit.trace}`,
      size: remit.claims,
    }));
  },
  async one(context, subject, progress) {
    const id = Number(subject);
    const { before } = await context.db
      .selectFrom('remittance_claim')
      .select(({ fn }) => fn.countAll<number>().as('before'))
      .where('remittance_id', '=', id)
      .where('status', '<>', 'ready')
      .executeTakeFirstOrThrow();
    let going = true;
    await postRemittance(context, id, async (done) => (going = await progress(before + done)));
    if (!going) return null;
    const rows = await context.db
      .selectFrom('remittance_claim')
      .select(['status', ({ fn }) => fn.countAll<number>().as('n')])
      .where('remittance_id', '=', id)
      .groupBy('status')
      .execute();
    const n = (status: string): number => rows.find((row) => row.status === status)?.n ?? 0;
    return `${n('posted')} posted${n('unmatched') > 0 ? `, ${n('unmatched')} held` : ''}`;
  },
};
