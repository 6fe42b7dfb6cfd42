import { charge, household } from '../src/testing/desk';
import { buildClaims } from '../src/server/claims/build';
import { readFileSync } from 'node:fs';
import pg from 'pg';
import { provenBooks, expect, listening, pressFor, signIn, test, lastOf, registered } from './desk';

test('signing in: a wrong password is refused in words, signing out ends the session', async ({ page }) => {
  await page.goto('/accounts');
  await expect(page).toHaveURL(/sign-in/);
  await page.getByLabel('E-mail').fill('biller@example.com');
  await page.getByLabel('Password').fill('wrong password');
  await page.keyboard.press('Enter');
  await expect(page.getByText('E-mail or password is wrong.')).toBeVisible();
  await signIn(page, 'collector', true);
  await listening(page);
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page).toHaveURL(/sign-in/);
  await page.goto('/accounts');
  await expect(page).toHaveURL(/sign-in/);
});

test('lists go by keyboard: move, look, open, and back; the peek has an address', async ({ page, desk }) => {
  await registered(desk, 'Keyhand', 'Ann');
  await registered(desk, 'Keyhand', 'Bert');
  await signIn(page, 'biller');
  await page.goto('/accounts?search=Keyhand');
  await expect(page.getByRole('row', { name: /Keyhand, Ann/ })).toBeVisible();
  await pressFor(page, 'Space', page.getByRole('dialog'));
  await expect(page.getByRole('dialog')).toContainText('Keyhand, Ann');
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('dialog')).toContainText('Keyhand, Bert');
  await expect(page).toHaveURL(/peek=/);
  await page.keyboard.press('ArrowUp');
  await expect(page.getByRole('dialog')).toContainText('Keyhand, Ann');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Keyhand, Ann' })).toBeVisible();
  await listening(page);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('heading', { name: 'Accounts' })).toBeVisible();
});

test('the search field finds people and claims and runs commands', async ({ page, desk }) => {
  await registered(desk, 'Seekwell', 'Bruno');
  await signIn(page, 'biller');
  await listening(page);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('seekwell');
  await expect(page.getByRole('option', { name: /Seekwell, Bruno/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: /Seekwell/ })).toBeVisible();
});

test('a broken file is refused with its place and changes nothing; the books hold', async ({
  page,
  desk,
}) => {
  await signIn(page, 'manager');
  await page.goto('/remittances?view=all');
  await listening(page);
  const count = await page.getByTestId('note').innerText();
  await page.getByLabel('Remittance file').setInputFiles({
    name: 'statement.835',
    mimeType: 'application/octet-stream',
    buffer: Buffer.from(`%PDF-1.7 ${'x'.repeat(200)}`),
  });
  await expect(page.getByText(/was not taken in.*expected ISA.*Nothing was changed/)).toBeVisible();
  expect(await page.getByTestId('note').innerText()).toBe(count);
  await page.goto('/books');
  await expect(page.getByText(/proven: \d+ invariants hold/)).toBeVisible();
  await provenBooks(desk);
});

test('setup: a wrong NPI is refused, a right change is kept', async ({ page }) => {
  await signIn(page, 'manager');
  await page.goto('/setup/providers');
  await page
    .getByRole('row', { name: /Okafor/ })
    .getByRole('button', { name: 'Change' })
    .click();
  await page.getByRole('textbox', { name: 'NPI' }).fill('1234567890');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText(/does not pass its check digit/)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.goto('/setup/reasons?search=Deductible');
  await expect(page.getByRole('row', { name: /every group 1 Deductible/ })).toBeVisible();
});

test('a session ends after half an hour without use; each use begins it anew', async ({ page, desk }) => {
  await desk.pool.query('delete from session');
  const { householdId } = await registered(desk, 'Idle', 'Nora');
  const db = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await db.connect();
  /** Makes the last use of the collector's newest session some minutes ago. */
  const usedAgo = (minutes: number) =>
    db.query(
      `update session set seen_at = now() - make_interval(mins => $1) where id =
       (
         select s.id
         from session s
           join "user" u on u.id = s."userId"
         where u.role = 'collector'
         order by s."createdAt" desc
         limit 1
       )`,
      [minutes],
    );
  const minutesAgo = async () =>
    (
      await db.query<{ ago: string }>(
        `
          select extract(epoch from now() - max(s.seen_at)) / 60 as ago
          from session s
            join "user" u on u.id = s."userId"
          where u.role = 'collector'`,
      )
    ).rows.map((row) => Math.round(Number(row.ago)))[0]!;
  try {
    await signIn(page, 'collector', true);
    expect(await minutesAgo()).toBe(0);
    await usedAgo(27);
    await page.goto('/accounts?view=owes');
    await expect(page.getByRole('heading', { name: 'Accounts' })).toBeVisible();
    expect(await minutesAgo()).toBe(0);

    await page.goto(`/accounts/${householdId}`);
    await listening(page);
    await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
    await page.getByLabel('Amount', { exact: true }).fill('1.00');
    await page.getByLabel('Check number').fill('12');
    // Nothing is on its way any more that would find out by itself.
    await page.waitForLoadState('networkidle');
    await usedAgo(31);
    const { rows: before } = await db.query('select count(*) as n from receipt');
    await page.keyboard.press('Enter');
    await expect(page.getByText('You were signed out: sign in again. Nothing was changed.')).toBeVisible();
    expect((await db.query('select count(*) as n from receipt')).rows).toEqual(before);
    await page.goto('/accounts');
    await expect(page).toHaveURL(/sign-in/);
    expect((await page.request.get('/api/statements/1')).status()).toBe(401);
  } finally {
    await db.end();
  }
});

test('a page that nobody uses for half an hour leaves the screen, and sign-in leads back to it', async ({
  page,
}) => {
  await page.clock.install();
  await signIn(page, 'front-desk', true);
  await page.goto('/accounts?view=owes');
  await listening(page);
  await page.clock.fastForward('29:00');
  await page.mouse.move(300, 300);
  await page.clock.fastForward('29:00');
  await expect(page.getByRole('heading', { name: 'Accounts' })).toBeVisible();
  await page.clock.fastForward('02:00');
  await expect(page).toHaveURL(/sign-in\?idle=1&to=%2Faccounts%3Fview%3Dowes/);
  await expect(page.getByText('You were signed out after half an hour without use.')).toBeVisible();
  await page.goBack();
  await expect(page).toHaveURL(/sign-in/);
  await page.goto('/sign-in?idle=1&to=%2Faccounts%3Fview%3Dowes');
  await page.getByLabel('E-mail').fill('front-desk@example.com');
  await page.getByLabel('Password').fill('osprey-landing');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Accounts' })).toBeVisible();
  await expect(page).toHaveURL(/accounts\?view=owes/);
});

test('a page asks for no other page before it is wanted', async ({ page }) => {
  await signIn(page, 'biller');
  const asked: string[] = [];
  page.on('request', (request) => {
    if (request.headers().rsc) asked.push(request.url());
  });
  for (const path of ['/claims', '/overdue', '/']) {
    await page.goto(path);
    await listening(page);
    // What is fetched ahead is fetched as soon as nothing else is to be done.
    await page.waitForLoadState('networkidle');
  }
  expect(asked).toEqual([]);
});

test('a list keeps the columns a person chooses, orders by any of them, and goes to a spreadsheet as shown', async ({
  page,
}) => {
  await signIn(page, 'manager');
  await page.goto('/accounts?view=owes');
  await listening(page);
  const titles = () => page.locator('thead th').allInnerTexts();
  expect(await titles()).toContain('Phone');
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('checkbox', { name: 'Phone' }).click();
  await page.getByRole('checkbox', { name: 'Last statement' }).click();
  await page.getByRole('button', { name: 'Balance earlier' }).click();
  await expect.poll(titles).not.toContain('Phone');
  await expect
    .poll(titles)
    .toEqual([
      'Account',
      'Guarantor',
      'Members',
      'Last visit',
      'With payers',
      'Owes now',
      'On plans or placed',
      'Balance',
      'Less credit',
      'Last statement',
    ]);
  await page.reload();
  await listening(page);
  await page.getByRole('columnheader', { name: 'Owes now' }).click();
  await expect(page).toHaveURL(/order=withPatient/);
  await page.getByRole('columnheader', { name: 'Owes now' }).click();
  await expect(page).toHaveURL(/order=-withPatient/);
  const owed = async () =>
    (await page.locator('tbody tr[data-index] td:nth-child(6)').allInnerTexts()).map((text) =>
      Number(text.replace(/[^\d.]/g, '')),
    );
  await expect.poll(owed).toEqual([...(await owed())].sort((a, b) => b - a));
  expect((await owed()).length).toBeGreaterThan(3);

  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'CSV' }).click();
  const file = await download;
  expect(file.suggestedFilename()).toMatch(/^accounts-\d{4}-\d\d-\d\d\.csv$/);
  const lines = readFileSync((await file.path())!, 'utf8')
    .trimEnd()
    .split('\r\n');
  expect(lines[0]).toBe((await titles()).join(','));
  // Of a long list only what is seen is drawn: its footer says how many there are.
  const all = /(\d+) accounts/.exec(await lastOf(page.locator('tfoot tr')).innerText())![1];
  expect(lines).toHaveLength(Number(all) + 1);
  // An amount may stand first, and the footer still says what it sums.
  await page.getByRole('button', { name: 'Columns' }).click();
  for (let steps = 0; steps < 7; steps += 1)
    await page.getByRole('button', { name: 'Balance earlier' }).click();
  await expect.poll(async () => (await titles())[0]).toBe('Balance');
  await expect(lastOf(page.locator('tfoot tr'))).toContainText(/\d+ accounts? \d/);
  await page.getByRole('button', { name: 'As they were' }).click();
  await expect.poll(titles).toContain('Phone');
  expect((await page.request.get('/api/lists/passwords?format=csv')).status()).toBe(404);
});

test('what is selected is summed beside what is shown', async ({ page, desk }) => {
  for (const fee of ['145.00', '42.00', '60.00']) {
    const made = await household(desk, true, { last: 'Summed', first: `Of ${fee}` });
    await charge(desk, desk.context, made.patientId, fee);
    await buildClaims(desk.context, { householdId: made.householdId });
  }
  await signIn(page, 'biller');
  await page.goto('/claims?view=ready&search=Summed');
  await listening(page);
  for (const fee of ['145.00', '42.00'])
    await page
      .getByRole('row', { name: new RegExp(`Of ${fee}`) })
      .getByRole('checkbox')
      .click();
  await expect(page.getByText('2 selected')).toBeVisible();
  await expect(page.getByRole('row', { name: /2 selected/ })).toContainText('187.00');
  await expect(page.getByRole('row', { name: /3 claims/ })).toContainText('247.00');
});
