/** A remittance on paper, keyed with the keyboard: what is expected by Enter, what differs typed, one line denied. */
import type { Page } from '@playwright/test';
import { postedRemittance, says, sentClaim } from '../src/testing/desk';
import { expect, figure, listening, provenBooks, signIn, test } from './desk';

const begin = async (page: Page, amount: string, trace: string): Promise<void> => {
  await page.goto('/remittances/keyed');
  await listening(page);
  await page.keyboard.press('n');
  const form = page.getByRole('dialog', { name: 'Key a remittance from paper' });
  await form.getByLabel('Payer').fill('Cedar Sound');
  await page.keyboard.press('Tab');
  await form.getByLabel('Payment', { exact: true }).fill(amount);
  await form.getByLabel('Check or transfer number').fill(trace);
  await form.getByLabel('Check or transfer number').press('Enter');
  await expect(page.getByLabel('Claim number')).toBeVisible();
};

test('twelve claims with one denied line: a clean line is one key, and what is left is always in sight', async ({
  page,
  desk,
}) => {
  const sent = [];
  for (let at = 0; at < 12; at += 1)
    sent.push(await sentClaim(desk, at === 4 ? ['145.00', '145.00'] : ['145.00']));
  await signIn(page, 'manager');
  // Thirteen lines, of which one is denied: 12 times 68.00.
  await begin(page, '816.00', 'PAPER-12');
  for (const [at, { claim }] of sent.entries()) {
    const number = page.getByLabel('Claim number');
    await expect(number).toBeFocused();
    await number.pressSequentially(claim.control_number);
    await page.keyboard.press('Enter');
    const lines = page.getByRole('table', { name: `Lines of ${claim.control_number}` });
    await expect(lines.getByLabel('Allowed of 99213, line 1')).toBeFocused();
    // What is expected stands in grey.
    await expect(lines.getByLabel('Paid of 99213, line 1')).toHaveAttribute('placeholder', '68.00');
    await page.keyboard.press('Enter');
    if (at === 4) {
      await expect(lines.getByLabel('Allowed of 99213, line 2')).toBeFocused();
      // A word that does not add up is not left.
      await lines.getByLabel('Paid of 99213, line 2').fill('0');
      await lines.getByLabel('Reasons of 99213, line 2').fill('CO-97 144.00');
      await page.keyboard.press('Enter');
      await expect(lines.getByRole('alert')).toContainText('1.00 is not explained');
      await lines.getByLabel('Reasons of 99213, line 2').fill('CO-97 145.00 N130');
      await page.keyboard.press('Enter');
    }
    await expect(lines).toHaveCount(0);
    await expect(page.getByRole('row', { name: new RegExp(claim.control_number) })).toContainText('whole');
  }
  expect(await figure(page, 'Left')).toBe(0);
  await page.getByLabel('Claim number').press('Escape');
  await page.keyboard.press('s');
  await expect(page.getByText('12 claims posted')).toBeVisible();
  await expect(page.getByText('closed and posted')).toBeVisible();
  await page.getByRole('link', { name: 'what it posted' }).click();
  await expect(page.getByRole('link', { name: 'keyed from paper' })).toBeVisible();
  await provenBooks(desk);
});

test('the payment alone waits in the payer’s credit, and is explained when its paper comes', async ({
  page,
  desk,
}) => {
  const { claim } = await sentClaim(desk);
  await signIn(page, 'biller');
  await begin(page, '68.00', 'PAPER-ONLY');
  await page.getByRole('button', { name: /Close: 68\.00 waits/ }).click();
  await expect(page.getByText('closed and posted')).toBeVisible();
  await page.getByRole('button', { name: 'Explain it' }).click();
  await page.getByLabel('Why is it opened again?').fill('the paper came');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Opened again: the paper came')).toBeVisible();
  await page.getByLabel('Claim number').pressSequentially(claim.control_number);
  await page.keyboard.press('Enter');
  const lines = page.getByRole('table', { name: `Lines of ${claim.control_number}` });
  await expect(lines.getByLabel('Allowed of 99213, line 1')).toBeFocused();
  // Left unfinished, it is found again by the number of the claim.
  await page.getByRole('button', { name: 'Keep it unfinished' }).click();
  await expect(page.getByText('is kept')).toBeVisible();
  await page.goto(`/remittances/keyed?search=${claim.control_number}`);
  await page.getByRole('link', { name: 'PAPER-ONLY' }).click();
  await expect(lines.getByLabel('Allowed of 99213, line 1')).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('row', { name: new RegExp(claim.control_number) })).toContainText('whole');
  await page.getByRole('button', { name: /Close and post/ }).click();
  await expect(page.getByText('1 claim posted')).toBeVisible();
  // A biller does not open what has claims again.
  await expect(page.getByRole('button', { name: 'Open again' })).toHaveCount(0);
  await provenBooks(desk);
});

test('from a payer’s line in the ledger to its whole check, and back to the same line', async ({
  page,
  desk,
}) => {
  const sent = [];
  for (let at = 0; at < 10; at += 1) sent.push(await sentClaim(desk));
  await postedRemittance(
    desk,
    sent.map((one) => says(one, 6800)),
  );
  const { householdId, claim, charges } = sent[7]!;
  await signIn(page, 'biller');
  await page.goto(`/accounts/${householdId}?charge=${charges[0]}`);
  await listening(page);
  await page.getByRole('link', { name: 'whole remittance' }).click();
  const row = page.getByRole('row', { name: new RegExp(claim.control_number) });
  // Its line is unfolded, and says what the payer said.
  await expect(row).toBeVisible();
  await expect(page.getByText('CO-45')).toHaveCount(1);
  expect(await figure(page, 'Posted to claims')).toBe(680);
  await listening(page);
  await page.keyboard.press('Escape');
  await expect(page).toHaveURL(new RegExp(`/accounts/${householdId}\\?charge=${charges[0]}`));
  await expect(page.getByRole('link', { name: 'whole remittance' })).toBeVisible();
});
