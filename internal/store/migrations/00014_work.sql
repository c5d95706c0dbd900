-- +goose Up
-- Work that survives: what failed by a fault of ours can be tried again, recognised pages are kept while the task goes on, and the
-- processes that work say that they live.
alter table intakes drop constraint intakes_state_check;
alter table intakes add constraint intakes_state_check
  check (state in ('waiting', 'reading', 'done', 'refused', 'locked', 'cancelled', 'failed'));
alter table tasks add column partial jsonb not null default '{}'; -- what is recognised so far, by page
alter table intake_files add column opened text references files (sha256); -- the copy without a password

create table workers (
  id   text primary key,
  seen timestamptz not null default now()
);

-- Passwords of files stood in the jobs that read them.
-- +goose StatementBegin
do $$ begin
  if to_regclass('river_job') is not null then
    update river_job set args = args - 'password' where args ? 'password';
  end if;
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
