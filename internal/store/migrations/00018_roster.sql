-- +goose Up
-- The shipped stand-in for the office's people records.
create table roster_columns (
  key      text primary key,
  title    text not null,
  kind     text not null default '',
  position integer not null
);
create table roster_people (
  id         bigint generated always as identity primary key,
  key        text not null unique, -- that tells them apart in the office
  name       text not null default '',
  data       jsonb not null,
  words      text not null, -- all that is known, for searching
  changed_at timestamptz not null default now()
);
create index roster_names on roster_people (lower(name), id);

-- +goose Down
drop table roster_people, roster_columns;
