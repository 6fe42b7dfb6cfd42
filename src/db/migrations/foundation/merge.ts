/** Households and people that were entered twice: what one of them has becomes the other's, in one place, by the database. */

/** Tables whose rows say whose they are, and go over with it. */
const OF_HOUSEHOLD = [
  'account_stop',
  'charge',
  'claim',
  'contact',
  'credit_letter',
  'expected_visit',
  'follow_up',
  'hardship',
  'letter',
  'mail_piece',
  'note',
  'overdue_owner',
  'part_hold',
  'patient',
  'payment_plan',
  'placement',
  'promise',
  'receipt',
  'receipt_household',
  'receipt_moved',
  'statement',
] as const;
const OF_PATIENT = [
  'benefit_elsewhere',
  'care_case',
  'charge',
  'claim',
  'confidential_address',
  'credit_letter',
  'expected_visit',
  'letter',
  'lost_tooth',
  'mail_piece',
  'note',
  'party',
  'policy_person',
  'receipt',
  'statement',
] as const;

/** What of a household or a person names another one from now on. */
const goOver = (list: readonly string[], column: string): string =>
  list
    .map((table) => `  update ${table} set ${column} = new.merged_into where ${column} = new.id;`)
    .join('\n');

/**
 * Functions and triggers of what is merged. Postings and the audit trail stay as they were written: who reads them by household or
 * person asks `household_now` and `patient_now`.
 */
export const merge = `
-- Whatever is written for a household or a person that is being merged is the other's: it waits until that is done.
create function whose_stands() returns trigger language plpgsql set search_path = public, pg_temp as $$
declare stands bigint;
begin
  if 'household' = any (tg_argv) then
    select coalesce(h.merged_into, h.id) into stands from household h where h.id = new.household_id for key share;
    if stands is not null then
      new.household_id := stands;
    end if;
  end if;
  if 'patient' = any (tg_argv) then
    select coalesce(p.merged_into, p.id) into stands from patient p where p.id = new.patient_id for key share;
    if stands is not null then
      new.patient_id := stands;
    end if;
  end if;
  return new;
end $$;
create trigger whose_stands before insert on account_stop
for each row execute function whose_stands('household');
create trigger whose_stands before insert on benefit_elsewhere
for each row execute function whose_stands('patient');
create trigger whose_stands before insert on care_case
for each row execute function whose_stands('patient');
create trigger whose_stands before insert on charge
for each row execute function whose_stands('household', 'patient');
create trigger whose_stands before insert on claim
for each row execute function whose_stands('household', 'patient');
create trigger whose_stands before insert on confidential_address
for each row execute function whose_stands('patient');
create trigger whose_stands before insert on contact
for each row execute function whose_stands('household');
create trigger whose_stands before insert on credit_letter
for each row execute function whose_stands('household', 'patient');
create trigger whose_stands before insert on expected_visit
for each row execute function whose_stands('household', 'patient');
create trigger whose_stands before insert on follow_up
for each row execute function whose_stands('household');
create trigger whose_stands before insert on hardship
for each row execute function whose_stands('household');
create trigger whose_stands before insert on letter
for each row execute function whose_stands('household', 'patient');
create trigger whose_stands before insert on lost_tooth
for each row execute function whose_stands('patient');
create trigger whose_stands before insert on mail_piece
for each row execute function whose_stands('household', 'patient');
create trigger whose_stands before insert on note
for each row execute function whose_stands('household', 'patient');
create trigger whose_stands before insert on overdue_owner
for each row execute function whose_stands('household');
create trigger whose_stands before insert on part_hold
for each row execute function whose_stands('household');
create trigger whose_stands before insert on party
for each row execute function whose_stands('patient');
create trigger whose_stands before insert on patient
for each row execute function whose_stands('household');
create trigger whose_stands before insert on payment_plan
for each row execute function whose_stands('household');
create trigger whose_stands before insert on placement
for each row execute function whose_stands('household');
create trigger whose_stands before insert on policy_person
for each row execute function whose_stands('patient');
create trigger whose_stands before insert on promise
for each row execute function whose_stands('household');
create trigger whose_stands before insert on receipt
for each row execute function whose_stands('household', 'patient');
create trigger whose_stands before insert on receipt_moved
for each row execute function whose_stands('household');
create trigger whose_stands before insert on receipt_household
for each row execute function whose_stands('household');
create trigger whose_stands before insert on statement
for each row execute function whose_stands('household', 'patient');

-- A household that is the same as another one: all that is its is that one's. What stands once for a household stays as that one has
-- it.
create function household_merges() returns trigger language plpgsql security definer set search_path = public,
  pg_temp as $$
begin
  if exists (select from household where id = new.merged_into and merged_into is not null) then
    raise exception 'A household is merged into one that stands for itself' using errcode = 'check_violation';
  end if;
  update household set merged_into = new.merged_into where merged_into = new.id;
  -- Also the other one, which may have been in its envelope: it has one of its own then.
  update household set mailed_with = nullif(coalesce(nullif(o.mailed_with, new.id), o.id), household.id)
  from household o
  where household.mailed_with = new.id and o.id = new.merged_into;
  update household set mailed_with = null where id = new.id and mailed_with is not null;
  -- A piece is of several households once each.
  update mail_piece
  set household_id = case household_id when new.id then new.merged_into else household_id end,
    joined = array(
      select distinct x
      from unnest(array_replace(joined, new.id, new.merged_into)) x
      where x <> new.merged_into or household_id not in (new.id, new.merged_into)
    )
  where new.id = any (joined) or household_id = new.id;
  delete from receipt_household x
  using receipt r
  where r.id = x.receipt_id
    and x.household_id in (new.id, new.merged_into)
    and (
      r.household_id in (new.id, new.merged_into)
        or x.household_id = new.id
        and exists (
          select from receipt_household o where o.receipt_id = x.receipt_id and o.household_id = new.merged_into
        )
    );
  delete from overdue_owner
  where household_id = new.id and exists (select from overdue_owner where household_id = new.merged_into);
${goOver(OF_HOUSEHOLD, 'household_id')}
  update household_balance b
  set with_payer = b.with_payer + o.with_payer, with_patient = b.with_patient + o.with_patient,
    on_plan = b.on_plan + o.on_plan, at_agency = b.at_agency + o.at_agency, credit = b.credit + o.credit
  from household_balance o
  where b.household_id = new.merged_into and o.household_id = new.id;
  update household_balance set with_payer = 0, with_patient = 0, on_plan = 0, at_agency = 0, credit = 0
  where household_id = new.id;
  return null;
end $$;
create trigger household_merges after update of merged_into on household
for each row when (old.merged_into is null and new.merged_into is not null) execute function household_merges();

-- A person that is the same as another one of the household: cases and policies are that one's; what was used of a policy counts
-- together.
create function patient_merges() returns trigger language plpgsql security definer set search_path = public,
  pg_temp as $$
declare
  held bigint;
  holds bigint;
  twice record;
begin
  if not exists (
    select from patient o where o.id = new.merged_into and o.merged_into is null and o.household_id = new.household_id
  ) then
    raise exception 'A person is merged into one of the household who stands for himself' using errcode =
      'check_violation';
  end if;
  update patient set merged_into = new.merged_into where merged_into = new.id;
  update household set guarantor_id = o.id, last = o.last, first = o.first
  from patient o
  where household.guarantor_id = new.id and o.id = new.merged_into;
  insert into benefit_counter as b (policy_id, patient_id, kind, period_start, quantity)
  select policy_id, new.merged_into, kind, period_start, quantity from benefit_counter where patient_id = new.id
  on conflict (policy_id, patient_id, kind, period_start) do update set quantity = b.quantity + excluded.quantity;
  delete from benefit_counter where patient_id = new.id;
  update care_case set standing = false where patient_id = new.id and standing;
  -- A tooth that both have lost is lost once.
  delete from lost_tooth t
  using lost_tooth o
  where t.patient_id = new.id and o.patient_id = new.merged_into and o.tooth = t.tooth;
  -- Whom a policy insures twice it insures once.
  delete from policy_number n
  using policy_person r, policy_person o
  where n.policy_person_id = r.id
    and r.patient_id = new.id
    and o.policy_id = r.policy_id
    and o.patient_id = new.merged_into;
  delete from policy_person r
  using policy_person o
  where r.patient_id = new.id and o.policy_id = r.policy_id and o.patient_id = new.merged_into;
  -- What one of them holds the other holds.
  select id into held from party where patient_id = new.id;
  select id into holds from party where patient_id = new.merged_into;
  if held is not null and holds is not null then
    update policy set holder_id = holds where holder_id = held;
    delete from party where id = held;
  end if;
${goOver(OF_PATIENT, 'patient_id')}
  update policy_person r set relationship = 'self'
  from policy q
    join party h on h.id = q.holder_id
  where q.id = r.policy_id and h.patient_id = r.patient_id and r.patient_id = new.merged_into
    and r.relationship <> 'self';
  -- A policy that was written down twice is one, unless both have a place in a case on the same day.
  for twice in
    select p.id as into_id, q.id as from_id
    from party h
      join policy p on p.holder_id = h.id
      join policy q on q.holder_id = h.id and q.insurance_plan_id = p.insurance_plan_id and q.id > p.id
        and (q.group_number = p.group_number or q.group_number = '' or p.group_number = '')
        and (q.valid_from, q.valid_to) is not distinct from (p.valid_from, p.valid_to)
    where h.patient_id = new.merged_into
      and not exists (
        select
        from coverage a
          join coverage b on b.case_id = a.case_id
            and daterange(b.valid_from, b.valid_to, '[]') && daterange(a.valid_from, a.valid_to, '[]')
        where a.policy_id = p.id and b.policy_id = q.id
      )
    order by p.id, q.id
  loop
    continue when not exists (select from policy where id = twice.into_id)
      or not exists (select from policy where id = twice.from_id);
    update policy_person r set policy_id = twice.into_id
    where r.policy_id = twice.from_id
      and not exists (
        select from policy_person o where o.policy_id = twice.into_id and o.patient_id = r.patient_id
      );
    update coverage set policy_id = twice.into_id where policy_id = twice.from_id;
    update benefit_rule u set policy_id = twice.into_id
    where u.policy_id = twice.from_id
      and not exists (
        select
        from benefit_rule o
        where o.policy_id = twice.into_id
          and (o.kind, o.category, o.valid_from) is not distinct from (u.kind, u.category, u.valid_from)
      );
    delete from benefit_rule where policy_id = twice.from_id;
    delete from benefit_counter where policy_id = twice.from_id;
    delete from policy_number n using policy_person r where n.policy_person_id = r.id and r.policy_id = twice.from_id;
    delete from policy_person where policy_id = twice.from_id;
    update policy p set group_number = q.group_number
    from policy q
    where p.id = twice.into_id and q.id = twice.from_id and p.group_number = '';
    delete from policy where id = twice.from_id;
  end loop;
  return null;
end $$;
create trigger patient_merges after update of merged_into on patient
for each row when (old.merged_into is null and new.merged_into is not null) execute function patient_merges();

-- Once merged, for good.
create function merged_for_good() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  raise exception 'What was merged stays merged' using errcode = 'restrict_violation';
end $$;
create trigger household_merged before update of merged_into on household
for each row when (old.merged_into is not null and new.merged_into is null) execute function merged_for_good();
create trigger patient_merged before update of merged_into on patient
for each row when (old.merged_into is not null and new.merged_into is null) execute function merged_for_good();
`;

/** Tables whose rows are another household's, or person's, once the one that they name is merged into it. */
export const GOES_OVER = { household: OF_HOUSEHOLD, patient: OF_PATIENT } as const;
