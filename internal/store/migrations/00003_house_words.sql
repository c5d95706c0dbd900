-- +goose Up
-- The office's own dictionary: label wording -> name, kind, format.
create table house_words (
  id         bigint generated always as identity primary key,
  key        text not null unique, -- the wording as it is looked up
  wording    text not null,
  name       text not null default '',
  kind       text not null default '',
  lines      boolean not null default false,
  format     text not null default '',
  learnt     boolean not null default false, -- from a correction, not typed
  account_id bigint references accounts (id),
  changed_at timestamptz not null default now()
);

-- +goose Down
drop table house_words;
