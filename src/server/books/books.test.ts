import { calendarDate } from '../../core/calendar';
import { ZERO, cents } from '../../core/money';
import { TODAY, type TestDatabase, testDatabase } from '../../testing/database';
import { charge, household } from '../../testing/desk';
import { openCharges, takeReceipt } from '../payments/receipts';
import { checkBooks } from './check';
import { writeEntries } from './journal';

let t: TestDatabase;
beforeAll(async () => {
  t = await testDatabase();
});
afterAll(() => t.close());

const faults = async () => (await checkBooks(t.db)).filter((check) => check.faults.length > 0);

describe('the database holds the journal', () => {
  const insert = (postings: string) =>
    t.pool.query(
      `with e as (insert into entry (kind, posting_date, business_date, user_id, memo) values ('receipt', '2026-03-16', '2026-03-16', 'x', '') returning id) insert into posting (entry_id, account, amount) select id, account, amount from e, (values ${postings}) v (account, amount)`,
    );

  test.each([
    ['postings that do not sum to zero', `('cash/cash', 100), ('credit/patient', -99)`, /do not sum to zero/],
    ['a posting alone', `('cash/cash', 100)`, /do not sum to zero/],
    ['a posting of nothing', `('cash/cash', 0)`, /check constraint/],
    ['an account that does not exist', `('cash/gold', 100), ('credit/patient', -100)`, /foreign key/],
  ])('refuses %s', async (_name, postings, words) => expect(insert(postings)).rejects.toThrow(words));

  test('refuses an entry without postings at commit, and postings added later', async () => {
    await expect(
      t.pool.query(
        `insert into entry (kind, posting_date, business_date, user_id, memo) values ('receipt', '2026-03-16', '2026-03-16', 'x', '')`,
      ),
    ).rejects.toThrow(/fewer than two postings/);
    const { householdId } = await household(t, false);
    const { receiptId } = await takeReceipt(t.context, {
      householdId,
      amount: '1.00',
      tender: 'cash',
      key: 'written-once',
    });
    await expect(
      t.pool.query(
        `insert into posting (entry_id, account, amount, household_id, receipt_id)
         select e.id, v.account, v.amount, ${householdId}, ${receiptId} from entry e, (values ('cash/cash', 5), ('credit/patient', -5)) v (account, amount) where e.key = 'receipt:${receiptId}'`,
      ),
    ).rejects.toThrow(/written once/);
  });

  test.each([
    'update entry set memo = memo',
    'delete from entry',
    'update posting set amount = amount',
    'delete from posting',
    'truncate posting',
    'truncate entry cascade',
  ])('refuses “%s”', async (statement) => {
    await expect(t.pool.query(statement)).rejects.toThrow(/never changed/);
  });

  test('refuses them also when triggers are turned off for the session', async () => {
    const client = await t.pool.connect();
    try {
      await client.query("set session_replication_role = 'replica'");
      await expect(client.query('delete from posting')).rejects.toThrow(/never changed/);
    } finally {
      await client.query("set session_replication_role = 'origin'");
      client.release();
    }
  });

  test('refuses a posting date in a closed period', async () => {
    await t.db
      .updateTable('practice')
      .set({ closed_through: calendarDate('2026-02-28') })
      .execute();
    const { patientId, householdId } = await household(t, false);
    const february = t.as('manager', calendarDate('2026-02-27'));
    await expect(
      charge(t, february, patientId, '10.00', '99213', calendarDate('2026-02-27')),
    ).rejects.toThrow(/closed/);
    await charge(t, t.context, patientId, '10.00', '99213', calendarDate('2026-02-27'));
    expect((await openCharges(t.db, householdId)).map((item) => item.owed)).toEqual([1000]);
    await t.db.updateTable('practice').set({ closed_through: null }).execute();
  });

  test('refuses a reversal that is no mirror, a second one, and one of a reversal', async () => {
    const { householdId } = await household(t, false);
    const { receiptId } = await takeReceipt(t.context, {
      householdId,
      amount: '5.00',
      tender: 'cash',
      key: 'mirror-test',
    });
    const entry = await t.db
      .selectFrom('entry')
      .select('id')
      .where('key', '=', `receipt:${receiptId}`)
      .executeTakeFirstOrThrow();
    const reversal = (amount: number, reverses: number) =>
      t.db.transaction().execute((tx) =>
        writeEntries(tx, t.context, [
          {
            kind: 'reversal',
            businessDate: TODAY,
            memo: 'x',
            reverses,
            postings: [
              { account: 'cash/cash', amount: cents(-amount), householdId, receiptId },
              { account: 'credit/patient', amount: cents(amount), householdId, receiptId },
            ],
          },
        ]),
      );
    await expect(reversal(400, entry.id)).rejects.toThrow(/mirror/);
    const [first] = await reversal(500, entry.id);
    await expect(reversal(500, entry.id)).rejects.toThrow(/duplicate key|unique/);
    await expect(reversal(500, first!)).rejects.toThrow(/reversal is not reversed/);
  });

  test('the types of the tables are those of the migrations', async () => {
    const { readFileSync } = await import('node:fs');
    const { describeTables } = await import('../../db/describe');
    // However long lines are broken.
    const plain = (text: string): string =>
      text
        .replace(/\s+/g, '')
        .replace(/([:<(])\|/g, '$1')
        .replace(/,>/g, '>');
    expect(plain(await describeTables(t.pool))).toBe(plain(readFileSync('src/db/tables.ts', 'utf8')));
  });
});

describe('books check', () => {
  test('names what is broken when somebody goes around the rules', async () => {
    expect(await faults()).toEqual([]);
    const { householdId } = await household(t, false);
    await t.db
      .updateTable('household_balance')
      .set({ with_patient: cents(77) })
      .where('household_id', '=', householdId)
      .execute();
    expect((await faults()).map((check) => check.id)).toContain('household-balances');
    await t.db
      .updateTable('household_balance')
      .set({ with_patient: ZERO })
      .where('household_id', '=', householdId)
      .execute();
    expect(await faults()).toEqual([]);
  });
});
