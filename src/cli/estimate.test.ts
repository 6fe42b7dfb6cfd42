/** An estimate from the command line: of a file, with its steps, and what is wrong with one that is none. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { wergeldHere } from '../testing/command';
import { fileDatabase } from '../testing/database';

const t = fileDatabase();
const folder = mkdtempSync(join(tmpdir(), 'wergeld-estimate-'));
afterAll(() => rmSync(folder, { recursive: true }));

const written = (text: string): string => {
  const file = join(folder, 'estimate.json');
  writeFileSync(file, text);
  return file;
};
const wergeld = (...args: string[]) => wergeldHere(t, args);
/** Two insurers after an accident: of the first 100.00 are left, with a warning that has to be meant. */
const ACCIDENT = {
  format: 'wergeld-estimate',
  version: 1,
  coverages: [
    {
      payer: 'Motor',
      rules: [
        { kind: 'share', id: 'all', share: 10_000 },
        {
          kind: 'limit',
          id: 'total',
          measure: 'money',
          most: 500_000,
          period: { every: 'coverage' },
          warning: 'confirm',
        },
      ],
      used: [{ rule: 'total', quantity: 490_000 }],
    },
    { payer: 'Health', rules: [{ kind: 'share', id: 'all', share: 8000 }] },
  ],
  charges: [
    { code: '97161', category: 'therapy', fee: 8000, date: '2026-03-16' },
    { code: '97110', category: 'therapy', fee: 5000, date: '2026-03-16' },
  ],
};

test('the first insurer runs out in the middle of a charge: the next one takes over, and it is said', async () => {
  const file = written(JSON.stringify(ACCIDENT));
  const told = await wergeld('estimate', file);
  expect(told.status).toBe(0);
  // Worked by hand: 80.00 and 20.00 by the first; of 50.00 the second alone would pay 40.00, and 30.00 are left.
  expect(told.out.split('\n').map((line) => line.trim().replace(/ {2,}/g, ' '))).toEqual([
    '1. 97161, 2026-03-16',
    '80.00 Office fee',
    '80.00 Motor: allowed',
    '80.00 Motor: expected payment',
    '80.00 Health: allowed',
    '16.00 Health: coinsurance, plan pays 80 % of 80.00',
    '64.00 Health: expected payment',
    '0.00 Health: no more than what is left of the charge',
    '0.00 Expected from the patient',
    '2. 97110, 2026-03-16',
    '50.00 Office fee',
    '50.00 Motor: allowed',
    '30.00 Motor: over the maximum of the coverage',
    '20.00 Motor: expected payment',
    '50.00 Health: allowed',
    '10.00 Health: coinsurance, plan pays 80 % of 50.00',
    '40.00 Health: expected payment',
    '30.00 Health: no more than what is left of the charge',
    '0.00 Expected from the patient',
    'Motor: this goes beyond the maximum of the coverage, which has to be meant',
    'Payers 130.00, patient 0.00',
    '',
  ]);
  const json = await wergeld('estimate', file, '--json');
  const [, second] = JSON.parse(json.out) as { payers: { pays: number }[] }[];
  expect(second!.payers.map(({ pays }) => pays)).toEqual([2000, 3000]);
});

test('what is no such file is said with its field', async () => {
  const said = async (text: string) => (await wergeld('estimate', written(text))).err;
  expect(await said('no JSON')).toContain('is not JSON');
  expect(await said('{}')).toContain('format: ');
  expect(
    await said(JSON.stringify({ ...ACCIDENT, charges: [{ ...ACCIDENT.charges[0], fee: -5 }] })),
  ).toContain('charges.0.fee: ');
  expect((await wergeld('estimate', join(folder, 'none.json'))).err).toContain('cannot be read');
  expect((await wergeld('estimate')).status).not.toBe(0);
});
