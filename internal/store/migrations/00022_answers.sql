-- +goose Up
-- Returns are read: their answers stand by the keys of their questions, which outlast a field's name.
alter table returns drop constraint returns_kind_check;
alter table returns
  add column edition_id bigint references editions (id) on delete set null,
  add column road       text not null default 'button' check (road in ('web', 'link', 'button', 'file', 'paper', 'data', 'round')),
  add column state      text not null default 'unread' check (state in ('unread', 'waiting', 'new', 'checked', 'refused', 'done')),
  add column name       text not null default '',            -- of the file that it came as
  add column answers    jsonb not null default '{}',         -- by the key of the question; what is empty is left out
  add column broken     jsonb not null default '{}',         -- what the rules say against it, by key
  add column unsure     jsonb not null default '{}',         -- how sure an answer is that was read from a picture, by key
  add column problem    text not null default '',            -- why it waits for a person
  add column digest     bytea,                               -- the same for the same answers
  add column double_of  bigint references returns (id) on delete set null,
  add column assigned_to bigint references accounts (id),
  add column copy       text references files (sha256),      -- the filled form, where it did not come as one
  add column job_id     bigint;
create index returns_state on returns (document_id, state, id);
create index returns_link on returns (link_id) where link_id is not null;
create index returns_digest on returns (document_id, digest) where digest is not null;
create index returns_double on returns (double_of) where double_of is not null;
create index returns_unread on returns (id) where state = 'unread';
create index returns_broken on returns (document_id, id) where state = 'new' and broken <> '{}';
create index returns_unsure on returns (document_id, id) where state = 'new' and unsure <> '{}';
create index returns_day on returns (document_id, received_at);

-- Files that came with a return.
create table return_files (
  id        bigint generated always as identity primary key,
  return_id bigint not null references returns (id) on delete cascade,
  field     text not null default '', -- the key of the question; empty for none, @2 is paper laid over page 2
  name      text not null,
  file      text not null references files (sha256)
);
create index return_files_return on return_files (return_id);

-- What was done with a return: who corrected what, and what it was.
create table return_changes (
  id         bigint generated always as identity primary key,
  return_id  bigint not null references returns (id) on delete cascade,
  at         timestamptz not null default now(),
  account_id bigint references accounts (id),
  what       text not null check (what in ('value', 'state', 'assigned', 'note')),
  field      text not null default '',
  was        text not null default '',
  is_now     text not null default ''
);
create index return_changes_return on return_changes (return_id, id);

-- How many returns a document has, in several rows, so that those who send do not wait for each other.
create table return_counts (
  document_id bigint not null references documents (id) on delete cascade,
  shard       smallint not null,
  number      integer not null default 0,
  bytes       bigint not null default 0,
  primary key (document_id, shard)
);
insert into return_counts (document_id, shard, number, bytes)
  select r.document_id, 0, count(*), coalesce(sum(length(f.bytes)), 0) from returns r join files f on f.sha256 = r.file group by 1;

-- Forms that somebody has begun to fill in on the web.
create table begun (
  id         bigint generated always as identity primary key,
  link_id    bigint not null references form_links (id) on delete cascade,
  code       text not null,      -- by which it is come back to; empty on a personal link
  answers    jsonb not null,     -- by name
  changed_at timestamptz not null default now(),
  unique (link_id, code)
);

-- Addresses that are told of returns.
create table hooks (
  id          bigint generated always as identity primary key,
  document_id bigint not null references documents (id) on delete cascade,
  url         text not null,
  secret      bytea not null,
  made_by     bigint references accounts (id),
  made_at     timestamptz not null default now()
);
create index hooks_document on hooks (document_id);
create table hook_calls (
  id        bigint generated always as identity primary key,
  hook_id   bigint not null references hooks (id) on delete cascade,
  return_id bigint not null references returns (id) on delete cascade,
  state     text not null default 'waiting' check (state in ('waiting', 'sent', 'failed')),
  tries     integer not null default 0,
  problem   text not null default '',
  at        timestamptz not null default now(),
  job_id    bigint
);
create index hook_calls_hook on hook_calls (hook_id, id);
create index hook_calls_return on hook_calls (return_id);
create index hook_calls_waiting on hook_calls (id) where state = 'waiting';

alter table documents add column keep_days integer; -- how long returns are kept; null for ever

-- Words are looked for in what was answered, not in the keys.
-- +goose StatementBegin
create function answer_words(answers jsonb, name text) returns text language sql immutable parallel safe as
  $$ select lower(coalesce(string_agg(value, E'\n'), '') || E'\n' || name) from jsonb_each_text(answers) $$;
-- +goose StatementEnd
alter table returns add column words text generated always as (answer_words(answers, name)) stored;
create index returns_answers on returns using gin (answers jsonb_path_ops);

-- It goes by groups of three letters where the server has the means for that (a part of PostgreSQL's own distribution).
-- +goose StatementBegin
do $$
begin
  create extension if not exists pg_trgm;
  create index returns_words on returns using gin (words gin_trgm_ops);
exception when others then
  raise notice 'searching goes without an index: %', sqlerrm;
end $$;
-- +goose StatementEnd

-- +goose Down
drop index if exists returns_words;
alter table returns drop column words;
drop function answer_words;
drop index returns_answers;
alter table documents drop column keep_days;
drop table hook_calls, hooks, begun, return_counts, return_changes, return_files;
drop index returns_state, returns_link, returns_digest, returns_double, returns_unread, returns_broken, returns_unsure, returns_day;
alter table returns drop column edition_id, drop column road, drop column state, drop column name, drop column answers, drop column broken,
  drop column unsure, drop column problem, drop column digest, drop column double_of, drop column assigned_to,
  drop column copy, drop column job_id;
delete from returns where kind not in ('fdf', 'xfdf', 'pdf', 'data');
alter table returns add constraint returns_kind_check check (kind in ('fdf', 'xfdf', 'pdf', 'data'));
