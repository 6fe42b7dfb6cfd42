/** A plan agreed on the phone, signed, paid from the ledger, missed, broken, and agreed anew with smaller installments. */
import { execFileSync } from 'node:child_process';
import { setClock } from '../src/db/clock';
import { zone } from '../src/server/access';
import { db, expect, listening, owing, signIn, test, anyOf, press } from './desk';

interface Plan {
  id: string;
  status: string;
  n: number;
}
const plansOf = (householdId: string): Promise<Plan[]> =>
  db<Plan>(
    `
      select id, status, (select count(*)::int from plan_installment i where i.plan_id = l.id) as n
      from payment_plan l
      where household_id = ${householdId}
      order by id`,
  );

test('agreed by keyboard on the phone, printed, signed, paid from the ledger, broken, changed to smaller ones', async ({
  page,
  desk,
}) => {
  test.setTimeout(150_000);
  const id = await owing('Winterbourne', 'Ottilie', 56_000);
  await signIn(page, 'manager');
  await page.goto(`/accounts/${id}`);
  await listening(page);

  // What it means shows at once, by the keyboard alone.
  await press(page, 'a');
  const drawer = page.getByRole('dialog');
  await expect(drawer.getByLabel('Amount', { exact: true })).toBeFocused();
  await page.keyboard.press('Tab');
  await page.keyboard.type('60');
  await drawer.getByLabel('Rate').fill('5');
  const meaning = drawer.getByRole('status', { name: 'What it means' });
  await expect(meaning).toContainText('84.55');
  await expect(meaning).toContainText('7.31');
  await expect(meaning).toContainText('507.31');
  await drawer.getByRole('button', { name: 'Keep beside, try other terms' }).click();
  await drawer.getByLabel('Installments', { exact: true }).fill('3');
  await expect(meaning).toContainText('168.06');
  await expect(meaning).toContainText('6 × 84.55');
  await drawer.getByLabel('Installments', { exact: true }).fill('6');
  await expect(drawer.getByRole('button', { name: 'Propose 6 installments of 84.55' })).toBeEnabled();
  await drawer.getByLabel('Rate').press('Enter');
  const paper = drawer.getByRole('link', { name: 'Print for signing' });
  await expect(paper).toBeVisible();
  const proposal = await page.request.get((await paper.getAttribute('href'))!);
  expect(proposal.headers()['content-type']).toBe('application/pdf');

  // Signed on the screen; from then on it runs.
  const pad = drawer.locator('canvas');
  await pad.scrollIntoViewIfNeeded();
  const at = (await pad.boundingBox())!;
  await page.mouse.move(at.x + 20, at.y + 50);
  await page.mouse.down();
  await page.mouse.move(at.x + 120, at.y + 30, { steps: 8 });
  await page.mouse.up();
  await drawer.getByRole('button', { name: 'Accept the plan' }).click();
  await expect(anyOf(page.getByText('The plan runs'))).toBeVisible();
  const [plan] = await plansOf(id);
  expect(plan).toMatchObject({ status: 'accepted', n: 6 });
  expect(
    (await db<{ n: number }>(`select length(signature) as n from payment_plan where id = ${plan!.id}`))[0]!.n,
  ).toBeGreaterThan(200);
  await expect(
    page.getByText(/500.00 left · 60.00 of the down payment is not made · next 84.55 on 16 Apr 2026/),
  ).toBeVisible();

  // Paid from the ledger: the down payment and an installment by one check.
  await press(page, 'p');
  const payment = page.getByRole('dialog');
  await expect(payment.getByLabel('Amount', { exact: true })).toHaveValue('60.00');
  await payment.getByLabel(/^To plan/).fill('84.55');
  await payment.getByLabel('Amount', { exact: true }).fill('144.55');
  await payment.getByLabel('Check number').fill('555');
  await page.keyboard.press('Enter');
  await expect(anyOf(page.getByText('144.55 taken'))).toBeVisible();
  await expect(page.getByText(/415.45 left · next 84.55 on 16 May 2026/)).toBeVisible();

  // Three months go by, two are missed: the night ends it, and it is followed up.
  await setClock(desk.pool, '2026-06-26T09:00', zone());
  await page.goto('/plans');
  await listening(page);
  await expect(page.getByRole('row', { name: /Winterbourne/ })).toContainText('behind');
  await page.goto(`/plans/${plan!.id}`);
  await expect(page.getByText(/days behind, \d installments missed/)).toBeVisible();
  execFileSync(process.execPath, ['src/cli/run.mjs', 'src/cli/main.ts', 'plans', 'remind']);
  await page.reload();
  await expect(page.getByText(/^broken on 26 Jun 2026: \d installments are missed/)).toBeVisible();

  // The debt is back on the account, with somebody to look at it; smaller installments are agreed anew.
  await page.goto(`/accounts/${id}`);
  await listening(page);
  await expect(anyOf(page.getByText(/Plan P-\d+ is broken/))).toBeVisible();
  await press(page, 'a');
  const change = page.getByRole('dialog');
  await change.getByLabel('Installments', { exact: true }).fill('12');
  await change.getByRole('button', { name: /^Propose 12 installments/ }).click();
  await change.getByRole('button', { name: 'Accept the plan' }).click();
  await expect
    .poll(async () => (await plansOf(id)).map(({ status, n }) => [status, n]))
    .toEqual([
      ['broken', 6],
      ['accepted', 12],
    ]);
  await expect(change).toBeHidden();

  // That one is changed in its turn: what is open is taken over.
  const [, smaller] = await plansOf(id);
  await page.goto(`/plans/${smaller!.id}`);
  await listening(page);
  await page.getByRole('link', { name: 'Change by a new one' }).click();
  await expect(change.getByText(/is open on P-\d+ and is taken over/)).toBeVisible();
  await change.getByLabel('Installments', { exact: true }).fill('18');
  await change.getByRole('button', { name: /^Propose 18 installments/ }).click();
  await change.getByRole('button', { name: 'Accept the plan' }).click();
  await expect
    .poll(async () => (await plansOf(id)).map(({ status }) => status))
    .toEqual(['broken', 'changed', 'accepted']);
});

test('a list of installments is worked line by line, and what is refused says why', async ({ page }) => {
  await signIn(page, 'front-desk');
  await page.goto('/plans');
  await listening(page);
  await page.getByText('All that run').click();
  await page.getByRole('checkbox', { name: 'Take the installment of Sato, Haruka' }).click();
  await page.getByRole('checkbox', { name: /Take the installment of Ibarra/ }).click();
  const lines = page.getByRole('region', { name: 'Installments to take' });
  await lines.getByLabel('Check number of Sato, Haruka').fill('8080');
  await lines.getByRole('button', { name: /^Take 2 installments/ }).click();
  await expect(anyOf(page.getByText('1 installment taken'))).toBeVisible();
  await expect(lines).toContainText('Check number is missing');
  await lines.getByLabel(/^Check number of Ibarra/).fill('8081');
  await lines.getByRole('button', { name: /^Take 1 installment/ }).click();
  await expect(lines).toBeHidden();
});
