/** Lines that are entered as in a spreadsheet: pasted, moved in by keys, undone, refused by line, and added. */
import { type Page } from '@playwright/test';
import { db, expect, listening, sessionOf, test } from './desk';

/** Pastes as the browser does what was copied from a spreadsheet. */
const paste = (page: Page, text: string): Promise<void> =>
  page.evaluate((copied) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', copied);
    document.activeElement!.dispatchEvent(
      new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }),
    );
  }, text);

test('a column of codes is pasted, mended by keys, and added whole', async ({ page }) => {
  await sessionOf(page, 'manager');
  await page.goto('/setup/diagnoses');
  await listening(page);
  await page.getByRole('button', { name: 'Add several' }).click();
  const cell = (column: string, line: number) => page.getByLabel(`${column}, line ${line}`, { exact: true });
  await cell('Code', 1).focus();
  const copied = Array.from({ length: 40 }, (_, index) => `V${100 + index}\tMade up ${index}`);
  copied[2] = 'V102\t';
  await paste(page, copied.join('\r\n'));
  await expect(page.getByRole('button', { name: 'Add 40 diagnoses' })).toBeVisible();
  await expect(cell('Description', 2)).toHaveValue('Made up 1');
  // One step back and forward again, without leaving the keyboard.
  await page.keyboard.press('Control+z');
  await expect(cell('Code', 1)).toHaveValue('');
  await page.keyboard.press('Control+Shift+z');
  await expect(cell('Code', 1)).toHaveValue('V100');
  await page.getByRole('button', { name: 'Add 40 diagnoses' }).click();
  await expect(page.getByRole('row', { name: /Description is missing/ })).toContainText('3');
  await expect(cell('Description', 3)).toHaveAttribute('aria-invalid', 'true');
  expect(await db(`select 1 from diagnosis where code like 'V1__'`)).toHaveLength(0);
  // Down, and to the right, by arrows alone.
  await cell('Code', 1).focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('End');
  await page.keyboard.press('ArrowRight');
  await expect(cell('Description', 3)).toBeFocused();
  await page.keyboard.type('Mended');
  await page.getByRole('button', { name: 'Add 40 diagnoses' }).click();
  await expect(page.getByText('40 diagnoses added')).toBeVisible();
  expect(await db(`select 1 from diagnosis where code like 'V1__'`)).toHaveLength(40);
});
