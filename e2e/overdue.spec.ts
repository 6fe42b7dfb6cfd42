/** What is overdue, as a collector and a manager work it: letters, calls, promises, an agency, small balances, and what may not be billed. */
import type { Page } from '@playwright/test';
import { booksCheck, db, expect, listening, shownFigure, signIn, test } from './desk';

const household = async (last: string): Promise<number> =>
  (await db<{ id: number }>('select id::int from household where last = $1', [last]))[0]!.id;
/** A choice of a form, by the words that stand there. */
async function choose(page: Page, field: string, words: RegExp): Promise<void> {
  await page.getByRole('dialog').getByLabel(field).click();
  await page.locator('.ant-select-dropdown:visible').getByText(words).first().click();
}

test('letters that are due are prepared, sent and printed; the stage follows, and the ledger shows them', async ({
  page,
}) => {
  test.setTimeout(180_000);
  const id = await household('Ekwueme');
  await signIn(page, 'collector');
  await page.goto('/overdue');
  await expect(page.getByRole('table', { name: 'Accounts past due' })).toContainText('Ekwueme');
  await page.goto('/overdue?view=letters');
  await listening(page);
  const row = page.getByRole('row', { name: /Ekwueme/ });
  await expect(row).toContainText('First reminder');
  await page.keyboard.press('Space');
  await expect(page.getByRole('dialog')).toContainText('Chance');
  await page.keyboard.press('Escape');
  await row.getByRole('checkbox').click();
  await page.getByRole('button', { name: 'Prepare 1 letter', exact: true }).click();
  await expect(page).toHaveURL(/overdue\/batches\/\d+/, { timeout: 30_000 });
  const batchId = Number(/\d+$/.exec(page.url())![0]);
  await listening(page);
  await page.keyboard.press('s');
  await expect(page.getByText(/Sending 1 piece: done/)).toBeVisible({ timeout: 60_000 });
  await page.reload();
  await page.getByRole('button', { name: 'They are in the mail' }).click();
  await expect
    .poll(
      async () =>
        (await db<{ status: string }>(`select status from mail_piece where batch_id = ${batchId}`))[0]!
          .status,
    )
    .toBe('sent');
  await page.goto('/overdue?view=waiting');
  await expect(page.getByRole('row', { name: /Ekwueme/ })).toContainText('Second reminder then');
  await page.goto(`/accounts/${id}`);
  const link = page.getByRole('link', { name: /^First reminder/ });
  await expect(link).toBeVisible();
  const paper = await page.request.get((await link.getAttribute('href'))!);
  expect((await paper.body()).subarray(0, 5).toString()).toBe('%PDF-');
});

test('a promise on the phone spares the account; taken back it is called again; what was said stays', async ({
  page,
}) => {
  await signIn(page, 'collector');
  await page.goto('/overdue?view=calls');
  await listening(page);
  const row = page.getByRole('row', { name: /Dunmore/ });
  await row.getByRole('button', { name: 'Contact' }).click();
  const drawer = page.getByRole('dialog');
  await expect(drawer.getByText('301.15 past due')).toBeVisible();
  // They called: the hours in which we may call do not matter.
  await choose(page, 'Who began', /They did/);
  await choose(page, 'What came of it', /promised to pay/);
  await drawer.getByLabel('Promised').fill('150');
  await drawer.getByLabel('By', { exact: true }).fill('+10');
  await drawer.getByLabel('What was said', { exact: true }).fill('after payday');
  await page.keyboard.press('Enter');
  await expect(drawer.getByText('150.00 by 26 Mar 2026')).toBeVisible();
  await expect(drawer.getByText('not yet due')).toBeVisible();
  await page.goto('/overdue?view=spared&search=Dunmore');
  await expect(page.getByRole('row', { name: /Dunmore/ })).toContainText('promised 150.00 by 26 Mar 2026');
  await page.goto('/overdue/promises');
  await expect(page.getByRole('row', { name: /Dunmore/ })).toContainText('150.00');
  await page
    .getByRole('row', { name: /Dunmore/ })
    .getByRole('button', { name: 'Contact' })
    .click();
  await drawer.getByRole('button', { name: 'Promise taken back' }).click();
  await drawer.getByLabel('Why it is taken back').fill('lost the job');
  await page.keyboard.press('Enter');
  await expect(drawer.getByText('lost the job')).toBeVisible();
  await page.goto('/overdue/promises');
  await expect(page.getByRole('row', { name: /Dunmore/ })).toHaveCount(0);
});

test('a manager hands an account over with the evidence before them, and recalls it; the books hold', async ({
  page,
}) => {
  test.setTimeout(180_000);
  const id = await household('Fairweather');
  await signIn(page, 'manager');
  await page.goto('/overdue/placements?view=proposed');
  await listening(page);
  await page
    .getByRole('row', { name: /Fairweather/ })
    .getByRole('link', { name: /^G-/ })
    .click();
  await expect(page.getByRole('region', { name: 'Letters and statements' })).toContainText('Last letter');
  await expect(page.getByRole('region', { name: 'Contacts' })).toContainText('left word');
  await page.getByRole('button', { name: 'Approve, hand over 946.30' }).click();
  await expect(shownFigure(page, 'With the agency')).toHaveText(/946.30/);
  await page.goto(`/accounts/${id}`);
  await expect(shownFigure(page, 'Patient owes now')).toHaveText('–');
  await expect(shownFigure(page, 'With the agency')).toHaveText(/946.30/);
  // Paid to us meanwhile: it goes to what the agency has.
  await listening(page);
  await page.keyboard.press('p');
  const payment = page.getByRole('dialog');
  await payment.getByLabel('To what is with the agency').fill('46.30');
  await payment.getByLabel('Amount', { exact: true }).fill('46.30');
  await payment.getByText('Cash', { exact: true }).click();
  await payment.getByRole('button', { name: 'Take 46.30' }).click();
  await expect(shownFigure(page, 'With the agency')).toHaveText(/900.00/);
  await page.getByRole('link', { name: /^Placement G-/ }).click();
  await page.getByRole('button', { name: 'Recall' }).click();
  await page.getByLabel('Why it is recalled').fill('came to the desk');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/Recalled; 900.00 is the patient’s again/)).toBeVisible();
  await expect(shownFigure(page, 'With the patient')).toHaveText(/900.00/);
  expect(booksCheck()).toContain('The books are proven');
});

test('a letter with a variable that nobody knows says where; saved, it has another version', async ({
  page,
}) => {
  await signIn(page, 'manager');
  await page.goto('/overdue/letters/2');
  await listening(page);
  const words = page.getByLabel('Words of part 2');
  const before = await words.inputValue();
  await words.fill('You owe {amount du}.');
  await expect(page.getByText('Part 2: There is no variable {amount du}, at letter 9')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Save the letter' })).toBeDisabled();
  await words.fill(`${before} Thank you.`);
  await expect(page.getByTestId('letter')).toContainText('Thank you.');
  await page.getByRole('button', { name: 'Save the letter' }).click();
  await expect(page.getByTestId('note')).toContainText('version 2');
});

test('small balances are written off, and one of them is taken back on its account', async ({ page }) => {
  const id = await household('Yamada');
  await signIn(page, 'manager');
  await page.goto('/overdue/small');
  await listening(page);
  await expect(page.getByRole('row', { name: /Yamada/ })).toContainText('3.20');
  await page.getByRole('button', { name: /^Write off \d+ balances, / }).click();
  await expect(page.getByText(/balances written off/)).toBeVisible();
  await page.goto(`/accounts/${id}`);
  await listening(page);
  await expect(shownFigure(page, 'Balance')).toHaveText('–');
  await page
    .getByRole('row', { name: /Brought in/ })
    .getByRole('button')
    .first()
    .click();
  await page.getByRole('button', { name: 'Take the write-off back' }).click();
  await page.getByLabel('Why is it taken back?').fill('she wants to pay it');
  await page.keyboard.press('Enter');
  await expect(shownFigure(page, 'Balance')).toHaveText('3.20');
});

test('what may not be billed is said on the coverage, shows on the account, and is taken off by a press', async ({
  page,
}) => {
  const [found] = await db<{ household: number; patient: number; coverage: number; amount: string }>(
    `select c.household_id::int as household, c.patient_id::int as patient, v.id::int as coverage, to_char(sum(b.with_patient) / 100.0, 'FM999990.00') as amount
     from charge c join charge_balance b on b.charge_id = c.id and b.with_patient > 0 join coverage v on v.case_id = c.case_id and v.bill_patient = 'yes' and daterange(v.valid_from, v.valid_to, '[]') @> c.service_date::date
     where c.status = 'done' and c.kind = 'service' and not c.kept_from_payers and not exists (select 1 from coverage o where o.case_id = c.case_id and o.id <> v.id)
     group by 1, 2, 3 order by sum(b.with_patient) desc limit 1`,
  );
  const { household: id, patient, coverage, amount } = found!;
  await signIn(page, 'manager');
  await page.goto(`/accounts/${id}?show=coverage&patient=${patient}&coverage=${coverage}`);
  await listening(page);
  await choose(page, 'Bill the patient what it passes on', /^Never$/);
  await choose(page, 'What forbids it', /^Medicaid$/);
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^(Save|Change)/ })
    .click();
  await expect(page.getByRole('dialog')).toBeHidden();
  const notice = page.getByText(/may not be billed to the patient: Medicaid/);
  await expect(notice).toContainText(amount.replace(/\B(?=(\d{3})+\.)/g, '\u2009').slice(-6));
  await page.getByRole('button', { name: 'Take it off' }).click();
  await expect(page.getByText(/taken off/).first()).toBeVisible();
  await expect(notice).toHaveCount(0);
  expect(booksCheck()).toContain('The books are proven');
});
