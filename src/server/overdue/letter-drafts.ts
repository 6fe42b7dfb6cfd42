/** Letters that are due, prepared as drafts of a batch, and made from the books at the moment when they go out. */
import { sql } from 'kysely';
import { formatDate } from '../../core/calendar';
import { formatMoneyPlain } from '../../core/money';
import { type LetterContent, letterDocument, sameDebt } from '../../core/overdue/letters';
import { PLAIN_OPTIONS, optionsDocument } from '../../core/statements/document';
import { type Context, Refused } from '../access';
import { piecePdf } from '../mail/draw';
import { keepDocument, toDraft } from '../mail/pieces';
import type { Made } from '../mail/made';
import type { Act } from '../use-case';
import { type AskedLetter, letterContents, newestWords } from './letters';
import { type OverdueRow, weighOverdue } from './list';

/** Why a letter cannot reach an account; empty when it can. */
function unreachable({ delivery, deliveryWhy, email, addressIncomplete, returned }: OverdueRow): string {
  if (delivery === 'none') return `gets no mail: ${deliveryWhy}`;
  if (returned) return `mail came back on ${formatDate(returned)}`;
  if (delivery === 'email') return email === '' ? 'goes by e-mail, and there is no address' : '';
  return addressIncomplete ? 'the address is incomplete' : '';
}

/** Why an account gets no letter today; empty when it does. */
const against = (row: OverdueRow): string =>
  row.outlook.action === 'letter' ? unreachable(row) : row.outlook.why;

const draftOf = (content: LetterContent) => ({
  amount: content.pastDue,
  date: content.date,
  due_date: content.date,
  options: optionsDocument.write(PLAIN_OPTIONS),
  content: letterDocument.write(content),
});

/** The letters of accounts by their next stage. @throws Refused when a stage has a letter without words */
async function askedOf(act: Act, rows: readonly OverdueRow[]): Promise<AskedLetter[]> {
  const words = await newestWords(act.db);
  return rows.map((row) => {
    const stage = row.outlook.next!;
    const of = words.get(stage.templateId);
    if (!of)
      throw new Refused('state', `The letter of the stage “${stage.name}” has no words`, {
        facts: { name: stage.name },
      });
    return { account: row, stage, words: of };
  });
}

/** Who of those that are past due gets a letter now, and who does not, with the reason. */
export interface LettersWeighed {
  taken: OverdueRow[];
  left: { account: string; householdId: number; why: string }[];
}

/** Weighs who gets a letter now: everybody, or those named, of whom each that is left out has its reason. */
export async function weighLetters(
  act: Act,
  householdIds: readonly number[] | null,
): Promise<LettersWeighed> {
  const due = await weighOverdue(act, householdIds ?? undefined);
  return {
    taken: due.filter((row) => against(row) === ''),
    left: due
      .filter((row) => against(row) !== '' && (householdIds !== null || row.outlook.action === 'letter'))
      .map((row) => ({ account: row.account, householdId: row.householdId, why: against(row) })),
  };
}

/** The households that get a letter now, each once. @throws Refused when a stage has a letter without words */
export async function lettersDue(act: Act, householdIds: readonly number[] | null): Promise<number[]> {
  const { taken } = await weighLetters(act, householdIds);
  await askedOf(act, taken);
  return [...new Set(taken.map((row) => row.householdId))];
}

/**
 * Drafts of the letters of some households that are locked, weighed as they are now: who paid meanwhile, or has one, gets none.
 * @returns how many were drafted
 */
export async function draftSomeLetters(act: Act, batchId: number, ids: readonly number[]): Promise<number> {
  const { taken } = await weighLetters(act, ids);
  if (taken.length === 0) return 0;
  const contents = await letterContents(act, await askedOf(act, taken));
  const { last } = await act.db
    .selectFrom('mail_piece')
    .select(sql<number>`coalesce(max(number), 0)`.as('last'))
    .where('batch_id', '=', batchId)
    .executeTakeFirstOrThrow();
  await act.db
    .insertInto('mail_piece')
    .values(
      taken.map((row, index) => ({
        batch_id: batchId,
        number: last + index + 1,
        kind: 'letter' as const,
        household_id: row.householdId,
        patient_id: row.patientId,
        delivery: row.delivery as 'mail' | 'print-shop' | 'email',
        ...draftOf(contents[index]!),
      })),
    )
    .execute();
  return taken.length;
}

/** A piece that is a letter. */
interface LetterPiece {
  id: number;
  household_id: number;
  patient_id: number | null;
  content: unknown;
  sent_at: Date | null;
}

/** Where the account of a letter stands when the letter itself is not counted as prepared. */
async function standsWithout(
  act: Context,
  piece: LetterPiece,
): Promise<{ row: OverdueRow | null; why: string }> {
  const rows = await weighOverdue(act, [piece.household_id]);
  const row = rows.find(({ patientId }) => patientId === piece.patient_id);
  if (!row) return { row: null, why: 'nothing is past due any more' };
  const { outlook } = row;
  const { stage } = letterDocument.read(piece.content);
  if (outlook.spared.length > 0) return { row, why: outlook.spared.map(({ words }) => words).join('; ') };
  if (outlook.action === 'call') return { row, why: outlook.why };
  if (piece.sent_at === null && unreachable(row) !== '') return { row, why: unreachable(row) };
  // Again what came back: its own letter is the last one, and it is not sent anew as another.
  const meant = piece.sent_at === null ? (outlook.next?.position ?? 0) : (outlook.stage?.position ?? 0);
  if (meant !== stage.position)
    return { row, why: `its stage is another now: ${outlook.next?.name ?? outlook.stage?.name ?? 'none'}` };
  if (piece.sent_at === null && outlook.on !== null && outlook.on > act.today)
    return { row, why: `not due before ${formatDate(outlook.on)}` };
  return { row, why: '' };
}

/** Why a letter that was made does not go out as it is; empty when it does. */
export async function letterAgainst(context: Context, piece: LetterPiece): Promise<string> {
  const { row, why } = await standsWithout(context, piece);
  if (!row || why !== '') return why;
  const before = letterDocument.read(piece.content).pastDue;
  const now = row.outlook.pastDue;
  return before === now ? '' : `${formatMoneyPlain(before)} then, ${formatMoneyPlain(now)} now`;
}

/** Puts drafts of letters together anew from the books. @throws Refused when one of them is not due any more */
export async function composeLetters(act: Act, pieceIds: readonly number[]): Promise<void> {
  for (const id of pieceIds) {
    const piece = await act.db
      .selectFrom('mail_piece')
      .selectAll()
      .where('id', '=', id)
      .executeTakeFirstOrThrow();
    const { row, why } = await standsWithout(act, piece);
    if (!row || why !== '') throw new Refused('state', `Number ${piece.number ?? '–'}: ${why}`);
    const [content] = await letterContents(act, await askedOf(act, [row]));
    await act.db
      .updateTable('mail_piece')
      .set({ ...draftOf(content!), why: '' })
      .where('id', '=', id)
      .execute();
  }
}

/**
 * Makes a letter's paper from the books as they are now, dated today. One whose money changed since somebody looked stays a
 * draft and says so; one that is not due any more is taken out. The household is locked.
 */
export async function makeLetter(
  act: Act,
  piece: LetterPiece & { status: string; document: string | null; delivery: string },
): Promise<Made> {
  const tx = act.db;
  const { row, why } = await standsWithout(act, piece);
  if (!row || why !== '') {
    const words = `Not sent: ${why}`.slice(0, 300);
    await tx
      .updateTable('mail_piece')
      .set({ status: 'taken-out', why: words })
      .where('id', '=', piece.id)
      .execute();
    return { as: 'taken out', words: `taken out: ${why}` };
  }
  const [content] = (await letterContents(act, await askedOf(act, [row]))) as [LetterContent];
  const before = letterDocument.read(piece.content);
  if (!sameDebt(before, content)) {
    const words = `changed since it was drafted: ${formatMoneyPlain(before.pastDue)} then, ${formatMoneyPlain(content.pastDue)} now`;
    await tx.updateTable('mail_piece').set(toDraft(words)).where('id', '=', piece.id).execute();
    return { as: 'changed', words };
  }
  if (piece.document !== null && piece.status !== 'draft') return { as: 'made' };
  const { to } = content;
  if (piece.delivery !== 'email' && (to.line1 === '' || to.city === '' || to.state === '' || to.zip === ''))
    throw new Refused('state', 'The address is incomplete');
  const printed = await piecePdf({ kind: 'letter', content });
  await tx
    .updateTable('mail_piece')
    .set({
      ...draftOf(content),
      status: 'made',
      why: '',
      document: await keepDocument(tx, printed),
      pages: printed.pages,
    })
    .where('id', '=', piece.id)
    .execute();
  return { as: 'made' };
}
