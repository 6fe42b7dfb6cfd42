/** A visit in a few keys: ten lines by keyboard, a set with a tooth asked, a code added on the spot, an estimate, a day sheet both ways. */
import { calendarDate } from '../src/core/calendar';
import { completeCharge, enterCharge } from '../src/server/accounts/charges';
import { giveEstimate } from '../src/server/accounts/treatment';
import { changeCharge } from '../src/server/claims/fix';
import { buildClaims } from '../src/server/claims/build';
import { household } from '../src/testing/desk';
import { anyOf, expect, listening, provenBooks, signIn, test } from './desk';

test('ten services by the keyboard: their codes, and two keys at most for each', async ({ page, desk }) => {
  const made = await household(desk, true, { last: 'Tenfold' });
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  const code = page.locator('#quick-code');
  await expect(code).toBeVisible();
  await page.keyboard.press('n');
  await expect(code).toBeFocused();
  const codes = ['99213', '80053', '85025', '87880', '36415', '93000', '99051', '12001', '99212', '99214'];
  let keys = 0;
  for (const one of codes) {
    await page.keyboard.type(one);
    await expect(page.getByRole('status', { name: 'Estimate' })).toContainText(/Expected from the patient/);
    await page.keyboard.press('Enter');
    keys += 1;
    await expect(code).toHaveValue('');
    await expect(code).toBeFocused();
  }
  expect(keys).toBeLessThanOrEqual(codes.length * 2);
  await expect(page.getByRole('cell', { name: `${codes.length} charges`, exact: true })).toBeVisible();
  // The visit is one thing: looked at, and taken back whole.
  await anyOf(page.getByRole('row', { name: /99214/ }).getByRole('button')).click();
  await anyOf(page.getByRole('button', { name: 'The visit' })).click();
  const drawer = page.getByRole('dialog');
  await expect(drawer.getByText(`${codes.length} services`)).toBeVisible();
  await drawer.getByRole('button', { name: 'Take the visit back' }).click();
  await drawer.getByPlaceholder('Why is it taken back?').fill('entered for the wrong person');
  await page.keyboard.press('Enter');
  await expect(anyOf(page.getByText(`${codes.length} services taken back`))).toBeVisible();
  await provenBooks(desk);
});

test('a set is chosen by its name, its tooth asked once; modifiers and minutes stand in the line', async ({
  page,
  desk,
}) => {
  const made = await household(desk, true, { last: 'Setter' });
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  const code = page.locator('#quick-code');
  await code.fill('Crown');
  await page.getByTitle('Set: Crown (2 services)').click();
  const grid = page.getByRole('region', { name: 'New visit' });
  // The cursor stands where something is asked.
  await expect(grid.getByLabel('Tooth, line 1')).toBeFocused();
  await page.keyboard.type('3');
  await expect(grid.getByLabel('Tooth, line 2')).toHaveValue('3');
  await expect(grid.getByRole('status')).toContainText(/Together 1\s650\.00/);
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'It is meant so' }).click();
  await expect(anyOf(page.getByText('2 services entered'))).toBeVisible();
  // By time: half an hour and seven minutes are two units and one.
  await expect(code).toBeFocused();
  await code.fill('Therapy hour');
  await page.getByTitle(/Set: Therapy hour/).click();
  await expect(grid.getByLabel('Minutes, line 1')).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await expect(grid.getByLabel('Minutes, line 2')).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Control+Delete');
  await expect(grid.getByRole('button', { name: 'Enter 2 services' })).toBeVisible();
  await expect(grid.getByRole('status')).toContainText(/Together 190\.00/);
  await grid.getByRole('button', { name: 'Enter 2 services' }).click();
  // The grid goes when they are entered; the words of the set before may still stand there.
  await expect(grid).toBeHidden();
  const { rows } = await desk.pool.query<{ code: string; units: number; modifiers: string[]; tooth: string }>(
    'select code, units, modifiers, tooth from charge where household_id = $1 order by id',
    [made.householdId],
  );
  expect(rows).toEqual([
    { code: 'D2950', units: 1, modifiers: [], tooth: '3' },
    { code: 'D2740', units: 1, modifiers: [], tooth: '3' },
    { code: '97110', units: 2, modifiers: ['GP'], tooth: '' },
    { code: '97140', units: 1, modifiers: ['GP'], tooth: '' },
  ]);
  await provenBooks(desk);
});

test('a code that is missing is added on the spot, and the line goes on; a manager looks at it', async ({
  page,
  desk,
}) => {
  const made = await household(desk, true, { last: 'Spotter' });
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  const code = page.locator('#quick-code');
  await code.fill('S9999');
  await page.getByRole('button', { name: 'Add it' }).click();
  const drawer = page.getByRole('dialog');
  await drawer.getByLabel('In our words').fill('Something that was missing');
  await drawer.getByLabel('Category').click();
  await page.keyboard.type('office');
  await page.keyboard.press('Enter');
  await drawer.getByLabel('Office fee').fill('75.00');
  await drawer.getByRole('button', { name: 'Add it and go on' }).click();
  await expect(drawer).toBeHidden();
  await expect(code).toHaveValue('S9999');
  await expect(page.getByRole('status', { name: 'Estimate' })).toContainText(/Expected from the patient/);
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(anyOf(page.getByText('S9999 entered'))).toBeVisible();
  await signIn(page, 'manager');
  await page.goto('/setup/added');
  await listening(page);
  await expect(page.getByRole('row', { name: /S9999/ })).toContainText('75.00');
  await page.getByRole('row', { name: /S9999/ }).getByRole('button', { name: 'It is right' }).click();
  await expect(page.getByText('Nothing was added that nobody has looked at')).toBeVisible();
  await provenBooks(desk);
});

test('ways of treating beside each other, an estimate of the chosen one, signed, and done in part', async ({
  page,
  desk,
}) => {
  const made = await household(desk, true, { last: 'Chooser' });
  for (const [at, fee] of ['145.00', '205.00'].entries())
    await enterCharge(desk.context, {
      patientId: made.patientId,
      providerId: desk.providers.family!,
      serviceDate: calendarDate('2026-04-06'),
      code: at === 0 ? '99213' : '99214',
      fee,
      planned: true,
      key: `chooser ${at}`,
    });
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await page.getByRole('button', { name: 'planned treatment' }).click();
  const drawer = page.getByRole('dialog');
  await expect(drawer.getByRole('table', { name: 'Services of Planned' })).toContainText('350.00');
  await drawer.getByLabel('Another way of treating').fill('The longer one');
  await drawer.getByRole('button', { name: 'Add it' }).click();
  await drawer.getByLabel('Way of treating of 99214').click();
  await page.getByTitle('The longer one').click();
  await expect(drawer.getByRole('table', { name: 'Services of The longer one' })).toContainText('205.00');
  await drawer.getByRole('button', { name: 'Make the estimate to hand over' }).click();
  await drawer.getByText('Estimates given (1)').click();
  await drawer.getByLabel(/^Who signed E-/).fill('Nr Chooser');
  await drawer.getByRole('button', { name: 'It is signed' }).click();
  await expect(drawer.getByText(/Signed on 16 Mar 2026 by Nr Chooser/)).toBeVisible();
  await drawer.getByText('What is planned').click();
  // From row to row by the arrow keys, done by one.
  await anyOf(drawer.getByRole('row', { name: /99213/ })).focus();
  await page.keyboard.press('d');
  await expect(anyOf(page.getByText('Done today', { exact: true }))).toBeVisible();
  await drawer.getByText('Estimates given (1)').click();
  await expect(drawer.getByText(/1 of 2 services done: of these/)).toBeVisible();
  await provenBooks(desk);
});

test('a bill far above its good faith estimate is kept back, and goes out when somebody has looked at it', async ({
  page,
  desk,
}) => {
  const made = await household(desk, false, { last: 'Aboving' });
  const chargeId = await enterCharge(desk.context, {
    patientId: made.patientId,
    providerId: desk.providers.family!,
    serviceDate: calendarDate('2026-04-06'),
    code: '99213',
    fee: '100.00',
    planned: true,
    key: 'aboving planned',
  });
  await giveEstimate(desk.context, {
    caseId: made.caseId,
    validUntil: '2026-06-30',
    key: 'aboving estimate',
  });
  await completeCharge(desk.context, { chargeId, serviceDate: '2026-03-16', sure: true });
  await changeCharge(desk.context, { chargeId, fee: '620.00', sure: true });
  await signIn(page, 'biller');
  await page.goto('/accounts/estimates?view=above&search=Aboving');
  await listening(page);
  await expect(page.getByRole('row', { name: /Aboving/ })).toContainText('520.00');
  await page.getByRole('row', { name: /Aboving/ }).dblclick();
  const drawer = page.getByRole('dialog');
  await expect(drawer.getByText(/520.00 more than was said: the patient may dispute the bill/)).toBeVisible();
  await drawer.getByRole('button', { name: 'It is right to ask for it' }).click();
  await drawer.getByPlaceholder('Why is so much more asked for?').fill('a second visit, as told');
  await page.keyboard.press('Enter');
  await expect(drawer.getByText('Looked at: a second visit, as told')).toBeVisible();
  await page.goto('/accounts/estimates?view=above&search=Aboving');
  await expect(page.getByText('None found for “Aboving”')).toBeVisible();
  await provenBooks(desk);
});

test('the day sheet says both ways of counting, and what they differ by', async ({ page, desk }) => {
  const made = await household(desk, true, { last: 'Sheeter' });
  const { id: providerId } = await desk.db
    .selectFrom('provider')
    .select('id')
    .where('last', '=', 'Lindqvist')
    .executeTakeFirstOrThrow();
  await enterCharge(desk.context, {
    patientId: made.patientId,
    providerId,
    serviceDate: calendarDate('2026-03-16'),
    code: '99213',
    diagnoses: ['I10'],
    key: 'sheeter visit',
  });
  await buildClaims(desk.context, { householdId: made.householdId });
  await signIn(page, 'manager');
  await page.goto(`/books/reports/production-lines?from=2026-03-16&to=2026-03-16&provider=${providerId}`);
  await expect(
    page.getByText(/This practice counts write-offs of contracts when the payer answers/),
  ).toBeVisible();
  await expect(page.getByRole('row', { name: /Sheeter/ })).toContainText('47.00');
  await page.goto(`/books/reports/production?from=2026-03-16&to=2026-03-16&provider=${providerId}`);
  await expect(page.getByRole('row', { name: /Lindqvist/ })).toContainText('98.00');
});
