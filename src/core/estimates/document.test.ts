/** Estimates as documents: read strictly, estimated as the rules say, and described by a schema that stands beside them. */
import { readFileSync } from 'node:fs';
import { estimateDocument, estimateOf, estimateSchema } from './document';

/** A visit of 145.00, of which 98.00 is allowed; 20.00 of the deductible is left, 30.00 copay, 80 % of the rest. */
const visit = (coverage: object = {}, charge: object = {}) => ({
  format: 'wergeld-estimate',
  version: 1,
  coverages: [
    {
      payer: 'Cedar',
      fees: { '99213': 9800, '97110': { office: 4000, facility: 3000 } },
      rules: [
        { kind: 'share', id: 'office', share: 8000 },
        { kind: 'deductible', id: 'deductible', amount: 5000 },
        { kind: 'copay', id: 'copay', amount: 3000 },
        { kind: 'limit', id: 'visits', measure: 'visits', most: 3 },
      ],
      used: [{ rule: 'deductible', quantity: 3000 }],
      ...coverage,
    },
  ],
  charges: [{ code: '99213', category: 'office', fee: 14_500, date: '2026-03-16', ...charge }],
});
const estimated = (document: unknown) => estimateOf(estimateDocument.parse(document));
const wrong = (document: unknown) =>
  estimateDocument
    .safeParse(document)
    .error?.issues.map(({ path, message }) => `${path.join('.')}: ${message}`);

test('a document is estimated by its rules; what is left out is as usual', () => {
  // Worked by hand: 47.00 written off, 20.00, 30.00, and 80 % of 48.00.
  const [one] = estimated(visit());
  expect(one).toMatchObject({ id: 1, writeOff: 4700, patient: 5960 });
  expect(one!.payers[0]).toMatchObject({ deductible: 2000, copay: 3000, coinsurance: 960, pays: 3840 });
  const therapy = { code: '97110', category: 'therapy', facility: true };
  expect(estimated(visit({}, therapy))[0]!.payers[0]!.allowed).toBe(3000);
  expect(estimated(visit({}, { code: 'unknown' }))[0]!.payers[0]!.allowed).toBe(14_500);
  // What was used in another year is of that year.
  const used = [
    { rule: 'deductible', quantity: 5000, from: '2025-01-01' },
    { rule: 'visits', quantity: 3, from: '2026-01-01' },
  ];
  expect(estimated(visit({ used }))[0]).toMatchObject({ patient: 9800 });
  expect(estimated(visit({ used: used.slice(0, 1) }))[0]!.payers[0]!.deductible).toBe(5000);
});

test('what is wrong is named by its field, and nothing is guessed', () => {
  expect(wrong(visit())).toBeUndefined();
  expect(wrong(visit({ used: [{ rule: 'nothing', quantity: 1 }] }))).toEqual([
    'coverages.0.used.0.rule: there is no rule “nothing”',
  ]);
  const twice = { kind: 'share', id: 'office', share: 8000 };
  expect(wrong(visit({ rules: [twice, twice], used: [] }))).toEqual([
    'coverages.0.rules.1.id: “office” is the id of another rule too',
  ]);
  for (const [charge, path] of [
    [{ fee: -1 }, 'charges.0.fee'],
    [{ fee: 0.5 }, 'charges.0.fee'],
    [{ units: 0 }, 'charges.0.units'],
    [{ date: '2026-02-30' }, 'charges.0.date'],
    [{ color: 'red' }, 'charges.0'],
  ] as const)
    expect(wrong(visit({}, charge))?.[0]).toMatch(new RegExp(`^${path}: `));
  expect(wrong(visit({ rules: [{ kind: 'weekly', id: 'x' }], used: [] }))?.[0]).toMatch(
    /^coverages\.0\.rules\.0\.kind: /,
  );
  expect(wrong({ ...visit(), version: 2 })?.[0]).toMatch(/^version: /);
  expect(wrong({ ...visit(), charges: [] })?.[0]).toMatch(/^charges: /);
});

test('the schema stands in the documents as it is', () => {
  expect(JSON.parse(readFileSync('docs/formats/estimate.schema.json', 'utf8'))).toEqual(
    JSON.parse(JSON.stringify(estimateSchema())),
  );
});
