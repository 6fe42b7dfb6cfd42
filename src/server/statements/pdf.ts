/** A statement as PDF. */
import { formatDate } from '../../core/calendar';
import { formatMoneyPlain } from '../../core/money';
import { AGING_BUCKETS } from '../../core/statements/aging';
import type { StatementContent } from '../../core/statements/document';
import {
  addressWindow,
  factsBeside,
  figuresBand,
  heading,
  letterhead,
  sentences,
  slip,
} from '../print/blocks';
import { Paper } from '../print/paper';

/** Draws the statement. @returns the bytes of a PDF on the practice's paper */
export async function statementPdf(content: StatementContent): Promise<Buffer> {
  const { practice, to, account, amount } = content;
  const paper = new Paper(content.paper, `Statement ${account}`, practice.name);
  letterhead(paper, practice);
  addressWindow(paper, [to.name, to.line1, to.line2, `${to.city}, ${to.state} ${to.zip}`]);
  factsBeside(paper, [
    ['Account', account],
    ['Date', formatDate(content.date)],
    ['Due', formatDate(content.dueDate)],
    ['Amount due, US dollars', formatMoneyPlain(amount)],
  ]);
  figuresBand(
    paper,
    AGING_BUCKETS.map((bucket, index) => [`${bucket} days`, content.aging[index]!] as const),
  );
  heading(paper, 'How this amount came about');
  for (const charge of content.charges)
    sentences(
      paper,
      charge.title,
      charge.owed,
      charge.sentences.map((sentence) => sentence.words),
    );
  paper.y += 8;
  paper.paragraph(content.closing, paper.left, paper.y, paper.width, { size: 10.5, strong: true });
  slip(paper, `Please send this part with your payment to ${practice.name}, ${practice.line1}.`, [
    ['Account', account],
    ['Due', formatDate(content.dueDate)],
    ['Amount due, US dollars', formatMoneyPlain(amount)],
  ]);
  return paper.finish(
    (page, pages) => `Account ${account} · ${formatDate(content.date)} · page ${page} of ${pages}`,
  );
}
