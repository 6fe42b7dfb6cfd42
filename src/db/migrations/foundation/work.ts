/** Long work in the background, with its items, how far it is and how it ended. */
export const work = `
create table work (
  id bigint generated always as identity primary key, kind text not null, title text not null, input jsonb not null,
  status text not null default 'waiting' check (
    status in ('waiting', 'running', 'stopping', 'stopped', 'finished', 'failed')
  ),
  fault text not null default '', user_id text not null, user_name text not null,
  role text not null check (role in ('front-desk', 'biller', 'collector', 'manager')),
  business_date calendar_date not null, created_at timestamptz not null default desk_now(), started_at timestamptz,
  ended_at timestamptz
);
create index on work (status);
create index on work (id desc);
-- Sizes are in what the work counts, such as claims; the size of an item is what there is to do, done is how far it
-- is.
create table work_item (
  work_id bigint not null references work (id), number integer not null, subject text not null, words text not null,
  size integer not null default 1 check (size >= 0), done integer not null default 0,
  status text not null default 'waiting' check (status in ('waiting', 'done', 'failed')),
  result text not null default '',
  primary key (work_id, number)
);
`;
