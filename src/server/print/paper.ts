/** Paper: pages of a size with their margins, text that any name can stand in, and a foot that counts the pages. */
import PDFDocument from 'pdfkit';
import type { PaperSize } from '../../core/paper';
import { TOKENS } from '../../core/tokens';
import { type Weight, fontBytes, runsOf, widthOf } from './fonts';

/** Sizes of paper, in points (72 an inch). */
const SIZES: Readonly<Record<PaperSize, { width: number; height: number }>> = {
  LETTER: { width: 612, height: 792 },
  A4: { width: 595.28, height: 841.89 },
};

/** Room around what is printed, in points. */
const MARGIN = 54;
/** Room for the foot, in points. */
const FOOT = 30;

const INK = TOKENS.light;

/** How text looks: its size in points. */
export interface Style {
  size: number;
  strong?: boolean;
  color?: keyof typeof INK;
}

const weightOf = (style: Style): Weight => (style.strong ? 600 : 400);
/** Height of a line of text, in points. */
const lineHeight = (style: Style): number => style.size * 1.32;

/** Breaks text into lines of at most a width in points: at spaces, and within a word that is too long for any line. */
export function linesOf(text: string, width: number, style: Style): string[] {
  const lines: string[] = [];
  const wide = (words: string): number => widthOf(words, weightOf(style), style.size);
  const space = wide(' ');
  for (const paragraph of text.split('\n')) {
    let line = '';
    let used = 0;
    for (const word of paragraph.split(' ')) {
      const needed = wide(word);
      if (line !== '' && used + space + Math.min(needed, width) > width) {
        lines.push(line);
        line = '';
        used = 0;
      }
      if (needed > width) {
        const pieces = broken(word, width, wide);
        lines.push(...pieces.slice(0, -1));
        line = pieces.at(-1)!;
        used = wide(line);
      } else {
        used += (line === '' ? 0 : space) + needed;
        line = line === '' ? word : `${line} ${word}`;
      }
    }
    lines.push(line);
  }
  return lines;
}

/** A word in pieces that each fit a width; at least one letter a piece. */
function broken(word: string, width: number, wide: (text: string) => number): string[] {
  const pieces: string[] = [''];
  for (const letter of word) {
    const last = pieces.at(-1)!;
    if (last !== '' && wide(last + letter) > width) pieces.push(letter);
    else pieces[pieces.length - 1] = last + letter;
  }
  return pieces;
}

/** A document that is being drawn. Everything is in points from the upper left corner. */
export class Paper {
  private readonly doc: PDFKit.PDFDocument;
  private readonly pieces: Buffer[] = [];
  private readonly ended: Promise<void>;
  private readonly fonts = new Set<string>();
  /** Left and right edge of what is printed, and the last line that may be used. */
  readonly left = MARGIN;
  readonly right: number;
  readonly bottom: number;
  readonly size: PaperSize;
  /** Where the next block begins. */
  y = MARGIN;
  /** What is drawn at the top of each further page. */
  onPage: () => void = () => undefined;

  constructor(size: PaperSize, title: string, author: string) {
    this.size = size;
    const { width, height } = SIZES[size];
    this.right = width - MARGIN;
    this.bottom = height - MARGIN - FOOT;
    this.doc = new PDFDocument({
      size,
      margin: 0,
      bufferPages: true,
      info: { Title: title, Author: author },
    });
    this.doc.on('data', (piece: Buffer) => this.pieces.push(piece));
    this.ended = new Promise((resolve, reject) => this.doc.on('end', resolve).on('error', reject));
  }

  /** Width between the margins. */
  get width(): number {
    return this.right - this.left;
  }

  /** Draws one line of text. `y` is its upper edge; aligned right, `x` is where it ends, centered where its middle is. */
  line(text: string, x: number, y: number, style: Style, align: 'left' | 'right' | 'center' = 'left'): void {
    const runs = runsOf(text, weightOf(style));
    const width = (runs.reduce((all, run) => all + run.width, 0) * style.size) / 1000;
    let at = align === 'right' ? x - width : align === 'center' ? x - width / 2 : x;
    this.doc.fillColor(INK[style.color ?? 'ink']);
    for (const run of runs) {
      if (run.font !== null) {
        if (!this.fonts.has(run.font)) {
          this.doc.registerFont(run.font, fontBytes(run.font));
          this.fonts.add(run.font);
        }
        this.doc.font(run.font).fontSize(style.size).text(run.text, at, y, { lineBreak: false });
      }
      at += (run.width * style.size) / 1000;
    }
  }

  /** Draws text in lines of a width, going on to the next page where one ends. @returns where the next line would begin */
  paragraph(text: string, x: number, y: number, width: number, style: Style): number {
    this.y = y;
    for (const line of linesOf(text, width, style)) {
      this.room(lineHeight(style));
      this.line(line, x, this.y, style);
      this.y += lineHeight(style);
    }
    return this.y;
  }

  /** A filled band behind what is drawn next. */
  band(x: number, y: number, width: number, height: number): void {
    this.doc.rect(x, y, width, height).fill(INK.band);
  }

  /** A thin rule; `dashed` where one is to cut. */
  rule(y: number, dashed = false, from = this.left, to = this.right): void {
    this.doc.save().lineWidth(0.6).strokeColor(INK.quiet);
    if (dashed) this.doc.dash(4, { space: 3 });
    this.doc.moveTo(from, y).lineTo(to, y).stroke().restore();
  }

  /** Begins a new page unless so much room is left. @returns whether it did */
  room(height: number): boolean {
    if (this.y + height <= this.bottom) return false;
    this.doc.addPage();
    this.y = this.left;
    this.onPage();
    return true;
  }

  /** Ends the document with its foot on every page. @returns the bytes of the PDF */
  async finish(foot: (page: number, pages: number) => string): Promise<Buffer> {
    const pages = this.doc.bufferedPageRange().count;
    for (let page = 0; page < pages; page += 1) {
      this.doc.switchToPage(page);
      const middle = (this.left + this.right) / 2;
      this.line(foot(page + 1, pages), middle, this.bottom + 16, { size: 8, color: 'quiet' }, 'center');
    }
    this.doc.end();
    await this.ended;
    return Buffer.concat(this.pieces);
  }
}
