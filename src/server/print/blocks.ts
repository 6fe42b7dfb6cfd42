/** The blocks that documents are put together from. Everything is in points. */
import { type Cents, ZERO, add, formatMoneyPlain } from '../../core/money';
import type { PaperSize } from '../../core/paper';
import { type Paper, type Style, linesOf } from './paper';

/** Who writes. */
export interface Letterhead {
  name: string;
  line1: string;
  city: string;
  state: string;
  zip: string;
  phone: string;
}

/** The practice's name and address at the top of the first page. */
export function letterhead(paper: Paper, from: Letterhead): void {
  const width = paper.width * 0.62;
  paper.paragraph(from.name, paper.left, paper.left, width, { size: 15, strong: true, color: 'spruce' });
  paper.paragraph(
    `${from.line1}, ${from.city}, ${from.state} ${from.zip}\nQuestions: ${from.phone}`,
    paper.left,
    paper.y,
    width,
    { size: 9 },
  );
}

/**
 * Where the window of an envelope shows the address: a #10 envelope for a letter sheet, a DL envelope for A4. Common
 * practice, no source.
 */
const WINDOW: Readonly<Record<PaperSize, { x: number; y: number; width: number }>> = {
  LETTER: { x: 72, y: 140, width: 250 },
  A4: { x: 62, y: 142, width: 240 },
};

/** The address in the envelope's window. */
export function addressWindow(paper: Paper, lines: readonly string[]): void {
  const { x, y, width } = WINDOW[paper.size];
  paper.paragraph(lines.filter(Boolean).join('\n'), x, y, width, { size: 11 });
}

/** Facts beside the address, the last one strong: account, date, what is due. */
export function factsBeside(paper: Paper, facts: readonly (readonly [name: string, value: string])[]): void {
  const { y } = WINDOW[paper.size];
  const from = paper.right - 190;
  facts.forEach(([name, value], index) => {
    const last = index === facts.length - 1;
    const style = { size: last ? 12 : 10, strong: last };
    paper.line(name, from, y + index * 17, style);
    paper.line(value, paper.right, y + index * 17, style, 'right');
  });
  paper.y = Math.max(paper.y, y + 92);
}

/** Figures side by side in a band, each under its name. */
export function figuresBand(
  paper: Paper,
  figures: readonly (readonly [name: string, amount: Cents])[],
): void {
  paper.room(46);
  const { y, left, width } = paper;
  paper.band(left, y, width, 38);
  const each = (width - 16) / figures.length;
  figures.forEach(([name, amount], index) => {
    const to = left + 8 + (index + 1) * each - 4;
    paper.line(name, to, y + 6, { size: 8 }, 'right');
    paper.line(formatMoneyPlain(amount), to, y + 18, { size: 10, strong: true }, 'right');
  });
  paper.y = y + 46;
}

/** A heading, kept together with the lines after it. */
export function heading(paper: Paper, words: string): void {
  paper.room(60);
  paper.y += 6;
  paper.paragraph(words, paper.left, paper.y, paper.width, { size: 12, strong: true });
}

/** A titled block of sentences with its amount; the title is not left alone at the end of a page. */
export function sentences(paper: Paper, title: string, amount: Cents, lines: readonly string[]): void {
  const words = paper.width - 84;
  paper.y += 6;
  paper.room(44);
  const top = paper.y;
  paper.line(formatMoneyPlain(amount), paper.right, top, { size: 10, strong: true }, 'right');
  paper.paragraph(title, paper.left, top, words, { size: 10, strong: true });
  for (const line of lines) paper.paragraph(line, paper.left + 12, paper.y + 1, words, { size: 9 });
}

/** A column of a printed table; `share` of the width, amounts at the right. */
export interface PrintColumn<Row> {
  title: string;
  share: number;
  words?: (row: Row) => string;
  /** Words that stand at the right, such as a count. */
  right?: true;
  amount?: (row: Row) => Cents;
}

const CELL: Style = { size: 9 };

/**
 * A table whose head stands on every page; the sums so far are carried over a page's end and brought to the next one.
 * @param strong rows that stand out, such as subtotals; they are not summed
 */
export function table<Row>(
  paper: Paper,
  columns: readonly PrintColumn<Row>[],
  rows: readonly Row[],
  strong: (row: Row) => boolean = () => false,
): void {
  const shares = columns.reduce((all, column) => all + column.share, 0);
  let from = paper.left;
  const places = columns.map((column) => {
    const width = (paper.width * column.share) / shares;
    const place = { column, from, to: from + width };
    from += width;
    return place;
  });
  const sums = columns.map(() => ZERO);
  const head = (): void => {
    paper.band(paper.left, paper.y, paper.width, 18);
    for (const { column, from: x, to } of places)
      if (column.amount || column.right)
        paper.line(column.title, to - 4, paper.y + 4, { ...CELL, strong: true }, 'right');
      else paper.line(column.title, x + 4, paper.y + 4, { ...CELL, strong: true });
    paper.y += 20;
  };
  const sumLine = (words: string): void => {
    paper.line(words, paper.left + 4, paper.y + 2, { ...CELL, strong: true });
    places.forEach(({ column, to }, index) => {
      if (column.amount)
        paper.line(formatMoneyPlain(sums[index]!), to - 4, paper.y + 2, { ...CELL, strong: true }, 'right');
    });
    paper.y += 16;
  };
  const before = paper.onPage;
  paper.room(60);
  head();
  let begun = 0;
  paper.onPage = () => {
    before();
    head();
    if (begun > 0) sumLine('Brought forward');
  };
  for (const row of rows) {
    const style = { ...CELL, strong: strong(row) };
    const cells = places.map(({ column, from: x, to }) =>
      column.words ? linesOf(column.words(row), to - x - 8, style) : [],
    );
    const height = Math.max(1, ...cells.map((lines) => lines.length)) * 12 + 3;
    // The last line of a page is for what is carried over.
    if (paper.y + height + 18 > paper.bottom && paper.y + height <= paper.bottom + 18) {
      if (begun > 0) {
        paper.rule(paper.y);
        sumLine('Carried forward');
      }
      paper.y = paper.bottom;
    }
    paper.room(height);
    places.forEach(({ column, from: x, to }, index) => {
      cells[index]!.forEach((line, at) =>
        column.right
          ? paper.line(line, to - 4, paper.y + 2 + at * 12, style, 'right')
          : paper.line(line, x + 4, paper.y + 2 + at * 12, style),
      );
      if (!column.amount) return;
      const amount = column.amount(row);
      paper.line(formatMoneyPlain(amount), to - 4, paper.y + 2, style, 'right');
      if (!style.strong) sums[index] = add(sums[index]!, amount);
    });
    paper.y += height;
    begun += 1;
  }
  paper.onPage = before;
  paper.room(18);
  paper.rule(paper.y);
  sumLine('Together');
}

/** A slip at the foot of the page to be cut off and sent back, with its facts at the right. */
export function slip(
  paper: Paper,
  words: string,
  facts: readonly (readonly [name: string, value: string])[],
): void {
  const height = 30 + Math.max(2, facts.length) * 15;
  paper.room(height);
  const top = paper.bottom - height;
  paper.rule(top, true);
  paper.paragraph(words, paper.left, top + 12, paper.width / 2, { size: 10 });
  facts.forEach(([name, value], index) => {
    paper.line(name, paper.right - 190, top + 12 + index * 15, { size: 10 });
    paper.line(value, paper.right, top + 12 + index * 15, { size: 10, strong: true }, 'right');
  });
  paper.y = paper.bottom;
}

/** A line to sign on, with the words under it and a place for the date. */
export function signature(paper: Paper, words: string): void {
  paper.room(58);
  const y = paper.y + 34;
  const middle = paper.left + paper.width * 0.62;
  paper.rule(y, false, paper.left, middle);
  paper.rule(y, false, middle + 18, paper.right);
  paper.line(words, paper.left, y + 4, { size: 8, color: 'quiet' });
  paper.line('Date', middle + 18, y + 4, { size: 8, color: 'quiet' });
  paper.y = y + 22;
}
