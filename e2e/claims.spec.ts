/** Claims go on: checked without a file, to the next payer, corrected as a whole, on paper. */
import { addDays } from '../src/core/calendar';
import { buildClaims } from '../src/server/claims/build';
import { sendClaims } from '../src/server/claims/send';
import { TODAY } from '../src/testing/database';
import { charge, decided, household, postedRemittance, secondCoverage, sentClaim } from '../src/testing/desk';
import { type Desk, anyOf, expect, figure, listening, press, provenBooks, signIn, test } from './desk';

/** A claim of a person whose visit has no diagnosis. */
async function hurried(desk: Desk, last: string, diagnoses: string[] = []) {
  const made = await household(desk, true, { last });
  const chargeId = await charge(desk, desk.context, made.patientId, '145.00');
  await desk.db.updateTable('charge').set({ diagnoses }).where('id', '=', chargeId).execute();
  const [claimId] = await buildClaims(desk.context, { householdId: made.householdId });
  return { ...made, chargeId, claimId: claimId! };
}

test('a selection is checked, worked through by keyboard in its place, and the clean file is looked at, saved and sent', async ({
  page,
  desk,
}) => {
  for (let count = 0; count < 3; count += 1) await hurried(desk, 'Checkwell');
  await signIn(page, 'biller');
  await page.goto('/claims?view=all&search=Checkwell');
  await listening(page);
  await page.getByRole('checkbox', { name: 'Select all' }).check();
  await press(page, 'c');
  await expect(page.getByRole('heading', { name: 'Check of 3 claims' })).toBeVisible();
  const groups = page.getByRole('list', { name: 'By what mends it' });
  await expect(groups.getByRole('button', { name: /^diagnoses: 3 claims$/ })).toBeVisible();
  const table = page.getByRole('table').filter({ hasText: 'What mends it' });
  for (const left of [2, 1, 0]) {
    await press(page, 'n');
    await page.keyboard.press('Enter');
    const drawer = page.getByRole('dialog');
    await expect(drawer).toBeVisible();
    const field = drawer.getByRole('combobox', { name: 'Diagnoses' });
    await field.focus();
    await field.pressSequentially('I10');
    await page.keyboard.press('Enter');
    await drawer.getByRole('button', { name: /^Save/ }).click();
    // Back in its place, the line says that it is mended.
    await expect(page.getByRole('heading', { name: 'Check of 3 claims' })).toBeVisible();
    await expect(
      groups.getByRole('button', {
        name:
          left === 0 ? /diagnoses: 3 claims, all mended/ : new RegExp(`diagnoses: 3 claims, ${left} left`),
      }),
    ).toBeVisible();
    await listening(page);
  }
  await expect(anyOf(table.getByText('mended', { exact: true }))).toBeVisible();
  await press(page, 'l');
  await expect(page.getByRole('heading', { name: 'The file' })).toBeVisible();
  const segments = page.getByRole('region', { name: 'Segments' });
  await expect(
    segments.getByText('The claim: our number, total, place, original or correction'),
  ).toBeVisible();
  const first = await page.getByRole('heading', { name: /^What OL\w+ says$/ }).innerText();
  await listening(page);
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('heading', { name: /^What OL\w+ says$/ })).not.toHaveText(first);
  const saved = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save' }).click();
  expect((await saved).suggestedFilename()).toMatch(/^20260316-\d{6}-837P\.x12$/);
  await press(page, 's');
  await expect(anyOf(page.getByText(/Sent 3 claims in 20260316-/))).toBeVisible();
  await expect(page.getByTestId('note')).toContainText('3 not here any more');
});

test('what is chosen in the ledger becomes a claim that is opened; in the ledger a line lights its claim', async ({
  page,
  desk,
}) => {
  const made = await household(desk, true, { last: 'Ledgerwell' });
  for (const day of ['2026-03-10', '2026-03-11'])
    await charge(desk, desk.context, made.patientId, '145.00', '99213', day as never);
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  const choice = page.getByRole('checkbox', { name: /Bill 99213 of .*, 2026-03-11/ });
  await choice.click();
  await expect(choice).toBeChecked();
  await page.getByRole('button', { name: 'Build claims from 1 chosen charge' }).click();
  await expect(page.getByRole('heading', { name: /^Claim OL/ })).toBeVisible();
  const number = (await page.getByRole('heading', { name: /^Claim OL/ }).innerText()).replace('Claim ', '');
  await press(page, 'o');
  await expect(page.getByRole('status').filter({ hasText: number })).toContainText('1 charge, 145.00');
  // The other one is on none.
  await page
    .getByRole('row', { name: /10 Mar 2026/ })
    .getByText('99213 Office visit')
    .click();
  await expect(page.getByRole('status').filter({ hasText: number })).toBeHidden();
  await expect(page.getByRole('checkbox', { name: /Bill 99213 of .*, 2026-03-10/ })).toBeVisible();
});

test('first and second payer, end to end: passed on, built, sent, answered, and the rest is the patient’s', async ({
  page,
  desk,
}) => {
  const s = await sentClaim(desk);
  await secondCoverage(desk, s.patientId);
  await postedRemittance(desk, [
    decided(s.claim.control_number, [
      { control: s.controls[0]!, charge: 14_500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
    ]),
  ]);
  await signIn(page, 'biller');
  await page.goto('/claims/unbilled?view=next');
  await listening(page);
  const row = page.getByRole('row', { name: /99213/ }).filter({ hasText: '30.00' });
  await anyOf(row).getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Build claims from 1 charge' }).click();
  await expect(page.getByRole('heading', { name: /^Claim OL/ })).toBeVisible();
  await expect(page.getByText(/paid 68\.00 on 16 Mar 2026/)).toBeVisible();
  await page.getByRole('tab', { name: 'As X12' }).click();
  await expect(page.getByLabel('Segments')).toContainText('AMT*EAF*30.00');
  await press(page, 's');
  await expect(page.getByText('Sent as it stands here')).toBeHidden();
  const claim = await desk.db
    .selectFrom('claim as m')
    .innerJoin('claim_line as l', 'l.claim_id', 'm.id')
    .select(['m.control_number', 'l.id'])
    .where('m.household_id', '=', s.householdId)
    .where('m.position', '=', 2)
    .executeTakeFirstOrThrow();
  await expect(anyOf(page.getByText('Sent', { exact: true }))).toBeVisible();
  await postedRemittance(desk, [
    decided(
      claim.control_number,
      [{ control: `L${claim.id}`, charge: 14_500, paid: 2000, reasons: ['OA-23:115.00', 'PR-2:10.00'] }],
      '2',
    ),
  ]);
  await page.goto(`/accounts/${s.householdId}`);
  await listening(page);
  expect(await figure(page, 'Patient owes now')).toBe(10);
  expect(await figure(page, 'With payers')).toBe(0);
  await provenBooks(desk);
});

test('a wrong provider is corrected after the payment: what it says otherwise is shown before it goes', async ({
  page,
  desk,
}) => {
  const s = await sentClaim(desk);
  await postedRemittance(desk, [
    decided(s.claim.control_number, [
      { control: s.controls[0]!, charge: 14_500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
    ]),
  ]);
  const other = await desk.db
    .selectFrom('provider')
    .select(['last', 'first'])
    .where('id', '=', desk.providers.family2!)
    .executeTakeFirstOrThrow();
  await signIn(page, 'biller');
  await page.goto(`/claims/${s.claim.id}`);
  await press(page, 'c');
  await page.getByLabel('What is corrected').fill('Somebody else did it');
  await page.getByRole('button', { name: 'Make the correction' }).click();
  await expect(page.getByText(`corrects ${s.claim.control_number}`)).toBeVisible();
  await expect(page.getByText('Nothing yet: change what was wrong.')).toBeVisible();
  await page.getByRole('button', { name: 'Who did it, and where' }).click();
  const drawer = page.getByRole('dialog');
  const done = drawer.getByRole('combobox', { name: 'Done by' });
  await done.focus();
  await done.pressSequentially(other.last);
  await page.keyboard.press('Enter');
  await drawer.getByRole('button', { name: 'Put right' }).click();
  await expect(drawer).toBeHidden();
  const table = page.getByRole('table').filter({ hasText: 'Was' });
  await expect(table.getByRole('row', { name: /Done by/ })).toContainText(`${other.first} ${other.last}`);
  await expect(page.getByText(/The 68\.00 that Cedar Sound Health has paid/)).toBeVisible();
  await press(page, 's');
  await expect(anyOf(page.getByText('Sent', { exact: true }))).toBeVisible();
  await provenBooks(desk);
});

test('voided with the first payer after the second one was billed: the second claim says that it tells the old', async ({
  page,
  desk,
}) => {
  const s = await sentClaim(desk);
  await secondCoverage(desk, s.patientId);
  const word = (sign: 1 | -1, status: string) =>
    decided(
      s.claim.control_number,
      [
        {
          control: s.controls[0]!,
          charge: sign * 14_500,
          paid: sign * 6800,
          reasons: [`CO-45:${sign * 47}.00`, `PR-3:${sign * 30}.00`],
        },
      ],
      status,
    );
  await postedRemittance(desk, [word(1, '1')]);
  const [later] = await buildClaims(desk.context, { householdId: s.householdId, which: 'next' });
  await sendClaims(desk.context, { claimIds: [later!] });
  await signIn(page, 'biller');
  await page.goto(`/claims/${s.claim.id}`);
  await press(page, 'v');
  await page.getByLabel('Why it is voided').fill('The member id was another');
  await page.getByRole('button', { name: 'Make the void' }).click();
  await expect(page.getByText(`voids ${s.claim.control_number}`)).toBeVisible();
  await press(page, 's');
  await expect(anyOf(page.getByText('Sent', { exact: true }))).toBeVisible();
  await postedRemittance({ ...desk, context: { ...desk.context, today: addDays(TODAY, 0) } }, [
    word(-1, '22'),
  ]);
  await page.goto('/claims?view=stale');
  await expect(page.getByRole('row', { name: /Cedar Sound/ })).toContainText('145.00');
  await page.goto(`/claims/${later!}`);
  await expect(page.getByText(/it tells\s+what stands no more/)).toBeVisible();
  await page.getByRole('button', { name: 'The payer was told' }).click();
  await page.getByPlaceholder('Who was told, and how?').fill('Their desk, by fax');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/it tells\s+what stands no more/)).toBeHidden();
  await provenBooks(desk);
});

test('what goes on paper is printed together and opened again', async ({ page, desk }) => {
  await desk.db
    .updateTable('payer')
    .set({ accepts: 'paper', line1: '7 Elm Row', city: 'Tacoma', state: 'WA', zip: '98401' })
    .where('name', '=', 'Cedar Sound Health')
    .execute();
  const { claimId } = await hurried(desk, 'Paperwell', ['I10']);
  await signIn(page, 'biller');
  await page.goto(`/claims/${claimId}?part=paper`);
  await expect(page.getByRole('link', { name: /as PDF$/ })).toBeVisible();
  await page.goto('/claims?view=print');
  await listening(page);
  await page.getByRole('button', { name: /^Print \d+ claim/ }).click();
  await expect(page.getByRole('heading', { name: 'Printed claims' })).toBeVisible();
  const link = anyOf(page.getByRole('link', { name: /^PDF of print/ }));
  const answer = await page.request.get((await link.getAttribute('href'))!);
  expect(answer.headers()['content-type']).toBe('application/pdf');
  await page.goto(`/claims/${claimId}`);
  await expect(page.getByText('printed', { exact: true })).toBeVisible();
});
