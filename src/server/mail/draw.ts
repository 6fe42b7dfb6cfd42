/** Pieces on paper, whatever their kind. */
import { type PieceContent, faceOf } from '../../core/mail/contents';
import { drawLetter, letterFoot } from '../print/letter';
import { Paper } from '../print/paper';
import { type Printed, drawStatement, statementFoot } from '../print/statement';

/** Draws a piece on pages of its own. @param mark words at the head of one that is not sent @returns its pages */
export function drawPiece(paper: Paper, piece: PieceContent, mark = ''): number {
  if (piece.kind === 'letter') drawLetter(paper, piece.content, mark);
  else drawStatement(paper, piece.content, mark);
  return paper.foot(piece.kind === 'letter' ? letterFoot(piece.content) : statementFoot(piece.content));
}

/** A piece as a PDF on the practice's paper. @param mark words at the head of one that is not sent */
export async function piecePdf(piece: PieceContent, mark = ''): Promise<Printed> {
  const face = faceOf(piece);
  const what = piece.kind === 'letter' ? 'Letter' : 'Statement';
  const paper = await Paper.open(face.paper, `${what} ${face.account}`, face.practice.name);
  const pages = drawPiece(paper, piece, mark);
  return { pages, bytes: await paper.finish() };
}
