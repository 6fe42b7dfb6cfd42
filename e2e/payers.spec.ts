/** What a payer says twice, wrongly or for somebody else, worked to its end on the screen. */
import type { Page } from '@playwright/test';
import pg from 'pg';
import { cents } from '../src/core/money';
import { remitClaimDocument } from '../src/core/remittances/document';
import { type RemitClaim, type Remittance, write835 } from '../src/core/x12/remittance835';
import { SAMPLE_INTERCHANGE } from '../src/core/x12/samples';
import { PAYEE } from '../src/testing/desk';
import { TODAY } from '../src/testing/database';
import { booksCheck, expect, figure, listening, signIn, test } from './desk';

let serial = 0;
/** Brings in a remittance by the screen and opens it. */
async function bringIn(page: Page, claims: RemitClaim[], more: Partial<Remittance> = {}): Promise<string> {
  serial += 1;
  const trace = `E2E${process.pid}${serial}`;
  const text = write835(
    { ...SAMPLE_INTERCHANGE, controlNumber: String(700_000_000 + serial) },
    [
      {
        handling: 'I',
        creditDebit: 'C',
        method: 'ACH',
        date: TODAY,
        trace,
        originator: '1910000011',
        payer: { name: 'Cedar Sound Health', id: 'CSH01' },
        payee: PAYEE,
        providerAdjustments: [],
        claims,
        payment: cents(claims.reduce((all, claim) => all + claim.paid, 0)),
        ...more,
      },
    ],
    '20260316',
  );
  await page.goto('/remittances?view=all');
  await listening(page);
  await page
    .getByLabel('Remittance file')
    .setInputFiles({ name: `${trace}.835`, mimeType: 'text/plain', buffer: Buffer.from(text) });
  await page.getByRole('link', { name: trace }).click();
  await expect(page.getByRole('heading', { name: /Cedar/ })).toBeVisible();
  await listening(page);
  return trace;
}

/** A claim of the demo that Cedar Sound has paid with a part for the patient, as the payer said it. */
async function paidClaim(skip: number): Promise<{ content: RemitClaim; household: number }> {
  const db = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await db.connect();
  try {
    const { rows } = await db.query<{ content: unknown; household: string }>(
      `select c.content, m.household_id as household from remittance_claim c join claim m on m.id = c.claim_id join payer y on y.id = m.payer_id
       where y.payer_id = 'CSH01' and c.status = 'posted' and c.paid > 2000 and m.status = 'closed' and m.control_number = c.control_number order by c.id desc offset $1 limit 1`,
      [skip],
    );
    const { content, household } = rows[0]!;
    return { content: remitClaimDocument.read(content), household: Number(household) };
  } finally {
    await db.end();
  }
}

const post = async (page: Page): Promise<void> => {
  await page.getByRole('button', { name: /^Post 1 claim/ }).click();
  await expect(page.getByText('posted', { exact: true }).first()).toBeVisible();
};
/** Says what a held claim is, and why. */
async function decide(page: Page, what: string, why: string): Promise<void> {
  await page.getByLabel('What it is').click();
  await page.locator(`.ant-select-item-option[title="${what}"]`).click();
  await page.getByRole('button', { name: 'Decide' }).click();
  await page.getByLabel('Why?').fill(why);
  await page.keyboard.press('Enter');
  await expect(page.getByText('Decided')).toBeVisible();
}

test('a claim paid twice: the patient is billed once, and the money goes back', async ({ page }) => {
  await signIn(page, 'biller');
  const { content, household } = await paidClaim(0);
  await page.goto(`/accounts/${household}`);
  const owed = await figure(page, 'Patient owes now');
  await bringIn(page, [content]);
  await post(page);
  await expect(page.getByText(/it is decided already, just so/)).toBeVisible();
  await expect.poll(() => figure(page, 'Held for the payer')).toBe(content.paid / 100);
  await decide(page, 'Returned to the payer', 'sent back with check 4411');
  await expect.poll(() => figure(page, 'Returned')).toBe(content.paid / 100);
  expect(await figure(page, 'Held for the payer')).toBe(0);
  await page.goto(`/accounts/${household}`);
  expect(await figure(page, 'Patient owes now')).toBe(owed);
  expect(booksCheck()).toContain('The books are proven');
});

test('a claim paid again as a correction: the first is taken back, the other stands', async ({ page }) => {
  await signIn(page, 'biller');
  const { content, household } = await paidClaim(1);
  await page.goto(`/accounts/${household}`);
  const before = await figure(page, 'Balance');
  // One dollar more is paid, and one less is taken off by the contract or passed on.
  const [first, ...rest] = content.lines;
  const adjustments = first!.adjustments.map((item, index) =>
    index === 0 ? { ...item, amount: cents(item.amount - 100) } : item,
  );
  const right = {
    ...content,
    paid: cents(content.paid + 100),
    lines: [{ ...first!, paid: cents(first!.paid + 100), adjustments }, ...rest],
  };
  await bringIn(page, [right]);
  await post(page);
  await expect(page.getByText(/and nothing was taken back/)).toBeVisible();
  await decide(page, 'It corrects the earlier one', 'they called');
  await expect.poll(() => figure(page, 'Posted to claims')).toBe(right.paid / 100);
  await page.goto(`/accounts/${household}`);
  const after = await figure(page, 'Balance');
  expect([before, Math.round((before - 1) * 100) / 100]).toContain(after);
  await page.goto('/remittances?view=unmatched');
  await expect(page.locator('tbody tr[data-index]').first()).toBeVisible();
  expect(booksCheck()).toContain('The books are proven');
});

test('an unknown payer’s remittance is taken up again after Setup', async ({ page }) => {
  await signIn(page, 'manager');
  const stranger: RemitClaim = {
    ...(await paidClaim(2)).content,
    controlNumber: 'NOBODY7',
    payerClaimNumber: '',
  };
  const number = `CX${process.pid}`;
  await bringIn(page, [stranger], { payer: { name: 'Cedar Coast', id: number }, originator: '' });
  await expect(page.getByText('This remittance is kept but not posted:')).toBeVisible();
  const held = page.url();
  await page.goto('/setup/payers');
  await listening(page);
  await page.getByRole('button', { name: 'Add payer' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Cedar Coast');
  await page.getByLabel('Payer id').fill(number);
  for (const [label, value] of [
    ['Claims go', 'paper'],
    ['Bills as', 'group'],
  ] as const) {
    await page.getByLabel(label).click();
    await page.locator(`.ant-select-item-option[title="${value}"]`).click();
  }
  await page.getByLabel('Filing limit, days').fill('365');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('row', { name: /Cedar Coast/ })).toBeVisible();
  await page.goto(held);
  await listening(page);
  await page.keyboard.press('c');
  await expect(page.getByText('Ready to post', { exact: true })).toBeVisible();
  await post(page);
  await expect(page.getByText('No claim of ours has the number NOBODY7')).toBeVisible();
});

test('a remittance reversed by mistake is posted anew, and both stay to be seen', async ({ page }) => {
  await signIn(page, 'biller');
  const { content } = await paidClaim(3);
  await bringIn(page, [{ ...content, controlNumber: 'NOBODY8', payerClaimNumber: '' }]);
  await post(page);
  await page.getByRole('button', { name: 'Reverse all' }).click();
  await page.getByLabel('Why is it reversed?').fill('the wrong one');
  await page.keyboard.press('Enter');
  await expect(page.getByText('reversed', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Make ready to post anew' }).click();
  await post(page);
  await expect.poll(() => figure(page, 'Held for the payer')).toBe(content.paid / 100);
  await expect(page.getByText('reversed', { exact: true })).toBeVisible();
  expect(booksCheck()).toContain('The books are proven');
});
