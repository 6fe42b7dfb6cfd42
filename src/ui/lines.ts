/** The lines of a grid as they are typed: what is pasted, what is undone, which are empty. No React, so that it is tested alone. */

/** One line: what is typed in each column, by its key. */
export type Line = Readonly<Record<string, string>>;

/** The lines with those before and after them, for undo and redo. */
export interface Lines {
  readonly now: readonly Line[];
  readonly before: readonly (readonly Line[])[];
  readonly after: readonly (readonly Line[])[];
  /** The cell that was typed in last: going on in it is one step to undo. */
  readonly at: string;
}

/** So many steps can be undone. */
const STEPS = 200;

/** Lines to begin with, and one empty line after them. */
export const beginLines = (lines: readonly Line[] = []): Lines => ({
  now: ended(lines),
  before: [],
  after: [],
  at: '',
});

/** Whether nothing is typed in a line. */
export const isEmpty = (line: Line): boolean => Object.values(line).every((text) => text.trim() === '');

/** The lines in which something is typed, with their places from 0. */
export const filledLines = ({ now }: Lines): { line: Line; place: number }[] =>
  now.flatMap((line, place) => (isEmpty(line) ? [] : { line, place }));

/** One empty line stands at the end, to go on in. */
function ended(lines: readonly Line[]): readonly Line[] {
  const last = lines.at(-1);
  return last === undefined || !isEmpty(last) ? [...lines, {}] : lines;
}

const step = (lines: Lines, next: readonly Line[], at = ''): Lines => ({
  now: ended(next),
  // What is typed on in one cell is one step.
  before: at !== '' && at === lines.at ? lines.before : [...lines.before, lines.now].slice(-STEPS),
  after: [],
  at,
});

/** Types in a cell. */
export const typeIn = (lines: Lines, place: number, key: string, text: string): Lines =>
  step(
    lines,
    lines.now.map((line, index) => (index === place ? { ...line, [key]: text } : line)),
    `${place}/${key}`,
  );

/** Puts texts into cells, all of them as one step to undo. */
export function putAll(lines: Lines, edits: readonly { place: number; key: string; text: string }[]): Lines {
  if (edits.length === 0) return lines;
  const next = lines.now.map((line) => ({ ...line }));
  for (const { place, key, text } of edits) next[place] = { ...next[place], [key]: text };
  return step(lines, next);
}

/** Takes a line away. */
export const takeAway = (lines: Lines, place: number): Lines =>
  step(
    lines,
    lines.now.filter((_, index) => index !== place),
  );

/** What is copied from a spreadsheet, as rows of cells: lines with tabs between; cells with line breaks stand in quotes. */
export function copiedCells(text: string): string[][] {
  const rows: string[][] = [[]];
  let cell = '';
  let quoted = false;
  const whole = text.replace(/\r\n?/g, '\n').replace(/\n$/, '');
  for (let index = 0; index < whole.length; index += 1) {
    const letter = whole[index]!;
    if (quoted && letter === '"' && whole[index + 1] === '"') {
      cell += '"';
      index += 1;
    } else if (letter === '"' && (quoted || cell === '')) quoted = !quoted;
    else if (!quoted && (letter === '\t' || letter === '\n')) {
      rows.at(-1)!.push(cell.trim());
      cell = '';
      if (letter === '\n') rows.push([]);
    } else cell += letter === '\n' ? ' ' : letter;
  }
  rows.at(-1)!.push(cell.trim());
  return rows;
}

/** The most lines that a grid holds. */
export const MOST_LINES = 2000;

/** How much of what is copied has no room from a cell on: lines below the last, columns right of the last. */
export function leftOut(
  place: number,
  keys: readonly string[],
  key: string,
  cells: readonly (readonly string[])[],
): { lines: number; columns: number } {
  const widest = Math.max(...cells.map((row) => row.length));
  return {
    lines: Math.max(0, place + cells.length - MOST_LINES),
    columns: Math.max(0, keys.indexOf(key) + widest - keys.length),
  };
}

/** Puts copied cells in from a cell on, to the right and downward; what is wider or longer than there is room for is left out. */
export function pasteIn(
  lines: Lines,
  place: number,
  keys: readonly string[],
  key: string,
  cells: readonly (readonly string[])[],
): Lines {
  const first = keys.indexOf(key);
  const next = [...lines.now];
  cells.forEach((row, down) => {
    const at = place + down;
    if (at >= MOST_LINES) return;
    const line: Record<string, string> = { ...next[at] };
    row.forEach((text, right) => {
      const own = keys[first + right];
      if (own !== undefined) line[own] = text;
    });
    next[at] = line;
  });
  return step(lines, next);
}

/** One step back; the same where there is none. */
export function undo({ now, before, after }: Lines): Lines {
  const last = before.at(-1);
  if (!last) return { now, before, after, at: '' };
  return { now: last, before: before.slice(0, -1), after: [now, ...after], at: '' };
}

/** One step forward again; the same where there is none. */
export function redo({ now, before, after }: Lines): Lines {
  const [next, ...rest] = after;
  if (!next) return { now, before, after, at: '' };
  return { now: next, before: [...before, now], after: rest, at: '' };
}
