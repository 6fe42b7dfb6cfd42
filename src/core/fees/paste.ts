/** Fees that are copied from a spreadsheet: a code and its fee on each line, and what it is in a facility where that differs. */
import { type Cents, formatMoneyPlain, parseMoney } from '../money';
import { HIGHEST_FEE } from './raise';

/** A fee as it was read of a line. */
export interface PastedFee {
  code: string;
  /** As typed, in decimals. */
  amount: string;
  facility: string;
}

/** What became of lines that were pasted: what is taken, and what is wrong with which line, from 1. */
export interface PastedFees {
  taken: PastedFee[];
  wrong: { line: number; words: string }[];
}

/** Letters of a head line: a line without any amount at the top is none of fees. */
const isHead = (cells: readonly string[]): boolean => cells.slice(1).every((cell) => amountIn(cell) === null);

/** An amount as spreadsheets write it: with a currency sign and separators. */
function amountIn(cell: string): Cents | null {
  const plain = cell.replace(/^\$\s*/, '').trim();
  return plain === '' ? null : parseMoney(plain);
}

/** What is wrong with the amount of a cell; nothing where it is one. */
function faultOf(cell: string): string | null {
  const amount = amountIn(cell);
  if (cell.trim() === '') return 'there is no fee';
  if (amount === null) return `“${cell.slice(0, 20)}” is not an amount`;
  if (amount < 0) return 'a fee is not below zero';
  return amount > HIGHEST_FEE ? `${formatMoneyPlain(amount)} is more than a fee may be` : null;
}

/**
 * Reads fees of cells. The fee is the last cell but one that is an amount, and the last what it is in a facility, where two are: a
 * description between code and fee is passed over.
 * @param known the codes that are in the list of services
 */
export function pastedFees(cells: readonly (readonly string[])[], known: ReadonlySet<string>): PastedFees {
  const found: PastedFees = { taken: [], wrong: [] };
  const seen = new Map<string, string>();
  cells.forEach((row, index) => {
    const line = index + 1;
    const [first = '', ...rest] = row.map((cell) => cell.trim());
    if (first === '' && rest.every((cell) => cell === '')) return;
    const code = first.toUpperCase();
    if (!known.has(code)) {
      if (line === 1 && isHead(row)) return;
      found.wrong.push({
        line,
        words: first === '' ? 'there is no code' : `${code} is not in the list of services`,
      });
      return;
    }
    const amounts = rest.filter((cell) => amountIn(cell) !== null);
    const [amount = rest.findLast((cell) => cell !== '') ?? '', facility = ''] = amounts.slice(-2);
    const fault = faultOf(amount) ?? (facility === '' ? null : faultOf(facility));
    const before = seen.get(code);
    if (fault !== null) found.wrong.push({ line, words: `${code}: ${fault}` });
    else if (before !== undefined && before !== amount)
      found.wrong.push({ line, words: `${code} stands here twice, with ${before} and ${amount}` });
    else if (before === undefined) {
      seen.set(code, amount);
      const plain = (cell: string): string => (cell === '' ? '' : cell.replace(/^\$\s*/, ''));
      found.taken.push({ code, amount: plain(amount), facility: plain(facility) });
    }
  });
  return found;
}
