/** Teeth, surfaces and areas (universal numbering; common practice, no source). */
import { mouthFault, quadrantOf } from './teeth';

const NOTHING = { tooth: false, surface: false, area: '' } as const;
const fault = (needs: object, said: object) =>
  mouthFault('D1', { ...NOTHING, ...needs }, { tooth: '', surfaces: '', area: '', ...said });

test.each([
  ['1', '10'],
  ['8', '10'],
  ['9', '20'],
  ['16', '20'],
  ['17', '30'],
  ['24', '30'],
  ['25', '40'],
  ['32', '40'],
  ['A', '10'],
  ['E', '10'],
  ['F', '20'],
  ['K', '30'],
  ['T', '40'],
])('tooth %s lies in quadrant %s', (tooth, quadrant) => {
  expect(quadrantOf(tooth)).toBe(quadrant);
});

test('what a service needs is asked at its field', () => {
  expect(fault({ tooth: true }, {})).toEqual({ field: 'tooth', missing: true, words: 'D1 needs a tooth' });
  expect(fault({ tooth: true, surface: true }, { tooth: '3' })).toMatchObject({
    field: 'surfaces',
    missing: true,
  });
  expect(fault({ area: 'quadrant' }, {})).toMatchObject({ field: 'area', words: 'D1 needs a quadrant' });
  expect(fault({ area: 'arch' }, {})).toMatchObject({ field: 'area', words: 'D1 needs an arch' });
  expect(fault({ area: 'arch' }, { area: '10' })!.words).toBe(
    'D1 is of an arch, and not of the upper right quadrant',
  );
  expect(fault({ area: 'quadrant' }, { area: '30' })).toBeNull();
});

test.each([
  ['3', 'MOD', null],
  ['3', 'I', 'surfaces'],
  ['8', 'I', null],
  ['8', 'MO', 'surfaces'],
  ['11', 'O', 'surfaces'],
  ['12', 'O', null],
  ['22', 'O', 'surfaces'],
  ['27', 'I', null],
  ['28', 'I', 'surfaces'],
  ['C', 'I', null],
  ['B', 'I', 'surfaces'],
  ['3', 'MM', 'surfaces'],
  ['', 'M', 'tooth'],
])('tooth %s with surfaces %s', (tooth, surfaces, field) => {
  expect(fault({}, { tooth, surfaces })?.field ?? null).toBe(field);
});

test('a tooth lies in its quadrant, its arch and the whole mouth, and in no other', () => {
  for (const area of ['10', '01', '00']) expect(fault({}, { tooth: '3', area })).toBeNull();
  for (const area of ['20', '02']) expect(fault({}, { tooth: '3', area })?.field).toBe('area');
});
