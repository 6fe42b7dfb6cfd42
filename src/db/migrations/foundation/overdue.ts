/** What is overdue: its policy and letters, what was said and promised, placements with agencies, hardship. */
/** Tables of the overdue station. */
export const overdue = `
-- Letters are written in the program: each has versions, and one that was used is never changed.
create table letter_template (
  id bigint generated always as identity primary key, name text not null unique check (name <> ''),
  active boolean not null default true, version integer not null default 1
);
create table letter_version (
  id bigint generated always as identity primary key, template_id bigint not null references letter_template (id),
  number integer not null check (number > 0),
  subject text not null check (subject <> ''), blocks jsonb not null, user_name text not null,
  made_on calendar_date not null, created_at timestamptz not null default desk_now(), unique (template_id, number)
);
create trigger letter_version_fixed before update or delete or truncate on letter_version
for each statement execute function refuse_change();
alter table letter_version enable always trigger letter_version_fixed;

-- How what is overdue is worked; one row.
create table overdue_policy (
  id integer primary key default 1 check (id = 1),
  least cents not null default 2500 check (least >= 0),
  between_letters integer not null default 14 check (between_letters between 0 and 366),
  -- Who is spared: paid in the last so many days (0: nobody), claims that are open, plans in good order.
  recent_days integer not null default 28 check (recent_days between 0 and 366),
  spare_claims boolean not null default true, spare_plans boolean not null default true,
  -- A dispute, a hardship and a bankruptcy stop what Setup says of their reason.
  dispute_reason bigint references stop_reason (id), hardship_reason bigint references stop_reason (id),
  bankrupt_reason bigint references stop_reason (id),
  -- Calls: so many at most in so many days, none for so many days after a conversation, and between these hours
  -- where the person is.
  calls integer not null default 7 check (calls between 1 and 99),
  call_days integer not null default 7 check (call_days between 1 and 99),
  quiet_days integer not null default 7 check (quiet_days between 0 and 99),
  call_from integer not null default 8 check (call_from between 0 and 23),
  call_to integer not null default 21 check (call_to between 1 and 24), check (call_from < call_to),
  -- Small balances that may be written off at once, and how old they are at least.
  small_below cents not null default 1000 check (small_below >= 0),
  small_days integer not null default 60 check (small_days between 0 and 3650),
  -- An agency is proposed so many days after the last letter, from so much on.
  agency_days integer not null default 30 check (agency_days between 0 and 999),
  agency_least cents not null default 5000 check (agency_least >= 0),
  -- The agency that is proposed each morning; none: a person proposes.
  agency_id bigint references connection (id),
  version integer not null default 1
);
insert into overdue_policy default values;
create table overdue_stage (
  id bigint generated always as identity primary key,
  position integer not null unique check (position between 1 and 20), name text not null unique check (name <> ''),
  days integer not null check (days between 0 and 999), template_id bigint not null references letter_template (id),
  version integer not null default 1
);
create trigger versioned before update on overdue_policy for each row execute function count_version();
create trigger versioned before update on overdue_stage for each row execute function count_version();
create trigger versioned before update on letter_template for each row execute function count_version();

-- A letter that went out: its stage, the version of its words, and what it named as past due of each charge.
create table letter (
  piece_id bigint primary key references mail_piece (id), household_id bigint not null references household (id),
  patient_id bigint references patient (id),
  stage_id bigint references overdue_stage (id), position integer not null check (position >= 0),
  version_id bigint not null references letter_version (id), date calendar_date not null, amount cents not null
);
create index on letter (household_id, date);
create index on letter (date);
create table letter_charge (
  piece_id bigint not null references letter (piece_id), charge_id bigint not null references charge (id),
  amount cents not null check (amount > 0), primary key (piece_id, charge_id)
);
create index on letter_charge (charge_id);
create trigger letter_fixed before update on letter for each row execute function refuse_but_whose();
create trigger letter_stays before delete or truncate on letter
for each statement execute function refuse_change();
create trigger letter_charge_fixed before update or delete or truncate on letter_charge
for each statement execute function refuse_change();
alter table letter enable always trigger letter_fixed;
alter table letter enable always trigger letter_stays;
alter table letter_charge enable always trigger letter_charge_fixed;

-- What was tried and said: never changed, only said to be a mistake.
create table contact (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  kind text not null check (kind in ('call', 'letter', 'message', 'visit')),
  direction text not null check (direction in ('out', 'in')), whom text not null default '',
  outcome text not null check (
    outcome in ('no-answer', 'left-word', 'wrong-number', 'spoke', 'refused', 'promise', 'dispute', 'hardship')
  ),
  at timestamptz not null, business_date calendar_date not null, again_on calendar_date,
  warned text not null default '', user_id text not null, user_name text not null,
  created_at timestamptz not null default desk_now()
);
create index on contact (household_id, at desc);
create table contact_void (
  contact_id bigint primary key references contact (id), why text not null check (why <> ''),
  user_name text not null, on_day calendar_date not null
);
create trigger contact_fixed before update on contact for each row execute function refuse_but_whose();
create trigger contact_stays before delete or truncate on contact
for each statement execute function refuse_change();
create trigger contact_void_fixed before update or delete or truncate on contact_void
for each statement execute function refuse_change();
alter table contact enable always trigger contact_fixed;
alter table contact enable always trigger contact_stays;
alter table contact_void enable always trigger contact_void_fixed;
-- An amount by a date; whether it was kept, the journal says.
create table promise (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  contact_id bigint not null unique references contact (id), amount cents not null check (amount > 0),
  made_on calendar_date not null, made_at timestamptz not null default desk_now(), by_date calendar_date not null,
  ended_on calendar_date, ended_why text not null default '', check (by_date >= made_on),
  check ((ended_on is null) = (ended_why = ''))
);
create index on promise (household_id);
create index on promise (by_date) where ended_on is null;
-- One promise stands: another takes its place.
create unique index one_promise on promise (household_id) where ended_on is null;
-- What a household paid from a moment through a day, without what was taken back: receipts of its own, or money of
-- an agency.
create function paid_since(
  of_household bigint, from_moment timestamptz, to_day date
) returns bigint language sql stable as $$
  select coalesce(sum(p.amount), 0)::bigint
  from posting p
    join entry e on e.id = p.entry_id
    join book_account a on a.code = p.account
  where p.household_id in (select id from household where id = of_household or merged_into = of_household)
    and a.class = 'cash'
    and (p.receipt_id is not null or p.placement_id is not null)
    and exists (
      select 1
      from entry o
      where o.id = coalesce(e.reverses, e.id) and o.created_at >= from_moment and o.business_date <= to_day
    )
$$;
-- Who works an account.
create table overdue_owner (
  household_id bigint primary key references household (id), user_id text not null references "user" (id),
  assigned_on calendar_date not null, assigned_by text not null
);
create index on overdue_owner (user_id);

-- Handed to an agency: proposed by rule, approved with the evidence, placed, and how it ended.
create sequence placement_number start 1001;
create table placement (
  id bigint generated always as identity primary key,
  number text not null unique default 'G-' || nextval('placement_number'),
  household_id bigint not null references household (id),
  connection_id bigint not null references connection (id),
  status text not null default 'proposed' check (
    status in ('proposed', 'placed', 'accepted', 'withdrawn', 'refused', 'recalled', 'returned', 'paid')
  ),
  -- What is handed over; while it is proposed, what would be.
  amount cents not null check (amount > 0),
  contingency basis_points not null check (contingency between 0 and 10000),
  pays text not null check (pays in ('gross', 'net')),
  proposed_on calendar_date not null, proposed_by text not null, why text not null check (why <> ''),
  placed_on calendar_date, approved_by text not null default '', written_at timestamptz,
  -- Objections that keep its hand-over from being written, and those that a person has decided: documents, null for
  -- none.
  objections jsonb, decided jsonb,
  ended_on calendar_date, ended_why text not null default '', disputed boolean not null default false,
  version integer not null default 1,
  check ((status in ('withdrawn', 'refused', 'recalled', 'returned', 'paid')) = (ended_on is not null)),
    check (ended_on is null or ended_why <> ''),
  check ((status in ('proposed', 'withdrawn')) = (placed_on is null)),
    check ((placed_on is null) = (approved_by = '')), check (written_at is null or placed_on is not null),
  check (objections is null or (placed_on is not null and written_at is null))
);
create index on placement (household_id);
create index on placement (status);
create unique index one_open_placement on placement (household_id) where ended_on is null;
alter table posting add foreign key (placement_id) references placement (id);
create table placement_charge (
  placement_id bigint not null references placement (id), charge_id bigint not null references charge (id),
  amount cents not null check (amount > 0), primary key (placement_id, charge_id)
);
create index on placement_charge (charge_id);
-- What was said of it, by us and by the agency; never changed.
create table placement_event (
  id bigint generated always as identity primary key, placement_id bigint not null references placement (id),
  on_day calendar_date not null, what text not null check (what <> ''), words text not null default '',
  amount cents not null default 0, fee cents not null default 0, user_name text not null,
  at timestamptz not null default desk_now()
);
create index on placement_event (placement_id);
create trigger placement_event_fixed before update or delete or truncate on placement_event
for each statement execute function refuse_change();
alter table placement_event enable always trigger placement_event_fixed;
-- What an agency says once a month of all its placements.
create table agency_statement (
  id bigint generated always as identity primary key, connection_id bigint not null references connection (id),
  file_id bigint not null references exchange_file (id), received_on calendar_date not null, lines jsonb not null
);
create trigger agency_statement_fixed before update or delete or truncate on agency_statement
for each statement execute function refuse_change();
alter table agency_statement enable always trigger agency_statement_fixed;
-- Money of a placement: what was collected, the agency’s part of it, and what came to us; paid to us directly, all
-- of it came to us.
create table agency_payment (
  id bigint generated always as identity primary key, placement_id bigint not null references placement (id),
  reference text not null check (reference <> ''), paid_on calendar_date not null,
  gross cents not null check (gross > 0),
  fee cents not null check (fee >= 0 and fee <= gross), direct boolean not null,
  receipt_id bigint references receipt (id), entry_id bigint not null unique references entry (id),
  reversed_on calendar_date, reversed_why text not null default '', unique (placement_id, reference),
  check (direct = (receipt_id is not null)), check ((reversed_on is null) = (reversed_why = ''))
);
create index on agency_payment (placement_id);
create index on agency_payment (receipt_id) where receipt_id is not null;
-- What an agency is told after the hand-over: recalls, payments to us, corrections. Each is written once.
create table agency_notice (
  id bigint generated always as identity primary key, placement_id bigint not null references placement (id),
  kind text not null check (kind in ('recall', 'payment', 'correction', 'hold', 'resume')),
  amount cents not null default 0,
  words text not null default '', made_on calendar_date not null, written_at timestamptz
);
create index on agency_notice (id) where written_at is null;
create function placement_fixed() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  new.version := old.version + 1;
  if old.status <> 'proposed'
    and (
      old.household_id, old.connection_id, old.amount, old.contingency, old.pays, old.proposed_on, old.why,
      old.number
    )
    is distinct from (
      new.household_id, new.connection_id, new.amount, new.contingency, new.pays, new.proposed_on, new.why,
      new.number
    )
    and not only_whose(to_jsonb(old), to_jsonb(new)) then
    raise exception 'What was handed over is never changed' using errcode = 'restrict_violation';
  end if;
  if new.status is distinct from old.status and not (case old.status
    when 'proposed' then new.status in ('placed', 'withdrawn')
    when 'placed' then new.status in ('accepted', 'refused', 'recalled', 'returned', 'paid')
    when 'accepted' then new.status in ('recalled', 'returned', 'paid')
    -- A payment that is taken back opens it again.
    when 'paid' then new.status = 'accepted'
    else false end) then
    raise exception 'A placement that is % does not become %', old.status,
    new.status using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger placement_fixed before update on placement for each row execute function placement_fixed();
create trigger placement_stays before delete or truncate on placement
for each statement execute function refuse_change();
alter table placement enable always trigger placement_fixed;
alter table placement enable always trigger placement_stays;

-- What was the patient's of a charge by a payer's word that was taken back, until its new word is there: nothing of
-- it is asked,
-- aged, given back or collected, and the places that it had on plans and with agencies are kept.
create table part_hold (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  charge_id bigint not null references charge (id),
  coverage_id bigint not null references coverage (id), remittance_claim_id bigint references remittance_claim (id),
  amount cents not null check (amount > 0),
  -- The new word is said, and what follows from it is being put right.
  answered boolean not null default false,
  made_on calendar_date not null, made_at timestamptz not null default desk_now(), ended_on calendar_date,
  ended_why text not null default '',
  check ((ended_on is null) = (ended_why = ''))
);
create unique index one_hold on part_hold (charge_id, coverage_id) where ended_on is null;
create index on part_hold (remittance_claim_id) where remittance_claim_id is not null;
-- By the day since which it was owed; what comes back keeps it.
create table part_hold_layer (
  hold_id bigint not null references part_hold (id), since calendar_date not null,
  amount cents not null check (amount > 0), primary key (hold_id, since)
);
create table part_hold_place (
  id bigint generated always as identity primary key, hold_id bigint not null references part_hold (id),
  plan_id bigint references payment_plan (id), placement_id bigint references placement (id),
  -- What of it is kept still: given back, or given up with its plan, it is none.
  amount cents not null check (amount >= 0), check ((plan_id is null) <> (placement_id is null))
);
create index on part_hold_place (hold_id);
create index on part_hold_place (plan_id) where amount > 0;
create index on part_hold_place (placement_id) where amount > 0;

-- The federal poverty level as the practice enters it, by year and size of household, in cents a year; and what is
-- reduced up to which share of it.
create table poverty_level (
  year integer not null check (year between 2000 and 2200), size integer not null check (size between 1 and 20),
  amount cents not null check (amount > 0), version integer not null default 1, primary key (year, size)
);
create table hardship_band (
  id bigint generated always as identity primary key,
  up_to integer not null unique check (up_to between 1 and 2000),
  reduction basis_points not null check (reduction between 0 and 10000), version integer not null default 1
);
create trigger versioned before update on poverty_level for each row execute function count_version();
create trigger versioned before update on hardship_band for each row execute function count_version();
create table hardship (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  size integer not null check (size > 0), income cents not null check (income >= 0),
  evidence text not null check (evidence <> ''),
  year integer not null, level cents not null, share integer not null check (share >= 0),
  reduction basis_points not null, amount cents not null check (amount >= 0),
  status text not null default 'asked' check (status in ('asked', 'approved', 'refused')),
  asked_on calendar_date not null, asked_by text not null, decided_on calendar_date,
  decided_by text not null default '', decided_why text not null default '',
  check ((status = 'asked') = (decided_on is null)), check (decided_on is null or decided_by <> '')
);
create index on hardship (household_id);
create unique index one_hardship_asked on hardship (household_id) where status = 'asked';
-- How a receipt came: by its tenders, those first that count, or collected by an agency.
create view receipt_tender as
select r.id as receipt_id, coalesce(t.kind, 'transfer') as tender, coalesce(t.reference, l.number, '') as reference,
  coalesce(
    t.how, (select k.words from tender_kind k where k.code = 'transfer') || coalesce(' ' || l.number, '')
  ) as how,
  coalesce(t.kinds, 'transfer') as kinds
from receipt r
  left join lateral (
    select
      (array_agg(o.kind order by o.state in ('taken', 'pending') desc, o.id))[1] as kind,
      (array_agg(
        case when o.last_four <> '' and o.reference = '' then o.brand || ' ' || o.last_four else o.reference end
        order by o.state in ('taken', 'pending') desc, o.id))[1] as reference,
      string_agg(
        k.words || case
          when o.kind = 'cash' then ''
          when o.last_four <> '' then ' ' || o.brand || ' ' || o.last_four
          when o.reference <> '' then ' ' || o.reference
          else ''
        end, ' + ' order by o.id
      ) filter (where n.shown) as how,
      string_agg(o.kind, ' + ' order by o.id) filter (where n.shown) as kinds
    from tender o
      join tender_kind k on k.code = o.kind
      cross join lateral (
        select o.state in ('taken', 'pending')
          or not exists (select from tender s where s.receipt_id = o.receipt_id and s.state in ('taken', 'pending'))
          and not exists (select from tender c where c.corrects = o.id) as shown
      ) n
    where o.receipt_id = r.id
  ) t
    on true
  left join placement l on l.id = r.placement_id;
`;
