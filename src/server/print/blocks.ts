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
  paper.paragraph(
    from.name,
    paper.left,
    paper.left,
    width,
    { size: 15, strong: true, color: 'spruce' },
    'H1',
  );
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
  paper.paragraph(words, paper.left, paper.y, paper.width, { size: 12, strong: true }, 'H2');
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

/** How a table is printed, besides its columns. */
export interface TableStyle<Row> {
  /** Rows that stand out, such as subtotals; they are not summed. */
  strong?: (row: Row) => boolean;
  /** Sentences under a row, across the table. */
  under?: (row: Row) => readonly string[];
  /** Whether there is a line of sums; where nothing is to be summed there is none. */
  sums?: boolean;
  /** Amounts that stand before the first row and are summed with them, with what they are called. */
  before?: { words: string; amounts: (column: PrintColumn<Row>) => Cents };
}

const UNDER: Style = { size: 8.5 };
/** Room at the end of a page for what is carried over, or for the sums. */
const SUMS = 18;

/** A table whose head stands on every page; the sums so far are carried over a page's end and brought to the next one. */
export function table<Row>(
  paper: Paper,
  columns: readonly PrintColumn<Row>[],
  rows: readonly Row[],
  { strong = () => false, under = () => [], before: begin, sums: summed = true }: TableStyle<Row> = {},
): void {
  const shares = columns.reduce((all, column) => all + column.share, 0);
  let from = paper.left;
  const places = columns.map((column) => {
    const width = (paper.width * column.share) / shares;
    const place = { column, from, to: from + width };
    from += width;
    return place;
  });
  const sums = columns.map((column) => (begin && column.amount ? begin.amounts(column) : ZERO));
  const head = (): void => {
    paper.band(paper.left, paper.y, paper.width, 18);
    paper.group('TR', () => {
      for (const { column, from: x, to } of places) {
        const style = { ...CELL, strong: true };
        if (column.amount || column.right)
          paper.line(column.title, to - 4, paper.y + 4, style, 'right', 'TH');
        else paper.line(column.title, x + 4, paper.y + 4, style, 'left', 'TH');
      }
    });
    paper.y += 20;
  };
  const sumLine = (words: string): void => {
    paper.group('TR', () => {
      const style = { ...CELL, strong: true };
      paper.line(words, paper.left + 4, paper.y + 2, style, 'left', 'TH');
      places.forEach(({ column, to }, index) => {
        if (column.amount)
          paper.line(formatMoneyPlain(sums[index]!), to - 4, paper.y + 2, style, 'right', 'TD');
      });
    });
    paper.y += 16;
  };
  let begun = begin !== undefined;
  /** Room for so much and the sums under it, else the sums are carried over to a new page. */
  const room = (height: number): void => {
    if (paper.y + height + SUMS <= paper.bottom) return;
    if (begun && summed)
      paper.unheard(() => {
        paper.rule(paper.y);
        sumLine('Carried forward');
      });
    paper.y = paper.bottom;
    paper.room(1);
  };
  const onPage = paper.onPage;
  paper.room(60);
  paper.group('Table', () => {
    head();
    paper.onPage = () => {
      onPage();
      head();
      if (begun && summed) sumLine('Brought forward');
    };
    if (begin) sumLine(begin.words);
    for (const row of rows) {
      const style = { ...CELL, strong: strong(row) };
      const cells = places.map(({ column, from: x, to }) =>
        column.words ? linesOf(column.words(row), to - x - 8, style) : [],
      );
      const height = Math.max(1, ...cells.map((lines) => lines.length)) * 12 + 3;
      const sentences = under(row).flatMap((words) => linesOf(words, paper.width - 24, UNDER));
      room(height + (sentences.length > 0 ? 11 : 0));
      paper.group('TR', () =>
        places.forEach(({ column, from: x, to }, index) => {
          cells[index]!.forEach((line, at) =>
            column.right
              ? paper.line(line, to - 4, paper.y + 2 + at * 12, style, 'right', 'TD')
              : paper.line(line, x + 4, paper.y + 2 + at * 12, style, 'left', 'TD'),
          );
          if (!column.amount) return;
          const amount = column.amount(row);
          paper.line(formatMoneyPlain(amount), to - 4, paper.y + 2, style, 'right', 'TD');
          if (!style.strong) sums[index] = add(sums[index]!, amount);
        }),
      );
      paper.y += height;
      begun = true;
      if (sentences.length === 0) continue;
      paper.group('TR', () =>
        paper.together('TD', () => {
          for (const line of sentences) {
            room(11);
            paper.line(line, paper.left + 16, paper.y, UNDER);
            paper.y += 11;
          }
        }),
      );
      paper.y += 3;
    }
    paper.onPage = onPage;
    paper.rule(paper.y);
    if (summed) sumLine('Together');
    else paper.y += 4;
  });
}

/** Words in a box across the page, such as a message. */
export function box(paper: Paper, words: readonly string[]): void {
  if (words.length === 0) return;
  const style: Style = { size: 10 };
  const lines = words.flatMap((text) => linesOf(text, paper.width - 20, style));
  const height = lines.length * 13.2 + 14;
  paper.room(height);
  paper.frame(paper.left, paper.y, paper.width, height);
  const top = paper.y;
  paper.y += 6;
  for (const text of words) paper.paragraph(text, paper.left + 10, paper.y, paper.width - 20, style);
  paper.y = top + height + 8;
}

/** What a slip says besides its facts. */
export interface Slip {
  words: string;
  /** Where the money is to be sent, line by line. */
  to: readonly string[];
  facts: readonly (readonly [name: string, value: string])[];
}

/** Side of the place that is kept free for a code that a telephone reads, in points. */
const CODE = 62;

/** A slip at the foot of the page to be cut off and sent back, with its facts at the right and a place for a code. */
export function slip(paper: Paper, { words, to, facts }: Slip): void {
  const height = Math.max(30 + Math.max(2, facts.length + 1) * 15, 30 + to.length * 13 + 15, CODE + 24);
  paper.room(height);
  const top = paper.bottom - height;
  paper.rule(top, true);
  const width = paper.width - CODE - 216;
  paper.paragraph(words, paper.left, top + 12, width, { size: 9 });
  paper.paragraph(to.join('\n'), paper.left, paper.y + 2, width, { size: 10, strong: true });
  facts.forEach(([name, value], index) => {
    paper.line(name, paper.right - 190, top + 12 + index * 15, { size: 10 });
    paper.line(value, paper.right, top + 12 + index * 15, { size: 10, strong: true }, 'right');
  });
  const enclosed = top + 12 + facts.length * 15;
  paper.line('Amount enclosed', paper.right - 190, enclosed, { size: 10 });
  paper.rule(enclosed + 12, false, paper.right - 90, paper.right);
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
