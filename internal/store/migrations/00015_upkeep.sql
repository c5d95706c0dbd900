-- +goose Up
-- What is done that somebody may ask about later. Rows are only ever added.
create table log (
  id         bigint generated always as identity primary key,
  at         timestamptz not null default now(),
  account_id bigint references accounts (id), -- null for what the application does by itself, and for strangers
  deed       text not null,                   -- such as "signed in"
  about      text not null default '',        -- what it was done to, in words
  reason     text not null default ''
);
create index log_at on log (at);

-- +goose StatementBegin
create function log_is_append_only() returns trigger language plpgsql as $$
begin
  raise exception 'the log is only added to';
end $$;
-- +goose StatementEnd
create trigger log_stays before update or delete on log for each row execute function log_is_append_only();
create trigger log_stays_whole before truncate on log for each statement execute function log_is_append_only();

-- An edition goes with its document, when that is deleted for good, and not otherwise.
-- +goose StatementBegin
create or replace function editions_are_immutable() returns trigger language plpgsql as $$
begin
  if tg_op = 'DELETE' then
    if current_setting('zm.deleting', true) = old.document_id::text then
      return old;
    end if;
  end if;
  raise exception 'an edition cannot be changed or removed';
end $$;
-- +goose StatementEnd
create trigger editions_stay_whole before truncate on editions for each statement execute function editions_are_immutable();

alter table accounts add column erased_at timestamptz;

-- +goose Down
select 1;
