/** Reading statements that were sent, and pieces that are to be. */
import { PLAIN_OPTIONS, type StatementContent, statementDocument } from '../../core/statements/document';
import { faceOf, readContent } from '../../core/mail/contents';
import { type Context, Refused, allow } from '../access';
import { allowOpen, opened } from '../closed';
import { piecePdf } from '../mail/draw';
import { readContents } from './content';
import { type Printed, statementPdf } from '../print/statement';
import { readPolicies } from '../setup/statement-policies';

/** What stands on pages that were not sent. */
const NOT_SENT = 'Draft · not sent';

/** A paper as it is shown: its bytes and the name of its file. */
export interface Paper {
  name: string;
  bytes: Buffer;
}

/** The very paper that was sent. @throws Refused when it is not there */
export async function readStatement(
  context: Context,
  statementId: number,
): Promise<Paper & { householdId: number; content: StatementContent }> {
  allow(context, 'read accounts');
  const row = await context.db
    .selectFrom('statement as s')
    .innerJoin('mail_piece as p', 'p.id', 's.piece_id')
    .innerJoin('document as d', 'd.sha256', 'p.document')
    .select(['s.household_id', 's.date', 'p.content', 'p.joined', 'd.bytes'])
    .where('s.id', '=', statementId)
    .executeTakeFirst();
  if (!row) throw new Refused('unknown', 'There is no such statement');
  await allowOpen(context, { householdIds: row.joined });
  await opened(context, { kind: 'statement', id: statementId });
  const content = statementDocument.read(row.content);
  return {
    name: `statement-${content.account}-${row.date}.pdf`,
    bytes: row.bytes,
    content,
    householdId: row.household_id,
  };
}

/** The pages of a piece: the very ones that were made, or those of a draft, marked as not sent. @throws Refused when it is not there */
export async function readPiece(context: Context, pieceId: number): Promise<Paper> {
  allow(context, 'read accounts');
  const row = await context.db
    .selectFrom('mail_piece as p')
    .leftJoin('document as d', 'd.sha256', 'p.document')
    .select(['p.kind', 'p.status', 'p.content', 'p.joined', 'd.bytes'])
    .where('p.id', '=', pieceId)
    .executeTakeFirst();
  if (!row) throw new Refused('unknown', 'There is no such piece');
  await allowOpen(context, { householdIds: row.joined });
  await opened(context, { kind: 'mail piece', id: pieceId });
  const piece = readContent(row.kind, row.content);
  const { file: name } = faceOf(piece);
  if (row.bytes) return { name, bytes: row.bytes };
  return { name, bytes: (await piecePdf(piece, NOT_SENT)).bytes };
}

/** The statement of an account as it would go out today, marked as not sent. @throws Refused when there is no such account */
export async function draftPaper(context: Context, account: string): Promise<Printed> {
  allow(context, 'read accounts');
  const household = await context.db
    .selectFrom('household')
    .select('id')
    .where('number', '=', account.toUpperCase())
    .executeTakeFirst();
  if (!household) throw new Refused('unknown', `There is no account ${account}`);
  await opened(context, { kind: 'household', id: household.id });
  const [content] = await readContents(context, await readPolicies(context.db), [
    { householdId: household.id, options: PLAIN_OPTIONS },
  ]);
  return statementPdf(content!, NOT_SENT);
}
