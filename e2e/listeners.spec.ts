/** What a listener hears, and whether anybody can use it: every screen, drawer and dialog, in both themes and two widths. */
import { takeReceipt } from '../src/server/payments/take';
import { charge, postedRemittance, says, sentClaim } from '../src/testing/desk';
import type { Page } from '@playwright/test';
import axe from 'axe-core';
import { type Everything, someOfEverything } from '../src/testing/everything';
import { expect, listening, pressFor, sessionOf, signIn, test, anyOf, registered } from './desk';

/** A screen, by its address, and what opens what stands on it. */
interface Screen {
  path: (made: Everything) => string;
  open?: (page: Page, made: Everything) => Promise<void>;
}
const at = (path: string, open?: Screen['open']): Screen => ({ path: () => path, open });
const account = (
  which: 'paid' | 'unready' | 'placed' | 'plan' | 'lettered',
  more = '',
  open?: Screen['open'],
): Screen => ({ path: (made) => `/accounts/${made[which].householdId}${more}`, open });
const field =
  (name: string): Screen['open'] =>
  (page) =>
    page.getByLabel(name, { exact: true }).waitFor();
const press =
  (key: string, name?: string): Screen['open'] =>
  (page) =>
    pressFor(page, key, name ? page.getByLabel(name) : page.getByRole('dialog'));

/** Screens by station, so that they are looked at side by side. */
const SCREENS: Readonly<Record<string, readonly Screen[]>> = {
  'today and accounts': [
    at('/'),
    at('/accounts'),
    at('/accounts', press('Space')),
    at('/accounts/new'),
    at('/accounts/estimates?view=all'),
    account('paid'),
    account('placed'),
    account('plan'),
    account('paid', '?show=story', (page) => page.getByText(/yours to pay now/).waitFor()),
    account('paid', '?show=person', field('Birth date')),
    account('paid', '?show=member', field('Birth date')),
    account('paid', '?show=coverage', field('Whose policy')),
    {
      path: ({ unready }) => `/accounts/${unready.householdId}?show=charge&charge=${unready.chargeId}`,
      open: (page) => page.getByRole('dialog').getByLabel('Fee').waitFor(),
    },
    { path: ({ paid }) => `/accounts/${paid.householdId}?member=${paid.patientId}` },
    {
      path: ({ paid }) => `/accounts/${paid.householdId}?case=${paid.caseId}`,
      open: (page) => page.getByRole('table', { name: 'Totals of the case' }).waitFor(),
    },
    account('paid', '?show=new-case', async (page) => {
      await page.getByRole('dialog').getByLabel('Kind').waitFor();
      for (const words of ['Add a diagnosis', 'Add a service'])
        await page.getByRole('dialog').getByRole('button', { name: words }).click();
    }),
    account('paid', '?show=notes', field('What it says')),
    account('paid', '?show=statements'),
    account('paid', '/seen'),
    at('/accounts/999999'),
  ],
  'claims and remittances': [
    {
      path: ({ unready }) => `/claims/${unready.claimId}`,
      open: async (page) => {
        await page.getByRole('button', { name: 'Withdraw' }).click();
        await page.getByLabel('Why is it withdrawn?').waitFor();
      },
    },
    at('/claims?view=all'),
    at('/claims?view=all', (page) => pressFor(page, 'Space', page.getByRole('dialog').getByText('Waiting'))),
    at('/claims?view=all', (page) => pressFor(page, 'Shift+?', page.getByRole('dialog', { name: 'Keys' }))),
    at('/claims/unbilled'),
    at('/claims/unbilled?view=next'),
    at('/claims/prints'),
    { path: ({ checkId }) => `/claims/checks/${checkId}` },
    { path: ({ checkId }) => `/claims/checks/${checkId}/file` },
    { path: ({ correctionId }) => `/claims/${correctionId}` },
    {
      path: ({ correctionId }) => `/claims/${correctionId}`,
      open: async (page) => {
        await page.getByRole('button', { name: 'Who did it, and where' }).click();
        await page.getByRole('dialog').getByLabel('Done by').waitFor();
      },
    },
    { path: ({ correctionId }) => `/claims/${correctionId}?part=paper` },
    { path: ({ paid }) => `/claims/${paid.claim.id}` },
    {
      path: ({ denied }) => `/claims/${denied.claim.id}`,
      open: async (page) => {
        await page.getByRole('button', { name: 'Correct and send again' }).click();
        await page.getByLabel('What is corrected').waitFor();
      },
    },
    { path: ({ paid }) => `/claims/${paid.claim.id}?part=x12` },
    { path: ({ paid }) => `/claims/${paid.claim.id}?part=life` },
    at('/remittances?view=held'),
    at('/remittances?view=all'),
    { path: ({ remittanceId }) => `/remittances/${remittanceId}` },
    { path: ({ heldId }) => `/remittances/${heldId}` },
    at('/remittances/keyed?view=all', press('n')),
    { path: ({ keyedId }) => `/remittances/keyed/${keyedId}` },
    {
      path: ({ remittanceId }) => `/remittances/${remittanceId}`,
      open: async (page) => {
        await page.getByLabel('What it is').click();
        await page.locator('.ant-select-dropdown:visible').waitFor();
      },
    },
    at('/remittances/credit?view=adjustments'),
    at('/remittances/contract'),
    {
      path: ({ paid }) => `/remittances/contract?payer=${paid.claim.payer_id}`,
      open: async (page) => {
        await anyOf(
          page.getByRole('table', { name: 'Differences from contracts' }).getByRole('link'),
        ).click();
        await page.getByRole('dialog').getByRole('table', { name: 'Lines' }).waitFor();
        await page.getByRole('dialog').getByRole('button', { name: 'Let it be' }).click();
        await page.getByLabel('Why is it let be?').waitFor();
      },
    },
    at('/remittances/contract/letters?view=all'),
    at('/remittances/reasons/CO/45'),
    at('/remittances/reasons/97'),
    at('/remittances/follow-ups'),
    at('/remittances/follow-ups', press('g', 'What was said')),
    {
      path: ({ denied }) => `/remittances/follow-ups?search=${denied.claim.control_number}`,
      open: async (page, { denied }) => {
        const row = page.getByRole('row', { name: new RegExp(denied.claim.control_number) });
        await row.getByRole('button', { name: 'Write off' }).click();
        await page.getByLabel('Why is it written off?').waitFor();
      },
    },
    {
      path: ({ denied }) => `/remittances/follow-ups?search=${denied.claim.control_number}`,
      open: async (page, { denied }) => {
        const row = page.getByRole('row', { name: new RegExp(denied.claim.control_number) });
        await row.getByRole('button', { name: 'Pass on' }).click();
        await page.getByLabel('Why, in words for the patient').waitFor();
      },
    },
  ],
  'payers and what plans cover': [
    at('/payers/1', (page) => page.getByRole('button', { name: 'Add agreement' }).waitFor()),
    at('/payers/1?show=own', field('Payer id')),
    at('/payers/1?show=payer-providers', field('Own number')),
    at('/payers/1?show=merge', field('How they were found to be one')),
    at('/terms/1', (page) => page.getByRole('status', { name: 'Estimate' }).waitFor()),
    at('/terms/1?show=limits', field('Number')),
    at('/payers/999999'),
  ],
  'payments, statements and plans': [
    at('/payments'),
    at('/payments/day'),
    at('/payments/credits?view=all'),
    at('/payments/refunds'),
    at('/payments/unclaimed?view=out'),
    at('/payments/visits'),
    at('/payments/visits', async (page) => {
      await anyOf(page.getByRole('button', { name: 'Check in' })).click();
      await page.getByLabel('For this visit').waitFor();
    }),
    account('paid', '?show=payment', async (page) => {
      await page.getByLabel('Amount', { exact: true }).waitFor();
      await page.getByRole('button', { name: 'Another tender' }).click();
      await page.getByLabel('Amount 2').waitFor();
      await page.getByText('In my order').click();
    }),
    account('plan', '?show=payment', field('Amount')),
    account('paid', '?show=payment', async (page) => {
      await page.getByLabel('Amount', { exact: true }).waitFor();
      await page.getByText('By hand').click();
      await page
        .getByRole('table', { name: 'What is paid' })
        .getByRole('textbox')
        .and(page.locator('[value]'))
        .waitFor();
    }),
    account('placed', '?show=payment', field('Amount')),
    at('/statements'),
    at('/statements', async (page) => {
      await page.getByText(/^Left out/).click();
      await page.getByLabel('Reason').waitFor();
    }),
    at('/statements?view=due'),
    at('/statements?view=all'),
    { path: ({ draft }) => `/statements/batches/${draft.batchId}` },
    { path: ({ draft }) => `/statements/batches/${draft.batchId}?show=again` },
    at('/statements?view=sent'),
    at('/plans'),
  ],
  overdue: [
    at('/overdue'),
    at('/overdue?view=all', press('Space')),
    {
      path: ({ late }) => `/overdue?view=all&show=contact&of=${late.householdId}`,
      open: (page) => page.getByLabel('What came of it').waitFor(),
    },
    at('/overdue/promises?view=all'),
    at('/overdue/hardship?view=all'),
    at('/overdue/letters?view=all'),
    { path: ({ letterBatchId }) => `/overdue/batches/${letterBatchId}` },
    at('/overdue/small'),
    at('/overdue/placements?view=all'),
    { path: ({ placed }) => `/overdue/placements/${placed.placementId}` },
    { path: ({ proposed }) => `/overdue/placements/${proposed.placementId}` },
  ],
  'books, setup and work': [
    at('/books/contracts'),
    at('/fees/1', (page) => page.getByLabel('Fee, 99213', { exact: true }).waitFor()),
    at('/fees/1?show=raise', (page) => page.getByLabel('By percent').waitFor()),
    at('/fees/compare?with=1.3.4'),
    at('/books'),
    at('/books/reports'),
    at('/books/reports/patient-aging'),
    at('/setup/payers'),
    at('/setup/limits', press('n')),
    at('/setup/reductions', press('n')),
    at('/setup/reasons'),
    at('/setup/plans', press('n')),
    at('/setup/users', press('n')),
    at('/setup/users?search=user1', async (page) => {
      await page.getByRole('button', { name: 'Change' }).click();
      await page.getByRole('button', { name: /Make (a|another) link/ }).waitFor();
    }),
    at('/setup/diagnoses?search=I10', async (page) => {
      // A row has a history once it was changed.
      const change = page.getByRole('row', { name: /^I10 / }).getByRole('button', { name: 'Change' });
      await change.click();
      await page.getByLabel('Description').fill('Looked at');
      await page.getByRole('button', { name: 'Save' }).click();
      await page.getByRole('dialog').waitFor({ state: 'hidden' });
      await change.click();
      await page.getByRole('region', { name: 'History' }).waitFor();
    }),
    at('/setup/audit'),
    at('/you', async (page) => {
      await page.getByRole('button', { name: 'Change the password' }).click();
      await page.getByLabel('New password').waitFor();
    }),
    at('/work'),
  ],
};

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

/**
 * Pixels by which a page is wider than its screen: what is wider scrolls inside itself. A chart takes a moment to be drawn anew by
 * another width.
 */
async function over(page: Page): Promise<number> {
  for (let again = 0; ; again += 1) {
    const wider = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    if (wider <= 0 || again === 20) return wider;
    await page.waitForTimeout(100);
  }
}

for (const [station, screens] of Object.entries(SCREENS))
  test(`${station}: nothing serious keeps anybody out, and nothing is cut off in either theme and width`, async ({
    page,
    desk,
  }) => {
    test.setTimeout(480_000);
    const made = await someOfEverything(desk, 1);
    await sessionOf(page, 'manager');
    const found: string[] = [];
    for (const { path, open } of screens) {
      const address = path(made);
      await page.setViewportSize({ width: 1280, height: 800 });
      await page.goto(address);
      await listening(page);
      await open?.(page, made);
      found.push(...(await faults(page)).map((fault) => `${address}: ${fault}`));
      // The themes differ in their tokens alone, whose contrast is tested where they stand: here it is the layout.
      for (const theme of ['light', 'dark'])
        for (const width of [1024, 1280]) {
          await page.setViewportSize({ width, height: 800 });
          await page.evaluate((name) => document.documentElement.setAttribute('data-theme', name), theme);
          const wider = await over(page);
          if (wider > 0) found.push(`${address}, ${theme}, ${width}: ${wider} pixels wider than the screen`);
        }
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
  await page.goto('/accounts?search=Nobody');
  await expect(page).toHaveURL(/sign-in\?to=/);
  await page.getByLabel('E-mail').fill('manager@example.com');
  await page.getByLabel('Password').fill('osprey-landing');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).toHaveURL(/\/accounts\?search=Nobody/);
  await expect(page.getByRole('heading', { name: 'Accounts' })).toBeVisible();
  await context.close();
});

test('a list is heard as a table: its name, its order, the row under the cursor', async ({ page, desk }) => {
  await registered(desk, 'Heardley', 'Dale');
  await signIn(page, 'biller');
  await page.goto('/accounts?search=Heardley');
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
        - row /A-\\d+ Heardley, Dale/:
          - cell /A-\\d+/:
            - link /A-\\d+/
          - cell "Heardley, Dale"
  `);
  await expect(page.locator('tr[aria-current="true"]')).toBeFocused();
  await page.getByRole('columnheader', { name: 'Balance' }).click();
  await expect(page.getByRole('columnheader', { name: 'Balance' })).toHaveAttribute('aria-sort', 'ascending');
});

test('a ledger row is heard with its amounts, and its button says what it does', async ({ page, desk }) => {
  const made = await registered(desk, 'Ledgerly', 'Dale');
  await charge(desk, desk.context, made.patientId, '80.00', '99214');
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  const row = page.getByRole('row', { name: /99214 Office visit, 30 minutes/ });
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
  desk,
}) => {
  const { householdId } = await registered(desk, 'Focused', 'Dale');
  await signIn(page, 'biller');
  await page.goto(`/accounts/${householdId}`);
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
  await expect(page).toHaveURL(new RegExp(`/accounts/${householdId}$`));
});

test('the title names the person, the claim and the remittance', async ({ page, desk }) => {
  const billed = await sentClaim(desk);
  const remittanceId = await postedRemittance(desk, [says(billed, 9800, ['CO-45:47.00'])]);
  await signIn(page, 'biller');
  for (const [path, title] of [
    [`/accounts/${billed.householdId}`, /^Tester, Nr\d+ · A-\d+ · Wergeld$/],
    [`/claims/${billed.claim.id}`, new RegExp(`· claim ${billed.claim.control_number} · Wergeld$`)],
    [`/remittances/${remittanceId}`, /^Cedar Sound Health.* · Wergeld$/],
    ['/accounts/999999', /Account · Wergeld|Wergeld/],
  ] as const) {
    await page.goto(path);
    await expect(page).toHaveTitle(title);
  }
});

test('the search field finds a telephone number, a birth date, a check and a verb', async ({
  page,
  desk,
}) => {
  const { householdId } = await registered(desk, 'Foundling', 'Dale', {
    phone: '555-0177',
    birthDate: '1961-02-03',
  });
  await takeReceipt(desk.context, {
    householdId,
    tenders: [{ tender: 'check', amount: '5.00', reference: '95247' }],

    key: 'found-check',
  });
  await signIn(page, 'biller');
  await page.goto('/');
  await listening(page);
  const field = page.getByLabel('Find or do');
  for (const [text, hit] of [
    ['555-0177', /Foundling, Dale/],
    ['02/03/1961', /Foundling, Dale/],
    ['1961-02-03', /Foundling, Dale/],
    ['95247', /Check 95247/],
    ['post rem', /Post remittances/],
  ] as const) {
    await field.fill(text);
    await expect(anyOf(page.getByRole('option', { name: hit }))).toBeVisible();
  }
});
