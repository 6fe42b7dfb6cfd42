/** Claims, their life, and the transmissions that carry them. */
export const claims = `
create sequence control_number start 100001;
create table transmission (
  id bigint generated always as identity primary key, connection_id bigint not null references connection (id),
  control_number text not null,
  file_name text not null unique, content text not null, claims integer not null, total cents not null,
  created_at timestamptz not null default desk_now(), business_date calendar_date not null, written_at timestamptz,
  usage text not null check (usage in ('T', 'P')), interchange_answer text not null default '',
  group_answer text not null default '', unique (connection_id, control_number)
);
create table claim (
  id bigint generated always as identity primary key, control_number text not null unique,
  household_id bigint not null references household (id), patient_id bigint not null references patient (id),
  case_id bigint not null references care_case (id),
  coverage_id bigint not null references coverage (id), payer_id bigint not null references payer (id),
  location_id bigint not null references location (id),
  provider_id bigint not null references provider (id),
  -- What it asks for; a bill to a next payer is a bill with its place in the order.
  purpose text not null default 'bill' check (purpose in ('bill', 'predetermination')),
  position integer not null check (position between 1 and 3),
  form text not null check (form in ('professional', 'dental')),
  frequency text not null default '1' check (frequency in ('1', '7', '8')), replaces bigint references claim (id),
  payer_claim_number text not null default '',
  status text not null default 'draft' check (
    status in ('draft', 'ready', 'sent', 'accepted', 'rejected', 'decided', 'closed', 'held', 'withdrawn')
  ),
  hold_reason text not null default '', total cents not null, service_date calendar_date not null, content jsonb,
  findings jsonb,
  stops integer not null default 0, warnings integer not null default 0,
  -- Why it is late (CLM20).
  delay_reason text not null default '' check (
    delay_reason in ('', '1', '2', '3', '4', '5', '6', '7', '8', '9', '10', '11', '15')
  ),
  transmission_id bigint references transmission (id),
  -- How it went: in a file, with the payer before it, by telephone or form.
  sent_by text not null default '' check (sent_by in ('', 'file', 'payer-before', 'telephone', 'paper')),
  -- The word of an earlier payer that handed it on itself, in place of a file of ours.
  forwarded_by bigint,
  -- Since when it tells the payer something of an earlier one's decision that stands no more.
  stale_since calendar_date,
  sent_date calendar_date, created_at timestamptz not null default desk_now(), unique (id, purpose),
  -- A correction or a void says which claim it is about; an original may stand in the place of one that could not be processed.
  check (frequency = '1' or replaces is not null),
  check (status not in ('held', 'rejected') or hold_reason <> ''),
  check (
    status not in ('sent', 'accepted', 'rejected', 'decided', 'closed')
      or (
        sent_by <> ''
        and sent_date is not null
        and content is not null
        and (sent_by <> 'file' or transmission_id is not null)
        and (sent_by <> 'payer-before' or forwarded_by is not null)
      )
  )
);
create unique index one_replacement on claim (replaces) where status <> 'withdrawn';
create index on claim (status, service_date);
create index on claim (household_id);
create index on claim (transmission_id);
create index on claim (forwarded_by) where forwarded_by is not null;
create index on claim (id) where stale_since is not null;
create index on claim (payer_claim_number) where payer_claim_number <> '';
create index on claim (service_date desc, id desc);
create index claim_number_search on claim using gin (lower(control_number) gin_trgm_ops);
create table claim_line (
  id bigint generated always as identity primary key, claim_id bigint not null, number integer not null,
  charge_id bigint not null references charge (id), coverage_id bigint not null references coverage (id),
  expected_allowed cents, expected_paid cents not null default 0, current boolean not null default true,
  purpose text not null default 'bill',
  -- Of a correction: the payer is told of it no more. It keeps its place until what the payer has decided of it is taken back.
  left_out boolean not null default false,
  -- Whether it is what the payer is billed with now.
  bills boolean not null generated always as (current and purpose = 'bill') stored,
  foreign key (claim_id, purpose) references claim (id, purpose), unique (claim_id, number)
);
create unique index one_current_claim on claim_line (charge_id, coverage_id, purpose) where current;
create index claim_line_bills on claim_line (charge_id, coverage_id) where bills;
create index on claim_line (claim_id);
create index on claim_line (charge_id);
create index on claim_line (charge_id) where left_out;
-- Whether a coverage has nothing left on a day and has not had any of some charges: the next one is asked in its place.
create function passed_over(of_coverage bigint, on_day date, of_charges bigint[]) returns boolean language sql stable as $$
  select exists (
    select
    from coverage o
    where o.id = of_coverage
      and o.exhausted_from <= on_day
      and daterange(o.valid_from, o.valid_to, '[]') @> on_day
      and not exists (select from claim_line l where l.coverage_id = o.id and l.charge_id = any(of_charges) and l.bills)
  )
$$;
-- Claims that were printed together.
create table claim_print (
  id bigint generated always as identity primary key, user_name text not null, business_date calendar_date not null,
  made_at timestamptz not null default desk_now(), claims bigint[] not null, total cents not null
);
-- Claims that somebody has checked without sending them, and what was found of them then.
create table claim_check (
  id bigint generated always as identity primary key, user_name text not null, business_date calendar_date not null,
  made_at timestamptz not null default desk_now(), claims bigint[] not null
);
create index on claim_check (business_date);
create table claim_check_finding (
  check_id bigint not null references claim_check (id) on delete cascade,
  claim_id bigint not null references claim (id), findings jsonb not null, primary key (check_id, claim_id)
);
create index on claim_check_finding (claim_id);
create table claim_event (
  id bigint generated always as identity primary key, claim_id bigint not null references claim (id),
  at timestamptz not null default desk_now(),
  business_date calendar_date not null,
  status text not null check (
    status in ('draft', 'ready', 'sent', 'accepted', 'rejected', 'decided', 'closed', 'held', 'withdrawn')
  ),
  cause_kind text not null check (cause_kind in ('user', 'file', 'rule')), cause text not null, words text not null
);
create index on claim_event (claim_id);
create trigger claim_event_fixed before update or delete or truncate on claim_event
for each statement execute function refuse_change();
alter table claim_event enable always trigger claim_event_fixed;
-- What was sent stays as it was sent; only how it went on is noted.
create trigger transmission_stays before delete or truncate on transmission
for each statement execute function refuse_change();
create trigger transmission_fixed before update on transmission for each row when (
  (
    old.connection_id, old.control_number, old.file_name, old.content, old.claims, old.total, old.created_at,
    old.business_date, old.usage
  )
  is distinct from (
    new.connection_id, new.control_number, new.file_name, new.content, new.claims, new.total, new.created_at,
    new.business_date, new.usage
  )
) execute function refuse_change();
alter table transmission enable always trigger transmission_stays;
alter table transmission enable always trigger transmission_fixed;

-- The moves of a claim's life, filled from the closed list of the program.
create table claim_move (from_status text not null, to_status text not null, primary key (from_status, to_status));
create function claim_moves() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if tg_op = 'INSERT' then
    if new.status <> 'draft' then
      raise exception 'A claim begins as a draft, not %', new.status using errcode = 'check_violation';
    end if;
  elsif not exists (select 1 from claim_move where from_status = old.status and to_status = new.status) then
    raise exception 'A claim does not go from % to %', old.status, new.status using errcode = 'check_violation';
  end if;
  return new;
end $$;
create trigger claim_begins before insert on claim for each row execute function claim_moves();
create trigger claim_moves before update of status on claim
for each row when (old.status <> new.status) execute function claim_moves();
`;
