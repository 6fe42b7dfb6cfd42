/** The types of the columns, and what makes a row that people edit carry a version. */
export const domains = `
create extension if not exists pg_trgm;
create extension if not exists btree_gist;
create domain cents as bigint check (value between -99999999999 and 99999999999);
create domain calendar_date as date check (value between '1800-01-01' and '2199-12-31');
create domain basis_points as integer check (value between 0 and 10000);

-- The one clock of what is written and judged. For tests and the demo the owner sets it; the desk cannot.
create function desk_now() returns timestamptz language sql stable as $$ select now() $$;

-- A row that people edit counts its changes, so that a change made on an older one is seen.
create function count_version() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  new.version := old.version + 1;
  return new;
end $$;

-- Tables that are only ever added to, whoever asks.
create function refuse_change() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  raise exception 'What was written is never changed: correct it by writing more (% on %)', tg_op,
  tg_table_name using errcode = 'restrict_violation';
end $$;
`;
