/** What a listener hears, and whether anybody can use it: every screen, drawer and dialog, in both themes and two widths. */
import type { Page } from '@playwright/test';
import axe from 'axe-core';
import { expect, listening, pressFor, signIn, test } from './desk';

/** Screens, and what opens what stands on them. */
const SCREENS: readonly { path: string; open?: (page: Page) => Promise<void> }[] = [
  { path: '/' },
  { path: '/accounts' },
  { path: '/accounts', open: (page) => pressFor(page, 'Space', page.getByRole('dialog')) },
  { path: '/accounts/new' },
  { path: '/accounts/2' },
  { path: '/accounts/2?show=payment', open: (page) => page.getByLabel('Amount', { exact: true }).waitFor() },
  { path: '/accounts/2?show=story', open: (page) => page.getByText(/yours to pay now/).waitFor() },
  { path: '/accounts/2?show=person', open: (page) => page.getByLabel('Birth date').waitFor() },
  { path: '/accounts/2?show=member', open: (page) => page.getByLabel('Birth date').waitFor() },
  { path: '/accounts/2?show=coverage', open: (page) => page.getByLabel('Whose policy').waitFor() },
  {
    path: '/accounts/2?show=coverage&patient=3&coverage=3',
    open: (page) => page.getByLabel('Member id').waitFor(),
  },
  {
    path: '/accounts/24?show=charge&charge=15',
    open: (page) => page.getByRole('dialog').getByLabel('Fee').waitFor(),
  },
  { path: '/accounts/2?member=2' },
  { path: '/accounts/999999' },
  {
    path: '/setup/diagnoses',
    open: async (page) => {
      // A row has a history once it was changed.
      const change = page.getByRole('button', { name: 'Change' }).first();
      await change.click();
      await page.getByLabel('Description').fill(`Looked at ${Date.now()}`);
      await page.getByRole('button', { name: 'Save' }).click();
      await page.getByRole('dialog').waitFor({ state: 'hidden' });
      await change.click();
      await page.getByRole('region', { name: 'History' }).waitFor({ timeout: 15_000 });
    },
  },
  {
    path: '/claims?view=fix',
    open: async (page) => {
      await page.locator('tbody tr[data-index] a').first().click();
      await page.getByRole('button', { name: 'Withdraw' }).click();
      await page.getByLabel('Why is it withdrawn?').waitFor();
    },
  },
  {
    path: '/remittances/follow-ups',
    open: async (page) => {
      await page.getByRole('button', { name: 'Write off' }).first().click();
      await page.getByLabel('Why is it written off?').waitFor();
    },
  },
  { path: '/remittances?view=held' },
  {
    path: '/remittances?view=unmatched',
    open: async (page) => {
      await page.locator('tbody tr[data-index] a').first().click();
      await page.getByLabel('What it is').first().click();
      await page.locator('.ant-select-item-option').first().waitFor();
    },
  },
  {
    path: '/accounts/2?show=payment',
    open: async (page) => {
      await page.getByLabel('Amount', { exact: true }).waitFor();
      await page.getByText('By hand').click();
      await page.getByRole('dialog').getByRole('textbox').nth(3).waitFor();
    },
  },
  { path: '/setup/terms' },
  { path: '/setup/reasons' },
  { path: '/claims?view=all' },
  {
    path: '/claims?view=all',
    open: (page) => pressFor(page, 'Space', page.getByRole('dialog').getByText('Waiting')),
  },
  {
    path: '/claims?view=all',
    open: (page) => pressFor(page, 'Shift+?', page.getByRole('dialog', { name: 'Keys' })),
  },
  { path: '/claims/unbilled' },
  { path: '/claims/1' },
  {
    path: '/claims/7',
    open: async (page) => {
      await page.getByRole('button', { name: 'Correct and send again' }).click();
      await page.getByLabel('What is corrected').waitFor();
    },
  },
  { path: '/claims/1?part=x12' },
  { path: '/claims/1?part=life' },
  { path: '/remittances?view=all' },
  { path: '/remittances/1' },
  { path: '/remittances/29' },
  {
    path: '/remittances/credit?view=adjustments',
    open: (page) => pressFor(page, 'g', page.getByLabel('Our claim number')),
  },
  { path: '/remittances/follow-ups' },
  {
    path: '/remittances/follow-ups',
    open: (page) => pressFor(page, 'g', page.getByLabel('What was said')),
  },
  { path: '/payments' },
  { path: '/statements' },
  {
    path: '/statements?set=1',
    open: async (page) => {
      await page.getByText(/^Left out/).click();
      await page.getByLabel('Reason').waitFor();
    },
  },
  { path: '/statements?view=due' },
  { path: '/statements?view=all' },
  { path: '/statements/batches/1' },
  { path: '/statements/batches/1?show=again' },
  { path: '/accounts/9?show=statements' },
  { path: '/statements?view=sent' },
  { path: '/overdue' },
  { path: '/overdue?view=all', open: (page) => pressFor(page, 'Space', page.getByRole('dialog')) },
  {
    path: '/overdue?view=all&show=contact&of=34',
    open: (page) => page.getByLabel('What came of it').waitFor(),
  },
  { path: '/overdue/promises?view=all' },
  { path: '/overdue/hardship?view=all' },
  { path: '/overdue/letters?view=all' },
  { path: '/overdue/letters/1', open: (page) => page.getByTestId('letter').waitFor() },
  { path: '/overdue/small' },
  { path: '/overdue/placements?view=all' },
  { path: '/overdue/placements/2' },
  { path: '/accounts/28?show=payment', open: (page) => page.getByLabel('Amount', { exact: true }).waitFor() },
  { path: '/books' },
  { path: '/books/reports' },
  { path: '/books/reports/patient-aging' },
  { path: '/setup/payers' },
  { path: '/setup/plans', open: (page) => pressFor(page, 'n', page.getByRole('dialog')) },
  { path: '/setup/users', open: (page) => pressFor(page, 'n', page.getByRole('dialog')) },
  {
    path: '/setup/users',
    open: async (page) => {
      await page.getByRole('button', { name: 'Change' }).first().click();
      await page.getByRole('button', { name: 'Make a link for another password' }).waitFor();
    },
  },
  { path: '/setup/audit' },
  { path: '/accounts/2/seen' },
  {
    path: '/you',
    open: async (page) => {
      await page.getByRole('button', { name: 'Change the password' }).click();
      await page.getByLabel('New password').waitFor();
    },
  },
  { path: '/work' },
];

/** What is wrong, in words: rule, how bad, where. */
async function faults(page: Page): Promise<string[]> {
  // A row that is half under the sums can be scrolled out from under them: the box ends here where a row ends.
  await page.evaluate(() => {
    for (const foot of document.querySelectorAll('tfoot')) {
      const box = foot.closest('table')?.parentElement;
      if (!box || box.scrollHeight <= box.clientHeight) continue;
      const { top } = foot.getBoundingClientRect();
      const half = [...box.querySelectorAll('tbody tr[data-index]')]
        .map((row) => row.getBoundingClientRect())
        .find((row) => row.top < top && row.bottom > top);
      if (half) box.style.maxHeight = `${box.offsetHeight - (top - half.top)}px`;
    }
  });
  await page.evaluate(axe.source);
  return page.evaluate(async () => {
    const { violations } = await (window as unknown as { axe: typeof axe }).axe.run(document, {
      runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'],
      resultTypes: ['violations'],
    });
    return violations
      .filter(({ impact }) => impact === 'serious' || impact === 'critical')
      .flatMap(({ id, nodes }) =>
        nodes.map((node) => `${id}: ${node.target.join(' ')} · ${node.html.slice(0, 160)}`),
      );
  });
}

for (const theme of ['light', 'dark'] as const)
  for (const width of [1280, 1024])
    test(`every screen, ${theme}, ${width} pixels wide: nothing serious keeps anybody out`, async ({
      page,
      baseURL,
    }) => {
      test.setTimeout(240_000);
      await page.setViewportSize({ width, height: 800 });
      await signIn(page, 'manager');
      await page.context().addCookies([{ name: 'theme', value: theme, url: baseURL! }]);
      const found: string[] = [];
      for (const { path, open } of SCREENS) {
        await page.goto(path);
        await listening(page);
        await open?.(page);
        found.push(...(await faults(page)).map((fault) => `${path}: ${fault}`));
        // Nothing is cut off: what is wider than the screen scrolls inside itself.
        const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
        if (over > 0) found.push(`${path}: ${over} pixels wider than the screen`);
      }
      expect(found).toEqual([]);
    });

test('sign-in can be used by anybody, also while it says that something is wrong', async ({ page }) => {
  await page.goto('/sign-in?idle=1');
  expect(await faults(page)).toEqual([]);
  await page.getByLabel('E-mail').fill('nobody@example.com');
  await page.getByLabel('Password').fill('wrong password');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: 'E-mail or password is wrong.' })).toBeVisible();
  await expect(page.getByLabel('E-mail')).toHaveValue('nobody@example.com');
  expect(await faults(page)).toEqual([]);
});

test('sign-in works before its script is there, and leads where one wanted to go', async ({
  browser,
  baseURL,
}) => {
  const context = await browser.newContext({ baseURL, javaScriptEnabled: false });
  const page = await context.newPage();
  await page.goto('/accounts?search=Abernathy');
  await expect(page).toHaveURL(/sign-in\?to=/);
  await page.getByLabel('E-mail').fill('manager@example.com');
  await page.getByLabel('Password').fill('osprey-landing');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).toHaveURL(/\/accounts\?search=Abernathy/);
  await expect(page.getByRole('heading', { name: 'Accounts' })).toBeVisible();
  await context.close();
});

test('a list is heard as a table: its name, its order, the row under the cursor', async ({ page }) => {
  await signIn(page, 'biller');
  await page.goto('/accounts?search=Abernathy');
  await listening(page);
  await page.keyboard.press('ArrowUp');
  await expect(page.getByRole('table', { name: 'Accounts' })).toMatchAriaSnapshot(`
    - table "Accounts":
      - rowgroup:
        - row:
          - columnheader "Account"
          - columnheader "Guarantor":
            - button "Guarantor"
          - columnheader "Members"
          - columnheader "Phone"
      - rowgroup:
        - row /A-10202 Abernathy, Dale/:
          - cell "A-10202":
            - link "A-10202"
          - cell "Abernathy, Dale"
  `);
  await expect(page.locator('tr[aria-current="true"]')).toBeFocused();
  await page.getByRole('columnheader', { name: 'Balance' }).click();
  await expect(page.getByRole('columnheader', { name: 'Balance' })).toHaveAttribute('aria-sort', 'ascending');
});

test('a ledger row is heard with its amounts, and its button says what it does', async ({ page }) => {
  await signIn(page, 'biller');
  await page.goto('/accounts/2');
  await listening(page);
  const row = page.getByRole('row', { name: /99214 Office visit, 30 minutes/ }).last();
  await expect(row).toMatchAriaSnapshot(`
    - row:
      - cell "Unfold":
        - button "Unfold"
      - cell /\\d+ \\w+ 202\\d/
      - cell "Dale"
      - cell /99214 Office visit, 30 minutes/
  `);
  const unfold = row.getByRole('button', { name: 'Unfold' });
  await expect(unfold).toHaveAttribute('aria-expanded', 'false');
  await unfold.click();
  await expect(row.getByRole('button', { name: 'Fold' })).toHaveAttribute('aria-expanded', 'true');
});

test('a form says at its field what is wrong, and the field says that it is', async ({ page }) => {
  await signIn(page, 'biller');
  await page.goto('/accounts/new');
  await listening(page);
  await page.getByLabel('Last name').fill('Heard');
  await page.keyboard.press('Enter');
  const first = page.getByLabel('First name');
  await expect(first).toHaveAttribute('aria-invalid', 'true');
  await expect(page.getByText('First name is missing')).toBeVisible();
  const described = await first.getAttribute('aria-describedby');
  expect(described).not.toBeNull();
  await expect(page.locator(`[id="${described!.split(' ')[0]!}"]`)).toContainText('First name is missing');
});

test('focus comes back where it was when a drawer closes, and Back closes the drawer only', async ({
  page,
}) => {
  await signIn(page, 'biller');
  await page.goto('/accounts/2');
  await listening(page);
  const button = page.getByRole('button', { name: 'Take payment (P)' });
  await button.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Amount', { exact: true })).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expect(button).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toBeVisible();
  await page.goBack();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expect(page).toHaveURL(/\/accounts\/2$/);
});

test('the title names the person, the claim and the remittance', async ({ page }) => {
  await signIn(page, 'biller');
  for (const [path, title] of [
    ['/accounts/2', /^Abernathy, Dale · A-10202 · Wergeld$/],
    ['/claims/1', /· claim OL\d+\w · Wergeld$/],
    ['/remittances/1', / · Wergeld$/],
    ['/accounts/999999', /Account · Wergeld|Wergeld/],
  ] as const) {
    await page.goto(path);
    await expect(page).toHaveTitle(title);
  }
});

test('the search field finds a telephone number, a birth date, a check and a verb', async ({ page }) => {
  await signIn(page, 'biller');
  await page.goto('/');
  await listening(page);
  const field = page.getByLabel('Find or do');
  for (const [text, hit] of [
    ['555-0121', /Abernathy, Dale/],
    ['02/03/1966', /Abernathy, Dale/],
    ['1966-02-03', /Abernathy, Dale/],
    ['9524', /Check 9524/],
    ['post rem', /Post remittances/],
  ] as const) {
    await field.fill(text);
    await expect(page.getByRole('option', { name: hit }).first()).toBeVisible();
  }
});
