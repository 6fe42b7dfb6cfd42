/** Doing background work item by item: it fails with its cause, stops, goes on, and is done by one process at a time. */
import pino from 'pino';
import { fileDatabase } from '../../testing/database';
import { charge, decided, doWork, household, intake, remitText, sentClaim } from '../../testing/desk';
import { buildClaims } from '../claims/build';
import { checkBooks } from '../books/check';
import { readWork, workGoing } from './read';
import { runWork } from './run';
import { resumeWork, startChecking, startPosting, stopWork } from './work';

const t = fileDatabase();

const log = pino({ level: 'silent' });
const remit = async (): Promise<number> => {
  const s = await sentClaim(t);
  const line = { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] };
  return (await intake(t.context, remitText([decided(s.claim.control_number, [line])]))).outcomes[0]!
    .remittanceId!;
};
const hold = (id: number, status: 'held' | 'ready') =>
  t.db.updateTable('remittance').set({ status }).where('id', '=', id).execute();

test('an item that fails says why, the others are done, and going on does only what is left', async () => {
  const [good, bad] = [await remit(), await remit()];
  const id = await startPosting(t.context, { remittanceIds: [good, bad] });
  await hold(bad, 'held');
  await runWork(t.db, id, log);
  expect(await readWork(t.context, id)).toMatchObject({
    status: 'failed',
    fault: expect.stringContaining('This remittance is held'),
    done: 1,
    failed: 1,
    items: [
      { status: 'failed', result: expect.stringContaining('This remittance is held') },
      { status: 'done', result: '1 posted' },
    ],
  });
  expect((await workGoing(t.context)).failed).toBe(1);
  await hold(bad, 'ready');
  await resumeWork(t.context, { workId: id });
  await runWork(t.db, id, log);
  expect(await readWork(t.context, id)).toMatchObject({ status: 'finished', fault: '', done: 2, failed: 0 });
  expect(await workGoing(t.context)).toEqual({ going: 0, failed: 0 });
  await expect(resumeWork(t.context, { workId: id })).rejects.toThrow(/runs already, or is finished/);
});

test('stopped before it begins it does nothing, and goes on when it is asked to', async () => {
  const remittance = await remit();
  const id = await startPosting(t.context, { remittanceIds: [remittance] });
  await stopWork(t.context, { workId: id });
  await runWork(t.db, id, log);
  expect(await readWork(t.context, id)).toMatchObject({ status: 'stopped', done: 0 });
  await expect(stopWork(t.context, { workId: id })).rejects.toThrow(/does not run/);
  await resumeWork(t.context, { workId: id });
  await runWork(t.db, id, log);
  expect(await readWork(t.context, id)).toMatchObject({ status: 'finished', done: 1 });
});

test('two processes that take up the same work do it once', async () => {
  const ids = [await remit(), await remit(), await remit()];
  const id = await startPosting(t.context, { remittanceIds: ids });
  await Promise.all([runWork(t.db, id, log), runWork(t.db, id, log), runWork(t.db, id, log)]);
  expect(await readWork(t.context, id)).toMatchObject({ status: 'finished', done: 3, failed: 0 });
  const { n } = await t.db
    .selectFrom('posting')
    .innerJoin('entry', 'entry.id', 'posting.entry_id')
    .select(({ fn }) => fn.count<number>('entry.id').distinct().as('n'))
    .where('posting.remittance_id', 'in', ids)
    .executeTakeFirstOrThrow();
  expect(n).toBe(3);
  expect((await checkBooks(t.db)).flatMap((check) => check.faults)).toEqual([]);
});

test('the same order with something new to do is not the one that waits already', async () => {
  await doWork(t);
  await remit();
  const before = await startPosting(t.context, {});
  expect(await startPosting(t.context, {})).toBe(before);
  await remit();
  const after = await startPosting(t.context, {});
  expect(after).not.toBe(before);
  expect((await readWork(t.context, after)).items).toHaveLength(2);
  await doWork(t);
  expect(await readWork(t.context, after)).toMatchObject({ status: 'finished', failed: 0 });
});

test('a kind that nobody knows any more fails in words', async () => {
  const { id } = await t.db
    .insertInto('work')
    .values({
      kind: 'fax statements',
      title: 'Faxing',
      input: '{}',
      user_id: 'manager',
      user_name: 'manager',
      role: 'manager',
      business_date: t.context.today,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  await runWork(t.db, id, log);
  expect(await readWork(t.context, id)).toMatchObject({
    status: 'failed',
    fault: 'Nobody knows how to do “fax statements” any more',
  });
  await expect(resumeWork(t.context, { workId: id })).rejects.toThrow(/no longer known/);
});

test('somebody else’s work is stopped by a manager only, and watched by those who may', async () => {
  const id = await startPosting(t.as('biller'), { remittanceIds: [await remit()] });
  await expect(stopWork(t.as('collector'), { workId: id })).rejects.toThrow(/no such work of yours/);
  await expect(stopWork(t.as('front-desk'), { workId: id })).rejects.toThrow(/may not watch work/);
  await expect(readWork(t.as('front-desk'), id)).rejects.toThrow(/no such work/);
  expect(await readWork(t.as('collector'), id)).toMatchObject({ mine: false });
  await stopWork(t.context, { workId: id });
  expect(await readWork(t.as('biller'), id)).toMatchObject({ status: 'stopped', mine: true });
});

test('checking again finds what has changed since, of one household or of all', async () => {
  const [one, other] = [await household(t), await household(t)];
  for (const made of [one, other]) {
    await charge(t, t.context, made.patientId, '145.00');
    await buildClaims(t.context, { householdId: made.householdId });
  }
  await doWork(t);
  await t.db
    .updateTable('household')
    .set({ zip: '' })
    .where('id', 'in', [one.householdId, other.householdId])
    .execute();
  const stops = async () =>
    (
      await t.db
        .selectFrom('claim')
        .select(['household_id', 'status'])
        .where('household_id', 'in', [one.householdId, other.householdId])
        .orderBy('household_id')
        .execute()
    ).map((claim) => claim.status);
  const id = (await startChecking(t.context, { householdId: one.householdId }))!;
  await doWork(t);
  expect(await readWork(t.context, id)).toMatchObject({ items: [{ result: '1 claim checked, 1 to fix' }] });
  expect(await stops()).toEqual(['draft', 'ready']);
  await startChecking(t.context, {});
  await doWork(t);
  expect(await stops()).toEqual(['draft', 'draft']);
});
