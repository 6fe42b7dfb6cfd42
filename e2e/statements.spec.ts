/** The month's statements from choosing to sent, and what goes wrong on the way. */
import { setDelivery } from '../src/server/statements/household';
import { prepareStatement } from '../src/server/statements/prepare';
import { charge, dentalCharge } from '../src/testing/desk';
import { addMember } from '../src/server/accounts/register';
import { addDays } from '../src/core/calendar';
import { TODAY } from '../src/testing/database';
import { db, expect, listening, signIn, test, anyOf, registered, press } from './desk';

/** How many pieces of a batch are in which state. */
const states = async (batchId: number): Promise<Record<string, number>> =>
  Object.fromEntries(
    (
      await db<{ status: string; n: number }>(
        `select status, count(*)::int as n from mail_piece where batch_id = ${batchId} group by 1`,
      )
    ).map(({ status, n }) => [status, n]),
  );

test('the rows pick the households and say why not; drafts are looked through, sent, printed, printed again, voided', async ({
  page,
  desk,
}) => {
  test.setTimeout(180_000);
  // Twelve households of a category.
  const people: { id: number }[] = [];
  for (let n = 101; n <= 112; n += 1) {
    const made = await registered(desk, 'Ostrander', `Nr ${n}`, { email: `nr${n}@example.com` });
    await charge(desk, desk.context, made.patientId, '50.00', '99213', addDays(TODAY, -70));
    await setDelivery(desk.context, {
      householdId: made.householdId,
      delivery: 'mail',
      category: 'courtesy',
    });
    people.push({ id: made.householdId });
  }

  await signIn(page, 'manager');
  await page.goto('/statements');
  await listening(page);
  await page.getByRole('button', { name: 'Other rows for once' }).click();
  const add = async (group: string, words: string): Promise<void> => {
    await page.getByRole('combobox', { name: `${group}: add a row` }).fill(words);
    await page.keyboard.press('Enter');
  };
  await page.getByRole('button', { name: 'Remove: its cycle has come round' }).click();
  await expect(page.getByText('Everybody who owes is taken.')).toBeVisible();
  // The effect of a row shows at once: only those of the category, then all but one site's.
  await add('Take when', 'its category');
  await add('Take when', 'the oldest amount');
  await page.getByRole('textbox', { name: /the oldest amount/ }).fill('99999');
  await page.getByRole('textbox', { name: /the oldest amount/ }).fill('3000');
  await expect(page.getByRole('button', { name: /^Prepare \d+ drafts/ })).toBeEnabled();
  await page.getByText(/^Left out/).click();
  const table = page.getByRole('table', { name: 'Households left out' });
  await expect(anyOf(table.getByText(/its category is|nothing is owed/))).toBeVisible();
  await page.getByText(/^Get one/).click();
  await expect(page.getByRole('table', { name: 'Households that get one' })).toContainText('Ostrander');

  await press(page, 'd');
  await expect(page).toHaveURL(/statements\/batches\/\d+/, { timeout: 30_000 });
  const batchId = Number(/\d+$/.exec(page.url())![0]);
  await expect.poll(async () => (await states(batchId)).draft ?? 0).toBeGreaterThanOrEqual(12);
  const last = page.locator('tbody tr[data-index]');
  await expect(anyOf(last)).toBeVisible();

  // One is taken out with a reason, and a stop is set on another in between.
  await listening(page);
  await page.getByPlaceholder('Guarantor or account').fill('Ostrander');
  await expect(last).toHaveCount(12);
  await page.keyboard.press('Escape');
  await page
    .getByRole('row', { name: /Ostrander, Nr 101/ })
    .getByRole('checkbox')
    .click();
  await page.getByRole('button', { name: 'Take out 1' }).click();
  await page.getByLabel('Why not').fill('comes in tomorrow');
  await page.getByRole('button', { name: 'Take out 1' }).click();
  await expect(anyOf(page.getByText('1 taken out'))).toBeVisible();
  await page.goto(`/accounts/${people[1]!.id}?show=statements`);
  await page.getByRole('combobox', { name: 'Another reason' }).click();
  await page
    .locator('.ant-select-dropdown:visible')
    .getByText(/^attorney/)
    .click();
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(anyOf(page.getByText(/attorney: no statements/))).toBeVisible();

  // It is sent, stopped, and gone on with.
  await page.goto(`/statements/batches/${batchId}`);
  await listening(page);
  await press(page, 's');
  const stop = page.getByRole('button', { name: 'Stop', exact: true });
  await stop.click({ timeout: 20_000 }).catch(() => undefined);
  await expect(page.getByText(/Sending \d+ pieces: (done|stopped)/)).toBeVisible({ timeout: 60_000 });
  const now = await states(batchId);
  if (now.draft) {
    await press(page, 's');
    await expect(page.getByText(/Sending \d+ pieces?: done/)).toBeVisible({ timeout: 90_000 });
  }
  await expect.poll(async () => (await states(batchId)).draft ?? 0).toBe(0);
  const [stopped] = await db<{ why: string }>(
    `select why from mail_piece where batch_id = ${batchId} and household_id = ${people[1]!.id}`,
  );
  expect(stopped!.why).toBe('Not sent: stopped: attorney');

  // The printer failed after number 6: what is in the mail is said, the rest is printed again from the 7th.
  await page.reload();
  await listening(page);
  const numbers = page.getByLabel('to', { exact: true });
  await numbers.fill('6');
  await page.getByRole('button', { name: 'They are in the mail' }).click();
  await expect(anyOf(page.getByText(/pieces? (is|are) in the mail/))).toBeVisible();
  expect((await states(batchId)).sent).toBeGreaterThan(0);
  const paper = await page.request.get(`/api/batches/${batchId}?what=waiting&from=7`);
  expect(paper.headers()['content-type']).toBe('application/pdf');
  await page.reload();
  await page.getByRole('button', { name: 'They are in the mail' }).click();
  await expect.poll(async () => (await states(batchId)).made ?? 0).toBe(0);

  // One never reached anybody: it does not count, and the ledger says so.
  await page.reload();
  await listening(page);
  await page.getByPlaceholder('Guarantor or account').fill('Ostrander, Nr 112');
  await expect(last).toHaveCount(1);
  await anyOf(last).getByRole('checkbox').click();
  await page.getByRole('button', { name: 'Not sent after all: 1' }).click();
  await page.getByLabel('Why they do not count').fill('no ink');
  await page.getByRole('button', { name: 'Not sent after all: 1' }).click();
  await expect(page.getByText('1 do not count')).toBeVisible();
  await page.goto(`/accounts/${people[11]!.id}`);
  await expect(page.getByText('not sent after all: no ink')).toBeVisible();
});

test('two households in one envelope, one receipt for both; one patient’s address apart; a ledger on paper', async ({
  page,
  desk,
}) => {
  test.setTimeout(120_000);
  const owes = async (last: string, first: string, fee: string) => {
    const made = await registered(desk, last, first);
    await charge(desk, desk.context, made.patientId, fee, '99213', addDays(TODAY, -40));
    const [row] = await db<{ id: string; number: string }>(
      `select id, number from household where id = ${made.householdId}`,
    );
    return { ...made, ...row! };
  };
  const head = await owes('Envelope', 'Bruno', '12.00');
  const other = await owes('Envelope', 'Cole', '42.00');
  const third = await owes('Envelope', 'Dora', '50.00');
  await addMember(desk.context, {
    householdId: other.householdId,
    last: 'Envelope',
    first: 'Wren',
    birthDate: '2009-05-05',
    sex: 'F',
    key: 'member of an envelope',
  });
  // The one that it is addressed to had its statement a few days ago: its cycle has not come round.
  await prepareStatement(desk.as('manager', addDays(TODAY, -5)), {
    householdId: head.householdId,
    key: 'statement of an envelope',
  });
  await setDelivery(desk.context, {
    householdId: third.householdId,
    delivery: 'mail',
    mailedWith: head.number,
  });
  const owed = async (id: string): Promise<number> =>
    Number(
      (
        await db<{ n: string }>(
          `select with_patient - credit as n from household_balance where household_id = ${id}`,
        )
      )[0]!.n,
    );
  await signIn(page, 'biller');

  // It is put into the other one's envelope: not into its own.
  await page.goto(`/accounts/${other.id}?show=statements`);
  await listening(page);
  const delivery = page.getByRole('region', { name: 'Delivery' });
  const envelope = delivery.getByLabel('In the envelope of account');
  await envelope.fill(other.number);
  await delivery.getByRole('button', { name: 'Save' }).click();
  await expect(delivery.getByText(/This is the account itself/)).toBeVisible();
  await envelope.fill(head.number.toLowerCase());
  await delivery.getByRole('button', { name: 'Save' }).click();
  await expect
    .poll(async () => (await db(`select mailed_with from household where id = ${other.id}`))[0])
    .toEqual({ mailed_with: head.id });

  // The month's statements: two of the three that share the envelope lie in one piece, addressed to the third.
  await page.goto('/statements');
  await listening(page);
  await press(page, 'd');
  await expect(page).toHaveURL(/statements\/batches\/\d+/, { timeout: 60_000 });
  await expect(page.getByRole('row', { name: /Envelope, Cole/ })).toBeVisible({ timeout: 30_000 });
  await listening(page);
  await page.getByPlaceholder('Guarantor or account').fill('Envelope');
  const piece = page.locator('tbody tr[data-index]');
  await expect(piece).toHaveCount(1);
  await expect(piece).toContainText('Envelope, Cole +1');
  const [joint] = await db<{ id: string; joined: string[]; to: string }>(
    `
      select id, joined, content -> 'value' -> 'to' ->> 'name' as to
      from mail_piece
      where household_id = ${other.id} and status = 'draft'`,
  );
  expect(joint).toMatchObject({ joined: [third.id], to: 'Bruno Envelope' });
  const letter = await page.request.get(`/api/pieces/${joint!.id}`);
  expect(letter.headers()['content-type']).toBe('application/pdf');

  // One check pays both, as the form shows before it is saved.
  await page.goto(`/accounts/${head.id}`);
  await listening(page);
  await press(page, 'p');
  await page.getByText(`All of one envelope: ${head.number}`).click();
  await expect(page.getByRole('table', { name: 'What is paid' })).toContainText(other.number);
  await page.getByLabel('Check number').fill('90210');
  await page.keyboard.press('Enter');
  await expect(anyOf(page.getByText(/ taken$/))).toBeVisible();
  expect(await owed(other.id)).toBe(0);
  await page.goto(`/accounts/${other.id}`);
  await expect(page.getByText(`taken on ${head.number}, pays charges here`)).toBeVisible();

  // An address apart for one patient; the account says so from then on.
  await page.goto(`/accounts/${other.id}?show=statements`);
  await listening(page);
  await page.getByRole('button', { name: 'Another address for Wren' }).click();
  const apart = page.getByRole('region', { name: 'Confidential addresses' });
  await apart.getByLabel('Street', { exact: true }).fill('9 Quiet Lane');
  await apart.getByLabel('City').fill('Osprey Landing');
  await apart.getByLabel('State').fill('wa');
  await apart.getByRole('button', { name: 'Save the address' }).click();
  await expect(apart.getByText('ZIP is missing')).toBeVisible();
  await apart.getByLabel('ZIP').fill('98191');
  await apart.getByRole('button', { name: 'Save the address' }).click();
  await expect(page.getByText(/what concerns Wren goes to an address apart/)).toBeVisible();

  // Planned services on paper, by the keyboard.
  await dentalCharge(desk, head.patientId, {
    serviceDate: addDays(TODAY, 20),
    code: 'D2950',
    tooth: '30',
    planned: true,
  });
  await page.goto(`/accounts/${head.id}`);
  await listening(page);
  await page.getByText('Planned', { exact: true }).click();
  await expect(page).toHaveURL(/view=planned/);
  // The page has it too, and not its address alone.
  await expect(page.getByRole('row', { name: /Core build-up/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /99213/ })).toHaveCount(0);
  await press(page, 'l');
  const print = page.getByRole('link', { name: 'Print' });
  await expect(print).toHaveAttribute('href', /what=planned/);
  const address = await print.getAttribute('href');
  const paper = await page.request.get(address!);
  expect(paper.headers()['content-type']).toBe('application/pdf');
  // Done today, it is in the books.
  await page.keyboard.press('Escape');
  await page
    .getByRole('row', { name: /Core build-up/ })
    .getByRole('button', { name: 'Unfold' })
    .click();
  await page.getByRole('button', { name: 'Done today' }).click();
  await expect(anyOf(page.getByText('Done today'))).toBeVisible();
});

test('a message with a variable that nobody knows is refused at its place', async ({ page }) => {
  await signIn(page, 'manager');
  await page.goto('/setup/statement-messages');
  await listening(page);
  await page.getByRole('button', { name: 'Add message' }).click();
  const drawer = page.getByRole('dialog');
  await drawer.getByLabel('Order').fill('90');
  await drawer.getByLabel('Name').fill('Mistyped');
  await drawer.getByLabel('Words').fill('Dear {guarantor}, {amonut} is due.');
  await drawer.getByRole('button', { name: 'Add message' }).click();
  await expect(anyOf(drawer.getByText(/no variable \{amonut\}, at letter 19/))).toBeVisible();
  expect(await db(`select id from statement_message where words like '%amonut%'`)).toEqual([]);
});
