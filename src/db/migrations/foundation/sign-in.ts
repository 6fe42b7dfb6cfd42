/** Who signs in (the tables that better-auth keeps), the audit trail, what each person has chosen, and presses that count once. */
export const signIn = `
create table "user" (
  id text primary key, name text not null, email text not null unique, "emailVerified" boolean not null default false,
  image text, "createdAt" timestamptz not null default now(), "updatedAt" timestamptz not null default now(),
  role text not null default 'front-desk' check (role in ('front-desk', 'biller', 'collector', 'manager'))
);
create table session (
  id text primary key, "expiresAt" timestamptz not null, token text not null unique, "createdAt" timestamptz not null default now(),
  "updatedAt" timestamptz not null default now(), "ipAddress" text, "userAgent" text,
  "userId" text not null references "user" (id) on delete cascade
);
create index on session ("userId");
create table account (
  id text primary key, "accountId" text not null, "providerId" text not null, "userId" text not null references "user" (id) on delete cascade,
  "accessToken" text, "refreshToken" text, "idToken" text, "accessTokenExpiresAt" timestamptz, "refreshTokenExpiresAt" timestamptz,
  scope text, password text, "createdAt" timestamptz not null default now(), "updatedAt" timestamptz not null default now()
);
create index on account ("userId");
create table verification (
  id text primary key, identifier text not null, value text not null, "expiresAt" timestamptz not null,
  "createdAt" timestamptz not null default now(), "updatedAt" timestamptz not null default now()
);
create table "rateLimit" (id text primary key, key text not null unique, count integer not null, "lastRequest" bigint not null);

create table audit (
  id bigint generated always as identity primary key, at timestamptz not null default now(), user_id text not null,
  action text not null, subject_kind text not null, subject_id text not null, detail jsonb not null default '{}'
);
create index on audit (subject_kind, subject_id, id desc);

create table list_choice (user_id text not null, list text not null, columns text[] not null, primary key (user_id, list));

-- A press that was answered: the same key of the same use case gets the same answer and does nothing more.
create table answered (
  use_case text not null, key text not null, user_id text not null, fingerprint text not null, answer jsonb,
  at timestamptz not null default now(), primary key (use_case, key)
);
create index on answered (at);
`;
