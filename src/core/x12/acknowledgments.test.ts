import fc from 'fast-check';
import { anyAcknowledgedSets, anyClaimAcknowledgments } from '../../testing/arbitraries';
import { ACKNOWLEDGMENT_OF_THREE_SETS } from '../../testing/published-examples';
import { cut, foreign } from '../../testing/x12';
import { read277CA, read999, readTa1, write277CA, write999, writeTa1 } from './acknowledgments';
import { readSets } from './envelope';
import { SAMPLE_INTERCHANGE } from './samples';
import { SegmentReader } from './segments';

const sizes = fc.integer({ min: 1, max: 300 });
const setsOf = async (text: string, size: number) => (await readSets(cut(text, size))).sets;

describe('acknowledgments', () => {
  test('a TA1 is read back as it was written', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.stringMatching(/^\d{9}$/),
        fc.constantFrom('A', 'E', 'R'),
        fc.stringMatching(/^0\d\d$/),
        sizes,
        async (controlNumber, code, note, size) => {
          const text = writeTa1(SAMPLE_INTERCHANGE, { ...SAMPLE_INTERCHANGE, controlNumber }, code, note);
          const { ta1 } = await readSets(cut(text, size));
          expect(ta1.map(readTa1)).toEqual([{ controlNumber, code, note }]);
        },
      ),
    );
  });

  test('a 999 is read back as it was written, and sums up its sets', async () => {
    const group = {
      functionalId: 'HC',
      sender: 'A',
      receiver: 'B',
      controlNumber: '3',
      version: '005010X222A1',
    };
    await fc.assert(
      fc.asyncProperty(anyAcknowledgedSets, sizes, async (sets, size) => {
        const text = write999(SAMPLE_INTERCHANGE, group, sets, '20260316');
        const refused = sets.filter((set) => set.code === 'R').length;
        expect((await setsOf(text, size)).map(read999)).toEqual([
          {
            functionalId: 'HC',
            controlNumber: '3',
            version: '005010X222A1',
            code: refused === 0 ? 'A' : refused === sets.length ? 'R' : 'P',
            sets,
          },
        ]);
      }),
    );
  });

  test('a 277CA is read back as it was written', async () => {
    await fc.assert(
      fc.asyncProperty(anyClaimAcknowledgments, sizes, async (answer, size) => {
        const text = write277CA(SAMPLE_INTERCHANGE, {
          ...answer,
          receiver: { name: 'O', id: 'O' },
          sourceId: 'T',
          provider: { name: 'O', npi: '1234567893' },
          patients: new Map(),
        });
        expect((await setsOf(text, size)).map(read277CA)).toEqual([answer]);
        expect((await foreign(text)).map((segment) => segment.name)).toEqual(
          new SegmentReader().push(text).map((segment) => segment.id),
        );
      }),
    );
  });

  test('the guide’s first 999 example is read: one set taken, two refused', async () => {
    const [set] = await setsOf(ACKNOWLEDGMENT_OF_THREE_SETS, 40);
    expect(read999(set!)).toEqual({
      functionalId: 'HC',
      controlNumber: '17456',
      version: '005010X222A1',
      code: 'P',
      sets: [
        { setId: '837', controlNumber: '0001', code: 'A', faults: [] },
        {
          setId: '837',
          controlNumber: '0002',
          code: 'R',
          faults: [
            {
              segment: 'CLM',
              position: 22,
              code: '8',
              element: { number: '2', code: '1', value: '' },
            },
          ],
        },
        {
          setId: '837',
          controlNumber: '0003',
          code: 'R',
          faults: [{ segment: 'REF', position: 57, code: '3' }],
        },
      ],
    });
  });
});
