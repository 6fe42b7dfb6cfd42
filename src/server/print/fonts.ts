/**
 * The shipped font as it is printed: its sets of letters (Latin, Greek, Cyrillic, Vietnamese), of which each document
 * embeds only the letters that it uses.
 */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { inflateSync } from 'node:zlib';
import type * as Fontkit from 'fontkit';

/** Ordinary or strong. */
export type Weight = 400 | 600;

/** Sets of letters in the order in which they are tried. */
const SETS = ['latin', 'latin-ext', 'vietnamese', 'greek', 'greek-ext', 'cyrillic', 'cyrillic-ext'] as const;
const FOLDER = join(process.cwd(), 'node_modules/@fontsource/source-sans-3/files');

/** The name of a font within a document. */
export type FontName = `${(typeof SETS)[number]} ${Weight}`;

/** The tables of a font file as it is shipped (WOFF 1.0, W3C recommendation of 2012), each packed by itself. */
interface PackedTable {
  tag: Buffer;
  checksum: number;
  length: number;
  bytes: Buffer;
}

function tablesOf(woff: Buffer): PackedTable[] {
  return Array.from({ length: woff.readUInt16BE(12) }, (_, index) => {
    const at = 44 + index * 20;
    const offset = woff.readUInt32BE(at + 4);
    const packed = woff.readUInt32BE(at + 8);
    const length = woff.readUInt32BE(at + 12);
    const bytes = woff.subarray(offset, offset + packed);
    return {
      tag: woff.subarray(at, at + 4),
      checksum: woff.readUInt32BE(at + 16),
      length,
      bytes: packed < length ? inflateSync(bytes) : bytes,
    };
  });
}

/** Unpacks a shipped font once, so that no document has to: its tables one after the other under a directory (SFNT). */
function unpack(woff: Buffer): Buffer {
  const tables = tablesOf(woff);
  const directory = Buffer.alloc(12 + tables.length * 16);
  woff.copy(directory, 0, 4, 8);
  directory.writeUInt16BE(tables.length, 4);
  const power = 2 ** Math.floor(Math.log2(tables.length));
  directory.writeUInt16BE(power * 16, 6);
  directory.writeUInt16BE(Math.log2(power), 8);
  directory.writeUInt16BE((tables.length - power) * 16, 10);
  let offset = directory.length;
  const bodies = tables.map(({ tag, checksum, length, bytes }, index) => {
    const at = 12 + index * 16;
    tag.copy(directory, at);
    directory.writeUInt32BE(checksum, at + 4);
    directory.writeUInt32BE(offset, at + 8);
    directory.writeUInt32BE(length, at + 12);
    const body = Buffer.concat([bytes, Buffer.alloc((4 - (length % 4)) % 4)]);
    offset += body.length;
    return body;
  });
  return Buffer.concat([directory, ...bodies]);
}

let kit: typeof Fontkit | undefined;
/** Loads what reads fonts; before that no width is known. */
export async function loadFonts(): Promise<void> {
  kit ??= await import('fontkit');
}

const opened = new Map<FontName, Fontkit.Font>();
/** A font, of which documents embed parts: read once, for that takes longer than a page. @throws Error before fonts are loaded */
export function fontOf(name: FontName): Fontkit.Font {
  if (!kit) throw new Error('Fonts are loaded first');
  const font =
    opened.get(name) ??
    (kit.create(
      unpack(readFileSync(join(FOLDER, `source-sans-3-${name.replace(' ', '-')}-normal.woff`))),
    ) as Fontkit.Font);
  opened.set(name, font);
  return font;
}

/** Width of a space in thousandths of the font's size, as all sets of the font have it. */
export const SPACE = 200;
/** What separates words or groups of digits and is narrower, by its width. */
const GAPS: Readonly<Record<string, number>> = { '\u2009': 120, '\u202f': 120 };

/** What stands for a letter that no set has. */
const UNKNOWN = '?';

/** A piece of text in one font; `font` is null for a gap. `width` in thousandths of the font's size. */
export interface Run {
  font: FontName | null;
  text: string;
  width: number;
}

const sets = new Map<string, FontName | null>();

/** The first set that has a letter; null when none has. */
function setOf(letter: string, weight: Weight): FontName | null {
  const key = `${letter}${weight}`;
  const known = sets.get(key);
  if (known !== undefined) return known;
  const code = letter.codePointAt(0)!;
  const set = SETS.find((one) => fontOf(`${one} ${weight}`).hasGlyphForCodePoint(code));
  const found: FontName | null = set ? `${set} ${weight}` : null;
  sets.set(key, found);
  return found;
}

/** A letter that can be printed: itself, or without its marks, or a question mark; with the font that has it. */
function printable(letter: string, weight: Weight): { letter: string; font: FontName } {
  for (const one of [letter, [...letter.normalize('NFD')][0]!, UNKNOWN]) {
    const font = setOf(one, weight);
    if (font) return { letter: one, font };
  }
  return { letter: UNKNOWN, font: `latin ${weight}` };
}

/** Words come again and again: their runs are kept, up to so many. */
const MOST_WORDS = 20_000;
const words = new Map<string, readonly Run[]>();

/** The runs of a word, without any gap. */
function runsOfWord(word: string, weight: Weight): readonly Run[] {
  const key = `${weight}${word}`;
  const known = words.get(key);
  if (known) return known;
  const runs: Run[] = [];
  for (const character of word) {
    const { letter, font } = printable(character, weight);
    const last = runs.at(-1);
    if (last?.font === font) last.text += letter;
    else runs.push({ font, text: letter, width: 0 });
  }
  for (const run of runs) {
    const font = fontOf(run.font!);
    run.width = (font.layout(run.text).advanceWidth * 1000) / font.unitsPerEm;
  }
  if (words.size >= MOST_WORDS) words.clear();
  words.set(key, runs);
  return runs;
}

/** Text as it can be drawn: runs in one font each, with gaps between them. Control and unseen characters are left out. */
export function runsOf(text: string, weight: Weight): readonly Run[] {
  if (text.length > SHORT) return readRuns(text, weight);
  const key = `${weight}${text}`;
  const known = texts.get(key);
  if (known) return known;
  const runs = readRuns(text, weight);
  if (texts.size >= MOST_WORDS) texts.clear();
  texts.set(key, runs);
  return runs;
}

/** Texts of up to so many letters come again, such as words and amounts: their runs are kept. */
const SHORT = 24;
const texts = new Map<string, readonly Run[]>();

function readRuns(text: string, weight: Weight): Run[] {
  const clean = text
    .normalize('NFC')
    .replace(/[\u0000-\u0008\u000e-\u001f\u007f-\u009f\u00ad\u200b-\u200f\u202a-\u202e\ufeff]/g, '');
  return clean
    .split(/(\s)/u)
    .flatMap((piece) =>
      piece === ''
        ? []
        : /^\s$/u.test(piece)
          ? [{ font: null, text: ' ', width: GAPS[piece] ?? SPACE }]
          : runsOfWord(piece, weight),
    );
}

/** The width of text in points at a size in points. */
export const widthOf = (text: string, weight: Weight, size: number): number =>
  (runsOf(text, weight).reduce((all, run) => all + run.width, 0) * size) / 1000;
