import fc from 'fast-check';
import {
  type Lines,
  MOST_LINES,
  beginLines,
  copiedCells,
  filledLines,
  leftOut,
  pasteIn,
  redo,
  takeAway,
  typeIn,
  undo,
} from './lines';

const KEYS = ['code', 'from', 'fee'];
const typed = (lines: Lines, ...cells: [number, string, string][]): Lines =>
  cells.reduce((now, [place, key, text]) => typeIn(now, place, key, text), lines);

test('one empty line stands at the end, whatever is typed, pasted or taken away', () => {
  const one = typed(beginLines(), [0, 'code', 'D0120']);
  expect(one.now).toEqual([{ code: 'D0120' }, {}]);
  expect(takeAway(one, 0).now).toEqual([{}]);
  expect(filledLines(typed(one, [1, 'fee', ' ']))).toEqual([{ line: { code: 'D0120' }, place: 0 }]);
});

test.each([
  [
    'a\tb\r\nc\td\r\n',
    [
      ['a', 'b'],
      ['c', 'd'],
    ],
  ],
  ['a', [['a']]],
  ['', [['']]],
  ['a\t\tb', [['a', '', 'b']]],
  ['"two\nlines"\tx', [['two lines', 'x']]],
  ['"he said ""no"""\t1', [['he said "no"', '1']]],
  ['5" pipe\t2', [['5" pipe', '2']]],
  ['a\n\nb', [['a'], [''], ['b']]],
])('%j is copied cells', (text, cells) => expect(copiedCells(text)).toEqual(cells));

test('what is pasted goes to the right and downward, and no further than there are columns', () => {
  const begun = typed(beginLines(), [0, 'code', 'D0120'], [0, 'fee', '60.00']);
  const pasted = pasteIn(begun, 0, KEYS, 'from', [['2026-01-01', '65.00', 'beyond'], ['2026-02-01']]);
  expect(pasted.now).toEqual([
    { code: 'D0120', from: '2026-01-01', fee: '65.00' },
    { from: '2026-02-01' },
    {},
  ]);
  expect(leftOut(0, KEYS, 'from', [['a', 'b', 'beyond'], ['c']])).toEqual({ lines: 0, columns: 1 });
  expect(leftOut(0, KEYS, 'code', [['a', 'b', 'c']])).toEqual({ lines: 0, columns: 0 });
  expect(leftOut(MOST_LINES - 1, KEYS, 'code', [['a'], ['b'], ['c']])).toEqual({ lines: 2, columns: 0 });
  const many = Array.from({ length: MOST_LINES + 50 }, () => ['x']);
  expect(filledLines(pasteIn(beginLines(), 0, KEYS, 'code', many))).toHaveLength(MOST_LINES);
});

test('going on in one cell is one step to undo, another cell is another', () => {
  const lines = typed(beginLines(), [0, 'code', 'D'], [0, 'code', 'D0'], [0, 'fee', '6']);
  expect(undo(lines).now).toEqual([{ code: 'D0' }, {}]);
  expect(undo(undo(lines)).now).toEqual([{}]);
  expect(undo(undo(undo(lines))).now).toEqual([{}]);
  expect(redo(undo(lines)).now).toEqual(lines.now);
  // What is typed after an undo cannot be done again.
  expect(redo(typed(undo(lines), [1, 'code', 'x'])).now).toEqual([{ code: 'D0' }, { code: 'x' }, {}]);
});

test('property: every step is undone to just what stood before it, and done again', () => {
  const change = fc.oneof(
    fc.tuple(fc.nat(5), fc.constantFrom(...KEYS), fc.string({ maxLength: 3 })).map(
      ([place, key, text]) =>
        (lines: Lines) =>
          typeIn(lines, Math.min(place, lines.now.length - 1), key, text),
    ),
    fc.nat(5).map((place) => (lines: Lines) => takeAway(lines, place)),
    fc
      .array(fc.array(fc.string({ maxLength: 2 }), { minLength: 1, maxLength: 4 }), {
        minLength: 1,
        maxLength: 4,
      })
      .map((cells) => (lines: Lines) => pasteIn(lines, 0, KEYS, 'from', cells)),
  );
  fc.assert(
    fc.property(fc.array(change, { maxLength: 12 }), (changes) => {
      let lines = beginLines();
      const stood = [lines.now];
      for (const one of changes) {
        // Each for itself, as if another cell was typed in between.
        lines = { ...one(lines), at: '' };
        stood.push(lines.now);
      }
      for (const was of stood.slice(0, -1).reverse()) {
        lines = undo(lines);
        expect(lines.now).toEqual(was);
      }
      for (const was of stood.slice(1)) {
        lines = redo(lines);
        expect(lines.now).toEqual(was);
      }
    }),
  );
});
