/** A statement as PDF. */
import { formatDate } from '../../core/calendar';
import { type Cents, ZERO, formatMoneyPlain, negate, sum } from '../../core/money';
import { AGING_BUCKETS } from '../../core/statements/aging';
import {
  type OneStatement,
  type StatementAmounts,
  type StatementContent,
  type StatementLine,
  dueTogether,
} from '../../core/statements/document';
import {
  type PrintColumn,
  addressWindow,
  box,
  factsBeside,
  figuresBand,
  heading,
  letterhead,
  slip,
  table,
} from './blocks';
import { Paper } from './paper';

/** A paper as it is kept: its bytes, and how many pages it has. */
export interface Printed {
  bytes: Buffer;
  pages: number;
}

type AmountColumn = PrintColumn<StatementLine> & { of: keyof StatementAmounts };

/** Whether all that is neither paid nor owed is on plans. */
const onPlan = ({ forward, sections, onPlan: all }: OneStatement): boolean =>
  sum([
    forward?.elsewhere ?? ZERO,
    ...sections.flatMap(({ lines }) => lines.map((line) => line.elsewhere)),
  ]) <= all;

/** The columns of amounts; what is on a plan or with an agency only where there is such. */
function amountColumns(content: OneStatement): AmountColumn[] {
  const column = (title: string, of: keyof StatementAmounts, share = 1.02): AmountColumn => ({
    title,
    share,
    of,
    amount: (line) => line[of],
  });
  const elsewhere =
    (content.forward?.elsewhere ?? 0) !== 0 ||
    content.sections.some(({ lines }) => lines.some((line) => line.elsewhere !== 0));
  return [
    column('Charge', 'charged'),
    column('Insurer paid', 'payerPaid', 1.15),
    column('Taken off', 'writtenOff'),
    column('You paid', 'patientPaid'),
    column('Insurer has', 'waiting', 1.1),
    // What is with an agency is on no plan.
    ...(elsewhere ? [column(onPlan(content) ? 'On plan' : 'Elsewhere', 'elsewhere')] : []),
    column('You owe', 'owed'),
  ];
}

/** The table of charges of one section. What is brought forward stands before the first. */
function drawSection(
  paper: Paper,
  content: OneStatement,
  { title, lines }: OneStatement['sections'][number],
  forward: OneStatement['forward'],
): void {
  if (title) heading(paper, title);
  const amounts = amountColumns(content);
  const columns: PrintColumn<StatementLine>[] = [
    {
      title: 'What for',
      share: 2.6,
      words: (line) => (title || !line.patient ? line.title : `${line.title} · ${line.patient}`),
    },
    ...amounts,
  ];
  table(paper, columns, lines, {
    under: (line) => line.sentences.map(({ words }) => words),
    ...(forward
      ? {
          before: {
            words: `Before ${formatDate(forward.before)}`,
            amounts: (column) => forward[(column as AmountColumn).of],
          },
        }
      : {}),
  });
  paper.y += 6;
}

/** What is due in words and digits, as the head and the slip say it. */
const dueWords = (amount: Cents): readonly [string, string] =>
  amount < 0
    ? ['Credit, nothing due', formatMoneyPlain(negate(amount))]
    : ['Amount due, US dollars', formatMoneyPlain(amount)];

/** How the amount of one account came about: its charges under their headings, and the sentence that sums it up. */
function drawAccount(paper: Paper, content: OneStatement, title: string): void {
  if (content.sections.some(({ lines }) => lines.length > 0) || content.forward) {
    heading(paper, title);
    content.sections.forEach((section, index) =>
      drawSection(paper, content, section, index === 0 ? content.forward : null),
    );
  }
  if (content.installments.length > 0) {
    heading(paper, 'Of your payment plan');
    table(
      paper,
      [
        {
          title: 'What for',
          share: 4,
          words: ({ plan, number, date }) =>
            `Installment ${number} of payment plan ${plan}, due on ${formatDate(date)}`,
        },
        { title: 'Due', share: 1, amount: ({ amount }) => amount },
      ],
      content.installments,
    );
  }
  paper.y += 4;
  paper.paragraph(content.closing, paper.left, paper.y, paper.width, { size: 10.5, strong: true });
}

/** The accounts of one envelope, each with its name and what is due of it. */
const accountsOf = (content: StatementContent): { account: string; name: string; one: OneStatement }[] => [
  { account: content.account, name: content.joined.length > 0 ? content.name : '', one: content },
  ...content.joined.map((one) => ({ account: one.account, name: one.name, one })),
];

/** What is due of each account in the envelope, and of all together. */
function drawAccounts(paper: Paper, content: StatementContent): void {
  heading(paper, 'The accounts in this statement');
  table(
    paper,
    [
      { title: 'Account', share: 1, words: ({ account }) => account },
      { title: 'Of', share: 3, words: ({ name }) => name },
      { title: 'Insurer has', share: 1.2, amount: ({ one }) => one.withPayers },
      { title: 'Past due', share: 1.2, amount: ({ one }) => one.pastDue },
      { title: 'Due now', share: 1.2, amount: ({ one }) => one.amount },
    ],
    accountsOf(content),
  );
  paper.y += 6;
}

/** Draws a statement on pages of its own. @param mark words at the head of a statement that is not sent */
export function drawStatement(paper: Paper, content: StatementContent, mark = ''): void {
  const { practice, to, remit } = content;
  const every = accountsOf(content);
  const together = every.length > 1;
  const amount = dueTogether(content);
  const pastDue = sum(every.map(({ one }) => one.pastDue));
  const account = together ? `${content.account} and ${every.length - 1} more` : content.account;
  letterhead(paper, practice);
  if (content.hours) paper.paragraph(content.hours, paper.left, paper.y, paper.width * 0.62, { size: 9 });
  if (mark) paper.line(mark, paper.right, paper.left, { size: 11, strong: true, color: 'brick' }, 'right');
  addressWindow(paper, [to.name, to.line1, to.line2, `${to.city}, ${to.state} ${to.zip}`]);
  factsBeside(paper, [
    ['Account', account],
    ['Date', formatDate(content.date)],
    ...(amount > 0 ? [['Due', formatDate(content.dueDate)] as const] : []),
    ...(pastDue > 0 ? [['Of it past due', formatMoneyPlain(pastDue)] as const] : []),
    dueWords(amount),
  ]);
  figuresBand(
    paper,
    AGING_BUCKETS.map(
      (bucket, index) => [`${bucket} days`, sum(every.map(({ one }) => one.aging[index]!))] as const,
    ),
  );
  box(paper, [...content.messages, ...every.flatMap(({ one }) => one.notes)]);
  if (together) drawAccounts(paper, content);
  for (const { account: number, name, one } of every)
    drawAccount(
      paper,
      one,
      together
        ? `${number} · ${name}: how ${formatMoneyPlain(one.amount)} came about`
        : 'How this amount came about',
    );
  const onPlan = sum(every.map(({ one }) => one.onPlan));
  const more = [
    ...(onPlan > 0 ? [`${formatMoneyPlain(onPlan)} is on a payment plan.`] : []),
    ...every.flatMap(({ one }) => one.plans),
    ...(content.tenders.length > 0 ? [`You can pay by ${content.tenders.join(', ')}.`] : []),
    `Ages are counted from the day ${content.agingFrom === 'service' ? 'of the service' : 'from which an amount was yours to pay'}.`,
  ];
  paper.paragraph(more.join(' '), paper.left, paper.y + 2, paper.width, { size: 9, color: 'quiet' });
  slip(paper, {
    words: together
      ? 'Please send this part with your payment. One payment can pay all accounts. Send it to'
      : 'Please send this part with your payment to',
    to: [remit.name, remit.line1, `${remit.city}, ${remit.state} ${remit.zip}`],
    facts: [
      ['Account', account],
      ...(amount > 0 ? [['Due', formatDate(content.dueDate)] as const] : []),
      dueWords(amount),
    ],
  });
}

/** The foot of a statement's pages. */
export const statementFoot =
  (content: StatementContent) =>
  (page: number, pages: number): string =>
    `Account ${content.account} · ${formatDate(content.date)} · page ${page} of ${pages}`;

/** Draws a statement. @param mark words at the head of one that is not sent @returns its PDF on the practice's paper */
export async function statementPdf(content: StatementContent, mark = ''): Promise<Printed> {
  const paper = await Paper.open(content.paper, `Statement ${content.account}`, content.practice.name);
  drawStatement(paper, content, mark);
  const pages = paper.foot(statementFoot(content));
  return { bytes: await paper.finish(), pages };
}
