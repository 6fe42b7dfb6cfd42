/** Who pays: a payer's page, a second case with its own insurers, what a policy covers, and notices, as people meet them. */
import { calendarDate } from '../src/core/calendar';
import { addCoverage } from '../src/server/accounts/coverage';
import { enterCharge } from '../src/server/accounts/charges';
import { addNote } from '../src/server/notes/notes';
import { sayOwnRule } from '../src/server/estimates/terms';
import { household } from '../src/testing/desk';
import { type Desk, anyOf, expect, lastOf, listening, provenBooks, signIn, test } from './desk';

const planOf = async (desk: Desk, name: string): Promise<number> =>
  (await desk.db.selectFrom('insurance_plan').select('id').where('name', '=', name).executeTakeFirstOrThrow())
    .id;

test('a payer that wants an agreement for who is billed as individual: missing it stops the claim, made it goes with the number', async ({
  page,
  desk,
}) => {
  const { id: payerId } = await desk.db
    .selectFrom('payer')
    .select('id')
    .where('name', '=', 'Ironwood Casualty')
    .executeTakeFirstOrThrow();
  const { id: claimId } = await desk.db
    .selectFrom('claim')
    .select('id')
    .where('payer_id', '=', payerId)
    .orderBy('id', 'desc')
    .executeTakeFirstOrThrow();
  await signIn(page, 'manager');
  await page.goto(`/payers/${payerId}`);
  await listening(page);
  await expect(anyOf(page.getByText('nobody yet'))).toBeVisible();
  // One provider is billed by herself, under a number that the payer gave her.
  await page.getByRole('button', { name: 'Add provider of this payer' }).click();
  let drawer = page.getByRole('dialog');
  await drawer.getByLabel('Provider').click();
  await page.keyboard.type('Tamura');
  await page.keyboard.press('Enter');
  await drawer.getByLabel('Billed as').click();
  await page.keyboard.type('individual');
  await page.keyboard.press('Enter');
  await drawer.getByLabel('Own number is').click();
  await page.keyboard.type('G2');
  await page.keyboard.press('Enter');
  await drawer.getByLabel('Own number', { exact: true }).fill('IND77');
  await drawer.getByRole('button', { name: 'Add provider of this payer' }).click();
  await expect(drawer).toBeHidden();
  await expect(page.getByRole('cell', { name: 'Tamura, Emi' })).toBeVisible();
  // The practice has an agreement, and she has none.
  const agree = async (who: string): Promise<void> => {
    await page.goto(`/payers/${payerId}`);
    await listening(page);
    await page.getByRole('button', { name: 'Add agreement' }).click();
    drawer = page.getByRole('dialog');
    await drawer.getByLabel('For', { exact: true }).click();
    await page.keyboard.type('837P');
    await page.keyboard.press('Enter');
    if (who) {
      await drawer.getByLabel('Provider').click();
      await page.keyboard.type(who);
      await page.keyboard.press('Enter');
    }
    await drawer.getByLabel('Since').fill('2026-01-01');
    await drawer.getByLabel('Since').blur();
    await drawer.getByRole('button', { name: 'Add agreement' }).click();
    await expect(drawer).toBeHidden();
  };
  await agree('');
  await expect
    .poll(
      async () => {
        await page.goto(`/claims/${claimId}`);
        return page.getByText(/takes 837P only with an agreement, and there is none for Emi Tamura/).count();
      },
      { timeout: 40_000 },
    )
    .toBeGreaterThan(0);
  await agree('Tamura');
  await expect
    .poll(
      async () => {
        await page.goto(`/claims/${claimId}`);
        return page.getByText(/only with an agreement/).count();
      },
      { timeout: 40_000 },
    )
    .toBe(0);
  await page.getByRole('tab', { name: 'As X12' }).click();
  await expect(page.getByLabel('Segments')).toContainText('REF*FY*0420');
  await expect(page.getByLabel('Segments')).toContainText('NM1*85*1*Tamura');
});

test('an accident beside what else there is: its own insurers, the first of which runs out in the middle of a charge; closed and opened again', async ({
  page,
  desk,
}) => {
  const made = await household(desk, true, { last: 'Bumper' });
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await page.getByRole('button', { name: 'open a case' }).click();
  let drawer = page.getByRole('dialog');
  await drawer.getByLabel('Name', { exact: true }).fill('Parking lot');
  await drawer.getByLabel('Kind').click();
  await page.keyboard.type('Car accident');
  await page.keyboard.press('Enter');
  await drawer.getByLabel('Accident on').fill('2026-03-02');
  await drawer.getByLabel('State of the accident').fill('wa');
  await drawer.getByRole('button', { name: 'Open the case' }).click();
  await expect(page).toHaveURL(/case=\d+/);
  const caseId = Number(new URL(page.url()).searchParams.get('case'));
  await expect(page.getByRole('region', { name: 'Case' })).toContainText(
    'Car accident · on 2 Mar 2026 in WA',
  );
  await expect(page.getByText('no coverage today')).toBeVisible();
  const cover = async (plan: string, position: number) =>
    addCoverage(desk.context, {
      patientId: made.patientId,
      caseId,
      insurancePlanId: await planOf(desk, plan),
      memberId: `PARK${position}`,
      position,
      key: `parking lot ${position}`,
    });
  const { coverageId } = await cover('Car injuries', 1);
  await cover('Beacon 70', 2);
  const office = { category: '', codes: '99213', valid_from: '' };
  await sayOwnRule(desk.context, {
    coverageId,
    table: 'shares',
    values: { ...office, share: '100 %' },
  });
  await sayOwnRule(desk.context, {
    coverageId,
    table: 'maximums',
    values: {
      ...office,
      amount: '100.00',
      holder: 'person',
      every: 'coverage',
      months: '',
      anchor: '',
      then_pays: 'next',
      warning: 'none',
    },
  });
  await page.goto(`/accounts/${made.householdId}?case=${caseId}`);
  await listening(page);
  await expect(page.getByText(/first: Ironwood Casualty/)).toBeVisible();
  await expect(page.getByText(/second: Northlight Mutual/)).toBeVisible();
  await page.getByLabel('Code (N)').fill('99213');
  const estimate = page.getByRole('status', { name: 'Estimate' });
  await expect(estimate).toContainText(/Ironwood Casualty.*100\.00/);
  await expect(estimate).toContainText(/Northlight Mutual/);
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(anyOf(page.getByText('99213 entered'))).toBeVisible();
  const totals = page.getByRole('table', { name: 'Totals of the case' });
  await expect(totals.getByRole('row', { name: /This case/ })).toContainText('145.00');
  // Closed, nothing later is entered for it; opened again it is as it was.
  await page.getByRole('button', { name: 'close', exact: true }).click();
  drawer = page.getByRole('dialog');
  await drawer.getByLabel('Why').fill('Treatment ended');
  await drawer.getByLabel('Why').press('Tab');
  await drawer.getByRole('button', { name: 'Close the case' }).click();
  await expect(page.getByText(/closed on 16 Mar 2026: Treatment ended/)).toBeVisible();
  await expect(totals.getByRole('row', { name: /This case/ })).toContainText('145.00');
  await page.getByRole('button', { name: 'open it again' }).click();
  await expect(page.getByRole('button', { name: 'close', exact: true })).toBeVisible();
  await expect(page.getByText(/first: Ironwood Casualty/)).toBeVisible();
  await provenBooks(desk);
});

test('a payer’s letter says that nothing is left: the next one is asked; what it allowed beforehand is counted', async ({
  page,
  desk,
}) => {
  const made = await household(desk, true, { last: 'Emptier' });
  await addCoverage(desk.context, {
    patientId: made.patientId,
    insurancePlanId: await planOf(desk, 'Beacon 70'),
    memberId: 'EMPTY2',
    position: 2,
    key: 'emptier second',
  });
  await enterCharge(desk.context, {
    patientId: made.patientId,
    providerId: desk.providers.family,
    serviceDate: calendarDate('2026-03-16'),
    code: '99213',
    key: 'emptier visit',
  });
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await page.getByRole('button', { name: 'add authorization' }).click();
  let drawer = page.getByRole('dialog');
  await drawer.getByLabel('Number').fill('PA-31');
  await drawer.getByLabel('Visits').fill('3');
  await drawer.getByRole('button', { name: 'Write it down' }).click();
  await expect(page.getByText(/prior authorization PA-31 approved, 2 of 3 visits left/)).toBeVisible();
  // Of both insurers it can be said; the first one has the letter.
  await anyOf(page.getByRole('button', { name: 'mark used up' })).click();
  drawer = page.getByRole('dialog');
  await drawer.getByRole('button', { name: 'Ask the next insurer' }).click();
  await expect(drawer.getByText('Choose the letter: a PDF or a picture')).toBeVisible();
  await drawer
    .getByLabel('Letter of the payer')
    .setInputFiles({ name: 'letter.pdf', mimeType: 'application/pdf', buffer: Buffer.from('%PDF-1.4 said') });
  await drawer.getByRole('button', { name: 'Ask the next insurer' }).click();
  await expect(anyOf(page.getByText('1 unbilled charge moved to the new coverage'))).toBeVisible();
  await expect(page.getByText(/nothing left from 16 Mar 2026 on/)).toBeVisible();
  await page.getByRole('button', { name: 'its letter' }).click();
  const letter = await page.request.get(
    (await page.getByRole('dialog').getByRole('link', { name: 'letter' }).getAttribute('href'))!,
  );
  expect(await letter.text()).toBe('%PDF-1.4 said');
  await page.getByRole('button', { name: 'Something is left after all' }).click();
  await expect(page.getByText(/nothing left from/)).toBeHidden();
  await provenBooks(desk);
});

test('visits that run out are asked about before the last one is entered, and meant', async ({
  page,
  desk,
}) => {
  const made = await household(desk, true, { last: 'Visitmore' });
  const { id: coverageId } = await desk.db
    .selectFrom('covered')
    .select('id')
    .where('patient_id', '=', made.patientId)
    .executeTakeFirstOrThrow();
  await sayOwnRule(desk.context, {
    coverageId,
    table: 'limits',
    values: {
      category: '',
      codes: '',
      valid_from: '',
      quantity: '1',
      measure: 'visits',
      holder: 'person',
      every: 'year',
      months: '',
      anchor: '',
      then_pays: 'patient',
      warning: 'confirm',
    },
  });
  await enterCharge(desk.context, {
    patientId: made.patientId,
    providerId: desk.providers.family!,
    serviceDate: calendarDate('2026-03-10'),
    code: '99213',
    diagnoses: ['I10'],
    key: 'the one visit',
  });
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await page.getByLabel('Code (N)').fill('99213');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  const asks = page.getByRole('dialog');
  await expect(asks).toContainText(/goes beyond 1 visit a year of Cedar Sound Health/);
  await asks.getByRole('button', { name: 'It is meant so' }).click();
  await expect(anyOf(page.getByText('99213 entered'))).toBeVisible();
  await provenBooks(desk);
});

test('a plan’s form answers while it is typed, and one person’s policy says otherwise', async ({
  page,
  desk,
}) => {
  const planId = await planOf(desk, 'Beacon 70');
  await signIn(page, 'manager');
  await page.goto(`/terms/${planId}`);
  await listening(page);
  const estimate = page.getByRole('status', { name: 'Estimate' });
  await expect(estimate).toBeVisible();
  await page.getByRole('button', { name: 'Add deductible' }).click();
  const drawer = page.getByRole('dialog');
  await drawer.getByLabel('Amount').fill('1.23');
  await expect(estimate).toContainText('With what is being typed.');
  await expect(estimate).toContainText('1.23');
  await page.keyboard.press('Escape');
  const leave = page.getByRole('button', { name: 'Leave' });
  await leave.click();
  await expect(estimate).not.toContainText('1.23');
  const made = await household(desk, true, { last: 'Otherwise' });
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await page.getByRole('link', { name: 'what it covers' }).click();
  await expect(page.getByRole('heading', { level: 1, name: /policy covers/ })).toBeVisible();
  await anyOf(
    page.getByRole('region', { name: 'Copays' }).getByRole('button', { name: 'say otherwise' }),
  ).click();
  await page.getByRole('dialog').getByLabel('Amount').fill('3.21');
  await page.getByRole('dialog').getByRole('button', { name: 'Add copay' }).click();
  await expect(page.getByRole('dialog')).toBeHidden();
  await expect(page.getByText('this policy alone')).toBeVisible();
  await expect(estimate).toContainText('3.21');
  await page.getByRole('button', { name: 'as the plan says' }).click();
  await expect(page.getByText('this policy alone')).toBeHidden();
});

test('what is to be read on opening is read once a day by each; others stand at the head', async ({
  page,
  desk,
}) => {
  const made = await household(desk, true, { last: 'Readme' });
  await addNote(desk.context, {
    householdId: made.householdId,
    patientId: made.patientId,
    words: 'Needs an interpreter',
    pinned: true,
    onOpening: true,
    key: 'a note to be read',
  });
  await signIn(page, 'front-desk');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  const asks = page.getByRole('dialog', { name: 'Read before you go on' });
  await expect(asks).toContainText('Needs an interpreter');
  await asks.getByRole('button', { name: 'I have read it' }).click();
  await expect(asks).toBeHidden();
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await expect(lastOf(page.getByText(/Needs an interpreter/))).toBeVisible();
  await expect(asks).toBeHidden();
});
