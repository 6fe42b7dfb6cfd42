/** Whom a row of the audit trail is about, filled in as it is written. */
export const trail = `
create function audit_about() returns trigger language plpgsql security definer set search_path = public,
  pg_temp as $$
declare
  subject bigint;
  about record;
begin
  new.account := coalesce((select email from "user" where id = new.user_id), '');
  if new.subject_id !~ '^[1-9][0-9]{0,17}$' then
    return new;
  end if;
  subject := new.subject_id::bigint;
  case new.subject_kind
    when 'household' then
      select id as household_id, null::bigint as patient_id into about from household where id = subject;
    when 'patient' then select household_id, id as patient_id into about from patient where id = subject;
    when 'charge' then select household_id, patient_id into about from charge where id = subject;
    when 'coverage' then
      select p.household_id, p.id as patient_id into about
      from coverage c
        join care_case k on k.id = c.case_id
        join patient p on p.id = k.patient_id
      where c.id = subject;
    when 'claim' then select household_id, patient_id into about from claim where id = subject;
    when 'remittance claim' then
      select m.household_id, m.patient_id into about
      from remittance_claim c
        join claim m on m.id = c.claim_id
      where c.id = subject;
    when 'follow-up' then
      select household_id, null::bigint as patient_id into about from follow_up where id = subject;
    when 'receipt' then select household_id, null::bigint as patient_id into about from receipt where id = subject;
    when 'statement' then
      select household_id, null::bigint as patient_id into about from statement where id = subject;
    when 'mail piece' then
      select household_id, null::bigint as patient_id into about from mail_piece where id = subject;
    when 'entry' then
      select household_id, null::bigint as patient_id into about
      from posting
      where entry_id = subject and household_id is not null
      order by id
      limit 1;
    else return new;
  end case;
  new.household_id := about.household_id;
  new.patient_id := about.patient_id;
  return new;
end $$;
create trigger audit_about before insert on audit for each row execute function audit_about();
`;
