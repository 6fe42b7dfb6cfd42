/** What each station does besides the two journeys, through the real interface. */
import type { Locator, Page } from '@playwright/test';
import pg from 'pg';
import {
  amount,
  provenBooks,
  expect,
  figure,
  listening,
  owing,
  pressFor,
  register,
  signIn,
  test,
} from './desk';

/** Presses a button that asks for a reason, and gives it. */
async function withReason(scope: Page | Locator, words: string, ask: string, reason: string): Promise<void> {
  await scope.getByRole('button', { name: words, exact: true }).first().click();
  await scope.getByLabel(ask).fill(reason);
  await scope.getByLabel(ask).press('Enter');
}
async function newAccount(page: Page, last: string): Promise<void> {
  await register(page, {
    last,
    first: 'Ida',
    birth: '1975-05-05',
    plan: 'Harbor Copay',
    memberId: `CSH${5_600_000 + last.length * 17}`,
    group: 'CS-350',
  });
}

async function enterVisit(page: Page, code = '99213'): Promise<void> {
  await listening(page);
  await page.locator('#quick-provider').click();
  await page
    .getByTitle(/Okafor/)
    .last()
    .click();
  await page.locator('#quick-diagnoses').click();
  await page.keyboard.type('I10');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await page.locator('#quick-code').fill(code);
  await expect(page.getByText('Expected from the patient')).toBeVisible();
  await page.locator('#quick-units').press('Enter');
  await expect(page.getByText(`${code} entered`)).toBeVisible();
}

test('a payment before the bill is credit, is reversed with its reason, and the head figures follow', async ({
  page,
  desk,
}) => {
  await signIn(page, 'biller');
  await newAccount(page, 'Prepaid');
  await listening(page);
  await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
  const field = page.getByLabel('Amount', { exact: true });
  const take = page.getByRole('button', { name: /^Take/ }).last();
  for (const wrong of ['', '0', '-5', 'ten', '1.005']) {
    await field.fill(wrong);
    await expect(take).toBeDisabled();
  }
  await field.fill('1,250.50');
  await page.getByLabel('Check number').fill('88');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/Received: .*1.250\.50 check 88/)).toBeVisible();
  expect(await figure(page, 'Less credit')).toBe(-1250.5);
  expect(await figure(page, 'Balance')).toBe(-1250.5);
  await page
    .getByRole('row', { name: /Received:/ })
    .getByRole('button')
    .first()
    .click();
  await withReason(page, 'Reverse receipt', 'Why is it reversed?', 'bounced');
  await expect(page.getByText(/Reversed: /).first()).toBeVisible();
  await expect.poll(() => figure(page, 'Balance')).toBe(0);
  await page.goto('/payments?search=88');
  await expect(page.getByRole('row', { name: /Prepaid.*reversed/ }).first()).toBeVisible();
  await provenBooks(desk);
});

test('a charge entered by mistake is voided; one on a claim is not, until the claim is withdrawn', async ({
  page,
}) => {
  await signIn(page, 'biller');
  await newAccount(page, 'Mistaken');
  await enterVisit(page);
  await expect.poll(() => figure(page, 'With payers')).toBe(145);
  await page.getByRole('button', { name: /Build claims from/ }).click();
  await page.getByRole('link', { name: 'claim ready', exact: true }).first().click();
  await expect(page.getByRole('heading', { name: /Claim OL/ })).toBeVisible();
  const claim = page.url();
  await withReason(page, 'Hold', 'Why is it held?', 'waits for the chart');
  await expect(page.getByText('waits for the chart').first()).toBeVisible();
  await page.getByRole('button', { name: 'Let go' }).click();
  await expect(page.getByText('Every rule holds: nothing to fix.')).toBeVisible();
  await page.goBack();

  await listening(page);
  await page.getByRole('row', { name: /99213/ }).getByRole('button').first().click();
  await expect(page.getByText('Tell this charge')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Void' })).toHaveCount(0);
  await page.goto(claim);
  await listening(page);
  await withReason(page, 'Withdraw', 'Why is it withdrawn?', 'wrong patient');
  await expect(page.getByText('This claim was withdrawn')).toBeVisible();
  await page.getByRole('tab', { name: 'What happened' }).click();
  await expect(page.getByText('Withdrawn: wrong patient')).toBeVisible();
  await page.goBack();
  await listening(page);
  await page.reload();
  await listening(page);
  await page.getByRole('row', { name: /99213/ }).getByRole('button').first().click();
  await withReason(page, 'Void', 'Why is it void?', 'wrong patient');
  await expect.poll(() => figure(page, 'With payers')).toBe(0);
});

test('statements due: one is made from the list, opens as PDF, and stands with those sent', async ({
  page,
}) => {
  // Of its own: the others of this worker send what is due.
  await owing('Quillfeather', 'Ansgar', 31_800);
  await signIn(page, 'front-desk');
  await page.goto('/statements?view=due');
  await listening(page);
  const first = page.locator('tbody tr[data-index]', { hasText: 'Quillfeather' });
  const account = await first.getByRole('link').first().innerText();
  const due = amount(await first.locator('td').nth(3).innerText());
  await first.getByRole('button', { name: 'Make statement' }).click();
  await expect(page.getByRole('link', { name: account })).toHaveCount(0);
  await page.goto('/statements?view=sent');
  const sent = page.locator('tbody tr[data-index]').first();
  await expect(sent.getByRole('link', { name: account })).toBeVisible();
  expect(amount(await sent.locator('td').nth(6).innerText())).toBe(due);
  const href = await sent.getByRole('link', { name: 'Open PDF' }).getAttribute('href');
  const pdf = await page.request.get(href!);
  expect(pdf.headers()['content-type']).toBe('application/pdf');
  expect((await pdf.body()).subarray(0, 5).toString()).toBe('%PDF-');
});

test('a denial is worked: written off with its reason it leaves the follow-ups and the payer', async ({
  page,
  desk,
}) => {
  await signIn(page, 'manager');
  await page.goto('/remittances/follow-ups');
  await listening(page);
  const open = Number((await page.getByTestId('note').innerText()).split(' ')[0]);
  const row = page.locator('tbody tr[data-index]', { hasText: 'denial' }).last();
  const claim = await row.getByRole('link', { name: /^OL/ }).innerText();
  await withReason(row, 'Write off', 'Why is it written off?', 'payer confirmed');
  await expect(page.getByText(/written off$/)).toBeVisible();
  await expect(page.getByTestId('note')).toHaveText(`${open - 1} open`);
  await page.goto(`/claims?view=all&search=${claim}`);
  await expect(page.getByRole('row', { name: new RegExp(claim) })).toContainText(/settled|decided/);
  await provenBooks(desk);
});

test('a posted remittance is reversed as a whole, and both stay to be seen', async ({ page, desk }) => {
  await signIn(page, 'manager');
  await page.goto('/remittances?view=posted');
  await listening(page);
  // The newest that has something posted: one that was reversed before stays in the list.
  const links = await page
    .locator('tbody tr[data-index]')
    .evaluateAll((rows) => rows.map((row) => row.querySelector('a')!.href));
  for (const link of links) {
    await page.goto(link);
    await expect(page.getByText('Posted to claims')).toBeVisible();
    if ((await figure(page, 'Posted to claims')) > 0) break;
  }
  await listening(page);
  const posted = await figure(page, 'Posted to claims');
  expect(posted).toBeGreaterThan(0);
  await withReason(page, 'Reverse all', 'Why is it reversed?', 'posted to the wrong year');
  await expect(page.getByText(/entr(y|ies) reversed/)).toBeVisible();
  await expect(page.getByText('reversed', { exact: true }).first()).toBeVisible();
  await expect.poll(() => figure(page, 'Posted to claims')).toBe(0);
  await provenBooks(desk);
});

test('registration names the field that is wrong, keeps what was entered, and takes any name', async ({
  page,
}) => {
  await signIn(page, 'front-desk');
  await page.goto('/accounts/new');
  await listening(page);
  const long = `O'Brien-${'Ä'.repeat(52)}`;
  await page.getByLabel('Last name').fill(long);
  await page.getByLabel('First name').fill("D'Arcy");
  await page.getByLabel('Birth date').fill('2031-01-01');
  await page.getByLabel('Street', { exact: true }).fill('1 Row');
  await page.getByLabel('City').fill('Osprey Landing');
  await page.getByLabel('ZIP').fill('981');
  await page.getByLabel('ZIP').press('Enter');
  await expect(
    page
      .getByText(/Birth date|ZIP/)
      .and(page.locator('.ant-form-item-explain-error, .ant-message *'))
      .first(),
  ).toBeVisible();
  await expect(page.getByLabel('Last name')).toHaveValue(long);
  await page.getByLabel('Birth date').fill('1931-01-01');
  await page.getByLabel('ZIP').fill('98199');
  await page.getByLabel('ZIP').press('Enter');
  await expect(page.getByRole('heading', { name: `${long}, D'Arcy` })).toBeVisible();
  // The heading wraps or shortens; the page does not grow wider than the screen.
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1280);
});

test('dark and light are kept; what is read is on the audit trail', async ({ page }) => {
  await signIn(page, 'collector');
  await listening(page);
  const paper = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  const light = await paper();
  const search = () =>
    page.getByLabel('Find or do').evaluate((field) => getComputedStyle(field).backgroundColor);
  const lightField = await search();
  await page.getByRole('button', { name: 'Dark' }).click();
  await expect.poll(paper).not.toBe(light);
  // At once and everywhere, also what the components draw themselves.
  await expect.poll(search).not.toBe(lightField);
  await page.goto('/accounts');
  await listening(page);
  const header = () =>
    page
      .locator('thead th')
      .first()
      .evaluate((cell) => getComputedStyle(cell).backgroundColor);
  const darkHeader = await header();
  await page.getByRole('button', { name: 'Light' }).click();
  await expect.poll(header).not.toBe(darkHeader);
  await page.getByRole('button', { name: 'Dark' }).click();
  await expect.poll(header).toBe(darkHeader);
  await page.reload();
  expect(await paper()).not.toBe(light);
  await page.getByRole('button', { name: 'Light' }).click();
  await expect.poll(paper).toBe(light);

  const db = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await db.connect();
  try {
    const reads = async () =>
      Number(
        (
          await db.query<{ n: string }>(
            `select count(*) as n from audit a join "user" u on u.id = a.user_id where a.action = 'read' and u.role = 'collector'`,
          )
        ).rows[0]!.n,
      );
    const before = await reads();
    await page.goto('/accounts?search=marchetti');
    await page.getByRole('link', { name: /^A-/ }).first().click();
    await expect(page.getByRole('heading', { name: /Marchetti/ })).toBeVisible();
    expect(await reads()).toBeGreaterThan(before);
  } finally {
    await db.end();
  }
});

test('the trial balance is zero and every invariant is named', async ({ page }) => {
  await signIn(page, 'manager');
  await page.goto('/books');
  await expect(page.getByText(/proven: \d+ invariants hold/)).toBeVisible();
  const together = page.getByRole('region', { name: 'Trial balance' }).getByRole('row', { name: /Together/ });
  const [, debits, credits, balance] = await together.locator('td').allInnerTexts();
  expect(amount(debits!)).toBeGreaterThan(1000);
  expect(Math.abs(amount(credits!))).toBe(amount(debits!));
  expect(balance).toBe('–');
});
