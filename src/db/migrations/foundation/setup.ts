/** What Setup holds. */
export const setup = `
create table practice (
  id integer primary key default 1 check (id = 1), name text not null, npi text not null, taxonomy text not null,
  tax_id text not null,
  line1 text not null, line2 text not null default '', city text not null, state text not null, zip text not null,
  phone text not null, contact text not null,
  -- Where checks go, where that is not the street that claims name (2010AB).
  pay_to_line1 text not null default '', pay_to_line2 text not null default '', pay_to_city text not null default '',
  pay_to_state text not null default '', pay_to_zip text not null default '',
  -- By how much what is printed into pre-printed claim forms is moved, in tenths of a millimeter.
  form_right integer not null default 0 check (form_right between -200 and 200),
  form_down integer not null default 0 check (form_down between -200 and 200),
  paper text not null default 'LETTER' check (paper in ('LETTER', 'A4')),
  closed_through calendar_date,
  -- When a contract's write-off counts: when the payer answers, or on the day of service; a plan may say otherwise.
  write_offs_count text not null default 'answer' check (write_offs_count in ('answer', 'service')),
  second_factor text not null default 'managers' check (second_factor in ('nobody', 'managers', 'everybody')),
  version integer not null default 1
);
create table location (
  id bigint generated always as identity primary key, name text not null unique, place_of_service text not null,
  line1 text not null, city text not null, state text not null, zip text not null, phone text not null,
  -- Tax on services that are taxable there, and the number of its laboratory (CLIA).
  tax_rate basis_points,
  clia text not null default '' check (clia ~ '^([0-9]{2}D[0-9]{7})?$'),
  version integer not null default 1
);
create table provider (
  id bigint generated always as identity primary key, last text not null, first text not null,
  suffix text not null default '',
  npi text not null unique, taxonomy text not null, location_id bigint not null references location (id),
  active boolean not null default true,
  version integer not null default 1
);
-- Kinds of connections, filled from the closed list of the program.
create table connection_kind (code text primary key);
create table connection (
  id bigint generated always as identity primary key, name text not null unique,
  folder text not null unique check (folder ~ '^[a-z0-9-]{1,40}$'),
  kind text not null default 'clearinghouse' references connection_kind (code),
  settings jsonb not null,
  last_control bigint not null default 0, version integer not null default 1
);
-- How patients' money is taken: of the practice, and of sites that do otherwise. Rates in basis points.
create table payment_policy (
  id bigint generated always as identity primary key, location_id bigint unique references location (id),
  -- A surcharge on credit cards, and what one costs the practice, above which none is taken.
  surcharge_rate basis_points not null default 0, card_cost basis_points not null default 0,
  drawer_opening cents not null default 0 check (drawer_opening >= 0),
  returned_check cents not null default 0 check (returned_check >= 0),
  -- What is given back above it is given back by a manager.
  refund_most cents not null default 0 check (refund_most >= 0),
  -- Whether credit pays what is open by itself at night; the practice's alone.
  credit_by_night boolean not null default false,
  version integer not null default 1
);
insert into payment_policy default values;
create unique index one_practice_payments on payment_policy ((location_id is null)) where location_id is null;
create trigger versioned before update on payment_policy for each row execute function count_version();
-- The most that a brand of cards lets one add, and what a state says of it.
create table card_brand (
  name text primary key check (name <> ''), most basis_points not null default 0, version integer not null default 1
);
create trigger versioned before update on card_brand for each row execute function count_version();
create table surcharge_state (
  state text primary key check (state ~ '^[A-Z]{2}$'),
  rule text not null check (rule in ('allowed', 'capped', 'forbidden')), most basis_points not null default 0,
  words text not null default '', version integer not null default 1
);
create trigger versioned before update on surcharge_state for each row execute function count_version();
-- How long credit rests whose owner is not heard of, by the state of the owner's last address, as the practice brings it in.
create table dormancy (
  state text primary key check (state ~ '^[A-Z]{2}$'), months integer not null check (months between 1 and 360),
  letter_days integer not null default 60 check (letter_days between 0 and 730),
  least cents not null default 0 check (least >= 0), source text not null default '', version integer not null default 1
);
create trigger versioned before update on dormancy for each row execute function count_version();
create table fee_schedule (
  id bigint generated always as identity primary key, name text not null unique,
  kind text not null check (kind in ('office', 'contract', 'discount')),
  -- The office fees of sites that have none of their own.
  standard boolean not null default false check (not standard or kind = 'office'),
  version integer not null default 1
);
create unique index one_standard_schedule on fee_schedule (standard) where standard;
alter table location add column fee_schedule_id bigint references fee_schedule (id);
-- The first office schedule is the standard one; another that becomes it takes its place.
create function one_standard() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if new.kind = 'office' and not exists (select from fee_schedule where standard and id <> new.id) then
    new.standard := true;
  elsif new.standard then
    update fee_schedule set standard = false where standard and id <> new.id;
  end if;
  return new;
end $$;
create trigger one_standard before insert or update on fee_schedule
for each row when (pg_trigger_depth() = 0) execute function one_standard();
-- What a practice sorts its accounts by.
create table account_category (
  name text primary key check (name = btrim(name) and name <> ''),
  -- What its households pay where no insurer is asked.
  fee_schedule_id bigint references fee_schedule (id), version integer not null default 1
);
create unique index on account_category (lower(name));
-- How patients come to the practice.
create table referral_source (
  name text primary key check (name = btrim(name) and name <> ''), version integer not null default 1
);
create unique index on referral_source (lower(name));
-- Why something is not done with an account, and what.
create table stop_reason (
  id bigint generated always as identity primary key, name text not null unique check (name <> ''),
  statements boolean not null, late_charges boolean not null, letters boolean not null, calls boolean not null,
  agency boolean not null,
  version integer not null default 1
);
-- How statements are made: for the practice (no location), and for locations that do otherwise.
create table statement_policy (
  id bigint generated always as identity primary key, location_id bigint references location (id),
  least cents not null default 500 check (least >= 0),
  cycle text not null default 'days' check (cycle in ('monthly', 'days')),
  cycle_number integer not null default 28 check (cycle_number between 1 and 366),
  due_days integer not null default 14 check (due_days between 0 and 120),
  grace_days integer not null default 10 check (grace_days between 0 and 120),
  aging_from text not null default 'responsible' check (aging_from in ('responsible', 'service')),
  tenders text[] not null default '{}', remit_name text not null default '', remit_line1 text not null default '',
  remit_city text not null default '',
  remit_state text not null default '', remit_zip text not null default '', phone text not null default '',
  hours text not null default '',
  messages integer not null default 2 check (messages between 0 and 9),
  late_kind text not null default 'none' check (late_kind in ('none', 'flat', 'yearly')),
  late_flat cents not null default 0 check (late_flat >= 0), late_rate basis_points not null default 0,
  late_least cents not null default 0 check (late_least >= 0), late_most cents,
  version integer not null default 1, unique nulls not distinct (location_id), check (late_most >= late_least),
  check (cycle <> 'monthly' or cycle_number <= 28)
);
insert into statement_policy default values;
-- Messages on statements, in the order in which they are tried.
create table statement_message (
  id bigint generated always as identity primary key, position integer not null unique,
  name text not null check (name <> ''), words text not null check (words <> ''),
  age_from integer check (age_from >= 0), age_to integer check (age_to >= age_from),
  due text not null default 'any' check (due in ('any', 'normal', 'partly', 'past')),
  insured text not null default 'any' check (insured in ('any', 'yes', 'no')),
  on_plan text not null default 'any' check (on_plan in ('any', 'yes', 'no')),
  location_id bigint references location (id), month_from integer check (month_from between 1 and 12),
  month_to integer check (month_to between 1 and 12),
  active boolean not null default true, version integer not null default 1
);
-- Which households a run takes and which it leaves out, saved under a name.
create table statement_set (
  id bigint generated always as identity primary key, name text not null unique check (name <> ''),
  location_id bigint references location (id),
  standard boolean not null default false, rows jsonb not null, version integer not null default 1
);
create unique index one_standard_set on statement_set (coalesce(location_id, 0)) where standard;
-- The categories of services, by which plans pay: one list, so that a misspelt one cannot take benefits away.
create table service_category (
  name text primary key check (name = btrim(name) and name <> ''), version integer not null default 1
);
create unique index on service_category (lower(name));
create table service_code (
  code text primary key, description text not null, patient_words text not null default '',
  category text not null references service_category (name) on update cascade,
  form text not null check (form in ('professional', 'dental')),
  needs_tooth boolean not null default false, needs_surface boolean not null default false,
  needs_area text not null default '' check (needs_area in ('', 'quadrant', 'arch')),
  -- Modifiers that it usually has.
  modifiers text[] not null default '{}', valid_from calendar_date, valid_to calendar_date,
  check (valid_from <= valid_to),
  -- How many minutes make a unit, where it is billed by time, and with which others they are counted together.
  unit_minutes integer check (unit_minutes between 1 and 240), discipline text not null default '',
  taxable boolean not null default false,
  -- The drug that it gives: eleven digits of the national drug code, and thousandths of its measure by unit of the service.
  ndc text not null default '' check (ndc ~ '^([0-9]{11})?$'),
  ndc_measure text not null default '' check (ndc_measure in ('', 'F2', 'GR', 'ME', 'ML', 'UN')),
  ndc_thousandths integer check (ndc_thousandths > 0),
  check ((ndc = '') = (ndc_measure = '') and (ndc = '') = (ndc_thousandths is null)),
  needs_clia boolean not null default false,
  -- A claim for it names the drug, and who ordered it.
  needs_drug boolean not null default false, needs_ordering boolean not null default false,
  active boolean not null default true,
  -- Who added it while entering a visit; nobody once it was looked at.
  added_by text not null default '',
  version integer not null default 1
);
create table fee (
  fee_schedule_id bigint not null references fee_schedule (id), code text not null references service_code (code),
  -- From when it holds; nothing: from the beginning.
  valid_from calendar_date, amount cents not null check (amount >= 0),
  -- What is allowed where it is done in a facility that bills for itself, when that is another amount.
  facility_amount cents check (facility_amount >= 0), version integer not null default 1,
  unique nulls not distinct (fee_schedule_id, code, valid_from)
);
-- What a provider is paid of what was earned or came in, by kind of service, from a day on.
create table provider_share (
  id bigint generated always as identity primary key, provider_id bigint not null references provider (id),
  category text references service_category (name) on update cascade, valid_from calendar_date,
  basis text not null check (basis in ('service', 'answer', 'collected')), share basis_points not null,
  active boolean not null default true, version integer not null default 1,
  constraint one_share_on_a_day unique nulls not distinct (provider_id, category, valid_from)
);
-- Services that are entered together, in their order; what differs each time is asked.
create table charge_set (
  id bigint generated always as identity primary key, name text not null unique check (name = btrim(name) and name <> ''),
  active boolean not null default true, version integer not null default 1
);
create table charge_set_line (
  charge_set_id bigint not null references charge_set (id), position integer not null check (position > 0),
  code text not null references service_code (code), units integer check (units between 1 and 999),
  minutes integer check (minutes between 1 and 600), modifiers text[] not null default '{}',
  fee cents check (fee >= 0), version integer not null default 1, primary key (charge_set_id, position),
  check (units is null or minutes is null)
);
-- The fee of a code in a schedule on a day.
-- Fees that were changed together: from when they hold, what stood there on that day before and after, and whether it was taken back.
create table fee_change (
  id bigint generated always as identity primary key, fee_schedule_id bigint not null references fee_schedule (id),
  valid_from calendar_date, words text not null default '', user_name text not null, made_on calendar_date not null,
  created_at timestamptz not null default desk_now(), undone_on calendar_date, undone_by text,
  check ((undone_on is null) = (undone_by is null))
);
create index on fee_change (fee_schedule_id, id);
create table fee_change_line (
  change_id bigint not null references fee_change (id), code text not null references service_code (code),
  before cents, before_facility cents, after cents, after_facility cents, primary key (change_id, code)
);
create index on fee_change_line (code);
create function fee_on(schedule bigint, of_code text, on_day date) returns cents language sql stable as $$
  select amount
  from fee
  where fee_schedule_id = schedule and code = of_code and (valid_from is null or valid_from <= on_day)
  order by valid_from desc nulls last
  limit 1
$$;
-- The office schedule of a site, or the standard one.
create function office_schedule(site bigint) returns bigint language sql stable as $$
  select coalesce(
    (select fee_schedule_id from location where id = site), (select id from fee_schedule where standard)
  )
$$;
create table diagnosis (
  code text primary key, description text not null, valid_from calendar_date, valid_to calendar_date,
  added_by text not null default '',
  version integer not null default 1
);
create table payer (
  id bigint generated always as identity primary key, name text not null unique, payer_id text not null default '',
  connection_id bigint references connection (id),
  accepts text not null default 'electronic' check (accepts in ('electronic', 'paper', 'hold')),
  -- On paper: a professional claim into the boxes of the pre-printed form, or all of them in a layout of our own; and whether one goes on
  -- over several forms.
  paper_form text not null default 'form' check (paper_form in ('form', 'plain')),
  paper_continues boolean not null default false,
  bills_as text not null default 'group' check (bills_as in ('group', 'individual')),
  filing_code text not null default 'CI',
  timely_filing_days integer not null default 365 check (timely_filing_days > 0),
  -- From the first decision of the payer before it, where it is a next payer; nothing: as many as from the service.
  later_filing_days integer check (later_filing_days > 0),
  requires_referring boolean not null default false, requires_authorization boolean not null default false,
  phone text not null default '',
  -- Its name and address on claims, where they are said; whether the clearinghouse prints and mails what it is sent for it.
  claim_name text not null default '', line1 text not null default '', line2 text not null default '',
  city text not null default '', state text not null default '', zip text not null default '',
  clearinghouse_mails boolean not null default false,
  new_claims text not null default 'evening' check (new_claims in ('evening', 'sent', 'held', 'asked')),
  corrections text not null default 'replaced' check (corrections in ('replaced', 'reopened', 'new')),
  accepts_assignment boolean not null default true,
  -- Whether tax on a service is asked of it, in what a line of its claims costs (2400 AMT*T), or of the patient.
  takes_tax boolean not null default false,
  -- Whether its claims tell what the patient has paid (2300 AMT*F5).
  tells_patient_paid boolean not null default false,
  -- A card pays its patients' share without a surcharge, by its contract; Medicare and Medicaid always.
  no_surcharge boolean not null default false,
  -- So much less or more than its contract says is let pass on a line. Cents.
  short_tolerance cents not null default 0 check (short_tolerance >= 0),
  -- By what it knows us, where that is not what we say to others.
  own_name text not null default '', own_npi text not null default '', own_taxonomy text not null default '',
  own_tax_id text not null default '', own_line1 text not null default '', own_city text not null default '',
  own_state text not null default '', own_zip text not null default '',
  -- It was entered at the desk with its name and town alone.
  unfinished boolean not null default false,
  -- No new coverage is of it; what it has lives on.
  retired_on calendar_date,
  -- The payer that it is the same as, whose all of it is now; entries that name it stay as they were written.
  merged_into bigint references payer (id) check (merged_into <> id),
  version integer not null default 1
);
create index on payer (merged_into) where merged_into is not null;
-- The payer that one is now.
create function payer_now(of_payer bigint) returns bigint language sql stable as $$
  select coalesce(merged_into, id) from payer where id = of_payer
$$;
-- Further numbers that a payer goes by, and numbers by which we are paid besides those of the practice and its
-- providers.
create table payer_identifier (
  value text primary key check (value <> ''), payer_id bigint not null references payer (id)
);
create table payee_identifier (
  value text primary key check (value <> ''), kind text not null check (kind in ('npi', 'tax-id'))
);
-- Who takes part with a payer, from when to when; how each is billed, and by what numbers the payer knows them.
create table payer_provider (
  id bigint generated always as identity primary key, payer_id bigint not null references payer (id),
  provider_id bigint not null references provider (id), valid_from calendar_date, valid_to calendar_date,
  bills_as text not null default '' check (bills_as in ('', 'group', 'individual')),
  individual_qualifier text not null default '' check (individual_qualifier in ('', 'G2', '0B', '1G', 'LU')),
  individual_id text not null default '',
  group_qualifier text not null default '' check (group_qualifier in ('', 'G2', 'LU', '0B', '1G')),
  group_id text not null default '',
  version integer not null default 1, check (valid_from <= valid_to),
  check ((individual_qualifier = '') = (individual_id = '')), check ((group_qualifier = '') = (group_id = '')),
  constraint one_word_of_a_provider exclude using gist (
    payer_id with =, provider_id with =, daterange(valid_from, valid_to, '[]') with &&
  )
);
create index on payer_provider (payer_id, provider_id);
create table payer_contact (
  id bigint generated always as identity primary key, payer_id bigint not null references payer (id),
  purpose text not null check (
    purpose in ('claims', 'eligibility', 'authorizations', 'appeals', 'payments', 'providers', 'adjuster')
  ),
  name text not null default '', phone text not null default '', hours text not null default '',
  email text not null default '', active boolean not null default true, version integer not null default 1
);
create index on payer_contact (payer_id);
-- Further numbers of a payer that its claims bear.
create table payer_reference (
  id bigint generated always as identity primary key, payer_id bigint not null references payer (id),
  qualifier text not null check (qualifier in ('2U', 'EI', 'FY', 'NF')), value text not null check (value <> ''),
  active boolean not null default true, version integer not null default 1, unique (payer_id, qualifier)
);
-- With whom there is an agreement about a kind of transaction: the practice where no provider is said.
create table payer_agreement (
  id bigint generated always as identity primary key, payer_id bigint not null references payer (id),
  transaction text not null check (transaction in ('837P', '837D', '835', '270', '276')),
  provider_id bigint references provider (id), since calendar_date not null,
  active boolean not null default true, version integer not null default 1,
  constraint one_agreement unique nulls not distinct (payer_id, transaction, provider_id)
);
-- What it wants otherwise, of the closed list of the program.
create table payer_setting_kind (code text primary key);
create table payer_setting (
  payer_id bigint not null references payer (id), setting text not null references payer_setting_kind (code),
  active boolean not null default true, version integer not null default 1, primary key (payer_id, setting)
);
-- How a payer has a rule of claims, of the closed list of the program, that is otherwise with others.
create table claim_rule (code text primary key);
create table payer_rule (
  payer_id bigint not null references payer (id), rule text not null references claim_rule (code),
  severity text not null check (severity in ('stop', 'warn', 'off')),
  version integer not null default 1, primary key (payer_id, rule)
);
-- What a payer asks for that others do not, of the closed list of the program: a rule made without code.
create table claim_need (code text primary key);
create table payer_need (
  payer_id bigint not null references payer (id), need text not null references claim_need (code),
  severity text not null default 'stop' check (severity in ('stop', 'warn', 'off')),
  version integer not null default 1, primary key (payer_id, need)
);
-- Brought in by the practice: services that are not billed together on a day, and how many units of one a day allows.
create table not_together (
  code text not null, other text not null, unless_modifier boolean not null default false,
  active boolean not null default true,
  version integer not null default 1, primary key (code, other), check (code <> other)
);
create index on not_together (other);
create table unit_limit (
  code text primary key, units integer not null check (units > 0),
  active boolean not null default true, version integer not null default 1
);
-- Whom a clearinghouse reaches, as its last list said.
create table clearinghouse_payer (
  connection_id bigint not null references connection (id), code text not null, name text not null,
  takes text[] not null, needs text[] not null, primary key (connection_id, code)
);
create table insurance_plan (
  id bigint generated always as identity primary key, payer_id bigint not null references payer (id),
  name text not null,
  fee_schedule_id bigint references fee_schedule (id), contracted boolean not null default true,
  coordination text not null default 'standard' check (
    coordination in ('standard', 'non-duplication', 'maintenance')
  ),
  write_offs_count text not null default '' check (write_offs_count in ('', 'answer', 'service')),
  -- At which fee its charges stand: the office fee with the write-off beside it, or the contracted one.
  charges_at text not null default 'office' check (charges_at in ('office', 'contract')),
  -- How it counts units of services that are billed by time.
  timed_units text not null default 'total' check (timed_units in ('total', 'each')),
  version integer not null default 1, unique (payer_id, name)
);
-- What rules of what policies cover say, filled from the closed list of the program.
create table benefit_kind (code text primary key);

-- The book accounts, filled from the closed list of the program; a practice may add reductions.
create table book_account (
  code text primary key,
  class text not null check (
    class in ('receivable', 'credit', 'cash', 'income', 'reduction', 'expense', 'payable', 'opening')
  ),
  part text check (
    part in (
      'fee', 'tax', 'added', 'opened', 'payer_paid', 'patient_paid', 'agency_paid', 'reduced', 'expected',
      'with_payer', 'with_patient', 'on_plan', 'at_agency'
    )
  ),
  words text not null, unique (code, class), check (class <> 'reduction' or part in ('reduced', 'expected'))
);
create function account_fixed() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  raise exception 'What book account % means is never changed: add another one',
  old.code using errcode = 'restrict_violation';
end $$;
create trigger account_fixed before update of code, class, part on book_account for each row
  when (
    (old.code, old.class, old.part) is distinct from (new.code, new.class, new.part)
  ) execute function account_fixed();

create table reason_code (
  group_code text not null check (group_code in ('CO', 'PR', 'OA', 'PI', 'CR', '*')), code text not null,
  words text not null,
  patient_words text not null, denial boolean not null default false,
  follow_up text not null default 'never' check (follow_up in ('never', 'while-money', 'always')),
  -- Who works its follow-ups, and in so many days; nobody, and as the kind of follow-up has it, where it is not said.
  follow_up_owner text check (follow_up_owner <> ''), follow_up_days integer check (follow_up_days between 0 and 365),
  reduction_account text not null default 'reduction/contract',
  reduction_class text not null generated always as ('reduction') stored,
  -- As what a code of our own goes to the next payer: a standard group and code.
  travels_as text not null default '' check (travels_as ~ '^((CO|PR|OA|PI|CR)-[A-Z0-9]{1,5})?$'),
  -- Of services of which days it is said.
  valid_from calendar_date, valid_to calendar_date, check (valid_from <= valid_to),
  standard boolean not null default true, version integer not null default 1,
  primary key (group_code, code),
    foreign key (reduction_account, reduction_class) references book_account (code, class)
);

-- Reasons and remarks that go together in the four scenarios of the operating rule for the uniform use of codes.
create table reason_combination (
  scenario integer not null check (scenario between 1 and 4), reason text not null check (reason ~ '^[A-Z0-9]{1,5}$'),
  -- Empty: it needs none.
  remark text not null default '' check (remark ~ '^[A-Z0-9]{0,6}$'),
  groups text[] not null check (cardinality(groups) > 0 and groups <@ array['CO', 'PI', 'PR', 'OA', 'CR']),
  active boolean not null default true, version integer not null default 1, primary key (scenario, reason, remark)
);
create index on reason_combination (reason) where active;
create trigger versioned before update on reason_combination for each row execute function count_version();
create trigger versioned before update on payer_rule for each row execute function count_version();
create trigger versioned before update on payer_need for each row execute function count_version();
create trigger versioned before update on not_together for each row execute function count_version();
create trigger versioned before update on unit_limit for each row execute function count_version();
create trigger versioned before update on practice for each row execute function count_version();
create trigger versioned before update on account_category for each row execute function count_version();
create trigger versioned before update on referral_source for each row execute function count_version();
create trigger versioned before update on stop_reason for each row execute function count_version();
create trigger versioned before update on statement_policy for each row execute function count_version();
create trigger versioned before update on statement_message for each row execute function count_version();
create trigger versioned before update on statement_set for each row execute function count_version();
create trigger versioned before update on location for each row execute function count_version();
create trigger versioned before update on provider for each row execute function count_version();
create trigger versioned before update on connection
for each row when (old.last_control = new.last_control) execute function count_version();
create trigger versioned before update on fee_schedule for each row execute function count_version();
create trigger versioned before update on service_code for each row execute function count_version();
create trigger versioned before update on fee for each row execute function count_version();
create trigger versioned before update on provider_share for each row execute function count_version();
create trigger versioned before update on charge_set for each row execute function count_version();
create trigger versioned before update on charge_set_line for each row execute function count_version();
-- Those that were added while entering, until somebody has looked at them.
create index service_code_added on service_code (code) where added_by <> '';
create index diagnosis_added on diagnosis (code) where added_by <> '';
create trigger versioned before update on diagnosis for each row execute function count_version();
create trigger versioned before update on payer for each row execute function count_version();
create trigger versioned before update on payer_provider for each row execute function count_version();
create trigger versioned before update on payer_contact for each row execute function count_version();
create trigger versioned before update on payer_reference for each row execute function count_version();
create trigger versioned before update on payer_agreement for each row execute function count_version();
create trigger versioned before update on payer_setting for each row execute function count_version();
create trigger versioned before update on insurance_plan for each row execute function count_version();
create trigger versioned before update on service_category for each row execute function count_version();
create trigger versioned before update on reason_code for each row execute function count_version();
`;
