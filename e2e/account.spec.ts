/** The account page as a whole: its acts, its quick line at the foot of every window, and the page on paper. */
import { execFileSync } from 'node:child_process';
import { charge } from '../src/testing/desk';
import {
  type Desk,
  anyOf,
  expect,
  listening,
  press,
  pressFor,
  registered,
  sessionOf,
  signIn,
  test,
} from './desk';

const CHARGES = 60;

/** A household with a ledger that is longer than any window. */
async function longAccount(desk: Desk): Promise<string> {
  const made = await registered(desk, 'Longwell', 'Ada');
  for (let index = 0; index < CHARGES; index += 1)
    await charge(desk, desk.context, made.patientId, `${100 + index}.00`);
  return `/accounts/${made.householdId}`;
}

test('the quick line and its estimate stand in the window, however small it is and long the ledger', async ({
  page,
  desk,
}) => {
  const account = await longAccount(desk);
  await signIn(page, 'manager');
  // The last two are 1280 and 1024 pixels at 125 percent.
  for (const [width, height] of [
    [1280, 800],
    [1024, 768],
    [1024, 640],
    [819, 614],
  ] as const) {
    await page.setViewportSize({ width, height });
    await page.goto(account);
    await listening(page);
    const line = page.getByRole('region', { name: 'New charge' });
    await expect(line).toBeVisible();
    await press(page, 'n');
    await expect(page.getByLabel('Code (N)')).toBeFocused();
    await page.getByLabel('Code (N)').fill('99213');
    await expect(line.getByLabel('Estimate')).toContainText('Expected from the patient');
    // Nobody has scrolled anything.
    await expect(line).toBeInViewport({ ratio: 1 });
    await expect(anyOf(page.getByRole('row', { name: /^Date/ }).or(page.getByLabel('Ledger')))).toBeVisible();
  }
});

test('all acts of an account have a key of their own, and those in a menu are reached by keyboard', async ({
  page,
  desk,
}) => {
  const made = await registered(desk, 'Actworth', 'Bo');
  await charge(desk, desk.context, made.patientId, '100.00');
  await sessionOf(page, 'manager');
  await page.setViewportSize({ width: 1024, height: 768 });
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  const keys = (await page.evaluate(() => document.documentElement.dataset.keys ?? '')).split(' ');
  expect(keys.length).toBeGreaterThan(9);
  expect(keys.filter((key, index) => keys.indexOf(key) !== index)).toEqual([]);
  const bar = page.getByRole('group', { name: 'What can be done' });
  await expect(anyOf(bar.getByRole('button'))).toHaveText('Take payment (P)');
  await bar.getByRole('button', { name: /^Paper/ }).focus();
  await page.keyboard.press('Enter');
  const item = page.getByRole('menuitem', { name: /^Mail and stops/ });
  await expect(item).toBeVisible();
  // The menu takes the keys once it is open.
  await expect(async () => {
    await page.keyboard.press('ArrowDown');
    await expect(item).toBeFocused({ timeout: 300 });
  }).toPass();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog', { name: 'Mail and stops' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  // The same by its key, without the menu.
  await pressFor(page, 'm', page.getByRole('dialog', { name: 'Mail and stops' }));
});

test('a printed account is the page alone: every row of it, on light ground', async ({ page, desk }) => {
  const account = await longAccount(desk);
  await sessionOf(page, 'manager');
  await page.goto(account);
  await page.evaluate(() => document.documentElement.setAttribute('data-theme', 'dark'));
  await listening(page);
  const drawn = page.getByRole('table', { name: 'Ledger' }).locator('tbody tr[data-index]');
  expect(await drawn.count()).toBeLessThan(CHARGES);
  const file = test.info().outputPath('page.pdf');
  await page.pdf({ path: file, preferCSSPageSize: true, printBackground: true });
  const text = execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' });
  for (let index = 0; index < CHARGES; index += 1) expect(text).toContain(`${100 + index}.00`);
  expect(text.match(new RegExp(`${CHARGES} charges`, 'g'))).toHaveLength(1);
  for (const pressed of ['Sign out', 'Take payment', 'Code (N)', 'Whole household'])
    expect(text).not.toContain(pressed);
  await page.emulateMedia({ media: 'print' });
  const colors = await page
    .getByRole('heading', { level: 1 })
    .evaluate((head) => [getComputedStyle(head).color, getComputedStyle(document.body).backgroundColor]);
  // Ink, on the paper itself.
  expect(colors).toEqual(['rgb(29, 42, 38)', 'rgba(0, 0, 0, 0)']);
});

test('a note at the head of the account is written and taken from there, and stays on the record', async ({
  page,
  desk,
}) => {
  const made = await registered(desk, 'Noteworthy', 'Cal');
  await sessionOf(page, 'front-desk');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  const drawer = page.getByRole('dialog', { name: 'Notes' });
  await pressFor(page, 'e', drawer);
  await expect(drawer.getByText('Nothing is noted yet.')).toBeVisible();
  await drawer.getByText('At the head of the account').click();
  await drawer.getByLabel('What it says').fill('Speak slowly, he reads lips');
  await drawer.getByLabel('What it says').press('Enter');
  const main = page.getByRole('main');
  await expect(main.getByText('Speak slowly, he reads lips')).toBeVisible();
  await expect(drawer.getByText(/at the head of the account/)).toBeVisible();
  await drawer.getByRole('button', { name: 'Take from the head' }).click();
  await expect(drawer.getByText(/ended on .* by/)).toBeVisible();
  await expect(main.getByText('Speak slowly, he reads lips')).toHaveCount(0);
  // For the patient it needs an end, which is asked for.
  await drawer.getByText('For the patient', { exact: true }).click();
  await drawer.getByLabel('So many times').fill('');
  await drawer.getByLabel('What it says').fill('Thank you');
  await drawer.getByLabel('What it says').press('Enter');
  await expect(drawer.getByText(/how many times it prints is missing/)).toBeVisible();
  await drawer.getByLabel('So many times').fill('2');
  await drawer.getByLabel('What it says').press('Enter');
  await expect(drawer.getByText(/prints 2 times/)).toBeVisible();
});
