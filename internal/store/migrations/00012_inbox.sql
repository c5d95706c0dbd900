-- +goose Up
-- Where answers come to can be closed, and changed; what differs between offices is set by an administrator.
alter table documents add column inbox_closed_at timestamptz;
create table settings (
  key        text primary key,
  value      text not null,
  changed_at timestamptz not null default now(),
  changed_by bigint references accounts (id)
);

-- +goose Down
drop table settings;
alter table documents drop column inbox_closed_at;
