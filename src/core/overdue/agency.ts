/**
 * What goes to and comes from a collection agency, in formats of our own: the hand-over (CSV, and JSON after the schema in
 * `docs/formats/`), notices after it, its answers and its monthly statement (CSV). Each CSV file ends with a line that counts,
 * so that a file which breaks off is seen.
 */
import Papa from 'papaparse';
import { type CalendarDate, parseDate } from '../calendar';
import { type BasisPoints, type Cents, minus, parseMoney, portion, sum, toDecimal } from '../money';

/** How an agency hands over what it collects: all of it, with its fee owed, or less its fee. */
export const PAYS = { gross: 'all of it; its fee is owed', net: 'less its fee' } as const;

/** What an agency may say of a placement. */
export const AGENCY_ANSWERS = {
  accepted: 'accepted',
  refused: 'refused',
  payment: 'payment',
  disputed: 'disputed',
  returned: 'returned as uncollectable',
  bankrupt: 'bankrupt',
} as const;
/** What an agency may say of a placement. */
export type AgencyResult = keyof typeof AGENCY_ANSWERS;

/** Where a placement is, in words. */
export const PLACEMENT_STATES = {
  proposed: 'proposed',
  placed: 'handed over',
  accepted: 'accepted',
  withdrawn: 'withdrawn',
  refused: 'refused by the agency',
  recalled: 'recalled',
  returned: 'returned',
  paid: 'paid',
} as const;
/** Where a placement is. */
export type PlacementStatus = keyof typeof PLACEMENT_STATES;
/** States in which the agency has it. */
export const WITH_AGENCY: readonly PlacementStatus[] = ['placed', 'accepted'];

/** The fee of an agency for an amount, rounded half away from zero; both in cents. */
export const feeOf = (gross: Cents, contingency: BasisPoints): Cents => portion(gross, contingency);

/** One answer about a placement. Amounts in cents; zero where nothing is said. */
export interface AgencyAnswer {
  placement: string;
  result: AgencyResult;
  date: CalendarDate;
  /** Its own number of the payment, which is never booked twice. */
  reference: string;
  gross: Cents;
  fee: Cents;
  net: Cents;
  words: string;
}

/** One line of an agency’s monthly statement. Amounts in cents. */
export interface AgencyStatementLine {
  placement: string;
  placed: Cents;
  collected: Cents;
  fee: Cents;
  paid: Cents;
  balance: Cents;
}

/** A file of an agency that cannot be read; the message names the line. */
export class BrokenAgencyFile extends Error {}

const ANSWERS_HEAD = ['placement', 'result', 'date', 'reference', 'gross', 'fee', 'net', 'words'];
const STATEMENT_HEAD = ['placement', 'placed', 'collected', 'fee', 'paid', 'balance'];

const begins = (head: string, columns: readonly string[]): boolean =>
  head.replace(/^\ufeff/, '').startsWith(columns.join(','));
/** Whether a file begins as answers do. */
export const isAgencyAnswers = (head: string): boolean => begins(head, ANSWERS_HEAD);
/** Whether a file begins as a monthly statement does. */
export const isAgencyStatement = (head: string): boolean => begins(head, STATEMENT_HEAD);

const csv = (head: readonly string[], rows: readonly (readonly string[])[], number = ''): string =>
  `${Papa.unparse([[...head], ...rows.map((row) => [...row]), ['end', String(rows.length), number]], { newline: '\n', escapeFormulae: /^[=@\t\r]/ })}\n`;

/** Reads the lines between the head and the last one, which counts them. @throws BrokenAgencyFile */
function linesOf(text: string, head: readonly string[]): string[][] {
  const { data, errors } = Papa.parse<string[]>(text.replace(/^\ufeff/, ''), {
    skipEmptyLines: true,
    delimiter: ',',
  });
  const [fault] = errors;
  if (fault) throw new BrokenAgencyFile(`Line ${(fault.row ?? 0) + 1}: ${fault.message}`);
  const [first, ...lines] = data;
  if (first?.join(',') !== head.join(','))
    throw new BrokenAgencyFile(`Line 1: the columns are ${head.join(', ')}`);
  const last = lines.pop();
  if (last?.[0] !== 'end') throw new BrokenAgencyFile('The last line, which counts the lines, is missing');
  if (last[1] !== String(lines.length))
    throw new BrokenAgencyFile(
      `The last line counts ${(last[1] ?? '').slice(0, 12) || 'nothing'}, there are ${lines.length}`,
    );
  for (const [index, line] of lines.entries())
    if (line.length !== head.length)
      throw new BrokenAgencyFile(`Line ${index + 2}: ${line.length} columns, not ${head.length}`);
  return lines;
}

function moneyAt(text: string, line: number, column: string): Cents {
  const amount = parseMoney(text.trim() === '' ? '0' : text);
  if (amount === null || amount < 0)
    throw new BrokenAgencyFile(`Line ${line}: “${text.slice(0, 20)}” is no ${column}`);
  return amount;
}

/** Writes answers. @param number what makes this file another than one before that says the same */
export const writeAgencyAnswers = (answers: readonly AgencyAnswer[], number = ''): string =>
  csv(
    ANSWERS_HEAD,
    answers.map((one) => [
      one.placement,
      one.result,
      one.date,
      one.reference,
      toDecimal(one.gross),
      toDecimal(one.fee),
      toDecimal(one.net),
      one.words,
    ]),
    number,
  );

/** Reads answers. @throws BrokenAgencyFile naming the line */
export function readAgencyAnswers(text: string): AgencyAnswer[] {
  return linesOf(text, ANSWERS_HEAD).map((line, index) => {
    const [placement, result, day, reference, gross, fee, net, words] = line as [
      string,
      string,
      string,
      string,
      string,
      string,
      string,
      string,
    ];
    const at = index + 2;
    if (!/^G-\d{1,12}$/.test(placement.trim()))
      throw new BrokenAgencyFile(`Line ${at}: “${placement.slice(0, 20)}” is no placement`);
    if (!Object.hasOwn(AGENCY_ANSWERS, result))
      throw new BrokenAgencyFile(`Line ${at}: the result “${result.slice(0, 30)}” is not known`);
    const date = parseDate(day.trim());
    if (!date) throw new BrokenAgencyFile(`Line ${at}: “${day.slice(0, 20)}” is not a date (YYYY-MM-DD)`);
    const answer: AgencyAnswer = {
      placement: placement.trim(),
      result: result as AgencyResult,
      date,
      reference: reference.trim().slice(0, 60),
      gross: moneyAt(gross, at, 'amount'),
      fee: moneyAt(fee, at, 'fee'),
      net: moneyAt(net, at, 'net amount'),
      words: words.slice(0, 300),
    };
    if (answer.result === 'payment' && (answer.gross === 0 || answer.reference === ''))
      throw new BrokenAgencyFile(`Line ${at}: a payment has its amount and its reference`);
    if (answer.result === 'payment' && minus(answer.gross, answer.fee) !== answer.net)
      throw new BrokenAgencyFile(
        `Line ${at}: ${toDecimal(answer.gross)} less a fee of ${toDecimal(answer.fee)} is not ${toDecimal(answer.net)}`,
      );
    return answer;
  });
}

/** Writes a monthly statement. */
export const writeAgencyStatement = (lines: readonly AgencyStatementLine[], number = ''): string =>
  csv(
    STATEMENT_HEAD,
    lines.map((one) => [
      one.placement,
      toDecimal(one.placed),
      toDecimal(one.collected),
      toDecimal(one.fee),
      toDecimal(one.paid),
      toDecimal(one.balance),
    ]),
    number,
  );

/** Reads a monthly statement. @throws BrokenAgencyFile naming the line */
export const readAgencyStatement = (text: string): AgencyStatementLine[] =>
  linesOf(text, STATEMENT_HEAD).map((line, index) => {
    const [placement, ...amounts] = line as [string, ...string[]];
    const [placed, collected, fee, paid, balance] = amounts.map((amount, at) =>
      moneyAt(amount, index + 2, STATEMENT_HEAD[at + 1]!),
    ) as [Cents, Cents, Cents, Cents, Cents];
    return { placement: placement.trim().slice(0, 20), placed, collected, fee, paid, balance };
  });

/** What our books say of a placement, as an agency’s statement would. */
export type OurPlacement = AgencyStatementLine;

/** Where an agency’s statement and our books differ, by line. */
export interface StatementDifference {
  placement: string;
  column: Exclude<keyof AgencyStatementLine, 'placement'> | 'placement';
  theirs: Cents | null;
  ours: Cents | null;
}

/** Compares an agency’s statement with our books: what only one of both has, unless nothing is open of it, and each amount that differs. */
export function compareStatement(
  theirs: readonly AgencyStatementLine[],
  ours: readonly OurPlacement[],
): StatementDifference[] {
  const known = new Map(ours.map((one) => [one.placement, one]));
  const said = new Map<string, AgencyStatementLine>();
  const found: StatementDifference[] = [];
  for (const line of theirs) {
    const before = said.get(line.placement);
    // A placement that stands there twice is its sums.
    const one = before
      ? {
          placement: line.placement,
          placed: sum([before.placed, line.placed]),
          collected: sum([before.collected, line.collected]),
          fee: sum([before.fee, line.fee]),
          paid: sum([before.paid, line.paid]),
          balance: sum([before.balance, line.balance]),
        }
      : line;
    said.set(line.placement, one);
  }
  for (const [placement, line] of said) {
    const own = known.get(placement);
    if (!own) {
      found.push({ placement, column: 'placement', theirs: line.placed, ours: null });
      continue;
    }
    for (const column of ['placed', 'collected', 'fee', 'paid', 'balance'] as const)
      if (line[column] !== own[column])
        found.push({ placement, column, theirs: line[column], ours: own[column] });
  }
  for (const own of ours)
    if (!said.has(own.placement) && own.balance > 0)
      found.push({ placement: own.placement, column: 'placement', theirs: null, ours: own.placed });
  return found;
}

/** What is handed over of an account. Amounts in cents; nothing of anybody’s health. */
export interface HandOver {
  format: 'wergeld-placement';
  version: 1;
  placement: string;
  client: string;
  date: CalendarDate;
  practice: { name: string; line1: string; city: string; state: string; zip: string; phone: string };
  account: string;
  debtor: {
    name: string;
    line1: string;
    line2: string;
    city: string;
    state: string;
    zip: string;
    phone: string;
    email: string;
  };
  amount: Cents;
  charges: { number: string; date: CalendarDate; amount: Cents; since: CalendarDate | null }[];
  lastPayment: { date: CalendarDate; amount: Cents } | null;
  letters: CalendarDate[];
}

const HAND_OVER_HEAD = [
  'placement',
  'client',
  'date',
  'account',
  'name',
  'street',
  'street2',
  'city',
  'state',
  'zip',
  'phone',
  'email',
  'charge',
  'service_date',
  'since',
  'amount',
];

/** The hand-over as CSV, a line for each charge. */
export const handOverCsv = (one: HandOver): string =>
  csv(
    HAND_OVER_HEAD,
    one.charges.map((charge) => [
      one.placement,
      one.client,
      one.date,
      one.account,
      one.debtor.name,
      one.debtor.line1,
      one.debtor.line2,
      one.debtor.city,
      one.debtor.state,
      one.debtor.zip,
      one.debtor.phone,
      one.debtor.email,
      charge.number,
      charge.date,
      charge.since ?? '',
      toDecimal(charge.amount),
    ]),
  );

/** The hand-over as JSON. */
export const handOverJson = (one: HandOver): string => `${JSON.stringify(one, null, 1)}\n`;

/** What an agency is told after the hand-over. */
export const NOTICES = {
  recall: 'recalled: stop all work on it',
  payment: 'paid to us directly',
  correction: 'less is owed than was handed over',
  hold: 'hold: do not collect so much of it until told',
  resume: 'go on: so much of it is owed again',
} as const;
/** What an agency is told after the hand-over. */
export type NoticeKind = keyof typeof NOTICES;

/** A notice to an agency; `amount` in cents. */
export interface AgencyNotice {
  id: number;
  placement: string;
  kind: NoticeKind;
  date: CalendarDate;
  amount: Cents;
  words: string;
}

const NOTICES_HEAD = ['notice', 'placement', 'kind', 'date', 'amount', 'words'];
/** Whether a file begins as notices do. */
export const isNotices = (head: string): boolean => begins(head, NOTICES_HEAD);

/** Writes notices. */
export const writeNotices = (notices: readonly AgencyNotice[]): string =>
  csv(
    NOTICES_HEAD,
    notices.map(({ id, placement, kind, date, amount, words }) => [
      `N${String(id).padStart(8, '0')}`,
      placement,
      kind,
      date,
      toDecimal(amount),
      words,
    ]),
  );

/** Reads notices as an agency does: the placement, what is said of it, and the amount. @throws BrokenAgencyFile */
export const readNotices = (text: string): { id: string; placement: string; kind: string; amount: Cents }[] =>
  linesOf(text, NOTICES_HEAD).map(([id = '', placement = '', kind = '', , amount = ''], index) => ({
    id,
    placement,
    kind,
    amount: moneyAt(amount, index + 2, 'amount'),
  }));
