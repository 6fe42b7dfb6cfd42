/** Sending many claims as background work: each item is what goes into one file. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { sendAllInput } from '../../core/claims/input';
import { documentKind } from '../../core/documents';
import { counted } from '../../core/words';
import type { Db } from '../../db/connect';
import type { WorkKind } from '../jobs/kind';
import { MAX_CLAIMS, sendClaims } from './send';

/** What goes into one file: claims of a connection and form, by the range of their ids. */
interface Part {
  from: number;
  to: number;
  connection: number;
  form: string;
}
const written = ({ from, to, connection, form }: Part): string => `${from}-${to}/${connection}/${form}`;
function readPart(subject: string): Part {
  const [range = '', connection, form = ''] = subject.split('/');
  const [from, to] = range.split('-').map(Number);
  return { from: from!, to: to!, connection: Number(connection), form };
}

/** Sends all claims that are ready, a file an item. What was sent meanwhile, or has got a stop, is left out. */
export const sendReady: WorkKind<z.output<typeof sendAllInput>> = {
  expireSeconds: 3600,
  input: sendAllInput,
  document: documentKind('order to send', 1, sendAllInput),
  title: (items) =>
    `Sending ${counted(
      items.reduce((all, item) => all + item.size, 0),
      'claim',
    )}`,
  async items({ db }) {
    const { rows } = await sql<Part & { size: number; name: string }>`
      select min(id) as "from", max(id) as "to", connection, form, count(*) as size, name from (
        select m.id, y.connection_id as connection, m.form, o.name,
          (row_number() over (partition by y.connection_id, m.form order by m.id) - 1) / ${MAX_CLAIMS} as lot
        from claim m
          join payer y on y.id = m.payer_id
          join connection o on o.id = y.connection_id
        where m.status = 'ready' and y.accepts = 'electronic') x
      group by connection, form, name, lot order by connection, form, lot`.execute(db);
    return rows.map(({ size, name, ...part }) => ({
      subject: written(part),
      words: `${name}, ${part.form}`,
      size,
    }));
  },
  async one(context, subject) {
    const claimIds = await stillReady(context.db, readPart(subject));
    if (claimIds.length === 0) return 'nothing left to send';
    const sent = await sendClaims(context, { claimIds, ready: true });
    const claims = sent.reduce((all, item) => all + item.claims, 0);
    return `${counted(claims, 'claim')} sent${claims < claimIds.length ? `, ${claimIds.length - claims} to fix` : ''}`;
  },
};

async function stillReady(db: Db, { from, to, connection, form }: Part): Promise<number[]> {
  const { rows } = await sql<{ id: number }>`
    select m.id
    from claim m
      join payer y on y.id = m.payer_id
    where m.id between ${from} and ${to}
      and m.status = 'ready'
      and y.accepts = 'electronic'
      and m.form = ${form}
      and y.connection_id = ${connection}
    order by m.id`.execute(db);
  return rows.map(({ id }) => id);
}
