/** What a payer says twice, wrongly or for somebody else, worked to its end on the screen. */
import type { Page } from '@playwright/test';
import pg from 'pg';
import { cents } from '../src/core/money';
import { remitClaimDocument } from '../src/core/remittances/document';
import { type RemitClaim, type Remittance, write835 } from '../src/core/x12/remittance835';
import { SAMPLE_INTERCHANGE } from '../src/core/x12/samples';
import type { StandinPayer } from '../src/standins/payer-book';
import { takeBack } from '../src/standins/payers';
import { PAYEE, decided } from '../src/testing/desk';
import { TODAY } from '../src/testing/database';
import { provenBooks, expect, figure, listening, signIn, test, anyOf, press } from './desk';

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

/** A claim of the demo that Cedar Sound has paid with a part for the patient, as the payer said it. */
async function paidClaim(skip: number): Promise<{ content: RemitClaim; household: number }> {
  const db = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await db.connect();
  try {
    const { rows } = await db.query<{ content: unknown; household: string }>(
      `select c.content, m.household_id as household from remittance_claim c join claim m on m.id = c.claim_id join payer y on y.id = m.payer_id
       where y.payer_id = 'CSH01' and c.status = 'posted' and c.paid > 2000 and m.status = 'closed' and m.control_number = c.control_number order by c.id desc offset $1 limit 1`,
      [skip],
    );
    const { content, household } = rows[0]!;
    return { content: remitClaimDocument.read(content), household: Number(household) };
  } finally {
    await db.end();
  }
}

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
  await expect(page.getByText('Decided')).toBeVisible();
}

test('a claim paid twice: the patient is billed once, and the money goes back', async ({ page, desk }) => {
  await signIn(page, 'biller');
  const { content, household } = await paidClaim(0);
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
  const { content, household } = await paidClaim(1);
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

test('an unknown payer’s remittance is taken up again after Setup', async ({ page }) => {
  await signIn(page, 'manager');
  const stranger: RemitClaim = {
    ...(await paidClaim(2)).content,
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
    ['Claims go', 'paper'],
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
  const { content } = await paidClaim(3);
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

/** A claim that its payer has denied, at least in part. */
async function deniedClaim() {
  const db = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await db.connect();
  try {
    const { rows } = await db.query<{
      id: string;
      number: string;
      name: string;
      payer: string;
      content: unknown;
    }>(
      `select m.id, m.control_number as number, y.name, y.payer_id as payer, c.content from follow_up f join claim m on m.id = f.claim_id join payer y on y.id = m.payer_id
       join remittance_claim c on c.claim_id = m.id and c.status = 'posted'
       where f.kind = 'denial' and f.closed_at is null and m.status = 'decided' and c.paid = 0 order by m.id limit 1`,
    );
    const { content, ...claim } = rows[0]!;
    const { rows: codes } = await db.query<{ code: string }>(
      'select c.code from payer_balance b join charge c on c.id = b.charge_id join claim_line l on l.charge_id = c.id where l.claim_id = $1 and b.with_payer > 0',
      [claim.id],
    );
    return {
      ...claim,
      content: remitClaimDocument.read(content),
      waiting: new Set(codes.map(({ code }) => code)),
    };
  } finally {
    await db.end();
  }
}

/** A claim paid after its denial: what waits in full; what we have written off ourselves stays refused. */
const paidAfterAll = (
  number: string,
  { content, waiting }: Pick<Awaited<ReturnType<typeof deniedClaim>>, 'content' | 'waiting'>,
): RemitClaim => ({
  ...decided(
    number,
    content.lines.map(({ code, charge }) =>
      waiting.has(code)
        ? { control: '', code, charge, paid: charge, reasons: [] }
        : { control: '', code, charge, paid: 0, reasons: [`CO-97:${charge / 100}`] },
    ),
  ),
  payerClaimNumber: content.payerClaimNumber,
});

test('a denial that was paid is on the list again when the payment is reversed, and says why', async ({
  page,
  desk,
}) => {
  await signIn(page, 'manager');
  const denied = await deniedClaim();
  const trace = await bringIn(page, [paidAfterAll(denied.number, denied)], {
    payer: { name: denied.name, id: denied.payer },
  });
  const remittance = page.url();
  await post(page);
  await page.goto(`/remittances/follow-ups?search=${denied.number}`);
  await expect(page.getByText('Nothing to follow up')).toBeVisible();
  await page.goto(remittance);
  await listening(page);
  await page.getByRole('button', { name: 'Reverse all' }).click();
  await page.getByLabel('Why is it reversed?').fill('the check bounced');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/entr(y|ies) reversed/)).toBeVisible();
  await page.goto(`/remittances/follow-ups?search=${denied.number}`);
  await listening(page);
  await expect(page.locator('tbody tr[data-index]')).toHaveCount(denied.waiting.size);
  await page.keyboard.press('Space');
  await expect(page.getByText(`Open again: remittance ${trace} was taken back`)).toBeVisible();
  await provenBooks(desk);
});

test('a denied claim is corrected, sent again as 7, and paid', async ({ page, desk }) => {
  await signIn(page, 'biller');
  const { waiting, ...denied } = await deniedClaim();
  await page.goto(`/remittances/follow-ups?search=${denied.number}`);
  await anyOf(page.getByRole('link', { name: denied.number })).click();
  await listening(page);
  await page.getByRole('button', { name: 'Correct and send again' }).click();
  await page.getByLabel('What is corrected').fill('A modifier was missing');
  await expect(page.getByLabel('The payer’s number of this claim')).toHaveValue(
    denied.content.payerClaimNumber,
  );
  await page.keyboard.press('Enter');
  await expect(page.getByText(`corrects ${denied.number}`)).toBeVisible();
  const made = (await page.getByRole('heading', { level: 1 }).textContent())!.replace('Claim ', '');
  await page.getByRole('link', { name: 'line 1', exact: true }).click();
  await page.getByLabel('Modifiers').fill('25');
  await page.keyboard.press('Enter');
  await expect(page.getByText(`corrects ${denied.number}`)).toBeVisible();
  await listening(page);
  await page.getByRole('tab', { name: 'As X12' }).click();
  const segments = page.getByRole('region', { name: 'Segments' });
  await expect(segments).toContainText(`REF*F8*${denied.content.payerClaimNumber}`);
  await expect(segments).toContainText(/CLM\*[^*]+\*[^*]+\*\*\*\d\d:B:7\*/);
  await press(page, 's');
  await expect(page.getByText('sent', { exact: true })).toBeVisible();
  // The first claim says where it went, and its denial is no longer followed.
  await page.getByRole('link', { name: denied.number }).click();
  await expect(page.getByText(`corrected by ${made}`)).toBeVisible();
  await page.goto(`/remittances/follow-ups?search=${denied.number}`);
  await expect(page.getByText('Nothing to follow up')).toBeVisible();
  await bringIn(
    page,
    // As payers do it: the first decision taken back and the new one, in one payment.
    [
      takeBack({ payerId: denied.payer } as StandinPayer, denied.content, {}),
      { ...paidAfterAll(made, { content: denied.content, waiting }), payerClaimNumber: 'AGAIN1' },
    ],
    { payer: { name: denied.name, id: denied.payer } },
  );
  await post(page);
  await page.goto(`/claims?view=all&search=${made}`);
  await expect(page.getByText('settled', { exact: true })).toBeVisible();
  await provenBooks(desk);
});

test('what a payer took is set against the claim that it names, and undone', async ({ page, desk }) => {
  await signIn(page, 'biller');
  const { content } = await paidClaim(4);
  const stranger = { ...(await paidClaim(5)).content, controlNumber: 'NOBODY9', payerClaimNumber: '' };
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
