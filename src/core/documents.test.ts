import { z } from 'zod';
import { DocumentFault, documentKind } from './documents';

const note = documentKind('note', 2, z.object({ words: z.string(), by: z.string() }), {
  1: (value) => ({ words: String(value), by: 'somebody' }),
});

describe('documents kept in the database', () => {
  test('what is written is read back', () => {
    const value = { words: 'x', by: 'me' };
    expect(note.read(JSON.parse(note.write(value)))).toEqual(value);
  });

  test('an older version is brought up to date, an unknown one is refused', () => {
    expect(note.read({ version: 1, value: 'old' })).toEqual({ words: 'old', by: 'somebody' });
    expect(() => note.read({ version: 3, value: {} })).toThrow(DocumentFault);
    expect(() => note.read({ version: 0, value: 'x' })).toThrow(DocumentFault);
  });

  test('what is not such a document says where it is broken', () => {
    expect(() => note.read({ version: 2, value: { words: 1, by: 'me' } })).toThrow(/note is broken at words/);
    expect(() => note.read('text')).toThrow(/without its version/);
    expect(() => note.read(null)).toThrow(DocumentFault);
  });
});
