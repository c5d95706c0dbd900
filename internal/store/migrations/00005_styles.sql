-- +goose Up
-- The house style by kind of field, favourite styles, and what each person has at hand.
create table house_style (
  kind       text primary key,
  style      jsonb not null,
  account_id bigint references accounts (id),
  changed_at timestamptz not null default now()
);

create table favourites (
  id         bigint generated always as identity primary key,
  name       text not null unique,
  style      jsonb not null,
  account_id bigint references accounts (id),
  changed_at timestamptz not null default now()
);

alter table accounts add column handy text[];

-- +goose Down
drop table house_style, favourites;
alter table accounts drop column handy;
