/** Who signs in (the tables that better-auth keeps), the audit trail, what each person has chosen, and presses that count once. */
export const signIn = `
create table "user" (
  id text primary key, name text not null, email text not null unique,
  "emailVerified" boolean not null default false,
  image text, "createdAt" timestamptz not null default now(), "updatedAt" timestamptz not null default now(),
  role text not null default 'front-desk' check (role in ('front-desk', 'biller', 'collector', 'manager')),
  "twoFactorEnabled" boolean not null default false, disabled_at timestamptz
);
-- Who did something is told by the name: two people never have the same one.
create unique index one_name on "user" (lower(name));
create unique index one_email on "user" (lower(email));
create table session (
  id text primary key, "expiresAt" timestamptz not null, token text not null unique,
  "createdAt" timestamptz not null default now(),
  "updatedAt" timestamptz not null default now(), "ipAddress" text, "userAgent" text,
  "userId" text not null references "user" (id) on delete cascade, seen_at timestamptz not null default now()
);
create index on session ("userId");
create table account (
  id text primary key, "accountId" text not null, "providerId" text not null,
  "userId" text not null references "user" (id) on delete cascade,
  "accessToken" text, "refreshToken" text, "idToken" text, "accessTokenExpiresAt" timestamptz,
  "refreshTokenExpiresAt" timestamptz,
  scope text, password text, "createdAt" timestamptz not null default now(),
  "updatedAt" timestamptz not null default now()
);
create index on account ("userId");
create table verification (
  id text primary key, identifier text not null, value text not null, "expiresAt" timestamptz not null,
  "createdAt" timestamptz not null default now(), "updatedAt" timestamptz not null default now()
);
create table "twoFactor" (
  id text primary key, secret text not null, "backupCodes" text not null,
  "userId" text not null unique references "user" (id) on delete cascade,
  verified boolean not null default true, "failedVerificationCount" integer not null default 0,
  "lockedUntil" timestamptz
);
-- A code of the second factor opens the door once.
create table spent_code (
  user_id text not null references "user" (id) on delete cascade, digest text not null,
  at timestamptz not null default now(), primary key (user_id, digest)
);
-- The link with which a person sets a password: known by its digest, good once and for a time; another one takes
-- its place.
create table password_link (
  user_id text primary key references "user" (id) on delete cascade, digest text not null unique,
  made_by text not null,
  made_at timestamptz not null default now(), expires_at timestamptz not null, used_at timestamptz
);
-- What was tried at the door, by account and by address; nobody gets in before \`free_at\`.
create table sign_in_limit (
  key text primary key, failures integer not null default 0, last_at timestamptz not null default now(),
  free_at timestamptz not null default now()
);

-- What was read and changed: by whom, from where, and about whom. A trigger fills in the account, the household and
-- the person.
create table audit (
  id bigint generated always as identity primary key, at timestamptz not null default desk_now(),
  user_id text not null, account text not null default '',
  session_id text not null default '', address text not null default '', action text not null,
  subject_kind text not null, subject_id text not null,
  household_id bigint, patient_id bigint, detail jsonb not null default '{}'
);
create index on audit (subject_kind, subject_id, id desc);
create index on audit (household_id, at desc, id desc) where household_id is not null;
create index on audit (user_id, at desc, id desc);
create index on audit (at desc, id desc);
create index on audit (action, at desc, id desc);
create trigger audit_fixed before update or delete or truncate on audit
for each statement execute function refuse_change();
alter table audit enable always trigger audit_fixed;

-- A view of a list with its order, kept by a person under a name.
create table list_view (
  user_id text not null, list text not null, name text not null check (name <> ''), view text not null,
  ordered text not null default '',
  -- Ids by filter, such as {"payer": 3}; one that is gone narrows to nothing.
  filters jsonb not null default '{}', primary key (user_id, list, name)
);
create table list_choice (
  user_id text not null, list text not null, columns text[] not null, primary key (user_id, list)
);

-- A press that was answered: the same key of the same use case gets the same answer and does nothing more.
create table answered (
  use_case text not null, key text not null, user_id text not null, fingerprint text not null, answer jsonb,
  at timestamptz not null default desk_now(), primary key (use_case, key)
);
create index on answered (at);
`;
