-- +goose Up
-- Copies of an edition that are filled in for people: a task like recognising.
alter table tasks drop constraint tasks_kind_check;
alter table tasks add constraint tasks_kind_check check (kind in ('recognise', 'find', 'fill'));
create table fillings (
  task_id    bigint primary key references tasks (id) on delete cascade,
  edition_id bigint not null references editions (id) on delete cascade,
  people     jsonb not null,               -- as they were when it was asked for
  flat       boolean not null default false,
  merged     boolean not null default false,
  first      integer not null default 1,   -- serial number of the first copy
  result     text references files (sha256),
  trouble    jsonb not null default '[]'   -- what was refused or did not fit, by person
);

-- +goose Down
drop table fillings;
