/** The exchange of files, remittances, follow-ups and receipts. */
export const money = `
create table exchange_file (
  id bigint generated always as identity primary key, connection_id bigint references connection (id),
  direction text not null check (direction in ('in', 'out')),
  name text not null, sha256 text not null, bytes bigint not null, kind text not null,
  status text not null check (status in ('read', 'set aside', 'duplicate', 'written')),
  result text not null default '', at timestamptz not null default desk_now()
);
create unique index one_file_once on exchange_file (direction, sha256) where status in ('read', 'written');

-- A remittance that is keyed from paper: saved unfinished, and once it is closed a remittance like any other. Opened again, that one is
-- reversed and stays, and the next closing makes another.
create table keyed_remittance (
  id bigint generated always as identity primary key, payer_id bigint not null references payer (id),
  amount cents not null check (amount >= 0), method text not null check (method in ('CHK', 'ACH', 'NON')),
  trace text not null check (trace <> ''), further text[] not null default '{}',
  payment_date calendar_date not null, received_date calendar_date not null,
  source text not null check (source in ('mail', 'portal', 'lockbox')), provider_adjustments jsonb,
  status text not null default 'open' check (status in ('open', 'closed', 'dropped')), why text not null default '',
  user_id text not null, created_at timestamptz not null default desk_now(), version integer not null default 1,
  check (status <> 'dropped' or why <> '')
);
create index on keyed_remittance (status, payment_date);
create index on keyed_remittance (payer_id, trace);
create trigger versioned before update on keyed_remittance for each row execute function count_version();
create table remittance (
  id bigint generated always as identity primary key, payer_id bigint references payer (id),
  payer_key text not null, payer_name text not null,
  trace text not null, originator text not null default '', amount cents not null, method text not null,
  payment_date calendar_date not null,
  file_id bigint references exchange_file (id), received_date calendar_date not null,
  claims integer not null default 0,
  status text not null check (status in ('held', 'ready', 'posting', 'posted')), hold_reasons jsonb,
  provider_adjustments jsonb,
  -- As the file says them, so that it can be weighed again.
  payer_number text not null default '', payee_name text not null default '', payee_npi text not null default '',
  payee_tax_id text not null default '',
  handling text not null default 'I', credit_debit text not null default 'C',
  -- What it says, as a digest: two payments under one trace and amount are two if they say different things.
  content_key text not null,
  -- Counts up when all of it was reversed and it is posted anew.
  version integer not null default 1, posted_at timestamptz,
  -- The paper that it was keyed from.
  keyed_id bigint references keyed_remittance (id),
  check (status = 'held' or payer_id is not null),
  check (status = 'held' or hold_reasons is null or hold_reasons -> 'value' = '[]'),
  check (status <> 'posted' or posted_at is not null)
);
create unique index one_remittance on remittance (payer_key, trace, amount, content_key);
create index on remittance (status, payment_date);
create index on remittance (payment_date desc, id desc);
create index on remittance (trace, amount);
create index on remittance (keyed_id) where keyed_id is not null;
-- What is keyed of one claim of ours: its lines as far as they are typed.
create table keyed_claim (
  id bigint generated always as identity primary key,
  keyed_id bigint not null references keyed_remittance (id), number integer not null,
  claim_id bigint not null references claim (id), status text not null, payer_claim_number text not null default '',
  lines jsonb not null, paid cents not null default 0, explained boolean not null default false,
  version integer not null default 1, unique (keyed_id, number)
);
-- A claim is spoken of once, and once more where an earlier word is taken back.
create unique index one_keyed_claim on keyed_claim (keyed_id, claim_id, (status = '22'));
create index on keyed_claim (claim_id);
create trigger versioned before update on keyed_claim for each row execute function count_version();
-- What is closed or dropped stays as it was: it is opened again first. A payer that was merged is another since.
create function keyed_claim_open() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if not exists (
    select from keyed_remittance where id = coalesce(new.keyed_id, old.keyed_id) and status = 'open' for key share
  ) then
    raise exception 'A paper that is closed is opened again before it is changed' using errcode = 'restrict_violation';
  end if;
  return coalesce(new, old);
end $$;
create trigger keyed_claim_open before insert or update or delete on keyed_claim
for each row execute function keyed_claim_open();
create function keyed_kept() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if old.status <> 'open' and (to_jsonb(new) - '{status,why,payer_id,version}'::text[])
    is distinct from (to_jsonb(old) - '{status,why,payer_id,version}'::text[]) then
    raise exception 'A paper that is closed is opened again before it is changed' using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger keyed_kept before update on keyed_remittance for each row execute function keyed_kept();
create table remittance_claim (
  id bigint generated always as identity primary key,
  remittance_id bigint not null references remittance (id) on delete cascade, number integer not null,
  control_number text not null, claim_id bigint references claim (id), content jsonb not null,
  charge cents not null, paid cents not null,
  -- Held claims have their money in the payer's credit; what is returned left it again, what is kept stays there.
  status text not null check (status in ('ready', 'posted', 'unmatched', 'noted', 'returned', 'kept', 'reversed')),
  hold_reason text not null default '',
  hold_kind text not null default '', note text not null default '',
  -- Counts up when a reversed one is posted anew.
  version integer not null default 1, unique (remittance_id, number, version),
  check (status not in ('posted', 'noted') or claim_id is not null),
  check (status <> 'unmatched' or (hold_reason <> '' and hold_kind <> '')),
  check (status not in ('returned', 'kept') or note <> '')
);
alter table claim add foreign key (forwarded_by) references remittance_claim (id);
create index on remittance_claim (claim_id);
create index on remittance_claim (status) where status = 'unmatched';
-- What a posted remittance says of the provider and not of a claim (PLB), but for interest: above zero it is held
-- for the
-- payer, below zero the payer has taken it.
create table provider_adjustment (
  id bigint generated always as identity primary key, remittance_id bigint not null references remittance (id),
  payer_id bigint not null references payer (id),
  version integer not null, number integer not null, code text not null, reference text not null default '',
  provider text not null default '',
  period calendar_date, amount cents not null check (amount <> 0), unique (remittance_id, version, number)
);
create table follow_up (
  id bigint generated always as identity primary key,
  kind text not null check (
    kind in (
      'denial', 'short-payment', 'reason', 'overpaid', 'rejected', 'next-payer', 'returned-mail', 'broken-plan',
      'broken-promise', 'agency', 'suspended', 'other-insurer', 'charge-back'
    )
  ),
  household_id bigint references household (id), claim_id bigint references claim (id),
  charge_id bigint references charge (id),
  coverage_id bigint references coverage (id), remittance_claim_id bigint references remittance_claim (id),
  words text not null,
  amount cents not null default 0, due_date calendar_date not null, owner text not null default '',
  outcome text not null default '',
  closed_at timestamptz, created_at timestamptz not null default desk_now(), key text not null unique,
  version integer not null default 1,
  -- What closed it, where it is opened again when that is taken back: nothing waited any more, we settled it, a
  -- claim answered it.
  closed_as text check (closed_as in ('settled', 'ours', 'answered')), answered_by bigint references claim (id),
  check (closed_at is null or outcome <> ''), check (closed_as is null or closed_at is not null),
    check ((answered_by is null) = (closed_as is distinct from 'answered')),
  check (
    kind not in ('denial', 'short-payment', 'reason', 'overpaid', 'next-payer', 'suspended')
      or charge_id is not null
  )
);
create index on follow_up (answered_by) where answered_by is not null;
create trigger versioned before update on follow_up for each row execute function count_version();
create index on follow_up (due_date) where closed_at is null;
create index on follow_up (household_id);
create index on follow_up (charge_id);
create index on follow_up (remittance_claim_id) where closed_at is null;

-- How money comes, and the moves of its life, filled from the closed lists of the program.
create table tender_kind (code text primary key, words text not null);
create table tender_move (from_state text not null, to_state text not null, primary key (from_state, to_state));
-- Where money is: in a drawer, not yet deposited, with who clears it, in a bank account.
create table place (
  id bigint generated always as identity primary key,
  kind text not null check (kind in ('drawer', 'undeposited', 'clearing', 'bank')),
  name text not null unique check (name <> ''), location_id bigint references location (id),
  -- Whose drawer it is; of money that is cleared, the number of the merchant account there.
  user_id text, merchant text not null default '',
  -- Nothing comes there from this day on.
  closed_on calendar_date, version integer not null default 1,
  check ((kind = 'drawer') = (user_id is not null)), check (kind <> 'drawer' or location_id is not null),
  check (merchant = '' or kind = 'clearing')
);
create unique index one_drawer_each on place (user_id, location_id) where kind = 'drawer';
create trigger versioned before update on place for each row execute function count_version();
-- Money that was taken to the bank together.
create table deposit (
  id bigint generated always as identity primary key, place_id bigint not null references place (id),
  date calendar_date not null, number text not null default '',
  -- Undone whole; one of its tenders that bounces leaves it as it was.
  undone_on calendar_date, user_id text not null, created_at timestamptz not null default desk_now()
);
create index on deposit (date desc, id desc);
-- The cash and checks that one user takes at one site, from its opening until it is counted. Amounts in cents.
create table drawer (
  id bigint generated always as identity primary key, place_id bigint not null references place (id),
  user_id text not null, location_id bigint not null references location (id), day calendar_date not null,
  opening cents not null check (opening >= 0), opened_at timestamptz not null default desk_now(),
  closed_at timestamptz, closed_by text, counted cents check (counted >= 0), checks_counted integer check (checks_counted >= 0),
  -- What was to be in it in cash, and by how much what was counted is more or less.
  expected cents, difference cents, why text not null default '',
  -- The deposit by which the difference left the house.
  deposit_id bigint references deposit (id),
  check ((closed_at is null) = (closed_by is null)), check ((closed_at is null) = (counted is null)),
  check ((closed_at is null) = (expected is null)), check ((closed_at is null) = (difference is null)),
  check (difference is null or difference = counted - expected),
  check (coalesce(difference, 0) = 0 or why <> ''), check (deposit_id is null or closed_at is not null)
);
create unique index one_open_drawer on drawer (place_id) where closed_at is null;
create index on drawer (day desc, id desc);
-- What was taken out of a drawer into safety while it was open.
create table drawer_drop (
  id bigint generated always as identity primary key, drawer_id bigint not null references drawer (id),
  amount cents not null check (amount > 0), words text not null default '', user_id text not null,
  at timestamptz not null default desk_now()
);
create index on drawer_drop (drawer_id);
create function drawer_locked() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if (to_jsonb(new) - 'deposit_id') is distinct from (to_jsonb(old) - 'deposit_id') then
    raise exception 'A drawer that is closed is locked' using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger drawer_locked before update on drawer
for each row when (old.closed_at is not null) execute function drawer_locked();
create function drawer_open() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if exists (select from drawer where id = new.drawer_id and closed_at is not null) then
    raise exception 'A drawer that is closed takes nothing' using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger drawer_open before insert on drawer_drop for each row execute function drawer_open();
-- A visit to come, from the program that plans visits: who, when, with whom, and what is to be collected.
create table expected_visit (
  id bigint generated always as identity primary key,
  -- Whose it is, once that is known; until then the name that was said.
  household_id bigint references household (id), patient_id bigint references patient (id),
  last text not null check (last <> ''), first text not null default '', birth_date calendar_date,
  day calendar_date not null, at_time text not null default '' check (at_time ~ '^([0-2][0-9]:[0-5][0-9])?$'),
  provider_id bigint references provider (id), location_id bigint references location (id),
  reason text not null default '',
  -- Services that are planned, by code.
  codes text[] not null default '{}',
  source text not null default 'typed', source_key text,
  canceled_on calendar_date, canceled_why text not null default '',
  -- That it does not come was said by a file, which may say otherwise again.
  canceled_told boolean not null default false,
  -- Since when money that was taken for it is free.
  freed_on calendar_date, freed_why text not null default '',
  user_id text not null, created_at timestamptz not null default desk_now(), version integer not null default 1,
  check ((household_id is null) = (patient_id is null)), check ((canceled_on is null) = (canceled_why = '')),
  check ((freed_on is null) = (freed_why = '')), check ((source = 'typed') = (source_key is null))
);
create unique index one_visit_of_a_source on expected_visit (source, source_key) where source_key is not null;
create index on expected_visit (day);
create index on expected_visit (patient_id) where patient_id is not null;
create index on expected_visit (household_id) where household_id is not null;
create trigger versioned before update on expected_visit for each row execute function count_version();
create table receipt (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  amount cents not null check (amount <> 0),
  -- The patient with an address apart whose own money it is; null for the household's.
  patient_id bigint references patient (id),
  -- Below zero: credit of that receipt, given back.
  refund_of bigint references receipt (id),
  -- The placement whose agency had collected it; its cash came with the agency's payment.
  placement_id bigint, check ((amount < 0) = (refund_of is not null)),
  -- The day on which it came, where it was taken, and by whose visit.
  received_on calendar_date not null, location_id bigint references location (id),
  provider_id bigint references provider (id),
  -- The visit to come for which what it does not pay is reserved, until that is over or somebody frees it.
  expected_visit_id bigint references expected_visit (id),
  -- Who handed it over, where that is not the guarantor.
  paid_by text not null default '',
  -- The state that keeps it for its owner since; empty for what goes back to the owner.
  handed_to text not null default '', check (handed_to = '' or refund_of is not null),
  user_id text not null, created_at timestamptz not null default desk_now()
);
-- What a terminal has read of a card: never more of its number than the last four digits.
create table card_reading (
  key text primary key, place_id bigint not null references place (id), user_id text not null,
  brand text not null, kind text not null check (kind in ('credit', 'debit', 'prepaid', 'unknown')),
  entry text not null check (entry in ('swiped', 'chip', 'keyed')), last_four text not null check (last_four ~ '^[0-9]{4}$'),
  token text not null check (token <> ''), at timestamptz not null default desk_now()
);
-- The means by which a receipt was paid, or credit given back.
create table tender (
  id bigint generated always as identity primary key, receipt_id bigint not null references receipt (id),
  kind text not null references tender_kind (code), amount cents not null check (amount <> 0),
  surcharge cents not null default 0 check (surcharge = 0 or (surcharge > 0) = (amount > 0)),
  reference text not null default '',
  -- What was handed over in cash, of which the rest was change.
  given cents check (given is null or kind = 'cash' and given >= amount),
  place_id bigint not null references place (id),
  state text not null default 'taken' check (state in ('pending', 'taken', 'declined', 'returned', 'void')),
  -- Of a card: never more of its number.
  brand text not null default '', last_four text not null default '' check (last_four ~ '^([0-9]{4})?$'),
  card_kind text not null default '' check (card_kind in ('', 'credit', 'debit', 'prepaid', 'unknown')),
  card_entry text not null default '' check (card_entry in ('', 'swiped', 'chip', 'keyed')),
  token text not null default '', approval text not null default '',
  -- One reading pays once.
  reading text unique references card_reading (key),
  -- What it is to pay once a terminal has approved it.
  meant jsonb,
  drawer_id bigint references drawer (id) check (drawer_id is null or kind in ('cash', 'check')),
  refund_of bigint references tender (id) check (refund_of is null or amount < 0),
  -- The tender that was written down wrongly, whose place this one takes.
  corrects bigint references tender (id), created_at timestamptz not null default desk_now(),
  check (kind <> 'check' or reference <> ''), check (meant is null or token <> ''),
  check (state not in ('pending', 'declined') or token <> ''), check (surcharge = 0 or card_kind = 'credit')
);
create unique index one_correction on tender (corrects) where corrects is not null;
create index on tender (drawer_id) where drawer_id is not null;
create index on tender (place_id) where state = 'taken';
create index on tender (receipt_id) where state = 'pending';
create trigger drawer_open before insert on tender
for each row when (new.drawer_id is not null) execute function drawer_open();
-- What was asked of a card terminal, and what came of it: one open one by tender, and never a second one that was approved.
create table attempt (
  id bigint generated always as identity primary key, tender_id bigint not null references tender (id),
  what text not null check (what in ('sale', 'void', 'refund')),
  key text not null unique check (key ~ '^[a-z]+:[0-9]+:[0-9a-f-]{8,40}$'), merchant text not null check (merchant <> ''),
  asked_at timestamptz not null default desk_now(), answered_at timestamptz,
  state text not null default 'asked' check (state in ('asked', 'approved', 'declined', 'unclear')),
  -- The authorization, or why there is none; what was said by whoever asked for a void.
  approval text not null default '', reason text not null default '', why text not null default '',
  user_id text not null, tries integer not null default 0 check (tries >= 0),
  check (answered_at is null or state in ('approved', 'declined')), check (state in ('asked', 'unclear') or answered_at is not null),
  check (state <> 'declined' or reason <> '')
);
create unique index one_open_attempt on attempt (tender_id) where state in ('asked', 'unclear');
create unique index approved_once on attempt (tender_id, what) where state = 'approved';
create index on attempt (asked_at) where state in ('asked', 'unclear');
create function attempt_moves() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if (new.tender_id, new.what, new.key, new.merchant, new.asked_at, new.user_id, new.why)
    is distinct from (old.tender_id, old.what, old.key, old.merchant, old.asked_at, old.user_id, old.why)
    or old.state in ('approved', 'declined') then
    raise exception 'What a terminal answered is never changed' using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger attempt_moves before update on attempt for each row execute function attempt_moves();
create trigger attempt_stays before delete or truncate on attempt
for each statement execute function refuse_change();
create index on tender (receipt_id);
create index on tender (refund_of) where refund_of is not null;
create index on tender (lower(reference)) where reference <> '';
create function tender_moves() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if tg_op = 'INSERT' then
    if new.state not in ('pending', 'taken') then
      raise exception 'A tender begins as pending or taken, not %', new.state using errcode = 'check_violation';
    end if;
  elsif not exists (select 1 from tender_move where from_state = old.state and to_state = new.state) then
    raise exception 'A tender does not go from % to %', old.state, new.state using errcode = 'check_violation';
  end if;
  return new;
end $$;
create trigger tender_begins before insert on tender for each row execute function tender_moves();
create trigger tender_moves before update of state on tender
for each row when (old.state <> new.state) execute function tender_moves();
create trigger tender_facts before update on tender
for each row when (
  (
    new.receipt_id, new.kind, new.amount, new.surcharge, new.reference, new.given, new.refund_of, new.drawer_id, new.corrects,
    new.token, new.reading, new.meant, new.card_kind, new.created_at
  ) is distinct from (old.receipt_id, old.kind, old.amount, old.surcharge, old.reference, old.given, old.refund_of,
  old.drawer_id, old.corrects, old.token, old.reading, old.meant, old.card_kind,
  old.created_at)
) execute function refuse_change();
create index on receipt (household_id);
create index on receipt (expected_visit_id) where expected_visit_id is not null;
create index on receipt (patient_id) where patient_id is not null;
create index on receipt (refund_of) where refund_of is not null;
-- A letter to the owner of credit who was not heard of, and what became of it: an answer, or the state that keeps the money.
create table credit_letter (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  -- The patient with an address apart whose own credit it is; null for the household's.
  patient_id bigint references patient (id),
  date calendar_date not null, amount cents not null check (amount > 0), content jsonb not null, user_name text not null,
  answered_on calendar_date, answered text not null default '', answered_by text not null default '',
  handed_on calendar_date, handed_number text not null default '', created_at timestamptz not null default desk_now(),
  check ((answered_on is null) = (answered = '')), check ((handed_on is null) = (handed_number = '')),
  check (answered_on is null or handed_on is null)
);
create index on credit_letter (household_id, date);
create index on credit_letter (patient_id) where patient_id is not null;
create function credit_letter_kept() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if (new.date, new.amount, new.content, new.user_name, new.created_at)
    is distinct from (old.date, old.amount, old.content, old.user_name, old.created_at)
    or (old.answered_on is not null or old.handed_on is not null)
    and (new.answered_on, new.answered, new.handed_on, new.handed_number)
      is distinct from (old.answered_on, old.answered, old.handed_on, old.handed_number) then
    raise exception 'A letter that was written is never changed, only once answered or handed over'
      using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger credit_letter_kept before update on credit_letter for each row execute function credit_letter_kept();
create trigger credit_letter_stays before delete or truncate on credit_letter
for each statement execute function refuse_change();
-- A letter by which a payer was asked for what its contract says, and what stood of each line when it was. Amounts in cents.
create table contract_letter (
  id bigint generated always as identity primary key, payer_id bigint not null references payer (id),
  date calendar_date not null, content jsonb not null, user_name text not null,
  created_at timestamptz not null default desk_now()
);
create index on contract_letter (payer_id);
create index on contract_letter (date desc, id desc);
create function contract_letter_kept() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if (to_jsonb(new) - 'payer_id') is distinct from (to_jsonb(old) - 'payer_id') then
    raise exception 'A letter that was written is never changed' using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger contract_letter_kept before update on contract_letter for each row execute function contract_letter_kept();
create trigger contract_letter_stays before delete or truncate on contract_letter
for each statement execute function refuse_change();
create table contract_letter_line (
  letter_id bigint not null references contract_letter (id), charge_id bigint not null references charge (id),
  coverage_id bigint not null references coverage (id),
  -- What the contract allows, what the payer did, what it should have paid and what it had.
  expected cents not null, allowed cents not null, pays cents not null, paid cents not null,
  primary key (letter_id, charge_id, coverage_id), check (allowed < expected)
);
create index on contract_letter_line (charge_id, coverage_id);
create trigger contract_line_stays before update or delete or truncate on contract_letter_line
for each statement execute function refuse_change();
-- A difference from the contract that a person lets be, until somebody takes it up again.
create table contract_let_be (
  id bigint generated always as identity primary key, charge_id bigint not null references charge (id),
  coverage_id bigint not null references coverage (id), why text not null check (why <> ''),
  date calendar_date not null, user_name text not null, ended_on calendar_date
);
create unique index one_let_be on contract_let_be (charge_id, coverage_id) where ended_on is null;
-- A refund above what one may give back without a manager: asked for, and decided once.
create table refund_request (
  id bigint generated always as identity primary key, receipt_id bigint not null references receipt (id),
  tender_id bigint references tender (id), amount cents not null check (amount > 0),
  kind text not null references tender_kind (code), reference text not null default '', why text not null check (why <> ''),
  status text not null default 'asked' check (status in ('asked', 'approved', 'refused')),
  asked_on calendar_date not null, asked_by text not null, decided_on calendar_date, decided_by text not null default '',
  decided_why text not null default '', refund_id bigint references receipt (id),
  check ((status = 'asked') = (decided_on is null)), check ((status = 'approved') = (refund_id is not null)),
  check (status <> 'refused' or decided_why <> '')
);
create index on refund_request (receipt_id);
create unique index one_open_request on refund_request (receipt_id) where status = 'asked';
create trigger request_decided before update on refund_request
for each row when (
  old.status <> 'asked'
  or (new.receipt_id, new.tender_id, new.amount, new.kind, new.reference, new.why, new.asked_on, new.asked_by)
    is distinct from (old.receipt_id, old.tender_id, old.amount, old.kind, old.reference, old.why, old.asked_on, old.asked_by)
) execute function refuse_change();
create trigger request_stays before delete or truncate on refund_request
for each statement execute function refuse_change();
-- Other households whose charges one taking of money pays: those of one envelope.
create table receipt_household (
  receipt_id bigint not null references receipt (id), household_id bigint not null references household (id),
  primary key (receipt_id, household_id)
);
create index on receipt_household (household_id);
create index on receipt (received_on desc, id desc);
-- Facts of record: what was received is never another afterwards.
create trigger remittance_facts before update on remittance
for each row when (
  (
    new.payer_key, new.payer_name, new.trace, new.originator, new.amount, new.method, new.payment_date, new.file_id,
    new.received_date, new.payer_number, new.payee_name, new.payee_npi, new.payee_tax_id, new.credit_debit
  ) is distinct from (old.payer_key, old.payer_name, old.trace, old.originator, old.amount, old.method,
  old.payment_date, old.file_id, old.received_date, old.payer_number, old.payee_name, old.payee_npi,
  old.payee_tax_id, old.credit_debit)
) execute function refuse_change();
create trigger remittance_claim_facts before update on remittance_claim
for each row when (
  (
    new.remittance_id, new.number, new.control_number, new.content, new.charge, new.paid, new.version
  ) is distinct from (old.remittance_id, old.number, old.control_number, old.content, old.charge, old.paid,
  old.version)
) execute function refuse_change();
-- A receipt that was another account's, moved there as it is.
create table receipt_moved (
  id bigint generated always as identity primary key, receipt_id bigint not null references receipt (id),
  -- The account on which it was.
  household_id bigint not null references household (id), on_day calendar_date not null, user_id text not null,
  why text not null check (why <> '')
);
create index on receipt_moved (receipt_id);
create index on receipt_moved (household_id);
create function receipt_kept() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if only_whose(to_jsonb(old), to_jsonb(new))
    or (to_jsonb(new) - '{household_id,patient_id}'::text[]) = (to_jsonb(old) - '{household_id,patient_id}'::text[])
      and new.patient_id is null
      and exists (
        select
        from receipt_moved
        where receipt_id = new.id and household_id = old.household_id
      ) then
    return new;
  end if;
  raise exception 'What was received is never changed: correct it by writing more' using errcode = 'restrict_violation';
end $$;
create trigger receipt_facts before update on receipt
for each row when (
  (
    new.household_id, new.amount, new.patient_id, new.refund_of, new.placement_id, new.received_on, new.user_id,
    new.created_at, new.expected_visit_id, new.paid_by, new.handed_to
  ) is distinct from (old.household_id, old.amount, old.patient_id, old.refund_of, old.placement_id,
  old.received_on, old.user_id, old.created_at, old.expected_visit_id, old.paid_by, old.handed_to)
) execute function receipt_kept();
`;
