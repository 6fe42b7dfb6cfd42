/** The month's statements from choosing to sent, and what goes wrong on the way. */
import { db, expect, listening, signIn, test } from './desk';

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
}) => {
  test.setTimeout(180_000);
  // Twelve households that owe, whatever else was sent by then.
  await db(`with h as (insert into household (last, first, line1, city, state, zip, email, category) select 'Ostrander', 'Nr ' || n, n || ' Row', 'Osprey Landing', 'WA', '98199', 'nr' || n || '@example.com', 'courtesy' from generate_series(101, 112) n returning id)
    select id from h`);
  const people = await db<{ id: string }>(`select id from household where last = 'Ostrander' order by id`);
  for (const { id } of people)
    await db(`with c as (insert into charge (household_id, kind, description, fee, service_date) values (${id}, 'opening', 'Brought in', 5000, '2026-01-05') returning id),
      e as (insert into entry (kind, posting_date, business_date, user_id, memo) values ('opening', '2026-03-01', '2026-01-05', 'test', 'Brought in') returning id)
      insert into posting (entry_id, account, amount, household_id, charge_id) select e.id, a.account, a.amount, ${id}, c.id from c, e, (values ('receivable/patient', 5000), ('opening/balance', -5000)) a (account, amount)`);

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
  await expect(table.getByText(/its category is|nothing is owed/).first()).toBeVisible();
  await page.getByText(/^Get one/).click();
  await expect(page.getByRole('table', { name: 'Households that get one' })).toContainText('Ostrander');

  await page.keyboard.press('d');
  await expect(page).toHaveURL(/statements\/batches\/\d+/, { timeout: 30_000 });
  const batchId = Number(/\d+$/.exec(page.url())![0]);
  await expect.poll(async () => (await states(batchId)).draft ?? 0).toBeGreaterThanOrEqual(12);
  const last = page.locator('tbody tr[data-index]');
  await expect(last.first()).toBeVisible();

  // One is taken out with a reason, and a stop is set on another in between.
  await listening(page);
  await page.getByPlaceholder('Guarantor or account').fill('Ostrander');
  await expect(last).toHaveCount(12);
  await page.keyboard.press('Escape');
  await last.nth(0).getByRole('checkbox').click();
  await page.getByRole('button', { name: 'Take out 1' }).click();
  await page.getByLabel('Why not').fill('comes in tomorrow');
  await page.getByRole('button', { name: 'Take out 1' }).click();
  await expect(page.getByText('1 taken out').first()).toBeVisible();
  await page.goto(`/accounts/${people[1]!.id}?show=statements`);
  await page.getByRole('combobox', { name: 'Another reason' }).click();
  await page
    .locator('.ant-select-dropdown:visible')
    .getByText(/^attorney/)
    .click();
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(page.getByText(/attorney: no statements/).first()).toBeVisible();

  // It is sent, stopped, and gone on with.
  await page.goto(`/statements/batches/${batchId}`);
  await listening(page);
  await page.keyboard.press('s');
  const stop = page.getByRole('button', { name: 'Stop', exact: true });
  await stop.click({ timeout: 20_000 }).catch(() => undefined);
  await expect(page.getByText(/Sending \d+ pieces: (done|stopped)/)).toBeVisible({ timeout: 60_000 });
  const now = await states(batchId);
  if (now.draft) {
    await page.keyboard.press('s');
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
  await expect(page.getByText(/pieces? (is|are) in the mail/).first()).toBeVisible();
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
  await last.first().getByRole('checkbox').click();
  await page.getByRole('button', { name: 'Not sent after all: 1' }).click();
  await page.getByLabel('Why they do not count').fill('no ink');
  await page.getByRole('button', { name: 'Not sent after all: 1' }).click();
  await expect(page.getByText('1 do not count')).toBeVisible();
  await page.goto(`/accounts/${people[11]!.id}`);
  await expect(page.getByText('not sent after all: no ink')).toBeVisible();
});

test('two households in one envelope, one receipt for both; one patient’s address apart; a ledger on paper', async ({
  page,
}) => {
  test.setTimeout(120_000);
  const of = async (last: string): Promise<{ id: string; number: string }> =>
    (
      await db<{ id: string; number: string }>(`select id, number from household where last = $1`, [last])
    )[0]!;
  const [head, other] = [await of('Castellano'), await of('Brightwater')];
  const owed = async (id: string): Promise<number> =>
    Number(
      (
        await db<{ n: string }>(
          `select with_patient - credit as n from household_balance where household_id = ${id}`,
        )
      )[0]!.n,
    );
  await db(`with c as (insert into charge (household_id, kind, description, fee, service_date) values (${other.id}, 'opening', 'Brought in', 4200, '2026-01-05') returning id),
    e as (insert into entry (kind, posting_date, business_date, user_id, memo) values ('opening', '2026-03-01', '2026-01-05', 'test', 'Brought in') returning id)
    insert into posting (entry_id, account, amount, household_id, charge_id) select e.id, a.account, a.amount, ${other.id}, c.id from c, e, (values ('receivable/patient', 4200), ('opening/balance', -4200)) a (account, amount)`);
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
  await page.keyboard.press('d');
  await expect(page).toHaveURL(/statements\/batches\/\d+/, { timeout: 60_000 });
  await listening(page);
  await page.getByPlaceholder('Guarantor or account').fill('Brightwater');
  const piece = page.locator('tbody tr[data-index]');
  await expect(piece).toHaveCount(1);
  await expect(piece).toContainText('Brightwater, Cole +1');
  // The one that it is addressed to has its own cycle, and gets none this time.
  const [joint] = await db<{ id: string; joined: string[]; to: string }>(
    `select id, joined, content -> 'value' -> 'to' ->> 'name' as to from mail_piece where household_id = ${other.id} and status = 'draft'`,
  );
  expect(joint).toMatchObject({ joined: [(await of('Petrov')).id], to: 'Bruno Castellano' });
  const letter = await page.request.get(`/api/pieces/${joint!.id}`);
  expect(letter.headers()['content-type']).toBe('application/pdf');

  // One check pays both, as the form shows before it is saved.
  await page.goto(`/accounts/${head.id}`);
  await listening(page);
  await page.keyboard.press('p');
  await page.getByText(`All of one envelope: ${head.number}`).click();
  await expect(page.getByRole('table', { name: 'What is paid' })).toContainText(
    `Brought in · ${other.number}`,
  );
  await page.getByLabel('Check number').fill('90210');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/ taken$/).first()).toBeVisible();
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
  const planned = await of('Halvorsen');
  await page.goto(`/accounts/${planned.id}`);
  await listening(page);
  await page.getByText('Planned', { exact: true }).click();
  await page.keyboard.press('l');
  const print = page.getByRole('link', { name: 'Print' });
  const address = await print.getAttribute('href');
  expect(address).toContain('what=planned');
  const paper = await page.request.get(address!);
  expect(paper.headers()['content-type']).toBe('application/pdf');
  // Done today, it is in the books.
  await page.keyboard.press('Escape');
  await page
    .getByRole('row', { name: /Core build-up/ })
    .first()
    .getByRole('button')
    .first()
    .click();
  await page.getByRole('button', { name: 'Done today' }).click();
  await expect(page.getByText('Done today').first()).toBeVisible();
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
  await expect(drawer.getByText(/no variable \{amonut\}, at letter 19/).first()).toBeVisible();
  expect(await db(`select id from statement_message where words like '%amonut%'`)).toEqual([]);
});
