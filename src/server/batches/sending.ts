/** Sending a batch in the background: each piece is made as it is now in the books, and goes out by its delivery. */
import { type RawBuilder, sql } from 'kysely';
import type { z } from 'zod';
import { documentKind } from '../../core/documents';
import { batchInput } from '../../core/statements/input';
import { counted } from '../../core/words';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import type { Progress, WorkItem, WorkKind } from '../jobs/kind';
import { failPiece } from '../mail/pieces';
import { isClosed } from '../closed';
import { inTransaction } from '../use-case';
import { sendMessage, sendParcels } from './handing-over';
import { makePiece } from './making';

type BatchInput = z.output<typeof batchInput>;

/** Pieces of a batch, between two numbers where they are given. */
export const piecesWithin = (db: Db | Tx, { batchId, from = 1, to = 1_000_000 }: BatchInput) =>
  db
    .selectFrom('mail_piece')
    .where('mail_piece.batch_id', '=', batchId)
    .where('mail_piece.number', '>=', from)
    .where('mail_piece.number', '<=', to)
    .orderBy('mail_piece.number');

/** Whether no household in the envelope of a `mail_piece` is closed to who asks: whoever is named for it prints it. */
export const isOpenPiece = (context: Context): RawBuilder<boolean> => sql<boolean>`
  not exists (
    select
    from unnest(mail_piece.household_id || mail_piece.joined) e (id)
    where ${isClosed(context, sql`e.id`)}
  )`;

/**
 * Pieces of a batch whose papers are printed here: those that wait for it, or every paper once more. What went out otherwise is
 * not printed unasked, so that nobody gets two. Papers that are closed to who asks wait for somebody else.
 */
export function toPrint(context: Context, within: BatchInput, what: 'waiting' | 'again') {
  const papers = piecesWithin(context.db, within)
    .where('mail_piece.document', 'is not', null)
    .where(isOpenPiece(context));
  if (what === 'again') return papers.where('mail_piece.status', 'in', ['made', 'sent', 'failed']);
  return papers.where('mail_piece.delivery', '=', 'mail').where('mail_piece.status', '=', 'made');
}

/** Sending a batch, or again what failed between two numbers, piece by piece. */
export const sendBatch: WorkKind<BatchInput> = {
  expireSeconds: 3600,
  input: batchInput as never,
  document: documentKind<BatchInput>('batch to send', 1, batchInput as never),
  title: (items) =>
    `Sending ${counted(items.filter(({ subject }) => subject.startsWith('piece:')).length, 'piece')}`,
  async items({ db }, input) {
    const pieces = await piecesWithin(db, input)
      .innerJoin('household as h', 'h.id', 'mail_piece.household_id')
      .select([
        'mail_piece.id',
        'mail_piece.number',
        'mail_piece.delivery',
        'h.number as account',
        'h.last',
        'h.first',
      ])
      .where(({ or, and, eb }) =>
        or([
          eb('mail_piece.status', 'in', ['draft', 'failed']),
          and([eb('mail_piece.status', '=', 'made'), eb('mail_piece.delivery', '<>', 'mail')]),
        ]),
      )
      .execute();
    if (pieces.length === 0) return [];
    const items = pieces.map((piece): WorkItem => ({
      subject: `piece:${piece.id}`,
      words: `${piece.number} · ${piece.account} · ${piece.last}, ${piece.first}`,
      size: 1,
    }));
    if (pieces.some(({ delivery }) => delivery === 'print-shop'))
      items.push({ subject: `parcel:${input.batchId}`, words: 'Parcel for the print shop', size: 1 });
    return items;
  },
  async one(context: Context, subject: string, progress: Progress): Promise<string | null> {
    if (!(await progress(0))) return null;
    const [what, id] = [subject.split(':')[0], Number(subject.split(':')[1])];
    if (what === 'parcel') {
      return sendParcels(context, id);
    }
    return sendOne(context, id);
  },
};

/** Makes a piece and sends it where it goes out by itself. @throws Refused with why it did not, which the piece keeps */
async function sendOne(context: Context, asked: number): Promise<string> {
  let pieceId = asked;
  try {
    const made = await inTransaction(context, (act) => makePiece(act, pieceId));
    if (made.as === 'changed') throw new Stays(made.words);
    if (made.as !== 'made') return made.words;
    pieceId = made.pieceId ?? pieceId;
    const { delivery } = await context.db
      .selectFrom('mail_piece')
      .select('delivery')
      .where('id', '=', pieceId)
      .executeTakeFirstOrThrow();
    if (delivery === 'email') return await sendMessage(context, pieceId);
    return delivery === 'print-shop' ? 'made for the print shop' : 'made, to be printed';
  } catch (error) {
    if (error instanceof Refused && !(error instanceof Stays))
      await inTransaction(context, (act) => failPiece(act.db, pieceId, error.message));
    throw error;
  }
}

/** A piece that stays as it is, and why. */
class Stays extends Refused {
  constructor(message: string) {
    super('state', message);
  }
}
