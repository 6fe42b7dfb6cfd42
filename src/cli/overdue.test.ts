/** What is overdue from the command line, as a scheduled run does it, also killed in the middle. */
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { addDays } from '../core/calendar';
import { setClock } from '../db/clock';
import { zone } from '../server/access';
import { begun, wergeldHere } from '../testing/command';
import { TODAY, fileDatabase } from '../testing/database';
import { overdueOf } from '../testing/desk';
import { closedGate } from '../testing/gate';
import { FULL } from '../testing/runs';
import { logContact } from '../server/overdue/contacts';
import { gatewayRound } from '../standins/mail';

const t = fileDatabase();

const wergeld = (...args: string[]) => wergeldHere(t, args);

test('a dry run says what would be done and does nothing; the run does it, once a day', async () => {
  const letter = await overdueOf(t);
  const spared = await overdueOf(t);
  await logContact(t.context, {
    householdId: spared.householdId,
    kind: 'visit',
    outcome: 'promise',
    said: 'will pay on Friday',
    amount: '10.00',
    by: addDays(TODAY, 5),
    key: 'cli-promise-1',
  });
  const dry = await wergeld('overdue', 'run', '--dry-run', '--json');
  expect(JSON.parse(dry.out)).toMatchObject([
    {
      household: letter.number,
      amount_cents: 24_000,
      days: 36,
      stage: null,
      action: 'letter',
      next_stage: 'First reminder',
      spared: [],
    },
    { household: spared.number, action: 'wait', spared: ['promise'] },
  ]);
  expect(await t.db.selectFrom('mail_batch').select('id').execute()).toEqual([]);
  const run = JSON.parse((await wergeld('overdue', 'run', '--json')).out) as { batch: number };
  expect(run).toMatchObject({
    letters: 1,
    to_print: 1,
    failed: 0,
    left: [],
    broken_promises: 0,
    proposed: 0,
  });
  expect(JSON.parse((await wergeld('overdue', 'run', '--json')).out)).toMatchObject({
    batch: run.batch,
    letters: 1,
    to_print: 1,
  });
  // Batches of letters are not sent by the run of statements.
  expect((await wergeld('statements', 'send')).out).toBe('No batch has drafts\n');
  expect((await wergeld('export', 'overdue')).out.split('\n')[0]).toContain(
    'household,amount_cents,days,stage',
  );
  expect((await wergeld('export', 'contacts')).out).toContain(spared.number);
  // What was said stands in the notes as well, with whom it is about.
  expect((await wergeld('export', 'notes')).out).toMatch(
    new RegExp(`,${spared.number},contact,.*will pay on Friday`),
  );
  expect((await wergeld('export', 'nothing')).err).toMatch(/cases\|overdue/);
  expect((await wergeld('overdue')).err).toMatch(/Say: .\/wergeld overdue run/);
});

/** So many letters that two kills come in their middle, each at its gate. */
const MANY = FULL ? 60 : 12;

test('killed while letters go out and run again: each is out once', async () => {
  for (let index = 0; index < MANY; index += 1) {
    const { householdId } = await overdueOf(t, { more: { email: `debtor${index}@example.com` } });
    await t.db.updateTable('household').set({ delivery: 'email' }).where('id', '=', householdId).execute();
  }
  // Another day, so that it is another run.
  await setClock(t.pool, addDays(TODAY, 1), zone());
  const outbox = join(process.env.WERGELD_EXCHANGE!, 'pelican', 'outbox');
  const written = (): string[] => {
    try {
      return readdirSync(outbox).filter((name) => name.endsWith('.eml'));
    } catch {
      return [];
    }
  };
  for (const number of [MANY / 4, MANY / 2]) {
    const gate = await closedGate(
      t.pool,
      'mail_piece',
      `new.date = '${addDays(TODAY, 1)}' and new.number = ${number} and new.status = 'sent'`,
    );
    const { child, ended } = begun(t, ['overdue', 'run']);
    await gate.reached();
    child.kill('SIGKILL');
    await ended;
    await gate.open();
  }
  const last = await wergeld('overdue', 'run', '--json');
  expect(JSON.parse(last.out)).toMatchObject({ letters: MANY, sent: MANY, failed: 0 });
  expect(written()).toHaveLength(MANY);
  await gatewayRound(join(process.env.WERGELD_EXCHANGE!, 'pelican'));
  const letters = await t.db
    .selectFrom('letter')
    .select('household_id')
    .where('date', '=', addDays(TODAY, 1))
    .execute();
  expect(letters).toHaveLength(MANY);
  expect(new Set(letters.map(({ household_id }) => household_id)).size).toBe(MANY);
});
