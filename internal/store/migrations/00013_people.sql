-- +goose Up
-- People come and go; each sets their own password by a link that is good once, and sees where they are signed in.
alter table accounts add column disabled_at timestamptz;
create table links (
  hash       text primary key, -- SHA-256 of the token in the link
  account_id bigint not null references accounts (id) on delete cascade,
  expires_at timestamptz not null,
  used_at    timestamptz
);
create table visits (
  id         bigint generated always as identity primary key,
  account_id bigint not null references accounts (id) on delete cascade,
  began_at   timestamptz not null default now(),
  seen_at    timestamptz not null default now(),
  sender     text not null default '', -- the address on the network
  browser    text not null default '',
  ended_at   timestamptz
);
create index visits_account on visits (account_id, id);

-- +goose Down
drop table visits;
drop table links;
alter table accounts drop column disabled_at;
