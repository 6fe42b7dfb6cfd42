import fc from 'fast-check';
import { sql } from 'kysely';
import { calendarDate } from '../../core/calendar';
import { type Cents, cents, toDecimal } from '../../core/money';
import { TODAY, type TestDatabase, testDatabase } from '../../testing/database';
import { charge, decided, household, intake, remitText, sentClaim } from '../../testing/desk';
import { voidCharge } from '../accounts/charges';
import { Refused } from '../access';
import { spendCredit, openCharges, reverseReceipt, takeReceipt } from '../payments/receipts';
import { postRemittance, reverseRemittance } from '../remittances/post';
import { writeOffDenied } from '../remittances/read';
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
    await insert(`('cash/cash', 100), ('credit/payer', -100)`);
    const { rows } = await t.pool.query<{ id: number }>('select max(id) as id from entry');
    await expect(
      t.pool.query(
        `insert into posting (entry_id, account, amount) values (${rows[0]!.id}, 'cash/cash', 5), (${rows[0]!.id}, 'credit/payer', -5)`,
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
    await t.db.updateTable('practice').set({ closed_through: '2026-02-28' }).execute();
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
    const made = (await describeTables(t.pool)).replace(/\s+/g, '');
    expect(made).toBe(readFileSync('src/db/tables.ts', 'utf8').replace(/\s+/g, ''));
  });
});

describe('books check', () => {
  test('names what is broken when somebody goes around the rules', async () => {
    expect(await faults()).toEqual([]);
    const { householdId } = await household(t, false);
    await t.db
      .updateTable('household_balance')
      .set({ with_patient: 77 })
      .where('household_id', '=', householdId)
      .execute();
    expect((await faults()).map((check) => check.id)).toContain('household-balances');
    await t.db
      .updateTable('household_balance')
      .set({ with_patient: 0 })
      .where('household_id', '=', householdId)
      .execute();
    expect(await faults()).toEqual([]);
  });
});

describe('any sequence of work keeps the invariants', () => {
  type Step = {
    do: 'charge' | 'void' | 'pay' | 'credit' | 'undo-pay' | 'remit' | 'undo-remit' | 'write-off';
    a: number;
    b: number;
  };
  const step: fc.Arbitrary<Step> = fc.record({
    do: fc.constantFrom(
      'charge',
      'charge',
      'void',
      'pay',
      'pay',
      'credit',
      'undo-pay',
      'remit',
      'remit',
      'undo-remit',
      'write-off',
    ),
    a: fc.nat(50_000),
    b: fc.nat(100),
  });

  test('charges, decisions, receipts, allocations and reversals in any order', async () => {
    let run = 0;
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 4, maxLength: 14 }), async (steps) => {
        run += 1;
        const self = await household(t, false);
        const billed = await sentClaim(t, ['145.00', '42.00']);
        const receipts: number[] = [];
        const remits: number[] = [];
        const charges: number[] = [];
        const tolerant = async (work: () => Promise<unknown>) =>
          work().catch((error: unknown) => {
            if (!(error instanceof Refused)) throw error;
          });
        for (const [index, item] of steps.entries()) {
          const householdId = item.b % 2 === 0 ? self.householdId : billed.householdId;
          if (item.do === 'charge')
            charges.push(await charge(t, t.context, self.patientId, toDecimal(cents(item.a + 1))));
          else if (item.do === 'void' && charges.length > 0)
            await tolerant(() => voidCharge(t.context, charges[item.b % charges.length]!, 'test'));
          else if (item.do === 'pay')
            receipts.push(
              (
                await takeReceipt(t.context, {
                  householdId,
                  amount: toDecimal(cents(item.a + 1)),
                  tender: 'check',
                  reference: '1',
                  key: `sequence-${run}-${index}`,
                })
              ).receiptId,
            );
          else if (item.do === 'credit') await tolerant(() => spendCredit(t.context, householdId));
          else if (item.do === 'undo-pay' && receipts.length > 0)
            await tolerant(() => reverseReceipt(t.context, receipts[item.b % receipts.length]!, 'test'));
          else if (item.do === 'remit') {
            // A decision and, as often, its take-back with the signs turned (claim status 22).
            const sign = item.b % 3 === 0 ? -1 : 1;
            const paid = item.a % 14_501;
            const rest = 14_500 - paid;
            const reason = ['CO-45', 'PR-2', 'CO-97', 'OA-23', 'PI-97'][item.b % 5]!;
            const lines = [
              {
                control: billed.controls[0]!,
                charge: sign * 14_500,
                paid: sign * paid,
                reasons: rest === 0 ? [] : [`${reason}:${(sign * rest) / 100}`],
              },
            ];
            const found = await intake(
              t.context,
              remitText([decided(billed.claim.control_number, lines, sign < 0 ? '22' : '1')]),
            );
            const id = found.outcomes[0]!.remittanceId!;
            await tolerant(() => postRemittance(t.context, id));
            remits.push(id);
          } else if (item.do === 'write-off')
            await tolerant(() => writeOffDenied(t.context, billed.charges[0]!, 'test'));
          else if (item.do === 'undo-remit' && remits.length > 0)
            await tolerant(() => reverseRemittance(t.context, remits[item.b % remits.length]!, 'test'));
        }
        expect(await faults()).toEqual([]);
        const { rows } = await sql<{
          total: Cents;
        }>`select coalesce(sum(with_payer + with_patient - credit), 0) as total from household_balance where household_id in (${self.householdId}, ${billed.householdId})`.execute(
          t.db,
        );
        const { rows: journal } = await sql<{
          total: Cents;
        }>`select coalesce(sum(amount), 0) as total from posting where household_id in (${self.householdId}, ${billed.householdId}) and (account like 'receivable/%' or account = 'credit/patient')`.execute(
          t.db,
        );
        expect(rows[0]!.total).toBe(journal[0]!.total);
      }),
      { numRuns: 25 },
    );
  });
});
