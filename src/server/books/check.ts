/** Proves the invariants of the books from the postings. */
import { sql } from 'kysely';
import type { Db } from '../../db/connect';

/** One invariant with what breaks it; `faults` is empty when it holds. */
export interface BooksCheck {
  id: string;
  words: string;
  faults: string[];
}

const CHECKS: readonly { id: string; words: string; query: string }[] = [
  {
    id: 'trial-balance',
    words: 'The trial balance is zero',
    query: `select 'all postings sum to ' || sum(amount) as fault from posting having sum(amount) <> 0`,
  },
  {
    id: 'entries-balance',
    words: 'Every entry sums to zero and has at least two postings',
    query: `select 'entry ' || e.id || ' sums to ' || coalesce(sum(p.amount), 0) || ' over ' || count(p.id) || ' postings' as fault from entry e left join posting p on p.entry_id = e.id group by e.id having coalesce(sum(p.amount), 0) <> 0 or count(p.id) < 2`,
  },
  {
    id: 'charges-add-up',
    words: 'Every charge’s receivables are its fee less reductions less payments',
    query: `select 'charge ' || charge_id || ' is off by ' || sum(amount) as fault from posting where charge_id is not null group by charge_id having sum(amount) <> 0`,
  },
  {
    id: 'charge-fee',
    words: 'Every done charge is in the books once, at its fee; a void one is out of them',
    query: `select 'charge ' || c.id || ': fee ' || c.fee || ', booked ' || coalesce(b.booked, 0) as fault from charge c left join (select charge_id, -sum(amount) as booked from posting where account = 'income/fees' group by charge_id) b on b.charge_id = c.id where coalesce(b.booked, 0) <> case when c.status = 'done' then c.fee else 0 end`,
  },
  {
    id: 'charge-balances',
    words: 'Stored balances of charges equal their postings',
    query: `select 'charge ' || coalesce(b.charge_id, s.charge_id) as fault from charge_balance b full join (
      select charge_id, -coalesce(sum(amount) filter (where account like 'income/%'), 0) as fee,
        coalesce(sum(amount) filter (where account like 'cash/%' or account = 'credit/payer'), 0) as payer_paid, coalesce(sum(amount) filter (where account = 'credit/patient'), 0) as patient_paid,
        coalesce(sum(amount) filter (where account like 'reduction/%'), 0) as reduced, coalesce(sum(amount) filter (where account = 'receivable/payer'), 0) as with_payer,
        coalesce(sum(amount) filter (where account = 'receivable/patient'), 0) as with_patient, coalesce(sum(amount) filter (where account = 'receivable/plan'), 0) as on_plan,
        coalesce(sum(amount) filter (where account = 'receivable/agency'), 0) as at_agency
      from posting where charge_id is not null group by charge_id) s on s.charge_id = b.charge_id
      where (b.fee, b.payer_paid, b.patient_paid, b.reduced, b.with_payer, b.with_patient, b.on_plan, b.at_agency) is distinct from (s.fee, s.payer_paid, s.patient_paid, s.reduced, s.with_payer, s.with_patient, s.on_plan, s.at_agency)`,
  },
  {
    id: 'household-balances',
    words: 'Stored balances of households equal their postings',
    query: `select 'household ' || coalesce(b.household_id, s.household_id) as fault from household_balance b full join (
      select household_id, coalesce(sum(amount) filter (where account = 'receivable/payer'), 0) as with_payer, coalesce(sum(amount) filter (where account = 'receivable/patient'), 0) as with_patient,
        coalesce(sum(amount) filter (where account = 'receivable/plan'), 0) as on_plan, coalesce(sum(amount) filter (where account = 'receivable/agency'), 0) as at_agency, coalesce(-sum(amount) filter (where account = 'credit/patient'), 0) as credit
      from posting where household_id is not null group by household_id) s on s.household_id = b.household_id
      where (b.with_payer, b.with_patient, b.on_plan, b.at_agency, b.credit) is distinct from (coalesce(s.with_payer, 0), coalesce(s.with_patient, 0), coalesce(s.on_plan, 0), coalesce(s.at_agency, 0), coalesce(s.credit, 0))`,
  },
  {
    id: 'control-totals',
    words: 'Control totals equal the sums of the parts',
    query: `select 'receivables of households without a charge: ' || sum(amount) as fault from posting where account like 'receivable/%' and (charge_id is null or household_id is null) having sum(amount) <> 0
      union all select account || ': accounts hold ' || total || ', households ' || parts from (
        select 'credit/patient' as account, (select coalesce(-sum(amount), 0) from posting where account = 'credit/patient') as total, (select coalesce(sum(credit), 0) from household_balance) as parts
        union all select 'receivable/payer', (select coalesce(sum(amount), 0) from posting where account = 'receivable/payer'), (select coalesce(sum(with_payer), 0) from charge_balance)
        union all select 'receivable/patient', (select coalesce(sum(amount), 0) from posting where account = 'receivable/patient'), (select coalesce(sum(with_patient), 0) from charge_balance)) t where total <> parts`,
  },
  {
    id: 'below-zero',
    words: 'No receivable of a charge is below zero without an open follow-up',
    query: `select 'charge ' || b.charge_id as fault from charge_balance b where least(with_payer, with_patient, on_plan, at_agency) < 0 and not exists (select 1 from follow_up f where f.charge_id = b.charge_id and f.closed_at is null)`,
  },
  {
    id: 'credit-below-zero',
    words: 'No household’s credit is below zero',
    query: `select 'household ' || household_id || ' has a credit of ' || credit as fault from household_balance where credit < 0`,
  },
  {
    id: 'receipts',
    words: 'Every receipt is in the books at its amount, or reversed',
    query: `select 'receipt ' || r.id as fault from receipt r left join (select p.receipt_id, sum(p.amount) as booked from posting p where p.account like 'cash/%' and p.receipt_id is not null group by p.receipt_id) b on b.receipt_id = r.id
      where coalesce(b.booked, -1) not in (r.amount, 0)`,
  },
  {
    id: 'remittances',
    words: 'What is in the books of a posted remittance is its payment',
    query: `select 'remittance ' || r.id || ' (' || r.trace || '): payment ' || r.amount || ', booked ' || coalesce(sum(p.amount), 0) as fault from remittance r
      left join posting p on p.remittance_id = r.id and p.account like 'cash/%' left join entry e on e.id = p.entry_id
      where r.status = 'posted' and not exists (select 1 from remittance_claim c where c.remittance_id = r.id and c.status = 'reversed') group by r.id having coalesce(sum(p.amount), 0) <> r.amount`,
  },
  {
    id: 'reversals',
    words: 'Every reversal mirrors what it reverses',
    query: `select 'entry ' || e.id as fault from entry e join posting p on p.entry_id in (e.id, e.reverses) where e.reverses is not null group by e.id, p.account, coalesce(p.charge_id, 0), coalesce(p.household_id, 0) having sum(p.amount) <> 0`,
  },
];

/** Runs every check, in one snapshot of the database. */
export async function checkBooks(db: Db): Promise<BooksCheck[]> {
  return db
    .transaction()
    .setIsolationLevel('repeatable read')
    .execute(async (tx) => {
      const results: BooksCheck[] = [];
      for (const { id, words, query } of CHECKS) {
        const { rows } = await sql<{
          fault: string;
        }>`select fault from (${sql.raw(query)}) q order by fault limit 50`.execute(tx);
        results.push({ id, words, faults: rows.map((row) => row.fault) });
      }
      return results;
    });
}
