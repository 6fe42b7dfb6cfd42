/** Several rows at once: all of them or none, what is wrong said by row. */
import { fileDatabase } from '../../testing/database';
import { type Refused } from '../access';
import { MOST_ROWS, addSetupRows } from './save';

const t = fileDatabase();
let serial = 0;
const key = (): string => `rows-test-${(serial += 1)}`;
const diagnosis = (code: string, description = 'x') => ({ code, description });
const add = (rows: Record<string, string>[], table = 'diagnoses') =>
  addSetupRows(t.context, { table, rows, key: key() });
const refusalOf = async (run: Promise<unknown>): Promise<Refused> =>
  run.then(
    () => {
      throw new Error('It was not refused');
    },
    (error: Refused) => error,
  );
const known = async (codes: string[]): Promise<number> =>
  (await t.db.selectFrom('diagnosis').select('code').where('code', 'in', codes).execute()).length;

test('many rows are added in one go, with what the change brings along once', async () => {
  const rows = Array.from({ length: 300 }, (_, index) => diagnosis(`Q${index}`));
  expect(await add(rows)).toBe(300);
  expect(await known(rows.map(({ code }) => code))).toBe(300);
});

test('one wrong row refuses all, and every wrong field is named by its row', async () => {
  const refusal = await refusalOf(
    add([diagnosis('R1'), diagnosis('', ''), diagnosis('R2'), diagnosis('R3', '')]),
  );
  expect(refusal).toMatchObject({
    code: 'invalid',
    field: '1.code',
    facts: { line: 2 },
    fields: {
      '1.code': 'Code is missing',
      '1.description': 'Description is missing',
      '3.description': 'Description is missing',
    },
  });
  expect(refusal.message).toBe('Line 2: Code is missing, and 2 more. None was added');
  expect(await known(['R1', 'R2', 'R3'])).toBe(0);
});

test('a row that is there already, or twice among them, is named, and nothing of them stays', async () => {
  await add([diagnosis('S1')]);
  expect(await refusalOf(add([diagnosis('S2'), diagnosis('S1')]))).toMatchObject({
    message: 'Line 2: There is one like this already. None was added',
  });
  expect((await refusalOf(add([diagnosis('S3'), diagnosis('S3')]))).message).toMatch(/^Line 2: /);
  expect(await known(['S2', 'S3'])).toBe(0);
});

test('none, too many, and a table that is not there', async () => {
  expect((await refusalOf(add([]))).field).toBe('rows');
  const many = Array.from({ length: MOST_ROWS + 1 }, (_, index) => diagnosis(`T${index}`));
  expect((await refusalOf(add(many))).field).toBe('rows');
  await expect(add([diagnosis('T1')], 'nowhere')).rejects.toThrow();
  await expect(
    addSetupRows(t.as('biller'), { table: 'diagnoses', rows: [diagnosis('T1')], key: key() }),
  ).rejects.toThrow(/may not change setup/);
});
