/**
 * Claims on paper: pdftotext (Poppler) with bounding boxes finds each value where its box is (1500, version 02/12, from memory), and the
 * explanation of the payer before is of this patient alone.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { formPages } from '../../core/claims/form';
import { fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  decided,
  household,
  postedRemittance,
  secondCoverage,
  sentClaim,
} from '../../testing/desk';
import { findList } from '../lists/read';
import { buildClaims } from './build';
import { splitClaim } from './drafts';
import { claimFile, printFile, testPageFile } from './paper';
import { printClaims, readPrints } from './printing';
import { readClaim } from './read';
import { sendClaims } from './send';

const t = fileDatabase();
const NAME = 'Cedar Sound Health';
const payerIs = (set: Record<string, unknown>) =>
  t.db.updateTable('payer').set(set).where('name', '=', NAME).execute();
const PAPER = { accepts: 'paper', line1: '7 Elm Row', city: 'Tacoma', state: 'WA', zip: '98401-0001' };
afterEach(() =>
  Promise.all([
    payerIs({
      accepts: 'electronic',
      paper_form: 'form',
      paper_continues: false,
      line1: '',
      city: '',
      state: '',
      zip: '',
    }),
    t.db.updateTable('practice').set({ form_right: 0, form_down: 0 }).execute(),
  ]),
);

interface Word {
  page: number;
  x: number;
  y: number;
  to: number;
  text: string;
}

/** The words of a PDF with where each stands, by another program. */
function wordsOf(body: Buffer): Word[] {
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-paper-'));
  try {
    const path = join(folder, 'paper.pdf');
    writeFileSync(path, body);
    const html = execFileSync('pdftotext', ['-bbox', path, '-']).toString();
    let page = -1;
    return html.split('\n').flatMap((line) => {
      if (line.includes('<page ')) page += 1;
      const word = /<word xMin="([\d.]+)" yMin="([\d.]+)" xMax="([\d.]+)" yMax="([\d.]+)">(.*)<\/word>/.exec(
        line,
      );
      return word
        ? [
            {
              page,
              x: Number(word[1]),
              y: (Number(word[2]) + Number(word[4])) / 2,
              to: Number(word[3]),
              text: word[5]!,
            },
          ]
        : [];
    });
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** A claim on paper that is ready. */
async function onPaper(fees = ['145.00']) {
  await payerIs(PAPER);
  const made = await household(t, true);
  for (const fee of fees) await charge(t, t.context, made.patientId, fee);
  const claims = await buildClaims(t.context, { householdId: made.householdId });
  return { ...made, claims };
}

test('every value is found in its box, also where the practice has moved them', async () => {
  const { claims } = await onPaper(['145.00', '42.00']);
  const { content } = await readClaim(t.context, claims[0]!);
  const marks = formPages(content, false, t.context.today)[0]!;
  const found = async (right: number, down: number): Promise<string[]> => {
    await t.db.updateTable('practice').set({ form_right: right, form_down: down }).execute();
    const words = wordsOf((await claimFile(t.context, claims[0]!)).body);
    const [dx, dy] = [(right * 72) / 254, (down * 72) / 254];
    return marks
      .filter(({ text, x, y, width }) => {
        const inside = words.filter(
          (word) =>
            word.page === 0 &&
            word.x >= x + dx - 1 &&
            word.to <= x + dx + width + 1 &&
            word.y > y + dy &&
            word.y < y + dy + 14,
        );
        return inside.map((word) => word.text).join(' ') !== text.replace(/&/g, '&amp;');
      })
      .map(({ box, text }) => `${box} ${text}`);
  };
  expect(await found(0, 0)).toEqual([]);
  expect(await found(30, -20)).toEqual([]);
  expect(
    wordsOf((await testPageFile(t.context)).body).filter(({ text }) => text === 'X').length,
  ).toBeGreaterThan(25);
});

test('ready claims of payers that take paper are printed together, are with their payers, and none goes in a file', async () => {
  const { claims } = await onPaper();
  const print = await findList(t.context, 'claims', { view: 'print' });
  expect(print.rows.map(({ id }) => id)).toContain(claims[0]);
  expect((await findList(t.context, 'claims', { view: 'ready' })).rows.map(({ id }) => id)).not.toContain(
    claims[0],
  );
  expect((await sendClaims(t.context, {})).reduce((all, one) => all + one.claims, 0)).toBe(0);
  const id = await printClaims(t.context, { claimIds: claims });
  expect(await readClaim(t.context, claims[0]!)).toMatchObject({
    status: 'sent',
    sentBy: 'paper',
    transmission: null,
  });
  await expect(printClaims(t.context, { claimIds: claims })).rejects.toThrow('printed already');
  expect((await readPrints(t.context))[0]).toMatchObject({ id, claims: 1, total: 14_500 });
  const { file, body } = await printFile(t.context, id);
  expect(file).toBe(`claims-${id}.pdf`);
  expect(wordsOf(body).map(({ text }) => text)).toContain(
    (await readClaim(t.context, claims[0]!)).controlNumber,
  );
  expect(await brokenInvariants(t)).toEqual([]);
});

test('six services fill a claim, unless the payer lets one go on; without an address it stops', async () => {
  const fees = Array.from({ length: 8 }, (_, at) => `${50 + at}.00`);
  const { claims } = await onPaper(fees);
  const lines = await Promise.all(
    claims.map(async (id) => (await readClaim(t.context, id)).content.lines.length),
  );
  expect(lines).toEqual([6, 2]);
  await payerIs({ paper_continues: true });
  const more = await household(t, true);
  for (const fee of fees) await charge(t, t.context, more.patientId, fee);
  const [long] = await buildClaims(t.context, { householdId: more.householdId });
  const words = wordsOf((await claimFile(t.context, long!)).body);
  expect(words.filter(({ text }) => text === 'CONTINUED').map(({ page }) => page)).toEqual([0]);
  // Let go on no more, it stops until it is taken apart.
  await payerIs({ paper_continues: false });
  await expect(printClaims(t.context, { claimIds: [long!] })).rejects.toThrow('No claim is ready');
  const apart = await splitClaim(t.context, { claimId: long!, lines: [7, 8] });
  await payerIs({ line1: '' });
  await expect(printClaims(t.context, { claimIds: [apart] })).rejects.toThrow('No claim is ready');
});

test('to the next payer goes what the first one explained, of this patient alone; in a layout of our own too', async () => {
  const s = await sentClaim(t);
  const other = await sentClaim(t);
  await secondCoverage(t, s.patientId);
  const says = (one: typeof s, paid: number) =>
    decided(one.claim.control_number, [
      {
        control: one.controls[0]!,
        charge: 14_500,
        paid,
        reasons: [`CO-45:${(14_500 - 3000 - paid) / 100}.00`, 'PR-3:30.00'],
      },
    ]);
  await postedRemittance(t, [says(s, 6800), says(other, 7700)]);
  await payerIs(PAPER);
  const [id] = await buildClaims(t.context, { householdId: s.householdId, which: 'next' });
  const text = async (): Promise<string> =>
    wordsOf((await claimFile(t.context, id!)).body)
      .map((word) => word.text)
      .join(' ');
  expect(await text()).toContain(`Beside claim ${(await readClaim(t.context, id!)).controlNumber} of`);
  expect(await text()).toContain('68.00');
  expect(await text()).not.toContain('77.00');
  expect(await text()).not.toContain(other.claim.control_number);
  await payerIs({ paper_form: 'plain' });
  const plain = await text();
  expect(plain).toContain('Other insurance:');
  expect(plain).toContain('7 Elm Row');
});
