/**
 * What is overdue, as a collector and a manager work it: letters, calls, promises, an agency, small balances, and
 * what may not be billed.
 */
import { charge, overdueOf, postedRemittance, says, sentClaim } from '../src/testing/desk';
import { TODAY } from '../src/testing/database';
import { FULL } from '../src/testing/runs';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import pino from 'pino';
import { addDays } from '../src/core/calendar';
import type { Context } from '../src/server/access';
import { finishWork } from '../src/server/jobs/run';
import { startSendingBatch } from '../src/server/jobs/work';
import { logContact } from '../src/server/overdue/contacts';
import { draftLetters } from '../src/server/overdue/due-letters';
import { approvePlacements, proposeByRule, proposePlacements } from '../src/server/overdue/proposals';
import { confirmPrinted } from '../src/server/batches/again';
import { prepareStatement } from '../src/server/statements/prepare';
import {
  provenBooks,
  db,
  expect,
  listening,
  owing,
  shownFigure,
  signIn,
  test,
  anyOf,
  type Desk,
  registered,
  press,
} from './desk';

/** A choice of a form, by the words that stand there. */
async function choose(page: Page, field: string, words: RegExp): Promise<void> {
  await page.getByRole('dialog').getByLabel(field).click();
  await anyOf(page.locator('.ant-select-dropdown:visible').getByText(words)).click();
}

const quiet = pino({ level: 'silent' });

/** The same desk on an earlier day. */
const before = <T>(desk: Desk, days: number, run: (context: Context) => Promise<T>): Promise<T> =>
  run(desk.as('manager', addDays(TODAY, -days)));

/** A letter that went out on an earlier day. */
const letterOf = (desk: Desk, days: number, householdId: number): Promise<void> =>
  before(desk, days, async (context) => {
    const { batchId } = await draftLetters(context, {
      householdIds: [householdId],
      key: `journey letter ${householdId} ${days}`,
    });
    await finishWork(context.db, await startSendingBatch(context, { batchId }), quiet);
    await confirmPrinted(context, { batchId });
  });

test('letters that are due are prepared, sent and printed; the stage follows, and the ledger shows them', async ({
  page,
  desk,
}) => {
  test.setTimeout(180_000);
  const { householdId: id } = await overdueOf(desk, { more: { last: 'Lettered', first: 'Ada' } });
  await signIn(page, 'collector');
  await page.goto('/overdue');
  await expect(page.getByRole('table', { name: 'Accounts past due' })).toContainText('Lettered');
  await page.goto('/overdue?view=letters');
  await listening(page);
  const row = page.getByRole('row', { name: /Lettered/ });
  await expect(row).toContainText('First reminder');
  await page.keyboard.press('Space');
  await expect(page.getByRole('dialog')).toContainText('Chance');
  await page.keyboard.press('Escape');
  await row.getByRole('checkbox').click();
  await page.getByRole('button', { name: 'Prepare 1 letter', exact: true }).click();
  await expect(page).toHaveURL(/overdue\/batches\/\d+/, { timeout: 30_000 });
  const batchId = Number(/\d+$/.exec(page.url())![0]);
  await expect(page.getByRole('row', { name: /Lettered/ })).toBeVisible({ timeout: 30_000 });
  await press(page, 's');
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
  await expect(page.getByRole('row', { name: /Lettered/ })).toContainText('Second reminder then');
  await page.goto(`/accounts/${id}`);
  const link = page.getByRole('link', { name: /^First reminder/ });
  await expect(link).toBeVisible();
  const paper = await page.request.get((await link.getAttribute('href'))!);
  expect((await paper.body()).subarray(0, 5).toString()).toBe('%PDF-');
});

test('a promise on the phone spares the account; taken back it is called again; what was said stays', async ({
  page,
  desk,
}) => {
  const { householdId } = await overdueOf(desk, { more: { last: 'Vowed', first: 'Dan' } });
  // A promise that was broken: it is called about.
  await logContact(desk.as('manager', addDays(TODAY, -4)), {
    householdId,
    kind: 'call',
    outcome: 'promise',
    amount: '100.00',
    by: addDays(TODAY, -1),
    sure: true,
    key: 'a broken promise',
  });
  await signIn(page, 'collector');
  await page.goto('/overdue?view=calls');
  await listening(page);
  const row = page.getByRole('row', { name: /Vowed/ });
  await row.getByRole('button', { name: 'Contact' }).click();
  const drawer = page.getByRole('dialog');
  await expect(drawer.getByText('240.00 past due')).toBeVisible();
  // They called: the hours in which we may call do not matter.
  await choose(page, 'Who began', /They did/);
  await choose(page, 'What came of it', /promised to pay/);
  await drawer.getByLabel('Promised').fill('150');
  await drawer.getByLabel('By', { exact: true }).fill('+10');
  await drawer.getByLabel('What was said', { exact: true }).fill('after payday');
  await page.keyboard.press('Enter');
  const soFar = drawer.getByRole('region', { name: 'So far' });
  await expect(soFar).toContainText('150.00 by 26 Mar 2026');
  await expect(soFar).toContainText('not yet due');
  await page.goto('/overdue?view=spared&search=Vowed');
  await expect(page.getByRole('row', { name: /Vowed/ })).toContainText('promised 150.00 by 26 Mar 2026');
  await page.goto('/overdue/promises');
  await expect(page.getByRole('row', { name: /Vowed/ })).toContainText('150.00');
  await page.getByRole('row', { name: /Vowed/ }).getByRole('button', { name: 'Contact' }).click();
  await drawer.getByRole('button', { name: 'Promise taken back' }).click();
  await drawer.getByLabel('Why it is taken back').fill('lost the job');
  await page.keyboard.press('Enter');
  await expect(drawer.getByText('lost the job')).toBeVisible();
  await page.goto('/overdue/promises');
  await expect(page.getByRole('row', { name: /Vowed/ })).toHaveCount(0);
});

test('a manager hands an account over with the evidence before them, and recalls it; the books hold', async ({
  page,
  desk,
}) => {
  test.setTimeout(180_000);
  const { householdId: id } = await overdueOf(desk, {
    fee: '946.30',
    more: { last: 'Placed', first: 'Clem' },
  });
  await letterOf(desk, 4, id);
  await logContact(desk.as('manager', addDays(TODAY, -2)), {
    householdId: id,
    kind: 'call',
    outcome: 'left-word',
    sure: true,
    key: 'word left',
  });
  const agency = await desk.db
    .selectFrom('connection')
    .select('id')
    .where('kind', '=', 'agency')
    .executeTakeFirstOrThrow();
  await proposePlacements(desk.context, {
    householdIds: [id],
    connectionId: agency.id,
    why: 'nobody answers',
  });
  await signIn(page, 'manager');
  await page.goto('/overdue/placements?view=proposed');
  await listening(page);
  await page
    .getByRole('row', { name: /Placed/ })
    .getByRole('link', { name: /^G-/ })
    .click();
  await expect(page.getByRole('region', { name: 'Letters and statements' })).toContainText('First reminder');
  await expect(page.getByRole('region', { name: 'Contacts' })).toContainText('left word');
  await page.getByRole('button', { name: 'Approve, hand over 946.30' }).click();
  await expect(shownFigure(page, 'With the agency')).toHaveText(/946.30/);
  await page.goto(`/accounts/${id}`);
  await expect(shownFigure(page, 'Patient owes now')).toHaveText('–');
  await expect(shownFigure(page, 'With the agency')).toHaveText(/946.30/);
  // Paid to us meanwhile: it goes to what the agency has.
  await listening(page);
  await press(page, 'p');
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
  await provenBooks(desk);
});

test('a letter with a variable that nobody knows says where; saved, it has another version', async ({
  page,
}) => {
  await signIn(page, 'manager');
  await page.goto('/overdue/letters?view=all');
  await page.getByRole('link', { name: 'Second reminder' }).click();
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

test('small balances are written off, and one of them is taken back on its account', async ({
  page,
  desk,
}) => {
  const small = await registered(desk, 'Smallwood', 'Yuki');
  await charge(
    desk,
    desk.as('manager', addDays(TODAY, -90)),
    small.patientId,
    '3.20',
    '99213',
    addDays(TODAY, -90),
  );
  const id = small.householdId;
  await signIn(page, 'manager');
  await page.goto('/overdue/small');
  await listening(page);
  await expect(page.getByRole('row', { name: /Smallwood/ })).toContainText('3.20');
  await page.getByRole('button', { name: /^Write off \d+ balances, / }).click();
  await expect(page.getByText(/balances written off/)).toBeVisible();
  await page.goto(`/accounts/${id}`);
  await listening(page);
  await expect(shownFigure(page, 'Balance')).toHaveText('–');
  await page.getByRole('row', { name: /99213/ }).getByRole('button', { name: 'Unfold' }).click();
  await page.getByRole('button', { name: 'Take the write-off back' }).click();
  await page.getByLabel('Why is it taken back?').fill('she wants to pay it');
  await page.keyboard.press('Enter');
  await expect(shownFigure(page, 'Balance')).toHaveText('3.20');
});

test('what may not be billed is said on the coverage, shows on the account, and is taken off by a press', async ({
  page,
  desk,
}) => {
  const billed = await sentClaim(desk);
  await postedRemittance(desk, [says(billed, 6800)]);
  const { householdId: id, patientId: patient } = billed;
  const { id: coverage } = await desk.db
    .selectFrom('coverage')
    .select('id')
    .where('case_id', '=', billed.caseId)
    .executeTakeFirstOrThrow();
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
  await expect(notice).toContainText('30.00');
  await page.getByRole('button', { name: 'Take it off' }).click();
  await expect(anyOf(page.getByText(/taken off/))).toBeVisible();
  await expect(notice).toHaveCount(0);
  await provenBooks(desk);
});

test('from the first reminder through a broken promise, an agency and bad debt to a late recovery, the books proven at each step', async ({
  page,
  desk,
}) => {
  test.setTimeout(300_000);
  const proven = (): Promise<void> => provenBooks(desk);
  const id = Number(await owing('Thistlewood', 'Cora', 40_000));
  // Brought in on the fifth of February; what was said of it before is entered as of those days.
  await before(desk, 39, (context) =>
    prepareStatement(context, { householdId: id, key: 'journey statement' }),
  );
  await letterOf(desk, 4, id);
  await before(desk, 3, (context) =>
    logContact(context, {
      householdId: id,
      kind: 'call',
      outcome: 'promise',
      said: 'pays on Friday',
      amount: '100.00',
      by: addDays(TODAY, -1),
      sure: true,
      key: 'journey promise',
    }),
  );
  await proven();

  // The promise is broken: it is called about, for the eighth time in a week, which the screen says before it is noted.
  for (const n of [1, 2, 3, 4, 5, 6])
    await before(desk, 1, (context) =>
      logContact(context, {
        householdId: id,
        kind: 'call',
        outcome: 'no-answer',
        sure: true,
        key: `journey call ${n}`,
      }),
    );
  await signIn(page, 'manager');
  await page.goto('/overdue?view=calls&search=Thistlewood');
  await listening(page);
  const row = page.getByRole('row', { name: /Thistlewood/ });
  await expect(row).toContainText('promised 100.00 by 15 Mar 2026, paid 0.00');
  await row.getByRole('button', { name: 'Contact' }).click();
  const drawer = anyOf(page.getByRole('dialog'));
  await expect(drawer.getByText(/7 calls in 7 days/)).toBeVisible();
  await choose(page, 'What came of it', /no answer/);
  await drawer.getByRole('button', { name: 'Note it' }).click();
  const again = page.getByRole('dialog', { name: 'Look again' });
  await expect(again).toContainText('7 calls in 7 days: one more is more than the policy’s 7');
  await again.getByRole('button', { name: 'It is meant so' }).click();
  await expect(drawer.getByText(/Call: no answer/)).toHaveCount(7);
  await page.keyboard.press('Escape');

  // Proposed from the list, approved with the evidence, written out.
  await page.goto('/overdue?view=all&search=Thistlewood');
  await listening(page);
  await row.getByRole('checkbox').click();
  await page.getByRole('button', { name: 'Propose 1 for an agency' }).click();
  await page.getByLabel('Why', { exact: true }).fill('a promise was broken, nobody answers');
  await page.getByRole('button', { name: 'Propose 1 account' }).click();
  await expect(page).toHaveURL(/placements\?view=proposed/);
  await page
    .getByRole('row', { name: /Thistlewood/ })
    .getByRole('link', { name: /^G-/ })
    .click();
  await expect(page.getByRole('region', { name: 'Contacts' })).toContainText('promised to pay 100.00');
  await page.getByRole('button', { name: 'Approve, hand over 400.00' }).click();
  await expect(shownFigure(page, 'With the agency')).toHaveText(/400.00/);
  await proven();

  // A part is paid, less its fee.
  await page.getByRole('button', { name: 'Book a payment of theirs' }).click();
  const form = page.getByRole('dialog');
  await form.getByLabel('Collected').fill('120');
  await form.getByLabel('Reference').fill('T-77');
  await form.getByRole('button', { name: 'Book it' }).click();
  await expect(form).toBeHidden();
  await expect(shownFigure(page, 'With the agency')).toHaveText(/280.00/);
  await expect(shownFigure(page, 'Collected')).toHaveText('120.00');
  await expect(shownFigure(page, 'Fee')).toHaveText(/30.00/);
  await proven();

  // It comes back by the agency's file.
  const number = (await page.getByRole('heading', { level: 1 }).innerText()).replace('Placement ', '');
  const inbox = join(process.env.WERGELD_EXCHANGE!, 'gannet', 'inbox');
  mkdirSync(inbox, { recursive: true });
  writeFileSync(
    join(inbox, 'returned.csv'),
    `placement,result,date,reference,gross,fee,net,words\n${number},returned,2026-03-16,,0,0,0,cannot be found\nend,1,,,,,,\n`,
  );
  await desk.turn();
  await page.reload();
  await expect(shownFigure(page, 'With the patient')).toHaveText(/280.00/);
  await proven();

  // Given up, and paid after all.
  await listening(page);
  await page.getByRole('button', { name: 'Give up as bad debt' }).click();
  await form.getByLabel('Why').fill('cannot be found');
  await form.getByRole('button', { name: 'Give it up' }).click();
  await expect(shownFigure(page, 'Given up')).toHaveText(/280.00/);
  await proven();
  await page.goto(`/accounts/${id}?show=payment`);
  await form.getByLabel('Amount', { exact: true }).fill('50');
  await form.getByText('Cash', { exact: true }).click();
  await form.getByRole('button', { name: 'Take 50.00' }).click();
  await expect(shownFigure(page, 'Less credit')).toHaveText(/50.00/);
  await page.goto(`/overdue/placements?view=all&search=Thistlewood`);
  await page
    .getByRole('row', { name: /Thistlewood/ })
    .getByRole('link', { name: /^G-/ })
    .click();
  await page.getByRole('button', { name: 'Apply 50.00 of credit to what was given up' }).click();
  await expect(shownFigure(page, 'Given up')).toHaveText(/230.00/);
  await proven();
});

/** As many letters as a practice of several sites sends at once; enough of them to be stopped in the middle. */
const MANY = FULL ? 1500 : 60;

test('many letters, stopped in the middle and gone on with: each is made once', async ({ page, desk }) => {
  test.setTimeout(FULL ? 1_200_000 : 180_000);
  await db(`
    with h as (
      insert into household (last, first, line1, city, state, zip)
      select 'Manyfold', 'Nr ' || n, n || ' Row', 'Osprey Landing', 'WA', '98199'
      from generate_series(1, ${MANY}) n
      returning id
    ),
    c as (
      insert into charge (household_id, kind, description, fee, service_date)
      select id, 'opening', 'Brought in', 5000, '2026-01-05'
      from h
      returning id, household_id
    ),
    e as (
      insert into entry (kind, posting_date, business_date, user_id, memo)
      values ('opening', '2026-03-01', '2026-01-05', 'test', 'Brought in')
      returning id
    ),
    p as (
      insert into posting (entry_id, account, amount, household_id, charge_id)
      select e.id, a.account, a.amount, c.household_id, c.id
      from c, e, (values ('receivable/patient', 5000), ('opening/balance', -5000)) a (account, amount)
    ),
    d as (select sha256 from document limit 1),
    k as (
      insert into mail_piece (
        household_id, delivery, status, amount, date, due_date, options, content, document, pages, sent_at, sent_by
      )
      select h.id, 'in-person', 'sent', 5000, '2026-01-06', '2026-01-20', '{}', '{}', d.sha256, 1, now(),
        'handed over'
      from h, d
      returning id, household_id),
    s as (
      insert into statement (household_id, piece_id, date, due_date, amount, user_id)
      select household_id, id, '2026-01-06', '2026-01-20', 5000, 'test'
      from k
      returning id, household_id
    )
    insert into statement_charge (statement_id, charge_id, owed)
    select s.id, c.id, 5000
    from s
      join c on c.household_id = s.household_id`);
  await signIn(page, 'manager');
  await page.goto('/overdue?view=letters');
  await listening(page);
  await page.getByRole('button', { name: /^Prepare \d+ letters$/ }).click();
  await expect(page).toHaveURL(/overdue\/batches\/\d+/, { timeout: 120_000 });
  const batchId = Number(/\d+$/.exec(page.url())![0]);
  const count = async (status: string): Promise<number> =>
    (
      await db<{ n: number }>(
        `select count(*)::int as n from mail_piece where batch_id = ${batchId} and status = '${status}'`,
      )
    )[0]!.n;
  // Letters by e-mail are sent when they are made.
  const done = async (): Promise<number> => (await count('made')) + (await count('sent'));
  await expect.poll(() => count('draft'), { timeout: 120_000 }).toBeGreaterThanOrEqual(MANY);
  await expect
    .poll(() => db(`select status from work where kind = 'draft batch' order by id desc limit 1`))
    .toEqual([{ status: 'finished' }]);
  const all = await count('draft');
  // Somebody works on an account in the middle: there it waits, whatever the machine.
  const gate = await desk.pool.connect();
  await gate.query('begin');
  await gate.query(
    `
      select 1
      from household
      where id = (
        select household_id from mail_piece where batch_id = ${batchId} and number = ${Math.floor(MANY / 2)}
      )
      for update`,
  );
  try {
    await page.reload();
    await listening(page);
    await press(page, 's');
    await expect.poll(done, { timeout: 300_000 }).toBe(Math.floor(MANY / 2) - 1);
    await page.getByRole('button', { name: 'Stop', exact: true }).click();
    await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeDisabled();
  } finally {
    await gate.query('rollback');
    gate.release();
  }
  await expect(page.getByText(/Sending \d+ pieces: stopped/)).toBeVisible({ timeout: 60_000 });
  expect(await done()).toBe(Math.floor(MANY / 2));
  expect(await count('draft')).toBe(all - Math.floor(MANY / 2));
  await page.reload();
  await listening(page);
  await press(page, 's');
  await expect.poll(() => count('draft'), { timeout: 900_000, intervals: [1000] }).toBe(0);
  await page.reload();
  await page.getByRole('button', { name: 'They are in the mail' }).click();
  await expect.poll(() => count('sent'), { timeout: 60_000 }).toBe(all);
  const [{ n }] = (await db<{ n: number }>(
    `
      select count(distinct (l.household_id, coalesce(l.patient_id, 0)))::int as n
      from letter l
        join mail_piece p on p.id = l.piece_id
      where p.batch_id = ${batchId}`,
  )) as [{ n: number }];
  expect(n).toBe(all);
});

test('a reduction that a collector asks for is found by the manager on Today, decided, and taken back', async ({
  page,
  browser,
  desk,
}) => {
  const id = Number(await owing('Hardscrabble', 'Ona', 30_000));
  await signIn(page, 'collector');
  await page.goto(`/accounts/${id}`);
  await listening(page);
  await press(page, 'o');
  const drawer = anyOf(page.getByRole('dialog'));
  await drawer.getByRole('button', { name: 'Ask for a reduction' }).click();
  await drawer.getByLabel('Persons in the household').fill('2');
  await drawer.getByLabel('Income a year').fill('25000');
  await drawer.getByLabel('What shows it').fill('pay slips of three months');
  await page.keyboard.press('Enter');
  await expect(
    drawer.getByText(/2 persons, 25.000.00 a year, 118 % of the level of 2026: 75 %, 225.00/),
  ).toBeVisible();
  // Who asks does not decide.
  await expect(drawer.getByRole('button', { name: /^Approve/ })).toHaveCount(0);

  const manager = await (await browser.newContext()).newPage();
  await signIn(manager, 'manager');
  await manager.getByRole('link', { name: /for hardship (is|are) asked for/ }).click();
  await expect(manager).toHaveURL(/overdue\/hardship/);
  await listening(manager);
  const row = manager.getByRole('row', { name: /Hardscrabble/ });
  await expect(row).toContainText('225.00');
  await row.getByRole('button', { name: 'Contact' }).click();
  await manager.getByRole('button', { name: 'Approve, take 225.00 off' }).click();
  await expect(anyOf(manager.getByText('225.00 came off'))).toBeVisible();
  await manager.keyboard.press('Escape');
  await expect(row).toHaveCount(0);
  await manager.goto(`/accounts/${id}`);
  await listening(manager);
  await expect(shownFigure(manager, 'Balance')).toHaveText('75.00');
  await manager
    .getByRole('row', { name: /Brought in/ })
    .getByRole('button', { name: 'Unfold' })
    .click();
  await manager.getByRole('button', { name: 'Take the write-off back' }).click();
  await manager.getByLabel('Why is it taken back?').fill('the slips were another person’s');
  await manager.keyboard.press('Enter');
  await expect(shownFigure(manager, 'Balance')).toHaveText('300.00');
  await provenBooks(desk);
  await manager.context().close();
});

test('an agency that hands over all it collects is owed its fee, which is paid and noted once', async ({
  page,
  desk,
}) => {
  const id = Number(await owing('Feewright', 'Tam', 20_000));
  const [{ id: connectionId }] = (await db<{ id: number }>(
    `
      update connection set settings = jsonb_set(settings::jsonb, '{value,pays}', '"gross"')
      where kind = 'agency'
      returning id::int`,
  )) as [{ id: number }];
  await before(desk, 39, (context) => prepareStatement(context, { householdId: id, key: 'fee statement' }));
  await before(desk, 1, async (context) => {
    await proposePlacements(context, { householdIds: [id], connectionId, why: 'nobody answers' });
    const [{ id: placementId }] = (await db<{ id: number }>(
      'select id::int from placement where household_id = $1',
      [id],
    )) as [{ id: number }];
    await approvePlacements(context, { placementIds: [placementId] });
  });
  // The placement keeps what was agreed; others go on with the other contract.
  await db(
    `update connection set settings = jsonb_set(settings::jsonb, '{value,pays}', '"net"') where kind = 'agency'`,
  );
  await signIn(page, 'manager');
  await page.goto('/overdue/placements?search=Feewright');
  await page
    .getByRole('row', { name: /Feewright/ })
    .getByRole('link', { name: /^G-/ })
    .click();
  await page.getByRole('button', { name: 'Book a payment of theirs' }).click();
  const form = page.getByRole('dialog');
  await form.getByLabel('Collected').fill('80');
  await form.getByLabel('Reference').fill('T-90');
  await form.getByRole('button', { name: 'Book it' }).click();
  await expect(form).toBeHidden();
  await expect(shownFigure(page, 'Fee')).toHaveText(/20.00/);
  await page.goto('/overdue/placements');
  await listening(page);
  // Others of this worker may owe it fees too.
  const [{ owed }] = (await db<{ owed: number }>(
    `select -sum(amount)::int as owed from posting where account = 'payable/agency-fee'`,
  )) as [{ owed: number }];
  expect(owed).toBeGreaterThanOrEqual(2000);
  const dollars = (amount: number): string => (amount / 100).toFixed(2);
  const notice = page.getByText(`${dollars(owed)} of fees are owed to Gannet Recovery`);
  await expect(notice).toBeVisible();
  await page.getByRole('button', { name: 'Pay them' }).click();
  await expect(form.getByLabel('Paid by transfer')).toHaveValue(dollars(owed));
  await form.getByLabel('Paid by transfer').fill(dollars(owed + 1));
  await form.getByLabel('Reference').fill('transfer of today');
  await form.getByRole('button', { name: 'Note that they are paid' }).click();
  await expect(anyOf(form.getByText(new RegExp(dollars(owed))))).toBeVisible();
  await form.getByLabel('Paid by transfer').fill(dollars(owed));
  await form.getByRole('button', { name: 'Note that they are paid' }).click();
  await expect(form).toBeHidden();
  await expect(notice).toHaveCount(0);
  await provenBooks(desk);
});

test('who is due for an agency is proposed by the policy, and withdrawn is not proposed again', async ({
  page,
  desk,
}) => {
  const id = Number(await owing('Rulewood', 'Ada', 15_000));
  await before(desk, 39, (context) => prepareStatement(context, { householdId: id, key: 'rule statement' }));
  // As if every letter had been sent long ago: the policy of this worker has none, and waits for nothing.
  await db('update overdue_policy set agency_days = 0, recent_days = 0');
  await db('update overdue_stage set days = 900 + position');
  for (const position of [1, 2, 3])
    await db(
      `with s as (select id, template_id from overdue_stage where position = $2),
        v as (select v.id from letter_version v join s on s.template_id = v.template_id order by v.id desc limit 1),
        d as (select sha256 from document limit 1),
        p as (
          insert into mail_piece (
            household_id, kind, delivery, status, amount, date, due_date, options, content, document, pages,
            sent_at, sent_by
          )
          select $1, 'letter', 'in-person', 'sent', 15000, '2026-03-10', '2026-03-24', '{}', '{}', d.sha256, 1,
            now(), 'handed over'
          from d
          returning id),
        l as (
          insert into letter (piece_id, household_id, stage_id, position, version_id, date, amount)
          select p.id, $1, s.id, $2, v.id, '2026-03-10', 15000
          from p, s, v
          returning piece_id
        )
        insert into letter_charge (piece_id, charge_id, amount)
        select l.piece_id, c.id, 15000
        from l, charge c
        where c.household_id = $1`,
      [id, position],
    );
  expect(await before(desk, 0, proposeByRule)).toBeGreaterThanOrEqual(1);
  await signIn(page, 'manager');
  await page.goto('/overdue/placements?view=proposed&search=Rulewood');
  await page
    .getByRole('row', { name: /Rulewood/ })
    .getByRole('link', { name: /^G-/ })
    .click();
  await expect(anyOf(page.getByText(/by the policy: Last letter went out on 10 Mar 2026/))).toBeVisible();
  await page.getByRole('button', { name: 'Withdraw' }).click();
  await page.getByLabel(/Why/).fill('pays next month');
  await page.keyboard.press('Enter');
  await expect(anyOf(page.getByText('withdrawn'))).toBeVisible();
  expect(await before(desk, 0, proposeByRule)).toBe(0);
  await page.goto('/overdue?view=calls&search=Rulewood');
  await expect(page.getByRole('row', { name: /Rulewood/ })).toContainText('its placement was withdrawn');
  await db('update overdue_policy set agency_days = 30, recent_days = 28');
  await db('update overdue_stage set days = case position when 1 then 10 when 2 then 30 else 60 end');
});

test('a view that somebody keeps is theirs, leads there, and is forgotten', async ({ page, browser }) => {
  await signIn(page, 'collector');
  await page.goto('/overdue?view=spared&order=pastDue');
  await listening(page);
  await page.getByRole('button', { name: 'Views' }).click();
  await page.getByLabel('Keep this view as').fill('Spared, the most first');
  await page.keyboard.press('Enter');
  await expect(page.getByText('The view is kept for you')).toBeVisible();
  await page.goto('/overdue');
  await listening(page);
  await page.getByRole('button', { name: 'Views' }).click();
  await page.getByRole('button', { name: 'Spared, the most first', exact: true }).click();
  await expect(page).toHaveURL(/view=spared/);
  await expect(page).toHaveURL(/order=pastDue/);

  const other = await (await browser.newContext()).newPage();
  await signIn(other, 'manager');
  await other.goto('/overdue');
  await listening(other);
  await other.getByRole('button', { name: 'Views' }).click();
  await expect(other.getByLabel('Keep this view as')).toBeVisible();
  await expect(other.getByRole('button', { name: 'Spared, the most first', exact: true })).toHaveCount(0);
  await other.context().close();

  await page.getByRole('button', { name: 'Views' }).click();
  await page.getByRole('button', { name: 'Forget Spared, the most first' }).click();
  await expect(page.getByRole('button', { name: 'Spared, the most first', exact: true })).toHaveCount(0);
});

test('a contact is noted by keys alone, on a small screen that shows everything at 125 %', async ({
  page,
  desk,
}) => {
  await page.setViewportSize({ width: 1024, height: 640 });
  await signIn(page, 'collector');
  await overdueOf(desk, { more: { last: 'Keyworth', first: 'Bruno' } });
  await page.goto('/overdue?view=all&search=Keyworth');
  await listening(page);
  await press(page, 'c');
  const drawer = anyOf(page.getByRole('dialog'));
  const said = drawer.getByLabel('What was said', { exact: true });
  await expect(said).toBeFocused();
  await page.keyboard.press('Shift+Tab');
  await expect(drawer.getByLabel('What came of it')).toBeFocused();
  // The list of outcomes opens, the next but one is taken.
  await page.keyboard.press('ArrowDown');
  await page.keyboard.type('left');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Shift+Tab');
  await page.keyboard.type('his son');
  await page.keyboard.press('Shift+Tab');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await expect(said).toBeFocused();
  await page.keyboard.type('will tell him');
  await page.keyboard.press('Tab');
  await page.keyboard.type('+3');
  await page.keyboard.press('Enter');
  await expect(drawer.getByText(/Call of theirs with his son: left word/)).toBeVisible();
  await expect(drawer.getByText('Try again on 19 Mar 2026')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(drawer).toBeHidden();
  // The list takes the keys again.
  await press(page, 'c');
  await expect(drawer.getByText('will tell him')).toBeVisible();
});
