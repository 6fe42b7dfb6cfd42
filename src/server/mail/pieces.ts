/** Pieces of mail on their way: the paper is kept, then the piece is sent, fails, is taken out or voided. */
import { createHash } from 'node:crypto';
import { type Selectable, sql } from 'kysely';
import { type CalendarDate, addDays } from '../../core/calendar';
import { OUTCOMES, type PieceOutcome } from '../../core/mail/pieces';
import { letterDocument } from '../../core/overdue/letters';
import { statementDocument } from '../../core/statements/document';
import type { Tx } from '../../db/connect';
import type { DB } from '../../db/views';
import type { Context } from '../access';
import type { Act } from '../use-case';

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
 * Says of pieces that they are out. What was sent for the first time is a statement or a letter from now on; what is out already
 * stays as it is. @returns how many were sent by this
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
    .select(['id', 'kind', 'household_id', 'patient_id', 'date', 'due_date', 'content', 'sent_at'])
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
      sent_at: ({ fn, ref }) => fn.coalesce(ref('sent_at'), fn<Date>('desk_now')),
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
  const fresh = pieces.filter(({ sent_at }) => sent_at === null);
  await writeStatements(
    tx,
    context,
    fresh.filter(({ kind }) => kind === 'statement'),
  );
  await writeLetters(
    tx,
    fresh.filter(({ kind }) => kind === 'letter'),
  );
  return pieces.length;
}

type Sealed = Pick<
  Selectable<DB['mail_piece']>,
  'id' | 'household_id' | 'patient_id' | 'date' | 'due_date' | 'content'
>;

/** Writes the statements of pieces that went out, one for each household in it, with what each showed of every charge. */
async function writeStatements(tx: Tx, context: Context, pieces: readonly Sealed[]): Promise<void> {
  if (pieces.length === 0) return;
  const statements = pieces.flatMap(({ content, household_id, ...piece }) => {
    const { joined, ...first } = statementDocument.read(content);
    return [{ ...first, householdId: household_id }, ...joined].map((one, place) => ({
      ...one,
      place,
      piece,
    }));
  });
  const rows = await tx
    .insertInto('statement')
    .values(
      statements.map(({ householdId, amount, place, piece }) => ({
        household_id: householdId,
        patient_id: piece.patient_id,
        piece_id: piece.id,
        place,
        date: piece.date,
        due_date: piece.due_date,
        amount,
        user_id: context.user.id,
      })),
    )
    .returning(['id', 'piece_id', 'place'])
    .execute();
  const ids = new Map(rows.map((row) => [`${row.piece_id}/${row.place}`, row.id]));
  const shown = statements.flatMap(({ shows, place, piece }) =>
    shows.map(({ chargeId, owed, credit }) => ({
      statement_id: ids.get(`${piece.id}/${place}`)!,
      charge_id: chargeId,
      owed,
      credit,
    })),
  );
  for (let at = 0; at < shown.length; at += 5000)
    await tx
      .insertInto('statement_charge')
      .values(shown.slice(at, at + 5000))
      .execute();
}

/** Writes the letters that went out, with their stage and what each named of every charge. */
async function writeLetters(tx: Tx, pieces: readonly Sealed[]): Promise<void> {
  if (pieces.length === 0) return;
  const letters = pieces.map(({ content, ...piece }) => ({
    ...piece,
    content: letterDocument.read(content),
  }));
  await tx
    .insertInto('letter')
    .values(
      letters.map(({ id, household_id, patient_id, date, content }) => ({
        piece_id: id,
        household_id,
        patient_id,
        stage_id: content.stage.id,
        position: content.stage.position,
        version_id: content.versionId,
        date,
        amount: content.pastDue,
      })),
    )
    .execute();
  const named = letters.flatMap(({ id, content }) =>
    content.charges.map(({ chargeId, amount }) => ({ piece_id: id, charge_id: chargeId, amount })),
  );
  for (let at = 0; at < named.length; at += 5000)
    await tx
      .insertInto('letter_charge')
      .values(named.slice(at, at + 5000))
      .execute();
}

/** Says that pieces do not count, and the statements in them neither. */
export async function voidThese(
  { db: tx, user, today }: Context & { db: Tx },
  pieceIds: readonly number[],
  why: string,
): Promise<void> {
  await tx
    .updateTable('mail_piece')
    .set({ status: 'void', why })
    .where('id', 'in', [...pieceIds])
    .execute();
  await sql`
    insert into statement_void (statement_id, why, user_name, on_day)
    select id, ${why}, ${user.name}, ${today}::date
    from statement
    where piece_id = any(${[...pieceIds]}::bigint[])
    on conflict do nothing`.execute(tx);
}

/** What a piece is whose money has changed since somebody looked at it: a draft, whose paper is made anew. */
export const toDraft = (why: string) => ({
  status: 'draft' as const,
  document: null,
  pages: null,
  why: why.slice(0, 300),
});

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
/** Marks the address that a piece went to: the patient's confidential one, or that of the household which it is mailed with. */
async function markAddress(
  tx: Tx,
  { household_id, patient_id }: { household_id: number; patient_id: number | null },
  mark: { address_returned?: CalendarDate; email_returned?: CalendarDate },
): Promise<void> {
  if (patient_id !== null)
    await tx
      .updateTable('confidential_address')
      .set(mark)
      .where('patient_id', '=', patient_id)
      .where('ended_on', 'is', null)
      .execute();
  else
    await tx
      .updateTable('household')
      .set(mark)
      .where(
        'id',
        '=',
        sql<number>`(select coalesce(mailed_with, id) from household where id = ${household_id})`,
      )
      .execute();
}

/** Days until somebody looks at mail that came back. */
export const LOOK_DAYS = 3;

/**
 * Notes what the outside says of a piece that was sent. What came back fails, marks the address, and is followed up.
 * Said again, it changes nothing more. @returns the words of what was noted
 */
export async function noteOutcome(
  tx: Tx,
  context: Context,
  piece: { id: number; household_id: number; patient_id: number | null; outcome: string },
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
    await markAddress(tx, piece, { [mark]: context.today });
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

/**
 * What is made and not out goes back to a draft, so that its paper is made anew; what came back does not count, so that the
 * old paper never goes out again.
 */
export async function draftAnew(act: Act, householdId: number, why: string): Promise<void> {
  const pieces = await act.db
    .selectFrom('mail_piece')
    .select(['id', 'sent_at'])
    .where(sql<boolean>`(household_id = ${householdId} or ${householdId} = any(joined))`)
    .where('status', 'in', ['made', 'failed'])
    .orderBy('id')
    .forUpdate()
    .execute();
  const idsOf = (out: boolean): number[] =>
    pieces.filter(({ sent_at }) => (sent_at !== null) === out).map(({ id }) => id);
  if (idsOf(false).length > 0)
    await act.db
      .updateTable('mail_piece')
      .set({ status: 'draft', document: null, pages: null, why })
      .where('id', 'in', idsOf(false))
      .execute();
  if (idsOf(true).length > 0) await voidThese(act, idsOf(true), why);
}
