/** Payment plans: what is agreed, its installments, and the charges it takes. */
export const plans = `
-- How plans may be agreed, and when one counts as broken; one row.
create table plan_policy (
  id integer primary key default 1 check (id = 1),
  longest integer not null default 24 check (longest between 1 and 600),
  least_installment cents not null default 2500 check (least_installment >= 0),
  highest_rate basis_points not null default 1800 check (highest_rate >= 0),
  rate basis_points not null default 0 check (rate >= 0),
  missed integer not null default 2 check (missed between 0 and 99),
  missed_days integer not null default 45 check (missed_days between 0 and 999),
  remind_before integer not null default 5 check (remind_before between 0 and 60),
  remind_after integer not null default 3 check (remind_after between 0 and 60),
  version integer not null default 1
);
insert into plan_policy default values;

create sequence payment_plan_number start 1001;
create table payment_plan (
  id bigint generated always as identity primary key,
  number text not null unique default 'P-' || nextval('payment_plan_number'),
  household_id bigint not null references household (id),
  status text not null default 'proposed' check (
    status in ('proposed', 'accepted', 'finished', 'changed', 'cancelled', 'broken')
  ),
  amount cents not null check (amount > 0), down cents not null check (down >= 0 and down < amount),
  rate basis_points not null check (rate >= 0),
  every text not null check (every in ('month', 'two-weeks', 'week')), level cents not null check (level > 0),
  agreed_on calendar_date not null, first_date calendar_date not null,
  interest_by text not null check (interest_by in ('period', 'days')),
  extra text not null check (extra in ('shortens', 'lowers')), late_charges boolean not null,
  finance_charge cents not null check (finance_charge >= 0), total cents not null,
  apr integer not null check (apr >= 0),
  -- The plan that it takes the place of.
  replaces bigint references payment_plan (id), user_name text not null, accepted_on calendar_date,
  signed_by text not null default '', signature bytea, agreement text,
  -- How far its interest is counted.
  interest_counted integer not null default 0, interest_through calendar_date not null,
  ended_on calendar_date, ended_why text not null default '', created_at timestamptz not null default desk_now(),
  version integer not null default 1,
  check (total = amount - down + finance_charge), check (first_date >= agreed_on),
    check (status = 'proposed' or status = 'cancelled' or accepted_on is not null),
  check ((status in ('proposed', 'accepted')) = (ended_on is null)), check (ended_on is null or ended_why <> '')
);
create index on payment_plan (household_id);
create index on payment_plan (status);
create index on payment_plan (replaces) where replaces is not null;
-- What it takes of each charge: of what stands with the patient, and of what the plan before holds.
create table plan_charge (
  plan_id bigint not null references payment_plan (id), charge_id bigint not null references charge (id),
  taken_over boolean not null, amount cents not null check (amount > 0),
  primary key (plan_id, charge_id, taken_over)
);
create index on plan_charge (charge_id);
-- What of each charge it leaves with the patient for the down payment.
create table plan_down (
  plan_id bigint not null references payment_plan (id), charge_id bigint not null references charge (id),
  amount cents not null check (amount > 0), primary key (plan_id, charge_id)
);
create table plan_installment (
  plan_id bigint not null references payment_plan (id), number integer not null check (number > 0),
  date calendar_date not null, amount cents not null check (amount >= 0),
  principal cents not null check (principal >= 0), interest cents not null check (interest >= 0),
  left_after cents not null check (left_after >= 0), primary key (plan_id, number),
  check (amount = principal + interest)
);
create index on plan_installment (date);
-- Messages before and after an installment, each once.
create table plan_reminder (
  id bigint generated always as identity primary key, plan_id bigint not null references payment_plan (id),
  number integer not null, kind text not null check (kind in ('before', 'after')),
  written_at timestamptz, why text not null default '', made_on calendar_date not null,
  unique (plan_id, number, kind)
);

-- What was accepted is never changed: a change is a new agreement.
create function plan_fixed() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if tg_op <> 'UPDATE' then
    raise exception 'A plan is cancelled, never deleted' using errcode = 'restrict_violation';
  end if;
  new.version := old.version + 1;
  if old.status <> 'proposed'
    and (
      old.household_id, old.amount, old.down, old.rate, old.every, old.level, old.agreed_on, old.first_date,
      old.interest_by, old.extra, old.late_charges, old.finance_charge, old.total, old.apr, old.replaces,
      old.accepted_on, old.signed_by, old.signature, old.agreement
    )
    is distinct from (
      new.household_id, new.amount, new.down, new.rate, new.every, new.level, new.agreed_on, new.first_date,
      new.interest_by, new.extra, new.late_charges, new.finance_charge, new.total, new.apr, new.replaces,
      new.accepted_on, new.signed_by, new.signature, new.agreement
    )
    and not only_whose(to_jsonb(old), to_jsonb(new)) then
    raise exception 'The terms of an accepted plan are never changed: agree a new one' using errcode =
      'restrict_violation';
  end if;
  if new.status is distinct from old.status and not (case old.status
    when 'proposed' then new.status in ('accepted', 'cancelled')
    when 'accepted' then new.status in ('finished', 'changed', 'cancelled', 'broken')
    -- A payment that is taken back opens it again.
    when 'finished' then new.status = 'accepted'
    else false end) then
    raise exception 'A plan that is % does not become %', old.status,
    new.status using errcode = 'restrict_violation';
  end if;
  return new;
end $$;
create trigger plan_fixed before update on payment_plan for each row execute function plan_fixed();
create trigger plan_stays before delete or truncate on payment_plan
for each statement execute function refuse_change();
create function plan_parts_fixed() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if (select status from payment_plan where id = coalesce(old.plan_id, new.plan_id)) <> 'proposed' then
    raise exception 'The terms of an accepted plan are never changed: agree a new one' using errcode =
      'restrict_violation';
  end if;
  return coalesce(new, old);
end $$;
create trigger plan_charge_fixed before insert or update or delete on plan_charge
for each row execute function plan_parts_fixed();
create trigger plan_installment_fixed before insert or update or delete on plan_installment
for each row execute function plan_parts_fixed();
create trigger plan_reminder_stays before delete or truncate on plan_reminder
for each statement execute function refuse_change();
alter table payment_plan enable always trigger plan_fixed;
alter table payment_plan enable always trigger plan_stays;
alter table plan_charge enable always trigger plan_charge_fixed;
alter table plan_installment enable always trigger plan_installment_fixed;
`;
