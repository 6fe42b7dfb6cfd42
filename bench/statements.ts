/**
 * Statements: five thousand of ten charges to PDF, against the same words drawn with the PDF library alone; and choosing among
 * fifty thousand households, against the bare query of the facts that are weighed. Ratios of one run; memory is told beside.
 */
import { owedOf } from '../src/core/books/owed';
import PDFDocument from 'pdfkit';
import { addDays, calendarDate } from '../src/core/calendar';
import { type Cents, cents, formatMoneyPlain } from '../src/core/money';
import { alone, composeStatement } from '../src/core/statements/compose';
import { PLAIN_OPTIONS, STATEMENT_COLUMNS, type StatementContent } from '../src/core/statements/document';
import { CONDITION_IDS } from '../src/core/statements/selection';
import { fontOf } from '../src/server/print/fonts';
import { weighHouseholds } from '../src/server/statements/choosing';
import { readFacts } from '../src/server/statements/facts';
import { statementPdf } from '../src/server/print/statement';
import { readPolicies } from '../src/server/setup/statement-policies';
import { testDatabase } from '../src/testing/database';
import { fill } from './fill';

const today = calendarDate('2026-03-16');
const NONE = cents(0);

/** A statement of ten charges, each with four sentences, of a household with a number. */
function statement(household: number): StatementContent {
  const address = {
    name: 'Osprey Landing Health',
    line1: '12 Harbor Street',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199',
  };
  const charges = Array.from({ length: 10 }, (_, at) => {
    const owed = cents(1000 + ((household * 37 + at * 911) % 20_000));
    const totals = {
      fee: cents(owed + 4700),
      tax: NONE,
      added: NONE,
      opened: NONE,
      payerPaid: cents(3000),
      patientPaid: NONE,
      agencyPaid: NONE,
      reduced: cents(1700),
      expected: 0 as never,
      withPayer: NONE,
      withPatient: owed,
      onPlan: NONE,
      atAgency: NONE,
    };
    const date = addDays(today, -10 * at - 3);
    return {
      story: {
        chargeId: household * 10 + at,
        kind: 'service' as const,
        date,
        patient: `Person ${at % 3}`,
        service: 'Office visit, 20 minutes',
        provider: 'Ngozi Okafor',
        charged: totals.fee,
        tax: NONE,
        waiting: [],
        withPatient: owed,
        onPlan: NONE,
        atAgency: NONE,
        entries: [
          {
            entryId: at,
            kind: 'payer-decision' as const,
            date,
            payer: 'Cedar Sound Health',
            memo: '',
            undone: false,
            paidByPayer: cents(3000),
            paidByPatient: NONE,
            paidByAgency: cents(0),
            reduced: [{ words: 'the discount of our contract', amount: cents(1700) }],
            expected: 0 as never,
            passedOn: [{ words: 'your copay for the visit', amount: owed }],
            refused: [],
            exception: null,
            coverageId: null,
          },
        ],
      },
      totals,
    };
  });
  return alone(
    composeStatement(
      {
        paper: 'LETTER',
        practice: { ...address, phone: '555-0100' },
        remit: address,
        hours: '',
        tenders: ['check'],
        account: `A-${10_000 + household}`,
        to: { ...address, name: `Household ${household}`, line2: '' },
        date: today,
        dueDate: addDays(today, 14),
        notes: [],
        installments: [],
        plans: [],
        options: PLAIN_OPTIONS,
      },
      {
        charges,
        owed: owedOf(
          charges.map(({ story, totals }) => ({
            chargeId: story.chargeId,
            date: story.date,
            owed: totals.withPatient,
            layers: [{ since: story.date, amount: totals.withPatient }],
            stated: [],
          })),
          NONE,
          10,
          today,
        ),
        zeroOn: null,
        agingFrom: 'responsible',
        messages: [],
        most: 0,
        siteId: null,
      },
    ),
  );
}

/** The same words and amounts with the library alone, in the same two fonts, lines one under the other, nothing laid out. */
async function bare(content: StatementContent): Promise<number> {
  const doc = new PDFDocument({ size: 'LETTER', margin: 54, bufferPages: true });
  let bytes = 0;
  doc.on('data', (piece: Buffer) => (bytes += piece.length));
  const ended = new Promise((resolve) => doc.on('end', resolve));
  doc.registerFont('ink', fontOf('latin 400') as unknown as Buffer);
  doc.registerFont('strong', fontOf('latin 600') as unknown as Buffer);
  doc.fontSize(9);
  const say = (text: string, font = 'ink'): void => void doc.font(font).text(text, { lineBreak: true });
  say(content.practice.name, 'strong');
  say(content.to.name);
  for (const amount of content.aging) say(formatMoneyPlain(amount), 'strong');
  for (const { lines } of content.sections)
    for (const line of lines) {
      say(line.title);
      for (const column of STATEMENT_COLUMNS) say(formatMoneyPlain(line[column] as Cents));
      for (const { words } of line.sentences) say(words);
    }
  say(content.closing, 'strong');
  doc.end();
  await ended;
  return bytes;
}

const megabytes = (): number => Math.round(process.memoryUsage().rss / 1024 / 1024);

/** Milliseconds for so many of something, in blocks of the two in turn, so that both meet the same machine. */
async function inTurn(
  count: number,
  one: (content: StatementContent) => Promise<unknown>,
  other: (content: StatementContent) => Promise<unknown>,
) {
  const spent = [0, 0];
  const memory: number[] = [];
  const block = 250;
  for (let from = 0; from < count; from += block) {
    const contents = Array.from({ length: Math.min(block, count - from) }, (_, at) => statement(from + at));
    for (const [index, run] of [one, other].entries()) {
      const start = performance.now();
      for (const content of contents) await run(content);
      spent[index]! += performance.now() - start;
    }
    memory.push(megabytes());
  }
  return { one: spent[0]! / count, other: spent[1]! / count, memory };
}

const median = async (run: () => Promise<unknown>): Promise<number> => {
  const times: number[] = [];
  for (let turn = 0; turn < 5; turn += 1) {
    const start = performance.now();
    await run();
    times.push(performance.now() - start);
  }
  return times.sort((a, b) => a - b)[2]!;
};

async function main(): Promise<void> {
  const drawn = await inTurn(
    5000,
    (content) => statementPdf(content),
    (content) => bare(content),
  );
  const ratio = drawn.one / drawn.other;
  const [early, late] = [drawn.memory[2]!, drawn.memory.at(-1)!];
  process.stdout.write(
    `5000 statements to PDF: ${drawn.one.toFixed(1)} ms each, bare ${drawn.other.toFixed(1)}: ${ratio.toFixed(2)} times (at most 2)\n` +
      `memory after 750 and after 5000: ${early} and ${late} MB\n`,
  );
  const t = await testDatabase();
  try {
    await fill(t, 50_000, 200_000);
    const policies = await readPolicies(t.db);
    const rows = CONDITION_IDS.map((what) => ({ side: 'leave' as const, what, number: 0, choices: ['x'] }));
    const facts = await median(() => readFacts(t.context, policies, rows));
    const chosen = await median(() => weighHouseholds(t.context, { rows }));
    const few = await median(() => weighHouseholds(t.context, {}));
    const times = chosen / facts;
    process.stdout.write(
      `choosing among 50000 households by every condition: ${chosen.toFixed(0)} ms, bare query ${facts.toFixed(0)}: ${times.toFixed(2)} times (at most 3); by the standard rows ${few.toFixed(0)} ms\n`,
    );
    if (ratio > 2 || times > 3 || late > early * 1.3 + 50) process.exitCode = 1;
  } finally {
    await t.close();
  }
}

await main();
