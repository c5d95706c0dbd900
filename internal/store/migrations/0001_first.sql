-- +goose Up
create table accounts (
  id            bigint generated always as identity primary key,
  email         text not null unique,
  name          text not null,
  role          text not null check (role in ('administrator', 'preparer')),
  password_hash text not null,
  created_at    timestamptz not null default now()
);

-- The layout that the session store asks for.
create table sessions (
  token  text primary key,
  data   bytea not null,
  expiry timestamptz not null
);
create index sessions_expiry on sessions (expiry);

create table files (
  sha256     text primary key,
  bytes      bytea not null,
  created_at timestamptz not null default now()
);

create table documents (
  id           bigint generated always as identity primary key,
  title        text not null,
  description  text not null default '',
  stage        text not null default 'find',
  original     text not null references files (sha256),
  source       text not null references files (sha256),
  file_name    text not null,
  notice       text not null default '',
  pages        jsonb not null,
  revision     bigint not null default 0,
  created_at   timestamptz not null default now(),
  changed_at   timestamptz not null default now(),
  changed_by   bigint references accounts (id),
  archived_at  timestamptz
);

create table fields (
  document_id bigint not null references documents (id) on delete cascade,
  id          text not null,
  row         jsonb not null,
  primary key (document_id, id)
);

-- The journal: one row an edit. Undone edits can be redone until a new edit
-- comes after them; then they are abandoned, but stay on record.
create table edits (
  id          bigint generated always as identity primary key,
  document_id bigint not null references documents (id) on delete cascade,
  revision    bigint not null,
  title       text not null,
  before      jsonb not null,
  after       jsonb not null,
  account_id  bigint references accounts (id),
  at          timestamptz not null default now(),
  state       text not null default 'done' check (state in ('done', 'undone', 'abandoned'))
);
create index edits_document on edits (document_id, state, id);

create table editions (
  id          bigint generated always as identity primary key,
  document_id bigint not null references documents (id),
  number      integer not null,
  file        text not null references files (sha256),
  file_name   text not null,
  fields      integer not null,
  revision    bigint not null,
  released_at timestamptz not null default now(),
  released_by bigint references accounts (id),
  unique (document_id, number)
);

create table intakes (
  id          bigint generated always as identity primary key,
  account_id  bigint not null references accounts (id),
  file_name   text not null,
  file        text not null references files (sha256),
  state       text not null default 'waiting' check (state in ('waiting', 'reading', 'done', 'refused')),
  step        text not null default 'waiting for its turn',
  done        integer not null default 0,
  total       integer not null default 0,
  problem     text not null default '',
  document_id bigint references documents (id),
  created_at  timestamptz not null default now()
);

-- +goose StatementBegin
create function editions_are_immutable() returns trigger language plpgsql as $$
begin
  raise exception 'an edition cannot be changed or removed';
end $$;
-- +goose StatementEnd
create trigger editions_stay before update or delete on editions for each row execute function editions_are_immutable();

-- +goose Down
drop table intakes, editions, edits, fields, documents, files, sessions, accounts;
drop function editions_are_immutable;
