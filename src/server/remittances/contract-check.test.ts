/** The contract check on the books. Worked by hand: visits of 145.00, of which Cedar Sound's contract allows 98.00 and the patient owes 30.00. */
import { execFileSync } from 'node:child_process';
import { sql } from 'kysely';
import { cents } from '../../core/money';
import type { ContractCheck } from './contract-check';
import { addDays } from '../../core/calendar';
import { readList } from '../lists/read';
import { TODAY, fileDatabase } from '../../testing/database';
import { CONTRACTED, brokenInvariants, decided, postedRemittance, says, sentClaim } from '../../testing/desk';
import { readContractCheck } from './contract-check';
import { contractCheckFile, shortRows } from './contract-file';
import {
  contractLetterPaper,
  letContractLinesBe,
  lookAgainAtContractLines,
  writeContractLetter,
} from './contract-letters';
import { decideHeld } from './held';
import { reverseRemittance } from './reverse';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

/** Allowed 85.00 of 98.00: 60.00 taken off, 30.00 the patient's, 55.00 paid. */
const SHORT = ['CO-45:60.00', 'PR-3:30.00'];
let turn = 0;
const key = (): string => `contract ${(turn += 1)}`;

type Made = Awaited<ReturnType<typeof sentClaim>>;
const lineOf = ({ charges, claim }: Made) => ({ chargeId: charges[0]!, coverageId: claim.coverage_id });
const check = (more: object = {}) => readContractCheck(t.context, more);
/** The line of a claim, on whichever side it stands. */
const found = async (made: Made, side: ContractCheck['side'] = 'short') =>
  (await check({ side })).payers
    .flatMap(({ groups }) => groups.flatMap(({ lines }) => lines))
    .find(({ chargeId }) => chargeId === made.charges[0]);
const followUp = async (made: Made) =>
  t.db
    .selectFrom('follow_up')
    .selectAll()
    .where('charge_id', '=', made.charges[0]!)
    .where('kind', '=', 'short-payment')
    .executeTakeFirst();
const short = async (): Promise<Made> => {
  const made = await sentClaim(t);
  await postedRemittance(t, [says(made, 5500, SHORT)]);
  return made;
};
const letters = async () => (await readList(t.context, 'contract-letters', { view: 'all' })).rows;

/** What a letter says, by another program. */
const wordsOf = async (letterId: number): Promise<string> =>
  execFileSync('pdftotext', ['-layout', '-', '-'], {
    input: (await contractLetterPaper(t.context, letterId)).bytes,
    encoding: 'utf8',
  });

test('short, over and right lines; what is refused, taken back, not answered or within the tolerance is none of it', async () => {
  const below = await short();
  const above = await sentClaim(t);
  await postedRemittance(t, [says(above, 7000, ['CO-45:45.00', 'PR-3:30.00'])]);
  const right = await sentClaim(t);
  await postedRemittance(t, [says(right, 6800)]);
  const sequestered = await sentClaim(t);
  // 2 % of 68.00 is taken off what is paid: allowed is what the contract says.
  await postedRemittance(t, [says(sequestered, 6664, [...CONTRACTED, 'CO-253:1.36'])]);
  const refused = await sentClaim(t);
  await postedRemittance(t, [says(refused, 0, ['CO-97:145.00'])]);
  const back = await sentClaim(t);
  const id = await postedRemittance(t, [says(back, 5500, SHORT)]);
  await reverseRemittance(t.context, { remittanceId: id, why: 'test' });
  const open = await sentClaim(t);
  expect(await found(below)).toMatchObject({
    expected: 9800,
    allowed: 8500,
    paid: 5500,
    pays: 6800,
    copay: 3000,
    closed: false,
    askedOn: null,
    steps: ['Charged 145.00', 'contract 98.00', 'copay 30.00', 'pays 68.00', 'paid 55.00'],
  });
  expect(await found(above, 'over')).toMatchObject({ allowed: 10_000, pays: 6800 });
  for (const none of [right, sequestered, refused, back, open, above])
    expect(await found(none)).toBeUndefined();
  for (const none of [right, sequestered, refused, back, open, below])
    expect(await found(none, 'over')).toBeUndefined();
  // The payer's tolerance, to the cent.
  const tolerate = (amount: number) =>
    t.db
      .updateTable('payer')
      .set({ short_tolerance: cents(amount) })
      .where('id', '=', below.claim.payer_id)
      .execute();
  await tolerate(1300);
  expect(await found(below)).toBeUndefined();
  const within = await short();
  expect(await followUp(within)).toBeUndefined();
  await tolerate(1299);
  expect(await found(below)).toBeDefined();
  await tolerate(0);
  expect((await check({ to: addDays(TODAY, -1) })).payers).toEqual([]);
  expect((await check({ payerId: 99_999_999 })).payers).toEqual([]);
  await expect(check({ from: '2026-12-31' })).rejects.toMatchObject({ field: 'from' });
});

test('lines that a payer put together are compared as a whole when they are posted, and are none of it', async () => {
  const made = await sentClaim(t, ['145.00', '145.00']);
  const whole = decided(made.claim.control_number, [
    {
      control: made.controls[0]!,
      code: '99215',
      charge: 14_500,
      paid: 10_500,
      reasons: ['CO-45:10.00', 'PR-3:30.00'],
    },
    { control: made.controls[1]!, charge: 14_500, paid: 0, reasons: ['CO-97:145.00'] },
  ]);
  whole.lines[0]!.billed = '99213';
  await postedRemittance(t, [whole]);
  // 135.00 for both, of twice 98.00: the follow-up says so.
  expect(await followUp(made)).toMatchObject({ amount: 6100 });
  expect(await found(made)).toBeUndefined();
  expect(await found(made, 'over')).toBeUndefined();
});

test('what a contract said last year is named, and the lines of it stand together', async () => {
  const { rows } = await t.pool.query<{ id: number; amount: number }>(
    `select f.fee_schedule_id as id, f.amount from fee f
     where f.code = '99213' and f.fee_schedule_id = (
       select n.fee_schedule_id from insurance_plan n join payer y on y.id = n.payer_id
       where y.name = 'Cedar Sound Health' and n.contracted limit 1
     )`,
  );
  const { id } = rows[0]!;
  // Until the end of last year it was 85.00.
  await sql`
    update fee set valid_from = date '2026-01-01' where fee_schedule_id = ${id} and code = '99213'`.execute(
    t.db,
  );
  await sql`
    insert into fee (fee_schedule_id, code, valid_from, amount) values (${id}, '99213', null, 8500)`.execute(
    t.db,
  );
  const made = await short();
  await short();
  const [payer] = (await check()).payers;
  const group = payer!.groups.find(({ lines }) =>
    lines.some(({ chargeId }) => chargeId === made.charges[0]),
  )!;
  expect(group.words).toBe('99213 paid at the fee that ended on 31 Dec 2025');
  expect(group.difference).toBe(1300 * group.lines.length);
  expect(group.lines.length).toBeGreaterThanOrEqual(2);
  await sql`delete from fee where fee_schedule_id = ${id} and code = '99213' and valid_from is null`.execute(
    t.db,
  );
  await sql`update fee set valid_from = null where fee_schedule_id = ${id} and code = '99213'`.execute(t.db);
});

test('a letter asks for it, its follow-ups rest; what comes back is credited to it, and taken back it is owed again', async () => {
  const [one, two] = [await short(), await short()];
  const letterId = await writeContractLetter(t.context, {
    payerId: one.claim.payer_id,
    lines: [lineOf(one), lineOf(two), lineOf(one)],
    key: key(),
  });
  expect((await found(one))!.askedOn).toBe(TODAY);
  expect((await followUp(one))!.due_date).toBe(addDays(TODAY, 30));
  const row = async () => (await letters()).find(({ id }) => id === letterId)!;
  expect(await row()).toMatchObject({ lines: 2, below: 2600, asked: 2600, recovered: 0, left: 2600 });
  const text = await wordsOf(letterId);
  expect(text).toContain('26.00');
  expect(text).toContain(one.claim.control_number);
  // The payer takes its word back and says it anew, as the contract has it.
  await postedRemittance(t, [says(one, -5500, ['CO-45:-60.00', 'PR-3:-30.00'], '22'), says(one, 6800)]);
  expect(await row()).toMatchObject({ recovered: 1300, left: 1300 });
  expect(await found(one)).toBeUndefined();
  // The letter says what it said.
  expect(await wordsOf(letterId)).toBe(text);
  // Of the other it pays the rest on top.
  const topped = await postedRemittance(t, [says(two, 1300, ['CO-45:132.00'])]);
  const held = await t.db
    .selectFrom('remittance_claim')
    .select('id')
    .where('remittance_id', '=', topped)
    .executeTakeFirstOrThrow();
  await decideHeld(t.context, { remittanceClaimId: held.id, as: 'additional', why: 'the rest' });
  expect(await row()).toMatchObject({ recovered: 2600, left: 0 });
  expect(await found(two)).toBeUndefined();
  await reverseRemittance(t.context, { remittanceId: topped, why: 'test' });
  expect(await row()).toMatchObject({ recovered: 1300, left: 1300 });
  expect(await found(two)).toBeDefined();
});

test('what came back is never more than was asked for, nor less than nothing', async () => {
  const [more, gone] = [await short(), await short()];
  const letterId = await writeContractLetter(t.context, {
    payerId: more.claim.payer_id,
    lines: [lineOf(more), lineOf(gone)],
    key: key(),
  });
  const taken = (made: Made) => says(made, -5500, ['CO-45:-60.00', 'PR-3:-30.00'], '22');
  // One is said anew with 98.00 and no copay, 43.00 more than it was; the other is taken back and not said anew.
  await postedRemittance(t, [taken(more), says(more, 9800, ['CO-45:47.00'])]);
  await postedRemittance(t, [taken(gone)]);
  expect((await letters()).find(({ id }) => id === letterId)).toMatchObject({
    asked: 2600,
    recovered: 1300,
    left: 1300,
  });
});

test('no letter asks for what is right, is another payer’s, or was allowed beyond; a letter and its lines stay', async () => {
  const made = await short();
  const right = await sentClaim(t);
  await postedRemittance(t, [says(right, 6800)]);
  const above = await sentClaim(t);
  await postedRemittance(t, [says(above, 7000, ['CO-45:45.00', 'PR-3:30.00'])]);
  const { id: other } = await t.db
    .selectFrom('payer')
    .select('id')
    .where('id', '<>', made.claim.payer_id)
    .executeTakeFirstOrThrow();
  const payerId = made.claim.payer_id;
  const write = (lines: ReturnType<typeof lineOf>[], of = payerId) =>
    writeContractLetter(t.context, { payerId: of, lines, key: key() });
  const before = (await letters()).length;
  await expect(write([lineOf(made), lineOf(right)])).rejects.toThrow(
    /1 line differs from the contract no more/,
  );
  await expect(write([lineOf(above)])).rejects.toThrow(/allowed more than the contract/);
  await expect(write([lineOf(made)], other)).rejects.toThrow(/went to another payer/);
  await expect(write([])).rejects.toMatchObject({ field: 'lines' });
  await expect(
    writeContractLetter(t.as('front-desk'), { payerId, lines: [lineOf(made)], key: key() }),
  ).rejects.toThrow(/may not/);
  expect((await letters()).length).toBe(before);
  // Twice under one key it is one letter.
  const once = key();
  const ids = await Promise.all(
    [1, 2].map(() => writeContractLetter(t.context, { payerId, lines: [lineOf(made)], key: once })),
  );
  expect(ids[0]).toBe(ids[1]);
  expect((await letters()).length).toBe(before + 1);
  await expect(sql`update contract_letter set user_name = 'x'`.execute(t.db)).rejects.toThrow(
    /never changed/,
  );
  await expect(sql`update contract_letter_line set paid = 0`.execute(t.db)).rejects.toThrow();
  await expect(sql`delete from contract_letter_line`.execute(t.db)).rejects.toThrow();
});

test('let be it is looked at no more and its follow-up ends; looked at again it is back', async () => {
  const made = await short();
  const lines = [lineOf(made)];
  await letContractLinesBe(t.context, { lines, why: 'a new schedule is on its way' });
  expect(await found(made)).toBeUndefined();
  expect(await found(made, 'let-be')).toMatchObject({ letBe: 'a new schedule is on its way' });
  expect(await followUp(made)).toMatchObject({ outcome: 'a new schedule is on its way' });
  await expect(letContractLinesBe(t.context, { lines, why: 'twice' })).rejects.toThrow(/already/);
  await expect(
    writeContractLetter(t.context, { payerId: made.claim.payer_id, lines, key: key() }),
  ).rejects.toThrow(/let be \(a new schedule is on its way\)/);
  expect(await lookAgainAtContractLines(t.context, { lines })).toBe(1);
  await expect(lookAgainAtContractLines(t.context, { lines })).rejects.toThrow(/None of these/);
  expect(await found(made)).toBeDefined();
  await letContractLinesBe(t.context, { lines, why: 'after all' });
  expect(await found(made, 'let-be')).toMatchObject({ letBe: 'after all' });
});

test('of an account that is closed to who asks its amounts alone are known, and no letter names it', async () => {
  const made = await short();
  const biller = { ...t.as('biller'), user: { ...t.as('biller').user, id: 'somebody-else' } };
  const letterId = await writeContractLetter(t.context, {
    payerId: made.claim.payer_id,
    lines: [lineOf(made)],
    key: key(),
  });
  await t.owner
    .insertInto('user')
    .values({ id: t.context.user.id, email: 'named@example.com', name: 'Named', role: 'manager' })
    .onConflict((at) => at.doNothing())
    .execute();
  await t.db
    .insertInto('household_open_to')
    .values({ household_id: made.householdId, user_id: t.context.user.id })
    .execute();
  const [line] = (await readContractCheck(biller, {})).payers
    .flatMap(({ groups }) => groups.flatMap(({ lines }) => lines))
    .filter(({ chargeId }) => chargeId === made.charges[0]);
  expect(line).toMatchObject({
    closed: true,
    patient: '',
    account: '',
    memberId: '',
    claim: '',
    householdId: 0,
    claimId: 0,
    expected: 9800,
  });
  await expect(
    writeContractLetter(biller, { payerId: made.claim.payer_id, lines: [lineOf(made)], key: key() }),
  ).rejects.toThrow(/closed to all but/);
  await expect(contractLetterPaper(biller, letterId)).rejects.toThrow(/closed to all but/);
  await t.db.deleteFrom('household_open_to').where('household_id', '=', made.householdId).execute();
});

test('the list and the export say what the screen says, the sums too', async () => {
  await short();
  const shown = (await check()).payers.flatMap(({ groups }) => groups.flatMap(({ lines }) => lines));
  const rows = await shortRows(t.context);
  expect(rows.length).toBe(shown.length);
  expect(rows.reduce((all, row) => all + Number(row['difference']), 0)).toBe(
    shown.reduce((all, { expected, allowed }) => all + expected - allowed, 0),
  );
  const { body } = await contractCheckFile(t.context, { format: 'csv' });
  let text = '';
  for await (const piece of body as AsyncIterable<Uint8Array | string>) text += piece.toString();
  expect(text.trim().split('\n').length).toBe(shown.length + 1);
  expect(text).toContain('Should pay');
});
