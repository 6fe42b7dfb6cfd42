/** A statement as PDF. */
import { join } from 'node:path';
import PDFDocument from 'pdfkit';
import { formatDate } from '../../core/calendar';
import { formatMoneyPlain } from '../../core/money';
import { AGING_BUCKETS } from '../../core/statements/aging';
import type { StatementContent } from './prepare';

const FONTS = join(process.cwd(), 'node_modules/@fontsource/source-sans-3/files');
const font = (weight: 400 | 600): string => join(FONTS, `source-sans-3-latin-${weight}-normal.woff`);

/** Characters that the shipped font has: its Latin set, less two spaces without ink that the PDF library stumbles over. */
const NOT_IN_FONT =
  /[^\u0020-\u007e\u00a0-\u00ff\u0131\u0152\u0153\u2010-\u2027\u2030-\u205e\u20ac\u2122\u2212\n]/gu;

/** Text as the font can print it: thin spaces as ordinary ones, letters beyond it without their marks, the rest as “?”. */
export const printable = (text: string): string =>
  text
    .replace(/[\u2000-\u200a\u202f]/g, '\u00a0')
    .replace(/[\u200b-\u200d\ufeff]/g, '')
    .replace(NOT_IN_FONT, (letter) => {
      const plain = letter.normalize('NFD').replace(NOT_IN_FONT, '');
      return plain === '' ? (PLAIN_LETTERS[letter] ?? '?') : plain;
    });

/** Latin letters that are no letter with a mark on it. */
const PLAIN_LETTERS: Record<string, string> = {
  ł: 'l',
  Ł: 'L',
  đ: 'd',
  Đ: 'D',
  ħ: 'h',
  Ħ: 'H',
  ŧ: 't',
  Ŧ: 'T',
  ı: 'i',
};

/** A document whose text is made printable first. */
class Paper extends PDFDocument {
  override text(
    text: string,
    x?: number | PDFKit.Mixins.TextOptions,
    y?: number,
    options?: PDFKit.Mixins.TextOptions,
  ): this {
    return super.text(printable(text), x as number, y, options);
  }
}

/** Draws the statement. @returns the bytes of a PDF on US letter paper */
export async function statementPdf(content: StatementContent): Promise<Buffer> {
  const doc = new Paper({
    size: 'LETTER',
    margin: 54,
    bufferPages: true,
    info: { Title: `Statement ${content.account}`, Author: content.practice.name },
  });
  const pieces: Buffer[] = [];
  doc.on('data', (piece: Buffer) => pieces.push(piece));
  const ended = new Promise<void>((resolve, reject) => doc.on('end', resolve).on('error', reject));
  doc.registerFont('text', font(400)).registerFont('strong', font(600));
  head(doc, content);
  figures(doc, content);
  for (const charge of content.charges) story(doc, charge);
  doc.moveDown(0.8).font('strong').fontSize(10.5).fillColor('#1d2a26').text(content.closing, 54);
  const pages = doc.bufferedPageRange().count;
  for (let page = 0; page < pages; page += 1) {
    doc.switchToPage(page);
    doc.page.margins.bottom = 0;
    doc
      .font('text')
      .fontSize(8)
      .fillColor('#5b6b65')
      .text(
        `Account ${content.account} · ${formatDate(content.date)} · page ${page + 1} of ${pages}`,
        54,
        748,
        { width: 504, align: 'center' },
      );
  }
  doc.end();
  await ended;
  return Buffer.concat(pieces);
}

type Doc = InstanceType<typeof Paper>;

function head(doc: Doc, c: StatementContent): void {
  doc.font('strong').fontSize(15).fillColor('#1f5c4a').text(c.practice.name, 54, 54);
  doc
    .font('text')
    .fontSize(9)
    .fillColor('#1d2a26')
    .text(
      `${c.practice.line1}, ${c.practice.city}, ${c.practice.state} ${c.practice.zip}\nQuestions: ${c.practice.phone}`,
    );
  doc
    .fontSize(11)
    .text(
      [c.to.name, c.to.line1, c.to.line2, `${c.to.city}, ${c.to.state} ${c.to.zip}`]
        .filter(Boolean)
        .join('\n'),
      72,
      140,
    );
  const rows = [
    ['Account', c.account],
    ['Date', formatDate(c.date)],
    ['Due', formatDate(c.dueDate)],
    ['Amount due', formatMoneyPlain(c.amount)],
  ];
  rows.forEach(([label, value], index) => {
    const last = index === rows.length - 1;
    const y = 140 + index * 17;
    doc
      .font(last ? 'strong' : 'text')
      .fontSize(last ? 12 : 10)
      .text(label!, 370, y, { width: 80, lineBreak: false });
    doc.text(value!, 450, y, { width: 108, align: 'right', lineBreak: false });
  });
}

function figures(doc: Doc, c: StatementContent): void {
  const y = 232;
  doc.rect(54, y, 504, 38).fill('#f3efe6').fillColor('#1d2a26');
  AGING_BUCKETS.forEach((bucket, index) => {
    const x = 62 + index * 99;
    doc
      .font('text')
      .fontSize(8)
      .text(`${bucket} days`, x, y + 6, { width: 90, align: 'right' });
    doc
      .font('strong')
      .fontSize(10)
      .text(formatMoneyPlain(c.aging[index]!), x, y + 18, { width: 90, align: 'right' });
  });
  doc
    .font('strong')
    .fontSize(12)
    .text('How this amount came about', 54, y + 52);
}

function story(doc: Doc, charge: StatementContent['charges'][number]): void {
  if (doc.y > 660) doc.addPage();
  doc.moveDown(0.6);
  const y = doc.y;
  doc.font('strong').fontSize(10).text(charge.title, 54, y, { width: 420 });
  const after = doc.y;
  doc.text(formatMoneyPlain(charge.owed), 474, y, { width: 84, align: 'right' });
  doc.y = after;
  doc.font('text').fontSize(9);
  for (const sentence of charge.sentences) doc.text(sentence.words, 66, doc.y + 1, { width: 420 });
}
