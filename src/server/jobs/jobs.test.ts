import pino from 'pino';
import { closePool } from '../../db/connect';
import { type TestDatabase, testDatabase } from '../../testing/database';
import { decided, intake, remitText, sentClaim } from '../../testing/desk';
import { checkBooks } from '../books/check';
import { readWork } from './read';
import { startPosting } from './work';
import { roundAlone, work } from './worker';

let t: TestDatabase;
let stop: (() => Promise<void>) | undefined;
const given = process.env.DATABASE_URL;
beforeAll(async () => {
  t = await testDatabase();
  // The job process works on the database that its environment names.
  process.env.DATABASE_URL = t.ownerUrl;
});
afterAll(async () => {
  await stop?.();
  await closePool();
  process.env.DATABASE_URL = given;
  await t.close();
});

const log = pino({ level: 'silent' });
const remit = async () => {
  const s = await sentClaim(t);
  const line = { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] };
  return (await intake(t.context, remitText([decided(s.claim.control_number, [line])]))).outcomes[0]!
    .remittanceId!;
};
const finished = async (id: number) => {
  for (let tries = 0; tries < 200; tries += 1) {
    const row = await readWork(t.context, id);
    if (row.status === 'finished' || row.status === 'failed') return row;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  return readWork(t.context, id);
};

describe('background posting', () => {
  test('what was asked before the job process came up is done when it does, item by item', async () => {
    const ids = [await remit(), await remit()];
    const early = await startPosting(t.context, { remittanceIds: ids });
    expect(await readWork(t.context, early)).toMatchObject({ status: 'waiting', total: 2, done: 0 });
    stop = await work(log);
    expect(await finished(early)).toMatchObject({
      status: 'finished',
      done: 2,
      failed: 0,
      items: [{ result: '1 posted' }, { result: '1 posted' }],
    });
  });

  test('the same posting asked for twice posts once', async () => {
    const id = await remit();
    const both = await Promise.all([
      startPosting(t.context, { remittanceIds: [id] }),
      startPosting(t.context, { remittanceIds: [id] }),
    ]);
    await Promise.all(both.map(finished));
    const { n } = await t.db
      .selectFrom('entry')
      .innerJoin('posting', 'posting.entry_id', 'entry.id')
      .select(({ fn }) => fn.count<number>('entry.id').distinct().as('n'))
      .where('posting.remittance_id', '=', id)
      .executeTakeFirstOrThrow();
    expect(n).toBe(1);
    expect((await checkBooks(t.db)).flatMap((check) => check.faults)).toEqual([]);
  });

  test('nothing to post, somebody else’s work and a role without the right are refused', async () => {
    await expect(startPosting(t.context, { remittanceIds: [999_999] })).rejects.toThrow(/nothing ready/);
    await expect(startPosting(t.as('collector'), {})).rejects.toThrow(/may not post remittances/);
    const id = await startPosting(t.context, { remittanceIds: [await remit()] });
    await expect(readWork(t.as('front-desk'), id)).rejects.toThrow(/no such work/);
    expect(await readWork(t.as('biller'), id)).toMatchObject({ mine: false });
    await finished(id);
  });
});

test('a round is not begun while another one runs, in whichever process', async () => {
  // The job process of the tests before has rounds of its own.
  await stop?.();
  stop = undefined;
  let begun: (end: () => void) => void = () => undefined;
  const inside = new Promise<() => void>((resolve) => (begun = resolve));
  // The last of them may be going on still: it is waited for.
  const alone = async (): Promise<boolean> =>
    (await roundAlone(t.db, () => new Promise<void>((end) => begun(end)))) ||
    new Promise<void>((next) => setTimeout(next, 50)).then(alone);
  const first = alone();
  const end = await inside;
  expect(await roundAlone(t.db)).toBe(false);
  end();
  expect(await first).toBe(true);
  expect(await roundAlone(t.db)).toBe(true);
});
