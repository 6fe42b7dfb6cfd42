/**
 * A clearinghouse's list of the payers that it reaches, as CSV: a line for each, and a last line that counts them. For each kind of
 * transaction it says nothing, `yes`, or `agreement` where one has to be made first. The format is our own.
 */
import Papa from 'papaparse';
import { TRANSACTION_NAMES as KINDS, type Transaction } from './words';

const HEAD = ['payer_id', 'name', ...KINDS];

/** One payer of the list. */
export interface ListedPayer {
  /** The id under which the clearinghouse knows it. */
  code: string;
  name: string;
  takes: Transaction[];
  /** Of those that it takes, the ones that need an agreement. */
  needs: Transaction[];
}

/** A list that cannot be read; the message names the line. */
export class BrokenPayerList extends Error {}

/** Whether a file begins as such a list does. */
export const isPayerList = (head: string): boolean => head.replace(/^\ufeff/, '').startsWith(HEAD.join(','));

/** Writes a list. @param number what makes this file another than one before that says the same */
export const writePayerList = (payers: readonly ListedPayer[], number = ''): string =>
  `${Papa.unparse(
    [
      HEAD,
      ...payers.map(({ code, name, takes, needs }) => [
        code,
        name,
        ...KINDS.map((kind) => (needs.includes(kind) ? 'agreement' : takes.includes(kind) ? 'yes' : '')),
      ]),
      ['end', String(payers.length), number],
    ],
    { newline: '\n' },
  )}\n`;

/**
 * Reads a list.
 * @throws BrokenPayerList naming the line: an id that is none or stands twice, a word that is not known, a file without its last line
 */
export function readPayerList(text: string): ListedPayer[] {
  const { data, errors } = Papa.parse<string[]>(text.replace(/^\ufeff/, ''), {
    skipEmptyLines: true,
    delimiter: ',',
  });
  const [fault] = errors;
  if (fault) throw new BrokenPayerList(`Line ${(fault.row ?? 0) + 1}: ${fault.message}`);
  const lines = data.slice(1);
  const last = lines.at(-1);
  if (last?.[0] !== 'end') throw new BrokenPayerList('The last line, which counts the payers, is missing');
  const seen = new Set<string>();
  const payers = lines.slice(0, -1).map((line, index) => {
    const [code = '', name = '', ...words] = line.map((word) => word.trim());
    const at = `Line ${index + 2}`;
    if (!/^[A-Za-z0-9]{2,80}$/.test(code))
      throw new BrokenPayerList(`${at}: “${code.slice(0, 30)}” is no payer id`);
    if (seen.has(code)) throw new BrokenPayerList(`${at}: ${code} stands there twice`);
    seen.add(code);
    if (name === '') throw new BrokenPayerList(`${at}: ${code} has no name`);
    const said = KINDS.map((kind, place) => [kind, words[place] ?? ''] as const);
    const odd = said.find(([, word]) => !['', 'yes', 'agreement'].includes(word));
    if (odd)
      throw new BrokenPayerList(`${at}: ${odd[0]} says “${odd[1].slice(0, 30)}”, not yes or agreement`);
    return {
      code,
      name: name.slice(0, 100),
      takes: said.flatMap(([kind, word]) => (word === '' ? [] : [kind])),
      needs: said.flatMap(([kind, word]) => (word === 'agreement' ? [kind] : [])),
    };
  });
  if (Number(last[1]) !== payers.length)
    throw new BrokenPayerList(
      `It says ${last[1] ?? 'nothing'} payers, and has ${payers.length}: it broke off`,
    );
  return payers;
}
