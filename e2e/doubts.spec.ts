/** What is doubtful is shown before it is done, and what belongs together lights up together. */
import { takeReceipt } from '../src/server/payments/take';
import { charge } from '../src/testing/desk';
import { calendarDate } from '../src/core/calendar';
import {
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

const PERSON = {
  last: 'Doubtfire',
  first: 'Dana',
  birth: '1977-07-07',
  plan: 'Harbor Copay',
  memberId: 'CSH7007001',
  group: 'CS-350',
};

test('who is registered already is shown while a name is typed, and asked about before it is made again', async ({
  page,
}) => {
  await signIn(page, 'biller');
  await register(page, PERSON);
  const account = page.url();
  await page.goto('/accounts/new');
  await listening(page);
  await page.getByLabel('Last name').fill('doubtfire');
  await page.getByLabel('First name').fill('Dana');
  await page.getByLabel('Birth date').fill('07/07/1977');
  await page.getByLabel('Birth date').blur();
  const like = page.getByRole('status').filter({ hasText: 'Registered already' });
  await expect(like).toContainText('Doubtfire, Dana');
  await page.getByLabel('Street', { exact: true }).fill('1 Row');
  await page.getByLabel('City').fill('Osprey Landing');
  await page.getByLabel('ZIP').fill('98199');
  await page.getByRole('button', { name: 'Register household' }).click();
  const ask = page.getByRole('dialog', { name: 'Look again' });
  await expect(ask).toContainText('is registered already');
  await ask.getByRole('button', { name: 'Go back' }).click();
  await expect(page.getByLabel('City')).toHaveValue('Osprey Landing');
  const beside = page.waitForEvent('popup');
  await like.getByRole('link').click();
  await expect(await beside).toHaveURL(account);
  // It opens beside the form, which keeps what was typed.
  await expect(page.getByLabel('City')).toHaveValue('Osprey Landing');
});

test('a service entered twice asks once, and goes in when it is meant; it is put right while it is unbilled', async ({
  page,
  desk,
}) => {
  await signIn(page, 'biller');
  await register(page, { ...PERSON, first: 'Twice', memberId: 'CSH7007002' });
  await listening(page);
  const enter = async (): Promise<void> => {
    await page.locator('#quick-code').fill('99213');
    await expect(page.getByText('Expected from the patient')).toBeVisible();
    await page.locator('#quick-units').press('Enter');
  };
  await enter();
  await expect(page.getByText('99213 entered')).toBeVisible();
  await expect.poll(() => figure(page, 'With payers')).toBe(145);
  await enter();
  const ask = page.getByRole('dialog', { name: 'Look again' });
  await expect(ask).toContainText('99213 is entered already for 16 Mar 2026');
  await ask.getByRole('button', { name: 'Go back' }).click();
  await expect(page.locator('#quick-code')).toHaveValue('99213');
  await page.locator('#quick-units').press('Enter');
  await ask.getByRole('button', { name: 'It is meant so' }).click();
  await expect.poll(() => figure(page, 'With payers')).toBe(290);

  await lastOf(page.getByRole('row', { name: /99213/ }))
    .getByRole('button', { name: 'Unfold' })
    .click();
  // What is under it is read: its links stay where they are.
  await expect(page.getByText('Cedar Sound Health: contract write-off')).toBeVisible();
  await page.getByRole('link', { name: 'Change this charge' }).click();
  const form = page.getByRole('dialog', { name: /99213/ });
  await form.getByLabel('Units').fill('2');
  await form.getByLabel('Fee').fill('200.00');
  await form.getByRole('button', { name: 'Save' }).click();
  await ask.getByRole('button', { name: 'It is meant so' }).click();
  await expect.poll(() => figure(page, 'With payers')).toBe(345);
  await provenBooks(desk);
});

test('another plan takes the place of the first from a day on, and an end gives its charges to the patient', async ({
  page,
  desk,
}) => {
  await signIn(page, 'biller');
  await register(page, { ...PERSON, first: 'Covered', memberId: 'CSH7007003' });
  await listening(page);
  await page.locator('#quick-code').fill('99213');
  await expect(page.getByText('Expected from the patient')).toBeVisible();
  await page.locator('#quick-units').press('Enter');
  await expect.poll(() => figure(page, 'With payers')).toBe(145);
  await lastOf(page.getByRole('button', { name: 'change' })).click();
  await expect(page.getByLabel('Member id')).toBeFocused();
  await page.getByLabel('until').fill('03/01/2026');
  await page.getByLabel('until').blur();
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('1 unbilled charge moved')).toBeVisible();
  await expect.poll(() => figure(page, 'Patient owes now')).toBe(145);
  await expect(page.getByText('no coverage today')).toBeVisible();
  await page.getByRole('button', { name: 'add coverage' }).click();
  await page.getByLabel('Insurance plan').click();
  await page.keyboard.type('Harbor PPO');
  await expect(anyOf(page.getByTitle(/Harbor PPO/))).toBeVisible();
  await page.keyboard.press('Enter');
  await page.getByLabel('Member id').fill('CSH7007004');
  await page.getByLabel('In force from').fill('03/02/2026');
  await page.getByLabel('In force from').blur();
  await page.getByRole('button', { name: 'Save' }).click();
  await expect.poll(() => figure(page, 'With payers')).toBe(145);
  await expect(page.getByText(/Harbor PPO, member CSH7007004/)).toBeVisible();
  await provenBooks(desk);
});

test('a policy that somebody who is no patient holds is said with its holder, and shown so', async ({
  page,
  desk,
}) => {
  const made = await registered(desk, 'Heldby', 'Una');
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await page.getByRole('button', { name: 'add coverage' }).click();
  const drawer = page.getByRole('dialog');
  await drawer.getByLabel('Insurance plan').click();
  await page.keyboard.type('Harbor PPO');
  await expect(anyOf(page.getByTitle(/Harbor PPO/))).toBeVisible();
  await page.keyboard.press('Enter');
  await drawer.getByLabel('Member id').fill('CSH7007999');
  await drawer.getByLabel('Whose policy').click();
  await page.keyboard.type('Child');
  await page.keyboard.press('Enter');
  // Without a holder it is said what is missing, and nothing is saved.
  await drawer.getByText('Somebody who is no patient here holds it').click();
  await drawer.getByLabel('Holder’s last name').fill('Quill');
  await drawer.getByLabel('Holder’s first name').fill('Otto');
  await drawer.getByRole('button', { name: 'Save' }).click();
  await expect(drawer.getByText('Birth date is missing')).toBeVisible();
  await drawer.getByLabel('Holder’s birth date').fill('05/05/1975');
  await drawer.getByLabel('Holder’s birth date').blur();
  await drawer.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText(/member CSH7007999, of Otto Quill/)).toBeVisible();
  // Put right it is shown as it was said.
  await lastOf(page.getByRole('button', { name: 'change' })).click();
  await expect(page.getByRole('dialog').getByLabel('Holder’s first name')).toHaveValue('Otto');
  await provenBooks(desk);
});

test('the story stands beside the ledger: a sentence lights its row, a row lights its sentences', async ({
  page,
  desk,
}) => {
  const made = await registered(desk, 'Storied', 'Dale');
  await charge(desk, desk.context, made.patientId, '80.00', '99213', calendarDate('2026-01-21'));
  await charge(desk, desk.context, made.patientId, '90.00', '99214');
  await takeReceipt(desk.context, {
    householdId: made.householdId,
    tenders: [{ tender: 'cash', amount: '10.00' }],

    key: 'a storied payment',
  });
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await pressFor(page, 'b', page.getByText(/yours to pay now/));
  // Nothing dims: the page beside it can be used.
  await expect(page.locator('.ant-drawer-mask')).toHaveCount(0);
  await page.getByRole('row', { name: /99214 Office visit, 30 minutes/ }).click();
  await expect(page).toHaveURL(/charge=\d+/);
  const lit = page.locator('section[class*="lit"]');
  await expect(lit).toHaveCount(1);
  await expect(lit).toContainText('Office visit, 30 minutes');
  const before = page.url();
  await anyOf(page.locator('section').filter({ hasText: '21 Jan 2026' }).getByRole('link')).click();
  await expect(page).not.toHaveURL(before);
  await expect(page.getByText(/yours to pay now/)).toBeVisible();
  await expect(anyOf(page.locator('tr[class*="lit"]'))).toContainText('21 Jan 2026');
});

test('two tabs at one person: what the other one changed is taken over, and nothing is put back in silence', async ({
  page,
}) => {
  await signIn(page, 'biller');
  await register(page, { ...PERSON, first: 'Tabs', memberId: 'CSH7007005' });
  const other = await page.context().newPage();
  await other.goto(page.url());
  for (const tab of [page, other]) {
    await listening(tab);
    await anyOf(tab.getByRole('button', { name: 'change' })).click();
    await expect(tab.getByLabel('Last name')).toBeFocused();
  }
  await other.getByLabel('Phone').fill('555-0199');
  await other.getByRole('button', { name: 'Save' }).click();
  await expect(other.getByRole('dialog')).toHaveCount(0);
  await page.getByLabel('City').fill('Harbor');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('Somebody else saved this meanwhile')).toBeVisible();
  await expect(page.getByLabel('Phone')).toHaveValue('555-0199');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expect(page.getByTestId('note')).toContainText('555-0199');
  await expect(page.getByTestId('note')).toContainText('Harbor');
});
