import fc from 'fast-check';
import { anyAcknowledgedSets, anyClaimAcknowledgments } from '../../testing/arbitraries';
import { ACKNOWLEDGMENT_OF_THREE_SETS } from '../../testing/published-examples';
import { cut, foreign } from '../../testing/x12';
import {
  read277CA,
  read999,
  readTa1,
  setVerdict,
  verdictOf,
  write277CA,
  write999,
  writeTa1,
} from './acknowledgments';
import { calendarDate } from '../calendar';
import { cents } from '../money';
import { readSets } from './interchange';
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

  // IK501 and AK901 of 005010X231A1: A accepted, E accepted with errors, P partly; M, W and X are rejections for security.
  test.each([
    ['A', 'A', 'accepted'],
    ['E', 'E', 'accepted'],
    ['P', 'A', 'accepted'],
    ['P', 'E', 'accepted'],
    ['P', 'R', 'rejected'],
    ['A', 'R', 'rejected'],
    ['R', 'A', 'rejected'],
    ['M', 'A', 'rejected'],
    ['W', 'A', 'rejected'],
    ['X', 'A', 'rejected'],
    ['P', 'M', 'rejected'],
    ['P', 'W', 'rejected'],
    ['P', 'X', 'rejected'],
    ['A', null, 'accepted'],
    ['R', null, 'rejected'],
    ['P', null, 'unclear'],
    ['P', '', 'unclear'],
    ['', 'A', 'accepted'],
    ['', '', 'unclear'],
    ['Z', 'Q', 'unclear'],
  ])('a 999 of group %s and set %s is %s', (code, own, verdict) => {
    const sets = [
      { setId: '837', controlNumber: '0001', code: 'R', faults: [] },
      ...(own === null ? [] : [{ setId: '837', controlNumber: '0007', code: own, faults: [] }]),
    ];
    expect(setVerdict({ code, sets }, '7')).toBe(verdict);
  });

  // STC03 and the categories of code source 507 as 005010X214 uses them.
  test.each([
    ['WQ', ['A2'], 'accepted'],
    ['WQ', ['A1', 'A5'], 'accepted'],
    ['U', ['A7'], 'rejected'],
    ['U', [], 'rejected'],
    ['U', ['A2'], 'rejected'],
    ['WQ', ['A2', 'A6'], 'rejected'],
    ['', ['A8'], 'rejected'],
    ['', ['A2'], 'unclear'],
    ['WQ', [], 'unclear'],
    ['WQ', [''], 'unclear'],
    ['WQ', ['Z9'], 'unclear'],
    ['QQ', ['A2'], 'unclear'],
    ['', [], 'unclear'],
  ])('a 277CA with action %s and categories %j is %s', (action, categories, verdict) => {
    const statuses = categories.map((category) => ({ category, status: '20', entity: '', text: '' }));
    expect(verdictOf({ action, statuses })).toBe(verdict);
  });

  test('a batch and a provider that are rejected are told from receipts; a line refused refuses its claim', async () => {
    const refused = {
      action: 'U',
      statuses: [{ category: 'A3', status: '85', entity: '85', text: '' }],
    };
    const answer = {
      batch: '7',
      date: calendarDate('2026-03-16'),
      source: 'T',
      whole: [
        { ...refused, level: 'batch' as const, provider: '' },
        { ...refused, level: 'provider' as const, provider: '1234567893' },
      ],
      claims: [],
    };
    const around = {
      receiver: { name: 'O', id: 'O' },
      sourceId: 'T',
      provider: { name: 'O', npi: '1234567893' },
      patients: new Map(),
    };
    const text = write277CA(SAMPLE_INTERCHANGE, { ...answer, ...around });
    expect((await setsOf(text, 50)).map(read277CA)).toEqual([answer]);
    const good = write277CA(SAMPLE_INTERCHANGE, {
      ...answer,
      ...around,
      whole: [],
      claims: [
        {
          controlNumber: 'OL1',
          action: 'WQ',
          statuses: [{ category: 'A2', status: '20', entity: '', text: '' }],
          amount: cents(100),
          payerClaimNumber: '',
        },
      ],
    });
    const [line] = await setsOf(
      good.replace(
        /~SE\*(\d+)/,
        (_all, n: string) => `~SVC*HC:99213*1*0~STC*A7:454*20260316*U~SE*${Number(n) + 2}`,
      ),
      50,
    );
    const [claim] = read277CA(line!).claims;
    expect(claim).toMatchObject({ action: 'U', amount: 100 });
    expect(verdictOf(claim!)).toBe('rejected');
  });
});
