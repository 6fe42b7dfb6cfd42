/** Paper: pages of a size with their margins, text that any name can stand in, and a foot that counts the pages. */
import type PDFDocument from 'pdfkit';
import type { PaperSize } from '../../core/paper';
import { TOKENS } from '../../core/tokens';
import { type Run, SPACE, type Weight, fontOf, loadFonts, runsOf, widthOf } from './fonts';

/** Sizes of paper, in points (72 an inch). */
const SIZES: Readonly<Record<PaperSize, { width: number; height: number }>> = {
  LETTER: { width: 612, height: 792 },
  A4: { width: 595.28, height: 841.89 },
};

/** The roll of a receipt printer, 80 mm wide. */
const ROLL = { width: 226.77, height: 560, margin: 12 } as const;

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

/**
 * Runs as they are drawn: words of one font with the spaces between them at once. A gap is no letter of its own, but whoever
 * listens or copies must not read two words as one, so that it goes with the word before it.
 */
function inPieces(runs: readonly Run[]): Run[] {
  const pieces: Run[] = [];
  let open: Run | null = null;
  for (const run of runs) {
    if (run.font === null) {
      if (open) open.text += ' ';
      if (open && run.width === SPACE) open.width += run.width;
      else {
        open = null;
        pieces.push(run);
      }
    } else if (open?.font === run.font && open.text.endsWith(' ')) {
      open.text += run.text;
      open.width += run.width;
    } else pieces.push((open = { ...run }));
  }
  return pieces;
}

/** What a piece of text is to somebody who listens to the document (ISO 32000-1, 14.8.4). */
export type Part = 'P' | 'H1' | 'H2' | 'TH' | 'TD' | 'Lbl';

/** A document that is being drawn. Everything is in points from the upper left corner. */
export class Paper {
  private readonly doc: PDFKit.PDFDocument;
  private readonly pieces: Buffer[] = [];
  private readonly ended: Promise<void>;
  private readonly fonts = new Set<string>();
  private parent: PDFKit.PDFStructureElement;
  /** The part that lines belong to while it is drawn; null when each is a part of its own, none when nobody listens to it. */
  private part: { type: Part; element: PDFKit.PDFStructureElement } | 'none' | null = null;
  /** Left and right edge of what is printed, and the last line that may be used. */
  readonly left: number;
  readonly right: number;
  readonly bottom: number;
  readonly size: PaperSize;
  private readonly margin: number;
  /** Where the next block begins. */
  y: number;
  /** Pages that have their foot. */
  private pages = 0;
  /** What is drawn at the top of each further page. */
  onPage: () => void = () => undefined;

  /** Begins a document; what draws it is loaded with the first one, for most processes never draw any. */
  static async open(size: PaperSize | 'roll', title: string, author: string): Promise<Paper> {
    const [{ default: Document }] = await Promise.all([import('pdfkit'), loadFonts()]);
    return new Paper(Document, size, title, author);
  }

  private constructor(Document: typeof PDFDocument, size: PaperSize | 'roll', title: string, author: string) {
    // Nothing that lies in an envelope is printed on a roll.
    this.size = size === 'roll' ? 'LETTER' : size;
    const { width, height, margin } = size === 'roll' ? ROLL : { ...SIZES[size], margin: MARGIN };
    this.margin = margin;
    this.left = margin;
    this.y = margin;
    this.right = width - margin;
    this.bottom = height - margin - FOOT;
    this.doc = new Document({
      size: [width, height],
      margin: 0,
      bufferPages: true,
      pdfVersion: '1.7',
      tagged: true,
      lang: 'en-US',
      displayTitle: true,
      info: { Title: title, Author: author },
    });
    this.doc.on('data', (piece: Buffer) => this.pieces.push(piece));
    this.ended = new Promise((resolve, reject) => this.doc.on('end', resolve).on('error', reject));
    this.parent = this.doc.struct('Document');
    this.doc.addStructure(this.parent);
  }

  /** Draws something that belongs together for those who listen: a table, or a row of one. */
  group(type: 'Table' | 'TR' | 'Sect', draw: () => void): void {
    if (this.part === 'none') {
      draw();
      return;
    }
    const outer = this.parent;
    const element = this.doc.struct(type);
    outer.add(element);
    this.parent = element;
    draw();
    this.parent = outer;
    element.end();
  }

  /** Draws lines that are one part for those who listen, such as a paragraph, also where it goes on to another page. */
  together(type: Part, draw: () => void): void {
    if (this.part !== null) {
      draw();
      return;
    }
    const element = this.doc.struct(type);
    this.parent.add(element);
    this.part = { type, element };
    draw();
    this.part = null;
    element.end();
  }

  /** Draws what is only there for the eye, such as a head that stands on every page. */
  unheard(draw: () => void): void {
    const before = this.part;
    this.part = 'none';
    draw();
    this.part = before;
  }

  /** Marks what is drawn for the part that it belongs to. */
  private marked(draw: () => void): void {
    if (this.part === 'none' || this.part === null) {
      this.doc.markContent('Artifact');
      draw();
      this.doc.endMarkedContent();
      return;
    }
    const { type, element } = this.part;
    const content = this.doc.markStructureContent(type);
    draw();
    this.doc.endMarkedContent();
    element.add(content);
  }

  /** Width between the margins. */
  get width(): number {
    return this.right - this.left;
  }

  /** Draws one line of text. `y` is its upper edge; aligned right, `x` is where it ends, centered where its middle is. */
  line(
    text: string,
    x: number,
    y: number,
    style: Style,
    align: 'left' | 'right' | 'center' = 'left',
    as: Part = 'P',
  ): void {
    const runs = runsOf(text, weightOf(style));
    const width = (runs.reduce((all, run) => all + run.width, 0) * style.size) / 1000;
    const from = align === 'right' ? x - width : align === 'center' ? x - width / 2 : x;
    this.together(as, () => this.marked(() => this.drawRuns(runs, from, y, style)));
  }

  private drawRuns(runs: readonly Run[], from: number, y: number, style: Style): void {
    let at = from;
    this.doc.fillColor(INK[style.color ?? 'ink']).fontSize(style.size);
    for (const { font, text, width } of inPieces(runs)) {
      if (font !== null) {
        if (!this.fonts.has(font)) {
          // A font that is read already is taken as it is, which the types do not say.
          this.doc.registerFont(font, fontOf(font) as unknown as Buffer);
          this.fonts.add(font);
        }
        this.doc.font(font).text(text, at, y, { lineBreak: false });
      }
      at += (width * style.size) / 1000;
    }
  }

  /** Draws text in lines of a width, going on to the next page where one ends. @returns where the next line would begin */
  paragraph(text: string, x: number, y: number, width: number, style: Style, as: Part = 'P'): number {
    this.y = y;
    this.together(as, () => {
      for (const line of linesOf(text, width, style)) {
        this.room(lineHeight(style));
        this.line(line, x, this.y, style);
        this.y += lineHeight(style);
      }
    });
    return this.y;
  }

  /** A filled band behind what is drawn next. */
  band(x: number, y: number, width: number, height: number): void {
    this.unheard(() => this.marked(() => this.doc.rect(x, y, width, height).fill(INK.band)));
  }

  /** A thin rule; `dashed` where one is to cut. */
  rule(y: number, dashed = false, from = this.left, to = this.right): void {
    this.unheard(() =>
      this.marked(() => {
        this.doc.save().lineWidth(0.6).strokeColor(INK.quiet);
        if (dashed) this.doc.dash(4, { space: 3 });
        this.doc.moveTo(from, y).lineTo(to, y).stroke().restore();
      }),
    );
  }

  /** A thin frame, for what is to be put there. */
  frame(x: number, y: number, width: number, height: number): void {
    this.unheard(() =>
      this.marked(() =>
        this.doc.save().lineWidth(0.6).strokeColor(INK.quiet).rect(x, y, width, height).stroke().restore(),
      ),
    );
  }

  /** A picture fitted into a frame, such as a signature that was drawn; told to those who listen by its words. */
  picture(png: Buffer, x: number, y: number, width: number, height: number, words: string): void {
    const element = this.doc.struct('Figure', { alt: words }, () =>
      this.doc.image(png, x, y, { fit: [width, height], valign: 'bottom' }),
    );
    this.parent.add(element);
  }

  /** Begins a new page of the same document. */
  next(): void {
    this.doc.addPage();
    this.y = this.left;
    this.unheard(this.onPage);
  }

  /** Begins a new page unless so much room is left. @returns whether it did */
  room(height: number): boolean {
    if (this.y + height <= this.bottom) return false;
    this.doc.addPage();
    this.y = this.left;
    this.unheard(this.onPage);
    return true;
  }

  /** Begins a new page unless nothing was drawn on this one. */
  turn(): void {
    this.onPage = () => undefined;
    if (this.pages > 0 || this.y > this.left) this.doc.addPage();
    this.y = this.left;
  }

  /** Puts the foot on every page from the last one that has it on. @returns how many pages these are */
  foot(words: (page: number, pages: number) => string): number {
    const all = this.doc.bufferedPageRange().count;
    const pages = all - this.pages;
    for (let page = 0; page < pages; page += 1) {
      this.doc.switchToPage(this.pages + page);
      const middle = (this.left + this.right) / 2;
      const style: Style = { size: 8, color: 'quiet' };
      this.unheard(() => this.line(words(page + 1, pages), middle, this.bottom + 16, style, 'center'));
    }
    this.pages = all;
    return pages;
  }

  /** Ends the document, with its foot on every page that has none. @returns the bytes of the PDF */
  async finish(foot?: (page: number, pages: number) => string): Promise<Buffer> {
    if (foot) this.foot(foot);
    this.doc.end();
    await this.ended;
    return Buffer.concat(this.pieces);
  }
}
