/** What people note: on an account, or beside what stands on it. */
export const notes = `
create table note (
  id bigint generated always as identity primary key,
  -- Null where the follow-up that it is about is no household's, and where it is about a payer.
  household_id bigint references household (id),
  about text not null default 'account' check (
    about in ('account', 'follow-up', 'receipt', 'stop', 'contact', 'payer', 'claim')
  ),
  -- Of an account, a person or a case that it is about.
  patient_id bigint references patient (id), case_id bigint references care_case (id),
  payer_id bigint references payer (id),
  follow_up_id bigint references follow_up (id), receipt_id bigint references receipt (id),
  stop_id bigint references account_stop (id), contact_id bigint references contact (id),
  claim_id bigint references claim (id),
  -- What is for the patient prints on statements; what is for us never does.
  audience text not null default 'us' check (audience in ('us', 'patient')),
  -- It stands at the head of the account or payer; and each user sees it once a day on opening that.
  pinned boolean not null default false, on_opening boolean not null default false check (pinned or not on_opening),
  words text not null check (words <> ''), until calendar_date, times integer check (times > 0),
  user_name text not null, business_date calendar_date not null, at timestamptz not null default desk_now(),
  ended_on calendar_date, ended_by text,
  check ((follow_up_id is not null) = (about = 'follow-up')), check ((receipt_id is not null) = (about = 'receipt')),
  check ((stop_id is not null) = (about = 'stop')), check ((contact_id is not null) = (about = 'contact')),
  check ((claim_id is not null) = (about = 'claim')),
  check ((payer_id is not null) = (about = 'payer')), check (about <> 'payer' or audience = 'us'),
  check (about = 'account' or patient_id is null), check (patient_id is not null or case_id is null),
  check (household_id is not null or about in ('follow-up', 'payer')), check (about <> 'payer' or household_id is null),
  check ((ended_on is null) = (ended_by is null)),
  -- Only what stands on the account by itself prints, is pinned, or ends.
  check (about in ('account', 'payer') or (audience = 'us' and not pinned and until is null and ended_on is null)),
  check (audience = 'us' or (not pinned and (until is not null or times is not null))),
  check (audience = 'patient' or times is null)
);
create index on note (household_id, id desc);
create index on note (household_id) where ended_on is null and (pinned or audience = 'patient');
create index on note (payer_id, id desc) where payer_id is not null;
create index on note (follow_up_id, id desc) where follow_up_id is not null;
create index on note (claim_id, id desc) where claim_id is not null;
create unique index one_note_of_a_receipt on note (receipt_id) where receipt_id is not null;
create unique index one_note_of_a_stop on note (stop_id) where stop_id is not null;
create unique index one_note_of_a_contact on note (contact_id) where contact_id is not null;

-- Who has seen a note on opening, and on which day.
create table note_seen (
  note_id bigint not null references note (id), user_id text not null,
  day calendar_date not null, primary key (note_id, user_id, day)
);
-- What is often noted, to choose from.
create table common_notice (
  words text primary key check (words = btrim(words) and words <> ''), version integer not null default 1
);
create trigger versioned before update on common_notice for each row execute function count_version();

-- What was noted stays as it was written; a note may end, once.
create function note_kept() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if tg_op = 'UPDATE' and old.ended_on is null and new.ended_on is not null
    and (to_jsonb(new) - 'ended_on' - 'ended_by') = (to_jsonb(old) - 'ended_on' - 'ended_by') then
    return new;
  end if;
  if tg_op = 'UPDATE' and only_whose(to_jsonb(old), to_jsonb(new)) then
    return new;
  end if;
  raise exception 'What was noted is never changed: end it, and write another (% on %)', tg_op, tg_table_name
    using errcode = 'restrict_violation';
end $$;
create trigger note_fixed before update or delete on note for each row execute function note_kept();
create trigger note_never_emptied before truncate on note for each statement execute function refuse_change();
alter table note enable always trigger note_fixed;
alter table note enable always trigger note_never_emptied;

-- Whoever disputes or cannot pay said something: it stands beside the contact.
create function contact_says() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if not exists (select 1 from note where contact_id = new.id) then
    raise exception 'A dispute or a hardship is noted with what was said' using errcode = 'check_violation';
  end if;
  return null;
end $$;
create constraint trigger contact_says after insert on contact deferrable initially deferred
for each row when (new.outcome in ('dispute', 'hardship')) execute function contact_says();
`;
