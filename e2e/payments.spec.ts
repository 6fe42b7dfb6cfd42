/** Money at the desk: several tenders at once, cards that answer late, check-in by keyboard, a drawer that is counted. */
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';

import { expectVisit } from '../src/server/payments/visits';
import { takeReceipt } from '../src/server/payments/take';
import { anotherMember, charge, household } from '../src/testing/desk';
import { addDays } from '../src/core/calendar';
import { TODAY } from '../src/testing/database';
import {
  anyOf,
  expect,
  figure,
  lastOf,
  listening,
  pressFor,
  provenBooks,
  signIn,
  test,
  webLog,
} from './desk';
import { familyOf, remembers } from './memory';

const terminal = (page: Page) => page.frameLocator('iframe[title="Card terminal"]');
const key = (): string => crypto.randomUUID();

test('five visits of a household are paid with cash and a card at once: 1,000.00 leaves 18.00 on the third, 233.00 clears the rest', async ({
  page,
  desk,
}) => {
  // Check value: common practice, no source.
  const made = await household(desk, false, { last: 'Fivefold', first: 'Fay' });
  const [second, third] = [
    (await anotherMember(desk, made.householdId, { first: 'Sol' })).patientId,
    (await anotherMember(desk, made.householdId, { first: 'Uma' })).patientId,
  ];
  const visits = [
    [made.patientId, '120.00', -40],
    [made.patientId, '580.00', -30],
    [made.patientId, '318.00', -20],
    [second, '100.00', -10],
    [third, '115.00', -5],
  ] as const;
  for (const [patientId, fee, days] of visits)
    await charge(desk, desk.context, patientId, fee, '99213', addDays(TODAY, days));
  await signIn(page, 'manager');
  await page.setViewportSize({ width: 1024, height: 768 });
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
  const drawer = page.getByRole('dialog');
  await drawer.getByText('Cash', { exact: true }).click();
  await drawer.getByLabel('Amount', { exact: true }).fill('1000.00');
  await drawer.getByLabel('Handed over', { exact: true }).fill('1020');
  await expect(drawer.getByText('Change 20.00')).toBeVisible();
  // The effect is seen while it is typed.
  const rows = drawer.getByRole('table', { name: 'What is paid' }).getByRole('row');
  await expect(rows.filter({ hasText: '318.00' })).toContainText('300.00');
  await expect(rows.filter({ hasText: '318.00' })).toContainText('18.00');
  await drawer.getByRole('button', { name: 'Another tender' }).click();
  await expect(drawer.getByLabel('Amount 2')).toHaveValue('233.00');
  await drawer.getByRole('button', { name: 'Read card' }).click();
  await terminal(page)
    .getByRole('button', { name: /^Debit card/ })
    .click();
  await expect(drawer.getByText('Visa 2003, debit: read another')).toBeVisible();
  await drawer.getByRole('button', { name: /^Take 1.233\.00$/ }).click();
  await expect(page.getByText(/1.?233\.00 taken/)).toBeVisible();
  await expect.poll(() => figure(page, 'Patient owes now')).toBe(0);
  await expect(page.getByText(/Received: .*1.233\.00 Cash \+ Card Visa 2003/)).toBeVisible();
  await provenBooks(desk);
});

test('a card whose answer is lost is not charged twice: the terminal is asked again, and then it is paid', async ({
  page,
  desk,
}) => {
  const made = await household(desk, false, { last: 'Unclear', first: 'Una' });
  await charge(desk, desk.context, made.patientId, '60.00');
  await signIn(page, 'manager');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
  const drawer = page.getByRole('dialog');
  await drawer.getByText('Card', { exact: true }).click();
  await drawer.getByRole('button', { name: 'Read card' }).click();
  await terminal(page)
    .getByRole('button', { name: /answer is lost/ })
    .click();
  await drawer.getByRole('button', { name: 'Take 60.00' }).click();
  await expect(drawer.getByText(/has not answered for Visa 8100/)).toBeVisible();
  await drawer.getByRole('button', { name: 'Back to the account' }).click();
  // It is seen on the ledger, and nothing is paid yet.
  await expect(page.getByText(/Waits for the terminal: .*60\.00/)).toBeVisible();
  expect(await figure(page, 'Patient owes now')).toBe(60);
  await page
    .getByRole('row', { name: /Waits for the terminal/ })
    .getByRole('button', { name: 'Unfold' })
    .click();
  await page.getByRole('button', { name: 'Ask the terminal again' }).click();
  await expect(page.getByText('Visa 8100 was charged 60.00')).toBeVisible();
  await expect.poll(() => figure(page, 'Patient owes now')).toBe(0);
  // The number of a card is typed at the terminal, and a declined one pays nothing.
  await charge(desk, desk.context, made.patientId, '15.00', '99214');
  await page.reload();
  await listening(page);
  await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
  await drawer.getByText('Card', { exact: true }).click();
  await drawer.getByRole('button', { name: 'Type its number at the terminal' }).click();
  await terminal(page).getByLabel('Card number').fill('4539578763621487');
  await terminal(page).getByLabel('Expires').fill('04/29');
  await terminal(page).getByRole('button', { name: 'Read the card' }).click();
  await expect(terminal(page).getByText('This is no number of a card')).toBeVisible();
  await terminal(page).getByLabel('Card number').fill('4539578763621486');
  await terminal(page).getByLabel('Expires').fill('04/29');
  await terminal(page).getByRole('button', { name: 'Read the card' }).click();
  // A credit card bears the surcharge of the practice, which is said before.
  await expect(drawer.getByText(/Say it first: a surcharge of 2\.5 %, 0\.38, comes on top/)).toBeVisible();
  await drawer.getByRole('button', { name: 'Take 15.38' }).click();
  await expect(page.getByText('15.38 taken')).toBeVisible();
  await expect.poll(() => figure(page, 'Patient owes now')).toBe(0);
  await provenBooks(desk);
  // The number was typed in the terminal's own frame: it is in no table or backup, in no log and in no memory of ours. The name of
  // the account is in all of them, or this would not find what it looks for.
  const dump = execFileSync('pg_dump', [process.env.DATABASE_URL!], { encoding: 'latin1', maxBuffer: 1e9 });
  const log = readFileSync(webLog(), 'latin1');
  const programs = familyOf(process.pid).filter(({ command }) => /src\/cli\/(web|worker)/.test(command));
  expect(programs.length).toBeGreaterThanOrEqual(2);
  for (const [words, there] of [
    ['Unclear', true],
    ['4539578763621486', false],
  ] as const) {
    expect([words, dump.includes(words)]).toEqual([words, there]);
    expect([words, programs.some(({ pid }) => remembers(pid, words))]).toEqual([words, there]);
    if (!there) expect(log.includes(words)).toBe(false);
  }
});

test('credit of a card goes back in part, through the terminal and with its part of the surcharge', async ({
  page,
  desk,
}) => {
  const made = await household(desk, false, { last: 'Partly', first: 'Pia' });
  await signIn(page, 'manager');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
  const drawer = page.getByRole('dialog');
  await drawer.getByText('Card', { exact: true }).click();
  await drawer.getByLabel('Amount', { exact: true }).fill('80.00');
  await drawer.getByRole('button', { name: 'Read card' }).click();
  await terminal(page)
    .getByRole('button', { name: /^Credit card/ })
    .click();
  await drawer.getByRole('button', { name: 'Take 82.00' }).click();
  await expect.poll(() => figure(page, 'Less credit')).toBe(-80);
  await page.getByRole('button', { name: 'Credit 80.00 (U)' }).click();
  await drawer.getByRole('button', { name: 'Give back', exact: true }).click();
  await drawer.getByLabel('Given back', { exact: true }).fill('20.00');
  await drawer.getByLabel('Why it is given back').fill('a visit less');
  await expect(drawer.getByText('with 0.50 of the surcharge')).toBeVisible();
  await drawer.getByRole('button', { name: 'Give back 20.50' }).click();
  await expect(page.getByText('20.00 was given back to Visa 1005')).toBeVisible();
  await expect.poll(() => figure(page, 'Less credit')).toBe(-60);
  await provenBooks(desk);
});

test('a visit is checked in by keyboard; its money is reserved, and free when it does not come', async ({
  page,
  desk,
}) => {
  const made = await household(desk, false, { last: 'Early', first: 'Edda' });
  await charge(desk, desk.context, made.patientId, '25.00', '99213', addDays(TODAY, -9));
  await expectVisit(desk.context, {
    patientId: made.patientId,
    day: TODAY,
    time: '09:30',
    reason: 'follow-up of the knee',
    key: key(),
  });
  await signIn(page, 'front-desk');
  await page.goto('/payments/visits');
  await listening(page);
  const row = page.getByRole('row', { name: /Early, Edda/ });
  await expect(row).toContainText('25.00');
  await row.focus();
  await page.keyboard.press('i');
  const drawer = page.getByRole('dialog');
  await expect(drawer.getByLabel('Amount', { exact: true })).toBeFocused();
  await drawer.getByLabel('Amount', { exact: true }).fill('55.00');
  await expect(drawer.getByLabel('For this visit')).toHaveValue('30.00');
  await page.keyboard.press('Enter');
  await expect(page.getByText('55.00 taken; 30.00 reserved for the visit')).toBeVisible();
  await expect(row).toContainText('30.00');
  // The old balance is paid, and what is reserved lowers nothing.
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  expect(await figure(page, 'Patient owes now')).toBe(0);
  expect(await figure(page, 'Less credit')).toBe(-30);
  await charge(desk, desk.context, made.patientId, '12.00', '99214', addDays(TODAY, -1));
  await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
  await expect(page.getByLabel('Amount', { exact: true })).toHaveValue('12.00');
  await page.goto('/payments/visits');
  await listening(page);
  await row.getByRole('button', { name: 'Does not come' }).click();
  await page.getByLabel('Why does it not come?').fill('is ill');
  await page.keyboard.press('Enter');
  await expect(row).toContainText('does not come: is ill');
  await provenBooks(desk);
});

test('visits come by file: known ones are known, the others are asked about, and the same file adds nothing', async ({
  page,
  desk,
}) => {
  await household(desk, false, { last: 'Fileborn', first: 'Finn', birthDate: '1991-05-04' });
  await signIn(page, 'front-desk');
  await page.goto('/payments/visits');
  await listening(page);
  const table = [
    'key,last,first,birth date,day,time,provider,reason',
    `A1,Fileborn,Finn,1991-05-04,${TODAY},10:15,Tamura,knee`,
    `A2,Nobody,Known,1991-05-04,${TODAY},11:00,Stranger,back`,
    `A3,Broken,Row,,30 February,,,`,
  ].join('\n');
  const file = { name: 'visits.csv', mimeType: 'text/csv', buffer: Buffer.from(table) };
  await page.locator('input[type=file]').setInputFiles(file);
  await expect(
    page.getByText('2 new, 0 changed, 0 canceled; of 1 it is not known whose they are'),
  ).toBeVisible();
  await expect(page.getByText('Row 4: day “30 February” is no day')).toBeVisible();
  await expect(page.getByText('A2: provider “Stranger” is not in Setup')).toBeVisible();
  await expect(page.getByRole('row', { name: /Fileborn, Finn/ })).toContainText('10:15');
  await expect(page.getByRole('row', { name: /Nobody, Known/ })).toContainText('not known whose');
  await page.locator('input[type=file]').setInputFiles(file);
  await expect(page.getByText(/^0 new, 0 changed, 0 canceled/)).toBeVisible();
});

test('a drawer is opened, counted two dollars short with the reason, and its cash goes to the bank so', async ({
  page,
  desk,
}) => {
  const made = await household(desk, false, { last: 'Drawered', first: 'Dora' });
  await charge(desk, desk.context, made.patientId, '40.00');
  await signIn(page, 'manager');
  await page.goto('/payments/day');
  await listening(page);
  await page.getByLabel('In it for change').fill('50');
  await page.getByRole('button', { name: 'Open my drawer' }).click();
  await expect(page.getByText('Your drawer is open')).toBeVisible();
  await page.goto(`/accounts/${made.householdId}?show=payment`);
  await page.getByLabel('Amount', { exact: true }).waitFor();
  await listening(page);
  const drawer = page.getByRole('dialog');
  await drawer.getByText('Cash', { exact: true }).click();
  await drawer.getByRole('button', { name: 'Take 40.00' }).click();
  await expect(page.getByText('40.00 taken')).toBeVisible();
  await page.goto('/payments/day');
  await listening(page);
  const box = page.getByRole('group', { name: /^Drawer of Mara/ });
  await expect(box).toContainText('90.00');
  await box.getByRole('button', { name: 'Count and close' }).click();
  await box.getByRole('button', { name: 'By bill and coin' }).click();
  await box.getByLabel('How many of 20.00').fill('4');
  await box.getByLabel('How many of 1.00').fill('8');
  await expect(box.getByLabel('Cash counted')).toHaveValue('88.00');
  await expect(box.getByText('2.00 is missing: why')).toBeVisible();
  await expect(box.getByRole('button', { name: 'Close the drawer' })).toBeDisabled();
  await box.getByLabel('Why it is another amount').fill('wrong change');
  await box.getByRole('button', { name: 'Close the drawer' }).click();
  await expect(box.getByText(/Short .*2\.00.*: wrong change/)).toBeVisible();
  await expect(page.getByText(/short is in it.*wrong change/)).toBeVisible();
  await page.getByLabel('Number of the slip').fill('S-100');
  await lastOf(page.getByRole('button', { name: /^Deposit / })).click();
  await expect(page.getByText(/taken to the bank/)).toBeVisible();
  const slip = anyOf(page.getByRole('listitem').filter({ hasText: 'S-100' }));
  const [pdf] = await Promise.all([
    page.waitForEvent('download'),
    slip.getByRole('link', { name: 'Slip' }).click(),
  ]);
  expect(pdf.suggestedFilename()).toBe('deposit-S-100.pdf');
  await provenBooks(desk);
});

test('a check that comes back is named so, bears its charge, and no more checks are taken', async ({
  page,
  desk,
}) => {
  const made = await household(desk, false, { last: 'Bounced', first: 'Bo' });
  await charge(desk, desk.context, made.patientId, '50.00');
  await takeReceipt(desk.context, {
    householdId: made.householdId,
    tenders: [{ tender: 'check', amount: '50.00', reference: '771' }],
    key: key(),
  });
  await signIn(page, 'manager');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await page
    .getByRole('row', { name: /Received: .*50\.00 Check 771/ })
    .getByRole('button', { name: 'Unfold' })
    .click();
  await page.getByRole('button', { name: 'Came back', exact: true }).click();
  await page.getByLabel('Why did it come back?').fill('not covered');
  await page.getByText('No more checks').click();
  await page.getByRole('button', { name: 'It came back' }).click();
  await expect(page.getByText(/Came back: .*50\.00 Check 771/)).toBeVisible();
  await expect.poll(() => figure(page, 'Patient owes now')).toBe(85);
  await pressFor(page, 'p', page.getByLabel('Amount', { exact: true }));
  await expect(page.getByText(/No checks are taken from this account since/)).toBeVisible();
  await provenBooks(desk);
});

test('a refund above the limit is asked for by a biller and waits on the account; a manager approves it, and it goes back', async ({
  page,
  desk,
}) => {
  const made = await household(desk, false, { last: 'Limited', first: 'Lea' });
  await takeReceipt(desk.context, {
    householdId: made.householdId,
    tenders: [{ tender: 'check', amount: '310.00', reference: '9' }],
    key: key(),
  });
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}?show=credit`);
  await page.getByRole('button', { name: 'Give back', exact: true }).waitFor();
  await listening(page);
  const drawer = page.getByRole('dialog');
  await drawer.getByRole('button', { name: 'Give back', exact: true }).click();
  await drawer.getByLabel('Check number of what goes back').fill('R-1');
  await drawer.getByLabel('Why it is given back').fill('moved away');
  await drawer.getByRole('button', { name: 'Give back 310.00' }).click();
  await expect(
    page.getByText('310.00 is above what you may give back: it waits for a manager'),
  ).toBeVisible();
  await expect(page.getByText(/310\.00 is asked back and waits for a manager/)).toBeVisible();
  expect(await figure(page, 'Less credit')).toBe(-310);
  await page.goto('/payments/refunds');
  await listening(page);
  const row = page.getByRole('row', { name: /Limited, Lea/ });
  await expect(row).toContainText('moved away');
  await expect(row.getByRole('button')).toHaveCount(0);
  await signIn(page, 'manager');
  await page.goto('/payments/refunds');
  await listening(page);
  await row.getByRole('button', { name: 'Approve' }).click();
  await expect(page.getByText('310.00 given back')).toBeVisible();
  await expect(row).toHaveCount(0);
  await page.goto(`/accounts/${made.householdId}`);
  await expect.poll(() => figure(page, 'Less credit')).toBe(0);
  await provenBooks(desk);
});

test('an owner of credit who was not heard of is written to, and an answer lets the credit rest anew', async ({
  page,
  desk,
}) => {
  const made = await household(desk, false, { last: 'Silent', first: 'Sam' });
  await takeReceipt(
    { ...desk.context, today: addDays(TODAY, -1040) },
    {
      householdId: made.householdId,
      tenders: [{ tender: 'check', amount: '140.00', reference: '9' }],
      key: key(),
    },
  );
  await signIn(page, 'manager');
  await page.goto('/payments/unclaimed');
  await listening(page);
  const row = page.getByRole('row', { name: /Silent, Sam/ });
  await row.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Write 1 letter' }).click();
  await expect(row).toHaveCount(0);
  const [pdf] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: '1 letter as PDF' }).click(),
  ]);
  expect(pdf.suggestedFilename()).toMatch(/^credit-letter-\d+\.pdf$/);
  await page.goto('/payments/unclaimed?view=out');
  await listening(page);
  await row.getByRole('button', { name: 'Answered' }).click();
  await page.getByRole('textbox', { name: 'What did the owner say?' }).fill('keep it for the next visit');
  await page.keyboard.press('Enter');
  await expect(page.getByText('The credit rests anew from today')).toBeVisible();
  await page.goto('/payments/unclaimed?view=rests');
  await expect(row).toBeVisible();
});

test('one visit alone is paid from its line, and its receipt goes by e-mail', async ({ page, desk }) => {
  const made = await household(desk, false, { last: 'Onevisit', first: 'Ora' });
  await charge(desk, desk.context, made.patientId, '70.00', '99213', addDays(TODAY, -9));
  await charge(desk, desk.context, made.patientId, '30.00', '99212', addDays(TODAY, -2));
  await desk.db
    .updateTable('household')
    .set({ email: 'ora@example.com' })
    .where('id', '=', made.householdId)
    .execute();
  await signIn(page, 'manager');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await page.getByRole('row', { name: /99212/ }).getByRole('button', { name: 'Unfold' }).click();
  await page.getByRole('button', { name: 'Pay this visit' }).click();
  const drawer = page.getByRole('dialog');
  await expect(drawer.getByLabel('Amount', { exact: true })).toHaveValue('30.00');
  await drawer.getByText('Cash', { exact: true }).click();
  await drawer.getByRole('button', { name: 'Take 30.00' }).click();
  await expect(page.getByText('30.00 taken')).toBeVisible();
  await expect.poll(() => figure(page, 'Patient owes now')).toBe(70);
  await page
    .getByRole('row', { name: /Received: .*30\.00 Cash/ })
    .getByRole('button', { name: 'Unfold' })
    .click();
  await page.getByRole('button', { name: 'E-mail it' }).click();
  await expect(page.getByText('It goes to ora@example.com')).toBeVisible();
  await expect(page.getByText(/waits to go by e-mail|sent to ora@example\.com/)).toBeVisible();
  await provenBooks(desk);
});
