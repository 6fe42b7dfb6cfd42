/**
 * The shipped font as it is printed: its sets of letters (Latin, Greek, Cyrillic, Vietnamese), of which each document
 * embeds only the letters that it uses.
 */
import { join } from 'node:path';
import * as fontkit from 'fontkit';

/** Ordinary or strong. */
export type Weight = 400 | 600;

/** Sets of letters in the order in which they are tried. */
const SETS = ['latin', 'latin-ext', 'vietnamese', 'greek', 'greek-ext', 'cyrillic', 'cyrillic-ext'] as const;
const FOLDER = join(process.cwd(), 'node_modules/@fontsource/source-sans-3/files');

/** The name of a font within a document. */
export type FontName = `${(typeof SETS)[number]} ${Weight}`;

/** Where the file of a font lies. */
export const fontFile = (name: FontName): string =>
  join(FOLDER, `source-sans-3-${name.replace(' ', '-')}-normal.woff`);

const opened = new Map<FontName, fontkit.Font>();
function open(name: FontName): fontkit.Font {
  const font = opened.get(name) ?? (fontkit.openSync(fontFile(name)) as fontkit.Font);
  opened.set(name, font);
  return font;
}

/** What separates words or groups of digits, by its width in thousandths of the font's size; none of it is drawn. */
const GAPS: Readonly<Record<string, number>> = { ' ': 200, '\u00a0': 200, '\u2009': 120, '\u202f': 120 };

/** What stands for a letter that no set has. */
const UNKNOWN = '?';

/** A piece of text in one font; `font` is null for a gap. `width` in thousandths of the font's size. */
export interface Run {
  font: FontName | null;
  text: string;
  width: number;
}

/** The first set that has a letter; null when none has. */
function setOf(letter: string, weight: Weight): FontName | null {
  const code = letter.codePointAt(0)!;
  for (const set of SETS) if (open(`${set} ${weight}`).hasGlyphForCodePoint(code)) return `${set} ${weight}`;
  return null;
}

/** A letter that can be printed: itself, or without its marks, or a question mark; with the font that has it. */
function printable(letter: string, weight: Weight): { letter: string; font: FontName } {
  for (const one of [letter, [...letter.normalize('NFD')][0]!, UNKNOWN]) {
    const font = setOf(one, weight);
    if (font) return { letter: one, font };
  }
  return { letter: UNKNOWN, font: `latin ${weight}` };
}

/** Text as it can be drawn: runs in one font each, with gaps between them. Control and unseen characters are left out. */
export function runsOf(text: string, weight: Weight): Run[] {
  const runs: Run[] = [];
  const clean = text
    .normalize('NFC')
    .replace(/[\u0000-\u001f\u007f-\u009f\u00ad\u200b-\u200f\u2028-\u202e\ufeff]/g, '');
  for (const character of clean) {
    const gap = GAPS[character] ?? (/\s/u.test(character) ? 200 : undefined);
    if (gap !== undefined) {
      runs.push({ font: null, text: ' ', width: gap });
      continue;
    }
    const { letter, font } = printable(character, weight);
    const last = runs.at(-1);
    if (last?.font === font) last.text += letter;
    else runs.push({ font, text: letter, width: 0 });
  }
  for (const run of runs)
    if (run.font !== null) {
      const font = open(run.font);
      run.width = (font.layout(run.text).advanceWidth * 1000) / font.unitsPerEm;
    }
  return runs;
}

/** The width of text in points at a size in points. */
export const widthOf = (text: string, weight: Weight, size: number): number =>
  (runsOf(text, weight).reduce((all, run) => all + run.width, 0) * size) / 1000;
