import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { calendarDate } from '../../core/calendar';
import { type Cents, cents, formatMoneyPlain, sum } from '../../core/money';
import { PAPER_SIZES, type PaperSize } from '../../core/paper';
import { PLAIN_OPTIONS, type StatementContent, type StatementLine } from '../../core/statements/document';
import { signature, slip, table } from '../print/blocks';
import { loadFonts } from '../print/fonts';
import { Paper, linesOf } from '../print/paper';
import { statementPdf } from '../print/statement';
import { runs } from '../../testing/runs';

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

const content = (name: string, amount: number, paper: PaperSize = 'LETTER'): StatementContent => {
  const address = { name, line1: name, city: name, state: 'WA', zip: '98199' };
  const none = cents(0);
  const owed = cents(amount);
  return {
    paper,
    practice: { ...address, phone: '555-0100' },
    remit: address,
    hours: '',
    tenders: ['check'],
    account: 'A-10001',
    to: { ...address, line2: '' },
    date: calendarDate('2026-03-16'),
    dueDate: calendarDate('2026-03-30'),
    amount: owed,
    owed,
    credit: none,
    pastDue: none,
    withPayers: none,
    onPlan: none,
    aging: [owed, none, none, none, none],
    oldest: null,
    agingFrom: 'responsible',
    options: PLAIN_OPTIONS,
    forward: null,
    sections: [{ title: '', lines: [line(1, name, amount)] }],
    notes: [],
    installments: [],
    plans: [],
    messages: [name],
    closing: name,
    shows: [],
    name: '',
    joined: [],
  };
};
const line = (chargeId: number, title: string, amount: number): StatementLine => ({
  chargeId,
  date: calendarDate('2026-03-01'),
  patient: '',
  title,
  charged: cents(amount),
  payerPaid: cents(0),
  writtenOff: cents(0),
  patientPaid: cents(0),
  waiting: cents(0),
  elsewhere: cents(0),
  owed: cents(amount),
  sentences: [{ words: title }, { words: 'Two.' }],
});
/** The bytes of a statement. */
const print = async (of: StatementContent): Promise<Buffer> => (await statementPdf(of)).bytes;

describe('the printed statement', () => {
  test.each([99, 100_000, 123_456_789])('prints an amount of %d cents', async (amount) => {
    const [page] = read(await print(content('Varga', amount)));
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
    const pages = read(await print(content(name, 100)));
    expect(words(pages.join(' '))).toContain(words(name));
  });

  test('a letter that the font has not is a question mark, and the rest stays', async () => {
    expect(words(read(await print(content('Li 李 Ming', 100))).join(' '))).toContain('Li ? Ming');
  });

  test.each([
    ['LETTER', '612 x 792 pts (letter)'],
    ['A4', '595.28 x 841.89 pts (A4)'],
  ] as const)('on %s', async (paper, size) =>
    expect(sizeOf(await print(content('Varga', 100, paper)))).toBe(size),
  );

  test('a long story goes on, with each page counted', async () => {
    const long = content('Varga', 100);
    const titles = Array.from({ length: 60 }, (_, index) => `Visit ${index}`);
    long.sections = [{ title: '', lines: titles.map((title, index) => line(index, title, 100)) }];
    const pages = read(await print(long));
    expect(pages.length).toBeGreaterThan(2);
    pages.forEach((page, index) => expect(page).toContain(`page ${index + 1} of ${pages.length}`));
    const all = words(pages.join(' '));
    for (let index = 0; index < 60; index += 1) expect(all).toContain(`Visit ${index} `);
  });

  test('is tagged, says its language and its title, and is sound to another reader', async () => {
    const file = join(folder, 'document.pdf');
    writeFileSync(file, await print(content('Łukasz Varga', 12_345)));
    const info = execFileSync('pdfinfo', [file], { encoding: 'utf8' });
    expect(info).toMatch(/Tagged:\s+yes/);
    expect(info).toMatch(/Title:\s+Statement A-10001/);
    expect(execFileSync('qpdf', ['--check', file], { encoding: 'utf8' })).toContain('No syntax or stream');
    const json = execFileSync('qpdf', ['--json', '--json-key=qpdf', file], { encoding: 'utf8' });
    expect(json).toContain('"/Lang": "u:en-US"');
    const heard = execFileSync('pdfinfo', ['-struct-text', file], { encoding: 'utf8' });
    expect(heard).toMatch(/H1 \(block\)/);
    expect(heard).toMatch(/TH \(block|TH/);
    expect(heard).toContain('Łukasz Varga');
    // What stands on every page for the eye is not heard.
    expect(heard).not.toContain('page 1 of 1');
  });

  test('credit that is left over is no amount due, and a draft says that it is not sent', async () => {
    const less = { ...content('Varga', 100), amount: cents(-2500), credit: cents(2600) };
    const text = words(read((await statementPdf(less, 'Draft · not sent')).bytes).join(' '));
    expect(text).toContain('Credit, nothing due 25.00');
    expect(text).toContain('Draft · not sent');
    expect(text).not.toContain('Amount due, US dollars');
  });

  test('a statement of twelve pages carries its sums over each page’s end', async () => {
    const long = content('Varga', 100);
    const lines = Array.from({ length: 230 }, (_, index) => line(index, `Visit ${index}`, 100 + index));
    long.sections = [{ title: '', lines }];
    const pages = read(await print(long)).map(words);
    expect(pages.length).toBeGreaterThanOrEqual(12);
    let before = 0;
    pages.forEach((page, index) => {
      const total = () =>
        formatMoneyPlain(sum(lines.slice(0, before).map(({ owed }) => owed))).replace(/\s/g, ' ');
      if (index > 0 && before < lines.length) expect(page).toContain(`Brought forward ${total()}`);
      before += [...page.matchAll(/ \d+\.\d\d 0\.00 0\.00 0\.00 0\.00 \d+\.\d\d/g)].filter(
        (match) => !page.slice(Math.max(0, match.index - 10), match.index).match(/forward|Together/),
      ).length;
      if (before < lines.length) expect(page).toContain(`Carried forward ${total()}`);
      expect(page).toContain(`page ${index + 1} of ${pages.length}`);
    });
    expect(before).toBe(lines.length);
  });

  test('whatever stands in a name or a sentence, there is a PDF', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.string({ unit: 'binary', maxLength: 80 }),
        fc.integer({ min: 0, max: 10 ** 9 }),
        fc.constantFrom(...PAPER_SIZES),
        async (name, amount, paper) => {
          expect((await print(content(name, amount, paper))).subarray(0, 5).toString()).toBe('%PDF-');
        },
      ),
      { numRuns: runs(60) },
    );
  });
});

describe('the print kit', () => {
  test('lines are no wider than they may be, and lose nothing but the spaces they break at', async () => {
    await loadFonts();
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), fc.integer({ min: 30, max: 300 }), (text, width) => {
        const lines = linesOf(text, width, { size: 9 });
        expect(lines.join('').replaceAll(' ', '')).toBe(text.replaceAll('\n', '').replaceAll(' ', ''));
      }),
      { numRuns: runs(60) },
    );
  });

  test('a table has its head on every page, carries its sums over, and ends with the whole', async () => {
    const amounts: Cents[] = Array.from({ length: 120 }, (_, index) => cents(index * 37 - 900));
    const paper = await Paper.open('LETTER', 'Table', 'Test');
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
    const paper = await Paper.open('A4', 'Form', 'Test');
    paper.y = paper.bottom - 40;
    signature(paper, 'Signature of the patient');
    slip(paper, { words: 'Send this part back', to: ['Us'], facts: [['Account', 'A-1']] });
    const pages = read(await paper.finish(() => ''));
    expect(pages).toHaveLength(2);
    expect(words(pages[1]!)).toMatch(/Signature of the patient Date .*Send this part back/);
  });
});
