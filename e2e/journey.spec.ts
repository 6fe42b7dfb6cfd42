import { sendClaims } from '../src/server/claims/send';
import { household } from '../src/testing/desk';
import { enterCharge } from '../src/server/accounts/charges';
import { buildClaims } from '../src/server/claims/build';
import { TODAY } from '../src/testing/database';
import type { Page } from '@playwright/test';
import {
  type Desk,
  db,
  provenBooks,
  expect,
  listening,
  pressFor,
  register,
  signIn,
  test,
  anyOf,
  lastOf,
  press,
} from './desk';

const owes = (page: Page) => page.getByTestId('owed');

/** From a registered household to a balance of zero, the same for both forms. */
async function throughTheDesk(
  page: Page,
  desk: Desk,
  name: string,
  expected: { allowed: string; paid: string; owed: string; service: string },
): Promise<void> {
  const account = page.url();
  await listening(page);
  await page
    .getByRole('row', { name: new RegExp(expected.service) })
    .getByRole('button', { name: 'Unfold' })
    .click();
  await expect(lastOf(page.getByLabel('Estimate'))).toContainText('Expected from the patient');
  await page.getByRole('button', { name: /Build claims from/ }).click();
  // One claim is opened at once.
  await expect(page.getByRole('heading', { name: /^Claim OL/ })).toBeVisible();

  await page.goto('/claims?view=ready');
  await listening(page);
  await page.getByLabel('Number, patient, payer or account').fill(name);
  await expect(page.getByRole('row', { name: new RegExp(name) })).toHaveCount(1);
  await page.getByLabel('Number, patient, payer or account').press('Escape');
  await pressFor(page, 'x', page.getByText(/1 selected/));
  await page.getByRole('button', { name: 'Send 1 chosen (S)', exact: true }).click();
  await expect(page.getByText(/Sent 1 claim in 1 file/)).toBeVisible();

  // Acknowledged, then decided, by the outside.
  await page.goto('/claims?view=all');
  await listening(page);
  await page.getByLabel('Number, patient, payer or account').fill(name);
  await expect(page.getByRole('row', { name: new RegExp(name) })).toHaveCount(1);
  await anyOf(page.getByRole('row', { name: new RegExp(name) }).getByRole('link')).click();
  await expect(page.getByRole('heading', { name: /Claim OL/ })).toBeVisible();
  const number = (await page.getByRole('heading', { name: /Claim OL/ }).innerText()).replace('Claim ', '');
  // First the clearinghouse acknowledges, on its next turn the payer decides.
  await desk.turn();
  await page.reload();
  await expect(page.getByText('TA1 A · 999 A')).toBeVisible();
  await expect(page.getByText('accepted', { exact: true })).not.toHaveCount(0);
  // What the payer's terms give stands beside each line, before it has answered.
  const line = page.getByRole('row', { name: new RegExp(expected.service) });
  await expect(line).toContainText(expected.allowed);
  await expect(line).toContainText(expected.paid);
  await desk.turn();
  const [{ remittance }] = (await db<{ remittance: number }>(
    'select remittance_id as remittance from remittance_claim where control_number = $1',
    [number],
  )) as [{ remittance: number }];
  await page.goto(`/remittances/${remittance}`);
  await expect(page.getByRole('link', { name: number })).toBeVisible();
  await expect(anyOf(page.getByText('Over the contracted fee'))).toBeVisible();
  await page.getByRole('button', { name: /^Post \d+ claim/ }).click();
  await expect(page.getByText(/: done$/)).toBeVisible();

  await page.goto(account);
  await expect(owes(page)).toHaveText(expected.owed);
  await expect(anyOf(page.getByRole('cell', { name: expected.paid }))).toBeVisible();
  await pressFor(page, 'b', anyOf(page.getByText(/decided on 16 Mar 2026 and paid/)));
  await expect(page.getByText(`Together ${expected.owed} is yours to pay now.`)).toBeVisible();
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: 'Statement (S)' }).click();
  await expect(page.getByText(`${expected.owed} due by`)).toBeVisible();
  const opened = page.waitForEvent('popup');
  await page.getByRole('button', { name: 'Hand it over' }).click();
  await (await opened).close();
  const [{ id }] = (await db<{ id: number }>('select max(id) as id from statement')) as [{ id: number }];
  const pdf = await page.request.get(`/api/statements/${id}`);
  expect(pdf.headers()['content-type']).toBe('application/pdf');
  expect((await pdf.body()).subarray(0, 5).toString()).toBe('%PDF-');
  await expect(page.getByText('handed over')).toBeVisible();

  await page.getByRole('heading', { name: new RegExp(name) }).click();
  await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
  await expect(page.getByLabel('Amount', { exact: true })).toHaveValue(expected.owed);
  await page.getByLabel('Check number').fill('4711');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/Received: /)).toBeVisible();
  await expect(owes(page)).toHaveText('–');
  await expect(page.getByTestId('balance')).toHaveText('–');
  await provenBooks(desk);
}

async function enter(
  page: Page,
  code: string,
  more: { diagnosis?: string; tooth?: string; surfaces?: string; provider: string },
): Promise<void> {
  await page.locator('#quick-provider').click();
  await lastOf(page.getByTitle(new RegExp(more.provider))).click();
  if (more.diagnosis) {
    await page.locator('#quick-diagnoses').click();
    await page.keyboard.type(more.diagnosis);
    await page.keyboard.press('Enter');
    await page.keyboard.press('Escape');
  }
  await page.locator('#quick-code').fill(code);
  if (more.tooth) await page.locator('#quick-tooth').fill(more.tooth);
  if (more.surfaces) await page.locator('#quick-surfaces').fill(more.surfaces);
  await expect(page.getByText('Expected from the patient')).toBeVisible();
  await page.locator('#quick-units').press('Enter');
  await expect(page.getByText(`${code} entered`)).toBeVisible();
}

test('a medical visit, from the charge to a balance of zero', async ({ page, desk }) => {
  await signIn(page, 'biller');
  await register(page, {
    last: 'Journeyman',
    first: 'Mira',
    birth: '1984-04-04',
    plan: 'Harbor Copay',
    memberId: 'CSH5550101',
    group: 'CS-350',
  });
  await listening(page);
  await press(page, 'n');
  await expect(page.locator('#quick-code')).toBeFocused();
  await enter(page, '99213', { provider: 'Okafor', diagnosis: 'I10' });
  // The contract allows 98.00 of 145.00; the copay is 30.00 (the demo's Harbor Copay plan).
  await throughTheDesk(page, desk, 'Journeyman', {
    allowed: '98.00',
    paid: '68.00',
    owed: '30.00',
    service: '99213',
  });
});

test('a dental visit, from the charge to a balance of zero', async ({ page, desk }) => {
  await signIn(page, 'biller');
  await register(page, {
    last: 'Molarsen',
    first: 'Tove',
    birth: '1990-09-09',
    plan: 'Tern Family',
    memberId: 'T55501013',
    group: 'TD-5',
  });
  await enter(page, 'D2392', { provider: 'Brandt', tooth: '30', surfaces: 'MO' });
  // The contract allows 169.00 of 265.00; 50.00 deductible, then 80 % of 119.00 (the demo's Tern Family plan).
  await throughTheDesk(page, desk, 'Molarsen', {
    allowed: '169.00',
    paid: '95.20',
    owed: '73.80',
    service: 'D2392',
  });
});

test('a claim with a stop is mended from its finding and goes; a rejected one is mended and sent again', async ({
  page,
  desk,
}) => {
  const visit = async (last: string, memberId: string, diagnoses: string[]): Promise<number> => {
    const made = await household(desk, true, { last, first: 'Mira', memberId });
    await enterCharge(desk.context, {
      patientId: made.patientId,
      providerId: desk.providers.family,
      serviceDate: TODAY,
      code: '99213',
      diagnoses,
      key: `visit of ${last}`,
    });
    const [claimId] = await buildClaims(desk.context, { householdId: made.householdId });
    return claimId!;
  };
  await visit('Undiagnosed', 'CSH5550176', []);
  const mistyped = await visit('Mistyped', 'X5550177', ['I10']);
  await sendClaims(desk.context, { claimIds: [mistyped] });
  await desk.turn();
  await signIn(page, 'biller');
  await page.goto('/claims?view=fix');
  await listening(page);
  await page.getByLabel('Number, patient, payer or account').fill('Undiagnosed');
  await expect(page.getByRole('row', { name: /Undiagnosed/ })).toHaveCount(1);
  await page.getByLabel('Number, patient, payer or account').press('Escape');
  await pressFor(
    page,
    'Space',
    page.getByRole('dialog').getByText('A professional claim needs at least one diagnosis'),
  );
  await expect(page).toHaveURL(/search=~|search=%7E/);
  await anyOf(page.getByRole('link', { name: 'Fix diagnoses' })).click();
  await page.locator('#diagnoses').fill('I10');
  await page.keyboard.press('Enter');
  // The choices stay open for another one; a click elsewhere closes them.
  await page.locator('.ant-drawer-title').click();
  await page.getByRole('button', { name: 'Save and go back to the claim' }).click();
  await expect(page.getByText('Every rule holds: nothing to fix.')).toBeVisible();
  await page.getByRole('button', { name: 'Send (S)', exact: true }).click();
  await expect(anyOf(page.getByText('sent', { exact: true }))).toBeVisible();

  await page.goto(`/claims/${mistyped}`);
  await expect(anyOf(page.getByText(/subscriber: member id/))).toBeVisible();
  await page.getByRole('link', { name: 'Check the coverage' }).click();
  await page.getByLabel('Member id').fill('CSH5550177');
  await page.getByRole('button', { name: 'Save and go back to the claim' }).click();
  await page.getByRole('button', { name: 'Send again (S)' }).click();
  await expect(anyOf(page.getByText('sent', { exact: true }))).toBeVisible();
  await desk.turn();
  await page.reload();
  await expect(page.getByText('accepted', { exact: true })).not.toHaveCount(0);
});
