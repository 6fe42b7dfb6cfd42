/** Whom a thing is about, and with it a row of the audit trail, filled in as it is written. */
export const trail = `
-- Whose record a thing of the audit trail is; nobody's where it is of none, or of many.
create function whose(kind text, id text, out of_household bigint, out of_patient bigint) language plpgsql stable
security definer set search_path = public, pg_temp as $$
declare
  subject bigint;
begin
  if id !~ '^[1-9][0-9]{0,17}$' then
    return;
  end if;
  subject := id::bigint;
  case kind
    when 'household' then select household_now(subject) into of_household;
    when 'patient' then
      select p.household_id, p.id into of_household, of_patient from patient p where p.id = subject;
    when 'case' then
      select p.household_id, p.id into of_household, of_patient
      from care_case k
        join patient p on p.id = k.patient_id
      where k.id = subject;
    when 'charge' then
      select c.household_id, c.patient_id into of_household, of_patient from charge c where c.id = subject;
    when 'treatment option' then
      select p.household_id, p.id into of_household, of_patient
      from treatment_option t
        join care_case k on k.id = t.case_id
        join patient p on p.id = k.patient_id
      where t.id = subject;
    when 'treatment estimate' then
      select p.household_id, p.id into of_household, of_patient
      from treatment_estimate t
        join care_case k on k.id = t.case_id
        join patient p on p.id = k.patient_id
      where t.id = subject;
    when 'authorization' then
      select p.household_id, p.id into of_household, of_patient
      from care_authorization a
        join care_case k on k.id = a.case_id
        join patient p on p.id = k.patient_id
      where a.id = subject;
    when 'coverage' then
      select p.household_id, p.id into of_household, of_patient
      from coverage c
        join care_case k on k.id = c.case_id
        join patient p on p.id = k.patient_id
      where c.id = subject;
    when 'claim' then
      select m.household_id, m.patient_id into of_household, of_patient from claim m where m.id = subject;
    when 'remittance claim' then
      select m.household_id, m.patient_id into of_household, of_patient
      from remittance_claim c
        join claim m on m.id = c.claim_id
      where c.id = subject;
    when 'keyed claim' then
      select m.household_id, m.patient_id into of_household, of_patient
      from keyed_claim c
        join claim m on m.id = c.claim_id
      where c.id = subject;
    when 'follow-up' then select f.household_id into of_household from follow_up f where f.id = subject;
    when 'receipt' then select r.household_id into of_household from receipt r where r.id = subject;
    when 'tender' then
      select r.household_id into of_household from tender t join receipt r on r.id = t.receipt_id where t.id = subject;
    when 'credit letter' then
      select l.household_id, l.patient_id into of_household, of_patient from credit_letter l where l.id = subject;
    when 'refund request' then
      select r.household_id into of_household from refund_request q join receipt r on r.id = q.receipt_id where q.id = subject;
    when 'attempt' then
      select r.household_id into of_household
      from attempt a
        join tender t on t.id = a.tender_id
        join receipt r on r.id = t.receipt_id
      where a.id = subject;
    when 'expected visit' then
      select v.household_id, v.patient_id into of_household, of_patient from expected_visit v where v.id = subject;
    when 'statement' then select s.household_id into of_household from statement s where s.id = subject;
    when 'mail piece' then select m.household_id into of_household from mail_piece m where m.id = subject;
    when 'payment plan' then select l.household_id into of_household from payment_plan l where l.id = subject;
    when 'note' then select n.household_id into of_household from note n where n.id = subject;
    when 'stop' then select s.household_id into of_household from account_stop s where s.id = subject;
    when 'contact' then select c.household_id into of_household from contact c where c.id = subject;
    when 'promise' then select m.household_id into of_household from promise m where m.id = subject;
    when 'hardship' then select a.household_id into of_household from hardship a where a.id = subject;
    when 'agency payment' then
      select l.household_id into of_household
      from agency_payment y
        join placement l on l.id = y.placement_id
      where y.id = subject;
    when 'placement' then select l.household_id into of_household from placement l where l.id = subject;
    when 'entry' then
      select household_now(p.household_id) into of_household
      from posting p
      where p.entry_id = subject and p.household_id is not null
      order by p.id
      limit 1;
    else null;
  end case;
end $$;
create function audit_about() returns trigger language plpgsql security definer set search_path = public,
  pg_temp as $$
begin
  new.account := coalesce((select email from "user" where id = new.user_id), '');
  select w.of_household, w.of_patient into new.household_id, new.patient_id
  from whose(new.subject_kind, new.subject_id) w;
  return new;
end $$;
create trigger audit_about before insert on audit for each row execute function audit_about();
`;
