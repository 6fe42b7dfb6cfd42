/** Mail to patients: batches of pieces from draft to sent, the papers that were sent, and statements. */
export const statements = `
-- What was sent, byte for byte.
create table document (
  sha256 text primary key check (sha256 ~ '^[0-9a-f]{64}$'),
  media text not null check (media in ('application/pdf', 'image/png', 'image/jpeg')), bytes bytea not null,
  -- How many it prints on; null of a paper that came from outside.
  pages integer check (pages > 0), created_at timestamptz not null default desk_now()
);
alter table payment_plan add foreign key (agreement) references document (sha256);
alter table coverage add foreign key (exhausted_letter) references document (sha256);
create trigger document_fixed before update or delete or truncate on document
for each statement execute function refuse_change();
alter table document enable always trigger document_fixed;

-- What a patient was told that treatment will cost, as it was handed over and is kept.
create sequence treatment_estimate_number start 1001;
create table treatment_estimate (
  id bigint generated always as identity primary key,
  number text not null unique default 'E-' || nextval('treatment_estimate_number'),
  case_id bigint not null references care_case (id), option_id bigint references treatment_option (id),
  kind text not null check (kind in ('insured', 'good-faith')), made_on calendar_date not null,
  valid_until calendar_date not null check (valid_until >= made_on),
  -- For when it is booked, and until when a good faith estimate was to be given.
  booked_for calendar_date, due_on calendar_date, amount cents not null, content jsonb not null,
  -- Until when it is given anew where what is planned is another than what it says.
  anew_by calendar_date,
  document text not null references document (sha256), user_name text not null,
  signed_on calendar_date, signed_by text not null default '', check ((signed_on is null) = (signed_by = '')),
  -- How much above it somebody has looked at, in cents, and found right to ask for.
  above_seen cents not null default 0 check (above_seen >= 0), above_seen_on calendar_date,
  above_seen_by text not null default '', above_seen_why text not null default '',
  check ((above_seen = 0) = (above_seen_on is null) and (above_seen = 0) = (above_seen_why = '')),
  version integer not null default 1
);
create index on treatment_estimate (case_id);
create trigger versioned before update on treatment_estimate for each row execute function count_version();
-- What it says of each service, in cents.
create table treatment_estimate_line (
  estimate_id bigint not null references treatment_estimate (id), charge_id bigint not null references charge (id),
  fee cents not null, write_off cents not null, payers cents not null, patient cents not null,
  primary key (estimate_id, charge_id)
);
create index on treatment_estimate_line (charge_id);
-- Of good faith estimates by provider: what was said of their services, by the last estimate of each, and what was charged of those
-- that are done and of what else the provider did for the case on the same days, less what was taken off; and how much of that patients
-- owe.
create view estimate_above as
select e.id as estimate_id, e.case_id, s.provider_id, s.said, s.charged, s.owed
from treatment_estimate e
  cross join lateral (
    with own as (
      select c.id, c.provider_id, c.service_date, c.status, l.fee
      from treatment_estimate_line l
        join charge c on c.id = l.charge_id
      where l.estimate_id = e.id
        and not exists (
          select
          from treatment_estimate_line n
          where n.charge_id = l.charge_id and n.estimate_id > l.estimate_id
        )
    ),
    done as (
      select id, provider_id
      from own
      where status = 'done'
      union
      select c.id, c.provider_id
      from (select distinct provider_id, service_date from own where status = 'done') o
        join charge c on c.case_id = e.case_id
          and c.provider_id = o.provider_id
          and c.service_date = o.service_date
          and c.kind = 'service'
          and c.status = 'done'
      where not exists (select from treatment_estimate_line n where n.charge_id = c.id)
    )
    select provider_id, sum(said)::bigint as said, sum(charged)::bigint as charged, sum(owed)::bigint as owed
    from (
      select provider_id, fee as said, 0 as charged, 0 as owed
      from own
      union all
      select d.provider_id, 0, b.fee + b.tax - b.reduced - b.expected, b.with_patient
      from done d
        join charge_balance b on b.charge_id = d.id
    ) each_one
    group by provider_id
  ) s
where e.kind = 'good-faith';
-- A notice that something will not be covered, signed before it is done.
create table advance_notice (
  id bigint generated always as identity primary key, case_id bigint not null references care_case (id),
  code text not null references service_code (code), why text not null check (why <> ''), price cents not null check (price > 0),
  modifier text not null check (modifier in ('GA', 'GX', 'GY', 'GZ')), signed_on calendar_date, user_name text not null,
  made_on calendar_date not null, check (signed_on <= made_on),
  -- GA and GX say that a notice is on file.
  check ((modifier in ('GA', 'GX')) = (signed_on is not null))
);
create index on advance_notice (case_id);
create table mail_batch (
  id bigint generated always as identity primary key,
  kind text not null default 'statement' check (kind in ('statement', 'letter')), title text not null,
  set_name text not null default '', options jsonb not null, user_id text not null, user_name text not null,
  made_on calendar_date not null, created_at timestamptz not null default desk_now()
);
create index on mail_batch (kind, id desc);
-- Files of many pieces that go out together.
create table mail_parcel (
  id bigint generated always as identity primary key, batch_id bigint not null references mail_batch (id),
  connection_id bigint not null references connection (id),
  file_name text not null unique, written_at timestamptz, created_at timestamptz not null default desk_now()
);
create index on mail_parcel (batch_id);
-- One piece of mail. It is a draft, then made (its paper stands), then sent; or it failed, was taken out, or was
-- voided.
create table mail_piece (
  id bigint generated always as identity primary key, batch_id bigint references mail_batch (id), number integer,
  kind text not null default 'statement' check (kind in ('statement', 'letter')),
  household_id bigint not null references household (id),
  -- The patient whose services alone it is about, sent to that patient's confidential address; null for the
  -- household's.
  patient_id bigint references patient (id),
  -- Other households whose statements lie in it; it is addressed to the one that they are mailed with.
  joined bigint[] not null default '{}',
  delivery text not null check (delivery in ('mail', 'print-shop', 'email', 'in-person')),
  status text not null default 'draft' check (status in ('draft', 'taken-out', 'made', 'sent', 'failed', 'void')),
  why text not null default '',
  amount cents not null,
  -- What of the amount payment plans ask for.
  installments cents not null default 0,
  date calendar_date not null, due_date calendar_date not null, due_asked calendar_date, options jsonb not null,
  note text not null default '',
  content jsonb not null, document text references document (sha256), pages integer,
  parcel_id bigint references mail_parcel (id),
  sent_at timestamptz, sent_by text not null default '',
  outcome text not null default '' check (
    outcome in ('', 'accepted', 'address-corrected', 'undeliverable', 'bounced', 'returned')
  ),
  outcome_words text not null default '',
  created_at timestamptz not null default desk_now(), version integer not null default 1, unique (batch_id, number),
  check ((batch_id is null) = (number is null)), check (status not in ('taken-out', 'failed', 'void') or why <> ''),
  check ((document is null) = (pages is null)), check (status not in ('made', 'sent') or document is not null),
    check (status <> 'sent' or sent_at is not null),
    check (sent_at is null or status in ('made', 'sent', 'failed', 'void'))
);
-- A household, and a patient with an address apart, has one piece at most that is not out yet, be it its own or one
-- that it is joined to.
create unique index one_open_piece on mail_piece (household_id, coalesce(patient_id, 0), kind)
where status in ('draft', 'made', 'failed') and delivery <> 'in-person';
create index joined_pieces on mail_piece using gin (joined) where joined <> '{}';
create function piece_joined() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if new.patient_id is not null and new.joined <> '{}' or new.household_id = any (new.joined) then
    raise exception 'A piece is of one patient or of several households' using errcode = 'check_violation';
  end if;
  if new.patient_id is null and new.delivery <> 'in-person' and new.status in ('draft', 'made', 'failed') and (
    exists (
      select 1
      from mail_piece o
      where o.joined && (array[new.household_id] || new.joined)
        and o.joined <> '{}'
        and o.id <> new.id
        and o.kind = new.kind
        and o.status in ('draft', 'made', 'failed')
        and o.delivery <> 'in-person'
    )
    or exists (
      select 1
      from mail_piece o
      where o.household_id = any (new.joined)
        and o.patient_id is null
        and o.id <> new.id
        and o.kind = new.kind
        and o.status in ('draft', 'made', 'failed')
        and o.delivery <> 'in-person'
    )) then
    raise exception 'A household has one piece that is not out yet' using errcode = 'unique_violation',
    constraint = 'one_open_piece';
  end if;
  return new;
end $$;
create trigger piece_joined before insert or update on mail_piece for each row execute function piece_joined();
create index on mail_piece (household_id);
create index on mail_piece (batch_id, status);
create index on mail_piece (parcel_id) where parcel_id is not null;
-- What was sent is never changed: only what became of it is noted, and that it is void.
create function piece_fixed() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if tg_op <> 'UPDATE' then
    raise exception 'A piece of mail is taken out or voided, never deleted' using errcode = 'restrict_violation';
  end if;
  new.version := old.version + 1;
  if (old.status in ('sent', 'void', 'taken-out') or old.sent_at is not null)
    and (
      old.batch_id, old.number, old.household_id, old.patient_id, old.joined, old.delivery, old.amount,
      old.installments, old.date, old.due_date, old.options, old.note, old.content, old.document, old.sent_at
    )
     is distinct from (
       new.batch_id, new.number, new.household_id, new.patient_id, new.joined, new.delivery, new.amount,
       new.installments, new.date, new.due_date, new.options, new.note, new.content, new.document, new.sent_at
     )
     and not (old.status = 'taken-out' and new.status = 'draft')
     and not only_whose(to_jsonb(old), to_jsonb(new)) then
    raise exception 'What was sent is never changed' using errcode = 'restrict_violation';
  end if;
  if new.status is distinct from old.status and not (case old.status
    when 'draft' then new.status in ('taken-out', 'made', 'failed')
    when 'taken-out' then new.status = 'draft'
    when 'made' then new.status in ('draft', 'sent', 'failed', 'taken-out', 'void')
    when 'failed' then
      new.status in ('made', 'sent', 'void') or (new.status in ('draft', 'taken-out') and old.sent_at is null)
    when 'sent' then new.status in ('failed', 'void')
    else false end) then
    raise exception 'A piece of mail that is % does not become %', old.status,
    new.status using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger piece_fixed before update on mail_piece for each row execute function piece_fixed();
create trigger piece_stays before delete or truncate on mail_piece
for each statement execute function refuse_change();
alter table mail_piece enable always trigger piece_fixed;
alter table mail_piece enable always trigger piece_joined;
alter table mail_piece enable always trigger piece_stays;
-- A receipt that is sent by e-mail: because somebody asked for it, or because the household wants them all.
create table receipt_message (
  id bigint generated always as identity primary key, receipt_id bigint not null references receipt (id),
  asked boolean not null, state text not null default 'waiting' check (state in ('waiting', 'sent', 'failed', 'void')),
  why text not null default '' check (state not in ('failed', 'void') or why <> ''),
  -- Where it went, and what was attached.
  email text not null default '', document text references document (sha256), sent_at timestamptz,
  outcome text not null default '' check (outcome in ('', 'accepted', 'bounced')), outcome_words text not null default '',
  user_id text not null, created_at timestamptz not null default desk_now(),
  check ((sent_at is null) = (document is null)), check (state <> 'sent' or sent_at is not null and email <> '')
);
create index on receipt_message (receipt_id);
create index on receipt_message (id) where state = 'waiting';
create unique index one_of_all on receipt_message (receipt_id) where not asked;
create trigger message_facts before update on receipt_message
for each row when (
  (new.receipt_id, new.asked, new.user_id, new.created_at)
    is distinct from (old.receipt_id, old.asked, old.user_id, old.created_at)
  or old.sent_at is not null
  and (new.email, new.document, new.sent_at) is distinct from (old.email, old.document, old.sent_at)
) execute function refuse_change();
create trigger message_stays before delete or truncate on receipt_message
for each statement execute function refuse_change();

-- A statement that went out, and what it showed as owed of each charge.
create table statement (
  id bigint generated always as identity primary key, household_id bigint not null references household (id),
  patient_id bigint references patient (id), piece_id bigint not null references mail_piece (id),
  -- Which of the statements in its piece it is, the first one 0.
  place integer not null default 0 check (place >= 0),
  date calendar_date not null, due_date calendar_date not null, amount cents not null, user_id text not null,
  created_at timestamptz not null default desk_now(),
  unique (piece_id, place)
);
create index on statement (household_id, date);
create index on statement (date desc, id desc);
create table statement_charge (
  statement_id bigint not null references statement (id), charge_id bigint not null references charge (id),
  owed cents not null,
  -- What of it credit stood against, so that it was not asked for.
  credit cents not null default 0, primary key (statement_id, charge_id)
);
create index on statement_charge (charge_id);
-- What a statement shows is written with it, and nothing is added afterwards.
create function statement_charge_with() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if not exists (select 1 from statement s where s.id = new.statement_id and s.created_at = desk_now()) then
    raise exception 'What a statement shows is written with it' using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger statement_charge_with before insert on statement_charge
for each row execute function statement_charge_with();
-- A statement that never reached anybody, so that it does not count.
create table statement_void (
  statement_id bigint primary key references statement (id), why text not null check (why <> ''),
  user_name text not null, on_day calendar_date not null, at timestamptz not null default desk_now()
);
create trigger statement_fixed before update on statement for each row execute function refuse_but_whose();
create trigger statement_stays before delete or truncate on statement
for each statement execute function refuse_change();
create trigger statement_charge_fixed before update or delete or truncate on statement_charge
for each statement execute function refuse_change();
create trigger statement_void_fixed before update or delete or truncate on statement_void
for each statement execute function refuse_change();
alter table statement enable always trigger statement_fixed;
alter table statement enable always trigger statement_stays;
alter table statement_charge enable always trigger statement_charge_fixed;
alter table statement_void enable always trigger statement_void_fixed;

-- What stands with patients and may not be billed to them: the strictest coverage in force on the day of the
-- service says it.
-- Where copays alone may be billed, what payers passed on as copay (PR-3) and nobody has paid yet may; tax on a
-- service always, unless a payer is asked for it.
-- What payers passed on of a charge under a remark by which nobody may collect it from the patient, as far as it
-- came to the patient.
create function never_collected(of_charge bigint) returns bigint language sql stable set search_path = public,
  pg_temp as $$
  select
    case when exists (select 1 from posting p where p.charge_id = of_charge and p.remark_code is not null) then greatest(0, least(
    (select sum(p.amount) from posting p where p.charge_id = of_charge and p.remark_code is not null),
    (
      select coalesce(sum(p.amount), 0)
      from posting p
      where p.charge_id = of_charge and p.account = 'receivable/patient' and p.coverage_id is not null
    ))) else 0 end::bigint
$$;
-- The last entry by which a coverage's payer has decided a charge, and which was not reversed; before another one
-- where that is named.
create function last_word(
  of_charge bigint, of_coverage bigint, before bigint default null
) returns bigint language sql stable set search_path = public,
  pg_temp as $$
  select max(e.id) from posting p join entry e on e.id = p.entry_id join claim m on m.id = p.claim_id
  where p.charge_id = of_charge
    and m.coverage_id = of_coverage
    and e.kind = 'payer-decision'
    and (before is null or e.id < before)
    and not exists (select 1 from entry r where r.reverses = e.id)
$$;
-- What was taken off a charge because it may not be billed.
create function taken_off(of_charge bigint) returns bigint language sql stable set search_path = public,
  pg_temp as $$
  select
    coalesce(
      (select sum(p.amount) from posting p where p.charge_id = of_charge and p.account = 'reduction/not-billable'),
      0
    )::bigint
$$;
create view not_billable as
select k.charge_id, k.household_id, k.patient_id, k.bill_patient, k.why, k.with_patient - k.billable as amount
from (
  select c.id as charge_id, c.household_id, c.patient_id, o.bill_patient, o.why, b.with_patient,
    least(b.with_patient, greatest(0, case when c.tax_billed then 0 else b.tax end - b.patient_paid + case o.bill_patient when 'copay-only'
      then (
        select coalesce(sum(p.amount), 0)
        from posting p
        where p.charge_id = c.id
          and p.account = 'receivable/patient'
          and p.reason_group = 'PR'
          and p.reason_code = '3'
      ) else 0 end)) as billable
  from charge c join charge_balance b on b.charge_id = c.id and b.with_patient > 0
  cross join lateral (
    select v.bill_patient, v.bill_patient_why as why
    from coverage v
    where v.case_id = c.case_id
      and v.bill_patient <> 'yes'
      and daterange(v.valid_from, v.valid_to, '[]') @> c.service_date::date
    order by v.bill_patient = 'never' desc, v.position limit 1) o
  where c.case_id in (select f.case_id from coverage f where f.bill_patient <> 'yes')
    and c.kind = 'service'
    and c.status = 'done'
    and not c.kept_from_payers
    and not exists (select 1 from posting r where r.charge_id = c.id and r.remark_code is not null)) k
where k.with_patient > k.billable
union all
-- Under such a remark also what was paid comes off, and is credit then; what a coverage forbids besides comes off
-- what still stands.
select k.charge_id, k.household_id, k.patient_id, 'never',
  case when k.remarked >= k.left_open then 'remark' else k.why end, greatest(k.remarked, k.left_open)
from (
  select c.id as charge_id, c.household_id, c.patient_id, o.why,
    never_collected(c.id) - taken_off(c.id) as remarked,
    case
      when o.why is null then 0
      else greatest(0, b.with_patient - greatest(0, case when c.tax_billed then 0 else b.tax end - b.patient_paid))
    end as left_open
  from (select distinct charge_id from posting where remark_code is not null) r
    join charge c on c.id = r.charge_id
    join charge_balance b on b.charge_id = c.id
    left join lateral (
      select v.bill_patient_why as why
      from coverage v
      where v.case_id = c.case_id
        and v.bill_patient = 'never'
        and daterange(v.valid_from, v.valid_to, '[]') @> c.service_date::date
      order by v.position
      limit 1
    ) o
      on true) k
where greatest(k.remarked, k.left_open) > 0;
-- What is owed by a household, and by each patient with an address apart, and the credit that stands against it:
-- part 0 is the
-- household without those. What may not be billed is not owed, and a charge that stands below zero lowers nothing.
-- Credit that is reserved for a visit to come: it stands by itself and lowers nothing. By account, and by patient with an address apart.
create view reserved_part as
select r.household_id, coalesce(a.patient_id, 0) as part, sum(k.held)::bigint as credit
from receipt r
  join expected_visit v on v.id = r.expected_visit_id and v.freed_on is null
  -- What other accounts hold of it is reserved for nobody.
  cross join lateral (
    select
      case
        when exists (select from receipt_household x where x.receipt_id = r.id) then (
          select -sum(p.amount)
          from posting p
          where p.receipt_id = r.id and p.account = 'credit/patient' and household_now(p.household_id) = r.household_id
        )
        else (select b.held from receipt_balance b where b.receipt_id = r.id)
      end as held
  ) k
  left join confidential_address a on a.patient_id = r.patient_id and a.ended_on is null
where k.held > 0
group by 1, 2;
create view owed_part as
with apart as (
  select a.patient_id, p.household_id
  from confidential_address a
    join patient p on p.id = a.patient_id
  where a.ended_on is null
),
own as (
  select x.household_id, x.patient_id as part, coalesce(o.with_patient, 0) as with_patient,
    coalesce(o.below, 0) as below, coalesce(r.credit, 0) as credit
  from apart x
    left join lateral (
      select sum(b.with_patient) as with_patient, sum(least(b.with_patient, 0)) as below
      from charge c
        join charge_balance b on b.charge_id = c.id
      where c.patient_id = x.patient_id and c.household_id = x.household_id
    ) o
      on true
    left join lateral (
      select sum(k.held) as credit
      from receipt r
        join receipt_balance k on k.receipt_id = r.id
      where r.patient_id = x.patient_id and r.household_id = x.household_id
    ) r
      on true),
forbidden as (
  select n.household_id, coalesce(x.patient_id, 0) as part, sum(n.amount) as amount
  from not_billable n
    left join apart x on x.patient_id = n.patient_id
  group by 1, 2
),
below as (
  select c.household_id, sum(b.with_patient) as amount
  from charge_balance b
    join charge c on c.id = b.charge_id
  where b.with_patient < 0
  group by 1
)
select b.household_id, 0::bigint as part,
  (b.with_patient - coalesce(z.amount, 0) - coalesce(o.owed, 0) - coalesce(f.amount, 0))::bigint as owed,
  coalesce(f.amount, 0)::bigint as forbidden,
  (b.credit - coalesce(o.credit, 0) - coalesce(v.credit, 0))::bigint as credit
from household_balance b
  left join reserved_part v on v.household_id = b.household_id and v.part = 0
  left join below z on z.household_id = b.household_id
  left join forbidden f on f.household_id = b.household_id and f.part = 0
  left join (select household_id, sum(with_patient - below) as owed, sum(credit) as credit from own group by 1) o
    on o.household_id = b.household_id
union all
select o.household_id, o.part, (o.with_patient - o.below - coalesce(f.amount, 0))::bigint,
  coalesce(f.amount, 0)::bigint, (o.credit - coalesce(v.credit, 0))::bigint
from own o
  left join reserved_part v on v.household_id = o.household_id and v.part = o.part
  left join forbidden f on f.household_id = o.household_id and f.part = o.part;
-- What would be due on the statement of a household, or of a patient with an address apart: owed less credit.
create function statement_due(of_household bigint, of_patient bigint) returns bigint language sql stable as $$
  select p.owed - p.credit from owed_part p where p.household_id = of_household and p.part = coalesce(of_patient, 0)
$$;
-- What a piece would say is due now; what plans ask for is looked at when it is made.
create function piece_due(piece mail_piece) returns bigint language sql stable as $$
  -- What a letter names as past due is looked at when it is made.
  select
    case
      when piece.kind = 'letter' then piece.amount
      else piece.installments + statement_due(piece.household_id, piece.patient_id) + coalesce(
        (select sum(statement_due(h, null)) from unnest(piece.joined) h), 0
      )
    end
$$;
`;
