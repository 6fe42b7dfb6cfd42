/** Tables of limits as a practice brings them in: CSV with a line for each, read whole or not at all. */
import Papa from 'papaparse';

/** Which table: units that a day allows, or services that are not billed together. */
export const LIMIT_TABLES = { units: 'Units of a day', pairs: 'Not billed together' } as const;
/** A table of limits. */
export type LimitTable = keyof typeof LIMIT_TABLES;

/** A line of either: of units `other` is empty and `units` counts; of pairs it is the other way round. */
export interface LimitLine {
  code: string;
  other: string;
  units: number;
  unlessModifier: boolean;
}

/** What was read, and what is wrong with which line, from 1. */
export interface ReadLimits {
  lines: LimitLine[];
  wrong: { line: number; words: string }[];
}

const CODE = /^[A-Z0-9]{5}$/;
const YES = /^(1|y|yes|true)$/i;
const NO = /^(0|n|no|false|)$/i;

/**
 * Reads a table. Its first line may name the columns: `code,units`, or `code,other,unless modifier`; further columns are passed over.
 * A pair or a code that is there twice is taken once, as its last line says.
 */
export function readLimits(table: LimitTable, text: string): ReadLimits {
  const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: 'greedy' });
  const found = new Map<string, LimitLine>();
  const wrong: ReadLimits['wrong'] = [];
  for (const [index, cells] of data.entries()) {
    const [code = '', second = '', third = ''] = cells.map((cell) => cell.trim().toUpperCase());
    if (index === 0 && code === 'CODE') continue;
    const say = (words: string): void => void wrong.push({ line: index + 1, words });
    if (!CODE.test(code)) say(`“${code}” is no code of five letters and digits`);
    else if (table === 'units') {
      const units = Number(second);
      if (!/^\d{1,3}$/.test(second) || units < 1) say(`“${second}” is no number of units from 1 to 999`);
      else found.set(code, { code, other: '', units, unlessModifier: false });
    } else if (!CODE.test(second)) say(`“${second}” is no code of five letters and digits`);
    else if (code === second) say(`${code} is not billed together with itself`);
    else if (!YES.test(third) && !NO.test(third)) say(`“${third}” is neither yes nor no`);
    else found.set(`${code}/${second}`, { code, other: second, units: 0, unlessModifier: YES.test(third) });
  }
  return { lines: [...found.values()], wrong };
}
