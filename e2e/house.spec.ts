/** What every station has: keys, dates as they are typed, two people at one row, background work, reports. */
import { charge } from '../src/testing/desk';
import {
  provenBooks,
  expect,
  figure,
  listening,
  pressFor,
  signIn,
  test,
  anyOf,
  lastOf,
  registered,
  press,
} from './desk';

test('“?” shows the keys of the page, and a key that belongs to a field does nothing else', async ({
  page,
}) => {
  await signIn(page, 'biller');
  await page.goto('/claims');
  await pressFor(page, 'Shift+?', page.getByRole('dialog', { name: 'Keys' }));
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('look beside the list');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeHidden();
  // In the search field a question mark and a J are letters.
  await page.getByLabel('Number, patient, payer or account').focus();
  await page.keyboard.type('j?x');
  await expect(page.getByLabel('Number, patient, payer or account')).toHaveValue('j?x');
  await expect(page.getByRole('dialog')).toHaveCount(0);
});

test('the cursor of a list is the focus itself, and the address keeps the peek', async ({ page, desk }) => {
  for (const first of ['Ann', 'Bert', 'Cleo']) await registered(desk, 'Cursory', first);
  await signIn(page, 'biller');
  await page.goto('/accounts?search=Cursory');
  await listening(page);
  await page.keyboard.press('ArrowDown');
  const current = page.locator('tr[aria-current="true"]');
  await expect(current).toBeFocused();
  await expect(current).toContainText('Cursory, Bert');
  await page.keyboard.press('End');
  await expect(current).toBeFocused();
  await page.keyboard.press('Home');
  await expect(current).toContainText('Cursory, Ann');
  await expect(
    anyOf(page.getByRole('table', { name: 'Accounts' }).or(page.getByLabel('Accounts'))),
  ).toBeVisible();
});

test('a date is typed as people type it, and picked from a calendar', async ({ page }) => {
  await signIn(page, 'front-desk');
  await page.goto('/accounts/new');
  await listening(page);
  const birth = page.getByLabel('Birth date');
  for (const [typed, written] of [
    ['070480', '1980-07-04'],
    ['7/4/1980', '1980-07-04'],
    ['t', '2026-03-16'],
    ['-30', '2026-02-14'],
  ] as const) {
    await birth.fill(typed);
    await birth.blur();
    await expect(birth).toHaveValue(written);
  }
  await birth.focus();
  await page.keyboard.press('Alt+ArrowDown');
  await anyOf(page.locator('.ant-picker-dropdown').getByText('20', { exact: true })).click();
  await expect(birth).toHaveValue('2026-02-20');
});

test('leaving a form with something typed asks once; what was typed survives a refusal', async ({ page }) => {
  await signIn(page, 'manager');
  await page.goto('/setup/diagnoses');
  await listening(page);
  await press(page, 'n');
  // The cursor is in the first field.
  await expect(page.getByRole('textbox', { name: 'Code' })).toBeFocused();
  await page.keyboard.type('I10');
  await page.getByRole('textbox', { name: 'Description' }).fill('Once more');
  await lastOf(page.getByRole('button', { name: 'Add diagnosis' })).click();
  await expect(page.getByText('There is one like this already')).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Description' })).toHaveValue('Once more');
  await anyOf(page.getByRole('button', { name: 'Close' })).click();
  await expect(page.getByRole('dialog', { name: 'Leave without saving?' })).toBeVisible();
  await page.getByRole('button', { name: 'Go on typing' }).click();
  await expect(page.getByRole('textbox', { name: 'Description' })).toHaveValue('Once more');
  await anyOf(page.getByRole('button', { name: 'Close' })).click();
  await page.getByRole('button', { name: 'Leave', exact: true }).click();
  await expect(page.getByRole('textbox', { name: 'Description' })).toHaveCount(0);
});

test('two people at one row of Setup: the later one sees both, and the row keeps its history', async ({
  page,
  browser,
  baseURL,
}) => {
  await signIn(page, 'manager');
  const other = await browser.newContext({ baseURL });
  const second = await other.newPage();
  await signIn(second, 'manager');
  for (const one of [page, second]) {
    await one.goto('/setup/diagnoses?search=F41.1');
    await listening(one);
    await one.getByRole('button', { name: 'Change' }).click();
  }
  await page.getByRole('textbox', { name: 'Description' }).fill('Worry');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('row', { name: /F41\.1 Worry/ })).toBeVisible();
  await second.getByRole('textbox', { name: 'Description' }).fill('Anxiety, general');
  await second.getByRole('button', { name: 'Save' }).click();
  await expect(second.getByText('Somebody else saved this meanwhile')).toBeVisible();
  await expect(second.getByText(/Description: now Worry, yours Anxiety, general/)).toBeVisible();
  await second.getByRole('button', { name: 'Save' }).click();
  await expect(second.getByRole('row', { name: /F41\.1 Anxiety, general/ })).toBeVisible();
  await second.getByRole('button', { name: 'Change' }).click();
  const history = second.getByRole('region', { name: 'History' });
  await expect(history).toContainText('Worry → Anxiety, general');
  await expect(history).toContainText('Anxiety → Worry');
  await other.close();
});

test('a change of Setup has its claims checked in the background; the work is in the list with its items', async ({
  page,
}) => {
  await signIn(page, 'manager');
  await page.goto('/claims');
  await listening(page);
  await page.getByRole('button', { name: 'Check again' }).click();
  await expect(page.getByText(/Checking \d+ claims: done/)).toBeVisible();
  await page.getByRole('link', { name: 'Work', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Background work' })).toBeVisible();
  await page.goto('/work?view=finished');
  await anyOf(page.getByRole('link', { name: /Checking \d+ claims/ })).click();
  await expect(page.getByRole('heading', { name: /Checking \d+ claims/ })).toBeVisible();
  await expect(page.getByText(/\d+ claims? checked, .* to fix/)).toBeVisible();
});

test('plans lead to what they cover, schedules to their fees', async ({ page }) => {
  await signIn(page, 'manager');
  await page.goto('/setup/plans');
  await page
    .getByRole('row', { name: /Tern Family/ })
    .getByRole('link', { name: 'What it covers' })
    .click();
  await expect(page.getByRole('heading', { level: 1, name: 'What Tern Family covers' })).toBeVisible();
  await page.getByRole('link', { name: 'Plan shares as a list' }).click();
  await expect(page.getByRole('heading', { name: 'Plan shares' })).toBeVisible();
  await expect(page.getByRole('row', { name: /Tern Family major – 50 %/ })).toBeVisible();
  await expect(lastOf(page.getByTestId('note').or(page.locator('tfoot')))).toContainText('4 shares');
  await page.getByRole('link', { name: 'Show all' }).click();
  await expect(anyOf(page.getByRole('row', { name: /Harbor PPO/ }))).toBeVisible();
});

test('a report follows what is chosen, and prints', async ({ page }) => {
  await signIn(page, 'manager');
  await page.goto('/books');
  await page.getByRole('link', { name: 'Reports' }).click();
  await page.getByRole('link', { name: 'Production', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Production', exact: true })).toBeVisible();
  const foot = () => lastOf(page.locator('tfoot tr')).innerText();
  const before = await foot();
  await page.getByLabel('From', { exact: true }).fill('09/01/2025');
  await page.getByLabel('From', { exact: true }).blur();
  await expect(page).toHaveURL(/from=2025-09-01/);
  await expect.poll(foot).not.toBe(before);
  const whole = await foot();
  await page.getByLabel('Grouped by').click();
  await lastOf(page.getByTitle('location')).click();
  await expect(page).toHaveURL(/group=location/);
  await expect(page.getByRole('row', { name: /Harbor Street/ })).toBeVisible();
  // Grouped, the whole stays the whole.
  expect(await foot()).toBe(whole);
  const href = await page.getByRole('link', { name: 'Print' }).getAttribute('href');
  const pdf = await page.request.get(href!);
  expect(pdf.headers()['content-type']).toBe('application/pdf');
  expect((await page.request.get('/api/reports/nothing')).status()).toBe(404);
  await signIn(page, 'front-desk');
  expect((await page.request.get('/api/reports/production')).status()).toBe(403);
});

test('a payment is begun from the payments station, by the person it is from; Back closes the drawer', async ({
  page,
  desk,
}) => {
  const made = await registered(desk, 'Paywell', 'Bruno');
  await charge(desk, desk.context, made.patientId, '80.00');
  await signIn(page, 'front-desk');
  await page.goto('/payments');
  await listening(page);
  await press(page, 'n');
  await page.keyboard.type('paywell');
  await page.getByTitle(/Paywell, Bruno/).click();
  await expect(page.getByLabel('Amount', { exact: true })).toBeVisible();
  await page.goto('/accounts?search=Paywell');
  await page.getByRole('link', { name: /^A-/ }).click();
  await expect(page.getByRole('heading', { name: /Paywell/ })).toBeVisible();
  expect(await figure(page, 'Patient owes now')).toBe(80);
  await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
  await expect(page.getByLabel('Amount', { exact: true })).toBeFocused();
  await page.goBack();
  await expect(page.getByLabel('Amount', { exact: true })).toHaveCount(0);
  await expect(page.getByRole('heading', { name: /Paywell/ })).toBeVisible();
  await provenBooks(desk);
});
