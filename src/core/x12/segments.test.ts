import fc from 'fast-check';
import {
  ACKNOWLEDGMENT_OF_THREE_SETS,
  ADVICE_OF_A_PRACTICE,
  CLAIM_OF_A_DEPENDENT,
  PUBLISHED_ADVICES,
} from '../../testing/published-examples';
import { anyClaimAcknowledgments, anyRemitClaim } from '../../testing/arbitraries';
import { SEPARATORS, cut, inSeparators, remittance, transmission } from '../../testing/x12';
import { calendarDate } from '../calendar';
import { cents } from '../money';
import { read277CA, read999, readTa1, write277CA, writeTa1 } from './acknowledgments';
import { read837 } from './claim837';
import { X12Writer, readSets } from './interchange';
import { readRemittances, write835 } from './remittance835';
import { SAMPLE_INTERCHANGE } from './samples';
import { SegmentReader, X12Error, readSegments } from './segments';
import { runs } from '../../testing/runs';

describe('segments and envelopes', () => {
  test('any delimiters, line breaks or none, pieces of any size: the same segments', async () => {
    const text = transmission('professional');
    const plain = [...new SegmentReader().push(text)].map((segment) => segment.elements);
    for (const [element, component, end] of [
      ['|', '>', '\n'],
      ['\x1d', '\x1f', '\x1c'],
      ['+', ';', "'"],
    ] as const) {
      const other = [...text]
        .map((c) => (c === '*' ? element : c === ':' ? component : c === '~' ? end : c))
        .join('');
      const broken = end === '\n' ? other : other.replaceAll(end, `${end}\r\n`);
      for (const size of [1, 7, 4096]) {
        const found: string[][] = [];
        for await (const batch of readSegments(cut(broken, size)))
          found.push(...batch.map((segment) => segment.elements));
        expect(found.slice(1).map((e) => e.map((part) => part.replaceAll(component, ':')))).toEqual(
          plain.slice(1),
        );
      }
    }
  });

  test('property: files that follow each other, each with separators of its own, say what each says alone', async () => {
    const written = fc.oneof(
      fc.array(anyRemitClaim, { maxLength: 3 }).map((claims) =>
        write835(
          SAMPLE_INTERCHANGE,
          [
            {
              ...remittance(claims, 100),
              providerAdjustments: [{ code: 'L6', reference: 'INT1', amount: cents(-137) }],
            },
          ],
          '20260316',
        ),
      ),
      anyClaimAcknowledgments.map((answer) =>
        write277CA(SAMPLE_INTERCHANGE, {
          ...answer,
          receiver: { name: 'O', id: 'O' },
          sourceId: 'T',
          provider: { name: 'O', npi: '1234567893' },
          patients: new Map(),
        }),
      ),
    );
    const file = fc
      .tuple(written, fc.constantFrom(...SEPARATORS))
      .map(([text, marks]) => inSeparators(text, marks));
    const read = async (pieces: string[]) => ({
      remittances: await readRemittances(pieces),
      answers: (await readSets(pieces, (id) => id === '277')).sets.map(read277CA),
    });
    await fc.assert(
      fc.asyncProperty(
        fc.array(file, { minLength: 2, maxLength: 4 }),
        fc.integer({ min: 1, max: 5000 }),
        async (files, size) => {
          const alone = await Promise.all(files.map((text) => read([text])));
          expect(await read(cut(files.join(''), size))).toEqual({
            remittances: alone.flatMap(({ remittances }) => remittances),
            answers: alone.flatMap(({ answers }) => answers),
          });
        },
      ),
      { numRuns: runs(150) },
    );
  });

  test('several interchanges, groups and sets in one file', async () => {
    const x = new X12Writer({ ...SAMPLE_INTERCHANGE, controlNumber: '000000009' });
    for (const group of ['1', '2']) {
      x.beginGroup('FA', '005010X231A1', group, '20260316');
      for (const set of ['0001', '0002'])
        x.beginSet('999', set).segment('AK1', 'HC', group).segment('AK9', 'A', '1', '1', '1').endSet();
      x.endGroup();
    }
    const { sets, interchanges } = await readSets([x.finish(), '\n\n', ADVICE_OF_A_PRACTICE]);
    expect(interchanges.map((item) => item.controlNumber)).toEqual(['000000009', '191511902']);
    expect(sets.map((set) => `${set.setId} ${set.group.controlNumber} ${set.controlNumber}`)).toEqual([
      '999 1 0001',
      '999 1 0002',
      '999 2 0001',
      '999 2 0002',
      '835 12345678 112233',
    ]);
  });

  test.each([
    [
      'a wrong count in SE',
      (t: string) => t.replace('SE*27*', 'SE*24*'),
      /\(SE01\): expected 27 segments, the count says 24/,
    ],
    [
      'a wrong control number in SE',
      (t: string) => t.replace('SE*27*112233', 'SE*27*112234'),
      /\(SE02\): expected control number 112233/,
    ],
    ['a wrong count in GE', (t: string) => t.replace('GE*1*', 'GE*2*'), /\(GE01\): expected 1 sets/],
    ['a wrong count in IEA', (t: string) => t.replace('IEA*1*', 'IEA*3*'), /\(IEA01\): expected 1 groups/],
    [
      'a wrong control number in IEA',
      (t: string) => t.replace('IEA*1*191511902', 'IEA*1*191511903'),
      /\(IEA02\)/,
    ],
    [
      'a truncated file',
      (t: string) => t.slice(0, 700),
      /breaks off here, in the middle of a segment: expected IEA/,
    ],
    ['a file without IEA', (t: string) => t.slice(0, t.indexOf('IEA')), /breaks off here: expected IEA/],
    ['an empty file', () => '', /the file is empty/],
    ['a terminator within ISA', (t: string) => t.replace('SENDER  ', 'SENDER ~'), /stands within ISA/],
    [
      'an interchange within another',
      (t: string) => t.replace('LX*1~', `LX*1~${t.slice(0, 106)}`),
      /expected IEA/,
    ],
    ['a NUL character', (t: string) => t.replace('BUDD', 'BU\u0000D'), /NUL character/],
    ['a PDF', () => `%PDF-1.7\n${'x'.repeat(300)}`, /expected ISA, this is not an X12 interchange/],
    ['a short text', () => 'hello', /not an X12 file/],
    [
      'letters where money is expected',
      (t: string) => t.replace('CLP*5554555444*1*800', 'CLP*5554555444*1*8OO'),
      /segment 14 \(CLP03\): expected an amount of money.*8OO/,
    ],
    ['three decimals', (t: string) => t.replace('*495*600', '*495.001*600'), /\(CLP04\): expected an amount/],
    [
      'an absurd amount',
      (t: string) => t.replace('BPR*I*945', 'BPR*I*94500000000000000000'),
      /\(BPR02\): expected an amount/,
    ],
    [
      'an unknown group code',
      (t: string) => t.replace('CAS*CO*A2*50', 'CAS*XX*A2*50'),
      /\(CAS01\): expected a group code/,
    ],
    ['no payer', (t: string) => t.replace('N1*PR*RUSHMORE LIFE~', 'N1*QQ*RUSHMORE LIFE~'), /expected N1\*PR/],
    ['a letter as delimiter', (t: string) => t.replaceAll('*', 'Q'), /ISA must have 16 elements/],
    [
      'a date that does not exist',
      (t: string) => t.replace('*144444*20190316', '*144444*20190231'),
      /\(BPR16\): expected a date/,
    ],
  ])('%s is named with its place', async (_name, spoil, message) => {
    await expect(readRemittances([spoil(ADVICE_OF_A_PRACTICE)])).rejects.toThrow(message);
  });

  const acknowledged = write277CA(SAMPLE_INTERCHANGE, {
    batch: '3',
    date: calendarDate('2026-03-16'),
    source: 'Tideline',
    whole: [],
    claims: [
      {
        controlNumber: 'OL1',
        action: 'U',
        statuses: [{ category: 'A7', status: '164', entity: 'IL', text: '' }],
        amount: cents(14500),
        payerClaimNumber: 'P1',
      },
    ],
    receiver: { name: 'O', id: 'O' },
    sourceId: 'T',
    provider: { name: 'O', npi: '1234567893' },
    patients: new Map(),
  });

  /** Reads whatever a file holds with the reader that its sets ask for. */
  async function readAll(pieces: string[]): Promise<void> {
    const { sets, ta1 } = await readSets(pieces);
    ta1.forEach(readTa1);
    for (const set of sets) {
      if (set.setId === '837') read837(set);
      if (set.setId === '999') read999(set);
      if (set.setId === '277') read277CA(set);
    }
    await readRemittances(pieces);
  }

  test.each([
    ['835', ADVICE_OF_A_PRACTICE],
    ['835 of a hospital', PUBLISHED_ADVICES[0]!],
    ['837P', CLAIM_OF_A_DEPENDENT],
    ['837D', transmission('dental')],
    ['999', ACKNOWLEDGMENT_OF_THREE_SETS],
    ['TA1', writeTa1(SAMPLE_INTERCHANGE, SAMPLE_INTERCHANGE, 'R', '022')],
    ['277CA', acknowledged],
  ])('a mutated %s ends with a result or an X12 error, never otherwise', async (_name, original) => {
    await readAll([original]);
    // Whole segments go missing, stand twice or change places; characters are cut out and put in.
    const mutation = fc.oneof(
      fc.record({
        kind: fc.constant('text'),
        at: fc.nat(original.length),
        drop: fc.nat(30),
        put: fc.string({ maxLength: 6 }),
      }),
      fc.record({
        kind: fc.constant('segment'),
        at: fc.nat(60),
        drop: fc.nat(2),
        put: fc.nat(60).map(String),
      }),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(mutation, { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 1, max: 500 }),
        async (mutations, size) => {
          let text = original;
          for (const m of mutations) {
            if (m.kind === 'text') text = text.slice(0, m.at) + m.put + text.slice(m.at + m.drop);
            else {
              const segments = text.split('~');
              segments.splice(m.at, m.drop, segments[Number(m.put)] ?? '');
              text = segments.join('~');
            }
          }
          try {
            await readAll(cut(text, size));
          } catch (error) {
            expect(error).toBeInstanceOf(X12Error);
          }
        },
      ),
      { numRuns: runs(600) },
    );
  });
});
