/** The journal: entries and postings, with the rules that the database itself holds, whoever connects. */
export const journal = `
create table entry (
  id bigint generated always as identity primary key,
  kind text not null check (kind in ('charge', 'payer-decision', 'payer-credit', 'provider-adjustment', 'receipt', 'allocation', 'write-off', 'reversal')),
  posting_date date not null, business_date date not null, user_id text not null, memo text not null, key text unique,
  reverses bigint unique references entry (id), created_at timestamptz not null default now(), written_by xid8 not null default pg_current_xact_id(),
  check ((kind = 'reversal') = (reverses is not null))
);
create index on entry (posting_date);
create table posting (
  id bigint generated always as identity primary key, entry_id bigint not null references entry (id), account text not null references book_account (code),
  amount bigint not null check (amount <> 0), household_id bigint references household (id), patient_id bigint references patient (id),
  case_id bigint references care_case (id), charge_id bigint references charge (id), coverage_id bigint references coverage (id),
  payer_id bigint references payer (id), claim_id bigint references claim (id), receipt_id bigint references receipt (id),
  remittance_id bigint references remittance (id), remittance_claim_id bigint references remittance_claim (id),
  provider_id bigint references provider (id), location_id bigint references location (id), reason_group text, reason_code text
);
create index on posting (entry_id);
create index on posting (household_id);
create index on posting (charge_id);
create index on posting (remittance_claim_id) where remittance_claim_id is not null;
create index on posting (remittance_id) where remittance_id is not null;
create index on posting (receipt_id) where receipt_id is not null;

-- Balances kept for speed; they change only here, in the transaction of the postings they sum.
create table charge_balance (
  charge_id bigint primary key references charge (id), fee bigint not null default 0, payer_paid bigint not null default 0, patient_paid bigint not null default 0,
  reduced bigint not null default 0, with_payer bigint not null default 0, with_patient bigint not null default 0, on_plan bigint not null default 0,
  at_agency bigint not null default 0, check (with_payer + with_patient + on_plan + at_agency = fee - reduced - payer_paid - patient_paid)
);
create index on charge_balance (charge_id) where with_patient <> 0;
create table household_balance (
  household_id bigint primary key references household (id), with_payer bigint not null default 0, with_patient bigint not null default 0,
  on_plan bigint not null default 0, at_agency bigint not null default 0, credit bigint not null default 0
);

create function refuse_change() returns trigger language plpgsql as $$
begin
  raise exception 'The journal is never changed: write a reversal instead (% on %)', tg_op, tg_table_name using errcode = 'restrict_violation';
end $$;
create trigger entry_fixed before update or delete or truncate on entry for each statement execute function refuse_change();
create trigger posting_fixed before update or delete or truncate on posting for each statement execute function refuse_change();

create function entry_opened() returns trigger language plpgsql as $$
declare closed date;
begin
  new.written_by := pg_current_xact_id();
  select closed_through into closed from practice;
  if closed is not null and new.posting_date <= closed then
    raise exception 'The period through % is closed: post in the open period', closed using errcode = 'check_violation';
  end if;
  if new.reverses is not null and exists (select 1 from entry where id = new.reverses and kind = 'reversal') then
    raise exception 'A reversal is not reversed: enter the right thing anew' using errcode = 'check_violation';
  end if;
  return new;
end $$;
create trigger entry_opened before insert on entry for each row execute function entry_opened();

-- All postings of an entry are written by one statement, in the entry's own transaction, and balance as a whole and for each charge.
create function postings_balance() returns trigger language plpgsql as $$
declare bad record;
begin
  select f.entry_id, f.charge_id, sum(f.amount) as off into bad from fresh f group by grouping sets ((f.entry_id, f.charge_id), (f.entry_id)) having sum(f.amount) <> 0 limit 1;
  if found then
    raise exception 'The postings of entry % do not sum to zero (off by % cents)', bad.entry_id, bad.off using errcode = 'check_violation';
  end if;
  if exists (select 1 from fresh f join entry e on e.id = f.entry_id where e.written_by <> pg_current_xact_id())
     or exists (select 1 from posting p where p.entry_id in (select entry_id from fresh) group by p.entry_id having count(*) > (select count(*) from fresh f where f.entry_id = p.entry_id)) then
    raise exception 'Postings are written once, with their entry' using errcode = 'check_violation';
  end if;

  insert into charge_balance as b (charge_id, fee, payer_paid, patient_paid, reduced, with_payer, with_patient, on_plan, at_agency)
  select charge_id,
    coalesce(-sum(amount) filter (where account like 'income/%'), 0),
    coalesce(sum(amount) filter (where account like 'cash/%' or account = 'credit/payer'), 0),
    coalesce(sum(amount) filter (where account = 'credit/patient'), 0),
    coalesce(sum(amount) filter (where account like 'reduction/%'), 0),
    coalesce(sum(amount) filter (where account = 'receivable/payer'), 0),
    coalesce(sum(amount) filter (where account = 'receivable/patient'), 0),
    coalesce(sum(amount) filter (where account = 'receivable/plan'), 0),
    coalesce(sum(amount) filter (where account = 'receivable/agency'), 0)
  from (select charge_id, account, amount from fresh where charge_id is not null) s
  group by charge_id order by charge_id
  on conflict (charge_id) do update set
    fee = b.fee + excluded.fee, payer_paid = b.payer_paid + excluded.payer_paid, patient_paid = b.patient_paid + excluded.patient_paid,
    reduced = b.reduced + excluded.reduced, with_payer = b.with_payer + excluded.with_payer, with_patient = b.with_patient + excluded.with_patient,
    on_plan = b.on_plan + excluded.on_plan, at_agency = b.at_agency + excluded.at_agency;

  insert into household_balance as b (household_id, with_payer, with_patient, on_plan, at_agency, credit)
  select household_id,
    coalesce(sum(amount) filter (where account = 'receivable/payer'), 0),
    coalesce(sum(amount) filter (where account = 'receivable/patient'), 0),
    coalesce(sum(amount) filter (where account = 'receivable/plan'), 0),
    coalesce(sum(amount) filter (where account = 'receivable/agency'), 0),
    coalesce(-sum(amount) filter (where account = 'credit/patient'), 0)
  from fresh where household_id is not null group by household_id order by household_id
  on conflict (household_id) do update set
    with_payer = b.with_payer + excluded.with_payer, with_patient = b.with_patient + excluded.with_patient,
    on_plan = b.on_plan + excluded.on_plan, at_agency = b.at_agency + excluded.at_agency, credit = b.credit + excluded.credit;
  return null;
end $$;
create trigger postings_balance after insert on posting referencing new table as fresh for each statement execute function postings_balance();

-- At commit an entry has its postings, and a reversal mirrors what it reverses.
create function entry_complete() returns trigger language plpgsql as $$
begin
  if (select count(*) from posting where entry_id = new.id) < 2 then
    raise exception 'Entry % has fewer than two postings', new.id using errcode = 'check_violation';
  end if;
  if new.reverses is not null and exists (
    select 1 from posting where entry_id in (new.id, new.reverses) group by account, coalesce(charge_id, 0), coalesce(household_id, 0) having sum(amount) <> 0
  ) then
    raise exception 'Entry % does not mirror the entry that it reverses', new.id using errcode = 'check_violation';
  end if;
  return null;
end $$;
create constraint trigger entry_complete after insert on entry deferrable initially deferred for each row execute function entry_complete();

alter table entry enable always trigger entry_fixed;
alter table entry enable always trigger entry_opened;
alter table entry enable always trigger entry_complete;
alter table posting enable always trigger posting_fixed;
alter table posting enable always trigger postings_balance;
`;
