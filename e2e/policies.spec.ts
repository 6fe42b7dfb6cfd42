/** Policies in their order, and an account that is closed to all but named users, as people meet them. */
import { charge, decided, household, postedRemittance, secondCoverage, sentClaim } from '../src/testing/desk';
import { anyOf, db, expect, lastOf, listening, signIn, test } from './desk';

test('the order of two coverages is changed from a day, by keyboard, and the unbilled charge follows', async ({
  page,
  desk,
}) => {
  const made = await household(desk, true, { last: 'Ordermann' });
  await secondCoverage(desk, made.patientId);
  await charge(desk, desk.context, made.patientId, '90.00');
  const second = await desk.db
    .selectFrom('covered')
    .select('member_id')
    .where('patient_id', '=', made.patientId)
    .where('position', '=', 2)
    .executeTakeFirstOrThrow();
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await expect(page.getByText(/second: Cedar Sound Health/)).toBeVisible();
  await page.getByRole('button', { name: 'change the order' }).click();
  const drawer = page.getByRole('dialog');
  const first = anyOf(drawer.getByRole('listitem'));
  await first.focus();
  await first.press('Alt+ArrowDown');
  // The cursor went with it.
  await expect(lastOf(drawer.getByRole('listitem'))).toBeFocused();
  await drawer.getByRole('button', { name: 'Change the order' }).click();
  await expect(drawer).toBeHidden();
  await expect(anyOf(page.getByText('1 unbilled charge moved to the new coverage'))).toBeVisible();
  await expect(
    page.getByText(new RegExp(`first: Cedar Sound Health.*${second.member_id}, from 16 Mar 2026`)),
  ).toBeVisible();
  // What it was before is unfolded.
  await page.getByText('2 coverages of other times').click();
  await expect(anyOf(page.getByText(/until 15 Mar 2026/))).toBeVisible();
});

test('what the first payer passed on is billed to the next one from its follow-up, with what was decided', async ({
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
  await page.goto(`/remittances/follow-ups?view=next&search=${s.claim.control_number}`);
  await listening(page);
  const row = page.getByRole('row', { name: new RegExp(s.claim.control_number) });
  await row.getByRole('button', { name: 'Bill it' }).click();
  await expect(anyOf(page.getByText('1 claim built, with what was decided before'))).toBeVisible();
  // It is asked for now, and nobody builds a second one.
  await expect(row.getByRole('button', { name: 'Bill it' })).toBeHidden();
  const { id } = await desk.db
    .selectFrom('claim')
    .select('id')
    .where('household_id', '=', s.householdId)
    .where('position', '=', 2)
    .executeTakeFirstOrThrow();
  await page.goto(`/claims/${id}`);
  await expect(page.getByText(/paid 68\.00 on 16 Mar 2026; CO-45 47\.00, PR-3 30\.00/)).toBeVisible();
  await page.getByRole('tab', { name: 'As X12' }).click();
  await expect(page.getByLabel('Segments')).toContainText('CAS*PR*3*30.00');
});

test('an account that is closed to who asks stands in the list with its amounts, and opens to nobody else', async ({
  page,
  desk,
}) => {
  const made = await household(desk, false, { last: 'Secretwell' });
  await charge(desk, desk.context, made.patientId, '77.00');
  const [named] = await db<{ id: string }>(
    `select id from "user" where role = 'manager' order by id limit 1`,
  );
  await db(
    `insert into household_open_to (household_id, user_id) values (${made.householdId}, '${named!.id}')`,
  );
  try {
    await signIn(page, 'biller');
    await page.goto('/accounts?view=owes&order=-withPatient');
    await listening(page);
    const row = page.getByRole('row', { name: /A closed account/ });
    await expect(row).toContainText('77.00');
    await expect(row).not.toContainText('Secretwell');
    await row.dblclick();
    await expect(page).toHaveURL(/\/accounts\?/);
    await page.goto(`/accounts/${made.householdId}`);
    await expect(page.getByRole('heading', { level: 1, name: 'Not open to you' })).toBeVisible();
    await page.goto('/accounts?search=Secretwell');
    await expect(page.getByText('Nobody found for “Secretwell”')).toBeVisible();
    await signIn(page, 'manager');
    await page.goto('/accounts?search=Secretwell');
    await expect(page.getByRole('row', { name: /Secretwell/ })).toContainText('77.00');
  } finally {
    await db(`delete from household_open_to where household_id = ${made.householdId}`);
  }
});
