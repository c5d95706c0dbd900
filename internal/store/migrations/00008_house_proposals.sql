-- +goose Up
-- Corrections of finds that could be words of the office: one a wording and document. They are kept as words when a person
-- says so, or when the same correction was made in two documents.
create table house_proposals (
  id          bigint generated always as identity primary key,
  key         text not null, -- the wording as it is looked up
  wording     text not null,
  name        text not null default '',
  kind        text not null default '',
  lines       boolean not null default false,
  format      text not null default '',
  options     jsonb not null default '[]', -- of a list
  document_id bigint not null references documents (id) on delete cascade,
  account_id  bigint references accounts (id),
  changed_at  timestamptz not null default now(),
  unique (key, document_id)
);
alter table house_words add column options jsonb not null default '[]';

-- +goose Down
alter table house_words drop column options;
drop table house_proposals;
