import { BrokenAnswers, isAnswers, maySay, readAnswers, writeAnswers } from './answers';
import { namedOutside, pieceName, receiptName } from './pieces';

describe('answers about mail', () => {
  const answers = [
    { what: 'piece', id: 12, result: 'accepted', words: '' },
    { what: 'piece', id: 13, result: 'undeliverable', words: 'moved, left no “address”' },
    { what: 'receipt', id: 12, result: 'bounced', words: 'no such\nmailbox' },
  ] as const;

  test('are read as they were written', () => {
    const text = writeAnswers(answers);
    expect(isAnswers(text)).toBe(true);
    expect(isAnswers(`\ufeff${text}`)).toBe(true);
    expect(isAnswers('ISA*00*')).toBe(false);
    expect(readAnswers(text)).toEqual(answers);
    expect(readAnswers(writeAnswers([]))).toEqual([]);
  });

  test.each([
    ['piece,result,words\nP00000012,accepted,\n', /last line/],
    ['piece,result,words\nP00000012,accepted,\nend,2,\n', /counts 2, there are 1/],
    ['piece,result,words\nP00000012,lost,\nend,1,\n', /Line 2: the result “lost”/],
    ['piece,result,words\n12,accepted,\nend,1,\n', /Line 2: “12” is no piece/],
    ['piece,result,words\nP00000012,accepted,"open\nend,1,\n', /Line 2/],
    ['', /last line/],
  ])('%j is refused with its line', (text, words) => {
    expect(() => readAnswers(text)).toThrow(BrokenAnswers);
    expect(() => readAnswers(text)).toThrow(words);
  });

  test('every cut of a file is seen', () => {
    const text = writeAnswers(answers);
    for (let at = 0; at < text.trimEnd().length - 1; at += 1)
      expect(() => readAnswers(text.slice(0, at))).toThrow(BrokenAnswers);
  });

  test('a print shop does not say that an e-mail came back', () => {
    expect(maySay('print-shop', 'bounced')).toBe(false);
    expect(maySay('message-gateway', 'undeliverable')).toBe(false);
    expect(maySay('message-gateway', 'bounced')).toBe(true);
  });

  test('a piece, and a message with a receipt, has one name outside', () => {
    for (const id of [1, 99_999_999, 123_456_789_012]) {
      expect(namedOutside(pieceName(id))).toEqual({ what: 'piece', id });
      expect(namedOutside(receiptName(id))).toEqual({ what: 'receipt', id });
    }
    for (const name of ['P1', 'p00000012', 'P0000001x', 'Q00000001', ''])
      expect(namedOutside(name)).toBeNull();
  });
});
