-- +goose Up
-- An edition says why it was made, and keeps the form that it was written from: editions are compared by it, and released again from it.
alter table editions add column notes text not null default '';
alter table editions add column template jsonb;               -- null for those that were released before
alter table editions add column locked text not null default ''; -- how the file is locked, in words; passwords are not kept
alter table editions add column profile text not null default '';
alter table editions add column again integer;                -- number of the edition that it was released again from

-- Editions that are not to be used any more. Nothing of the edition itself changes.
create table withdrawals (
  edition_id bigint primary key references editions (id) on delete cascade,
  at         timestamptz not null default now(),
  account_id bigint references accounts (id),
  reason     text not null
);

-- +goose Down
drop table withdrawals;
alter table editions drop column again, drop column locked, drop column profile, drop column template, drop column notes;
