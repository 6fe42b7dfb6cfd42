/** A letter on paper: the practice's head, the address in the window, its parts in their order. */
import { formatDate } from '../../core/calendar';
import { formatMoneyPlain } from '../../core/money';
import type { LetterContent } from '../../core/overdue/letters';
import { addressWindow, factsBeside, heading, letterhead, slip, table } from './blocks';
import type { Paper } from './paper';

const lineOf = (to: { line1: string; city: string; state: string; zip: string }): string[] => [
  to.line1,
  `${to.city}, ${to.state} ${to.zip}`,
];

/** Draws a letter on pages of its own. @param mark words at the head of one that is not sent */
export function drawLetter(paper: Paper, content: LetterContent, mark = ''): void {
  const { practice, to, remit, pastDue } = content;
  letterhead(paper, practice);
  if (content.hours) paper.paragraph(content.hours, paper.left, paper.y, paper.width * 0.62, { size: 9 });
  if (mark) paper.line(mark, paper.right, paper.left, { size: 11, strong: true, color: 'brick' }, 'right');
  addressWindow(paper, [to.name, to.line1, to.line2, `${to.city}, ${to.state} ${to.zip}`]);
  factsBeside(paper, [
    ['Account', content.account],
    ['Date', formatDate(content.date)],
    ['Past due', formatMoneyPlain(pastDue)],
  ]);
  paper.paragraph(content.subject, paper.left, paper.y, paper.width, { size: 13, strong: true }, 'H2');
  paper.y += 8;
  for (const { kind, text } of content.blocks) {
    if (kind === 'paragraph') {
      paper.paragraph(text, paper.left, paper.y, paper.width, { size: 10.5 });
      paper.y += 8;
    } else if (kind === 'heading') heading(paper, text);
    else if (kind === 'charges') {
      table(
        paper,
        [
          { title: 'Date', share: 1.1, words: ({ date }) => formatDate(date) },
          { title: 'Service', share: 3, words: ({ title }) => title },
          { title: 'For', share: 1.2, words: ({ patient }) => patient },
          { title: 'Past due since', share: 1.3, words: ({ since }) => formatDate(since) },
          { title: 'Past due', share: 1.1, amount: ({ amount }) => amount },
        ],
        content.charges,
      );
      paper.y += 10;
    } else
      slip(paper, {
        words: 'Please send this part with your payment to',
        to: [remit.name, ...lineOf(remit)],
        facts: [
          ['Account', content.account],
          ['Past due', formatMoneyPlain(pastDue)],
        ],
      });
  }
}

/** The foot of a letter's pages. */
export const letterFoot =
  (content: LetterContent) =>
  (page: number, pages: number): string =>
    `Account ${content.account} · ${formatDate(content.date)} · page ${page} of ${pages}`;
