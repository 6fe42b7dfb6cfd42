/**
 * What a person waits for, on ten years of a practice with 4000 households and 200 000 charges: milliseconds, the median
 * of five. Each is told beside the same on a hundredth of the data; what walks whole tables grows a hundredfold.
 */
import { type TestDatabase, testDatabase } from '../src/testing/database';
import { charge, household } from '../src/testing/desk';
import { readStory } from '../src/server/accounts/ledger';
import { readAccount } from '../src/server/accounts/read';
import { REPORTS } from '../src/server/reports';
import { readList } from '../src/server/lists/read';
import { searchEverything } from '../src/server/search/find';
import { readToday, readWaiting } from '../src/server/today/read';

const READS: Record<string, (t: TestDatabase) => Promise<unknown>> = {
  accounts: (t) => readList(t.context, 'accounts', {}),
  'accounts, searched': (t) => readList(t.context, 'accounts', { search: 'bulk, p17' }),
  'accounts, by last visit': (t) => readList(t.context, 'accounts', { order: '-lastVisit' }),
  claims: (t) => readList(t.context, 'claims', {}),
  'claims, page 20': (t) => readList(t.context, 'claims', { page: '20' }),
  'claims, searched': (t) => readList(t.context, 'claims', { search: 'bulk, p17' }),
  remittances: (t) => readList(t.context, 'remittances', {}),
  receipts: (t) => readList(t.context, 'receipts', {}),
  'statements due': (t) => readList(t.context, 'statements-due', {}),
  'an account': (t) => readAccount(t.context, 20),
  'a balance story': (t) => readStory(t.context, 20),
  'what waits': (t) => readWaiting(t.context),
  today: (t) => readToday(t.context),
  ...Object.fromEntries(
    REPORTS.map((report) => [report.name, (t: TestDatabase) => report.read(t.context, {})]),
  ),
  'search field': (t) => searchEverything(t.context, 'p17'),
};

async function measure(households: number, charges: number): Promise<Map<string, number>> {
  const t = await testDatabase();
  try {
    const self = await household(t);
    await charge(t, t.context, self.patientId, '145.00');
    await fill(t, households, charges);
    const found = new Map<string, number>();
    for (const [name, read] of Object.entries(READS)) {
      const times: number[] = [];
      for (let turn = 0; turn < 5; turn += 1) {
        const start = performance.now();
        await read(t);
        times.push(performance.now() - start);
      }
      found.set(name, times.sort((a, b) => a - b)[2]!);
    }
    return found;
  } finally {
    await t.close();
  }
}

async function main(): Promise<void> {
  const small = await measure(40, 2_000);
  const large = await measure(4_000, 200_000);
  for (const [name, ms] of large)
    console.log(
      `${name.padEnd(26)} ${ms.toFixed(0).padStart(6)} ms   ${(ms / small.get(name)!).toFixed(1).padStart(6)} times a hundredth of the data`,
    );
}

/** Rows as ten years leave them, made by the database itself; the balances at once, instead of posting by posting. */
async function fill(t: TestDatabase, households: number, charges: number): Promise<void> {
  const first = await t.db.selectFrom('charge').selectAll().executeTakeFirstOrThrow();
  const person = await t.db.selectFrom('coverage').selectAll().executeTakeFirstOrThrow();
  const client = await t.pool.connect();
  const run = (text: string) => client.query(text);
  const PAYER = `(select payer_id from plan where id = ${person.plan_id})`;
  try {
    await run('alter table posting disable trigger user');
    await run('alter table entry disable trigger user');
    await run('begin');
    await run(`set local session_replication_role = replica`);
    await run(
      `insert into household (last, first, line1, city, state, zip, phone) select 'Bulk', 'P' || n, '1 Row', 'Osprey Landing', 'WA', '98199', '555-' || n from generate_series(1, ${households}) n`,
    );
    await run(
      `insert into patient (household_id, last, first, birth_date, sex) select id, last, first, date '1950-01-01' + (id % 20000)::int, 'U' from household where last = 'Bulk'`,
    );
    await run(
      `insert into care_case (patient_id, name) select id, 'Standing' from patient where last = 'Bulk'`,
    );
    await run(
      `insert into coverage select (jsonb_populate_record(o, jsonb_build_object('id', o.id + c.id, 'case_id', c.id))).* from coverage o, care_case c join patient p on p.id = c.patient_id where o.id = ${person.id} and p.last = 'Bulk'`.replace(
        'insert into coverage select',
        'insert into coverage overriding system value select',
      ),
    );
    await run(
      `create temp table who on commit drop as select row_number() over () - 1 as n, p.household_id, p.id as patient_id, c.id as case_id, o.id as coverage_id from patient p join care_case c on c.patient_id = p.id join coverage o on o.case_id = c.id where p.last = 'Bulk'`,
    );
    await run('create index on who (n)');
    await run(`insert into charge (household_id, patient_id, case_id, coverage_id, provider_id, location_id, code, description, form, units, fee, service_date, diagnoses)
      select w.household_id, w.patient_id, w.case_id, w.coverage_id, ${first.provider_id}, ${first.location_id}, '99213', 'Office visit', 'professional', 1, 14500, date '2026-03-15' - ((${charges} - 1 - i) * 3650 / ${charges})::int, '{I10}'
      from generate_series(0, ${charges - 1}) i join who w on w.n = i % ${households}`);
    await run(
      `create temp table done on commit drop as select c.*, row_number() over (order by c.id) as n from charge c where description = 'Office visit'`,
    );
    await run(`insert into claim (control_number, household_id, patient_id, case_id, coverage_id, payer_id, location_id, provider_id, form, status, total, service_date, sent_date)
      select 'BK' || id, household_id, patient_id, case_id, coverage_id, (select payer_id from plan where id = ${person.plan_id}), location_id, provider_id, form, case when n % 50 = 0 then 'accepted' else 'closed' end, fee, service_date, service_date from done`);
    await run(
      `insert into claim_line (claim_id, number, charge_id, coverage_id) select m.id, 1, d.id, d.coverage_id from done d join claim m on m.control_number = 'BK' || d.id`,
    );
    await run(`create temp table booked (id bigint, n bigint) on commit drop`);
    await run(
      `with e as (insert into entry (kind, posting_date, business_date, user_id, memo, key) select 'charge', service_date, service_date, 'bulk', '', 'bulk-' || n from done returning id, key) insert into booked select id, substr(key, 6)::bigint from e`,
    );
    await run(
      `insert into posting (entry_id, account, amount, household_id, patient_id, charge_id, coverage_id, payer_id, provider_id) select b.id, x.account, x.amount, d.household_id, d.patient_id, d.id, d.coverage_id, ${PAYER}, d.provider_id from booked b join done d using (n), (values ('receivable/payer', 14500), ('income/fees', -14500)) x (account, amount)`,
    );
    await run('truncate booked');
    await run(
      `with e as (insert into entry (kind, posting_date, business_date, user_id, memo, key) select 'payer-decision', service_date + 14, service_date + 14, 'bulk', '', 'bulkd-' || n from done where n % 50 <> 0 returning id, key) insert into booked select id, substr(key, 7)::bigint from e`,
    );
    await run(`insert into posting (entry_id, account, amount, household_id, patient_id, charge_id, coverage_id, payer_id, reason_group, reason_code) select b.id, x.account, x.amount, d.household_id, d.patient_id, d.id, d.coverage_id, ${PAYER}, x.g, x.c from booked b join done d using (n),
      (values ('cash/transfer', 6800, null, null), ('reduction/contract', 4700, 'CO', '45'), ('receivable/patient', 3000, 'PR', '3'), ('receivable/payer', -14500, null, null)) x (account, amount, g, c)`);
    await run(
      `insert into charge_balance (charge_id, fee, payer_paid, patient_paid, reduced, with_payer, with_patient, patient_since) select id, fee, case when n % 50 = 0 then 0 else 6800 end, case when n % 50 < 2 then 0 else 3000 end, case when n % 50 = 0 then 0 else 4700 end, case when n % 50 = 0 then 14500 else 0 end, case when n % 50 = 1 then 3000 else 0 end, case when n % 50 <> 0 then service_date + 14 end from done`,
    );
    await run(
      `insert into payer_balance (charge_id, coverage_id, payer_id, with_payer, paid, reduced) select id, coverage_id, ${PAYER}, case when n % 50 = 0 then 14500 else 0 end, case when n % 50 = 0 then 0 else 6800 end, case when n % 50 = 0 then 0 else 4700 end from done`,
    );
    await run(
      `insert into household_balance (household_id, with_payer, with_patient) select c.household_id, sum(b.with_payer), sum(b.with_patient) from charge_balance b join charge c on c.id = b.charge_id where c.description = 'Office visit' group by 1`,
    );
    await run(
      `insert into receipt (household_id, amount, tender, business_date, user_id) select household_id, 3000, 'cash', service_date + 30, 'bulk' from done where n % 5 = 0`,
    );
    await run(
      `insert into statement (household_id, date, due_date, amount, content, user_id) select household_id, service_date + 20, service_date + 34, 3000, '{}', 'bulk' from done where n % 5 = 1`,
    );
    await run(
      `insert into remittance (payer_key, payer_name, trace, amount, method, payment_date, received_date, claims, status, content_key) select 'bulk', 'Cedar Sound Health', 'BT' || n, 100000 + n, 'ACH', date '2026-03-15' - (n % 3650)::int, date '2026-03-15', 40, 'posted', 'bulk ' || n from generate_series(1, 5000) n`,
    );
    await run('commit');
    await run('alter table posting enable trigger user');
    await run('alter table entry enable trigger user');
    await run('analyze');
  } finally {
    client.release();
  }
}

await main();
