/** Who is proposed for an agency by the policy: exactly those for whom it is due, each once, and not again for the same debt. */
import { spawn } from 'node:child_process';
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { charge, household, overdueOf, placementOf } from '../../testing/desk';
import { checkBooks } from '../books/check';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { readSetup } from '../setup/read';
import { saveSetup } from '../setup/save';
import { setStop } from '../accounts/stops';
import { prepareStatement } from '../statements/prepare';
import { logContact } from './contacts';
import { weighOverdue } from './list';
import { readPlacement } from './placement-page';
import { recallPlacement } from './placements';
import { approvePlacements, proposeByRule, proposePlacements, withdrawPlacement } from './proposals';
import { readOverduePolicy } from './policy';

const t = fileDatabase();
beforeAll(async () => {
  // Without stages the agency comes next at once; what letters do to it is a matter of the core.
  await t.owner.deleteFrom('overdue_stage').execute();
  await t.owner.updateTable('overdue_policy').set({ agency_days: 0, recent_days: 0 }).execute();
});

const name = async (agencyId: number | null): Promise<void> =>
  void (await t.owner.updateTable('overdue_policy').set({ agency_id: agencyId }).execute());
const agency = async (): Promise<number> =>
  (await t.db.selectFrom('connection').select('id').where('kind', '=', 'agency').executeTakeFirstOrThrow())
    .id;
const proposalsOf = (householdId: number) =>
  t.db
    .selectFrom('placement')
    .select(['id', 'status', 'why', 'proposed_by', 'amount'])
    .where('household_id', '=', householdId)
    .orderBy('id')
    .execute();

test('nobody where the policy names no agency', async () => {
  const { householdId } = await overdueOf(t);
  await name(null);
  expect(await proposeByRule(t.context)).toBe(0);
  expect(await proposalsOf(householdId)).toEqual([]);
  await name(await agency());
  expect(await proposeByRule(t.context)).toBe(1);
  expect(await proposalsOf(householdId)).toMatchObject([
    { status: 'proposed', amount: 24_000, why: 'by the policy: past due for 36 days' },
  ]);
});

test('those for whom it is due, and nobody else; done again, nobody twice', async () => {
  await name(await agency());
  const due = await overdueOf(t);
  const small = await overdueOf(t, { fee: '49.99' });
  const enough = await overdueOf(t, { fee: '50.00' });
  const stopped = await overdueOf(t);
  const { id: reasonId } = await t.db
    .selectFrom('stop_reason')
    .select('id')
    .where('name', '=', 'dispute')
    .executeTakeFirstOrThrow();
  await setStop(t.context, { householdId: stopped.householdId, reasonId });
  const promised = await overdueOf(t);
  await logContact(t.context, {
    householdId: promised.householdId,
    kind: 'visit',
    outcome: 'promise',
    amount: '10.00',
    by: addDays(TODAY, 5),
    key: 'proposals promise',
  });
  const paid = await overdueOf(t);
  await takeReceipt(t.context, {
    householdId: paid.householdId,
    tenders: [{ tender: 'cash', amount: '240.00' }],

    key: 'proposals payment',
  });
  const [byHand, withdrawn] = [await placementOf(t, false), await placementOf(t, false)];
  await withdrawPlacement(t.context, { placementId: withdrawn.placementId, why: 'she is ill' });
  const [there, back] = [await placementOf(t), await placementOf(t)];
  await recallPlacement(t.context, { placementId: back.placementId, why: 'a mistake' });

  expect(await proposeByRule(t.context)).toBe(2);
  for (const { householdId } of [due, enough])
    expect(await proposalsOf(householdId)).toMatchObject([{ status: 'proposed' }]);
  for (const { householdId } of [small, stopped, promised, paid])
    expect(await proposalsOf(householdId)).toEqual([]);
  for (const { householdId } of [byHand, withdrawn, there, back])
    expect(await proposalsOf(householdId)).toHaveLength(1);
  expect(await proposeByRule(t.context)).toBe(0);
  const [row] = await weighOverdue(t.context, [withdrawn.householdId]);
  expect(row?.outlook).toMatchObject({
    action: 'call',
    why: 'every letter was sent, its placement was withdrawn on 16 Mar 2026',
  });
  // A person may still propose it, whatever the policy says.
  await proposePlacements(t.context, {
    householdIds: [withdrawn.householdId],
    connectionId: withdrawn.connectionId,
    why: 'she is well again',
  });
  expect(await proposalsOf(withdrawn.householdId)).toMatchObject([
    { status: 'withdrawn' },
    { status: 'proposed', proposed_by: 'manager' },
  ]);
});

test('at the same moment: each once', async () => {
  await name(await agency());
  const made = [await overdueOf(t), await overdueOf(t), await overdueOf(t)];
  const waiting = await t.db.selectFrom('placement').select('id').where('status', '=', 'proposed').execute();
  const counts = await Promise.all([1, 2, 3].map(() => proposeByRule(t.context)));
  expect(counts.reduce((a, b) => a + b)).toBe(made.length);
  for (const { householdId } of made) expect(await proposalsOf(householdId)).toHaveLength(1);
  const after = await t.db.selectFrom('placement').select('id').where('status', '=', 'proposed').execute();
  expect(after.length - waiting.length).toBe(made.length);
  // The audit trail names each of them.
  const noted = await t.db
    .selectFrom('audit')
    .select('subject_id')
    .where('subject_kind', '=', 'placement')
    .where('action', '=', 'proposed')
    .execute();
  const ids = noted.map(({ subject_id }) => subject_id);
  expect(new Set(ids).size).toBe(ids.length);
  for (const { id } of after) expect(ids).toContain(String(id));
});

test('killed between two transactions and done again: what is proposed stays, the rest is proposed, nobody twice', async () => {
  await name(await agency());
  await proposeByRule(t.context);
  for (let index = 0; index < 13; index += 1) await overdueOf(t);
  const due = (await weighOverdue(t.context)).filter(
    ({ outlook, facts }) => outlook.action === 'agency' && facts.placement === 'none',
  );
  expect(due).toHaveLength(13);
  const waiting = async () =>
    (await t.db.selectFrom('placement').select('household_id').where('status', '=', 'proposed').execute())
      .map(({ household_id }) => household_id)
      .filter((id) => due.some(({ householdId }) => householdId === id));
  // Somebody works on the last account, so that the second transaction waits until it is killed.
  const somebody = await t.pool.connect();
  try {
    await somebody.query('begin');
    await somebody.query(`select 1 from household where id = ${due.at(-1)!.householdId} for update`);
    const script = `import { db } from './src/db/connect'; import { systemContext } from './src/server/access'; import { proposeByRule } from './src/server/overdue/proposals'; systemContext(db()).then((context) => proposeByRule(context, 10)).then(() => process.exit(0));`;
    const child = spawn(process.execPath, ['src/testing/script.mjs', script], {
      env: { ...process.env, DATABASE_URL: t.url },
      stdio: 'ignore',
    });
    const ended = new Promise((resolve) => child.on('exit', (_code, signal) => resolve(signal)));
    while (child.exitCode === null && (await waiting()).length < 10)
      await new Promise((resolve) => setTimeout(resolve, 50));
    child.kill('SIGKILL');
    expect(await ended).toBe('SIGKILL');
    expect(await waiting()).toHaveLength(10);
  } finally {
    await somebody.query('rollback');
    somebody.release();
  }
  expect(await proposeByRule(t.context)).toBe(3);
  const all = await waiting();
  expect(all).toHaveLength(13);
  expect(new Set(all).size).toBe(13);
});

test('the policy names an agency, and no other connection', async () => {
  const save = (agencyId: number | string) =>
    saveSetup(t.context, { table: 'overdue-policy', row: '1', values: { agency_id: String(agencyId) } });
  const shop = await t.db
    .selectFrom('connection')
    .select('id')
    .where('kind', '=', 'print-shop')
    .executeTakeFirstOrThrow();
  await expect(save(shop.id)).rejects.toThrow('Agency proposed each morning is not one of the choices');
  await save('');
  expect((await readOverduePolicy(t.db)).policy.agencyId).toBeNull();
  await save(await agency());
  expect((await readOverduePolicy(t.db)).policy.agencyId).toBe(await agency());
  const { list } = await readSetup(t.context, 'overdue-policy');
  expect(list.rows[0]).toMatchObject({ agency_id: 'Gannet Recovery (stand-in)', dispute_reason: 'dispute' });
});

test('another amount than was on the button is asked about; nothing is handed over meanwhile', async () => {
  const p = await placementOf(t, false);
  await takeReceipt(t.context, {
    householdId: p.householdId,
    tenders: [{ tender: 'cash', amount: '40.00' }],

    key: 'proposals seen',
  });
  const approve = { placementIds: [p.placementId], seen: 24_000 };
  await expect(approvePlacements(t.context, approve)).rejects.toThrow('It is 200.00 now, not 240.00');
  expect(await proposalsOf(p.householdId)).toMatchObject([{ status: 'proposed' }]);
  expect(await approvePlacements(t.context, { ...approve, sure: true })).toEqual({ count: 1, left: [] });
  expect(await proposalsOf(p.householdId)).toMatchObject([{ status: 'placed', amount: 20_000 }]);
});

test('what is past due is handed over, to the cent that the page said; what no statement has shown stays', async () => {
  const long = { ...t.context, today: addDays(TODAY, -60) };
  const { householdId, patientId } = await household(t, false);
  const chargeId = await charge(t, long, patientId, '240.00', '99213', addDays(TODAY, -70));
  const { receiptId } = await takeReceipt(long, {
    householdId,
    tenders: [{ tender: 'check', amount: '100.00', reference: '12' }],

    key: 'proposals part',
  });
  await prepareStatement(long, { householdId, key: 'proposals part' });
  await reverseReceipt(t.context, { receiptId, why: 'bounced' });
  await proposePlacements(t.context, { householdIds: [householdId], connectionId: await agency(), why: 'x' });
  const id = (await proposalsOf(householdId))[0]!.id;
  const page = await readPlacement(t.context, id);
  expect(page).toMatchObject({ amount: 14_000, charges: [{ chargeId, amount: 14_000 }] });
  await approvePlacements(t.context, { placementIds: [id], seen: page.amount });
  expect(await readPlacement(t.context, id)).toMatchObject({
    amount: 14_000,
    open: 14_000,
    withPatient: 10_000,
    charges: [{ chargeId, amount: 14_000 }],
  });
  for (const { id: check, faults } of await checkBooks(t.db))
    expect({ check, faults }).toEqual({ check, faults: [] });
});
