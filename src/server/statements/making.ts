/** Making the paper of a draft, from the books as they are at that moment. */
import { formatMoneyPlain } from '../../core/money';
import {
  type StatementContent,
  dueTogether,
  optionsDocument,
  sameMoney,
  statementDocument,
} from '../../core/statements/document';
import { choose } from '../../core/statements/selection';
import { Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import type { Made } from '../mail/made';
import { keepDocument } from '../mail/pieces';
import { makeLetter } from '../overdue/letter-drafts';
import type { Act } from '../use-case';
import { readContents } from './content';
import { draftColumns } from './drafting';
import { readFacts } from './facts';
import { statementPdf } from './pdf';
import { readPolicies } from './policies';

/** Why a household's statement, or a patient's, is not to go out now: what stops it whatever the rows said; null when nothing does. */
async function againstSending(
  act: Act,
  householdId: number,
  patientId: number | null,
): Promise<string | null> {
  const policies = await readPolicies(act.db);
  const facts = (await readFacts(act, policies, [], [householdId])).find(
    (one) => one.patientId === patientId,
  );
  if (!facts)
    return patientId === null ? 'nothing was ever charged on it' : 'its confidential address was taken away';
  const asked = { ...facts, openBatch: null };
  const { in: isIn, reasons } = choose(asked, [], policies.of(facts.siteId), act.today);
  const against = isIn ? [] : reasons.filter(({ id }) => id !== 'below-least' && id !== 'credit');
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
  if (piece.sent_at !== null) throw new Refused(`Not sent again: ${gone.join('; ')}`);
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
 * stays a draft and says so; one that is stopped now is taken out.
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
  if (piece.kind === 'letter') return makeLetter(act, piece);
  const against = await againstSending(act, householdId, piece.patient_id);
  if (against !== null) {
    // What was out once and came back is not taken out: it waits until this is mended, or does not count.
    if (piece.sent_at !== null) throw new Refused(`Not sent again: ${against}`);
    const why = `Not sent: ${against}`.slice(0, 300);
    await tx.updateTable('mail_piece').set({ status: 'taken-out', why }).where('id', '=', pieceId).execute();
    return { as: 'taken out', words: `taken out: ${against}` };
  }
  const dropped = await dropJoined(act, piece);
  if (dropped !== null) return { as: 'changed', words: dropped };
  if (piece.document !== null && piece.status !== 'draft') return { as: 'made' };
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
    await tx.updateTable('mail_piece').set({ why: words }).where('id', '=', pieceId).execute();
    return { as: 'changed', words };
  }
  const { to } = content;
  if (piece.delivery !== 'email' && (to.line1 === '' || to.city === '' || to.state === '' || to.zip === ''))
    throw new Refused('The address is incomplete');
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
