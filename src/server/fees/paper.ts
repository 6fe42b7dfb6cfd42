/** Fee schedules and contracts on paper and as spreadsheets. */
import { z } from 'zod';
import { formatDate } from '../../core/calendar';
import { type ComparedFee, MOST_COMPARED } from '../../core/fees/compare';
import {
  type ReviewedPayer,
  type ReviewedService,
  daysToPay,
  shareOf,
  shareWords,
} from '../../core/fees/review';
import { dateField, idField } from '../../core/fields';
import { ZERO, formatMoneyPlain } from '../../core/money';
import type { ListColumn } from '../../core/reports/lists';
import { counted } from '../../core/words';
import { type Context, Refused, audit } from '../access';
import { parseInput } from '../input';
import { type SheetFormat, batchOf, sheetOf } from '../lists/sheet';
import { figuresBand, heading, letterhead, table } from '../print/blocks';
import { Paper } from '../print/paper';
import { type ScheduleFee, compareSchedules, readSchedule } from './read';
import { type Review, readReview, type reviewAsked } from './review';

const m = formatMoneyPlain;

/** A file, by name: what it is, or what it is read from. */
export interface FileMade {
  file: string;
  body: Buffer | Awaited<ReturnType<typeof sheetOf>>['body'];
}

async function practiceOf({ db }: Context) {
  const practice = await db.selectFrom('practice').selectAll().executeTakeFirst();
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  return practice;
}

/** A name as a part of a file's. */
const inFile = (name: string): string =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'fees';

const scheduleAsked = z.object({
  scheduleId: idField,
  on: dateField.optional(),
  format: z.enum(['csv', 'xlsx', 'pdf']).default('pdf'),
});

const SCHEDULE_COLUMNS: readonly ListColumn[] = [
  { key: 'code', title: 'Code', kind: 'words' },
  { key: 'description', title: 'Service', kind: 'words' },
  { key: 'category', title: 'Category', kind: 'words' },
  { key: 'amount', title: 'Fee', kind: 'money' },
  { key: 'facility', title: 'In a facility', kind: 'money' },
  { key: 'since', title: 'Since', kind: 'day' },
];

/** One schedule as it is on a day, of what has a fee: as PDF, XLSX or CSV. */
export async function scheduleFile(
  context: Context,
  input: z.input<typeof scheduleAsked>,
): Promise<FileMade> {
  const { scheduleId, on = context.today, format } = parseInput(scheduleAsked, input);
  const schedule = await readSchedule(context, scheduleId, on);
  const fees = schedule.fees.filter(({ amount }) => amount !== null);
  await audit(context.db, context, 'exported', { kind: 'fee schedule', id: scheduleId }, { format, on });
  const file = `${inFile(schedule.name)}-${on}`;
  if (format !== 'pdf')
    return sheetOf(schedule.name.slice(0, 31), file, SCHEDULE_COLUMNS, fees.length, batchOf(fees), format);
  const practice = await practiceOf(context);
  const title = `${schedule.name}, ${formatDate(on)}`;
  const paper = await Paper.open(practice.paper, title, practice.name);
  letterhead(paper, practice);
  paper.y += 10;
  heading(paper, title);
  paper.paragraph(
    `${counted(fees.length, 'fee')} for one unit, as ${on === context.today ? 'they are today' : 'of that day'}${
      schedule.usedBy.length > 0 ? `. Used by ${schedule.usedBy.map(({ words }) => words).join('; ')}` : ''
    }.`,
    paper.left,
    paper.y,
    paper.width,
    { size: 9 },
  );
  paper.y += 6;
  const facility = fees.some((fee) => fee.facility !== null);
  table(
    paper,
    [
      { title: 'Code', share: 1, words: ({ code }: ScheduleFee) => code },
      { title: 'Service', share: 4, words: ({ description }) => description },
      { title: 'Category', share: 1.6, words: ({ category }) => category },
      { title: 'Fee', share: 1.2, amount: ({ amount }) => amount ?? ZERO },
      ...(facility
        ? [
            {
              title: 'In a facility',
              share: 1.2,
              amount: (fee: ScheduleFee) => fee.facility ?? fee.amount ?? ZERO,
            },
          ]
        : []),
    ],
    fees,
    // A sum of fees says nothing.
    { sums: false },
  );
  return {
    file: `${file}.pdf`,
    body: await paper.finish((page, pages) => `${title} · page ${page} of ${pages}`),
  };
}

const compareFileAsked = z.object({
  scheduleIds: z.array(idField).min(2).max(MOST_COMPARED),
  on: dateField.optional(),
  differing: z.boolean().default(false),
  billed: z.boolean().default(false),
  format: z.enum(['csv', 'xlsx']).default('xlsx'),
});

/** Schedules side by side as XLSX or CSV. */
export async function comparisonFile(
  context: Context,
  input: z.input<typeof compareFileAsked>,
): Promise<FileMade> {
  const { format, on = context.today, ...asked } = parseInput(compareFileAsked, input);
  const { schedules, rows } = await compareSchedules(context, { ...asked, on });
  await audit(
    context.db,
    context,
    'exported',
    { kind: 'fee schedules', id: schedules.map(({ id }) => id).join() },
    { format },
  );
  const columns: ListColumn[] = [
    { key: 'code', title: 'Code', kind: 'words' },
    { key: 'description', title: 'Service', kind: 'words' },
    { key: 'units', title: 'Units in a year', kind: 'number' },
    ...schedules.flatMap(({ name }, at): ListColumn[] => [
      { key: `fee${at}`, title: name, kind: 'money' },
      ...(at === 0
        ? []
        : ([
            { key: `off${at}`, title: `${name}, difference`, kind: 'money' },
            { key: `share${at}`, title: `${name}, %`, kind: 'number' },
          ] as ListColumn[])),
    ]),
  ];
  const lines = rows.map(({ fees, differences, ...row }: ComparedFee) => ({
    ...row,
    ...Object.fromEntries(fees.map((fee, at) => [`fee${at}`, fee])),
    ...Object.fromEntries(
      differences.flatMap((difference, at) => [
        [`off${at + 1}`, difference?.amount ?? null],
        [`share${at + 1}`, difference?.share === null || !difference ? null : difference.share / 100],
      ]),
    ),
  }));
  return sheetOf('Schedules compared', `schedules-${on}`, columns, lines.length, batchOf(lines), format);
}

/** What is said of each payer of a review, in the order in which it stands. */
const REVIEW_COLUMNS: readonly ListColumn[] = [
  { key: 'payer', title: 'Payer', kind: 'words' },
  { key: 'lines', title: 'Lines', kind: 'number' },
  { key: 'office', title: 'Office fee', kind: 'money' },
  { key: 'contract', title: 'Contract', kind: 'money' },
  { key: 'allowed', title: 'Allowed', kind: 'money' },
  { key: 'paid', title: 'Paid', kind: 'money' },
  { key: 'againstOffice', title: 'Against the office fee', kind: 'money' },
  { key: 'againstBest', title: 'Against the best payer', kind: 'money' },
  { key: 'below', title: 'Lines below contract', kind: 'number' },
  { key: 'belowAmount', title: 'Below contract', kind: 'money' },
  { key: 'denied', title: 'Refused', kind: 'number' },
  { key: 'days', title: 'Days to pay', kind: 'number' },
  { key: 'raise', title: 'A raise would bring', kind: 'money' },
  { key: 'other', title: 'The other schedule would bring', kind: 'money' },
];

const columnsOf = ({ schedule }: Review): ListColumn[] =>
  REVIEW_COLUMNS.filter(({ key }) => schedule !== null || key !== 'other');

/** The review of contracts as XLSX or CSV: a line a payer. */
export async function reviewFile(
  context: Context,
  { format = 'xlsx', ...input }: z.input<typeof reviewAsked> & { format?: SheetFormat },
): Promise<FileMade> {
  const review = await readReview(context, input);
  await audit(context.db, context, 'exported', { kind: 'report', id: 'contracts' }, { format });
  const rows = review.payers.map(({ services: _, ...payer }) => ({ ...payer, days: daysToPay(payer) }));
  return sheetOf(
    'Contracts',
    `contracts-${review.to}`,
    columnsOf(review),
    rows.length,
    batchOf(rows),
    format,
  );
}

/** So many payers stand on the first page, and so many services on the second. */
const PAYERS_ON_PAGE = 18;
const ON_PAGE = 20;

/** What is said of a payer on its first page, in sentences. */
function said(payer: ReviewedPayer, { from, to, share, schedule }: Review): string[] {
  const days = daysToPay(payer);
  const refused = shareOf(payer.denied, payer.lines);
  return [
    `From ${formatDate(from)} to ${formatDate(to)} ${counted(payer.lines, 'line')} went to ${payer.payer}; ${counted(payer.answered, 'line was', 'lines were')} allowed${days === null ? '' : `, on average ${counted(days, 'day')} after sending`}.`,
    `At the office fee they come to ${m(payer.office)}; ${m(payer.allowed)} was allowed, ${shareWords(shareOf(payer.allowed, payer.office))} of it. The contract costs ${m(payer.againstOffice)} against the office fee, and ${m(payer.againstBest)} against what the best payer allows for the same services.`,
    ...(payer.contractUnits > 0
      ? [
          payer.below === 0
            ? 'No line was allowed less than the contract says.'
            : `${counted(payer.below, 'line was', 'lines were')} allowed less than the contract says, by ${m(payer.belowAmount)} together.`,
        ]
      : ['There is no schedule of this contract here.']),
    `${counted(payer.denied, 'line was', 'lines were')} refused, ${shareWords(refused)}, charged ${m(payer.deniedAmount)}.`,
    `A raise of ${share / 100} % would bring ${m(payer.raise)} a year${schedule ? `; the schedule “${schedule.name}” instead ${m(payer.other)}` : ''}.`,
  ];
}

/**
 * One payer on two pages to take into a negotiation: the figures, and the services with most at stake.
 * @throws Refused when nothing was billed to it in the period
 */
export async function contractPaper(
  context: Context,
  { payerId, ...input }: z.input<typeof reviewAsked> & { payerId: number },
): Promise<FileMade> {
  const review = await readReview(context, input);
  const payer = review.payers.find((one) => one.payerId === payerId);
  if (!payer) throw new Refused('nothing', 'Nothing was billed to this payer in that time');
  await audit(context.db, context, 'exported', { kind: 'payer', id: payerId }, { contract: 'pdf' });
  const practice = await practiceOf(context);
  const title = `${payer.payer}: what the contract is worth`;
  const paper = await Paper.open(practice.paper, title, practice.name);
  letterhead(paper, practice);
  paper.y += 12;
  heading(paper, title);
  figuresBand(paper, [
    ['At the office fee', payer.office],
    ['By the contract', payer.contract],
    ['Allowed', payer.allowed],
    ['Paid', payer.paid],
  ]);
  for (const words of said(payer, review)) {
    paper.paragraph(words, paper.left, paper.y, paper.width, { size: 11 });
    paper.y += 5;
  }
  // The payer itself is among them, wherever it stands.
  const first = review.payers.slice(0, PAYERS_ON_PAGE);
  const beside = first.includes(payer) ? first : [...first.slice(0, -1), payer];
  heading(
    paper,
    beside.length < review.payers.length
      ? `${beside.length} of ${review.payers.length} payers of that time`
      : 'All payers of that time',
  );
  table(
    paper,
    [
      { title: 'Payer', share: 2.6, words: (one: ReviewedPayer) => one.payer },
      { title: 'Lines', share: 0.8, right: true, words: ({ lines }) => String(lines) },
      { title: 'Office fee', share: 1.3, amount: ({ office }) => office },
      { title: 'Allowed', share: 1.3, amount: ({ allowed }) => allowed },
      {
        title: 'of it',
        share: 0.9,
        right: true,
        words: ({ allowed, office }) => shareWords(shareOf(allowed, office)),
      },
      { title: 'Costs', share: 1.3, amount: ({ againstOffice }) => againstOffice },
    ],
    beside,
    { sums: beside.length === review.payers.length },
  );
  paper.turn();
  const shown = payer.services.slice(0, ON_PAGE);
  heading(
    paper,
    `Where most is at stake${payer.services.length > ON_PAGE ? `: ${ON_PAGE} of ${payer.services.length} services` : ''}`,
  );
  table(
    paper,
    [
      { title: 'Code', share: 0.9, words: ({ code }: ReviewedService) => code },
      { title: 'Service', share: 2.6, words: ({ description }) => description },
      { title: 'Units', share: 0.7, right: true, words: ({ units }) => String(units) },
      { title: 'Office fee', share: 1.2, amount: ({ office }) => office },
      { title: 'Allowed', share: 1.2, amount: ({ allowed }) => allowed },
      { title: 'Costs', share: 1.2, amount: ({ againstOffice }) => againstOffice },
      {
        title: 'The best allows',
        share: 1.7,
        right: true,
        words: ({ best }) => (best ? m(best.each) : '–'),
      },
    ],
    shown,
  );
  return {
    file: `contract-${inFile(payer.payer)}-${review.to}.pdf`,
    body: await paper.finish(
      (page, pages) =>
        `${title} · ${formatDate(review.from)} to ${formatDate(review.to)} · page ${page} of ${pages}`,
    ),
  };
}
