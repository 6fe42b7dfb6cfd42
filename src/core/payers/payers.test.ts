/** What payers want otherwise, and the lists of clearinghouses. */
import fc from 'fast-check';
import { sampleClaim } from '../x12/samples';
import { write837 } from '../x12/claim837';
import { SAMPLE_INTERCHANGE } from '../x12/samples';
import { BrokenPayerList, type ListedPayer, isPayerList, readPayerList, writePayerList } from './payer-list';
import { PAYER_SETTINGS, type PayerSetting, asWanted } from './settings';
import { TRANSACTIONS, TRANSACTION_NAMES, standsWithBilling } from './words';

const whole = () => ({
  ...sampleClaim(),
  subscriber: { ...sampleClaim().subscriber, groupNumber: '', planName: 'HARBOR' },
  referring: { last: 'Brandt', first: 'Ida', npi: '1234567893' },
  facility: { name: 'Mill Lane', address: sampleClaim().billing.address },
});
const text = (claim: ReturnType<typeof whole>): string[] =>
  write837({
    interchange: SAMPLE_INTERCHANGE,
    controlNumber: '1',
    date: '20260316',
    time: '1200',
    submitter: { name: 'A', contact: 'B', phone: '555' },
    receiverName: 'C',
    claims: [claim],
  }).split('~');

/** Which segments each setting takes away or changes, by the loops and elements of the guide. */
const CHANGES: Record<PayerSetting, RegExp> = {
  'no-billing-taxonomy': /^\s*PRV\*BI\*PXC\*/,
  'no-rendering-taxonomy': /^\s*PRV\*PE\*PXC\*/,
  'no-group-number': /^\s*SBR\*P\*18\*CS-200/,
  'no-plan-name': /^\s*SBR\*P\*18\*\*HARBOR/,
  'no-referring': /^\s*NM1\*DN\*/,
  'no-facility': /^\s*NM1\*77\*/,
};

test.each(Object.keys(PAYER_SETTINGS) as PayerSetting[])('%s changes one element and no other', (name) => {
  const claim =
    name === 'no-group-number'
      ? { ...whole(), subscriber: { ...whole().subscriber, groupNumber: 'CS-200', planName: '' } }
      : whole();
  const [before, after] = [text(claim), text(asWanted(claim, [name]) as typeof claim)];
  expect(before.some((segment) => CHANGES[name].test(segment))).toBe(true);
  expect(after.some((segment) => CHANGES[name].test(segment))).toBe(false);
  // All else is there as it was, but for the address of a place, the count of segments and its trailer.
  const gone = before
    .filter((segment) => !after.includes(segment))
    .map((segment) => segment.trim().slice(0, 3));
  expect(gone.filter((id) => id !== 'SE*').length).toBe(1);
});

test('a setting that nobody knows changes nothing', () => {
  expect(asWanted(whole(), ['constructor', 'no such'])).toEqual(whole());
});

test('0B and 1G stand with who bills, G2 and LU with the payer', () => {
  expect(['0B', '1G', 'G2', 'LU'].map(standsWithBilling)).toEqual([true, true, false, false]);
});

const kinds = TRANSACTION_NAMES;
test('every transaction has its place in the order', () => {
  expect([...TRANSACTION_NAMES].sort()).toEqual(Object.keys(TRANSACTIONS).sort());
});
const listed: fc.Arbitrary<ListedPayer[]> = fc.uniqueArray(
  fc
    .record({
      code: fc.stringMatching(/^[A-Z0-9]{2,10}$/),
      name: fc
        .string({ minLength: 1, maxLength: 40, unit: 'grapheme-ascii' })
        .map((name) => `P ${name}`.trim()),
      takes: fc.subarray([...kinds]),
    })
    .chain((one) => fc.subarray(one.takes).map((needs) => ({ ...one, needs }))),
  { selector: ({ code }) => code, maxLength: 20 },
);

test('any list is read as it was written, also with a byte order mark', () => {
  fc.assert(
    fc.property(listed, (payers) => {
      const written = writePayerList(payers, '7');
      expect(isPayerList(written)).toBe(true);
      expect(readPayerList(written)).toEqual(payers);
      expect(readPayerList(`\ufeff${written}`)).toEqual(payers);
    }),
  );
});

const HEAD = 'payer_id,name,837P,837D,835,270,276';
test.each([
  ['it broke off', `${HEAD}\nAB1,A,yes,,,,\n`, /last line/],
  ['it counts another number', `${HEAD}\nAB1,A,yes,,,,\nend,2\n`, /says 2 payers, and has 1/],
  ['a word is not known', `${HEAD}\nAB1,A,perhaps,,,,\nend,1\n`, /Line 2: 837P says “perhaps”/],
  ['an id is none', `${HEAD}\n*~,A,yes,,,,\nend,1\n`, /Line 2: “\*~” is no payer id/],
  ['an id stands twice', `${HEAD}\nAB1,A,yes,,,,\nAB1,B,,,,,\nend,2\n`, /Line 3: AB1 stands there twice/],
  ['a name is missing', `${HEAD}\nAB1,,yes,,,,\nend,1\n`, /Line 2: AB1 has no name/],
  ['a quote is open', `${HEAD}\nAB1,"A,yes,,,,\nend,1\n`, /Line/],
])('a list that cannot be read says where: %s', (_, written, said) => {
  expect(() => readPayerList(written)).toThrow(BrokenPayerList);
  expect(() => readPayerList(written)).toThrow(said);
});
