/** Proves the invariants of the books from the postings. */
import { DONE } from '../../core/claims/life';
import { statesText } from '../claim-states';
import { sql } from 'kysely';
import { CHARGE_PARTS, type ChargePart } from '../../core/books/accounts';
import { ACCOUNT_CHARGES } from '../../core/books/entries/charges';
import { DIMENSIONS } from '../../core/books/dimensions';
import { ENTRY_KINDS } from '../../core/books/kinds';
import type { Db } from '../../db/connect';
import { GOES_OVER } from '../../db/migrations/foundation/merge';

/** One invariant with what breaks it; `faults` is empty when it holds. */
export interface BooksCheck {
  id: string;
  words: string;
  faults: string[];
}

/** What was charged stands on the credit side of the books, everything else on the debit side. */
const CREDIT_SIDE: readonly ChargePart[] = ['fee', 'tax', 'added', 'opened'];
const partSums = CHARGE_PARTS.map(
  (part) =>
    `coalesce(${CREDIT_SIDE.includes(part) ? '-' : ''}sum(p.amount) filter (where a.part = '${part}'), 0) as ${part}`,
).join(', ');
const columns = (table: string, names: readonly string[]): string =>
  names.map((name) => `${table}.${name}`).join(', ');

/** What is put on an account is booked on its own income, a service on fees and tax. */
const BOOKED_PART = `case c.kind when 'service' then 'fee' when 'opening' then 'opened' else 'added' end`;
const ACCOUNT_OF = Object.entries(ACCOUNT_CHARGES)
  .map(([kind, { account }]) => `when '${kind}' then '${account}'`)
  .join(' ');

const NEEDS = Object.entries(ENTRY_KINDS)
  .flatMap(([kind, { needs }]) =>
    needs.map((name) => `(e.kind = '${kind}' and p.${DIMENSIONS[name]} is null)`),
  )
  .join(' or ');

const HOLDINGS = ['with_payer', 'with_patient', 'on_plan', 'at_agency'] as const;

const CHECKS: readonly { id: string; words: string; query: string }[] = [
  {
    id: 'closed-periods',
    words: 'In a closed period stands what stood there when it was closed',
    query: `
      select
        'the period through ' || k.through || ' was closed with ' || k.entries || ' entries and has ' || e.n as
          fault
      from period_closed k
        cross join lateral (select count(*) as n from entry where posting_date <= k.through) e
      where e.n <> k.entries
      union all
      select
        'the practice says that ' || coalesce(
          closed_through::text, 'no day'
        ) || ' is closed, and what was closed that ' || coalesce(
          max(k.through)::text, 'none is'
        )
      from practice
        left join period_closed k on true
      group by practice.id
      having closed_through is distinct from max(k.through)`,
  },
  {
    id: 'trial-balance',
    words: 'The trial balance is zero',
    query: `select 'all postings sum to ' || sum(amount) as fault from posting having sum(amount) <> 0`,
  },
  {
    id: 'entries-balance',
    words: 'Every entry sums to zero and has at least two postings',
    query: `
      select
        'entry ' || e.id || ' sums to ' || coalesce(sum(p.amount), 0) || ' over ' || count(p.id) || ' postings' as
          fault
      from entry e
        left join posting p on p.entry_id = e.id
      group by e.id
      having coalesce(sum(p.amount), 0) <> 0 or count(p.id) < 2`,
  },
  {
    id: 'entries-carry',
    words: 'Every posting carries what its kind of entry needs',
    query: `
      select 'posting ' || p.id || ' of a ' || e.kind as fault
      from posting p
        join entry e on e.id = p.entry_id
      where ${NEEDS}`,
  },
  {
    id: 'charges-add-up',
    words: 'Every charge’s receivables are what was charged less reductions less payments',
    query: `
      select 'charge ' || charge_id || ' is off by ' || sum(amount) as fault
      from posting
      where charge_id is not null
      group by charge_id
      having sum(amount) <> 0`,
  },
  {
    id: 'charge-fee',
    words:
      'Every done charge is in the books once, at its amount and on its own income; a void one is out of them',
    query: `
      select 'charge ' || c.id || ': ' || (c.fee + c.tax) || ', booked ' || coalesce(b.amount, 0) as fault
      from charge c
      left join (
        select p.charge_id, -sum(p.amount) filter (where a.part = ${BOOKED_PART}) as amount,
          -coalesce(sum(p.amount) filter (where a.part = 'tax'), 0) as tax,
          bool_or(
            a.part in ('fee', 'tax', 'added', 'opened')
              and a.part <> ${BOOKED_PART}
              and not (c.kind = 'service' and a.part = 'tax')
          ) as elsewhere,
          bool_or(
            c.kind <> 'service' and a.part = ${BOOKED_PART} and p.account <> case c.kind ${ACCOUNT_OF} end
          ) as other
        from posting p
          join charge c on c.id = p.charge_id
          join book_account a on a.code = p.account
        group by p.charge_id) b on b.charge_id = c.id
      where coalesce(b.amount, 0) <> case when c.status = 'done' then c.fee else 0 end
        or coalesce(b.tax, 0) <> case when c.status = 'done' then c.tax else 0 end
        or b.elsewhere
        or b.other`,
  },
  {
    id: 'asked-of-payer',
    words:
      'What a service puts with payers is what claims ask for, of its first coverage alone; with none, nothing',
    query: `
      select 'charge ' || c.id || ': claims ask for ' || c.billed || ', with payers ' || b.own || ' and ' || b.others as
        fault
      from charge c
        cross join lateral (
          select coalesce(sum(p.amount) filter (where p.coverage_id = c.coverage_id), 0) as own,
            coalesce(sum(abs(p.amount)) filter (where p.coverage_id is distinct from c.coverage_id), 0) as others
          from (
            select p.coverage_id, sum(p.amount) as amount
            from posting p
              join entry e on e.id = p.entry_id
              left join entry x on x.id = e.reverses
            where p.charge_id = c.id
              and p.account = 'receivable/payer'
              and coalesce(x.kind, e.kind) in ('charge', 'charge-correction', 'coverage-change')
            group by p.coverage_id
          ) p
        ) b
      where c.kind = 'service'
        and (
          b.own <> case when c.status = 'done' and c.coverage_id is not null then c.billed else 0 end
            or b.others <> 0
        )`,
  },
  {
    id: 'charge-balances',
    words: 'Stored balances of charges equal their postings',
    query: `select 'charge ' || coalesce(b.charge_id, s.charge_id) as fault from charge_balance b full join (
      select p.charge_id, ${partSums}
      from posting p
        join book_account a on a.code = p.account
      where p.charge_id is not null
      group by p.charge_id) s on s.charge_id = b.charge_id
      where (${columns('b', CHARGE_PARTS)}) is distinct from (${columns('s', CHARGE_PARTS)})`,
  },
  {
    id: 'payer-balances',
    words:
      'Stored balances of each payer of a charge equal their postings, and together what the charge has with payers',
    query: `
      select
        'charge ' || coalesce(b.charge_id, s.charge_id) || ', coverage ' || coalesce(
          b.coverage_id, s.coverage_id
        ) as fault
      from payer_balance b full
        join (
      select p.charge_id, p.coverage_id,
        coalesce(sum(p.amount) filter (where a.part = 'with_payer'), 0) as with_payer,
        coalesce(sum(p.amount) filter (where a.part = 'payer_paid'), 0) as paid,
        coalesce(sum(p.amount) filter (where a.part = 'reduced'), 0) as reduced
      from posting p
        join book_account a on a.code = p.account
      where p.charge_id is not null
        and p.coverage_id is not null
        and p.payer_id is not null
        and a.part in ('with_payer', 'payer_paid', 'reduced')
      group by 1, 2) s on s.charge_id = b.charge_id and s.coverage_id = b.coverage_id
      where (b.with_payer, b.paid, b.reduced) is distinct from (s.with_payer, s.paid, s.reduced)
      union all
      select
        'charge ' || c.charge_id || ': with payers ' || c.with_payer || ', by coverage ' ||
          coalesce(sum(b.with_payer), 0)
      from charge_balance c
        left join payer_balance b on b.charge_id = c.charge_id
      group by c.charge_id, c.with_payer
      having c.with_payer <> coalesce(sum(b.with_payer), 0)
      union all
      select 'charge ' || b.charge_id || ', coverage ' || b.coverage_id || ': of another payer than its plan'
      from payer_balance b
        join coverage_plan o on o.id = b.coverage_id
      where o.payer_id <> b.payer_id`,
  },
  {
    id: 'benefits-used',
    words: 'What is used of policies, by charge and by person and year, is what payers have decided',
    query: `
      with counted as (
        select p.charge_id, p.coverage_id, 'maximum' as kind, sum(p.amount) as quantity
        from posting p
          join book_account a on a.code = p.account
        where a.part = 'payer_paid' and p.charge_id is not null and p.coverage_id is not null
        group by 1, 2
        union all
        select charge_id, coverage_id, 'deductible', -sum(amount)
        from posting
        where account = 'receivable/payer'
          and reason_group = 'PR'
          and reason_code = '1'
          and charge_id is not null
          and coverage_id is not null
        group by 1, 2
        union all
        select charge_id, coverage_id, 'out-of-pocket', -sum(amount)
        from posting
        where account = 'receivable/payer'
          and reason_group = 'PR'
          and reason_code in ('1', '2', '3')
          and charge_id is not null
          and coverage_id is not null
        group by 1, 2
      )
      select 'charge ' || charge_id || ', coverage ' || coverage_id || ': ' || kind || ' ' || coalesce(u.quantity, 0) ||
        ', decided ' || coalesce(c.quantity, 0) as fault
      from benefit_use u
        full join counted c using (charge_id, coverage_id, kind)
      where coalesce(u.quantity, 0) <> coalesce(c.quantity, 0)
      union all
      select 'policy ' || policy_id || ', person ' || patient_id || ', ' || period_start || ': ' || kind || ' ' ||
        coalesce(b.quantity, 0) || ', decided ' || coalesce(s.quantity, 0)
      from benefit_counter b
        full join (
          select o.policy_id, k.patient_id, c.kind, date_trunc('year', h.service_date)::date as period_start,
            sum(c.quantity) as quantity
          from counted c
            join charge h on h.id = c.charge_id
            join coverage o on o.id = c.coverage_id
            join care_case k on k.id = o.case_id
          group by 1, 2, 3, 4) s using (policy_id, patient_id, kind, period_start)
      where coalesce(b.quantity, 0) <> coalesce(s.quantity, 0)`,
  },
  {
    id: 'passed-to-patients',
    words:
      'What a payer took off under its own groups (CO, PI) is the patient’s by a stated exception alone, and what may never be collected is with no patient',
    query: `
      select
        'charge ' || t.charge_id || ': ' || w.refused || ' was taken off by the payer and passed to the patient' as
          fault
      from (
        select p.charge_id, p.coverage_id, e.id
        from posting p
          join entry e on e.id = p.entry_id
        where e.kind = 'to-patient'
          and e.exception is null
          and p.account = 'receivable/patient'
          and p.amount > 0
          and not exists (select 1 from entry x where x.reverses = e.id)) t
        cross join lateral (
          select -sum(p.amount) as refused
          from posting p
          where p.charge_id = t.charge_id
            and p.entry_id = last_word(t.charge_id, t.coverage_id, t.id)
            and p.reason_group in ('CO', 'PI')
        ) w
      where w.refused > 0
        and (
          select coalesce(sum(p.amount), 0)
          from posting p
            join entry e on e.id = p.entry_id
            left join entry x on x.id = e.reverses
          where p.charge_id = t.charge_id
            and p.coverage_id = t.coverage_id
            and p.account = 'receivable/patient'
            and coalesce(x.kind, e.kind) = 'to-patient'
        ) > 0
      union all
      select
        'charge ' || r.charge_id || ': ' || (
          never_collected(r.charge_id) - taken_off(r.charge_id)
        ) || ' may never be collected'
      from (select distinct charge_id from posting where remark_code is not null) r
      where never_collected(r.charge_id) > taken_off(r.charge_id)`,
  },
  {
    id: 'debt-layers',
    words:
      'The layers of a debt are what entries that stand made the patient’s and took off, and what is open of them is what is owed',
    query: `
      select
        'charge ' || coalesce(
          d.charge_id, s.charge_id
        ) || ', entry ' || coalesce(d.entry_id, s.entry_id) || ': ' || coalesce(d.raised,
        0) || ' of ' || coalesce(d.since::text, 'no day') || ', moved ' || coalesce(s.raised,
        0) || ' of ' || coalesce(s.since::text, 'no day') as fault
        from debt_layer d full join (
          select p.charge_id, p.entry_id,
            coalesce(
              p.since, case k.ages_from when 'business' then e.business_date else e.posting_date end
            ) as since,
            sum(p.amount) as raised
          from posting p
            join book_account a on a.code = p.account
            join entry e on e.id = p.entry_id
            join entry_kind k on k.code = e.kind
          where p.charge_id is not null
            and a.part in ('with_patient', 'on_plan', 'at_agency')
            and e.reverses is null
            and not exists (select 1 from entry r where r.reverses = e.id)
          group by p.charge_id, p.entry_id, 3
          having sum(p.amount) <> 0) s on (s.charge_id, s.entry_id, s.since) = (d.charge_id, d.entry_id,
          d.since) where d.raised is distinct from s.raised
      union all
      select
        'charge ' || b.charge_id || ' owes ' || (
          b.with_patient + b.on_plan + b.at_agency
        ) || ', open in layers ' || coalesce(s.open,
        0) || ', of which with the patient ' || coalesce(s.with_patient, 0) || ', since ' || coalesce(s.since::text,
        'never')
        from charge_balance b
          left join (
            select charge_id, sum(open) as open, sum(with_patient) as with_patient,
              min(since) filter (where open > 0) as since
            from debt_layer
            group by 1
          ) s
            on s.charge_id = b.charge_id
        where coalesce(s.open, 0) <> greatest(0, b.with_patient + b.on_plan + b.at_agency)
          or coalesce(s.with_patient, 0) <> least(greatest(0, b.with_patient), coalesce(s.open, 0))
          or s.since is distinct from b.patient_since
      union all
      select
        'charge ' || d.charge_id || ', entry ' || d.entry_id || ': ' || d.open || ' is open, ' || n.open ||
          ' by what came off'
      from debt_layer d
        join debt_layers((select array_agg(charge_id) from debt_layer)) n
          on (n.charge_id, n.entry_id, n.since) = (d.charge_id, d.entry_id, d.since)
        where (n.open, n.with_patient) is distinct from (d.open, d.with_patient)`,
  },
  {
    id: 'household-balances',
    words: 'Stored balances of households equal their postings',
    query: `
      select 'household ' || coalesce(b.household_id, s.household_id) as fault from household_balance b full join (
      select coalesce(h.merged_into, h.id) as household_id,
        ${HOLDINGS.map((part) => `coalesce(sum(p.amount) filter (where a.part = '${part}'), 0) as ${part}`).join(', ')},
        coalesce(-sum(p.amount) filter (where a.code = 'credit/patient'), 0) as credit
      from posting p
        join book_account a on a.code = p.account
        join household h on h.id = p.household_id
      group by 1) s on s.household_id = b.household_id
      where (${columns('b', [...HOLDINGS, 'credit'])}) is distinct from (
        ${[...HOLDINGS, 'credit'].map((name) => `coalesce(s.${name}, 0)`).join(', ')}
      )`,
  },
  {
    id: 'postings-belong',
    words:
      'Every posting belongs where it stands: its charge, coverage and receipt are of its household, its payer and its case are the coverage’s, a household’s credit has its receipt and a payer’s cash its remittance',
    query: `
      select 'posting ' || p.id || ' on ' || p.account as fault
      from posting p
        join book_account a on a.code = p.account
      left join household h on h.id = p.household_id
      left join charge c on c.id = p.charge_id
      left join receipt r on r.id = p.receipt_id
      left join coverage o on o.id = p.coverage_id
      left join policy q on q.id = o.policy_id
      left join insurance_plan n on n.id = q.insurance_plan_id
      where c.household_id is distinct from coalesce(h.merged_into, h.id) and c.id is not null
        or (
          r.household_id <> coalesce(h.merged_into, h.id)
            and not exists (
              select 1
              from receipt_household x
              where x.receipt_id = r.id and x.household_id = coalesce(h.merged_into, h.id)
            )
        )
        or o.case_id is distinct from p.case_id and o.id is not null
        or n.payer_id <> payer_now(p.payer_id)
      or (p.account = 'credit/patient' and p.receipt_id is null)
        or (a.class = 'cash' and p.charge_id is not null and p.remittance_id is null)`,
  },
  {
    id: 'payer-credit',
    words: 'The credit of payers is what provider adjustments have left there and what is held of claims',
    query: `
      select
        'provider adjustment ' || coalesce(
          b.provider_adjustment_id, s.provider_adjustment_id
        ) || ': ' || coalesce(b.open, 0) || ', booked ' || coalesce(s.open, 0) as fault
      from provider_adjustment_balance b full
        join (
        select provider_adjustment_id, -sum(amount) as open
        from posting
        where account = 'credit/payer' and provider_adjustment_id is not null
        group by 1) s on s.provider_adjustment_id = b.provider_adjustment_id where coalesce(b.open,
          0) <> coalesce(s.open, 0)
      union all select 'remittance claim ' || c.id || ' is ' || c.status || ' with a credit of ' || s.open from (
        select remittance_claim_id, -sum(amount) as open
        from posting
        where account = 'credit/payer' and remittance_claim_id is not null
        group by 1
        having sum(amount) <>
          0) s join remittance_claim c on c.id = s.remittance_claim_id where c.status not in ('unmatched',
        'kept')
      union all
      select 'credit of payers that nothing explains: ' || -sum(amount)
      from posting
      where account = 'credit/payer' and remittance_claim_id is null and provider_adjustment_id is null
      having count(*) > 0`,
  },
  {
    id: 'receipt-balances',
    words: 'Stored balances of receipts equal their postings',
    query: `select 'receipt ' || coalesce(b.receipt_id, s.receipt_id) as fault from receipt_balance b full join (
      select p.receipt_id,
        coalesce(sum(p.amount) filter (where a.class = 'cash' or a.code = 'credit/agency'), 0) as booked,
        coalesce(-sum(p.amount) filter (where a.code = 'credit/patient'), 0) as held
      from posting p
        join book_account a on a.code = p.account
      where p.receipt_id is not null
      group by 1) s on s.receipt_id = b.receipt_id where (b.booked, b.held) is distinct from (s.booked, s.held)`,
  },
  {
    id: 'plans',
    words: 'What is on plans is on running ones, of their own account, and no plan has less than nothing',
    query: `
      select
        'plan ' || l.number || ', which is ' || l.status || ', holds ' || s.open || ' of charge ' || s.charge_id as
          fault
      from (
      select p.plan_id, p.charge_id, coalesce(h.merged_into, h.id) as household_id, sum(p.amount) as open
      from posting p
        join household h on h.id = p.household_id
      where p.account = 'receivable/plan'
      group by 1, 2, 3
      having sum(p.amount) <> 0) s join payment_plan l on l.id = s.plan_id
      where l.status <> 'accepted' or s.open < 0 or l.household_id <> s.household_id
      union all
      select 'posting ' || id || ' is on no plan'
      from posting
      where account = 'receivable/plan' and plan_id is null
      union all
      select 'plan ' || l.number || ' runs and holds nothing'
      from payment_plan l
      where l.status = 'accepted'
        and not exists (
          select 1
          from part_hold_place k
            join part_hold h on h.id = k.hold_id and h.ended_on is null
          where k.plan_id = l.id and k.amount > 0
        )
        and not exists (
          select 1 from posting p where p.plan_id = l.id and p.account = 'receivable/plan' having sum(p.amount) > 0
        )`,
  },
  {
    id: 'placements',
    words:
      'What is with agencies is on placements that they have, of their own account; what they paid is in the books once, and nothing of it is left over',
    query: `
      select
        'placement ' || l.number || ', which is ' || l.status || ', holds ' || s.open || ' of charge ' ||
          s.charge_id as fault
      from (
      select p.placement_id, p.charge_id, coalesce(h.merged_into, h.id) as household_id, sum(p.amount) as open
      from posting p
        join household h on h.id = p.household_id
      where p.account = 'receivable/agency'
      group by 1, 2, 3
      having sum(p.amount) <> 0) s join placement l on l.id = s.placement_id
      where l.status not in ('placed', 'accepted') or s.open < 0 or l.household_id <> s.household_id
      union all
      select 'posting ' || id || ' is on no placement'
      from posting
      where account in ('receivable/agency', 'credit/agency') and placement_id is null
      union all
      select 'placement ' || l.number || ' is with the agency and holds nothing'
      from placement l
      where l.status in ('placed', 'accepted')
        and not exists (
          select 1
          from part_hold_place k
            join part_hold h on h.id = k.hold_id and h.ended_on is null
          where k.placement_id = l.id and k.amount > 0
        )
        and not exists (
          select 1
          from posting p
          where p.placement_id = l.id and p.account = 'receivable/agency'
          having sum(p.amount) > 0
        )
      union all
      select 'placement ' || placement_id || ': ' || -sum(amount) || ' of the agency is on no charge'
      from posting
      where account = 'credit/agency'
      group by placement_id
      having sum(amount) <> 0
      union all
      select
        'payment ' || y.id || ' of placement ' || y.placement_id || ': ' || y.gross || ', booked ' ||
          coalesce(-b.amount, 0)
      from agency_payment y
        left join (
        select coalesce(e.reverses, e.id) as entry_id, sum(p.amount) as amount
        from posting p
          join entry e on e.id = p.entry_id
        where p.account = 'receivable/agency'
        group by 1) b on b.entry_id = y.entry_id
        where coalesce(-b.amount, 0) <> case when y.reversed_on is null then y.gross else 0 end
      union all
      select 'entry ' || e.id || ' of an agency is no payment of it'
      from entry e
      where e.kind in ('agency-payment', 'agency-direct')
        and not exists (select 1 from agency_payment y where y.entry_id = e.id)`,
  },
  {
    id: 'month-totals',
    words: 'Kept sums by month equal the postings that they sum',
    query: `
      select coalesce(b.month, s.month) || ' on ' || coalesce(b.account, s.account) as fault
      from month_total b full
        join (
      select date_trunc('month', e.business_date)::date as month, p.account,
        p.remittance_id is not null as remitted, p.receipt_id is not null as received, sum(p.amount) as amount
      from entry e
        join months_kept k on e.posting_date <= k.through
        join posting p on p.entry_id = e.id
      group by 1, 2, 3, 4) s on (s.month, s.account, s.remitted, s.received) = (b.month, b.account, b.remitted,
        b.received)
      where coalesce(b.amount, 0) <> coalesce(s.amount, 0)`,
  },
  {
    id: 'control-totals',
    words: 'Control totals equal the sums of the parts',
    query: `
      select 'posting ' || p.id || ' on ' || p.account || ' has no charge or no household' as fault
      from posting p
        join book_account a on a.code = p.account
      where a.class = 'receivable' and (p.charge_id is null or p.household_id is null)
      union all
      select part || ': accounts hold ' || total || ', charges ' || parts
      from (
        ${HOLDINGS.map(
          (part) => `
          select '${part}' as part,
            (
              select coalesce(sum(p.amount), 0)
              from posting p
                join book_account a on a.code = p.account
              where a.part = '${part}'
            ) as total,
            (select coalesce(sum(${part}), 0) from charge_balance) as parts`,
        ).join(' union all ')}
      ) t
      where total <> parts
      union all
      select 'credit of patients: accounts hold ' || total || ', households ' || parts
      from (
        select (select coalesce(-sum(amount), 0) from posting where account = 'credit/patient') as total,
          (select coalesce(sum(credit), 0) from household_balance) as parts
      ) t
      where total <> parts`,
  },
  {
    id: 'below-zero',
    words: 'No receivable of a charge, and of none of its payers, is below zero without an open follow-up',
    query: `
      select 'charge ' || b.charge_id as fault
      from charge_balance b
      where least(
        with_payer, with_patient, on_plan, at_agency,
        (select min(y.with_payer) from payer_balance y where y.charge_id = b.charge_id)
      ) < 0
        and not exists (select 1 from follow_up f where f.charge_id = b.charge_id and f.closed_at is null)`,
  },
  {
    id: 'held-parts',
    words:
      'What waits for a payer’s new word is under an open follow-up with a date, and keeps places on plans and placements that are there',
    query: `
      select 'hold ' || h.id || ' of charge ' || h.charge_id || ' has no open follow-up' as fault
      from part_hold h
      where h.ended_on is null
        and not exists (
          select 1 from follow_up f where f.charge_id = h.charge_id and f.kind = 'suspended' and f.closed_at is null
        )
      union all
      select 'hold ' || h.id || ' of charge ' || h.charge_id || ' is answered and not ended'
      from part_hold h
      where h.ended_on is null and h.answered
      union all
      select 'hold ' || h.id || ': ' || h.amount || ', by its days ' || coalesce(sum(l.amount), 0)
      from part_hold h
        left join part_hold_layer l on l.hold_id = h.id
      where h.ended_on is null
      group by h.id
      having h.amount <> coalesce(sum(l.amount), 0)
      union all
      select 'hold ' || k.hold_id || ' keeps ' || k.amount || ' on a plan or placement that is over'
      from part_hold_place k
        left join payment_plan l on l.id = k.plan_id
        left join placement g on g.id = k.placement_id
        where k.amount > 0 and coalesce(l.status <> 'accepted', g.status not in ('placed', 'accepted'))
      union all
      select 'hold ' || k.hold_id || ' is over and keeps ' || k.amount
      from part_hold_place k
        join part_hold h on h.id = k.hold_id
      where k.amount > 0 and h.ended_on is not null`,
  },
  {
    id: 'never-above-charged',
    words: 'No more was paid and taken off a charge than was charged, but where somebody follows it',
    query: `
      select
        'charge ' || b.charge_id || ': charged ' || (
          b.fee + b.tax + b.added + b.opened
        ) || ', paid and taken off ' || (
          b.reduced + b.expected + b.payer_paid + b.patient_paid + b.agency_paid
        ) as fault
      from charge_balance b
      where b.reduced + b.expected + b.payer_paid + b.patient_paid + b.agency_paid > b.fee + b.tax + b.added + b.opened
        and not exists (select 1 from follow_up f where f.charge_id = b.charge_id and f.closed_at is null)`,
  },
  {
    id: 'expected-is-undecided',
    words:
      'What is expected to come off stands on done charges that count it and that nobody has decided, with their first coverage, and is what its entries say',
    query: `
      select 'charge ' || b.charge_id || ': ' || b.expected || ' is expected to come off' as fault
      from charge_balance b
        join charge c on c.id = b.charge_id
        cross join lateral (
          select coalesce(sum(p.amount) filter (where coalesce(x.kind, e.kind) = 'expected-write-off'), 0) as said,
            coalesce(sum(p.amount) filter (where p.coverage_id is distinct from c.coverage_id), 0) as elsewhere
          from posting p
            join entry e on e.id = p.entry_id
            left join entry x on x.id = e.reverses
          where p.charge_id = b.charge_id and p.account = 'reduction/expected'
        ) s
      where b.expected <> s.said
        or s.elsewhere <> 0
        or b.expected < 0
        or b.expected > 0
          and (
            not c.expects
              or c.status <> 'done'
              or c.kept_from_payers
              or exists (
                select
                from posting p
                  join claim m on m.id = p.claim_id
                where p.charge_id = b.charge_id
                  and (p.remittance_claim_id is not null or p.provider_adjustment_id is not null)
                group by m.coverage_id, p.account, p.coverage_id
                having sum(p.amount) <> 0
              )
          )`,
  },
  {
    id: 'with-payer-looked-after',
    words:
      'What is with a payer is done and unbilled, on a claim that is not closed, or under an open follow-up with a date',
    query: `
      select 'charge ' || b.charge_id || ': ' || b.with_payer || ' with coverage ' || b.coverage_id as fault
      from payer_balance b
        join charge c on c.id = b.charge_id
      where b.with_payer <> 0
      and not exists (
        select 1
        from claim_line l
          join claim m on m.id = l.claim_id
        where l.charge_id = b.charge_id
          and l.coverage_id = b.coverage_id
          and l.bills
          and m.status not in (${statesText(DONE)})
      )
      and not (
        c.status = 'done'
          and c.coverage_id is not distinct from b.coverage_id
          and b.with_payer > 0
          and not exists (
            select 1
            from claim_line l
            where l.charge_id = b.charge_id and l.coverage_id = b.coverage_id and l.bills
          )
      )
      and not exists (
        select 1
        from follow_up f
        where f.charge_id = b.charge_id
          and coalesce(f.coverage_id, b.coverage_id) = b.coverage_id
          and f.closed_at is null
      )`,
  },
  {
    id: 'merged',
    words: 'Nothing is of an account or a person that was merged into another one',
    query: Object.entries(GOES_OVER)
      .flatMap(([whose, tables]) =>
        tables.map(
          (table) => `
      select '${table}: ' || count(*) || ' of ${whose} ' || m.id as fault
      from ${whose} m
        join ${table} o on o.${whose}_id = m.id
      where m.merged_into is not null
      group by m.id`,
        ),
      )
      .join(' union all '),
  },
  {
    id: 'credit-below-zero',
    words: 'No household’s credit is below zero',
    query: `
      select 'household ' || household_id || ' has a credit of ' || credit as fault
      from household_balance
      where credit < 0`,
  },
  {
    id: 'receipts',
    words:
      'What is in the books of a receipt are its tenders that are taken, or what an agency has collected, or nothing',
    query: `
      select 'receipt ' || r.id as fault
      from receipt r
        left join (
          select p.receipt_id, sum(p.amount) as booked
          from posting p
            join book_account a on a.code = p.account
          where (a.class = 'cash' or a.code = 'credit/agency') and p.receipt_id is not null
          group by p.receipt_id
        ) b
          on b.receipt_id = r.id
        left join (
          select t.receipt_id, sum(t.amount + t.surcharge) filter (where t.state = 'taken') as taken,
            sum(t.amount) filter (where t.corrects is null) as said
          from tender t
          group by t.receipt_id
        ) t
          on t.receipt_id = r.id
      where case
        when t.receipt_id is null then coalesce(b.booked, -1) not in (r.amount, 0)
        else coalesce(b.booked, 0) <> coalesce(t.taken, 0) or t.said <> r.amount
      end`,
  },
  {
    id: 'attempts',
    words:
      'A card that a terminal approved is one unreversed cash entry, or was taken back; one that waits has its attempt',
    query: `
      select 'attempt ' || a.id || ' was approved, its tender is ' || t.state as fault
      from attempt a
        join tender t on t.id = a.tender_id
      where a.state = 'approved' and a.what <> 'void' and t.state in ('pending', 'declined')
      union all
      select 'tender ' || t.id || ' is ' || t.state || ' without an approval'
      from tender t
      where t.token <> ''
        and t.state not in ('pending', 'declined')
        and not exists (
          select from attempt a where a.tender_id = t.id and a.what <> 'void' and a.state = 'approved'
        )
      union all
      select 'tender ' || t.id || ' waits for nobody'
      from tender t
      where t.state = 'pending'
        and not exists (select from attempt a where a.tender_id = t.id and a.state in ('asked', 'unclear'))
      union all
      select 'tender ' || t.id || ' was taken back at the terminal and stands'
      from tender t
        join attempt a on a.tender_id = t.id and a.what = 'void' and a.state = 'approved'
      where t.state = 'taken'
      union all
      select 'tender ' || t.id || ' is in the books ' || count(*) || ' times'
      from tender t
        join posting p on p.tender_id = t.id
        join entry e on e.id = p.entry_id and e.kind in ('receipt', 'refund')
        join book_account a on a.code = p.account and a.class = 'cash'
      where not exists (select from entry r where r.reverses = e.id)
      group by t.id
      having count(*) > 1`,
  },
  {
    id: 'refunds',
    words: 'No tender gave back more than it brought, surcharge included',
    query: `
      select 'tender ' || t.id || ': ' || t.amount || ', given back ' || -sum(r.amount) as fault
      from tender t
        join tender r on r.refund_of = t.id and r.state in ('taken', 'pending')
      group by t.id, t.amount, t.surcharge
      having -sum(r.amount) > t.amount or -sum(r.surcharge) > t.surcharge`,
  },
  {
    id: 'drawers',
    words: 'A closed drawer holds nothing, and what was to be in it is what was taken less what was dropped',
    query: `
      select 'drawer ' || d.id || ' is closed and holds tender ' || t.id as fault
      from drawer d
        join tender t on t.drawer_id = d.id and t.place_id = d.place_id and t.state = 'taken'
      where d.closed_at is not null
      union all
      select 'drawer ' || d.id || ': ' || d.expected || ' expected, ' || s.expected || ' by what was taken'
      from drawer d
        cross join lateral (
          select d.opening + coalesce((
              select sum(p.amount)
              from posting p
                join tender t on t.id = p.tender_id
                join entry e on e.id = p.entry_id
              where t.drawer_id = d.id
                and p.account = 'cash/cash'
                and p.place_id = d.place_id
                and e.kind not in ('place-move')
                and e.created_at <= d.closed_at
            ), 0)
            - coalesce((select sum(amount) from drawer_drop where drawer_id = d.id), 0) as expected
        ) s
      where d.closed_at is not null and d.expected <> s.expected`,
  },
  {
    id: 'tenders',
    words:
      'Cash in the books of a tender is its amount and surcharge while it is taken, and nothing otherwise; all of it is where the tender is',
    query: `
      select 'tender ' || t.id || ', ' || t.state || ': ' || coalesce(b.booked, 0) || ' of ' ||
        (t.amount + t.surcharge) as fault
      from tender t
        left join (
          select p.tender_id, sum(p.amount) as booked
          from posting p
            join book_account a on a.code = p.account
          where a.class = 'cash' and p.tender_id is not null
          group by p.tender_id
        ) b
          on b.tender_id = t.id
      where coalesce(b.booked, 0) <> case when t.state = 'taken' then t.amount + t.surcharge else 0 end
      union all
      select 'posting ' || p.id || ' is cash of receipt ' || p.receipt_id || ', of no tender or nowhere'
      from posting p
        join book_account a on a.code = p.account
        left join tender t on t.id = p.tender_id and t.receipt_id = p.receipt_id
      where a.class = 'cash' and p.receipt_id is not null and (t.id is null or p.place_id is null)
      union all
      select 'tender ' || t.id || ' has ' || sum(p.amount) || ' in place ' || p.place_id || ', where it is not'
      from posting p
        join book_account a on a.code = p.account
        join tender t on t.id = p.tender_id
      where a.class = 'cash' and p.place_id <> t.place_id
      group by t.id, p.place_id
      having sum(p.amount) <> 0`,
  },
  {
    id: 'remittances',
    words: 'What is in the books of a posted remittance is its payment',
    query: `
      select
        'remittance ' || r.id || ' (' || r.trace || '): payment ' || r.amount || ', booked ' ||
          coalesce(b.booked, 0) as fault
      from remittance r
      left join (
        select p.remittance_id, sum(p.amount) as booked
        from posting p
          join entry e on e.id = p.entry_id
          left join entry o on o.id = e.reverses
          join book_account a on a.code = p.account
        where a.class = 'cash' and p.remittance_id is not null and coalesce(o.kind, e.kind) <> 'payer-return'
        group by 1
      ) b
        on b.remittance_id = r.id
      where r.status = 'posted'
        and not exists (
          select 1
          from remittance_claim c
          where c.remittance_id = r.id
            and c.status = 'reversed'
            and not exists (
              select 1
              from remittance_claim n
              where n.remittance_id = r.id and n.number = c.number and n.version > c.version
            )
        )
        and coalesce(b.booked, 0) <> r.amount
      and not exists (
        select 1
        from posting p
          join entry e on e.id = p.entry_id
          join entry x on x.reverses = e.id
        where p.remittance_id = r.id
          and e.kind = 'provider-adjustment'
          and e.key like 'plb:' || r.id || ':' || r.version || ':%'
      )`,
  },
  {
    id: 'policies',
    words:
      'Every coverage is of a policy that insures its patient under a number on every day; its holder alone by the own policy',
    query: `
      select 'coverage ' || o.id as fault
      from coverage o
        join care_case k on k.id = o.case_id
        left join policy_person r on r.policy_id = o.policy_id and r.patient_id = k.patient_id
        left join policy_number n on n.policy_person_id = r.id and n.valid_from is null
      where n.member_id is null
      union all
      select 'policy ' || p.id || ' insures ' || r.patient_id || ' as ' || r.relationship
      from policy p
        join party h on h.id = p.holder_id
        join policy_person r on r.policy_id = p.id
      where (h.patient_id is not distinct from r.patient_id) <> (r.relationship = 'self')`,
  },
  {
    id: 'reversals',
    words: 'Every reversal mirrors what it reverses',
    query: `
      select 'entry ' || e.id as fault
      from entry e
        join posting p on p.entry_id in (e.id, e.reverses)
      where e.reverses is not null
      group by e.id, p.account, p.charge_id, p.household_id, p.coverage_id, p.payer_id
      having sum(p.amount) <> 0`,
  },
];

/** Runs every check in one snapshot of the database, over one connection; inside a transaction, in that. */
export async function checkBooks(db: Db): Promise<BooksCheck[]> {
  if (!db.isTransaction)
    return db
      .transaction()
      .setIsolationLevel('repeatable read')
      .setAccessMode('read only')
      .execute(checkBooks);
  const results: BooksCheck[] = [];
  for (const { id, words, query } of CHECKS) {
    const { rows } = await sql<{
      fault: string;
    }>`select fault from (${sql.raw(query)}) q order by fault limit 50`.execute(db);
    results.push({ id, words, faults: rows.map((row) => row.fault) });
  }
  return results;
}
