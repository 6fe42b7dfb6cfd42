/** What a piece of mail says, whatever its kind: to whom it goes, what its file is called, and what stands in the e-mail that brings it. */
import { type CalendarDate, formatDate } from '../calendar';
import { formatMoneyPlain } from '../money';
import { type LetterContent, letterDocument } from '../overdue/letters';
import type { PaperSize } from '../paper';
import { type StatementContent, dueTogether, statementDocument } from '../statements/document';

/** The kinds of pieces. */
export const PIECE_KINDS = { statement: 'statement', letter: 'letter' } as const;
/** A kind of piece. */
export type PieceKind = keyof typeof PIECE_KINDS;

/** What a piece says, by its kind. */
export type PieceContent =
  { kind: 'statement'; content: StatementContent } | { kind: 'letter'; content: LetterContent };

/** Reads what a piece says. @throws DocumentFault when it is not of its kind */
export const readContent = (kind: PieceKind, stored: unknown): PieceContent =>
  kind === 'letter'
    ? { kind, content: letterDocument.read(stored) }
    : { kind, content: statementDocument.read(stored) };

/** What every piece has. */
export interface PieceFace {
  paper: PaperSize;
  practice: { name: string; line1: string; city: string; state: string; zip: string; phone: string };
  to: { name: string; line1: string; line2: string; city: string; state: string; zip: string };
  account: string;
  date: CalendarDate;
  /** Name of its PDF. */
  file: string;
  /** Subject and text of the e-mail that brings it: nothing of anybody’s health. */
  subject: string;
  text: string;
}

/** What every piece has, of one. */
export function faceOf(piece: PieceContent): PieceFace {
  const { paper, practice, to, account, date } = piece.content;
  const face = { paper, practice, to, account, date, file: `${piece.kind}-${account}-${date}.pdf` };
  const close = [`Questions: ${practice.phone}`, practice.name];
  if (piece.kind === 'letter')
    return {
      ...face,
      subject: `A letter from ${practice.name}`,
      text: [`Our letter of ${formatDate(date)} about account ${account} is attached.`, ...close].join(
        '\n\n',
      ),
    };
  const due = dueTogether(piece.content);
  return {
    ...face,
    subject: `Your statement from ${practice.name}`,
    text: [
      `Your statement of ${formatDate(date)} for account ${account} is attached.`,
      due > 0
        ? `${formatMoneyPlain(due)} US dollars are to be paid by ${formatDate(piece.content.dueDate)}.`
        : 'Nothing is to be paid now.',
      ...close,
    ].join('\n\n'),
  };
}
