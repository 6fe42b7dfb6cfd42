/** Remittances keyed from the command line, and posting what is ready. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { wergeldHere } from '../testing/command';
import { TODAY, fileDatabase } from '../testing/database';
import { brokenInvariants, intake, remitText, says, sentClaim } from '../testing/desk';

const t = fileDatabase();
const wergeld = (...words: string[]) => wergeldHere(t, words);
const folder = mkdtempSync(join(tmpdir(), 'wergeld-keyed-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const file = join(folder, 'remittance.json');
const write = (content: unknown) => writeFileSync(file, JSON.stringify(content));
const paidOf = async (chargeId: number) =>
  (
    await t.db
      .selectFrom('charge_balance')
      .select('payer_paid')
      .where('charge_id', '=', chargeId)
      .executeTakeFirstOrThrow()
  ).payer_paid;

test('a remittance on paper is keyed whole or not at all, and once', async () => {
  const s = await sentClaim(t);
  const head = { payer: 'CSH01', amount: '68.00', trace: 'CLI-1', paymentDate: TODAY };
  const line = { number: 1, allowed: '98.00', copay: '30.00', paid: '68.00' };
  const claims = (more: object) => [{ controlNumber: s.claim.control_number, lines: [{ ...line, ...more }] }];
  for (const [content, words] of [
    [{ ...head, payer: 'Nobody', claims: claims({}) }, 'Payer “Nobody” is not in Setup'],
    [{ ...head, claims: claims({ paid: '67.00' }) }, '67.00 is said to be paid'],
    [{ ...head, amount: '70.00', claims: claims({}) }, '2.00 of the payment is not explained'],
    [{ ...head, claims: [{ controlNumber: 'X', lines: [] }] }, 'There is no claim X'],
    [{ ...head, trace: '' }, 'trace is missing'],
  ] as const) {
    write(content);
    const refused = await wergeld('remittances', 'key', file);
    expect([refused.status, refused.err]).toEqual([expect.any(Number), expect.stringContaining(words)]);
    expect(refused.status).not.toBe(0);
  }
  expect(await t.db.selectFrom('keyed_remittance').select('id').execute()).toEqual([]);
  write({ ...head, claims: claims({}) });
  expect((await wergeld('remittances', 'key', file)).out).toBe('1 claim posted\n');
  expect(await paidOf(s.charges[0]!)).toBe(6800);
  expect((await wergeld('remittances', 'key', file)).err).toContain('closed and locked');
  write({ ...head, trace: 'CLI-2', amount: '12.00', rest: true });
  expect(JSON.parse((await wergeld('remittances', 'key', file, '--json')).out)).toMatchObject({
    posted: 0,
    unmatched: 0,
  });
  expect(await brokenInvariants(t)).toEqual([]);
});

test('what is ready is posted, and nothing where nothing is', async () => {
  const s = await sentClaim(t);
  await intake(t.context, remitText([says(s, 6800)]));
  expect((await wergeld('remittances', 'post')).out).toBe('1 remittance, 1 claim posted\n');
  expect(await paidOf(s.charges[0]!)).toBe(6800);
  expect(JSON.parse((await wergeld('remittances', 'post', '--json')).out)).toEqual({
    remittances: 0,
    posted: 0,
    unmatched: 0,
  });
});
