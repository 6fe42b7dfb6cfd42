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
  check (status = 'held' or payer_id is not null),
  check (status = 'held' or hold_reasons is null or hold_reasons -> 'value' = '[]'),
  check (status <> 'posted' or posted_at is not null)
);
create unique index one_remittance on remittance (payer_key, trace, amount, content_key);
create index on remittance (status, payment_date);
create index on remittance (payment_date desc, id desc);
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
      'broken-promise', 'agency', 'suspended', 'other-insurer'
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
create table tender_kind (code text primary key);
create table tender_move (from_state text not null, to_state text not null, primary key (from_state, to_state));
-- Where money is: in a drawer, not yet deposited, with who clears it, in a bank account.
create table place (
  id bigint generated always as identity primary key,
  kind text not null check (kind in ('drawer', 'undeposited', 'clearing', 'bank')),
  name text not null unique check (name <> ''), location_id bigint references location (id),
  -- Nothing comes there from this day on.
  closed_on calendar_date, version integer not null default 1
);
create trigger versioned before update on place for each row execute function count_version();
-- Money that was taken to the bank together.
create table deposit (
  id bigint generated always as identity primary key, place_id bigint not null references place (id),
  date calendar_date not null, number text not null default '', user_id text not null,
  created_at timestamptz not null default desk_now()
);
create index on deposit (date desc, id desc);
create table receipt (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  amount cents not null check (amount <> 0),
  -- The patient with an address apart whose own money it is; null for the household's.
  patient_id bigint references patient (id),
  -- Below zero: credit of that receipt, given back.
  refund_of bigint references receipt (id),
  -- The placement whose agency had collected it; its cash came with the agency's payment.
  placement_id bigint, check ((amount < 0) = (refund_of is not null)),
  -- The day on which it came, where it was taken, by whose visit, and what it is meant for.
  received_on calendar_date not null, location_id bigint references location (id),
  provider_id bigint references provider (id), earmark text not null default '',
  user_id text not null, created_at timestamptz not null default desk_now()
);
-- The means by which a receipt was paid, or credit given back.
create table tender (
  id bigint generated always as identity primary key, receipt_id bigint not null references receipt (id),
  kind text not null references tender_kind (code), amount cents not null check (amount <> 0),
  surcharge cents not null default 0 check (surcharge >= 0), reference text not null default '',
  place_id bigint not null references place (id),
  state text not null default 'taken' check (state in ('pending', 'taken', 'declined', 'returned', 'void')),
  -- Of a card: never more of its number.
  brand text not null default '', last_four text not null default '' check (last_four ~ '^([0-9]{4})?$'),
  token text not null default '', approval text not null default '',
  refund_of bigint references tender (id) check (refund_of is null or amount < 0),
  check (kind <> 'check' or reference <> '')
);
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
  (new.receipt_id, new.kind, new.amount, new.surcharge, new.reference, new.refund_of)
  is distinct from (old.receipt_id, old.kind, old.amount, old.surcharge, old.reference, old.refund_of)
) execute function refuse_change();
create index on receipt (household_id);
create index on receipt (patient_id) where patient_id is not null;
create index on receipt (refund_of) where refund_of is not null;
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
create trigger receipt_facts before update on receipt
for each row when (
  (
    new.household_id, new.amount, new.patient_id, new.refund_of, new.placement_id, new.received_on, new.user_id,
    new.created_at
  ) is distinct from (old.household_id, old.amount, old.patient_id, old.refund_of, old.placement_id,
  old.received_on, old.user_id, old.created_at)
) execute function refuse_but_whose();
`;
