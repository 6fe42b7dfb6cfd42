/** Small steps that the browser tests share. */
import { execFileSync } from 'node:child_process';
import { type Cookie, type Locator, type Page, expect } from '@playwright/test';

const cookies = new Map<string, Cookie[]>();

/** Signs in as one of the demo's users; a session is used again, since attempts are limited. */
export async function signIn(page: Page, role: string, fresh = false): Promise<void> {
  const known = cookies.get(role);
  if (known && !fresh) {
    await page.context().addCookies(known);
    await page.goto('/');
  } else {
    await page.goto('/sign-in');
    await hydrated(page, 'form button');
    await page.getByLabel('E-mail').fill(`${role}@example.com`);
    await page.getByLabel('Password').fill('osprey-landing');
    await page.keyboard.press('Enter');
  }
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  if (!fresh) cookies.set(role, await page.context().cookies());
}

/** Waits until React has taken over an element that the server drew. */
const hydrated = (page: Page, selector: string) =>
  page.waitForFunction((wanted) => {
    const found = document.querySelector(wanted);
    return found !== null && Object.keys(found).some((key) => key.startsWith('__reactProps'));
  }, selector);

/** Waits until the page hears keys. */
export async function listening(page: Page): Promise<void> {
  await hydrated(page, 'main h1');
}

/** Presses a key until what it opens is there: the first press may come before the page has its ears. */
export async function pressFor(page: Page, key: string, opens: Locator): Promise<void> {
  await listening(page);
  await expect(async () => {
    if (!(await opens.isVisible())) await page.keyboard.press(key);
    await expect(opens).toBeVisible({ timeout: 1500 });
  }).toPass({ timeout: 20_000 });
}

/** Registers a household from the search field and ends on its account page. */
export async function register(
  page: Page,
  person: { last: string; first: string; birth: string; plan: string; memberId: string; group: string },
): Promise<void> {
  await listening(page);
  await page.keyboard.press('/');
  await page.keyboard.type('new house');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'New household' })).toBeVisible();
  await page.getByLabel('Last name').fill(person.last);
  await page.getByLabel('First name').fill(person.first);
  await page.getByLabel('Birth date').fill(person.birth);
  await page.getByLabel('Street', { exact: true }).fill('17 Pilot Row');
  await page.getByLabel('City').fill('Osprey Landing');
  await page.getByLabel('ZIP').fill('98199');
  await page.getByLabel('Insurance plan').click();
  await page.keyboard.type(person.plan);
  await page.keyboard.press('Enter');
  await page.getByLabel('Member id').fill(person.memberId);
  await page.getByLabel('Group number').fill(person.group);
  await page.getByLabel('Group number').press('Enter');
  await expect(page.getByRole('heading', { name: `${person.last}, ${person.first}` })).toBeVisible();
}

/** Reloads until something is there: the outside answers in its own time. */
export async function eventually(page: Page, check: () => Promise<boolean>): Promise<void> {
  await expect(async () => {
    await page.reload();
    expect(await check()).toBe(true);
  }).toPass({ timeout: 60_000, intervals: [1000] });
}

/** Proves the books from the command line. */
export function booksCheck(): string {
  return execFileSync(process.execPath, ['--import', 'tsx', 'src/cli/main.ts', 'books', 'check'], {
    encoding: 'utf8',
  });
}
