/**
 * Answers of print shops and message gateways, as CSV: a line for each piece and a last line that counts them, so that a file
 * that breaks off is seen; after the count the last line has a number of the file, since the same file is taken once.
 * The format is our own.
 */
import Papa from 'papaparse';
import { type Outside, type PieceOutcome, namedOutside, pieceName, receiptName } from './pieces';

const HEAD = 'piece,result,words';

/** What may be said of a piece, by who says it. */
const RESULTS = {
  'print-shop': ['accepted', 'address-corrected', 'undeliverable'],
  'message-gateway': ['accepted', 'bounced'],
} as const satisfies Record<string, readonly PieceOutcome[]>;
/** Who answers. */
export type Answerer = keyof typeof RESULTS;

/** What was said of one piece, or of one message with a receipt. */
export interface PieceAnswer {
  what: Outside;
  id: number;
  result: PieceOutcome;
  words: string;
}

/** A file of answers that cannot be read; the message names the line. */
export class BrokenAnswers extends Error {}

/** Whether a file begins as answers do. */
export const isAnswers = (head: string): boolean => head.replace(/^\ufeff/, '').startsWith(HEAD);

/** Writes answers. @param number what makes this file another than one before that says the same */
export const writeAnswers = (answers: readonly PieceAnswer[], number = ''): string =>
  `${[
    HEAD,
    ...answers.map(({ what, id, result, words }) =>
      Papa.unparse([[what === 'piece' ? pieceName(id) : receiptName(id), result, words]]),
    ),
    `end,${answers.length},${number}`,
  ].join('\n')}\n`;

/**
 * Reads answers, whoever gave them.
 * @throws BrokenAnswers naming the line: an unknown result, a line that is no piece, or a file without its last line
 */
export function readAnswers(text: string): PieceAnswer[] {
  const { data, errors } = Papa.parse<string[]>(text.replace(/^\ufeff/, ''), {
    skipEmptyLines: true,
    delimiter: ',',
  });
  const [fault] = errors;
  if (fault) throw new BrokenAnswers(`Line ${(fault.row ?? 0) + 1}: ${fault.message}`);
  const lines = data.slice(1);
  const last = lines.at(-1);
  if (last?.[0] !== 'end') throw new BrokenAnswers('The last line, which counts the pieces, is missing');
  const answers = lines.slice(0, -1).map((line, index) => {
    const [name = '', result = '', words = ''] = line;
    const named = namedOutside(name);
    if (named === null) throw new BrokenAnswers(`Line ${index + 2}: “${name.slice(0, 30)}” is no piece`);
    if (![...RESULTS['print-shop'], ...RESULTS['message-gateway']].some((known) => known === result))
      throw new BrokenAnswers(`Line ${index + 2}: the result “${result.slice(0, 30)}” is not known`);
    return { ...named, result: result as PieceOutcome, words: words.slice(0, 200) };
  });
  if (last[1] !== String(answers.length))
    throw new BrokenAnswers(
      `The last line counts ${(last[1] ?? '').slice(0, 12) || 'nothing'}, there are ${answers.length} pieces`,
    );
  return answers;
}

/** Whether somebody may say so of a piece. */
export const maySay = (answerer: Answerer, result: PieceOutcome): boolean =>
  (RESULTS[answerer] as readonly PieceOutcome[]).includes(result);
