/** Pieces of mail on their way: the paper is kept, then the piece is sent, fails, is taken out or voided. */
import { createHash } from 'node:crypto';
import type { Selectable } from 'kysely';
import { addDays } from '../../core/calendar';
import { OUTCOMES, type PieceOutcome } from '../../core/mail/pieces';
import { statementDocument } from '../../core/statements/document';
import type { Tx } from '../../db/connect';
import type { DB } from '../../db/tables';
import type { Context } from '../access';

/** Keeps a paper byte for byte. @returns its hash */
export async function keepDocument(
  tx: Tx,
  { bytes, pages }: { bytes: Buffer; pages: number },
): Promise<string> {
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  await tx
    .insertInto('document')
    .values({ sha256, media: 'application/pdf', bytes, pages })
    .onConflict((conflict) => conflict.doNothing())
    .execute();
  return sha256;
}

/** How a piece was sent, as its history says. */
type SentBy = 'e-mail' | 'print shop' | 'printed' | 'handed over';

/**
 * Says of pieces that they are out. What was sent for the first time is a statement from now on; what is out already stays
 * as it is. @returns how many were sent by this
 */
export async function sendPieces(
  tx: Tx,
  context: Context,
  pieceIds: readonly number[],
  by: SentBy,
): Promise<number> {
  if (pieceIds.length === 0) return 0;
  const pieces = await tx
    .selectFrom('mail_piece')
    .select(['id', 'household_id', 'date', 'due_date', 'amount', 'content', 'sent_at'])
    .where('id', 'in', [...pieceIds])
    .where('status', 'in', ['made', 'failed'])
    .where('document', 'is not', null)
    .orderBy('id')
    .forUpdate()
    .execute();
  if (pieces.length === 0) return 0;
  await tx
    .updateTable('mail_piece')
    .set({
      status: 'sent',
      why: '',
      sent_at: ({ fn, ref }) => fn.coalesce(ref('sent_at'), fn<Date>('now')),
      sent_by: by,
      outcome: '',
      outcome_words: '',
    })
    .where(
      'id',
      'in',
      pieces.map(({ id }) => id),
    )
    .execute();
  await writeStatements(
    tx,
    context,
    pieces.filter(({ sent_at }) => sent_at === null),
  );
  return pieces.length;
}

type Sealed = Pick<
  Selectable<DB['mail_piece']>,
  'id' | 'household_id' | 'date' | 'due_date' | 'amount' | 'content'
>;

/** Writes the statements of pieces that went out, with what each showed of every charge. */
async function writeStatements(tx: Tx, context: Context, pieces: readonly Sealed[]): Promise<void> {
  if (pieces.length === 0) return;
  const rows = await tx
    .insertInto('statement')
    .values(
      pieces.map(({ id, household_id, date, due_date, amount }) => ({
        household_id,
        piece_id: id,
        date,
        due_date,
        amount,
        user_id: context.user.id,
      })),
    )
    .returning(['id', 'piece_id'])
    .execute();
  const byPiece = new Map(rows.map((row) => [row.piece_id, row.id]));
  const shown = pieces.flatMap(({ id, content }) =>
    statementDocument.read(content).shows.map(({ chargeId, owed }) => ({
      statement_id: byPiece.get(id)!,
      charge_id: chargeId,
      owed,
    })),
  );
  for (let at = 0; at < shown.length; at += 5000)
    await tx
      .insertInto('statement_charge')
      .values(shown.slice(at, at + 5000))
      .execute();
}

/** Says why a piece did not go out. */
export const failPiece = (tx: Tx, pieceId: number, why: string) =>
  tx
    .updateTable('mail_piece')
    .set({ status: 'failed', why: why.slice(0, 300) })
    .where('id', '=', pieceId)
    .where('status', 'in', ['draft', 'made', 'sent'])
    .execute();

/** What a household is told to mend when its mail came back. */
const MARKS: Partial<Record<PieceOutcome, 'address_returned' | 'email_returned'>> = {
  undeliverable: 'address_returned',
  returned: 'address_returned',
  bounced: 'email_returned',
};
/** Days until somebody looks at mail that came back. */
const LOOK_DAYS = 3;

/**
 * Notes what the outside says of a piece that was sent. What came back fails, marks the address, and is followed up.
 * Said again, it changes nothing more. @returns the words of what was noted
 */
export async function noteOutcome(
  tx: Tx,
  context: Context,
  piece: { id: number; household_id: number; outcome: string },
  result: PieceOutcome,
  words: string,
): Promise<string> {
  if (piece.outcome === result) return 'said before';
  await tx
    .updateTable('mail_piece')
    .set({ outcome: result, outcome_words: words })
    .where('id', '=', piece.id)
    .execute();
  if (result === 'accepted') return OUTCOMES[result];
  const mark = MARKS[result];
  if (mark) {
    await failPiece(tx, piece.id, `${OUTCOMES[result]}${words ? `: ${words}` : ''}`);
    await tx
      .updateTable('household')
      .set({ [mark]: context.today })
      .where('id', '=', piece.household_id)
      .execute();
  }
  await tx
    .insertInto('follow_up')
    .values({
      kind: 'returned-mail',
      household_id: piece.household_id,
      words: `${mark === 'email_returned' ? 'E-mail' : 'Mail'}: ${OUTCOMES[result]}${words ? ` (${words})` : ''}`,
      due_date: addDays(context.today, LOOK_DAYS),
      key: `returned-mail:${piece.id}:${result}`,
    })
    .onConflict((conflict) => conflict.doNothing())
    .execute();
  return OUTCOMES[result];
}
