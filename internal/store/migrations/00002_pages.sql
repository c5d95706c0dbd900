-- +goose Up
-- A page says itself which file it is shown from; the document has no one source.
update documents d set pages = (
  select jsonb_agg(p || jsonb_build_object('id', substr(md5(d.id::text || '/' || i::text), 1, 16), 'file', d.source, 'n', i) order by i)
  from jsonb_array_elements(d.pages) with ordinality as t (p, i)
);
alter table documents drop column source;
alter table documents add column details jsonb not null default '{}';
alter table documents add column language text not null default ''; -- in which its text is recognised, as Tesseract names it

-- The files that a document was made from, as they came.
create table originals (
  document_id bigint not null references documents (id) on delete cascade,
  position    integer not null,
  file        text not null references files (sha256),
  file_name   text not null,
  primary key (document_id, position)
);
insert into originals (document_id, position, file, file_name) select id, 1, original, file_name from documents;

-- Edits of pages and of details keep both sides; null when an edit has neither.
alter table edits add column pages jsonb;
alter table edits add column details jsonb;

-- Folders that are worked through in the background.
create table batches (
  id         bigint generated always as identity primary key,
  account_id bigint not null references accounts (id),
  name       text not null,
  language   text not null default '',
  skipped    text not null default '',
  created_at timestamptz not null default now()
);

-- An intake may be of several files that become one document, or pages of one that is there.
alter table intakes drop constraint intakes_state_check;
alter table intakes add constraint intakes_state_check check (state in ('waiting', 'reading', 'done', 'refused', 'locked', 'cancelled'));
alter table intakes add column job_id bigint;
alter table intakes add column batch_id bigint references batches (id);
alter table intakes add column into_document bigint references documents (id);
alter table intakes add column into_at integer not null default 0;
alter table intakes add column scans integer not null default 0;
create table intake_files (
  intake_id bigint not null references intakes (id) on delete cascade,
  position  integer not null,
  file      text not null references files (sha256),
  file_name text not null,
  primary key (intake_id, position)
);
insert into intake_files (intake_id, position, file, file_name) select id, 1, file, file_name from intakes;
alter table intakes drop column file;

-- Work on a document that takes its time: recognising text.
create table tasks (
  id          bigint generated always as identity primary key,
  document_id bigint not null references documents (id) on delete cascade,
  account_id  bigint not null references accounts (id),
  job_id      bigint,
  pages       jsonb not null, -- ids of the pages to work on
  language    text not null,
  state       text not null default 'waiting' check (state in ('waiting', 'working', 'done', 'failed', 'cancelled')),
  step        text not null default 'waiting for its turn',
  done        integer not null default 0,
  total       integer not null default 0,
  words       integer not null default 0,
  problem     text not null default '',
  created_at  timestamptz not null default now()
);
create index tasks_document on tasks (document_id, id);

-- +goose Down
select 1;
