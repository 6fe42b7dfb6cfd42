/** Visits of a file from the command line: entered whole or not at all, once however often; what is wrong is said by visit and field. */
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { wergeldHere } from '../testing/command';
import { TODAY, fileDatabase } from '../testing/database';
import { household } from '../testing/desk';
import { readAccount } from '../server/account-page/read';

const t = fileDatabase();
const folder = mkdtempSync(join(tmpdir(), 'wergeld-visits-'));
const enter = async (content: unknown, ...flags: string[]) => {
  const file = join(folder, 'visits.json');
  writeFileSync(file, typeof content === 'string' ? content : JSON.stringify(content));
  return wergeldHere(t, ['charges', 'enter', file, ...flags]);
};

test('each visit is entered whole or not at all, and once however often the file is read', async () => {
  const { householdId } = await household(t, true, { first: 'Ada' });
  const { number } = (await readAccount(t.context, householdId)).household;
  const { npi } = await t.db
    .selectFrom('provider')
    .select('npi')
    .where('id', '=', t.providers.family!)
    .executeTakeFirstOrThrow();
  const visit = (more: object = {}) => ({
    account: number,
    first: 'ada',
    provider: npi,
    date: TODAY,
    lines: [
      { code: '99213', diagnoses: ['I10'] },
      { code: '80053', units: 2 },
    ],
    ...more,
  });
  const file = {
    format: 'wergeld-visits',
    version: 1,
    visits: [
      visit(),
      visit({ first: 'Nobody' }),
      visit({ lines: [{ code: '85025' }, { code: 'NONE1' }] }),
      visit({ provider: '1999999999' }),
      visit({ case: 'Knee' }),
    ],
  };
  const told = await enter(file);
  expect(told.status).toBe(1);
  expect(told.out).toContain(`1. ${number}: 2 entered`);
  expect(told.out).toContain(`2. ${number}: refused at first: Nobody is nobody of ${number}`);
  expect(told.out).toContain(
    `3. ${number}: refused at lines.1.code: Code NONE1 is not in the list of services`,
  );
  expect(told.out).toContain(`4. ${number}: refused at provider: Nobody here has the NPI 1999999999`);
  expect(told.out).toContain(`5. ${number}: refused at case: ada has no case “Knee”`);
  expect(told.out).toContain('1 entered, 4 refused');
  const again = await enter(file, '--json');
  expect((JSON.parse(again.out) as { charges: number[] }[])[0]!.charges).toHaveLength(2);
  const { charges } = await readAccount(t.context, householdId);
  expect(charges.map(({ code, units }) => [code, units])).toEqual([
    ['99213', 1],
    ['80053', 2],
  ]);
});

test('what is no such file is said before anything is entered', async () => {
  const cases: [unknown, RegExp][] = [
    ['{', /is not JSON/],
    [{ format: 'other', version: 1, visits: [] }, /format/],
    [{ format: 'wergeld-visits', version: 1, visits: [] }, /visits/],
    [
      {
        format: 'wergeld-visits',
        version: 1,
        visits: [
          { account: 'A-1', first: 'x', provider: '1', date: '2026-02-30', lines: [{ code: '99213' }] },
        ],
      },
      /visits\.0\./,
    ],
  ];
  for (const [content, words] of cases) {
    const { status, err } = await enter(content);
    expect(status).not.toBe(0);
    expect(err).toMatch(words);
  }
});
