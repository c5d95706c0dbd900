-- +goose Up
-- Answers that recipients send back to this application. The inbox of a document is the part of
-- its address that nobody can guess.
alter table documents add column inbox text unique;
create table returns (
  id          bigint generated always as identity primary key,
  document_id bigint not null references documents (id) on delete cascade,
  file        text not null references files (sha256),
  kind        text not null check (kind in ('fdf', 'xfdf', 'pdf', 'data')),
  received_at timestamptz not null default now()
);
create index returns_document on returns (document_id, id);

-- +goose Down
drop table returns;
alter table documents drop column inbox;
