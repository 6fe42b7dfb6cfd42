/** The journal: entries and postings, with the rules that the database itself holds, whoever connects. */
import { DIMENSIONS } from '../../../core/books/dimensions';

const MIRRORED = ['account', ...Object.values(DIMENSIONS)].join(', ');

/** The dimensions that a posting of `fresh` does not carry, as elements of an array. */
const MISSING = Object.values(DIMENSIONS)
  .map((column) => `case when f.${column} is null then '${column}' end`)
  .join(', ');

/** The lock between who writes entries and who closes a period. */
const PERIOD = 7_214_006;

/** Tables, triggers and kept balances of the books. */
export const journal = `
-- The kinds of entries and what each posting of one carries, filled from the closed list of the program.
create table entry_kind (
  code text primary key, needs text[] not null,
  -- Of which day what such an entry makes the patient's is owed: the day on which it is posted, or its business
  -- date.
  ages_from text not null check (ages_from in ('posting', 'business'))
);
-- The exceptions by which a patient owes what a payer took off, filled in the same way.
create table passing (code text primary key);
create table entry (
  id bigint generated always as identity primary key, kind text not null references entry_kind (code),
  posting_date calendar_date not null, business_date calendar_date not null, user_id text not null,
  memo text not null, key text unique,
  reverses bigint unique references entry (id), created_at timestamptz not null default desk_now(),
  written_by xid8 not null default pg_current_xact_id(),
  -- By which stated exception the patient owes what a payer took off.
  exception text references passing (code),
  check ((kind = 'reversal') = (reverses is not null)), check (exception is null or kind = 'to-patient')
);
create index on entry (posting_date) include (id);
create index on entry (business_date) include (id);
create table posting (
  id bigint generated always as identity primary key, entry_id bigint not null references entry (id),
  account text not null references book_account (code),
  amount cents not null check (amount <> 0), household_id bigint references household (id),
  patient_id bigint references patient (id),
  case_id bigint references care_case (id), charge_id bigint references charge (id),
  coverage_id bigint references coverage (id),
  payer_id bigint references payer (id), claim_id bigint references claim (id),
  receipt_id bigint references receipt (id), tender_id bigint references tender (id),
  place_id bigint references place (id), deposit_id bigint references deposit (id),
  remittance_id bigint references remittance (id), remittance_claim_id bigint references remittance_claim (id),
  provider_adjustment_id bigint references provider_adjustment (id), plan_id bigint references payment_plan (id),
  placement_id bigint,
  provider_id bigint references provider (id), location_id bigint references location (id), reason_group text,
  reason_code text,
  -- The remark by which what is passed on may never be collected from the patient.
  remark_code text,
  -- Since when the patient owes it, where it comes back and keeps the day that it had.
  since calendar_date,
  check ((reason_group is null) = (reason_code is null)),
    check (since is null or (amount > 0 and charge_id is not null))
);
-- What is summed by entry is read from the index alone.
create index on posting (entry_id) include (account, amount);
create index on posting (household_id);
create index on posting (charge_id);
create index on posting (remittance_claim_id) where remittance_claim_id is not null;
create index on posting (remittance_id) where remittance_id is not null;
create index on posting (provider_adjustment_id) where provider_adjustment_id is not null;
create index on posting (receipt_id) where receipt_id is not null;
create index on posting (tender_id) where tender_id is not null;
create index on posting (deposit_id) where deposit_id is not null;
create index on posting (plan_id) where plan_id is not null;
create index on posting (placement_id) where placement_id is not null;
create index on posting (charge_id) where remark_code is not null;
create index on posting (reason_code) where reason_code is not null;

-- Balances kept for speed; they change only here, in the transaction of the postings they sum.
create table charge_balance (
  charge_id bigint primary key references charge (id), fee cents not null default 0, tax cents not null default 0,
  added cents not null default 0,
  opened cents not null default 0, payer_paid cents not null default 0, patient_paid cents not null default 0,
  agency_paid cents not null default 0,
  reduced cents not null default 0, expected cents not null default 0, with_payer cents not null default 0,
  with_patient cents not null default 0,
  on_plan cents not null default 0,
  at_agency cents not null default 0, patient_since calendar_date,
  check (
    with_payer + with_patient + on_plan + at_agency = fee + tax + added + opened - reduced - expected - payer_paid -
      patient_paid - agency_paid
  )
);
create index on charge_balance (charge_id) include (with_patient, patient_since) where with_patient <> 0;
create index on charge_balance (charge_id) include (with_payer) where with_payer <> 0;
create index on charge_balance (charge_id) include (with_patient) where with_patient < 0;
-- What charges owe to patient, plan and agency together, by the day on which each part of it became the patient's;
-- and what
-- lowered it. An entry that was reversed has no row: who takes a payment back gives the debt its age back.
create table debt_layer (
  charge_id bigint not null references charge (id), entry_id bigint not null references entry (id),
  since calendar_date not null,
  -- Below zero: what came off.
  raised cents not null check (raised <> 0),
  -- The coverage whose payer's word it is: what its next word takes back is this, and not what is oldest.
  word bigint,
  -- What of it is owed still, and what of that stands with the patient: the newest, for plans and agencies take the
  -- oldest.
  open cents not null default 0, with_patient cents not null default 0,
  -- Of what came off, what the patient paid or was let off; not what a payer's word took back.
  lowered cents not null default 0, at timestamptz not null, primary key (charge_id, entry_id, since),
  check (open between 0 and greatest(raised, 0)), check (with_patient between 0 and open),
    check (lowered between 0 and greatest(-raised, 0))
);
create index on debt_layer (charge_id) include (since, with_patient) where with_patient > 0;
create index on debt_layer (entry_id);
-- What was owed in the last years, for what of it is paid usually.
create index on debt_layer (since) where raised > 0;
-- What each payer of a charge owes, has paid and has taken off, by coverage.
create table payer_balance (
  charge_id bigint not null references charge (id), coverage_id bigint not null references coverage (id),
  payer_id bigint not null references payer (id),
  with_payer cents not null default 0, paid cents not null default 0, reduced cents not null default 0,
  primary key (charge_id, coverage_id)
);
create index on payer_balance (payer_id) where with_payer <> 0;
create index on payer_balance (charge_id) where with_payer <> 0;
create index on payer_balance (coverage_id);
-- What a charge has used of what a coverage gives, by what payers decided: paid of a maximum, left to the patient as
-- deductible.
create table benefit_use (
  charge_id bigint not null references charge (id), coverage_id bigint not null references coverage (id),
  kind text not null references benefit_kind (code), quantity cents not null,
  primary key (charge_id, coverage_id, kind)
);
create index on benefit_use (coverage_id);
-- What a person has used of a policy in a period: its row is locked by whoever uses more of it.
create table benefit_counter (
  policy_id bigint not null references policy (id), patient_id bigint not null references patient (id),
  kind text not null references benefit_kind (code), period_start calendar_date not null, quantity cents not null,
  primary key (policy_id, patient_id, kind, period_start)
);
create table household_balance (
  household_id bigint primary key references household (id), with_payer cents not null default 0,
  with_patient cents not null default 0,
  on_plan cents not null default 0, at_agency cents not null default 0, credit cents not null default 0
);
-- What is left in the payer's credit of each provider adjustment.
create table provider_adjustment_balance (
  provider_adjustment_id bigint primary key references provider_adjustment (id), open cents not null default 0
);
create index on provider_adjustment_balance (provider_adjustment_id) where open <> 0;
-- What of a receipt's money is in the books, and what of it is held as credit.
create table receipt_balance (
  receipt_id bigint primary key references receipt (id), booked cents not null default 0,
  held cents not null default 0
);
-- What was booked by month of the business date, kept for entries posted through a day; what was posted later is
-- summed when
-- it is asked for. A row by month is written by whoever posts in it: kept at once, everybody would wait for
-- everybody.
create table month_total (
  month calendar_date not null, account text not null references book_account (code), remitted boolean not null,
  received boolean not null, amount cents not null,
  primary key (month, account, remitted, received)
);
create table months_kept (
  only_one boolean primary key default true check (only_one), through calendar_date not null
);

create trigger entry_fixed before update or delete or truncate on entry
for each statement execute function refuse_change();

-- Kept balances follow the postings and nothing else: whoever else writes them is refused.
create function refuse_balance() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if pg_trigger_depth() < 2 then
    raise exception 'Balances change with postings only (% on %)', tg_op,
    tg_table_name using errcode = 'restrict_violation';
  end if;
  return null;
end $$;
-- What keeps balances works as the owner: the desk itself may only read them.
create function household_opened() returns trigger language plpgsql security definer set search_path = public,
  pg_temp as $$
begin
  insert into household_balance (household_id) values (new.id);
  return null;
end $$;
create trigger household_opened after insert on household for each row execute function household_opened();
create trigger charge_balance_kept before insert or update or delete or truncate on charge_balance
for each statement execute function refuse_balance();
create trigger debt_layer_kept before insert or update or delete or truncate on debt_layer
for each statement execute function refuse_balance();
create trigger payer_balance_kept before insert or update or delete or truncate on payer_balance
for each statement execute function refuse_balance();
create trigger household_balance_kept before insert or update or delete or truncate on household_balance
for each statement execute function refuse_balance();
create trigger benefit_use_kept before insert or update or delete or truncate on benefit_use
for each statement execute function refuse_balance();
create trigger benefit_counter_kept before insert or update or delete or truncate on benefit_counter
for each statement execute function refuse_balance();
create trigger receipt_balance_kept before insert or update or delete or truncate on receipt_balance
for each statement execute function refuse_balance();
create trigger provider_adjustment_balance_kept before insert
  or update
  or delete
  or truncate on provider_adjustment_balance
for each statement execute function refuse_balance();
create trigger posting_fixed before update or delete or truncate on posting
for each statement execute function refuse_change();

create function entry_opened() returns trigger language plpgsql set search_path = public, pg_temp as $$
declare closed date;
begin
  new.written_by := pg_current_xact_id();
  -- Who writes shares a lock that who closes has alone: an entry that was begun before is in, or is refused.
  perform pg_advisory_xact_lock_shared(${PERIOD});
  select closed_through into closed from practice;
  if closed is not null and new.posting_date <= closed then
    raise exception 'The period through % is closed: post in the open period',
    closed using errcode = 'check_violation';
  end if;
  if new.reverses is not null and exists (select 1 from entry where id = new.reverses and kind = 'reversal') then
    raise exception 'A reversal is not reversed: enter the right thing anew' using errcode = 'check_violation';
  end if;
  return new;
end $$;
create trigger entry_opened before insert on entry for each row execute function entry_opened();

-- A period that is closed, with the number of entries that stood in it then.
create table period_closed (
  through calendar_date primary key, entries bigint not null, closed_at timestamptz not null default desk_now(),
  user_id text not null
);
create trigger period_closed_fixed before update or delete or truncate on period_closed
for each statement execute function refuse_change();
-- Closes a period that is over, once and for good. Who is writing entries is waited for.
create function close_period(upto date, by_user text) returns void language plpgsql security definer set search_path
  = public,
  pg_temp as $$
declare closed date;
begin
  perform pg_advisory_xact_lock(${PERIOD});
  select closed_through into closed from practice for no key update;
  if not found then
    raise exception 'There is no practice whose period could be closed' using errcode = 'check_violation';
  end if;
  if upto is null or upto >= desk_now()::date then
    raise exception 'A period is closed when it is over: % is not', upto using errcode = 'check_violation';
  end if;
  if upto <= closed then
    raise exception 'The period through % is closed already', closed using errcode = 'check_violation';
  end if;
  insert into period_closed (through, entries, user_id)
  select upto, count(*), by_user
  from entry
  where posting_date <= upto;
  update practice set closed_through = upto;
end $$;
create function period_kept() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if not pg_has_role(
    current_user, (select relowner from pg_class where oid = 'public.practice'::regclass), 'usage'
  ) then
    raise exception 'A period is closed by closing it, and by nothing else' using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger period_kept before update on practice
for each row when (new.closed_through is distinct from old.closed_through) execute function period_kept();
create trigger period_begun before insert on practice
for each row when (new.closed_through is not null) execute function period_kept();

-- What of each layer of charges is open, and with the patient. A payer's later word takes back its own earlier one;
-- all else that
-- comes off takes the oldest layer.
create function debt_layers(of_charges bigint[]) returns table (
  charge_id bigint, entry_id bigint, since date, open bigint, with_patient bigint
) language sql stable as $$
  with said as (
    select d.*, coalesce(sum(d.raised) filter (where d.raised > 0) over w, 0) as word_up,
      coalesce(-sum(d.raised) filter (where d.raised < 0) over w, 0) as word_off,
      coalesce(sum(d.raised) filter (where d.raised > 0) over (w order by d.entry_id, d.since), 0) as word_upto,
      row_number() over (w order by d.entry_id, d.since) as word_row
    from debt_layer d where d.charge_id = any(of_charges) window w as (partition by d.charge_id, d.word)),
  net as (
    select s.*,
      case
        when s.raised < 0 then 0
        when s.word is null then s.raised
        else least(s.raised, greatest(0, s.word_upto - s.word_off))
      end as up,
      sum(
        case
          when s.word is null then greatest(0, -s.raised)
          when s.word_row = 1 then greatest(0, s.word_off - s.word_up)
          else 0
        end
      ) over (partition by s.charge_id) as off
    from said s),
  stands as (
    select n.*,
      least(
        n.up, greatest(0, sum(n.up) over (partition by n.charge_id order by n.since, n.entry_id) - n.off)
      ) as left_open
    from net n
    where n.raised > 0)
  select s.charge_id, s.entry_id, s.since, s.left_open::bigint,
    least(
      s.left_open,
      greatest(
        0,
        b.with_patient - (
          sum(s.left_open) over (partition by s.charge_id order by s.since desc, s.entry_id desc) - s.left_open
        )
      )
    )::bigint
  from stands s join charge_balance b on b.charge_id = s.charge_id
$$;

-- What stands with patients by the day since which they owe it; what stands below zero has no day.
create view patient_layer as
select d.charge_id, d.since::date as since, d.with_patient::bigint as amount
from debt_layer d
where d.with_patient > 0
union all
select b.charge_id, null,
  b.with_patient - coalesce(
    (select sum(d.with_patient) from debt_layer d where d.charge_id = b.charge_id), 0
  )::bigint
from charge_balance b
  where b.with_patient < 0 or b.with_patient > 0 and (b.on_plan < 0 or b.at_agency < 0);

-- All postings of an entry are written by one statement, in the entry's own transaction; they balance as a whole
-- and for
-- each charge, stand where their account may stand, and carry what their kind needs. Whatever is posted, its plans
-- are the same: they
-- are made once.
create function postings_balance() returns trigger language plpgsql security definer set search_path = public,
  pg_temp set plan_cache_mode = force_generic_plan as $$
declare
  bad record;
  touched bigint[];
  kept date;
begin
  select f.entry_id, f.charge_id, sum(f.amount) as off into bad
  from fresh f
  group by grouping sets ((f.entry_id, f.charge_id), (f.entry_id))
  having sum(f.amount) <> 0
  limit 1;
  if found then
    raise exception 'The postings of entry % do not sum to zero (off by % cents)', bad.entry_id,
    bad.off using errcode = 'check_violation';
  end if;
  if exists (select 1 from fresh f join entry e on e.id = f.entry_id where e.written_by <> pg_current_xact_id())
     or exists (select 1 from (select entry_id, count(*) as n from fresh group by entry_id) g
       cross join lateral (select count(*) as n from posting p where p.entry_id = g.entry_id) w
       where w.n > g.n) then
    raise exception 'Postings are written once, with their entry' using errcode = 'check_violation';
  end if;
  select f.entry_id, f.account into bad from fresh f join book_account a on a.code = f.account where
    (f.charge_id is not null and a.part is null)
    or (a.class = 'receivable' and (f.charge_id is null or f.household_id is null))
    or (a.part = 'on_plan' and f.plan_id is null)
    or (a.part = 'at_agency' and f.placement_id is null)
    or (a.code = 'credit/agency' and (f.household_id is null or f.placement_id is null))
    or (a.part = 'with_payer' and (f.coverage_id is null or f.payer_id is null))
    or (a.class = 'cash' and f.charge_id is not null and (f.payer_id is null or f.coverage_id is null))
    or (a.class = 'cash' and f.charge_id is not null and f.remittance_id is null)
    or (a.class = 'cash' and f.receipt_id is not null and (f.tender_id is null or f.place_id is null))
    or (a.code = 'credit/patient' and (f.household_id is null or f.receipt_id is null)) limit 1;
  if found then
    raise exception 'A posting on % of entry % does not say whose it is', bad.account,
    bad.entry_id using errcode = 'check_violation';
  end if;
  -- What a posting is about hangs together: the charge, the coverage and the receipt are of the household, the
  -- payer is the coverage's.
  -- Asked row by row, by key: what walks a table here would make every entry slower with the years.
  select f.entry_id, f.account into bad from fresh f where
    exists (select 1 from charge c where c.id = f.charge_id
      and c.household_id is distinct from f.household_id
      and c.household_id is distinct from household_now(f.household_id))
    or exists (
      select 1
      from receipt r
      where r.id = f.receipt_id
        and r.household_id <> f.household_id
        and r.household_id <> household_now(f.household_id)
        and not exists (
          select 1 from receipt_household x
          where x.receipt_id = r.id and x.household_id = household_now(f.household_id)
        )
    )
    or exists (select 1 from claim m where m.id = f.claim_id and m.purpose <> 'bill')
    or exists (select 1 from tender t where t.id = f.tender_id and t.receipt_id is distinct from f.receipt_id)
    or exists (select 1 from payment_plan l where l.id = f.plan_id
      and l.household_id <> f.household_id
      and l.household_id <> household_now(f.household_id))
    or exists (select 1 from placement l where l.id = f.placement_id
      and l.household_id <> f.household_id
      and l.household_id <> household_now(f.household_id))
    or exists (
      select 1
      from coverage o
        join policy q on q.id = o.policy_id
        join insurance_plan n on n.id = q.insurance_plan_id
      where o.id = f.coverage_id and (n.payer_id <> payer_now(f.payer_id) or o.case_id is distinct from f.case_id)
    ) limit 1;
  if found then
    raise exception 'A posting on % of entry % is about things that do not belong together', bad.account,
    bad.entry_id using errcode = 'check_violation';
  end if;
  select m.entry_id, e.kind, (select n from unnest(k.needs) n where n = any(m.missing) limit 1) as name into bad
    from (select f.entry_id, array_remove(array[${MISSING}], null) as missing from fresh f offset 0) m
    join entry e on e.id = m.entry_id join entry_kind k on k.code = e.kind where m.missing && k.needs limit 1;
  if found then
    raise exception 'A % carries its %, entry % does not', bad.kind, bad.name,
    bad.entry_id using errcode = 'check_violation';
  end if;

  insert into charge_balance as b (
    charge_id, fee, tax, added, opened, payer_paid, patient_paid, agency_paid, reduced, expected, with_payer,
    with_patient, on_plan, at_agency
  )
  select f.charge_id,
    coalesce(-sum(f.amount) filter (where a.part = 'fee'), 0),
    coalesce(-sum(f.amount) filter (where a.part = 'tax'), 0),
    coalesce(-sum(f.amount) filter (where a.part = 'added'), 0),
    coalesce(-sum(f.amount) filter (where a.part = 'opened'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'payer_paid'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'patient_paid'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'agency_paid'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'reduced'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'expected'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'with_payer'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'with_patient'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'on_plan'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'at_agency'), 0)
  from fresh f join book_account a on a.code = f.account where f.charge_id is not null
  group by f.charge_id order by f.charge_id
  on conflict (charge_id) do update set
    fee = b.fee + excluded.fee, tax = b.tax + excluded.tax, added = b.added + excluded.added,
    opened = b.opened + excluded.opened,
    payer_paid = b.payer_paid + excluded.payer_paid, patient_paid = b.patient_paid + excluded.patient_paid,
    agency_paid = b.agency_paid + excluded.agency_paid,
    reduced = b.reduced + excluded.reduced, expected = b.expected + excluded.expected,
    with_payer = b.with_payer + excluded.with_payer,
    with_patient = b.with_patient + excluded.with_patient,
    on_plan = b.on_plan + excluded.on_plan, at_agency = b.at_agency + excluded.at_agency;

  insert into payer_balance as b (charge_id, coverage_id, payer_id, with_payer, paid, reduced)
  select f.charge_id, f.coverage_id, payer_now(max(f.payer_id)),
    coalesce(sum(f.amount) filter (where a.part = 'with_payer'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'payer_paid'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'reduced'), 0)
  from fresh f join book_account a on a.code = f.account
  where f.charge_id is not null
    and f.coverage_id is not null
    and f.payer_id is not null
    and a.part in ('with_payer', 'payer_paid', 'reduced')
  group by f.charge_id, f.coverage_id order by f.charge_id, f.coverage_id
  on conflict (charge_id, coverage_id) do update set
    with_payer = b.with_payer + excluded.with_payer, paid = b.paid + excluded.paid,
    reduced = b.reduced + excluded.reduced;

  -- What is used of a policy, by the charge and by the person in the year of the service.
  with moved as (
    select f.charge_id, f.coverage_id, u.kind, sum(u.quantity) as quantity
    from fresh f
      join book_account a on a.code = f.account
      cross join lateral (
        select 'maximum' as kind, f.amount as quantity where a.part = 'payer_paid'
        union all
        select 'deductible', -f.amount
        where a.part = 'with_payer' and f.reason_group = 'PR' and f.reason_code = '1'
        union all
        select 'out-of-pocket', -f.amount
        where a.part = 'with_payer' and f.reason_group = 'PR' and f.reason_code in ('1', '2', '3')
      ) u
    where f.charge_id is not null and f.coverage_id is not null
    group by f.charge_id, f.coverage_id, u.kind
    having sum(u.quantity) <> 0
  ),
  used as (
    insert into benefit_use as b (charge_id, coverage_id, kind, quantity)
    select charge_id, coverage_id, kind, quantity from moved order by charge_id, coverage_id, kind
    on conflict (charge_id, coverage_id, kind) do update set quantity = b.quantity + excluded.quantity
  )
  insert into benefit_counter as b (policy_id, patient_id, kind, period_start, quantity)
  select o.policy_id, k.patient_id, m.kind, date_trunc('year', c.service_date)::date, sum(m.quantity)
  from moved m
    join charge c on c.id = m.charge_id
    join coverage o on o.id = m.coverage_id
    join care_case k on k.id = o.case_id
  group by 1, 2, 3, 4
  order by 1, 2, 3, 4
  on conflict (policy_id, patient_id, kind, period_start) do update set quantity = b.quantity + excluded.quantity;

  -- Layers of debt. What moves between patient, plan and agency makes none.
  select array_agg(distinct f.charge_id) into touched from fresh f join book_account a on a.code = f.account
    where f.charge_id is not null and a.part in ('with_patient', 'on_plan', 'at_agency');
  if touched is not null then
    insert into debt_layer (charge_id, entry_id, since, raised, word, lowered, at)
    select m.charge_id, m.entry_id, m.since, m.raised, m.word,
      case when m.word is null then least(greatest(-m.raised, 0), greatest(-m.with_patient, 0)) else 0 end,
      m.created_at
    from (
      select f.charge_id, f.entry_id,
        coalesce(f.since, case k.ages_from when 'business' then e.business_date else e.posting_date end) as since,
        sum(f.amount) as raised,
        coalesce(sum(f.amount) filter (where a.part = 'with_patient'), 0) as with_patient,
        case when e.kind = 'payer-decision' then max(f.coverage_id) end as word, e.created_at
      from fresh f
        join book_account a on a.code = f.account
        join entry e on e.id = f.entry_id
        join entry_kind k on k.code = e.kind
      where f.charge_id is not null and a.part in ('with_patient', 'on_plan', 'at_agency') and e.reverses is null
      group by f.charge_id, f.entry_id, 3, e.kind, e.created_at having sum(f.amount) <> 0) m;
    delete from debt_layer d using entry e where e.id in (select entry_id from fresh) and d.entry_id = e.reverses;
    update debt_layer d set open = n.open, with_patient = n.with_patient from debt_layers(touched) n
      where d.charge_id = n.charge_id
        and d.entry_id = n.entry_id
        and d.since = n.since
        and (d.open, d.with_patient) is distinct from (n.open, n.with_patient);
    update charge_balance b set patient_since = s.since from (
      select t.id as charge_id,
        (select min(d.since) from debt_layer d where d.charge_id = t.id and d.open > 0) as since
      from unnest(touched) t (id)) s
      where b.charge_id = s.charge_id and b.patient_since is distinct from s.since;
  end if;

  insert into household_balance as b (household_id, with_payer, with_patient, on_plan, at_agency, credit)
  select coalesce(h.merged_into, h.id),
    coalesce(sum(f.amount) filter (where a.part = 'with_payer'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'with_patient'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'on_plan'), 0),
    coalesce(sum(f.amount) filter (where a.part = 'at_agency'), 0),
    coalesce(-sum(f.amount) filter (where a.code = 'credit/patient'), 0)
  from fresh f
    join book_account a on a.code = f.account
    join household h on h.id = f.household_id
  group by 1
  order by 1
  on conflict (household_id) do update set
    with_payer = b.with_payer + excluded.with_payer, with_patient = b.with_patient + excluded.with_patient,
    on_plan = b.on_plan + excluded.on_plan, at_agency = b.at_agency + excluded.at_agency,
    credit = b.credit + excluded.credit;

  insert into provider_adjustment_balance as b (provider_adjustment_id, open)
  select f.provider_adjustment_id, -sum(f.amount)
  from fresh f
  where f.provider_adjustment_id is not null and f.account = 'credit/payer'
  group by 1
  order by 1
  on conflict (provider_adjustment_id) do update set open = b.open + excluded.open;

  insert into receipt_balance as b (receipt_id, booked, held)
  select f.receipt_id, coalesce(sum(f.amount) filter (where a.class = 'cash' or a.code = 'credit/agency'), 0),
    coalesce(-sum(f.amount) filter (where a.code = 'credit/patient'), 0)
  from fresh f join book_account a on a.code = f.account where f.receipt_id is not null group by 1 order by 1
  on conflict (receipt_id) do update set booked = b.booked + excluded.booked, held = b.held + excluded.held;

  -- Seldom: an entry that is posted on a day whose months are kept already.
  select k.through into kept from months_kept k;
  if kept is not null
    and exists (select 1 from fresh f join entry e on e.id = f.entry_id where e.posting_date <= kept) then
    insert into month_total as b (month, account, remitted, received, amount)
    select date_trunc('month', e.business_date)::date, f.account, f.remittance_id is not null,
      f.receipt_id is not null, sum(f.amount)
    from fresh f
      join entry e on e.id = f.entry_id
    where e.posting_date <= kept
    group by 1, 2, 3, 4
    order by 1, 2, 3, 4
    on conflict (month, account, remitted, received) do update set amount = b.amount + excluded.amount;
  end if;
  return null;
end $$;

-- Keeps months through a day. Who is writing entries is waited for, and whoever comes meanwhile waits, so that none
-- is missed.
create function keep_months(upto date) returns void language plpgsql security definer set search_path = public,
  pg_temp as $$
declare kept date;
begin
  lock table entry in share mode;
  select through into kept from months_kept;
  if upto <= coalesce(kept, '0001-01-01') then
    return;
  end if;
  insert into month_total as b (month, account, remitted, received, amount)
  select date_trunc('month', e.business_date)::date, p.account, p.remittance_id is not null,
    p.receipt_id is not null, sum(p.amount)
  from entry e
    join posting p on p.entry_id = e.id
  where e.posting_date <= upto and (kept is null or e.posting_date > kept)
  group by 1, 2, 3, 4
  on conflict (month, account, remitted, received) do update set amount = b.amount + excluded.amount;
  insert into months_kept (through) values (upto) on conflict (only_one) do update set through = excluded.through;
end $$;
-- A payer that is the same as another one: what payers hold is that one's.
create function payer_merges() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if exists (select from payer where id = new.merged_into and merged_into is not null)
    or exists (select from payer where merged_into = new.id) then
    raise exception 'A payer is merged into one that stands for itself' using errcode = 'check_violation';
  end if;
  update payer_balance set payer_id = new.merged_into where payer_id = new.id;
  return null;
end $$;
create constraint trigger payer_merges after update of merged_into on payer deferrable initially deferred
for each row when (new.merged_into is not null) execute function payer_merges();
-- A coverage that gets another policy takes with it what was used of it.
create function benefits_follow() returns trigger language plpgsql security definer set search_path = public,
  pg_temp as $$
begin
  insert into benefit_counter as b (policy_id, patient_id, kind, period_start, quantity)
  select p.id, k.patient_id, u.kind, date_trunc('year', c.service_date)::date,
    sum(case p.id when new.policy_id then u.quantity else -u.quantity end)
  from benefit_use u
    join charge c on c.id = u.charge_id
    join care_case k on k.id = new.case_id
    cross join (values (old.policy_id), (new.policy_id)) p (id)
  where u.coverage_id = new.id
  group by 1, 2, 3, 4
  order by 1, 2, 3, 4
  on conflict (policy_id, patient_id, kind, period_start) do update set quantity = b.quantity + excluded.quantity;
  return null;
end $$;
create trigger benefits_follow after update of policy_id on coverage
for each row when (old.policy_id <> new.policy_id) execute function benefits_follow();
-- A charge that is put right by its day takes what was used of a policy to the year of that.
create function benefits_move() returns trigger language plpgsql security definer set search_path = public,
  pg_temp as $$
begin
  insert into benefit_counter as b (policy_id, patient_id, kind, period_start, quantity)
  select o.policy_id, k.patient_id, u.kind, d.year, sum(d.sign * u.quantity)
  from benefit_use u
    join coverage o on o.id = u.coverage_id
    join care_case k on k.id = o.case_id
    cross join (
      values (date_trunc('year', old.service_date)::date, -1), (date_trunc('year', new.service_date)::date, 1)
    ) d (year, sign)
  where u.charge_id = new.id
  group by 1, 2, 3, 4
  order by 1, 2, 3, 4
  on conflict (policy_id, patient_id, kind, period_start) do update set quantity = b.quantity + excluded.quantity;
  return null;
end $$;
create trigger benefits_move after update of service_date on charge
for each row when (date_trunc('year', old.service_date) <> date_trunc('year', new.service_date))
execute function benefits_move();
create trigger postings_balance after insert on posting referencing new table as fresh
for each statement execute function postings_balance();

-- At commit an entry has its postings, and a reversal mirrors what it reverses.
create function entry_complete() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if (select count(*) from posting where entry_id = new.id) < 2 then
    raise exception 'Entry % has fewer than two postings', new.id using errcode = 'check_violation';
  end if;
  if new.reverses is not null and exists (
    select 1 from posting where entry_id in (new.id, new.reverses) group by ${MIRRORED} having sum(amount) <> 0
  ) then
    raise exception 'Entry % does not mirror the entry that it reverses', new.id using errcode = 'check_violation';
  end if;
  return null;
end $$;
create constraint trigger entry_complete after insert on entry deferrable initially deferred
for each row execute function entry_complete();

-- What a payer has decided of a charge was said of that service: it does not change under it. When it was done, how much of it and where
-- is put right on a claim that corrects the decided one, which the payer then decides anew.
create function charge_decided() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if exists (
    select 1
    from posting
    where charge_id = new.id and remittance_claim_id is not null
    group by account, coverage_id
    having sum(amount) <> 0
  )
  and (
    new.code is distinct from old.code
      or not exists (
        select
        from claim_line l
          join claim m on m.id = l.claim_id
        where l.charge_id = new.id
          and l.current
          and m.replaces is not null
          and m.frequency <> '8'
          and m.status in ('draft', 'ready', 'held', 'rejected')
      )
  ) then
    raise exception 'A payer has decided this charge: void it and enter the right one' using errcode =
      'restrict_violation';
  end if;
  return new;
end $$;
-- Who did a charge and where, until it was put right: what moved until then counts for them.
create table charge_change (
  id bigint generated always as identity primary key, charge_id bigint not null references charge (id),
  provider_id bigint not null references provider (id), location_id bigint not null references location (id),
  -- After which entry it was so, and the last one of which it is.
  after_entry bigint not null, last_entry bigint not null, on_day calendar_date not null,
  claim_id bigint not null references claim (id), check (after_entry <= last_entry)
);
create index on charge_change (charge_id);
create trigger charge_change_fixed before update or delete or truncate on charge_change
for each statement execute function refuse_change();
alter table charge_change enable always trigger charge_change_fixed;
create trigger charge_decided before update on charge for each row
  when (
    (
      new.service_date, new.code, new.units, new.fee, new.tooth, new.surfaces
    ) is distinct from (old.service_date, old.code, old.units, old.fee, old.tooth, old.surfaces)
  ) execute function charge_decided();

alter table period_closed enable always trigger period_closed_fixed;
alter table entry enable always trigger entry_fixed;
alter table entry enable always trigger entry_opened;
alter table entry enable always trigger entry_complete;
alter table charge_balance enable always trigger charge_balance_kept;
alter table debt_layer enable always trigger debt_layer_kept;
alter table payer_balance enable always trigger payer_balance_kept;
alter table benefit_use enable always trigger benefit_use_kept;
alter table benefit_counter enable always trigger benefit_counter_kept;
alter table household_balance enable always trigger household_balance_kept;
alter table receipt_balance enable always trigger receipt_balance_kept;
alter table provider_adjustment_balance enable always trigger provider_adjustment_balance_kept;
alter table posting enable always trigger posting_fixed;
alter table posting enable always trigger postings_balance;
`;
