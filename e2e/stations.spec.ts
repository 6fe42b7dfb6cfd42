/** What each station does besides the two journeys, through the real interface. */
import { takeReceipt } from '../src/server/payments/take';
import { charge, household, postedRemittance, says, sentClaim } from '../src/testing/desk';
import type { Locator, Page } from '@playwright/test';
import pg from 'pg';
import {
  amount,
  provenBooks,
  expect,
  figure,
  listening,
  pressFor,
  register,
  signIn,
  test,
  anyOf,
  lastOf,
  registered,
} from './desk';

/** Presses a button that asks for a reason, and gives it. */
async function withReason(scope: Page | Locator, words: string, ask: string, reason: string): Promise<void> {
  await anyOf(scope.getByRole('button', { name: words, exact: true })).click();
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
  await lastOf(page.getByTitle(/Okafor/)).click();
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
  const take = lastOf(page.getByRole('button', { name: /^Take/ }));
  for (const wrong of ['', '0', '-5', 'ten', '1.005']) {
    await field.fill(wrong);
    await expect(take).toBeDisabled();
  }
  await field.fill('1,250.50');
  // It came the day before yesterday.
  await page.getByLabel('Received', { exact: true }).fill('-2');
  await page.getByLabel('Check number').fill('88');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('row', { name: /14 Mar 2026.*Received: .*1.250\.50 Check 88/ })).toBeVisible();
  expect(await figure(page, 'Less credit')).toBe(-1250.5);
  expect(await figure(page, 'Balance')).toBe(-1250.5);
  await page
    .getByRole('row', { name: /Received:/ })
    .getByRole('button', { name: 'Unfold' })
    .click();
  await withReason(page, 'Reverse receipt', 'Why is it reversed?', 'bounced');
  await expect(anyOf(page.getByText(/Reversed: /))).toBeVisible();
  await expect.poll(() => figure(page, 'Balance')).toBe(0);
  await page.goto('/payments?search=88');
  await expect(anyOf(page.getByRole('row', { name: /Prepaid.*reversed/ }))).toBeVisible();
  await provenBooks(desk);
});

test('credit stands against what is owed, pays what is chosen, and goes back', async ({ page, desk }) => {
  const made = await household(desk, false, { last: 'Tendered', first: 'Theo' });
  await takeReceipt(desk.context, {
    householdId: made.householdId,
    tenders: [{ tender: 'check', amount: '100.00', reference: '501' }],

    key: 'credit-drawer-1',
  });
  await charge(desk, desk.context, made.patientId, '30.00');
  await charge(desk, desk.context, made.patientId, '45.00', '99214');
  await signIn(page, 'manager');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  // The payment form asks for what credit does not pay.
  await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
  await expect(page.getByLabel('Amount', { exact: true })).toHaveValue('');
  await expect(page.getByText(/75\.00 is held as credit and stands against this/)).toBeVisible();
  await page.keyboard.press('Escape');
  await pressFor(page, 'u', page.getByRole('button', { name: 'Use 75.00' }));
  const drawer = page.getByRole('dialog');
  await lastOf(drawer.getByLabel(/^Credit for /)).fill('20.00');
  await drawer.getByRole('button', { name: 'Use 50.00' }).click();
  await expect(page.getByText('50.00 of credit used')).toBeVisible();
  await expect.poll(() => figure(page, 'Patient owes now')).toBe(25);
  await expect.poll(() => figure(page, 'Less credit')).toBe(-50);
  await page.getByRole('button', { name: 'Credit 50.00 (U)' }).click();
  await drawer.getByRole('button', { name: 'Give back', exact: true }).click();
  await drawer.getByLabel('Given back', { exact: true }).fill('50.01');
  await expect(drawer.getByText('50.00 of it is held')).toBeVisible();
  await drawer.getByLabel('Given back', { exact: true }).fill('25.00');
  await drawer.getByLabel('Check number of what goes back').fill('9001');
  await drawer.getByLabel('Why it is given back').fill('paid too much');
  await drawer.getByRole('button', { name: 'Give back 25.00' }).click();
  await expect(page.getByText(/Given back: .*25\.00 Check 9001/)).toBeVisible();
  await expect.poll(() => figure(page, 'Less credit')).toBe(-25);
  // What pays one charge is taken off it by itself.
  await anyOf(page.getByRole('row', { name: /99213/ }).getByRole('button', { name: 'Unfold' })).click();
  await withReason(page, 'Take this payment off the charge', 'Why is it taken off?', 'the other visit');
  await expect.poll(() => figure(page, 'Patient owes now')).toBe(55);
  await expect.poll(() => figure(page, 'Less credit')).toBe(-55);
  await page.goto('/payments?search=9001');
  await expect(anyOf(page.getByRole('row', { name: /Tendered.*given back/ }))).toBeVisible();
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
  // One claim is opened at once.
  await expect(page.getByRole('heading', { name: /Claim OL/ })).toBeVisible();
  await listening(page);
  const claim = page.url();
  await withReason(page, 'Hold', 'Why is it held?', 'waits for the chart');
  await expect(anyOf(page.getByText('waits for the chart'))).toBeVisible();
  await page.getByRole('button', { name: 'Let go' }).click();
  await expect(page.getByText('Every rule holds: nothing to fix.')).toBeVisible();
  await page.goBack();

  await listening(page);
  await page.getByRole('row', { name: /99213/ }).getByRole('button', { name: 'Unfold' }).click();
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
  await page.getByRole('row', { name: /99213/ }).getByRole('button', { name: 'Unfold' }).click();
  await withReason(page, 'Void', 'Why is it void?', 'wrong patient');
  await expect.poll(() => figure(page, 'With payers')).toBe(0);
});

test('statements due: one is made from the list, opens as PDF, and stands with those sent', async ({
  page,
  desk,
}) => {
  const made = await registered(desk, 'Quillfeather', 'Ansgar');
  await charge(desk, desk.context, made.patientId, '318.00');
  await signIn(page, 'front-desk');
  await page.goto('/statements?view=due&search=Quillfeather');
  await listening(page);
  const due = page.getByRole('row', { name: /Quillfeather, Ansgar/ });
  await expect(due).toContainText('318.00');
  await due.getByRole('button', { name: 'Make statement' }).click();
  await page.getByRole('button', { name: 'Hand it over' }).click();
  await expect(due).toHaveCount(0);
  await page.goto('/statements?view=sent&search=Quillfeather');
  const sent = page.getByRole('row', { name: /Quillfeather, Ansgar/ });
  await expect(sent).toContainText('318.00');
  const href = await sent.getByRole('link', { name: 'Open PDF' }).getAttribute('href');
  const pdf = await page.request.get(href!);
  expect(pdf.headers()['content-type']).toBe('application/pdf');
  expect((await pdf.body()).subarray(0, 5).toString()).toBe('%PDF-');
});

test('a denial is worked: written off with its reason it leaves the follow-ups and the payer', async ({
  page,
  desk,
}) => {
  const billed = await sentClaim(desk);
  const claim = billed.claim.control_number;
  await postedRemittance(desk, [says(billed, 0, ['CO-97:145.00'])]);
  await signIn(page, 'manager');
  await page.goto('/remittances/follow-ups');
  await listening(page);
  const open = Number((await page.getByTestId('note').innerText()).split(' ')[0]);
  const row = page.getByRole('row', { name: new RegExp(`denial.*${claim}|${claim}.*denial`) });
  await withReason(row, 'Write off', 'Why is it written off?', 'payer confirmed');
  await expect(page.getByText(/written off$/)).toBeVisible();
  await expect(page.getByTestId('note')).toHaveText(`${open - 1} open`);
  await page.goto(`/claims?view=all&search=${claim}`);
  await expect(page.getByRole('row', { name: new RegExp(claim) })).toContainText(/settled|decided/);
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
    anyOf(page.getByText(/Birth date|ZIP/).and(page.locator('.ant-form-item-explain-error, .ant-message *'))),
  ).toBeVisible();
  await expect(page.getByLabel('Last name')).toHaveValue(long);
  await page.getByLabel('Birth date').fill('1931-01-01');
  await page.getByLabel('ZIP').fill('98199');
  await page.getByLabel('ZIP').press('Enter');
  await expect(page.getByRole('heading', { name: `${long}, D'Arcy` })).toBeVisible();
  // The heading wraps or shortens; the page does not grow wider than the screen.
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1280);
});

test('dark and light are kept; what is read is on the audit trail', async ({ page, desk }) => {
  await registered(desk, 'Trailed', 'Vera');
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
    anyOf(page.locator('thead th')).evaluate((cell) => getComputedStyle(cell).backgroundColor);
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
            `
              select count(*) as n
              from audit a
                join "user" u on u.id = a.user_id
              where a.action = 'read' and u.role = 'collector'`,
          )
        ).rows[0]!.n,
      );
    const before = await reads();
    await page.goto('/accounts?search=trailed');
    await page.getByRole('link', { name: /^A-/ }).click();
    await expect(page.getByRole('heading', { name: /Trailed/ })).toBeVisible();
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
