/** The work of a day by keyboard alone, with the keys it takes beyond the characters of what is entered. */
import { household, intake, postedRemittance, remitText, says, sentClaim } from '../src/testing/desk';
import type { Locator, Page } from '@playwright/test';
import { provenBooks, expect, listening, pressFor, shownFigure, signIn, test, anyOf } from './desk';

/** Hands on a keyboard: values are typed, keys are counted. */
class Hands {
  private pressed = 0;
  constructor(private readonly page: Page) {}

  /** Types a value; its characters are not counted. */
  async type(value: string): Promise<void> {
    await this.page.keyboard.type(value);
  }
  /** Presses keys one after the other; each counts. */
  async press(...keys: string[]): Promise<void> {
    for (const key of keys) {
      await this.page.keyboard.press(key);
      this.pressed += 1;
    }
  }
  /** Goes on with Tab (or back) until something has the focus. */
  async tabTo(what: Locator, key: 'Tab' | 'Shift+Tab' = 'Tab'): Promise<void> {
    await expect(what).toBeVisible();
    // A list may have many rows before it.
    for (let most = 0; most < 300; most += 1) {
      if (await what.evaluate((element) => element === document.activeElement)) return;
      await this.press(key);
    }
    throw new Error(`${what.toString()} is not reached with ${key}`);
  }
  /** What was pressed since the last time; told, and held against the most that it may be. */
  within(most: number, what: string): void {
    process.stdout.write(`  keys: ${what}: ${this.pressed} (at most ${most})\n`);
    expect(this.pressed).toBeLessThanOrEqual(most);
    this.pressed = 0;
  }
  /** Goes somewhere by the search field, and waits for its heading; on the way nothing is counted. */
  async goTo(words: string, heading: string | RegExp, hit = words): Promise<void> {
    await listening(this.page);
    const field = this.page.getByLabel('Find or do');
    await expect(async () => {
      await this.page.keyboard.press('/');
      await expect(field).toBeFocused({ timeout: 1500 });
    }).toPass({ timeout: 20_000 });
    await this.page.keyboard.type(words);
    await expect(anyOf(this.page.getByRole('option'))).toContainText(new RegExp(hit, 'i'));
    await this.page.keyboard.press('Enter');
    await expect(this.page.getByRole('heading', { level: 1, name: heading })).toBeVisible();
    await listening(this.page);
    this.pressed = 0;
  }
}

test('by keyboard alone: a covered person is registered, with a visit of three lines; its claim is built and sent', async ({
  page,
  desk,
}) => {
  test.setTimeout(120_000);
  await signIn(page, 'manager');
  const hands = new Hands(page);

  await page.keyboard.press('Escape');
  await hands.goTo('New household', 'New household');
  await expect(page.getByLabel('Last name')).toBeFocused();
  await hands.type('Keyser');
  await hands.press('Tab');
  await hands.type('Kim');
  await hands.press('Tab');
  await hands.type('02/03/1985');
  await hands.press('Tab');
  if (!(await page.getByLabel('Sex').evaluate((field) => field === document.activeElement)))
    await hands.press('Tab');
  await hands.press('Tab');
  await expect(page.getByLabel('Street', { exact: true })).toBeFocused();
  await hands.type('17 Pilot Row');
  await hands.press('Tab', 'Tab');
  await hands.type('Osprey Landing');
  await hands.press('Tab', 'Tab');
  await hands.type('98199');
  await hands.press('Tab');
  await hands.type('555-0188');
  await hands.press('Tab', 'Tab');
  await hands.type('Harbor Copay');
  await expect(anyOf(page.getByTitle(/Harbor Copay/))).toBeVisible();
  await hands.press('Tab');
  await expect(page.getByLabel('Member id')).toBeFocused();
  await hands.type('CSH4711002');
  await hands.press('Tab');
  await hands.type('CS-350');
  await hands.press('Enter');
  await expect(page.getByRole('heading', { name: 'Keyser, Kim' })).toBeVisible();
  await expect(page.getByText(/Harbor Copay, member CSH4711002/)).toBeVisible();
  hands.within(25, 'a covered person registered');
  await expect(page.locator('#quick-code')).toBeVisible();
  await listening(page);
  await hands.press('n');
  await expect(page.locator('#quick-code')).toBeFocused();
  await hands.type('99213');
  await hands.press('Tab', 'Tab', 'Tab');
  await expect(page.locator('#quick-diagnoses')).toBeFocused();
  await hands.type('I10');
  await hands.press('Enter', 'Tab');
  await expect(page.locator('#quick-points')).toBeFocused();
  await hands.press('Enter');
  for (const code of ['36415', '80053']) {
    await expect(page.locator('#quick-code')).toHaveValue('');
    await expect(page.locator('#quick-code')).toBeFocused();
    await hands.type(code);
    await hands.press('Enter');
  }
  await expect(page.getByRole('row', { name: /80053/ })).toBeVisible();
  await expect(page.getByText('not billed yet')).toHaveCount(3);
  hands.within(12, 'a visit of three lines with a diagnosis');
  await page.keyboard.press('Escape');
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  await hands.press('c');
  // One claim is opened at once.
  await expect(page.getByRole('heading', { level: 1, name: /^Claim OL/ })).toBeVisible();
  await listening(page);
  await hands.goTo('Send claims', 'Claims');
  await hands.press('s');
  await expect(page.getByText(/Sent \d+ claims? in \d+ file/)).toBeVisible();
  await provenBooks(desk);
});

test('by keyboard alone: a clean remittance is posted, the balance paid by check, which bounces; a statement says what is owed', async ({
  page,
  desk,
}) => {
  test.setTimeout(120_000);
  const billed = await sentClaim(desk);
  const { outcomes } = await intake(desk.context, remitText([says(billed, 6800)], { trace: 'KEYBOARD' }));
  expect(outcomes).toHaveLength(1);
  await signIn(page, 'manager');
  const hands = new Hands(page);
  await hands.goTo('Post remittances', 'Remittances', 'Post rem');
  await page.goto('/remittances?view=ready&search=KEYBOARD');
  await listening(page);
  await page.keyboard.press('ArrowUp');
  await hands.press('x', 's');
  await expect(page.getByText(/: done$/)).toBeVisible();
  hands.within(2, 'one clean remittance posted');

  await page.goto(`/accounts/${billed.householdId}`);
  await listening(page);
  const owed = await shownFigure(page, 'Patient owes now').innerText();
  await hands.press('p');
  await expect(page.getByLabel('Amount', { exact: true })).toBeFocused();
  await expect(page.getByLabel('Amount', { exact: true })).toHaveValue(owed);
  await hands.press('Tab');
  await expect(page.getByLabel('Check number')).toBeFocused();
  await hands.type('90210');
  await hands.press('Enter');
  await expect(page.getByText(/Received: /)).toBeVisible();
  await expect(shownFigure(page, 'Patient owes now')).toHaveText('–');
  hands.within(4, 'a full-balance check');
  const row = page.getByRole('row', { name: /Received: / });
  await hands.tabTo(row.getByRole('button', { name: 'Unfold' }));
  await hands.press('Enter');
  await hands.tabTo(page.getByRole('button', { name: 'Reverse receipt' }));
  await hands.press('Enter');
  await expect(page.getByLabel('Why is it reversed?')).toBeFocused();
  await hands.type('bounced');
  await hands.press('Enter');
  await expect(page.getByText(/Reversed: .*bounced/)).toBeVisible();
  await expect(shownFigure(page, 'Patient owes now')).not.toHaveText('–');
  await hands.tabTo(page.getByRole('button', { name: 'Statement (S)' }), 'Shift+Tab');
  await hands.press('Enter');
  // It is shown before anything is recorded.
  await expect(page.getByRole('button', { name: 'Hand it over' })).toBeFocused();
  const paper = page.waitForEvent('popup');
  await hands.press('Enter');
  await (await paper).close();
  await expect(page.getByText('handed over')).toBeVisible();
  await provenBooks(desk);
});

test('by keyboard alone: a claim with a stop is mended and goes', async ({ page, desk }) => {
  test.setTimeout(120_000);
  const made = await household(desk, true, { last: 'Keyser', first: 'Kim' });
  await signIn(page, 'manager');
  const hands = new Hands(page);

  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await expect(page.locator('#quick-code')).toBeVisible();
  await hands.press('n');
  await expect(page.locator('#quick-code')).toBeFocused();
  await hands.type('99214');
  await hands.press('Enter');
  await expect(page.getByRole('row', { name: /99214/ })).toBeVisible();
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  await hands.press('c');
  await expect(page.getByRole('heading', { level: 1, name: /^Claim / })).toBeVisible();
  await listening(page);
  await hands.tabTo(anyOf(page.getByRole('link', { name: 'Fix diagnoses' })));
  await hands.press('Enter');
  await hands.tabTo(page.locator('#diagnoses'));
  await hands.type('I10');
  await hands.press('Enter');
  await hands.tabTo(page.getByRole('button', { name: 'Save and go back to the claim' }));
  await hands.press('Enter');
  await expect(page.getByText('Every rule holds: nothing to fix.')).toBeVisible();
  await listening(page);
  await hands.press('s');
  await expect(anyOf(page.getByText('sent', { exact: true }))).toBeVisible();
  await provenBooks(desk);
});

test('by keyboard alone: a denial is worked to its end, a follow-up goes on, and a word of Setup is changed', async ({
  page,
  desk,
}) => {
  test.setTimeout(120_000);
  const billed = await sentClaim(desk);
  await postedRemittance(desk, [says(billed, 0, ['CO-97:145.00'])]);
  await signIn(page, 'manager');
  const hands = new Hands(page);

  await hands.goTo('Work follow-ups', 'Follow-ups');
  const open = Number((await page.getByTestId('note').innerText()).split(' ')[0]);
  const row = page.getByRole('row', { name: new RegExp(billed.claim.control_number) });
  await hands.tabTo(row.getByRole('button', { name: 'Write off' }));
  await hands.press('Enter');
  await expect(page.getByLabel('Why is it written off?')).toBeFocused();
  await hands.type('payer confirmed');
  await hands.press('Enter');
  await expect(page.getByTestId('note')).toHaveText(`${open - 1} open`);
  await hands.goTo('Work follow-ups', 'Follow-ups');
  await hands.press('g');
  await expect(page.getByLabel('What was said')).toBeFocused();
  await hands.type('Asked for the records');
  await hands.press('Enter');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await hands.press('Space');
  await expect(page.getByText('Asked for the records')).toBeVisible();
  await hands.press('Escape');
  await hands.goTo('80053', 'Service codes');
  await pressFor(page, 'Enter', page.getByLabel('Description'));
  // The code is fixed, so that the drawer begins with what it is called.
  await expect(page.getByLabel('Description')).toBeFocused();
  await hands.press('End');
  await hands.type(', all of it');
  await hands.press('Enter');
  await expect(page.getByRole('row', { name: /all of it/ })).toBeVisible();
  await provenBooks(desk);
});
