/** What a payer says twice, wrongly or for somebody else, worked to its end on the screen. */
import type { Page } from '@playwright/test';
import { cents } from '../src/core/money';
import { type RemitClaim, type Remittance, write835 } from '../src/core/x12/remittance835';
import { SAMPLE_INTERCHANGE } from '../src/core/x12/samples';
import type { StandinPayer } from '../src/standins/payer-book';
import { takeBack } from '../src/standins/payers';
import { takeReceipt } from '../src/server/payments/take';
import { CONTRACTED, PAYEE, decided, postedRemittance, says, sentClaim } from '../src/testing/desk';
import { TODAY } from '../src/testing/database';
import { type Desk, provenBooks, expect, figure, listening, signIn, test, anyOf, press } from './desk';

let serial = 0;
/** Brings in a remittance by the screen and opens it. */
async function bringIn(page: Page, claims: RemitClaim[], more: Partial<Remittance> = {}): Promise<string> {
  serial += 1;
  const trace = `E2E${process.pid}${serial}`;
  const text = write835(
    { ...SAMPLE_INTERCHANGE, controlNumber: String(700_000_000 + serial) },
    [
      {
        handling: 'I',
        creditDebit: 'C',
        method: 'ACH',
        date: TODAY,
        trace,
        originator: '1910000011',
        payer: { name: 'Cedar Sound Health', id: 'CSH01' },
        payee: PAYEE,
        providerAdjustments: [],
        claims,
        payment: cents(claims.reduce((all, claim) => all + claim.paid, 0)),
        ...more,
      },
    ],
    '20260316',
  );
  await page.goto('/remittances?view=all');
  await listening(page);
  await page
    .getByLabel('Remittance file')
    .setInputFiles({ name: `${trace}.835`, mimeType: 'text/plain', buffer: Buffer.from(text) });
  await page.getByRole('link', { name: trace }).click();
  await expect(page.getByRole('heading', { name: more.payer?.name ?? 'Cedar Sound Health' })).toBeVisible();
  await listening(page);
  return trace;
}

/** A claim of 145.00 that Cedar Sound has decided, as it was said. */
async function decidedClaim(
  desk: Desk,
  paid: number,
  reasons: string[],
): Promise<{ content: RemitClaim; household: number }> {
  const { claim, controls, householdId } = await sentClaim(desk);
  const said = decided(claim.control_number, [{ control: controls[0]!, charge: 14_500, paid, reasons }]);
  const content = { ...said, payerClaimNumber: `CSH-${claim.control_number}` };
  await postedRemittance(desk, [content]);
  return { content, household: householdId };
}
const paidClaim = (desk: Desk) => decidedClaim(desk, 6800, CONTRACTED);
const deniedClaim = async (desk: Desk) => (await decidedClaim(desk, 0, ['CO-16:145.00'])).content;

const post = async (page: Page): Promise<void> => {
  await page.getByRole('button', { name: /^Post \d claims?/ }).click();
  await expect(anyOf(page.getByText('posted', { exact: true }))).toBeVisible();
};
/** Says what a held claim is, and why. */
async function decide(page: Page, what: string, why: string): Promise<void> {
  await page.getByLabel('What it is').click();
  await page.locator(`.ant-select-item-option[title="${what}"]`).click();
  await page.getByRole('button', { name: 'Decide' }).click();
  await page.getByLabel('Why?').fill(why);
  await page.keyboard.press('Enter');
  await expect(page.getByText('Decided', { exact: true })).toBeVisible();
}

test('a claim paid twice: the patient is billed once, and the money goes back', async ({ page, desk }) => {
  await signIn(page, 'biller');
  const { content, household } = await paidClaim(desk);
  await page.goto(`/accounts/${household}`);
  const owed = await figure(page, 'Patient owes now');
  await bringIn(page, [content]);
  await post(page);
  await expect(page.getByText(/it is decided already, just so/)).toBeVisible();
  await expect.poll(() => figure(page, 'Held for the payer')).toBe(content.paid / 100);
  await decide(page, 'Returned to the payer', 'sent back with check 4411');
  await expect.poll(() => figure(page, 'Returned')).toBe(content.paid / 100);
  expect(await figure(page, 'Held for the payer')).toBe(0);
  await page.goto(`/accounts/${household}`);
  expect(await figure(page, 'Patient owes now')).toBe(owed);
  await provenBooks(desk);
});

test('a claim paid again as a correction: the first is taken back, the other stands', async ({
  page,
  desk,
}) => {
  await signIn(page, 'biller');
  const { content, household } = await paidClaim(desk);
  await page.goto(`/accounts/${household}`);
  const before = await figure(page, 'Balance');
  // One dollar more is paid, and one less is taken off by the contract or passed on.
  const [first, ...rest] = content.lines;
  const adjustments = first!.adjustments.map((item, index) =>
    index === 0 ? { ...item, amount: cents(item.amount - 100) } : item,
  );
  const right = {
    ...content,
    paid: cents(content.paid + 100),
    lines: [{ ...first!, paid: cents(first!.paid + 100), adjustments }, ...rest],
  };
  await bringIn(page, [right]);
  await post(page);
  await expect(page.getByText(/and nothing was taken back/)).toBeVisible();
  await decide(page, 'It corrects the earlier one', 'they called');
  await expect.poll(() => figure(page, 'Posted to claims')).toBe(right.paid / 100);
  await page.goto(`/accounts/${household}`);
  const after = await figure(page, 'Balance');
  expect([before, Math.round((before - 1) * 100) / 100]).toContain(after);
  await page.goto('/remittances?view=unmatched');
  await expect(anyOf(page.locator('tbody tr[data-index]'))).toBeVisible();
  await provenBooks(desk);
});

test('an unknown payer’s remittance is taken up again after Setup', async ({ page, desk }) => {
  await signIn(page, 'manager');
  const stranger: RemitClaim = {
    ...(await paidClaim(desk)).content,
    controlNumber: 'NOBODY7',
    payerClaimNumber: '',
  };
  const number = `CX${process.pid}`;
  await bringIn(page, [stranger], { payer: { name: 'Cedar Coast', id: number }, originator: '' });
  await expect(page.getByText('This remittance is kept but not posted:')).toBeVisible();
  const held = page.url();
  await page.goto('/setup/payers');
  await listening(page);
  await page.getByRole('button', { name: 'Add payer' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Cedar Coast');
  await page.getByLabel('Payer id').fill(number);
  for (const [label, value] of [
    ['Claims go', 'on paper'],
    ['Bills as', 'group'],
  ] as const) {
    await page.getByLabel(label).click();
    await page.locator(`.ant-select-item-option[title="${value}"]`).click();
  }
  await page.getByLabel('Filing limit, days').fill('365');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('row', { name: /Cedar Coast/ })).toBeVisible();
  await page.goto(held);
  await listening(page);
  await press(page, 'c');
  await expect(page.getByText('Ready to post', { exact: true })).toBeVisible();
  await post(page);
  await expect(page.getByText('No claim of ours has the number NOBODY7')).toBeVisible();
});

test('a remittance reversed by mistake is posted anew, and both stay to be seen', async ({ page, desk }) => {
  await signIn(page, 'biller');
  const { content } = await paidClaim(desk);
  await bringIn(page, [{ ...content, controlNumber: 'NOBODY8', payerClaimNumber: '' }]);
  await post(page);
  await page.getByRole('button', { name: 'Reverse all' }).click();
  await page.getByLabel('Why is it reversed?').fill('the wrong one');
  await page.keyboard.press('Enter');
  await expect(page.getByText('reversed', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Make ready to post anew' }).click();
  await post(page);
  await expect.poll(() => figure(page, 'Held for the payer')).toBe(content.paid / 100);
  await expect(page.getByText('reversed', { exact: true })).toBeVisible();
  await provenBooks(desk);
});

/** A denied claim paid after all, in full. */
const paidAfterAll = (number: string, { charge, payerClaimNumber }: RemitClaim): RemitClaim => ({
  ...decided(number, [{ control: '', charge, paid: charge, reasons: [] }]),
  payerClaimNumber,
});

test('a denial that was paid is on the list again when the payment is reversed, and says why', async ({
  page,
  desk,
}) => {
  await signIn(page, 'manager');
  const denied = await deniedClaim(desk);
  const trace = await bringIn(page, [paidAfterAll(denied.controlNumber, denied)]);
  const remittance = page.url();
  await post(page);
  await page.goto(`/remittances/follow-ups?search=${denied.controlNumber}`);
  await expect(page.getByText('Nothing to follow up')).toBeVisible();
  await page.goto(remittance);
  await listening(page);
  await page.getByRole('button', { name: 'Reverse all' }).click();
  await page.getByLabel('Why is it reversed?').fill('the check bounced');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/entr(y|ies) reversed/)).toBeVisible();
  await page.goto(`/remittances/follow-ups?search=${denied.controlNumber}`);
  await listening(page);
  await expect(page.locator('tbody tr[data-index]')).toHaveCount(1);
  await page.keyboard.press('Space');
  await expect(page.getByText(`Open again: remittance ${trace} was taken back`)).toBeVisible();
  await provenBooks(desk);
});

test('a fee is put right on a claim that was paid: sent as 7, decided anew, and what was paid beyond is credit', async ({
  page,
  desk,
}) => {
  const made = await sentClaim(desk);
  await postedRemittance(desk, [says(made, 6800)]);
  await takeReceipt(desk.context, {
    householdId: made.householdId,
    tenders: [{ tender: 'cash', amount: '30.00' }],

    key: 'fee put right',
  });
  await signIn(page, 'biller');
  await page.goto(`/claims/${made.claim.id}`);
  await listening(page);
  await page.getByRole('button', { name: 'Correct and send again' }).click();
  await page.getByLabel('What is corrected').fill('The fee was another one');
  await page.keyboard.press('Enter');
  await expect(page.getByText(`corrects ${made.claim.control_number}`)).toBeVisible();
  const number = (await page.getByRole('heading', { level: 1 }).textContent())!.replace('Claim ', '');
  await page.getByRole('link', { name: 'line 1', exact: true }).click();
  await page.getByRole('dialog').getByLabel('Fee').fill('100.00');
  await page.keyboard.press('Enter');
  await expect(
    page.getByText(/100.00 instead of 145.00: −45.00 then waits with Cedar Sound Health/),
  ).toBeVisible();
  await page.getByRole('button', { name: 'It is meant so' }).click();
  await expect(page.getByText(`corrects ${made.claim.control_number}`)).toBeVisible();
  await expect(anyOf(page.getByRole('cell', { name: '100.00' }))).toBeVisible();
  await listening(page);
  await press(page, 's');
  await expect(page.getByText('sent', { exact: true })).toBeVisible();
  await postedRemittance(desk, [
    says(made, -6800, ['CO-45:-47.00', 'PR-3:-30.00'], '22'),
    decided(number, [{ control: '', charge: 10_000, paid: 7800, reasons: ['CO-45:2.00', 'PR-3:20.00'] }]),
  ]);
  await page.goto(`/accounts/${made.householdId}`);
  await expect.poll(() => figure(page, 'Less credit')).toBe(-10);
  await anyOf(page.getByRole('row', { name: /99213/ }).getByRole('button', { name: 'Unfold' })).click();
  await expect(page.getByText('100.00 instead of 145.00')).toBeVisible();
  await provenBooks(desk);
});

test('a denied claim is corrected, sent again as 7, and paid', async ({ page, desk }) => {
  await signIn(page, 'biller');
  const denied = await deniedClaim(desk);
  await page.goto(`/remittances/follow-ups?search=${denied.controlNumber}`);
  await anyOf(page.getByRole('link', { name: denied.controlNumber })).click();
  await listening(page);
  await page.getByRole('button', { name: 'Correct and send again' }).click();
  await page.getByLabel('What is corrected').fill('A modifier was missing');
  await expect(page.getByLabel('The payer’s number of this claim')).toHaveValue(denied.payerClaimNumber);
  await page.keyboard.press('Enter');
  await expect(page.getByText(`corrects ${denied.controlNumber}`)).toBeVisible();
  const made = (await page.getByRole('heading', { level: 1 }).textContent())!.replace('Claim ', '');
  await page.getByRole('link', { name: 'line 1', exact: true }).click();
  await page.getByLabel('Modifiers').fill('25');
  await page.keyboard.press('Enter');
  await expect(page.getByText(`corrects ${denied.controlNumber}`)).toBeVisible();
  await listening(page);
  await page.getByRole('tab', { name: 'As X12' }).click();
  const segments = page.getByRole('region', { name: 'Segments' });
  await expect(segments).toContainText(`REF*F8*${denied.payerClaimNumber}`);
  await expect(segments).toContainText(/CLM\*[^*]+\*[^*]+\*\*\*\d\d:B:7\*/);
  await press(page, 's');
  await expect(page.getByText('sent', { exact: true })).toBeVisible();
  // The first claim says where it went, and its denial is no longer followed.
  await page.getByRole('link', { name: denied.controlNumber }).click();
  await expect(page.getByText(`corrected by ${made}`)).toBeVisible();
  await page.goto(`/remittances/follow-ups?search=${denied.controlNumber}`);
  await expect(page.getByText('Nothing to follow up')).toBeVisible();
  await bringIn(
    page,
    // As payers do it: the first decision taken back and the new one, in one payment.
    [
      takeBack({ payerId: 'CSH01' } as StandinPayer, denied, {}),
      { ...paidAfterAll(made, denied), payerClaimNumber: 'AGAIN1' },
    ],
  );
  await post(page);
  await page.goto(`/claims?view=all&search=${made}`);
  await expect(page.getByText('settled', { exact: true })).toBeVisible();
  await provenBooks(desk);
});

test('what a payer took is set against the claim that it names, and undone', async ({ page, desk }) => {
  await signIn(page, 'biller');
  const { content } = await paidClaim(desk);
  const stranger = { ...(await paidClaim(desk)).content, controlNumber: 'NOBODY9', payerClaimNumber: '' };
  await bringIn(page, [stranger], {
    payment: cents(stranger.paid - 100),
    providerAdjustments: [{ code: 'WO', reference: content.controlNumber, amount: cents(100) }],
  });
  const remittance = page.url();
  await post(page);
  await page.goto(`/remittances/credit?search=${content.controlNumber}`);
  await listening(page);
  await page.getByRole('button', { name: 'Settle' }).click();
  await expect(page.getByLabel('Our claim number')).toHaveValue(content.controlNumber);
  await page.getByLabel('Why').fill('their letter of 2 March');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Settled', { exact: true })).toBeVisible();
  await expect(page.getByText('Nothing is in the payers’ credit')).toBeVisible();
  await page.goto(`/claims?view=decided&search=${content.controlNumber}`);
  await expect(page.getByText('decided, money open')).toBeVisible();
  await page.goto(`/remittances/follow-ups?search=${content.controlNumber}`);
  await expect(page.getByText(/1.00 taken back/)).toBeVisible();
  await page.goto(remittance);
  await listening(page);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByLabel('Why is it undone?').fill('another claim');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Settle' })).toBeVisible();
  await provenBooks(desk);
});

test('a reason that Setup does not know holds the claim: said there, it posts', async ({ page, desk }) => {
  const { claim, controls, householdId } = await sentClaim(desk);
  const line = { control: controls[0]!, charge: 14_500, paid: 6800, reasons: ['CO-ZZ7:47.00', 'PR-3:30.00'] };
  await signIn(page, 'biller');
  await bringIn(page, [decided(claim.control_number, [line])]);
  await page.getByRole('button', { name: /^Post \d claims?/ }).click();
  await expect(
    page.getByText('CO-ZZ7 of 47.00: Setup does not know whether it takes off or refuses'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'It takes off' }).click();
  await page.getByLabel('What does it mean?').fill('A discount of theirs');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Setup knows CO-ZZ7 now; 1 claim posted')).toBeVisible();
  await page.goto(`/accounts/${householdId}`);
  await expect.poll(() => figure(page, 'Patient owes now')).toBe(30);
  await provenBooks(desk);
});

test('what a payer took off is passed to the patient by a stated exception alone', async ({ page, desk }) => {
  const { content, household } = await decidedClaim(desk, 0, ['CO-50:145.00']);
  await signIn(page, 'biller');
  await page.goto(`/remittances/follow-ups?search=${content.controlNumber}`);
  await listening(page);
  const row = page.getByRole('row', { name: new RegExp(content.controlNumber) });
  await row.getByRole('button', { name: 'Pass on' }).click();
  const drawer = page.getByRole('dialog');
  await drawer.getByLabel('Why, in words for the patient').fill('the notice of 2 March');
  await drawer.getByRole('button', { name: 'Pass on' }).click();
  await expect(drawer.getByText(/the patient’s by a stated exception alone/)).toBeVisible();
  await drawer.getByLabel('Exception').click();
  await page
    .locator('.ant-select-item-option[title="Benefit excluded or used up, notice signed before the service"]')
    .click();
  await drawer.getByRole('button', { name: 'Pass on' }).click();
  await expect(drawer).toHaveCount(0);
  await page.goto(`/accounts/${household}`);
  await expect.poll(() => figure(page, 'Patient owes now')).toBe(145);
  await press(page, 'b');
  await expect(
    page.getByText(/since before the service you had signed a notice with its price/),
  ).toBeVisible();
  await expect(page.getByText(/following it up/)).toHaveCount(0);
  await provenBooks(desk);
});

test('lines below a contract stand by their cause; the payer is asked by letter, and what comes back is credited to it', async ({
  page,
  desk,
}) => {
  // 85.00 allowed of the contract's 98.00, the copay of 30.00 taken from it: 13.00 of each are the payer's.
  const short = ['CO-45:60.00', 'PR-3:30.00'];
  const [one, two] = [await sentClaim(desk), await sentClaim(desk)];
  await postedRemittance(desk, [says(one, 5500, short), says(two, 5500, short)]);
  await signIn(page, 'biller');
  await page.goto('/remittances/follow-ups');
  await page.getByRole('link', { name: 'Contract check' }).click();
  // As people type a day, and Enter at once.
  await page.getByRole('textbox', { name: 'From' }).fill('3/16');
  await page.getByRole('textbox', { name: 'From' }).press('Enter');
  await expect(page).toHaveURL(new RegExp(`from=${TODAY}`));
  const table = page.getByRole('table', { name: 'Differences from contracts' });
  const row = table.getByRole('row', { name: /Cedar Sound Health 99213 paid at less/ });
  await expect(row).toContainText('26.00');
  await row.getByRole('link').click();
  const lines = page.getByRole('dialog').getByRole('table', { name: 'Lines' });
  await expect(lines).toContainText('Charged 145.00, contract 98.00, copay 30.00, pays 68.00, paid 55.00');
  await page.getByRole('button', { name: 'Letter about 2 lines' }).click();
  const letter = page.getByRole('dialog').getByRole('link', { name: 'The letter as PDF' });
  await expect(letter).toBeVisible();
  expect((await page.request.get((await letter.getAttribute('href'))!)).headers()['content-type']).toBe(
    'application/pdf',
  );
  // The payer puts one of them right; the other is let be.
  await postedRemittance(desk, [
    says(one, -5500, ['CO-45:-60.00', 'PR-3:-30.00'], '22'),
    says(one, 6800, CONTRACTED),
  ]);
  await page.goto('/remittances/contract/letters');
  const written = page.getByRole('row', { name: /Cedar Sound Health/ });
  await expect(anyOf(written)).toContainText('26.00');
  await expect(anyOf(written)).toContainText('13.00');
  await page.goto(`/remittances/contract?from=${TODAY}`);
  await expect(row).toContainText('1 of 1');
  await row.getByRole('link').click();
  await page.getByRole('button', { name: 'Let it be' }).click();
  await page.getByLabel('Why is it let be?').fill('too little to ask again');
  await page.keyboard.press('Enter');
  await expect(page.getByText('1 line let be')).toBeVisible();
  await expect(page.getByText('Nothing was allowed below a contract')).toBeVisible();
  await provenBooks(desk);
});
