/** Tables that a practice brings in as a file: whole or not at all. */
import { Refused } from './access';

/** Lines that may be taken. @throws Refused naming the first line that is wrong, or where there is none */
export function broughtLines<Line>({
  lines,
  wrong,
}: {
  lines: readonly Line[];
  wrong: readonly { line: number; words: string }[];
}): readonly Line[] {
  const [first] = wrong;
  if (first)
    throw new Refused(
      'invalid',
      `Line ${first.line}: ${first.words}${wrong.length > 1 ? `, and ${wrong.length - 1} more` : ''}. Nothing was brought in`,
      { field: 'text', facts: { line: first.line } },
    );
  if (lines.length === 0) throw new Refused('nothing', 'There is no line in it', 'text');
  return lines;
}
