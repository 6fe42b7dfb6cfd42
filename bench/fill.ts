/** Ten years of a practice, made by the database itself: every row that such years leave, with its entries and postings. */
import type { TestDatabase } from '../src/testing/database';
import { charge, household } from '../src/testing/desk';

/** Charges are booked so many to a statement. */
const LOT = 2_000;

/**
 * Fills a database: households with coverage, charges on claims, decided by remittances of forty claims but for one in
 * fifty, and paid by the patient but for one in `unpaid`. The balances are made by the triggers, so the books are proven.
 */
export async function fill(t: TestDatabase, households: number, charges: number, unpaid = 50): Promise<void> {
  const self = await household(t);
  await charge(t, t.context, self.patientId, '145.00');
  const first = await t.db.selectFrom('charge').selectAll().executeTakeFirstOrThrow();
  const person = await t.db.selectFrom('covered').selectAll().executeTakeFirstOrThrow();
  const client = await t.pool.connect();
  const run = (text: string) => client.query(text);
  /** Writes an entry for each charge of `done` that is meant, with its postings. */
  const book = async (kind: string, days: number, which: string, postings: string, about: string) => {
    for (let from = 0; from < charges; from += LOT)
      await run(`with d as materialized (select * from done where n >= ${from} and n < ${from + LOT} and ${which}),
        e as (
          insert into entry (kind, posting_date, business_date, user_id, memo, key)
          select '${kind}', service_date + ${days}, service_date + ${days}, 'bulk', '', 'bulk:${kind}:' || n
          from d
          returning id, key
        )
        insert into posting (
          entry_id, account, amount, household_id, patient_id, case_id, charge_id, coverage_id, payer_id, claim_id,
          remittance_id, remittance_claim_id, receipt_id, provider_id, location_id, reason_group, reason_code,
          tender_id, place_id
        )
        select e.id, x.account, x.amount, d.household_id, d.patient_id, d.case_id, ${about}, d.provider_id,
          d.location_id, x.g, x.c, case x.account when 'cash/cash' then d.tender_id end,
          case x.account when 'cash/cash' then d.place_id end
        from e
          join d
            on d.n = substr(e.key, ${`bulk:${kind}:`.length + 1})::bigint,
            (values ${postings}) x (account, amount, g, c)`);
  };
  try {
    await run('set synchronous_commit = off');
    await run(
      `
        insert into household (last, first, line1, city, state, zip, phone)
        select 'Bulk', 'P' || n, '1 Row', 'Osprey Landing', 'WA', '98199', '555-' || n
        from generate_series(1, ${households}) n`,
    );
    // What is written here refers to what is there: only the rules of the books, which nobody can turn off so, are kept.
    await run('set session_replication_role = replica');
    await run(
      `
        insert into patient (household_id, last, first, birth_date, sex)
        select id, last, first, date '1950-01-01' + (id % 20000)::int, 'U'
        from household
        where last = 'Bulk'`,
    );
    await run(
      `insert into care_case (patient_id, name) select id, 'Standing' from patient where last = 'Bulk'`,
    );
    // Everybody has a policy of the first one's plan.
    await run(`insert into party (patient_id) select id from patient where last = 'Bulk'`);
    await run(
      `
        insert into policy (insurance_plan_id, holder_id)
        select ${person.insurance_plan_id}, h.id
        from party h
          join patient p on p.id = h.patient_id
        where p.last = 'Bulk'`,
    );
    await run(
      `
        with insured as (
          insert into policy_person (policy_id, patient_id, relationship)
          select q.id, p.id, 'self'
          from policy q
            join party h on h.id = q.holder_id
            join patient p on p.id = h.patient_id
          where p.last = 'Bulk'
          returning id
        )
        insert into policy_number (policy_person_id, member_id) select id, 'BULK' || id from insured`,
    );
    await run(
      `
        insert into coverage (case_id, position, policy_id)
        select c.id, 1, r.policy_id
        from care_case c
          join patient p on p.id = c.patient_id
          join policy_person r on r.patient_id = p.id
        where p.last = 'Bulk'`,
    );
    await run(
      `
        create temp table who as
        select row_number() over () - 1 as n, p.household_id, p.id as patient_id, c.id as case_id,
          o.id as coverage_id
        from patient p
          join care_case c on c.patient_id = p.id
          join coverage o on o.case_id = c.id
        where p.last = 'Bulk'`,
    );
    await run('create index on who (n)');
    await run(`
      insert into charge (
        household_id, patient_id, case_id, coverage_id, provider_id, location_id, code, description, form, units,
        fee, service_date, diagnoses
      )
      select w.household_id, w.patient_id, w.case_id, w.coverage_id, ${first.provider_id}, ${first.location_id},
        '99213', 'Office visit', 'professional', 1, 14500,
        date '2026-03-15' - ((${charges} - 1 - i) * 3650 / ${charges})::int, '{I10}'
      from generate_series(0, ${charges - 1}) i join who w on w.n = i % ${households}`);
    const { rows } = await run(
      `
        insert into transmission (
          connection_id, control_number, file_name, content, claims, total, business_date, written_at, usage
        )
        select id, 'BULK', 'bulk', '', 0, 0, '2026-03-15', now(), 'T'
        from connection
        limit 1
        returning id`,
    );
    await run(`
      insert into claim (
        control_number, household_id, patient_id, case_id, coverage_id, position, payer_id, location_id, provider_id, form,
        total, service_date, status, content, transmission_id, sent_date, sent_by
      )
      select 'BK' || id, household_id, patient_id, case_id, coverage_id, 1, ${person.payer_id}, location_id, provider_id, form,
        fee, service_date,
        case when (row_number() over (order by id) - 1) % 50 = 0 then 'accepted' else 'closed' end, '{}',
        ${rows[0].id}, service_date, 'file'
      from charge where description = 'Office visit' and id <> ${first.id}`);
    await run(
      `
        insert into claim_line (claim_id, number, charge_id, coverage_id, expected_allowed)
        -- Of one in fifty the contract says more than its payer allows.
        select m.id, 1, c.id, c.coverage_id, case when c.id % 50 = 0 then 11000 else 9800 end
        from charge c
          join claim m on m.control_number = 'BK' || c.id`,
    );
    await run(`
      create temp table done as
      select c.*, m.id as claim_id, row_number() over (order by c.id) - 1 as n, null::bigint as remittance_id,
        null::bigint as remittance_claim_id, null::bigint as receipt_id, null::bigint as tender_id,
        null::bigint as place_id
      from charge c join claim m on m.control_number = 'BK' || c.id`);
    await run('create unique index on done (n)');
    await run(`
      insert into remittance (
        payer_id, payer_key, payer_name, trace, amount, method, payment_date, received_date, claims, status,
        content_key, posted_at
      )
      select ${person.payer_id}, 'bulk', 'Cedar Sound Health', 'BT' || lot, 6800 * count(*), 'ACH', max(service_date) + 14,
        max(service_date) + 14, count(*), 'posted', 'bulk ' || lot, now()
      from (select n / 40 as lot, service_date from done where n % 50 <> 0) x
      group by lot`);
    await run(`
      insert into remittance_claim (remittance_id, number, control_number, claim_id, content, charge, paid, status)
      select r.id, d.n % 40 + 1, 'BK' || d.id, d.claim_id, '{}', 14500, 6800, 'posted'
      from done d
        join remittance r on r.trace = 'BT' || (d.n / 40)
      where d.n % 50 <> 0`);
    await run(
      `update done d set remittance_id = c.remittance_id, remittance_claim_id = c.id from remittance_claim c where c.claim_id = d.claim_id`,
    );
    await run(
      `
        update done set receipt_id = nextval(pg_get_serial_sequence('receipt', 'id'))
        where n % 50 > 0 and n % ${unpaid} <> 1`,
    );
    await run(
      `
        insert into receipt (id, household_id, amount, received_on, user_id) overriding system value
        select receipt_id, household_id, 3000, service_date + 30, 'bulk' from done where receipt_id is not null`,
    );
    await run(
      `
        insert into tender (receipt_id, kind, amount, place_id)
        select id, 'cash', amount, (select min(id) from place where kind = 'undeposited')
        from receipt
        where user_id = 'bulk'`,
    );
    await run(
      `update done d set tender_id = t.id, place_id = t.place_id from tender t where t.receipt_id = d.receipt_id`,
    );
    await run('vacuum analyze');
    const charged = 'd.id, d.coverage_id, ' + person.payer_id + ', null, null, null, null::bigint';
    await book(
      'charge',
      0,
      'true',
      `('receivable/payer', 14500, null, null), ('income/fees', -14500, null, null)`,
      charged,
    );
    await book(
      'payer-decision',
      14,
      'n % 50 <> 0',
      `('cash/transfer', 6800, null, null), ('reduction/contract', 4700, 'CO', '45'), ('receivable/patient', 3000, 'PR', '3'), ('receivable/payer', -14500, null, null)`,
      `d.id, d.coverage_id, ${person.payer_id}, d.claim_id, d.remittance_id, d.remittance_claim_id, null::bigint`,
    );
    await book(
      'receipt',
      30,
      'receipt_id is not null',
      `('cash/cash', 3000, null, null), ('credit/patient', -3000, null, null)`,
      'null::bigint, null::bigint, null::bigint, null::bigint, null::bigint, null::bigint, d.receipt_id',
    );
    await book(
      'allocation',
      30,
      'receipt_id is not null',
      `('credit/patient', 3000, null, null), ('receivable/patient', -3000, null, null)`,
      'd.id, null::bigint, null::bigint, null::bigint, null::bigint, null::bigint, d.receipt_id',
    );
    // The paper of all of them is one: what is measured is how many there are.
    await run(
      `
        insert into document (sha256, media, bytes, pages)
        values (repeat('0', 64), 'application/pdf', '', 1)
        on conflict do nothing`,
    );
    await run(
      `
        with p as (
          insert into mail_piece (
            household_id, delivery, status, amount, date, due_date, options, content, document, pages, sent_at
          )
        select household_id, 'mail', 'sent', 3000, service_date + 20, service_date + 34, '{}', '{}',
          repeat('0', 64), 1, now()
        from done
        where n % 5 = 1
        returning id, household_id, amount, date, due_date)
        insert into statement (household_id, piece_id, date, due_date, amount, user_id)
        select household_id, id, date, due_date, amount, 'bulk'
        from p`,
    );
    await run('set session_replication_role = origin');
    await run('drop table done, who');
    await run('vacuum analyze');
  } finally {
    client.release();
  }
}

/** Charges of the last days, in the books and on no claim. @param claims so many, over all patients */
export async function visits(t: TestDatabase, claims: number): Promise<void> {
  await t.pool.query(
    `
      insert into charge (
        household_id, patient_id, case_id, coverage_id, provider_id, location_id, code, description, form, units,
        fee, service_date, diagnoses
      )
     select c.household_id, c.patient_id, c.case_id, c.coverage_id, c.provider_id, c.location_id, c.code, 'Evening',
       c.form, 1, 14500, date '2026-03-16' - (i / c.many)::int, '{I10}'
     from generate_series(0, ${claims - 1}) i
       join (
         select *, row_number() over (order by id) - 1 as n, count(*) over () as many
         from (
           select distinct on (patient_id) * from charge where description = 'Office visit' order by patient_id, id
         ) p
       ) c
         on c.n = i % c.many`,
  );
  await t.pool.query(
    `
      with e as (
        insert into entry (kind, posting_date, business_date, user_id, memo, key)
        select 'charge', '2026-03-16', service_date, 'bulk', '', 'charge:' || id
        from charge
        where description = 'Evening'
        returning id, key
      )
     insert into posting (
       entry_id, account, amount, household_id, patient_id, case_id, charge_id, coverage_id, payer_id, provider_id,
       location_id
     )
     select e.id, x.account, x.amount, c.household_id, c.patient_id, c.case_id, c.id, c.coverage_id, n.payer_id,
       c.provider_id, c.location_id
     from e
       join charge c on c.id = substr(e.key, 8)::bigint
       join coverage_plan n on n.id = c.coverage_id, (values ('receivable/payer', 14500), ('income/fees', -14500)) x (account, amount)`,
  );
  await t.pool.query('vacuum analyze');
}
