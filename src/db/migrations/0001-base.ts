/** People, coverage, setup, claims, remittances, payments, statements. Money is whole cents in bigint. */
export const base = `
create extension if not exists pg_trgm;

-- Sign-in (the tables that better-auth keeps).
create table "user" (
  id text primary key, name text not null, email text not null unique, "emailVerified" boolean not null default false,
  image text, "createdAt" timestamptz not null default now(), "updatedAt" timestamptz not null default now(),
  role text not null default 'front-desk' check (role in ('front-desk', 'biller', 'collector', 'manager'))
);
create table session (
  id text primary key, "expiresAt" timestamptz not null, token text not null unique, "createdAt" timestamptz not null default now(),
  "updatedAt" timestamptz not null default now(), "ipAddress" text, "userAgent" text,
  "userId" text not null references "user" (id) on delete cascade
);
create index on session ("userId");
create table account (
  id text primary key, "accountId" text not null, "providerId" text not null, "userId" text not null references "user" (id) on delete cascade,
  "accessToken" text, "refreshToken" text, "idToken" text, "accessTokenExpiresAt" timestamptz, "refreshTokenExpiresAt" timestamptz,
  scope text, password text, "createdAt" timestamptz not null default now(), "updatedAt" timestamptz not null default now()
);
create index on account ("userId");
create table verification (
  id text primary key, identifier text not null, value text not null, "expiresAt" timestamptz not null,
  "createdAt" timestamptz not null default now(), "updatedAt" timestamptz not null default now()
);
create table "rateLimit" (id text primary key, key text not null unique, count integer not null, "lastRequest" bigint not null);

create table audit (
  id bigint generated always as identity primary key, at timestamptz not null default now(), user_id text not null,
  action text not null, subject_kind text not null, subject_id text not null, detail jsonb not null default '{}'
);
create index on audit (subject_kind, subject_id, at desc);

-- Setup.
create table practice (
  id integer primary key default 1 check (id = 1), name text not null, npi text not null, taxonomy text not null, tax_id text not null,
  line1 text not null, line2 text not null default '', city text not null, state text not null, zip text not null,
  phone text not null, contact text not null, statement_due_days integer not null default 14 check (statement_due_days between 0 and 120),
  closed_through date
);
create table location (
  id bigint generated always as identity primary key, name text not null unique, place_of_service text not null,
  line1 text not null, city text not null, state text not null, zip text not null, phone text not null
);
create table provider (
  id bigint generated always as identity primary key, last text not null, first text not null, suffix text not null default '',
  npi text not null unique, taxonomy text not null, location_id bigint not null references location (id), active boolean not null default true
);
create table connection (
  id bigint generated always as identity primary key, name text not null unique, folder text not null unique,
  sender_id text not null, receiver_id text not null, receiver_name text not null, last_control bigint not null default 0
);
create table fee_schedule (
  id bigint generated always as identity primary key, name text not null unique, kind text not null check (kind in ('office', 'contract'))
);
create unique index one_office_schedule on fee_schedule (kind) where kind = 'office';
create table service_code (
  code text primary key, description text not null, patient_words text not null default '', category text not null,
  form text not null check (form in ('professional', 'dental')),
  needs_tooth boolean not null default false, needs_surface boolean not null default false, active boolean not null default true
);
create table fee (
  fee_schedule_id bigint not null references fee_schedule (id), code text not null references service_code (code),
  amount bigint not null check (amount >= 0), primary key (fee_schedule_id, code)
);
create table diagnosis (code text primary key, description text not null, valid_from date, valid_to date);
create table payer (
  id bigint generated always as identity primary key, name text not null unique, payer_id text not null default '',
  connection_id bigint references connection (id), accepts text not null default 'electronic' check (accepts in ('electronic', 'paper', 'hold')),
  bills_as text not null default 'group' check (bills_as in ('group', 'individual')),
  filing_code text not null default 'CI', timely_filing_days integer not null default 365 check (timely_filing_days > 0),
  requires_referring boolean not null default false, requires_authorization boolean not null default false, phone text not null default ''
);
create table plan (
  id bigint generated always as identity primary key, payer_id bigint not null references payer (id), name text not null,
  fee_schedule_id bigint references fee_schedule (id), contracted boolean not null, percentages jsonb not null,
  deductible bigint not null default 0 check (deductible >= 0), deductible_waived text[] not null default '{}',
  copay bigint not null default 0 check (copay >= 0), copay_per text not null default 'visit' check (copay_per in ('visit', 'service')),
  maximum bigint check (maximum >= 0), coordination text not null default 'standard' check (coordination in ('standard', 'non-duplication', 'maintenance')),
  unique (payer_id, name)
);
create table book_account (code text primary key);
create table reason_code (
  group_code text not null check (group_code in ('CO', 'PR', 'OA', 'PI', 'CR', '*')), code text not null, words text not null,
  patient_words text not null, denial boolean not null default false,
  follow_up text not null default 'never' check (follow_up in ('never', 'while-money', 'always')),
  reduction_account text not null default 'reduction/contract' references book_account (code), standard boolean not null default true,
  primary key (group_code, code)
);

-- People.
create sequence account_number start 10201;
create table household (
  id bigint generated always as identity primary key, number text not null unique default 'A-' || nextval('account_number'),
  last text not null, first text not null, line1 text not null, line2 text not null default '', city text not null, state text not null,
  zip text not null, phone text not null default '', email text not null default '', notice text not null default '',
  created_at timestamptz not null default now()
);
create table patient (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  last text not null, first text not null, middle text not null default '', suffix text not null default '',
  birth_date date not null, sex text not null check (sex in ('F', 'M', 'U')),
  search text generated always as (lower(first || ' ' || last || ', ' || first)) stored
);
create index on patient (household_id);
create index patient_search on patient using gin (search gin_trgm_ops);
create index on patient (birth_date);
create table care_case (
  id bigint generated always as identity primary key, patient_id bigint not null references patient (id), name text not null,
  standing boolean not null default true, accident_kind text check (accident_kind in ('AA', 'EM', 'OA')), accident_date date, accident_state text,
  authorization_number text not null default '', referring_last text not null default '', referring_first text not null default '',
  referring_npi text not null default ''
);
create index on care_case (patient_id);
create table coverage (
  id bigint generated always as identity primary key, case_id bigint not null references care_case (id), position integer not null check (position between 1 and 3),
  plan_id bigint not null references plan (id), member_id text not null, group_number text not null default '',
  relationship text not null default 'self' check (relationship in ('self', 'spouse', 'child', 'other')),
  subscriber_last text not null, subscriber_first text not null, subscriber_birth_date date not null, subscriber_sex text not null,
  valid_from date, valid_to date, unique (case_id, position)
);
create index on coverage (plan_id);
create table charge (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  patient_id bigint not null references patient (id), case_id bigint not null references care_case (id), coverage_id bigint references coverage (id),
  provider_id bigint not null references provider (id), location_id bigint not null references location (id),
  code text not null references service_code (code), description text not null, form text not null, modifiers text[] not null default '{}',
  units integer not null check (units between 1 and 999), fee bigint not null check (fee >= 0), service_date date not null,
  tooth text not null default '', surfaces text not null default '', area text not null default '', diagnoses text[] not null default '{}',
  status text not null default 'done' check (status in ('planned', 'done', 'void')), key text unique, created_at timestamptz not null default now()
);
create index on charge (household_id, service_date);
create index on charge (case_id, service_date);

-- Claims.
create sequence control_number start 100001;
create table transmission (
  id bigint generated always as identity primary key, connection_id bigint not null references connection (id), control_number text not null,
  file_name text not null unique, content text not null, claims integer not null, total bigint not null,
  created_at timestamptz not null default now(), business_date date not null, written_at timestamptz,
  interchange_answer text not null default '', group_answer text not null default '', unique (connection_id, control_number)
);
create table claim (
  id bigint generated always as identity primary key, control_number text not null unique,
  household_id bigint not null references household (id), patient_id bigint not null references patient (id), case_id bigint not null references care_case (id),
  coverage_id bigint not null references coverage (id), payer_id bigint not null references payer (id), location_id bigint not null references location (id),
  provider_id bigint not null references provider (id), form text not null check (form in ('professional', 'dental')),
  frequency text not null default '1' check (frequency in ('1', '7', '8')), replaces bigint references claim (id), payer_claim_number text not null default '',
  status text not null default 'draft' check (status in ('draft', 'ready', 'sent', 'accepted', 'rejected', 'decided', 'closed', 'held', 'withdrawn')),
  hold_reason text not null default '', total bigint not null, service_date date not null, content jsonb, findings jsonb not null default '[]',
  stops integer not null default 0, warnings integer not null default 0, transmission_id bigint references transmission (id),
  sent_date date, created_at timestamptz not null default now()
);
create index on claim (status, service_date);
create index on claim (household_id);
create index on claim (transmission_id);
create table claim_line (
  id bigint generated always as identity primary key, claim_id bigint not null references claim (id), number integer not null,
  charge_id bigint not null references charge (id), coverage_id bigint not null references coverage (id),
  expected_allowed bigint, expected_paid bigint not null default 0, current boolean not null default true, unique (claim_id, number)
);
create unique index one_current_claim on claim_line (charge_id, coverage_id) where current;
create index on claim_line (claim_id);
create index on claim_line (charge_id);
create table claim_event (
  id bigint generated always as identity primary key, claim_id bigint not null references claim (id), at timestamptz not null default now(),
  business_date date not null, status text not null, cause_kind text not null check (cause_kind in ('user', 'file', 'rule')), cause text not null, words text not null
);
create index on claim_event (claim_id);

-- Exchange.
create table exchange_file (
  id bigint generated always as identity primary key, connection_id bigint references connection (id), direction text not null check (direction in ('in', 'out')),
  name text not null, sha256 text not null, bytes bigint not null, kind text not null, status text not null check (status in ('read', 'set aside', 'duplicate', 'written')),
  result text not null default '', at timestamptz not null default now()
);
create unique index one_file_once on exchange_file (direction, sha256) where status in ('read', 'written');

-- Remittances.
create table remittance (
  id bigint generated always as identity primary key, payer_id bigint references payer (id), payer_key text not null, payer_name text not null,
  trace text not null, originator text not null default '', amount bigint not null, method text not null, payment_date date not null,
  file_id bigint references exchange_file (id), received_date date not null, claims integer not null default 0,
  status text not null check (status in ('held', 'ready', 'posting', 'posted')), hold_reasons jsonb not null default '[]',
  provider_adjustments jsonb not null default '[]', posted_at timestamptz, unique (payer_key, trace, amount)
);
create index on remittance (status, payment_date);
create table remittance_claim (
  id bigint generated always as identity primary key, remittance_id bigint not null references remittance (id) on delete cascade, number integer not null,
  control_number text not null, claim_id bigint references claim (id), content jsonb not null, charge bigint not null, paid bigint not null,
  status text not null check (status in ('ready', 'held', 'posted', 'unmatched', 'reversed')), hold_reason text not null default '', unique (remittance_id, number)
);
create index on remittance_claim (claim_id);
create index on remittance_claim (status) where status in ('held', 'unmatched');
create table follow_up (
  id bigint generated always as identity primary key, kind text not null check (kind in ('denial', 'short-payment', 'reason', 'overpaid', 'rejected')),
  household_id bigint references household (id), claim_id bigint references claim (id), charge_id bigint references charge (id),
  remittance_claim_id bigint references remittance_claim (id), words text not null, amount bigint not null default 0, due_date date not null,
  owner text not null default '', outcome text not null default '', closed_at timestamptz, created_at timestamptz not null default now(),
  key text not null unique
);
create index on follow_up (due_date) where closed_at is null;
create index on follow_up (household_id);

-- Payments and statements.
create table receipt (
  id bigint generated always as identity primary key, household_id bigint not null references household (id), amount bigint not null check (amount > 0),
  tender text not null check (tender in ('cash', 'check')), reference text not null default '', business_date date not null, note text not null default '',
  key text not null unique, user_id text not null, created_at timestamptz not null default now()
);
create index on receipt (household_id);
create index on receipt (business_date);
create table statement (
  id bigint generated always as identity primary key, household_id bigint not null references household (id), date date not null, due_date date not null,
  amount bigint not null, content jsonb not null, user_id text not null, key text not null unique, created_at timestamptz not null default now()
);
create index on statement (household_id);

-- Long work, with its progress.
create table work (
  id bigint generated always as identity primary key, kind text not null, title text not null, total integer not null, done integer not null default 0,
  failed integer not null default 0, status text not null default 'waiting' check (status in ('waiting', 'running', 'finished', 'failed')),
  results jsonb not null default '[]', subject jsonb not null, user_id text not null, created_at timestamptz not null default now(), updated_at timestamptz not null default now()
);
`;
