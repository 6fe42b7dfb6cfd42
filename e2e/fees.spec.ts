/** Fees under control: pasted with what is wrong named, undone, raised from a day to come, printed, compared, and contracts reviewed. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { addMonths, calendarDate } from '../src/core/calendar';
import { changeFees } from '../src/server/fees/change';
import { estimateTyped, household } from '../src/testing/desk';
import { TODAY } from '../src/testing/database';
import { type Desk, anyOf, expect, listening, press, provenBooks, signIn, test } from './desk';

/** The id of a schedule. */
const scheduleId = async (desk: Desk, name: string): Promise<number> =>
  (await desk.db.selectFrom('fee_schedule').select('id').where('name', '=', name).executeTakeFirstOrThrow())
    .id;

/** So many services more, whose codes begin with a letter. @returns their codes */
async function services(desk: Desk, letter: string, many: number): Promise<string[]> {
  const codes = Array.from({ length: many }, (_, index) => `${letter}${String(index).padStart(4, '0')}`);
  await desk.db
    .insertInto('service_code')
    .values(
      codes.map((code) => ({
        code,
        description: `Service ${code}`,
        category: 'office',
        form: 'professional' as const,
      })),
    )
    .execute();
  return codes;
}

/** Pastes cells into a field, as a spreadsheet gives them. */
async function pasteInto(page: Page, label: string, text: string): Promise<void> {
  await page.getByLabel(label, { exact: true }).focus();
  await page.evaluate((cells) => {
    const data = new DataTransfer();
    data.setData('text/plain', cells);
    document.activeElement!.dispatchEvent(
      new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
    );
  }, text);
}

/** What a file of ours says in words. */
async function wordsOf(page: Page, address: string): Promise<{ text: string; pages: number }> {
  const response = await page.request.get(address);
  expect(response.status()).toBe(200);
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-fees-'));
  try {
    const file = join(folder, 'fees.pdf');
    writeFileSync(file, await response.body());
    const text = execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' });
    return { text, pages: text.split('\f').length - 1 };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

test('300 fees are pasted, three lines of them wrong; undone, kept, and taken back', async ({
  page,
  desk,
}) => {
  const codes = await services(desk, 'Q', 300);
  const id = await scheduleId(desk, 'Cedar Sound Health contract');
  await signIn(page, 'manager');
  await page.goto(`/fees/${id}`);
  await listening(page);
  await expect(page.getByText(/Used by/)).toContainText('Cedar Sound Health, Harbor PPO');
  const lines = codes.map((code, index) => `${code}\t${(100 + index).toFixed(2)}`);
  lines[9] = `${codes[9]!}\tdear`;
  lines[99] = 'NOSUCH\t5.00';
  lines[199] = `${codes[199]!}\t-3.00`;
  const first = 'Fee, 12001';
  await pasteInto(page, first, lines.join('\n'));
  await expect(
    page.getByText(/3 lines of what was pasted are left out: line 10, .*line 100, .*line 200/),
  ).toBeVisible();
  const keep = page.getByRole('button', { name: /^Keep 297 fees from 16 Mar 2026/ });
  await expect(keep).toBeVisible();
  // One key takes the whole paste back, another one puts it in again.
  await page.getByLabel(first, { exact: true }).focus();
  await page.keyboard.press('Control+z');
  await expect(keep).toBeHidden();
  await page.keyboard.press('Control+Shift+z');
  await keep.click();
  await expect(anyOf(page.getByText('297 fees kept from 16 Mar 2026'))).toBeVisible();
  await page.getByLabel('Code or words').fill(codes[299]!);
  await expect(page.getByLabel(`Fee, ${codes[299]!}`)).toHaveValue('399.00');
  await expect(page.getByLabel(`Fee, ${codes[9]!}`)).toHaveCount(0);
  await page.getByRole('button', { name: 'What was changed' }).click();
  await anyOf(page.getByRole('button', { name: 'Take it back' })).click();
  await expect(anyOf(page.getByText('297 fees taken back'))).toBeVisible();
  await page.getByLabel('Code or words').fill(codes[299]!);
  await expect(page.getByLabel(`Fee, ${codes[299]!}`)).toHaveValue('');
});

test('raised from a day to come: seen before it is kept, and in an estimate before and after that day', async ({
  page,
  desk,
}) => {
  const id = await scheduleId(desk, 'Cedar Sound Health contract');
  const from = addMonths(calendarDate(`${TODAY.slice(0, 7)}-01`), 2);
  await signIn(page, 'manager');
  await page.goto(`/fees/${id}?on=${from}`);
  await listening(page);
  const before = await page.getByLabel('Fee, 99213', { exact: true }).inputValue();
  expect(before).toBe('98.00');
  await press(page, 'r');
  const drawer = page.getByRole('dialog');
  await drawer.getByLabel('By percent').fill('3.5');
  await expect(drawer.getByRole('row', { name: /^99213/ })).toContainText('101.45');
  await drawer.getByRole('button', { name: 'Put them into the grid' }).click();
  await expect(page.getByLabel('Fee, 99213', { exact: true })).toHaveValue('101.45');
  await page.getByRole('button', { name: /^Keep \d+ fees from 1 May 2026/ }).click();
  await expect(anyOf(page.getByText(/fees kept from 1 May 2026/))).toBeVisible();
  await page.getByRole('button', { name: /history of 99213$/ }).click();
  await expect(page.getByRole('dialog').getByRole('table', { name: 'What was done to it' })).toContainText(
    'raised by 3.5 %',
  );
  const { caseId } = await household(desk, true, { last: 'Raiser' });
  const allowed = async (date: string): Promise<string> =>
    JSON.stringify(
      await estimateTyped(desk.context, {
        caseId,
        code: '99213',
        units: 1,
        fee: '145.00',
        date: calendarDate(date),
      }),
    );
  expect(await allowed('2026-04-30')).toContain('"allowed":9800');
  expect(await allowed('2026-05-01')).toContain('"allowed":10145');
});

test('a schedule is found, shown on paper before it is printed, with its name, its day and its pages on each', async ({
  page,
  desk,
}) => {
  const id = await scheduleId(desk, 'Office fees');
  const codes = await services(desk, 'R', 60);
  await changeFees(desk.context, {
    scheduleId: id,
    from: '',
    lines: codes.map((code, index) => ({ code, amount: `${index + 10}.50` })),
    key: 'fees-to-print',
  });
  await signIn(page, 'manager');
  await page.goto('/setup/schedules?search=Office');
  await page
    .getByRole('row', { name: /Office fees/ })
    .getByRole('link', { name: 'Its fees' })
    .click();
  await expect(page.getByRole('heading', { level: 1, name: 'Office fees' })).toBeVisible();
  await press(page, 'p');
  const shown = page.getByRole('dialog').getByTitle('Office fees on paper');
  await expect(shown).toBeVisible();
  const address = (await shown.getAttribute('src'))!.split('#')[0]!;
  const { text, pages } = await wordsOf(page, address);
  expect(pages).toBeGreaterThan(1);
  text
    .split('\f')
    .slice(0, pages)
    .forEach((words, at) => expect(words).toContain(`Office fees, 16 Mar 2026 · page ${at + 1} of ${pages}`));
  const { rows } = await desk.pool.query<{ code: string; fee: string }>(
    `select code, to_char(fee_on($1, code, '2026-03-16') / 100.0, 'FM999990.00') as fee from service_code where fee_on($1, code, '2026-03-16') is not null`,
    [id],
  );
  expect(rows.length).toBeGreaterThan(90);
  for (const { code, fee } of rows)
    expect(text.replace(/(?<=\d)\s(?=\d{3}\.)/g, '')).toMatch(
      new RegExp(`${code}\\s.*\\s${fee.replace('.', '\\.')}`),
    );
  for (const format of ['xlsx', 'csv'])
    expect((await page.request.get(address.replace('format=pdf', `format=${format}`))).status()).toBe(200);
});

test('three schedules side by side, what differs, what was billed, and what it comes to', async ({
  page,
  desk,
}) => {
  const ids = await Promise.all(
    ['Office fees', 'Cedar Sound Health contract', 'Northlight Mutual contract'].map((name) =>
      scheduleId(desk, name),
    ),
  );
  await signIn(page, 'manager');
  await page.goto(`/fees/compare?with=${ids.join('.')}`);
  const row = page.getByRole('row', { name: /^99213/ });
  await expect(row).toContainText('145.00');
  await expect(row).toContainText('−47.00');
  await expect(row).toContainText('−32.41 %');
  const { rows } = await desk.pool.query<{ lost: string }>(
    `select sum((fee_on($2, c.code, '2026-03-16') - fee_on($1, c.code, '2026-03-16')) * c.units) as lost
     from charge c
     where c.status = 'done' and c.kind = 'service' and c.service_date > '2025-03-16' and c.service_date <= '2026-03-16'`,
    [ids[0], ids[1]],
  );
  const lost = (Math.abs(Number(rows[0]!.lost)) / 100).toFixed(2);
  await expect(
    anyOf(page.getByRole('list', { name: 'What it comes to' }).getByRole('listitem')),
  ).toContainText(new RegExp(lost.replace(/(\d)(?=(\d{3})+\.)/g, '$1\\s?').replace('.', '\\.')));
  await listening(page);
  await page.getByText('What was billed', { exact: true }).click();
  await expect(page).toHaveURL(/only=.*billed/);
  await expect(page.getByRole('row', { name: /^99213/ })).toBeVisible();
  expect((await page.request.get(`/api/fees/compare?with=${ids.join('.')}&format=xlsx`)).status()).toBe(200);
});

test('contracts by the money at stake, as own arithmetic has it, and two pages to take along', async ({
  page,
  desk,
}) => {
  await signIn(page, 'manager');
  await page.goto('/books/contracts');
  const table = page.getByRole('table', { name: 'Payers' });
  await expect(anyOf(table.getByRole('row', { name: /Cedar Sound/ }))).toBeVisible();
  // Own arithmetic: line by line, from what stands of each charge with its first payer.
  const { rows } = await desk.pool.query<{ payer: string; lines: string; allowed: string; office: string }>(
    `select y.name as payer, count(*) as lines,
       sum(case when w.paid + s.passed > 0 then w.paid + s.passed else 0 end) as allowed,
       sum(case when w.paid + s.passed > 0 then fee_on(f.id, c.code, c.service_date::date) * c.units else 0 end) as office
     from charge c
       join claim_line l on l.charge_id = c.id and l.coverage_id = c.coverage_id and l.bills
       join claim m on m.id = l.claim_id and m.sent_date is not null
       join payer y on y.id = m.payer_id
       join payer_balance w on w.charge_id = c.id and w.coverage_id = c.coverage_id
       join fee_schedule f on f.standard
       cross join lateral (
         select coalesce(sum(p.amount), 0) as passed
         from posting p
           join claim x on x.id = p.claim_id and x.coverage_id = c.coverage_id
         where p.charge_id = c.id and p.remittance_claim_id is not null
           and (p.account = 'receivable/patient' or p.account = 'receivable/payer' and p.coverage_id <> c.coverage_id)
       ) s
     where c.status = 'done' and c.service_date > '2025-03-16'
     group by 1
     order by 4::numeric - 3::numeric`,
  );
  const byStake = rows
    .map((row) => ({ ...row, stake: Number(row.office) - Number(row.allowed) }))
    .sort((a, b) => b.stake - a.stake);
  const spaced = (amount: number): RegExp =>
    new RegExp(
      amount === 0
        ? '–'
        : (amount / 100)
            .toFixed(2)
            .replace(/(\d)(?=(\d{3})+\.)/g, '$1\\s?')
            .replace('.', '\\.'),
    );
  const shown = table.locator('tbody tr');
  await expect(shown).toHaveCount(byStake.length);
  const said = await shown.allInnerTexts();
  for (const [at, { payer, lines, allowed, stake }] of byStake.entries()) {
    expect(said[at]).toContain(payer);
    expect(said[at]).toContain(String(lines));
    expect(said[at]).toMatch(spaced(Number(allowed)));
    expect(said[at]).toMatch(spaced(stake));
  }
  await page.getByRole('link', { name: byStake[0]!.payer }).click();
  const paper = page.getByRole('link', { name: 'Two pages to take into the negotiation' });
  await expect(paper).toBeVisible();
  const { text, pages } = await wordsOf(page, (await paper.getAttribute('href'))!);
  expect(pages).toBe(2);
  expect(text).toContain(`${byStake[0]!.payer}: what the contract is worth`);
  expect(text).toContain('page 2 of 2');
  expect(text).toMatch(/Where most is at stake/);
});

test('a household of members without an insurer is charged by their discount, and the line says so beforehand', async ({
  page,
  desk,
}) => {
  const made = await household(desk, false, { last: 'Membering' });
  await desk.db
    .updateTable('household')
    .set({ category: 'member' })
    .where('id', '=', made.householdId)
    .execute();
  await signIn(page, 'biller');
  await page.goto(`/accounts/${made.householdId}`);
  await listening(page);
  await press(page, 'n');
  await expect(page.locator('#quick-code')).toBeFocused();
  await page.keyboard.type('99213');
  // A fifth less than 145.00.
  await expect(page.locator('#quick-fee')).toHaveValue('116.00');
  await page.keyboard.press('Enter');
  await expect(anyOf(page.getByRole('row', { name: /99213/ }))).toContainText('116.00');
  await provenBooks(desk);
});
