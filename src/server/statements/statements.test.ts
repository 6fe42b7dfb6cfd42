import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { calendarDate } from '../../core/calendar';
import { type Cents, cents, formatMoneyPlain, sum } from '../../core/money';
import { PAPER_SIZES, type PaperSize } from '../../core/paper';
import type { StatementContent } from '../../core/statements/document';
import { signature, slip, table } from '../print/blocks';
import { Paper, linesOf } from '../print/paper';
import { statementPdf } from './pdf';

let folder = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'wergeld-print-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** What a reader of PDF files finds in one (poppler), page by page. */
function read(pdf: Buffer): string[] {
  const file = join(folder, 'document.pdf');
  writeFileSync(file, pdf);
  const text = execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' });
  return text.split('\f').slice(0, -1);
}
const sizeOf = (pdf: Buffer): string => {
  const file = join(folder, 'document.pdf');
  writeFileSync(file, pdf);
  return /Page size:\s+(.*)/.exec(execFileSync('pdfinfo', [file], { encoding: 'utf8' }))![1]!;
};
/** Text as words, however they are set apart. */
const words = (text: string): string => text.normalize('NFC').replace(/\s+/g, ' ');

const content = (name: string, amount: number, paper: PaperSize = 'LETTER'): StatementContent => ({
  paper,
  practice: { name, line1: name, city: name, state: 'WA', zip: '98199', phone: '555-0100' },
  account: 'A-10001',
  to: { name, line1: name, line2: '', city: name, state: 'WA', zip: '98199' },
  date: calendarDate('2026-03-16'),
  dueDate: calendarDate('2026-03-30'),
  amount: cents(amount),
  aging: [cents(amount), cents(0), cents(0), cents(0), cents(0)],
  charges: [{ chargeId: 1, title: name, owed: cents(amount), sentences: [{ words: name }] }],
  closing: name,
});

describe('the printed statement', () => {
  test.each([0, 99, 100_000, 123_456_789])('prints an amount of %d cents', async (amount) => {
    const [page] = read(await statementPdf(content('Varga', amount)));
    const digits = formatMoneyPlain(cents(amount)).replace(/\s/g, '');
    expect(page!.replace(/\s/g, '')).toContain(`Amountdue,USdollars${digits}`);
    expect(words(page!)).toContain('30 Mar 2026');
  });

  test.each([
    "O'Rourke-Ibarra, Zsófia Lucía",
    'Łukasz Šimunović',
    'Nguyễn Thị Ánh',
    'Ελένη Παπαδοπούλου',
    'Жанна Щербакова',
    'Ştefan Ağaoğlu',
    '“so” – it’s 20 € …',
  ])('%s is printed as it is', async (name) => {
    const pages = read(await statementPdf(content(name, 100)));
    expect(words(pages.join(' '))).toContain(words(name));
  });

  test('a letter that the font has not is a question mark, and the rest stays', async () => {
    expect(words(read(await statementPdf(content('Li 李 Ming', 100))).join(' '))).toContain('Li ? Ming');
  });

  test.each([
    ['LETTER', '612 x 792 pts (letter)'],
    ['A4', '595.28 x 841.89 pts (A4)'],
  ] as const)('on %s', async (paper, size) =>
    expect(sizeOf(await statementPdf(content('Varga', 100, paper)))).toBe(size),
  );

  test('a long story goes on, with each page counted', async () => {
    const long = content('Varga', 100);
    long.charges = Array.from({ length: 60 }, (_, index) => ({
      chargeId: index,
      title: `Visit ${index}`,
      owed: cents(100),
      sentences: [{ words: 'One.' }, { words: 'Two.' }],
    }));
    const pages = read(await statementPdf(long));
    expect(pages.length).toBeGreaterThan(2);
    pages.forEach((page, index) => expect(page).toContain(`page ${index + 1} of ${pages.length}`));
    const all = words(pages.join(' '));
    for (let index = 0; index < 60; index += 1) expect(all).toContain(`Visit ${index} `);
  });

  test('whatever stands in a name or a sentence, there is a PDF', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.string({ unit: 'binary', maxLength: 80 }),
        fc.integer({ min: 0, max: 10 ** 9 }),
        fc.constantFrom(...PAPER_SIZES),
        async (name, amount, paper) => {
          expect((await statementPdf(content(name, amount, paper))).subarray(0, 5).toString()).toBe('%PDF-');
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('the print kit', () => {
  test('lines are no wider than they may be, and lose nothing but the spaces they break at', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), fc.integer({ min: 30, max: 300 }), (text, width) => {
        const lines = linesOf(text, width, { size: 9 });
        expect(lines.join('').replaceAll(' ', '')).toBe(text.replaceAll('\n', '').replaceAll(' ', ''));
      }),
      { numRuns: 60 },
    );
  });

  test('a table has its head on every page, carries its sums over, and ends with the whole', async () => {
    const amounts: Cents[] = Array.from({ length: 120 }, (_, index) => cents(index * 37 - 900));
    const paper = new Paper('LETTER', 'Table', 'Test');
    table(
      paper,
      [
        { title: 'What', share: 3, words: (row: { n: number }) => `Row ${row.n}` },
        { title: 'Amount', share: 1, amount: (row) => amounts[row.n]! },
      ],
      amounts.map((_, n) => ({ n })),
    );
    const pages = read(await paper.finish((page) => `foot ${page}`)).map(words);
    expect(pages.length).toBeGreaterThan(2);
    let before = 0;
    pages.forEach((page, index) => {
      expect(page).toMatch(/^ ?What Amount /);
      const rows = [...page.matchAll(/Row (\d+)/g)].map((match) => Number(match[1]));
      const so = formatMoneyPlain(sum(amounts.slice(0, before))).replace(/\s/g, ' ');
      if (index > 0) expect(page).toContain(`Brought forward ${so}`);
      before += rows.length;
      const far = formatMoneyPlain(sum(amounts.slice(0, before))).replace(/\s/g, ' ');
      expect(page).toContain(`${index === pages.length - 1 ? 'Together' : 'Carried forward'} ${far}`);
      expect(page).toContain(`foot ${index + 1}`);
    });
    expect(before).toBe(120);
  });

  test('a slip and a place to sign stand on the page that has room for them', async () => {
    const paper = new Paper('A4', 'Form', 'Test');
    paper.y = paper.bottom - 40;
    signature(paper, 'Signature of the patient');
    slip(paper, 'Send this part back', [['Account', 'A-1']]);
    const pages = read(await paper.finish(() => ''));
    expect(pages).toHaveLength(2);
    expect(words(pages[1]!)).toMatch(/Signature of the patient Date .*Send this part back/);
  });
});
