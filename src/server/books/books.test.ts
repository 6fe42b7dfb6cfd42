import { sql } from 'kysely';
import { calendarDate } from '../../core/calendar';
import type { Posting } from '../../core/books/entry';
import type { EntryKind } from '../../core/books/kinds';
import { cents } from '../../core/money';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household, sentClaim } from '../../testing/desk';
import { buildClaims } from '../claims/build';
import { openCharges } from './open-lines';
import { takeReceipt } from '../payments/take';
import { writeEntries } from './journal';

const t = fileDatabase();

const SET: Record<string, string> = {
  charge_balance: 'fee = fee',
  payer_balance: 'paid = paid',
  household_balance: 'credit = 0',
  receipt_balance: 'held = 0',
  provider_adjustment_balance: 'open = 0',
};

describe('the database holds the journal', () => {
  const insert = (postings: string) =>
    t.pool.query(
      `
        with e as (
          insert into entry (kind, posting_date, business_date, user_id, memo)
          values ('receipt', '2026-03-16', '2026-03-16', 'x', '')
          returning id
        ) insert into posting (entry_id, account, amount)
        select id, account, amount
        from e, (values ${postings}) v (account, amount)`,
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
        `
          insert into entry (kind, posting_date, business_date, user_id, memo)
          values ('receipt', '2026-03-16', '2026-03-16', 'x', '')`,
      ),
    ).rejects.toThrow(/fewer than two postings/);
    const { householdId } = await household(t, false);
    const { receiptId } = await takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'cash', amount: '1.00' }],

      key: 'written-once',
    });
    await expect(
      t.pool.query(
        `insert into posting (entry_id, account, amount, household_id, receipt_id)
         select e.id, v.account, v.amount, ${householdId}, ${receiptId}
         from entry e, (values ('cash/cash', 5), ('credit/patient', -5)) v (account, amount)
         where e.key = 'tender:' || (select t.id from tender t where t.receipt_id = ${receiptId})`,
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

  test.each([
    'charge_balance',
    'payer_balance',
    'household_balance',
    'receipt_balance',
    'provider_adjustment_balance',
  ])('refuses whatever would change %s but postings, also without triggers of the session', async (table) => {
    const client = await t.pool.connect();
    try {
      for (const role of ['origin', 'replica']) {
        await client.query(`set session_replication_role = '${role}'`);
        for (const statement of [
          `delete from ${table}`,
          `truncate ${table}`,
          `insert into ${table} select * from ${table}`,
          `update ${table} set ${SET[table]}`,
        ])
          await expect(client.query(statement)).rejects.toThrow(/with postings only/);
      }
    } finally {
      await client.query("set session_replication_role = 'origin'");
      client.release();
    }
  });

  describe('what a posting is about hangs together', () => {
    let here: { householdId: number; receiptId: number; chargeId: number };
    let there: typeof here;
    let sent: Awaited<ReturnType<typeof sentClaim>>;
    beforeAll(async () => {
      const make = async (key: string) => {
        const { householdId, patientId } = await household(t, false);
        const chargeId = await charge(t, t.context, patientId, '80.00');
        const { receiptId } = await takeReceipt(t.context, {
          householdId,
          tenders: [{ tender: 'cash', amount: '5.00' }],

          key,
        });
        return { householdId, receiptId, chargeId };
      };
      [here, there] = [await make('belongs-here-1'), await make('belongs-there-1')];
      sent = await sentClaim(t);
    });
    const write = (kind: EntryKind, postings: Posting[]) =>
      t.db
        .transaction()
        .execute((tx) => writeEntries(tx, t.context, [{ kind, businessDate: TODAY, memo: 'x', postings }]));
    const five = cents(500);
    const owed = cents(-500);

    test('a household’s credit has its receipt', () =>
      expect(
        write('payer-credit', [
          { account: 'cash/cash', amount: five, householdId: here.householdId },
          { account: 'credit/patient', amount: owed, householdId: here.householdId },
        ]),
      ).rejects.toThrow(/does not say whose it is/));
    test('a charge’s postings are of its household', () =>
      expect(
        write('account-charge', [
          {
            account: 'receivable/patient',
            amount: five,
            householdId: there.householdId,
            chargeId: here.chargeId,
          },
          {
            account: 'income/late-charge',
            amount: owed,
            householdId: there.householdId,
            chargeId: here.chargeId,
          },
        ]),
      ).rejects.toThrow(/do not belong together/));
    test('a payer’s cash on a charge has its remittance', () => {
      const about = {
        householdId: sent.householdId,
        chargeId: sent.charges[0]!,
        coverageId: sent.claim.coverage_id,
        payerId: sent.claim.payer_id,
      };
      return expect(
        write('write-off', [
          { ...about, account: 'cash/check', amount: five },
          { ...about, account: 'receivable/payer', amount: owed },
        ]),
      ).rejects.toThrow(/does not say whose it is/);
    });
    test('one household’s credit pays no charge of another', () => {
      const about = { householdId: there.householdId, chargeId: there.chargeId, receiptId: here.receiptId };
      return expect(
        write('allocation', [
          { ...about, account: 'credit/patient', amount: five },
          { ...about, account: 'receivable/patient', amount: owed },
        ]),
      ).rejects.toThrow(/do not belong together/);
    });
    test('receivables stand on a charge of a household', () =>
      expect(
        write('opening', [
          { account: 'receivable/patient', amount: five, householdId: here.householdId },
          { account: 'receivable/patient', amount: owed, householdId: there.householdId },
        ]),
      ).rejects.toThrow(/does not say whose it is/));
    test('the payer is the coverage’s, the coverage the patient’s', async () => {
      const other = await sentClaim(t);
      const about = {
        householdId: sent.householdId,
        chargeId: sent.charges[0]!,
        payerId: sent.claim.payer_id,
      };
      const both = (more: object): Posting[] => [
        { ...about, ...more, account: 'reduction/payer', amount: five },
        { ...about, ...more, account: 'receivable/payer', amount: owed },
      ];
      const { id: payerId } = await t.db
        .selectFrom('payer')
        .select('id')
        .where('id', '<>', sent.claim.payer_id)
        .executeTakeFirstOrThrow();
      await expect(write('write-off', both({ coverageId: other.claim.coverage_id }))).rejects.toThrow(
        /do not belong together/,
      );
      await expect(write('write-off', both({ coverageId: sent.claim.coverage_id, payerId }))).rejects.toThrow(
        /do not belong together/,
      );
    });
  });

  test.each([
    [
      'a claim held without a reason',
      `update claim set status = 'held', hold_reason = '' where status = 'ready'`,
    ],
    [
      'a claim sent in no file',
      `update claim set status = 'sent', transmission_id = null where status = 'ready'`,
    ],
    ['a correction of nothing', `update claim set frequency = '7'`],
    [
      'a remittance posted at no time',
      `
        insert into remittance (
          payer_id, payer_key, payer_name, trace, amount, method, payment_date, received_date, status, content_key
        )
        select id, 'k', 'n', 't', 1, 'ACH', '2026-03-16', '2026-03-16', 'posted', 'c'
        from payer
        limit 1`,
    ],
    [
      'a remittance of nobody that is ready',
      `
        insert into remittance (
          payer_key, payer_name, trace, amount, method, payment_date, received_date, status, content_key
        )
        values ('k', 'n', 't', 1, 'ACH', '2026-03-16', '2026-03-16', 'ready', 'c')`,
    ],
    [
      'a check without its number',
      `
        with r as (
          insert into receipt (household_id, amount, received_on, user_id)
          select id, 100, '2026-03-16', 'x'
          from household
          limit 1
          returning id
        )
        insert into tender (receipt_id, kind, amount, place_id) select r.id, 'check', 100, 1 from r`,
    ],
    [
      'a follow-up on a denial of nothing',
      `insert into follow_up (kind, words, due_date, key) values ('denial', 'x', '2026-03-16', 'k')`,
    ],
    [
      'a reason without its group',
      `insert into posting (entry_id, account, amount, reason_code) select max(id), 'cash/cash', 1, '45' from entry`,
    ],
  ])('refuses %s', async (_what, statement) => {
    const { patientId, householdId } = await household(t);
    await charge(t, t.context, patientId, '145.00');
    await buildClaims(t.context, { householdId });
    await expect(t.pool.query(statement)).rejects.toThrow(/check constraint/);
  });

  test('refuses a posting date in a closed period', async () => {
    const { patientId, householdId } = await household(t, false);
    const february = t.as('manager', calendarDate('2026-02-27'));
    const late = (fee: string) => charge(t, february, patientId, fee, '99213', calendarDate('2026-02-27'));
    await late('5.00');
    await sql`select close_period('2026-02-28', 'manager')`.execute(t.db);
    await expect(late('10.00')).rejects.toThrow(/closed/);
    await charge(t, t.context, patientId, '10.00', '99213', calendarDate('2026-02-27'));
    expect((await openCharges(t.context, [householdId])).map((item) => item.owed)).toEqual([500, 1000]);
    expect(await brokenInvariants(t)).toEqual([]);
  });

  test('refuses a reversal that is no mirror, a second one, and one of a reversal', async () => {
    const { householdId } = await household(t, false);
    const { receiptId } = await takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'cash', amount: '5.00' }],

      key: 'mirror-test',
    });
    const { id: tenderId, place_id: placeId } = await t.db
      .selectFrom('tender')
      .select(['id', 'place_id'])
      .where('receipt_id', '=', receiptId)
      .executeTakeFirstOrThrow();
    const entry = await t.db
      .selectFrom('entry')
      .select('id')
      .where('key', '=', `tender:${tenderId}`)
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
              { account: 'cash/cash', amount: cents(-amount), householdId, receiptId, tenderId, placeId },
              { account: 'credit/patient', amount: cents(amount), householdId, receiptId, tenderId },
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
