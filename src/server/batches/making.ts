/** Making the paper of a draft, from the books as they are at that moment. */
import type { Selectable } from 'kysely';
import { formatMoneyPlain } from '../../core/money';
import {
  type StatementContent,
  dueTogether,
  optionsDocument,
  sameMoney,
  statementDocument,
} from '../../core/statements/document';
import { choose } from '../../core/statements/selection';
import type { Tx } from '../../db/connect';
import type { DB } from '../../db/views';
import { Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import type { Made } from '../mail/made';
import { keepDocument, toDraft, voidThese } from '../mail/pieces';
import { makeLetter } from '../overdue/door';
import type { Act } from '../use-case';
import { draftColumns, readContents, readFacts } from '../statements/door';
import { statementPdf } from '../print/statement';
import { readPolicies } from '../setup/statement-policies';

/**
 * Why a household's statement, or a patient's, is not to go out now: what stops it whatever the rows said; null when nothing does.
 * @param printed it goes on paper, whatever its e-mail
 */
async function againstSending(
  act: Act,
  householdId: number,
  patientId: number | null,
  printed = false,
): Promise<string | null> {
  const policies = await readPolicies(act.db);
  const facts = (await readFacts(act, policies, [], [householdId])).find(
    (one) => one.patientId === patientId,
  );
  if (!facts)
    return patientId === null ? 'nothing was ever charged on it' : 'its confidential address was taken away';
  const asked = { ...facts, openBatch: null };
  const { in: isIn, reasons } = choose(asked, [], policies.of(facts.siteId), act.today);
  const against = isIn
    ? []
    : reasons.filter(({ id }) => id !== 'below-least' && id !== 'credit' && !(printed && id === 'no-email'));
  return against.length === 0 ? null : against.map(({ words }) => words).join('; ');
}

/** Takes households out of an envelope that are not to get theirs now. @returns what is said of it; null when all stay */
async function dropJoined(
  act: Act,
  piece: { id: number; joined: number[]; status: string; sent_at: Date | null },
): Promise<string | null> {
  const gone: string[] = [];
  const stay: number[] = [];
  for (const householdId of piece.joined) {
    const against = await againstSending(act, householdId, null);
    if (against === null) stay.push(householdId);
    else {
      const { number } = await act.db
        .selectFrom('household')
        .select('number')
        .where('id', '=', householdId)
        .executeTakeFirstOrThrow();
      gone.push(`${number}: ${against}`);
    }
  }
  if (gone.length === 0) return null;
  if (piece.sent_at !== null) throw new Refused('state', `Not sent again: ${gone.join('; ')}`);
  const words = `taken out of the envelope: ${gone.join('; ')}`;
  await act.db
    .updateTable('mail_piece')
    .set({ joined: stay, status: 'draft', document: null, pages: null, why: words.slice(0, 300) })
    .where('id', '=', piece.id)
    .execute();
  return words;
}

const money = (content: StatementContent): string => formatMoneyPlain(dueTogether(content));

/**
 * Makes a draft's paper from the books as they are now, dated today. One whose money has changed since somebody looked at it
 * is a draft and says so; one that is stopped now is taken out; one that was out and came back is a piece anew.
 */
export async function makePiece(act: Act, pieceId: number): Promise<Made> {
  const tx = act.db;
  const { household_id: householdId, joined } = await tx
    .selectFrom('mail_piece')
    .select(['household_id', 'joined'])
    .where('id', '=', pieceId)
    .executeTakeFirstOrThrow();
  await lockHouseholds(tx, [householdId, ...joined]);
  const piece = await tx
    .selectFrom('mail_piece')
    .selectAll()
    .where('id', '=', pieceId)
    .forUpdate()
    .executeTakeFirstOrThrow();
  if (piece.status === 'sent' || piece.status === 'void' || piece.status === 'taken-out')
    return { as: 'out already', words: piece.status === 'sent' ? 'is out already' : 'was taken out' };
  if (piece.sent_at !== null) return sendAnew(act, piece);
  if (piece.kind === 'letter') return makeLetter(act, piece);
  const against = await againstSending(act, householdId, piece.patient_id);
  if (against !== null) {
    const why = `Not sent: ${against}`.slice(0, 300);
    await tx.updateTable('mail_piece').set({ status: 'taken-out', why }).where('id', '=', pieceId).execute();
    return { as: 'taken out', words: `taken out: ${against}` };
  }
  const dropped = await dropJoined(act, piece);
  if (dropped !== null) return { as: 'changed', words: dropped };
  const [content] = (await readContents(act, await readPolicies(tx), [
    {
      householdId,
      patientId: piece.patient_id,
      joined: piece.joined,
      options: optionsDocument.read(piece.options),
      note: piece.note,
      dueDate: piece.due_asked && piece.due_asked >= act.today ? piece.due_asked : undefined,
    },
  ])) as [StatementContent];
  const before = statementDocument.read(piece.content);
  if (!sameMoney(before, content)) {
    const words = `changed since it was drafted: ${money(before)} then, ${money(content)} now`;
    await tx.updateTable('mail_piece').set(toDraft(words)).where('id', '=', pieceId).execute();
    return { as: 'changed', words };
  }
  // Made before, it is what it says now too.
  if (piece.document !== null && piece.status !== 'draft') return { as: 'made' };
  const { to } = content;
  if (piece.delivery !== 'email' && (to.line1 === '' || to.city === '' || to.state === '' || to.zip === ''))
    throw new Refused('state', 'The address is incomplete');
  const printed = await statementPdf(content);
  await tx
    .updateTable('mail_piece')
    .set({
      ...draftColumns(content),
      status: 'made',
      why: '',
      document: await keepDocument(tx, printed),
      pages: printed.pages,
    })
    .where('id', '=', pieceId)
    .execute();
  return { as: 'made' };
}

/**
 * Sends what was out and came back anew: a new piece of the batch with new paper and a new date to pay by. The old one does not
 * count, for it never reached anybody. @param delivery where it goes another way than before
 * @throws Refused when it is not to go out now
 */
export async function sendAnew(
  act: Act,
  piece: Selectable<DB['mail_piece']>,
  delivery: 'mail' | null = null,
): Promise<Made> {
  const tx = act.db;
  if (piece.kind === 'statement') {
    const against = await againstSending(act, piece.household_id, piece.patient_id, delivery === 'mail');
    if (against !== null) throw new Refused('state', `Not sent again: ${against}`);
  }
  const number = piece.batch_id === null ? null : await nextNumber(tx, piece.batch_id);
  await voidThese(
    act,
    [piece.id],
    `Came back, and goes out anew${number === null ? '' : ` as number ${number}`}`,
  );
  const { id } = await tx
    .insertInto('mail_piece')
    .values({
      batch_id: piece.batch_id,
      number,
      kind: piece.kind,
      household_id: piece.household_id,
      patient_id: piece.patient_id,
      joined: piece.joined,
      delivery: delivery ?? piece.delivery,
      amount: piece.amount,
      installments: piece.installments,
      date: piece.date,
      due_date: piece.due_date,
      options: JSON.stringify(piece.options),
      note: piece.note,
      content: JSON.stringify(piece.content),
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  const made = await makePiece(act, id);
  if (made.as === 'taken out') throw new Refused('state', `Not sent again: ${made.words}`);
  return made.as === 'made' ? { as: 'made', pieceId: id } : made;
}

const nextNumber = async (tx: Tx, batchId: number): Promise<number> =>
  (
    await tx
      .selectFrom('mail_piece')
      .select(({ fn }) => fn.max('number').as('last'))
      .where('batch_id', '=', batchId)
      .executeTakeFirstOrThrow()
  ).last! + 1;
