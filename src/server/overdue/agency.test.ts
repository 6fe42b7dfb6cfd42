/** Agencies: proposed, handed over, answered by file, recalled, returned; every cent of it in the books. */
import {
  existsSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { sql } from 'kysely';
import { type CalendarDate, addDays, calendarDate } from '../../core/calendar';
import { type Cents, basisPoints, cents, toDecimal } from '../../core/money';
import {
  type AgencyAnswer,
  type HandOver,
  readNotices,
  writeAgencyAnswers,
  writeAgencyStatement,
} from '../../core/overdue/agency';
import { agencyRound } from '../../standins/agency';
import { TODAY, type TestDatabase, testDatabase } from '../../testing/database';
import { decided, household, intake, overdueOf, placementOf, remitText, sentClaim } from '../../testing/desk';
import { type Context, NotAllowed, Refused } from '../access';
import { checkBooks } from '../books/check';
import { foldersOf } from '../folders';
import { exchangeRound } from '../exchange/round';
import { findList } from '../lists/read';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { postRemittance } from '../remittances/post';
import { prepareStatement } from '../statements/prepare';
import { liftStop, setStop } from '../accounts/stops';
import { logContact } from './contacts';
import { releasePlacement } from './hand-over';
import { askHardship } from './hardship';
import { givenUp, payAgencyFees, postAgencyPayment, recoverBadDebt, writeOffBadDebt } from './agency-money';
import { reverseAgencyPayment } from './reverse';
import { readAgencyStatements } from './agency-statement';
import { weighOverdue } from './list';
import { draftLetters } from './due-letters';
import { readAgencies, readPlacement } from './placement-page';
import { recallPlacement } from './placements';
import { approvePlacements, proposePlacements, withdrawPlacement } from './proposals';
import { undoWriteOff } from '../follow-ups/undo';
import { runs } from '../../testing/runs';

let t: TestDatabase;
let folder: string;
let serial = 0;
const key = (): string => `agency-${(serial += 1)}-test`;
const on = (day: CalendarDate): Context => ({ ...t.context, today: day });

beforeAll(async () => {
  t = await testDatabase();
  folder = process.env.WERGELD_EXCHANGE!;
  for (const name of ['gannet', 'shoreline', 'pelican']) await foldersOf(name);
});
const proven = async (): Promise<void> => {
  for (const { id, faults } of await checkBooks(t.db)) expect({ id, faults }).toEqual({ id, faults: [] });
};
afterAll(async () => {
  await proven();
  await t.close();
});

const placement = (id: number) =>
  t.db.selectFrom('placement').selectAll().where('id', '=', id).executeTakeFirstOrThrow();
const events = async (placementId: number, what: string): Promise<number> =>
  (
    await t.db
      .selectFrom('placement_event')
      .select('id')
      .where('placement_id', '=', placementId)
      .where('what', '=', what)
      .execute()
  ).length;
const balance = (householdId: number) =>
  t.db
    .selectFrom('household_balance')
    .select(['with_patient as patient', 'at_agency as agency', 'credit'])
    .where('household_id', '=', householdId)
    .executeTakeFirstOrThrow();
const account = async (code: string): Promise<number> =>
  (
    await t.db
      .selectFrom('posting')
      .select(sql<number>`coalesce(sum(amount), 0)`.as('sum'))
      .where('account', '=', code as 'cash/cash')
      .executeTakeFirstOrThrow()
  ).sum;
/** How much accounts move while something is done. */
async function moved(codes: readonly string[], run: () => Promise<unknown>): Promise<number[]> {
  const before = await Promise.all(codes.map(account));
  await run();
  const after = await Promise.all(codes.map(account));
  return after.map((sum, at) => sum - before[at]!);
}
const pay = (householdId: number, amount: string, agency?: string) =>
  takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount }], agency, key: key() });

/** Puts a file into the agency's inbox, as if it had lain there. @returns what came of its lines */
async function say(text: string, context: Context = t.context) {
  const path = join(folder, 'gannet/inbox', `${key()}.csv`);
  writeFileSync(path, text);
  const past = new Date(Date.now() - 60_000);
  utimesSync(path, past, past);
  const { read } = await exchangeRound(context);
  return read.flatMap(({ outcomes }) => outcomes.map(({ result, why }) => `${result}: ${why}`));
}
const answer = (
  number: string,
  result: AgencyAnswer['result'],
  more: Partial<AgencyAnswer> = {},
): AgencyAnswer => ({
  placement: number,
  result,
  date: TODAY,
  reference: '',
  gross: cents(0),
  fee: cents(0),
  net: cents(0),
  words: '',
  ...more,
});
const payment = (number: string, gross: number, reference = key()): AgencyAnswer => {
  const fee = cents(Math.round(gross / 4));
  return answer(number, 'payment', { reference, gross: cents(gross), fee, net: cents(gross - fee) });
};
const answers = (...some: AgencyAnswer[]) => writeAgencyAnswers(some, key());

describe('proposing and handing over', () => {
  test('moves what is past due to the agency; letters and statements stop; the hand-over is written once', async () => {
    const p = await placementOf(t, false);
    expect(await balance(p.householdId)).toMatchObject({ patient: 24_000, agency: 0 });
    const { batchId } = await draftLetters(t.context, { householdIds: [p.householdId], key: key() }).catch(
      () => ({ batchId: null }),
    );
    expect(batchId).toBeNull();
    await approvePlacements(t.context, { placementIds: [p.placementId] });
    expect(await balance(p.householdId)).toMatchObject({ patient: 0, agency: 24_000 });
    expect(await weighOverdue(t.context, [p.householdId])).toEqual([]);
    await expect(prepareStatement(t.context, { householdId: p.householdId, key: key() })).rejects.toThrow(
      /240\.00 is with an agency/,
    );
    await exchangeRound(t.context);
    const outbox = join(folder, 'gannet/outbox');
    const handed = JSON.parse(readFileSync(join(outbox, `placement-${p.number}.json`), 'utf8')) as HandOver;
    expect(handed).toMatchObject({
      format: 'wergeld-placement',
      placement: p.number,
      client: 'OSPREY',
      amount: 24_000,
    });
    expect(handed.charges).toMatchObject([{ number: String(p.chargeId), amount: 24_000 }]);
    const text = readFileSync(join(outbox, `placement-${p.number}.csv`), 'utf8');
    expect(text).toContain('240.00');
    // Nothing of anybody's health leaves with it.
    expect(text + JSON.stringify(handed)).not.toMatch(/99213|Office visit|I10/);
    rmSync(join(outbox, `placement-${p.number}.csv`));
    await exchangeRound(t.context);
    expect(existsSync(join(outbox, `placement-${p.number}.csv`))).toBe(false);
  });

  test('the schema of the hand-over holds for what is written', async () => {
    const schema = JSON.parse(readFileSync('docs/formats/placement.schema.json', 'utf8')) as {
      required: string[];
      properties: Record<string, { required?: string[]; properties?: object }>;
      additionalProperties: boolean;
    };
    const p = await placementOf(t);
    await exchangeRound(t.context);
    const handed = JSON.parse(
      readFileSync(join(folder, 'gannet/outbox', `placement-${p.number}.json`), 'utf8'),
    ) as Record<string, object>;
    expect(schema.additionalProperties).toBe(false);
    expect(Object.keys(handed).sort()).toEqual(Object.keys(schema.properties).sort());
    expect([...schema.required].sort()).toEqual(Object.keys(handed).sort());
    for (const part of ['practice', 'debtor'])
      expect(Object.keys(handed[part]!).sort()).toEqual(
        Object.keys(schema.properties[part]!.properties!).sort(),
      );
  });

  test('only a manager approves; twice, at once, withdrawn, paid meanwhile', async () => {
    const p = await placementOf(t, false);
    await expect(approvePlacements(t.as('collector'), { placementIds: [p.placementId] })).rejects.toThrow(
      NotAllowed,
    );
    const both = await Promise.allSettled([
      approvePlacements(t.context, { placementIds: [p.placementId] }),
      approvePlacements(t.context, { placementIds: [p.placementId] }),
    ]);
    expect(both.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    expect(await balance(p.householdId)).toMatchObject({ agency: 24_000 });
    const q = await placementOf(t, false);
    await withdrawPlacement(t.context, { placementId: q.placementId, why: 'she called' });
    await expect(approvePlacements(t.context, { placementIds: [q.placementId] })).rejects.toThrow(
      /withdrawn/,
    );
    await expect(withdrawPlacement(t.context, { placementId: p.placementId, why: 'x' })).rejects.toThrow(
      /only a proposal/,
    );
    const r = await placementOf(t, false);
    await pay(r.householdId, '240.00');
    await expect(approvePlacements(t.context, { placementIds: [r.placementId] })).rejects.toThrow(
      /nothing of it is past due/,
    );
    await expect(approvePlacements(t.context, { placementIds: [99_999_999] })).rejects.toThrow(
      /no such placement/,
    );
  });

  test('what is owed when it is approved is handed over, not what was proposed', async () => {
    const p = await placementOf(t, false);
    await pay(p.householdId, '40.00');
    expect(await readPlacement(t.context, p.placementId)).toMatchObject({ amount: 20_000 });
    // Somebody paid lately: it is said, and a person decides.
    await expect(approvePlacements(t.context, { placementIds: [p.placementId] })).rejects.toMatchObject({
      doubts: [expect.stringMatching(/paid on/)],
    });
    await approvePlacements(t.context, { placementIds: [p.placementId], sure: true });
    expect(await placement(p.placementId)).toMatchObject({ amount: 20_000, status: 'placed' });
    expect(await balance(p.householdId)).toMatchObject({ patient: 0, agency: 20_000 });
  });

  const written = (number: string): boolean =>
    existsSync(join(folder, 'gannet/outbox', `placement-${number}.csv`));
  const promise = (householdId: number, amount: string) =>
    logContact(t.context, {
      householdId,
      kind: 'visit',
      outcome: 'promise',
      amount,
      by: addDays(TODAY, 4),
      sure: true,
      key: key(),
    });

  test('proposed by hand beside a promise or a reduction that is asked for: said, and a person decides', async () => {
    const s = await overdueOf(t);
    const { connectionId } = await placementOf(t, false);
    const ask = { householdIds: [s.householdId], connectionId, why: 'x' };
    await promise(s.householdId, '30.00');
    await askHardship(t.context, {
      householdId: s.householdId,
      size: 1,
      income: '1.00',
      evidence: 'x',
      key: key(),
    });
    await expect(proposePlacements(t.context, ask)).rejects.toMatchObject({
      doubts: [
        expect.stringMatching(
          /^[A-Z0-9-]+: promised 30\.00 by 20 Mar 2026; a reduction for hardship was asked for on 16 Mar 2026$/,
        ),
      ],
    });
    expect(await proposePlacements(t.context, { ...ask, sure: true })).toEqual({ count: 1, left: [] });
  });

  test('a stop between approval and file: nothing leaves until it is lifted, whatever a person says', async () => {
    const p = await placementOf(t);
    const { id: reasonId } = await t.db
      .selectFrom('stop_reason')
      .select('id')
      .where('name', '=', 'bankrupt')
      .executeTakeFirstOrThrow();
    const stopId = await setStop(t.context, { householdId: p.householdId, reasonId });
    await exchangeRound(t.context);
    expect(written(p.number)).toBe(false);
    expect(await readPlacement(t.context, p.placementId)).toMatchObject({
      heldWhy: 'a stop keeps it from agencies: bankrupt',
      events: expect.arrayContaining([expect.objectContaining({ what: 'held back' })]) as object,
    });
    const { rows } = await findList(t.context, 'placements', { view: 'held', pageSize: 500 });
    expect(rows).toMatchObject([{ id: p.placementId, state: 'held back' }]);
    await expect(releasePlacement(t.context, { placementId: p.placementId, sure: true })).rejects.toThrow(
      /Lift the stop first, or recall/,
    );
    // Said once, however often the round comes by.
    await exchangeRound(t.context);
    expect(await events(p.placementId, 'held back')).toBe(1);
    await liftStop(t.context, { stopId, why: 'dismissed' });
    await exchangeRound(t.context);
    expect(written(p.number)).toBe(true);
    expect(await readPlacement(t.context, p.placementId)).toMatchObject({
      heldWhy: '',
      state: 'handed over',
    });
    await expect(releasePlacement(t.context, { placementId: p.placementId })).rejects.toThrow(
      /not held back/,
    );
  });

  test('a promise or a payment between approval and file: a person decides, once; recalled, no file leaves', async () => {
    const [p, q] = [await placementOf(t), await placementOf(t)];
    for (const { householdId } of [p, q]) await promise(householdId, '90.00');
    await pay(p.householdId, '40.00', '40.00');
    await exchangeRound(t.context);
    expect([written(p.number), written(q.number)]).toEqual([false, false]);
    expect(await readPlacement(t.context, p.placementId)).toMatchObject({
      heldWhy: 'promised 90.00 by 20 Mar 2026; 40.00 was paid to us since it was approved',
    });
    await expect(releasePlacement(t.as('collector'), { placementId: p.placementId })).rejects.toThrow(
      NotAllowed,
    );
    await releasePlacement(t.context, { placementId: p.placementId });
    await exchangeRound(t.context);
    expect(written(p.number)).toBe(true);
    expect(await recallPlacement(t.context, { placementId: q.placementId, why: 'promised' })).toBe(24_000);
    await expect(releasePlacement(t.context, { placementId: q.placementId })).rejects.toThrow(
      /not held back/,
    );
    await exchangeRound(t.context);
    expect(written(q.number)).toBe(false);
  });

  test('what was decided at the approval does not hold the file', async () => {
    const p = await placementOf(t, false);
    await promise(p.householdId, '30.00');
    await approvePlacements(t.context, { placementIds: [p.placementId], sure: true });
    await exchangeRound(t.context);
    expect(written(p.number)).toBe(true);
  });

  test('not what is proposed, with an agency, stopped, or not past due', async () => {
    const p = await placementOf(t, false);
    const propose = (householdId: number) =>
      proposePlacements(t.context, { householdIds: [householdId], connectionId: p.connectionId, why: 'x' });
    await expect(propose(p.householdId)).rejects.toThrow(/proposed already/);
    const stopped = await overdueOf(t);
    const { id: reasonId } = await t.db
      .selectFrom('stop_reason')
      .select('id')
      .where('name', '=', 'dispute')
      .executeTakeFirstOrThrow();
    await setStop(t.context, { householdId: stopped.householdId, reasonId });
    await expect(propose(stopped.householdId)).rejects.toThrow(/keeps it from agencies/);
    await expect(propose((await household(t, false)).householdId)).rejects.toThrow(/past due/);
    const shop = await t.db
      .selectFrom('connection')
      .select('id')
      .where('kind', '=', 'print-shop')
      .executeTakeFirstOrThrow();
    await expect(
      proposePlacements(t.context, { householdIds: [stopped.householdId], connectionId: shop.id, why: 'x' }),
    ).rejects.toThrow(/no such agency/);
  });

  test('recalled before it was written: no file ever leaves; after: the agency is told', async () => {
    const p = await placementOf(t);
    expect(await recallPlacement(t.context, { placementId: p.placementId, why: 'paid in cash' })).toBe(
      24_000,
    );
    await exchangeRound(t.context);
    expect(existsSync(join(folder, 'gannet/outbox', `placement-${p.number}.csv`))).toBe(false);
    expect(await balance(p.householdId)).toMatchObject({ patient: 24_000, agency: 0 });
    const q = await placementOf(t);
    await exchangeRound(t.context);
    await recallPlacement(t.context, { placementId: q.placementId, why: 'hardship' });
    const { written } = await exchangeRound(t.context);
    const [name] = written.filter((one) => one.startsWith('notices'));
    const notices = readNotices(readFileSync(join(folder, 'gannet/outbox', name!), 'utf8'));
    expect(notices).toMatchObject([{ placement: q.number, kind: 'recall', amount: 24_000 }]);
    await expect(recallPlacement(t.context, { placementId: q.placementId, why: 'again' })).rejects.toThrow(
      /recalled/,
    );
    // Its debt is what it was, with its age.
    const [row] = await weighOverdue(t.context, [q.householdId]);
    expect(row?.outlook).toMatchObject({ pastDue: 24_000, daysPastDue: 36 });
  });

  test('killed after its file was written and before that was kept: the agency reads each notice once', async () => {
    const outbox = join(folder, 'gannet/outbox');
    const [p, q] = [await placementOf(t), await placementOf(t)];
    await exchangeRound(t.context);
    for (const name of readdirSync(outbox)) rmSync(join(outbox, name));
    await recallPlacement(t.context, { placementId: p.placementId, why: 'hardship' });
    await exchangeRound(t.context);
    await t.db
      .updateTable('agency_notice')
      .set({ written_at: null })
      .where('placement_id', '=', p.placementId)
      .execute();
    await recallPlacement(t.context, { placementId: q.placementId, why: 'hardship' });
    await exchangeRound(t.context);
    const read = readdirSync(outbox)
      .filter((name) => name.startsWith('notices'))
      .flatMap((name) => readNotices(readFileSync(join(outbox, name), 'utf8')));
    expect(read.map(({ placement: number }) => number)).toEqual([p.number, q.number]);
  });
});

describe('what the agency says', () => {
  test('accepted, a part net of its fee, then the rest: paid', async () => {
    const p = await placementOf(t);
    expect(await say(answers(answer(p.number, 'accepted')))).toEqual(['posted: accepted']);
    const codes = [
      'cash/transfer',
      'expense/agency-fee',
      'receivable/agency',
      'payable/agency-fee',
      'credit/agency',
    ];
    const part = payment(p.number, 10_000);
    expect(await moved(codes, () => say(answers(part)))).toEqual([7500, 2500, -10_000, 0, 0]);
    expect(await placement(p.placementId)).toMatchObject({ status: 'accepted' });
    // The same payment in another file is booked before.
    expect(
      await moved(codes, async () => expect(await say(answers(part))).toEqual(['posted: booked before'])),
    ).toEqual([0, 0, 0, 0, 0]);
    await say(answers(payment(p.number, 14_000)));
    expect(await placement(p.placementId)).toMatchObject({ status: 'paid', ended_why: 'paid in full' });
    expect(await balance(p.householdId)).toEqual({ patient: 0, agency: 0, credit: 0 });
  });

  test('an agency that hands over all of it is owed its fee, which is paid', async () => {
    const agency = await t.db
      .selectFrom('connection')
      .select(['id', 'settings'])
      .where('kind', '=', 'agency')
      .executeTakeFirstOrThrow();
    await t.owner
      .updateTable('connection')
      .set({
        settings: JSON.stringify({
          version: 1,
          value: { clientId: 'OSPREY', contingency: '25', pays: 'gross' },
        }),
      })
      .where('id', '=', agency.id)
      .execute();
    const p = await placementOf(t);
    await t.owner
      .updateTable('connection')
      .set({ settings: JSON.stringify(agency.settings) })
      .where('id', '=', agency.id)
      .execute();
    const codes = ['cash/transfer', 'expense/agency-fee', 'payable/agency-fee'];
    expect(await moved(codes, () => say(answers(payment(p.number, 10_000))))).toEqual([10_000, 2500, -2500]);
    const owed = (await readAgencies(t.context)).find(({ id }) => id === agency.id)!.feeOwed;
    await expect(
      payAgencyFees(t.context, {
        connectionId: agency.id,
        amount: toDecimal(cents(owed + 1)),
        reference: 'T1',
        key: key(),
      }),
    ).rejects.toThrow(/is owed to it/);
    expect(
      await moved(codes, () =>
        payAgencyFees(t.context, {
          connectionId: agency.id,
          amount: toDecimal(owed),
          reference: 'T1',
          key: key(),
        }),
      ),
    ).toEqual([-owed, 0, owed]);
  });

  test('refused, returned and bankrupt come back to the patient and are followed up; bankrupt stops everything', async () => {
    for (const [result, status] of [
      ['refused', 'refused'],
      ['returned', 'returned'],
      ['bankrupt', 'returned'],
    ] as const) {
      const p = await placementOf(t);
      const text = answer(p.number, result, { words: 'gone' });
      expect((await say(answers(text)))[0]).toMatch(/^posted: .*240.00 came back/);
      expect(await say(answers(text))).toEqual(['posted: said before']);
      expect(await placement(p.placementId)).toMatchObject({ status });
      expect(await balance(p.householdId)).toMatchObject({ patient: 24_000, agency: 0 });
      const follow = await t.db
        .selectFrom('follow_up')
        .select('words')
        .where('household_id', '=', p.householdId)
        .where('kind', '=', 'agency')
        .execute();
      expect(follow).toHaveLength(1);
      const stops = await t.db
        .selectFrom('account_stop')
        .select('id')
        .where('household_id', '=', p.householdId)
        .execute();
      expect(stops).toHaveLength(result === 'bankrupt' ? 1 : 0);
    }
  });

  test('a dispute is noted and followed up, the money stays', async () => {
    const p = await placementOf(t);
    await say(answers(answer(p.number, 'disputed', { words: 'was paid' })));
    expect(await placement(p.placementId)).toMatchObject({ disputed: true, status: 'placed' });
    expect(await balance(p.householdId)).toMatchObject({ agency: 24_000 });
  });

  test('doubt moves nothing: too much, another fee, a stranger’s, after the end, the wrong order', async () => {
    const p = await placementOf(t);
    const codes = ['cash/transfer', 'receivable/agency'];
    const tries: [AgencyAnswer, RegExp][] = [
      [payment(p.number, 24_001), /240.01 is more than 240.00/],
      [
        { ...payment(p.number, 10_000), fee: cents(3000), net: cents(7000) },
        /the fee of payment .* is 30.00, by the contract 25.00/,
      ],
      [payment('G-999999', 100), /no placement of this number/],
    ];
    for (const [text, why] of tries)
      expect(await moved(codes, async () => expect((await say(answers(text)))[0]).toMatch(why))).toEqual([
        0, 0,
      ]);
    await recallPlacement(t.context, { placementId: p.placementId, why: 'x' });
    for (const result of ['accepted', 'returned', 'disputed'] as const)
      expect((await say(answers(answer(p.number, result))))[0]).toMatch(/refused: it is recalled/);
    expect((await say(answers(payment(p.number, 100))))[0]).toMatch(
      /is recalled: nothing is with the agency/,
    );
    const q = await placementOf(t);
    await say(answers(answer(q.number, 'accepted')));
    expect((await say(answers(answer(q.number, 'refused'))))[0]).toMatch(/accepted before/);
  });

  test('another agency says nothing of it', async () => {
    const p = await placementOf(t);
    await t.db
      .insertInto('connection')
      .values({
        name: 'Another agency',
        folder: 'another',
        kind: 'agency',
        settings: JSON.stringify({ version: 1, value: { clientId: 'X', contingency: '10', pays: 'net' } }),
      })
      .execute();
    await foldersOf('another');
    const path = join(folder, 'another/inbox', 'answers.csv');
    writeFileSync(path, answers(payment(p.number, 10_000)));
    utimesSync(path, new Date(0), new Date(0));
    const { read } = await exchangeRound(t.context);
    expect(read.flatMap(({ outcomes }) => outcomes.map(({ why }) => why))).toEqual([
      'no placement of this number is with them',
    ]);
    expect(await balance(p.householdId)).toMatchObject({ agency: 24_000 });
  });

  test('the same reference with another amount is refused; the fee that was refused is booked by hand', async () => {
    const p = await placementOf(t);
    await say(answers(payment(p.number, 10_000, 'SAME')));
    expect((await say(answers(payment(p.number, 9000, 'SAME'))))[0]).toMatch(/booked before, with 100.00/);
    const by = {
      placementId: p.placementId,
      reference: 'HAND',
      paidOn: TODAY,
      gross: '40.00',
      fee: '12.00',
      key: key(),
    };
    await postAgencyPayment(t.context, by);
    await postAgencyPayment(t.context, by);
    expect(await readPlacement(t.context, p.placementId)).toMatchObject({
      collected: 14_000,
      fee: 3700,
      open: 10_000,
    });
    await expect(
      postAgencyPayment(t.context, { ...by, key: key(), reference: 'X', paidOn: addDays(TODAY, 1) }),
    ).rejects.toMatchObject({ field: 'paidOn' });
    await expect(
      postAgencyPayment(t.context, { ...by, key: key(), reference: 'X', fee: '41.00' }),
    ).rejects.toMatchObject({ field: 'fee' });
    await expect(postAgencyPayment(t.as('collector'), { ...by, key: key() })).rejects.toThrow(NotAllowed);
  });

  test('a file that is broken, or did not come through their inbox, changes nothing', async () => {
    const p = await placementOf(t);
    const text = answers(answer(p.number, 'accepted'));
    const dir = mkdtempSync(join(tmpdir(), 'wergeld-agency-'));
    const { status, outcomes } = await intake(t.context, text, 'a.csv');
    expect({ status, why: outcomes[0]!.why }).toMatchObject({
      status: 'set aside',
      why: /inbox of the agency/ as never,
    });
    rmSync(dir, { recursive: true });
    expect((await say(text.slice(0, -30)))[0]).toMatch(/refused: /);
    expect(await placement(p.placementId)).toMatchObject({ status: 'placed' });
  });
});

describe('paid to us while the agency has it', () => {
  test('pays what is there, the agency is told, its fee is owed; reversed, it is all as before', async () => {
    const p = await placementOf(t);
    await exchangeRound(t.context);
    const codes = ['receivable/agency', 'expense/agency-fee', 'payable/agency-fee', 'credit/patient'];
    let receiptId = 0;
    expect(
      await moved(codes, async () => ({ receiptId } = await pay(p.householdId, '100.00', '100.00'))),
    ).toEqual([-10_000, 2500, -2500, 0]);
    const { written } = await exchangeRound(t.context);
    const name = written.find((one) => one.startsWith('notices'))!;
    expect(readNotices(readFileSync(join(folder, 'gannet/outbox', name), 'utf8'))).toMatchObject([
      { placement: p.number, kind: 'payment', amount: 10_000 },
    ]);
    await pay(p.householdId, '140.00', '140.00');
    expect(await placement(p.placementId)).toMatchObject({ status: 'paid' });
    await reverseReceipt(t.context, { receiptId, why: 'returned check' });
    expect(await placement(p.placementId)).toMatchObject({ status: 'accepted', ended_on: null });
    expect(await balance(p.householdId)).toEqual({ patient: 0, agency: 10_000, credit: 0 });
    await proven();
  });

  test('more than is there, or where nothing is, is refused', async () => {
    const p = await placementOf(t);
    await expect(pay(p.householdId, '300.00', '250.00')).rejects.toMatchObject({ field: 'agency' });
    await expect(pay(p.householdId, '100.00', '101.00')).rejects.toMatchObject({ field: 'agency' });
    const other = await overdueOf(t);
    await expect(pay(other.householdId, '10.00', '10.00')).rejects.toThrow(/Nothing of this account/);
    expect(await balance(p.householdId)).toEqual({ patient: 0, agency: 24_000, credit: 0 });
  });

  test('a payment of the agency that is reversed opens it again, or is the patient’s where it ended', async () => {
    const p = await placementOf(t);
    await say(answers(payment(p.number, 24_000)));
    const { payments } = await readPlacement(t.context, p.placementId);
    await reverseAgencyPayment(t.context, { paymentId: payments[0]!.id, why: 'their mistake' });
    expect(await placement(p.placementId)).toMatchObject({ status: 'accepted' });
    await expect(reverseAgencyPayment(t.context, { paymentId: payments[0]!.id, why: 'x' })).rejects.toThrow(
      /before/,
    );
    await say(answers(payment(p.number, 10_000)));
    await recallPlacement(t.context, { placementId: p.placementId, why: 'x' });
    const [, second] = (await readPlacement(t.context, p.placementId)).payments;
    await reverseAgencyPayment(t.context, { paymentId: second!.id, why: 'their mistake' });
    expect(await balance(p.householdId)).toEqual({ patient: 24_000, agency: 0, credit: 0 });
  });
});

test('an insurer that corrects itself behind a placement: the agency has so much less and is told', async () => {
  const long = on(addDays(TODAY, -60));
  const s = await sentClaim(t);
  const first = decided(s.claim.control_number, [
    { control: s.controls[0]!, charge: 14_500, paid: 0, reasons: ['PR-1:145.00'] },
  ]);
  const { outcomes } = await intake(long, remitText([first]));
  await postRemittance(long, outcomes[0]!.remittanceId!);
  await prepareStatement(long, { householdId: s.householdId, key: key() });
  const agency = await t.db
    .selectFrom('connection')
    .select('id')
    .where('kind', '=', 'agency')
    .executeTakeFirstOrThrow();
  await proposePlacements(t.context, { householdIds: [s.householdId], connectionId: agency.id, why: 'x' });
  const { id: placementId } = await t.db
    .selectFrom('placement')
    .select('id')
    .where('household_id', '=', s.householdId)
    .executeTakeFirstOrThrow();
  await approvePlacements(t.context, { placementIds: [placementId] });
  expect(await balance(s.householdId)).toMatchObject({ agency: 14_500 });
  const back = decided(
    s.claim.control_number,
    [{ control: s.controls[0]!, charge: -14_500, paid: 0, reasons: ['PR-1:-145.00'] }],
    '22',
  );
  const again = decided(s.claim.control_number, [
    { control: s.controls[0]!, charge: 14_500, paid: 10_000, reasons: ['PR-1:45.00'] },
  ]);
  const correction = await intake(t.context, remitText([back, again]));
  await postRemittance(t.context, correction.outcomes[0]!.remittanceId!);
  const { patient, agency: there } = await balance(s.householdId);
  expect(patient + there).toBe(4500);
  expect(patient).toBeGreaterThanOrEqual(0);
  await proven();
});

describe('bad debt', () => {
  test('by decision, all or a part; what comes after is a recovery and no income again', async () => {
    const p = await placementOf(t);
    await say(answers(answer(p.number, 'returned')));
    await expect(
      writeOffBadDebt(t.as('biller'), { householdId: p.householdId, why: 'x', key: key() }),
    ).rejects.toThrow(NotAllowed);
    await expect(
      writeOffBadDebt(t.context, { householdId: p.householdId, amount: '240.01', why: 'x', key: key() }),
    ).rejects.toMatchObject({ field: 'amount' });
    expect(
      await writeOffBadDebt(t.context, {
        householdId: p.householdId,
        amount: '100.00',
        why: 'cannot be found',
        key: key(),
      }),
    ).toBe(10_000);
    expect(
      await writeOffBadDebt(t.context, { householdId: p.householdId, why: 'cannot be found', key: key() }),
    ).toBe(14_000);
    expect(await balance(p.householdId)).toMatchObject({ patient: 0 });
    await expect(
      writeOffBadDebt(t.context, { householdId: p.householdId, why: 'x', key: key() }),
    ).rejects.toThrow(/owes nothing/);
    const { receiptId } = await pay(p.householdId, '60.00');
    const codes = ['income/fees', 'reduction/bad-debt', 'reduction/bad-debt-recovered', 'credit/patient'];
    expect(
      await moved(codes, () => recoverBadDebt(t.context, { householdId: p.householdId, key: key() })),
    ).toEqual([0, 0, -6000, 6000]);
    await expect(recoverBadDebt(t.context, { householdId: p.householdId, key: key() })).rejects.toThrow(
      /no credit/,
    );
    const { id: entryId } = await t.db
      .selectFrom('entry as e')
      .innerJoin('posting as q', 'q.entry_id', 'e.id')
      .select('e.id')
      .where('q.household_id', '=', p.householdId)
      .where('e.kind', '=', 'bad-debt')
      .orderBy('e.id')
      .executeTakeFirstOrThrow();
    await expect(undoWriteOff(t.context, { entryId, why: 'x' })).rejects.toThrow(/was recovered/);
    await reverseReceipt(t.context, { receiptId, why: 'returned' });
    await undoWriteOff(t.context, { entryId, why: 'found her' });
    expect(await balance(p.householdId)).toMatchObject({ patient: 10_000, credit: 0 });
    expect(
      (await t.db.transaction().execute((tx) => givenUp(tx, p.householdId))).reduce(
        (all, { amount }) => all + amount,
        0,
      ),
    ).toBe(14_000);
  });
});

describe('the monthly statement', () => {
  test('agrees, or says what differs by line', async () => {
    const p = await placementOf(t);
    await say(answers(payment(p.number, 10_000)));
    const all = await t.db.transaction().execute(async (tx) => {
      const { placementsOfAgency } = await import('./agency-statement');
      return placementsOfAgency(tx, p.connectionId, TODAY);
    });
    expect(await say(writeAgencyStatement(all, key()))).toEqual(['posted: agrees with our books']);
    const wrong = all.map((line) => (line.placement === p.number ? { ...line, fee: cents(2600) } : line));
    expect((await say(writeAgencyStatement(wrong, key())))[0]).toBe(`held: 1 difference, ${p.number} (fee)`);
    const [newest, before] = await readAgencyStatements(t.context);
    expect(newest!.differences).toEqual([{ placement: p.number, column: 'fee', theirs: 2600, ours: 2500 }]);
    expect(before!.differences).toEqual([]);
    // What happens afterwards is not on it.
    await recallPlacement(on(addDays(TODAY, 1)), { placementId: p.placementId, why: 'moved away' });
    const [, still] = await readAgencyStatements(t.context);
    expect(still!.differences).toEqual([]);
  });
});

test('the simulated agency: handed over, answered, paid, its statement agrees with the books to the cent', async () => {
  // What other tests have handed over is not its own.
  await exchangeRound(t.context);
  for (const name of readdirSync(join(folder, 'gannet/outbox'))) rmSync(join(folder, 'gannet/outbox', name));
  const made = [];
  for (let n = 0; n < 10; n += 1) made.push(await placementOf(t, true, `${120 + n}.3${n}`));
  await exchangeRound(t.context);
  const root = join(folder, 'gannet');
  const contract = { contingency: basisPoints(2500), pays: 'net' as const };
  const turn = async (day: CalendarDate): Promise<string[]> => {
    const names = await agencyRound(root, day, contract);
    for (const name of names) utimesSync(join(root, 'inbox', name), new Date(0), new Date(0));
    const { read } = await exchangeRound(on(day));
    return read.flatMap(({ outcomes }) =>
      outcomes.filter(({ result }) => result !== 'posted').map(({ why }) => why),
    );
  };
  expect(await turn(TODAY)).toEqual([]);
  // One is recalled, one pays a part to us, before anything else comes of them.
  const accepted = await findList(t.context, 'placements', { view: 'open', pageSize: 500 });
  const mine = made.filter(({ placementId }) =>
    accepted.rows.some(({ id, state }) => id === placementId && state === 'accepted'),
  );
  await recallPlacement(t.context, { placementId: mine[0]!.placementId, why: 'found her' });
  await pay(mine[1]!.householdId, '20.00', '20.00');
  await exchangeRound(t.context);
  expect(await turn(addDays(TODAY, 1))).toEqual([]);
  expect(await turn(addDays(TODAY, 2))).toEqual([]);
  await turn(calendarDate('2026-04-01'));
  const [statement] = await readAgencyStatements(t.context);
  const known = new Set(made.map(({ number }) => number));
  expect(statement!.differences.filter(({ placement: number }) => known.has(number))).toEqual([]);
  expect(readdirSync(join(root, 'outbox'))).toEqual([]);
  await proven();
});

test('any history of a placement keeps the books and ends as its record says', async () => {
  const step = fc.oneof(
    fc.record({ do: fc.constant('agency' as const), amount: fc.integer({ min: 1, max: 15_000 }) }),
    fc.record({ do: fc.constant('direct' as const), amount: fc.integer({ min: 1, max: 15_000 }) }),
    fc.record({ do: fc.constant('reverse-agency' as const), amount: fc.nat({ max: 5 }) }),
    fc.record({ do: fc.constant('reverse-receipt' as const), amount: fc.nat({ max: 5 }) }),
    fc.record({
      do: fc.constantFrom('recall' as const, 'returned' as const, 'bad-debt' as const, 'recover' as const),
      amount: fc.constant(0),
    }),
  );
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 9 }), async (steps) => {
      const p = await placementOf(t);
      const receipts: number[] = [];
      const total = 24_000;
      for (const { do: what, amount } of steps) {
        const done = async (): Promise<unknown> => {
          switch (what) {
            case 'agency':
              return postAgencyPayment(t.context, {
                placementId: p.placementId,
                reference: key(),
                paidOn: TODAY,
                gross: toDecimal(cents(amount)),
                key: key(),
              });
            case 'direct':
              return pay(p.householdId, toDecimal(cents(amount)), toDecimal(cents(amount))).then(
                ({ receiptId }) => receipts.push(receiptId),
              );
            case 'reverse-agency': {
              const { payments } = await readPlacement(t.context, p.placementId);
              const one = payments[amount % Math.max(1, payments.length)];
              return one && reverseAgencyPayment(t.context, { paymentId: one.id, why: 'test' });
            }
            case 'reverse-receipt': {
              const one = receipts[amount % Math.max(1, receipts.length)];
              return one && reverseReceipt(t.context, { receiptId: one, why: 'test' });
            }
            case 'recall':
              return recallPlacement(t.context, { placementId: p.placementId, why: 'test' });
            case 'returned':
              return say(answers(answer(p.number, 'returned')));
            case 'bad-debt':
              return writeOffBadDebt(t.context, { householdId: p.householdId, why: 'test', key: key() });
            case 'recover':
              return recoverBadDebt(t.context, { householdId: p.householdId, key: key() });
          }
        };
        await done().catch((error: unknown) => {
          if (!(error instanceof Refused)) throw error;
        });
      }
      const page = await readPlacement(t.context, p.placementId);
      const stands = page.payments.filter(({ reversed }) => reversed === '');
      const paid = stands.reduce((all, { gross }) => all + gross, 0);
      const { patient, agency } = await balance(p.householdId);
      expect(patient + agency + paid + page.givenUp).toBe(total);
      expect(agency).toBe(page.open);
      expect(page.open > 0).toBe(page.status === 'placed' || page.status === 'accepted');
      if (page.status === 'paid') expect(paid).toBe(total);
      expect(page.fee).toBe(stands.reduce((all, { fee }) => (all + fee) as Cents, 0));
      for (const { id, faults } of await checkBooks(t.db)) expect({ id, faults }).toEqual({ id, faults: [] });
    }),
    { numRuns: runs(25) },
  );
});
