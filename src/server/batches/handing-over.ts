/**
 * Handing made pieces over: e-mails to the message gateway, parcels to the print shop. Each is the same file however
 * often it is written.
 */
import { join } from 'node:path';
import { sql } from 'kysely';
import { readSettings } from '../../core/exchange/connections';
import { faceOf, readContent } from '../../core/mail/contents';
import { pieceName } from '../../core/mail/pieces';
import { counted } from '../../core/words';
import type { Db } from '../../db/connect';
import { type Context, Refused } from '../access';
import { foldersOf, writeWhole } from '../folders';
import { writeMessage } from '../mail/message';
import { type ParcelPiece, writeParcel } from '../mail/parcel';
import { sendPieces, toDraft } from '../mail/pieces';
import { type Act, inTransaction } from '../use-case';
import { notAsMade } from './leaving';

/** A connection through which pieces go out. @throws Refused when Setup has none of its kind */
async function outsideOf(db: Db, kind: 'print-shop' | 'message-gateway') {
  const connection = await db
    .selectFrom('connection')
    .select(['id', 'folder', 'settings'])
    .where('kind', '=', kind)
    .orderBy('id')
    .executeTakeFirst();
  if (!connection)
    throw new Refused(
      'unknown',
      `There is no ${kind === 'print-shop' ? 'print shop' : 'message gateway'} in Setup: add one, or change the delivery`,
    );
  return connection;
}

/**
 * Writes the e-mail of a piece into the gateway's outbox and says that it is out. Done again, it is the same file.
 * @param again also writes one that is out already
 */
export async function sendMessage(context: Context, pieceId: number, again = false): Promise<string> {
  const gateway = await outsideOf(context.db, 'message-gateway');
  return inTransaction(context, async (act) => {
    const piece = await act.db
      .selectFrom('mail_piece as p')
      .innerJoin('household as h', 'h.id', 'p.household_id')
      .innerJoin('document as d', 'd.sha256', 'p.document')
      .innerJoin('household as m', (join) => join.on('m.id', '=', sql<number>`coalesce(h.mailed_with, h.id)`))
      .leftJoin('confidential_address as a', (join) =>
        join.onRef('a.patient_id', '=', 'p.patient_id').on('a.ended_on', 'is', null),
      )
      .select([
        'p.status',
        'p.kind',
        'p.content',
        'd.bytes',
        'd.created_at',
        sql<string>`case when p.patient_id is null then m.email else coalesce(a.email, '') end`.as('email'),
      ])
      .where('p.id', '=', pieceId)
      .forUpdate('p')
      .executeTakeFirstOrThrow();
    if (piece.status === 'sent' && !again) return 'is out already';
    if (piece.email === '') throw new Refused('unknown', 'There is no e-mail address');
    const face = faceOf(readContent(piece.kind, piece.content));
    const bytes = await writeMessage({
      id: pieceName(pieceId),
      from: {
        name: face.practice.name,
        address: readSettings('message-gateway', gateway.settings).from,
      },
      to: { name: face.to.name, address: piece.email },
      subject: face.subject,
      text: face.text,
      date: piece.created_at,
      attachment: { name: face.file, bytes: piece.bytes },
    });
    const { outbox } = await foldersOf(gateway.folder);
    await writeWhole(join(outbox, `${pieceName(pieceId)}.eml`), bytes);
    await sendPieces(act.db, act, [pieceId], 'e-mail');
    return 'sent by e-mail';
  });
}

/** Puts pieces that are made for the print shop into a parcel, unless a parcel of them waits to be written already. */
export async function packParcel(
  act: Act,
  batchId: number,
  pieceIds: readonly number[] | null,
): Promise<number | null> {
  await act.db.selectFrom('mail_batch').select('id').where('id', '=', batchId).forUpdate().execute();
  const waiting = await act.db
    .selectFrom('mail_parcel')
    .select('id')
    .where('batch_id', '=', batchId)
    .where('written_at', 'is', null)
    .orderBy('id')
    .executeTakeFirst();
  if (waiting) return waiting.id;
  let asked = act.db
    .selectFrom('mail_piece')
    .select('id')
    .where('batch_id', '=', batchId)
    .where('delivery', '=', 'print-shop');
  asked = pieceIds
    ? asked
        .where('id', 'in', [...pieceIds])
        .where('status', 'in', ['made', 'sent', 'failed'])
        .where('document', 'is not', null)
    : asked.where('status', '=', 'made');
  let pieces = await asked.orderBy('number').forUpdate().execute();
  if (pieceIds === null && pieces.length > 0) {
    // Made before, and not as it was: it is looked at again.
    const changed = await notAsMade(
      act,
      pieces.map(({ id }) => id),
    );
    for (const { id, words } of changed)
      await act.db
        .updateTable('mail_piece')
        .set(toDraft(`changed since it was made: ${words}`))
        .where('id', '=', id)
        .execute();
    pieces = pieces.filter(({ id }) => !changed.some((one) => one.id === id));
  }
  if (pieces.length === 0) return null;
  const shop = await outsideOf(act.db, 'print-shop');
  const { customerId } = readSettings('print-shop', shop.settings);
  const { count } = await act.db
    .selectFrom('mail_parcel')
    .select(({ fn }) => fn.countAll<number>().as('count'))
    .where('batch_id', '=', batchId)
    .executeTakeFirstOrThrow();
  const { id } = await act.db
    .insertInto('mail_parcel')
    .values({
      batch_id: batchId,
      connection_id: shop.id,
      file_name: `${customerId.replace(/[^A-Za-z0-9-]/g, '')}-${batchId}-${count + 1}.zip`,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  await act.db
    .updateTable('mail_piece')
    .set({ parcel_id: id })
    .where(
      'id',
      'in',
      pieces.map((piece) => piece.id),
    )
    .execute();
  return id;
}

/** Writes a parcel into the print shop's outbox and says that its pieces are out. Done again, it is the same file. */
export async function sendParcel(context: Context, parcelId: number): Promise<string> {
  return inTransaction(context, async (act) => {
    const parcel = await act.db
      .selectFrom('mail_parcel as m')
      .innerJoin('connection as c', 'c.id', 'm.connection_id')
      .select(['m.file_name', 'm.written_at', 'c.folder'])
      .where('m.id', '=', parcelId)
      .forUpdate('m')
      .executeTakeFirstOrThrow();
    if (parcel.written_at) return 'handed over already';
    const rows = await act.db
      .selectFrom('mail_piece')
      .select(['id', 'kind', 'content', 'pages', 'document'])
      .where('parcel_id', '=', parcelId)
      .where('status', 'in', ['made', 'sent', 'failed'])
      .orderBy('number')
      .execute();
    const papers = new Map<string, string>();
    const pieces = rows.map(({ id, kind, content, pages, document }): ParcelPiece => {
      papers.set(pieceName(id), document!);
      return { name: pieceName(id), pages: pages!, address: faceOf(readContent(kind, content)).to };
    });
    const { outbox } = await foldersOf(parcel.folder);
    await writeParcel(join(outbox, parcel.file_name), pieces, async ({ name }) => {
      const { bytes } = await act.db
        .selectFrom('document')
        .select('bytes')
        .where('sha256', '=', papers.get(name)!)
        .executeTakeFirstOrThrow();
      return bytes;
    });
    await act.db
      .updateTable('mail_parcel')
      .set({ written_at: sql<Date>`desk_now()` })
      .where('id', '=', parcelId)
      .execute();
    await sendPieces(
      act.db,
      act,
      rows.map(({ id }) => id),
      'print shop',
    );
    return `${counted(pieces.length, 'piece')} handed to the print shop`;
  });
}

/** Hands over what waits for the print shop, in as many parcels as were begun. @returns what was done, in words */
export async function sendParcels(context: Context, batchId: number): Promise<string> {
  const done: string[] = [];
  for (;;) {
    const parcelId = await inTransaction(context, (act) => packParcel(act, batchId, null));
    if (parcelId === null) return done.join(', ') || 'nothing for it';
    done.push(await sendParcel(context, parcelId));
  }
}
