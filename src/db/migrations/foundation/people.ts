/** Households, patients, their cases and coverage, and what they were charged. */
export const people = `
create sequence account_number start 10201;
create table household (
  id bigint generated always as identity primary key,
  number text not null unique default 'A-' || nextval('account_number'),
  last text not null, first text not null, line1 text not null, line2 text not null default '', city text not null,
  state text not null,
  zip text not null, phone text not null default '', email text not null default '',
  category text references account_category (name) on update cascade, location_id bigint references location (id),
  delivery text not null default 'mail' check (delivery in ('mail', 'print-shop', 'email', 'none')),
  delivery_why text not null default '',
  address_returned calendar_date, email_returned calendar_date, hold_until calendar_date,
  hold_why text not null default '',
  late_charges boolean not null default true,
  -- No checks are taken from this day on; receipts of money go by e-mail always.
  no_checks_on calendar_date, receipts_by_email boolean not null default false,
  -- The household in whose envelope its statements go; null for its own.
  mailed_with bigint references household (id),
  -- The household that is the same as this one, as which all of it goes on.
  merged_into bigint references household (id),
  check (delivery <> 'none' or delivery_why <> ''), check (hold_until is null or hold_why <> ''),
    check (mailed_with <> id), check (merged_into <> id), check (merged_into is null or mailed_with is null),
  created_at timestamptz not null default desk_now(), version integer not null default 1
);
create index on household (last, first, id);
create index on household (merged_into) where merged_into is not null;
-- The household that a household of an old entry goes on as.
create function household_now(of_household bigint) returns bigint language sql stable as $$
  select coalesce(merged_into, id) from household where id = of_household
$$;
-- Whom a household is open to that is closed to all others; a household without such rows is open to everybody.
create table household_open_to (
  household_id bigint references household (id), user_id text references "user" (id),
  primary key (household_id, user_id)
);
create index on household (mailed_with) where mailed_with is not null;
-- One envelope is not put into another.
create function mailed_with_one() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if new.mailed_with is not null
    and (exists (select 1 from household where id = new.mailed_with and mailed_with is not null)
    or exists (select 1 from household where mailed_with = new.id)) then
    raise exception 'Statements go together under one address' using errcode = 'check_violation';
  end if;
  return null;
end $$;
create trigger mailed_with_one after insert or update of mailed_with on household
for each row execute function mailed_with_one();
create index household_phone on household (regexp_replace(phone, '\\D', '', 'g'));
create table patient (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  last text not null, first text not null, middle text not null default '', suffix text not null default '',
  birth_date calendar_date not null, sex text not null check (sex in ('F', 'M', 'U')),
  -- The person who is the same as this one.
  merged_into bigint references patient (id) check (merged_into <> id),
  search text generated always as (lower(first || ' ' || last || ', ' || first)) stored,
  version integer not null default 1
);
create index on patient (household_id);
create index on patient (merged_into) where merged_into is not null;
-- The person who a person of an old entry goes on as.
create function patient_now(of_patient bigint) returns bigint language sql stable as $$
  select coalesce(merged_into, id) from patient where id = of_patient
$$;
-- Whether a row of record says the same of another household or person, as which the one that it named goes on.
create function only_whose(was jsonb, is_now jsonb) returns boolean language sql stable as $$
  select
    was - array['household_id', 'patient_id', 'joined', 'version']
      = is_now - array['household_id', 'patient_id', 'joined', 'version']
    and (is_now ->> 'household_id')::bigint is not distinct from household_now((was ->> 'household_id')::bigint)
    and (is_now ->> 'patient_id')::bigint is not distinct from patient_now((was ->> 'patient_id')::bigint)
    and not exists (
      select from jsonb_array_elements_text(is_now -> 'joined') n
      where n::bigint not in (select household_now(w::bigint) from jsonb_array_elements_text(was -> 'joined') w)
    )
    and was is distinct from is_now
$$;
create function refuse_but_whose() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if only_whose(to_jsonb(old), to_jsonb(new)) then
    return new;
  end if;
  raise exception 'What was written is never changed: correct it by writing more (% on %)', tg_op, tg_table_name
    using errcode = 'restrict_violation';
end $$;
-- Who answers for the account; the household carries that person's name, whatever it is changed to.
alter table household add column guarantor_id bigint references patient (id) deferrable initially deferred;
create function guarantor_named() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  update household set last = new.last, first = new.first
  where guarantor_id = new.id and (last, first) is distinct from (new.last, new.first);
  return null;
end $$;
create trigger guarantor_named after update of last, first on patient
for each row execute function guarantor_named();
-- A second address to which what concerns one patient goes, and nothing of it to the household's (45 CFR
-- 164.522(b)).
create table confidential_address (
  id bigint generated always as identity primary key, patient_id bigint not null references patient (id),
  name text not null check (name <> ''),
  line1 text not null default '', line2 text not null default '', city text not null default '',
  state text not null default '', zip text not null default '', email text not null default '',
  delivery text not null default 'mail' check (delivery in ('mail', 'print-shop', 'email')),
  why text not null default '',
  address_returned calendar_date, email_returned calendar_date, user_name text not null,
  since calendar_date not null, ended_on calendar_date, ended_by text,
  version integer not null default 1, check ((ended_on is null) = (ended_by is null)),
  check (
    case when delivery = 'email' then email <> '' else line1 <> '' and city <> '' and state <> '' and zip <> '' end
  )
);
create unique index one_confidential_address on confidential_address (patient_id) where ended_on is null;
create trigger versioned before update on confidential_address for each row execute function count_version();
create index patient_search on patient using gin (search gin_trgm_ops);
create index on patient (birth_date);
create table care_case (
  id bigint generated always as identity primary key, patient_id bigint not null references patient (id),
  name text not null check (name <> ''),
  kind text not null default 'general' check (
    kind in ('general', 'illness', 'work', 'car', 'accident', 'therapy', 'series')
  ),
  -- The one that everybody has, and that takes what nothing else is said of.
  standing boolean not null default true check (not standing or kind = 'general'), opened_on calendar_date,
  accident_kind text generated always as (
    case kind when 'car' then 'AA' when 'work' then 'EM' when 'accident' then 'OA' end
  ) stored,
  -- The dates that a claim bears.
  accident_date calendar_date, accident_state text not null default '', onset_date calendar_date,
  first_treated_date calendar_date, acute_date calendar_date, last_seen_date calendar_date,
  first_contact_date calendar_date, disabled_from calendar_date, disabled_to calendar_date,
  check (disabled_from <= disabled_to), admitted_on calendar_date, released_on calendar_date,
  check (admitted_on <= released_on),
  -- Who treats, and who stands on bills instead; where it is billed under, and where it is done.
  provider_id bigint references provider (id), bill_provider_id bigint references provider (id),
  location_id bigint references location (id), service_location_id bigint references location (id),
  referring_last text not null default '',
  referring_first text not null default '',
  referring_npi text not null default '', referred_on calendar_date,
  -- As what claims name that person: who referred, ordered or supervises (NM101).
  referring_role text not null default 'DN' check (referring_role in ('DN', 'DK', 'DQ')),
  came_by text references referral_source (name) on update cascade, came_by_note text not null default '',
  -- What the person cannot do, for whoever plans the treatment.
  limits text not null default '',
  late_charges boolean not null default true, statements boolean not null default true,
  claims boolean not null default true,
  discharged_on calendar_date, discharge_why text not null default '',
  check ((discharged_on is null) = (discharge_why = '')), check (not standing or discharged_on is null),
  version integer not null default 1
);
create index on care_case (patient_id);
create unique index one_standing_case on care_case (patient_id) where standing;
create index case_not_stated on care_case (id) where not statements;
-- What is treated, from when and until when it is so, the principal one first.
create table case_diagnosis (
  case_id bigint not null references care_case (id), position integer not null,
  code text not null references diagnosis (code), since calendar_date, until calendar_date,
  primary key (case_id, position), check (since <= until)
);
-- What is usually done, at a price or for a time of its own.
create table case_service (
  case_id bigint not null references care_case (id), position integer not null,
  code text not null references service_code (code), fee cents check (fee >= 0), minutes integer check (minutes > 0),
  primary key (case_id, position), unique (case_id, code)
);
-- What a payer allows beforehand for a case: a referral, a prior authorization, what it said of a plan of treatment or of what
-- it would pay.
create table care_authorization (
  id bigint generated always as identity primary key, case_id bigint not null references care_case (id),
  payer_id bigint not null references payer (id),
  kind text not null check (kind in ('referral', 'prior-authorization', 'predetermination', 'treatment-plan')),
  state text not null default 'asked' check (state in ('asked', 'approved', 'in-part', 'refused')),
  number text not null default '', asked_on calendar_date, answered_on calendar_date,
  valid_from calendar_date, valid_to calendar_date,
  -- For which services; null for all of the case.
  codes text[] check (codes <> '{}'),
  -- How much of it; null where nothing is said.
  visits integer check (visits > 0), units integer check (units > 0), amount cents check (amount > 0),
  version integer not null default 1, check (valid_from <= valid_to), check (asked_on <= answered_on),
  check ((state = 'asked') = (answered_on is null)),
  -- What was allowed is named by its number.
  check (state not in ('approved', 'in-part') or kind not in ('referral', 'prior-authorization') or number <> '')
);
create index on care_authorization (case_id);
create trigger versioned before update on care_authorization for each row execute function count_version();
-- The number under which a payer allowed something of a kind for a case on a day, the newest one.
create function authorized_on(of_case bigint, by_payer bigint, of_kind text, on_day date) returns text language sql
stable as $$
  select number
  from care_authorization
  where case_id = of_case
    and payer_id = by_payer
    and kind = of_kind
    and state in ('approved', 'in-part')
    and daterange(valid_from, valid_to, '[]') @> on_day
  order by id desc
  limit 1
$$;
-- Who holds a policy: a person of ours, somebody who is nobody's patient, or an employer.
create table party (
  id bigint generated always as identity primary key, patient_id bigint unique references patient (id),
  -- Of somebody who is no patient; an organization's name stands in last.
  organization boolean not null default false,
  last text, first text, birth_date calendar_date, sex text check (sex in ('F', 'M', 'U')),
  -- Where it is, when that is not where the patient lives.
  line1 text not null default '', city text not null default '', state text not null default '',
  zip text not null default '',
  version integer not null default 1,
  check ((patient_id is null) = (last is not null)),
  check (patient_id is null or line1 = ''),
  check (case when line1 = '' then city || state || zip = '' else city <> '' and state <> '' and zip <> '' end),
  check (patient_id is null or not organization and first is null and birth_date is null and sex is null),
  check (
    patient_id is not null
      or (organization and birth_date is null)
      or (first is not null and birth_date is not null)
  )
);
create table policy (
  id bigint generated always as identity primary key,
  insurance_plan_id bigint not null references insurance_plan (id), holder_id bigint not null references party (id),
  group_number text not null default '', valid_from calendar_date, valid_to calendar_date,
  version integer not null default 1, check (valid_from <= valid_to)
);
create index on policy (insurance_plan_id);
create index on policy (holder_id);
-- Whom a policy insures.
create table policy_person (
  id bigint generated always as identity primary key, policy_id bigint not null references policy (id),
  patient_id bigint not null references patient (id),
  relationship text not null check (relationship in ('self', 'spouse', 'child', 'other')),
  version integer not null default 1, unique (policy_id, patient_id)
);
create index on policy_person (patient_id);
-- By what number the payer knows the person, from a day on; the first has none, so that every day has a number.
create table policy_number (
  policy_person_id bigint not null references policy_person (id), valid_from calendar_date,
  member_id text not null check (member_id <> ''),
  unique nulls not distinct (policy_person_id, valid_from)
);
create function member_on(of_person bigint, on_day date) returns text language sql stable as $$
  select member_id
  from policy_number
  where policy_person_id = of_person and (valid_from is null or valid_from <= on_day)
  order by valid_from desc nulls last
  limit 1
$$;
create function policy_insures() returns trigger language plpgsql set search_path = public, pg_temp as $$
declare stands policy_person;
begin
  -- As it stands by now: what was merged meanwhile is gone.
  select * into stands from policy_person where id = new.id;
  if not found then
    return null;
  end if;
  if not exists (
    select 1
    from policy_person r
      join policy_number n on n.policy_person_id = r.id and n.valid_from is null
    where r.id = new.id
  ) then
    raise exception 'Whom a policy insures has a member number from the beginning' using errcode = 'check_violation';
  end if;
  if exists (
    select 1
    from policy p
      join party h on h.id = p.holder_id
    where p.id = stands.policy_id
      and (h.patient_id is not distinct from stands.patient_id) <> (stands.relationship = 'self')
  ) then
    raise exception 'The holder is insured by the own policy, and nobody else is' using errcode = 'check_violation';
  end if;
  return null;
end $$;
create constraint trigger policy_insures after insert or update on policy_person deferrable initially deferred
for each row execute function policy_insures();
-- A policy's place in a case.
create table coverage (
  id bigint generated always as identity primary key, case_id bigint not null references care_case (id),
  position integer not null check (position between 1 and 3),
  policy_id bigint not null references policy (id),
  valid_from calendar_date, valid_to calendar_date,
  -- Whether what this payer passes on may be billed to the patient, and what forbids it.
  bill_patient text not null default 'yes' check (bill_patient in ('yes', 'copay-only', 'never')),
  bill_patient_why text not null default '' check (
    bill_patient_why in ('', 'medicaid', 'qmb', 'injury', 'contract')
  ),
  -- What the payer calls the case, and who there works on it.
  claim_number text not null default '', adjuster text not null default '',
  -- Whether the payer pays us, and whether the person has signed that it may be told what it asks.
  assigned boolean not null default true, signed boolean not null default true,
  -- By what the holder has it, and whether a court says that it comes first for a child.
  basis text not null default '' check (basis in ('', 'employed', 'retired', 'continued')),
  court_order boolean not null default false,
  -- Why Medicare comes after another insurer (SBR05), where it does.
  secondary_type text not null default '' check (
    secondary_type in ('', '12', '13', '14', '15', '16', '41', '42', '43', '47')
  ),
  -- For services from this day on the payer has nothing left, as its letter says, which is kept; the next one is asked instead.
  exhausted_from calendar_date, exhausted_letter text, check ((exhausted_from is null) = (exhausted_letter is null)),
  check ((bill_patient = 'yes') = (bill_patient_why = '')),
  version integer not null default 1, check (valid_from <= valid_to),
  -- On each day a case has one first, one second and one third coverage at most.
  constraint one_coverage_in_order exclude using gist (
    case_id with =, position with =, daterange(valid_from, valid_to, '[]') with &&
  ),
  -- A policy has one place at a time.
  constraint one_place_of_a_policy exclude using gist (
    case_id with =, policy_id with =, daterange(valid_from, valid_to, '[]') with &&
  )
);
create index on coverage (policy_id);
create function policy_covers() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if not exists (
    select 1
    from coverage o
      join care_case k on k.id = o.case_id
      join policy_person r on r.policy_id = o.policy_id and r.patient_id = k.patient_id
    where o.id = new.id
  ) then
    raise exception 'A policy covers only whom it insures' using errcode = 'check_violation';
  end if;
  return null;
end $$;
create constraint trigger policy_covers after insert or update of case_id, policy_id on coverage
deferrable initially deferred for each row execute function policy_covers();
create index on coverage (case_id, position);
create index coverage_not_billed on coverage (case_id) where bill_patient <> 'yes';
-- What a policy covers, from a day on, as its plan says it, or otherwise one policy or one coverage.
create table benefit_rule (
  id bigint generated always as identity primary key, kind text not null references benefit_kind (code),
  insurance_plan_id bigint references insurance_plan (id), policy_id bigint references policy (id),
  coverage_id bigint references coverage (id), valid_from calendar_date,
  -- Null where it holds for all services.
  category text references service_category (name) on update cascade,
  -- A group of codes instead.
  codes text[] check (codes <> '{}'), check (category is null or codes is null),
  share basis_points, amount cents check (amount >= 0),
  -- How many, of a limit that counts, and of what.
  quantity integer check (quantity >= 0), measure text check (measure in ('visits', 'days', 'units', 'services')),
  -- Whose count it is, and over what it runs: a year may begin on a day of its own, months are looked back from each service.
  holder text not null default 'person' check (holder in ('person', 'household')),
  every text not null default 'year' check (every in ('day', 'month', 'year', 'months', 'coverage', 'life')),
  months integer check (months > 0), anchor calendar_date, renews boolean not null default true,
  by_tooth boolean not null default false,
  check ((every = 'months') = (months is not null)), check (anchor is null or every = 'year'),
  check (renews or anchor is not null),
  -- What a copay is once of, and where it stands beside deductible and share.
  counted_for text not null default 'visit' check (counted_for in ('visit', 'day', 'service')),
  copay_order text not null default 'between' check (copay_order in ('before', 'between', 'after', 'instead')),
  -- Who pays what is over a limit, and whether that has to be meant.
  then_pays text not null default 'next' check (then_pays in ('next', 'patient')),
  warning text not null default 'none' check (warning in ('none', 'confirm')),
  -- Ages from and through which it is covered, the service as which it is paid, the modifier that lessens it, and the shares of
  -- the first, the second … of several.
  age_from integer check (age_from between 0 and 150), age_through integer check (age_through between 0 and 150),
  check (age_from <= age_through), check ((kind = 'ages') = (num_nonnulls(age_from, age_through) > 0)),
  paid_as text references service_code (code), check ((kind = 'lesser-service') = (paid_as is not null)),
  modifier text not null default '' check (modifier ~ '^([A-Z0-9]{2})?$'), check ((kind = 'modifier') = (modifier <> '')),
  shares integer[], check ((kind = 'several') = (shares is not null)),
  check (0 <= all (shares) and 10000 >= all (shares) and shares <> '{}'),
  version integer not null default 1,
  check (num_nonnulls(insurance_plan_id, policy_id, coverage_id) = 1),
  check ((kind in ('share', 'modifier')) = (share is not null)), check (kind <> 'share' or amount is null),
  check (kind <> 'waiting' or quantity > 0),
  check (kind <> 'share' or category is not null or codes is not null), check ((kind = 'limit') = (measure is not null)),
  check (kind in ('limit', 'waiting') or quantity is null),
  check (kind not in ('deductible', 'copay') or amount is not null),
  check (kind not in ('copay', 'out-of-pocket') or category is null),
  constraint one_word_on_a_day
    unique nulls not distinct (
      insurance_plan_id, policy_id, coverage_id, kind, category, codes, holder, measure, every, months, by_tooth, modifier,
      valid_from
    )
);
create index on benefit_rule (policy_id) where policy_id is not null;
create index on benefit_rule (coverage_id) where coverage_id is not null;
create trigger versioned before update on benefit_rule for each row execute function count_version();
-- What a payer told of a person's use of a rule: all that it had decided by a day. The last word of a day counts; nothing
-- takes back what was told of it.
create table benefit_elsewhere (
  id bigint generated always as identity primary key, policy_id bigint not null references policy (id),
  patient_id bigint not null references patient (id), rule text not null, as_of calendar_date not null,
  quantity bigint check (quantity >= 0),
  source text not null check (source in ('call', 'portal', 'letter', 'card')),
  user_name text not null, at timestamptz not null default desk_now()
);
create index on benefit_elsewhere (policy_id, as_of desc, id desc);
-- Coverages with the plan and the payer of their policies.
create view coverage_plan as
select o.id, o.case_id, o.position, o.valid_from, o.valid_to, o.exhausted_from, o.policy_id, p.insurance_plan_id, n.payer_id,
  n.name as plan_name
from coverage o
  join policy p on p.id = o.policy_id
  join insurance_plan n on n.id = p.insurance_plan_id;
-- Coverages with what their policies say: the plan and its payer, the last number that holds while the coverage does,
-- who holds the policy, and how the patient is related.
create view covered as
select o.id, o.case_id, o.position, o.valid_from, o.valid_to, o.bill_patient, o.bill_patient_why, o.claim_number,
  o.adjuster, o.assigned, o.signed, o.basis, o.court_order, o.secondary_type, o.exhausted_from, o.exhausted_letter, o.version, k.patient_id,
  o.policy_id, r.id as policy_person_id, r.relationship, p.insurance_plan_id,
  n.payer_id, n.name as plan_name, p.group_number,
  (
    select x.member_id
    from policy_number x
    where x.policy_person_id = r.id and (x.valid_from is null or x.valid_from <= coalesce(o.valid_to, date 'infinity'))
    order by x.valid_from desc nulls last
    limit 1
  ) as member_id,
  h.id as holder_id, h.patient_id as subscriber_id, h.organization,
  coalesce(s.last, h.last) as subscriber_last, coalesce(s.first, h.first, '') as subscriber_first,
  coalesce(s.birth_date, h.birth_date) as subscriber_birth_date, coalesce(s.sex, h.sex, 'U') as subscriber_sex,
  h.line1 as holder_line1, h.city as holder_city, h.state as holder_state, h.zip as holder_zip
from coverage o
  join care_case k on k.id = o.case_id
  join policy_person r on r.policy_id = o.policy_id and r.patient_id = k.patient_id
  join policy p on p.id = o.policy_id
  join insurance_plan n on n.id = p.insurance_plan_id
  join party h on h.id = p.holder_id
  left join patient s on s.id = h.patient_id;
-- The coverage of a case in an order on a day, if there is one. One that has nothing left is passed over for the next.
create function coverage_on(of_case bigint, in_order integer, on_day date) returns bigint language sql stable as $$
  select o.id
  from coverage o
  where o.case_id = of_case
    and o.position >= in_order
    and daterange(o.valid_from, o.valid_to, '[]') @> on_day
    and (o.exhausted_from is null or o.exhausted_from > on_day)
    and o.position - in_order = (
      select count(*)
      from coverage e
      where e.case_id = of_case
        and e.position >= in_order
        and e.position < o.position
        and daterange(e.valid_from, e.valid_to, '[]') @> on_day
        and e.exhausted_from <= on_day
    )
$$;
-- Teeth that a person has lost, and when where that is known: what replaces one that was lost before is not always covered, and a
-- dental claim says them.
create table lost_tooth (
  patient_id bigint not null references patient (id),
  tooth text not null check (tooth ~ '^([1-9]|[12][0-9]|3[0-2]|[A-T])$'), lost_on calendar_date,
  primary key (patient_id, tooth)
);

-- Ways of treating that stand beside each other; of those that are not chosen nothing is spoken for.
create table treatment_option (
  id bigint generated always as identity primary key, case_id bigint not null references care_case (id),
  name text not null check (name = btrim(name) and name <> ''), chosen boolean not null default true,
  version integer not null default 1, unique (case_id, name)
);
-- What was charged: a service of a patient, or something put on the account (no code, no provider, nobody's claim).
create table charge (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  kind text not null default 'service' check (
    kind in ('service', 'interest', 'late', 'returned', 'opening')
  ),
  patient_id bigint references patient (id), case_id bigint references care_case (id),
  coverage_id bigint references coverage (id),
  provider_id bigint references provider (id), location_id bigint references location (id),
  code text references service_code (code), form text check (form in ('professional', 'dental')),
  description text not null, modifiers text[] not null default '{}',
  units integer not null default 1 check (units between 1 and 999), fee cents not null check (fee >= 0),
  -- How long it took, where units are counted by that; and why the fee is not the usual one.
  minutes integer check (minutes between 1 and 600), fee_why text not null default '',
  -- Whether what the contract will take off counts from the day of service, as the policy was when it was entered.
  expects boolean not null default false,
  -- Whether it stands at the contracted fee; and what the first coverage's contract takes off the office fee, which every claim bears,
  -- whether or not that is counted before the payer has answered.
  at_contract boolean not null default false check (not at_contract or expects),
  contract_off cents not null default 0 check (contract_off >= 0),
  -- The drug that was given: its national drug code, and thousandths of its measure in all.
  ndc text not null default '', ndc_measure text not null default '', ndc_thousandths bigint,
  -- Tax on it; whether the first payer is asked for it, else the patient owes it; and what every claim asks for.
  tax cents not null default 0 check (tax >= 0),
  tax_billed boolean not null default false check (not tax_billed or coverage_id is not null),
  billed cents not null generated always as (fee + case when tax_billed then tax else 0 end) stored,
  service_date calendar_date not null, tooth text not null default '', surfaces text not null default '',
  area text not null default '' check (area ~ '^([0-9]{2})?$'),
  prosthesis text not null default '' check (prosthesis in ('', 'I', 'R')),
  prior_placement calendar_date check (prior_placement is null or prosthesis = 'R'),
  diagnoses text[] not null default '{}',
  -- Of what is planned: in which way of treating, where there are several, and in which phase of it.
  option_id bigint references treatment_option (id), phase integer not null default 1 check (phase between 1 and 9),
  status text not null default 'done' check (status in ('planned', 'done', 'void')),
  -- The patient pays it and asked that no insurer learns of it (45 CFR 164.522(a)(1)(vi)): it is on no claim.
  kept_from_payers boolean not null default false,
  check (not kept_from_payers or (kind = 'service' and coverage_id is null)),
  -- The charge in whose place it stands, which was another person's or for another case.
  moved_from bigint unique references charge (id),
  created_at timestamptz not null default desk_now(), version integer not null default 1,
  check (case when kind = 'service'
    then patient_id is not null
      and case_id is not null
      and provider_id is not null
      and location_id is not null
      and code is not null
      and form is not null
    else coalesce(case_id, coverage_id, provider_id, location_id) is null
      and code is null
      and form is null
      and tax = 0
      and status <> 'planned' end)
);
create index on charge (household_id, service_date);
create index charge_newest on charge (household_id, service_date desc, id desc) include (location_id, provider_id)
where kind = 'service' and status <> 'void';
create index on charge (case_id, service_date);
create index on charge (code);

-- What is stopped on an account, since when, and when it was lifted.
create table account_stop (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  reason_id bigint not null references stop_reason (id),
  since calendar_date not null, until calendar_date, user_name text not null,
  lifted_on calendar_date, lifted_by text, lifted_why text,
  created_at timestamptz not null default desk_now(), check (until >= since),
  check ((lifted_on is null) = (lifted_by is null)), check ((lifted_on is null) = (lifted_why is null))
);
create unique index one_stop_of_a_reason on account_stop (household_id, reason_id) where lifted_on is null;
create trigger versioned before update on household for each row execute function count_version();
create trigger versioned before update on patient for each row execute function count_version();
create trigger versioned before update on care_case for each row execute function count_version();
create trigger versioned before update on coverage for each row execute function count_version();
create trigger versioned before update on party for each row execute function count_version();
create trigger versioned before update on policy for each row execute function count_version();
create trigger versioned before update on policy_person for each row execute function count_version();
create index on charge (option_id) where option_id is not null;
create index on treatment_option (case_id);
create trigger versioned before update on treatment_option for each row execute function count_version();
-- What its contract takes off nobody edits.
create trigger versioned before update on charge
for each row when (old.contract_off = new.contract_off) execute function count_version();
`;
