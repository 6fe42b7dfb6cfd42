/** Claims built, checked and their rules exported from the command line; and tables of limits brought in. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { wergeldHere } from '../testing/command';
import { fileDatabase } from '../testing/database';
import { charge, household } from '../testing/desk';

const t = fileDatabase();
const wergeld = (...words: string[]) => wergeldHere(t, words);

test('what is unbilled is built, checked by what mends it, and nothing is said twice', async () => {
  expect((await wergeld('claims', 'check')).out).toBe('No claim is to be checked\n');
  for (const diagnoses of [['I10'], []]) {
    const { patientId } = await household(t);
    const id = await charge(t, t.context, patientId, '145.00');
    await t.db.updateTable('charge').set({ diagnoses }).where('id', '=', id).execute();
  }
  expect((await wergeld('claims', 'build')).out).toBe('2 claims built\n');
  expect((await wergeld('claims', 'build')).out).toBe('Nothing is unbilled\n');
  const plain = await wergeld('claims', 'check');
  // Something stops one of them.
  expect(plain.status).toBe(1);
  expect(plain.out).toMatch(/^2 claims: 1 ready, 145\.00; 1 to fix\n/);
  expect(plain.out).toContain('diagnoses (charge): 1 claim\n');
  const { groups } = JSON.parse((await wergeld('claims', 'check', '--json')).out) as {
    groups: { field: string; found: { rule: string }[] }[];
  };
  expect(groups.find(({ field }) => field === 'diagnoses')!.found.map(({ rule }) => rule)).toContain(
    'diagnosis-present',
  );
});

test('limits are brought in whole, in the place of those before, and exported with what payers have otherwise', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-limits-'));
  const file = join(folder, 'table.csv');
  try {
    writeFileSync(file, 'code,units\n97110,4\n99213,1\n');
    expect((await wergeld('limits', 'units', file)).out).toBe('2 lines in force\n');
    writeFileSync(file, 'code,units\n97110,6\n');
    await wergeld('limits', 'units', file);
    const kept = await t.db
      .selectFrom('unit_limit')
      .select(['code', 'units', 'active'])
      .where('code', 'in', ['97110', '99213'])
      .orderBy('code')
      .execute();
    expect(kept).toEqual([
      { code: '97110', units: 6, active: true },
      { code: '99213', units: 1, active: false },
    ]);
    writeFileSync(file, '97110,4\n9711,4\n');
    const wrong = await wergeld('limits', 'units', file);
    expect(wrong.status).not.toBe(0);
    expect(wrong.err).toContain(
      'Line 2: “9711” is no code of five letters and digits. Nothing was brought in',
    );
    writeFileSync(file, '97161,97140,yes\n');
    await wergeld('limits', 'pairs', file);
    const { out } = await wergeld('export', 'rules', '--format', 'csv');
    expect(out).toContain('every payer,units of a day,97110,6');
    expect(out).toContain('every payer,not together,97161 97140,unless a modifier sets it apart');
    expect(out).not.toContain('99213');
    expect((await wergeld('limits', 'both', file)).err).toContain('Say which table');
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
