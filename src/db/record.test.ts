/** Facts of record, and books that nobody bends: each tried by SQL, as the role of the desk. */
import type pg from 'pg';
import { type TestDatabase, testDatabase } from '../testing/database';
import { brokenInvariants, charge, household, postedRemittance, decided, sentClaim } from '../testing/desk';
import { takeReceipt } from '../server/payments/take';
import { prepareStatement } from '../server/statements/prepare';
import { openPool } from './connect';
import { admitDesk } from './desk-role';

let t: TestDatabase;
let desk: ReturnType<typeof openPool>;
let made: { chargeId: number; remittanceId: number; receiptId: number; householdId: number };
beforeAll(async () => {
  t = await testDatabase();
  desk = openPool(t.url, 3);
  const sent = await sentClaim(t);
  const remittanceId = await postedRemittance(t, [
    decided(sent.claim.control_number, [
      { control: sent.controls[0]!, charge: 14_500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
    ]),
  ]);
  const { receiptId } = await takeReceipt(t.context, {
    householdId: sent.householdId,
    tenders: [{ tender: 'check', amount: '10.00', reference: '1001' }],

    key: 'a-receipt-of-record',
  });
  await prepareStatement(t.context, { householdId: sent.householdId, key: 'a-statement-of-record' });
  made = { chargeId: sent.charges[0]!, remittanceId, receiptId, householdId: sent.householdId };
});
afterAll(async () => {
  await desk.end();
  await t.close();
});

describe('what was received, decided and sent stays as it is', () => {
  test.each([
    `update tender set kind = 'cash', reference = ''`,
    `update tender set reference = '1002'`,
    `update receipt set received_on = received_on - 1`,
    `update receipt set amount = amount + 1`,
    `update receipt set created_at = created_at - interval '1 day'`,
    `update remittance set amount = amount + 1`,
    `update remittance set trace = 'ANOTHER'`,
    `update remittance set payment_date = payment_date - 1`,
    `update remittance set payer_name = 'Somebody else'`,
    `update remittance_claim set paid = paid + 1`,
    `update remittance_claim set charge = charge + 1`,
    `update remittance_claim set content = '{}'`,
    `update remittance_claim set control_number = 'X'`,
    `update charge set service_date = service_date - 1 where id = (select min(id) from charge)`,
    `update charge set code = '99215' where id = (select min(id) from charge)`,
    `update charge set fee = fee + 1 where id = (select min(id) from charge)`,
    `update charge set units = 2 where id = (select min(id) from charge)`,
    `update statement set amount = amount + 1`,
    `update statement_charge set owed = owed + 1`,
    `delete from statement_charge`,
  ])('%s', async (statement) => {
    await expect(desk.query(statement)).rejects.toThrow(/never changed|permission denied|has decided/);
  });

  test('a line is not added to a statement that was made', async () => {
    const self = await household(t, false);
    const { rows } = await t.pool.query<{ id: number }>('select max(id) as id from statement');
    const other = await charge(t, t.context, self.patientId, '80.00');
    await expect(
      desk.query(`insert into statement_charge (statement_id, charge_id, owed) values ($1, $2, 100)`, [
        rows[0]!.id,
        other,
      ]),
    ).rejects.toThrow(/written with it/);
  });

  test('what is not a fact of record goes on: a telephone number, the state of a remittance, a charge that nobody has decided', async () => {
    await desk.query(
      `update household set phone = '555-0199' where id = (select household_id from receipt where id = $1)`,
      [made.receiptId],
    );
    await desk.query(`update remittance set status = status where id = $1`, [made.remittanceId]);
    const self = await household(t, false);
    const own = await charge(t, t.context, self.patientId, '80.00');
    await desk.query(`update charge set tooth = '3' where id = $1`, [own]);
  });
});

describe('a table of one’s own stands before none of ours', () => {
  test('the desk makes none', async () => {
    // What a database lets everybody do is not copied with it: it is said at each start.
    const role = decodeURIComponent(new URL(t.url).username);
    const client = await t.pool.connect();
    await admitDesk(client, { role, password: null }).finally(() => client.release());
    await expect(desk.query('create temp table posting (entry_id bigint)')).rejects.toThrow(
      /permission denied/,
    );
  });

  test('and where somebody had let it, triggers would not look there', async () => {
    const { rows } = await t.pool.query<{ name: string }>(
      `
        select p.proname as name
        from pg_proc p
          join pg_namespace n on n.oid = p.pronamespace
        where n.nspname = 'public' and p.prorettype = 'trigger'::regtype
        and p.proname !~ '^(gin|gbt|gtrgm)_'
          and not coalesce(p.proconfig::text, '') like '%search_path=public, pg_temp%'`,
    );
    expect(rows).toEqual([]);
    const role = decodeURIComponent(new URL(t.url).username);
    const name = new URL(t.url).pathname.slice(1);
    await t.pool.query(`grant temporary on database "${name}" to "${role}"`);
    const client = await desk.connect();
    try {
      await client.query('create temp table posting (like public.posting)');
      await client.query('create temp table practice (closed_through date)');
      await client.query('create temp table entry (id bigint, kind text)');
      await expect(
        client.query(
          `
            insert into public.entry (kind, posting_date, business_date, user_id, memo)
            values ('receipt', '2026-03-16', '2026-03-16', 'x', '')`,
        ),
      ).rejects.toThrow(/fewer than two postings/);
    } finally {
      client.release(true);
      await t.pool.query(`revoke temporary on database "${name}" from "${role}"`);
    }
  });
});

describe('a period is closed once, by closing it', () => {
  const entry = `
    with e as (
      insert into entry (kind, posting_date, business_date, user_id, memo)
      values ('opening-cash', '2026-01-31', '2026-01-31', 'x', '')
      returning id
    )
    insert into posting (entry_id, account, amount, household_id, receipt_id, tender_id, place_id)
    select e.id, account, v.amount, $1, $2, case when v.amount > 0 then t.id end, case when v.amount > 0 then t.place_id end
    from e, (values ('cash/cash', 100), ('credit/patient', -100)) v (account, amount),
      (select id, place_id from tender where receipt_id = $2) t`;
  const receiptOf = entry.replace(`'opening-cash'`, `'receipt'`);
  const write = (client: pg.PoolClient | pg.Pool) =>
    client.query(receiptOf, [made.householdId, made.receiptId]);

  test('by nobody’s hand, not before it is over, not twice and not backwards', async () => {
    await expect(desk.query(`update practice set closed_through = '2026-01-31'`)).rejects.toThrow(
      /by closing it/,
    );
    for (const [day, words] of [
      ['2026-03-16', /when it is over/],
      ['2031-01-01', /when it is over/],
      [null, /when it is over/],
    ] as const)
      await expect(desk.query(`select close_period($1, 'manager')`, [day])).rejects.toThrow(words);
    await desk.query(`select close_period('2026-01-15', 'manager')`);
    for (const day of ['2026-01-15', '2025-12-31'])
      await expect(desk.query(`select close_period($1, 'manager')`, [day])).rejects.toThrow(/closed already/);
    for (const statement of [
      `update practice set closed_through = null`,
      `update practice set closed_through = '2025-12-31'`,
    ])
      await expect(desk.query(statement)).rejects.toThrow(/by closing it/);
    for (const statement of [`update period_closed set entries = 0`, `delete from period_closed`])
      await expect(desk.query(statement)).rejects.toThrow(/permission denied/);
    // The rest of the practice is edited as before.
    await desk.query(`update practice set phone = phone`);
    expect(await brokenInvariants(t)).toEqual([]);
  });

  test('who was writing in it is waited for; who comes after is refused', async () => {
    const writer = await desk.connect();
    const closer = await desk.connect();
    try {
      await writer.query('begin');
      await write(writer);
      let closed = false;
      const closing = closer
        .query(`select close_period('2026-01-31', 'manager')`)
        .then(() => (closed = true));
      await waiting(1);
      expect(closed).toBe(false);
      await writer.query('commit');
      await closing;
      await expect(write(desk)).rejects.toThrow(/closed/);
    } finally {
      writer.release();
      closer.release();
    }
    expect(await brokenInvariants(t)).not.toContainEqual(expect.objectContaining({ id: 'closed-periods' }));
  });

  test('and who was first to close is waited for', async () => {
    const closer = await desk.connect();
    try {
      await closer.query('begin');
      await closer.query(`select close_period('2026-02-28', 'manager')`);
      const writing = desk.query(receiptOf.replaceAll('2026-01-31', '2026-02-10'), [
        made.householdId,
        made.receiptId,
      ]);
      const refused = expect(writing).rejects.toThrow(/closed/);
      await waiting(1);
      await closer.query('commit');
      await refused;
    } finally {
      closer.release();
    }
  });

  test('an entry that came into it all the same is named', async () => {
    const client = await t.pool.connect();
    try {
      await client.query('begin');
      await client.query('alter table entry disable trigger entry_opened');
      await client.query(
        receiptOf
          .replace(`user_id, memo)`, `user_id, memo, written_by)`)
          .replace(`'x', '')`, `'x', '', pg_current_xact_id())`),
        [made.householdId, made.receiptId],
      );
      const { rows } = await client.query<{ n: string }>(
        `
          select k.through
          from period_closed k
            cross join lateral (select count(*) as n from entry where posting_date <= k.through) e
          where e.n <> k.entries`,
      );
      expect(rows.length).toBeGreaterThan(0);
    } finally {
      await client.query('rollback');
      client.release();
    }
  });
});

/** Waits until so many sessions wait for a lock. */
async function waiting(many: number): Promise<void> {
  for (let turn = 0; turn < 200; turn += 1) {
    const { rows } = await t.pool.query<{ n: number }>(
      `select count(*)::int as n from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`,
    );
    if (rows[0]!.n >= many) return;
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  throw new Error('Nobody waits');
}
