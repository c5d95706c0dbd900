-- +goose Up
-- What the workroom lists, sorts and searches, kept with each document as it changes.
alter table documents
  add column fields integer not null default 0,           -- placed
  add column open integer not null default 0,             -- finds that nobody has kept
  add column doubtful integer not null default 0,         -- of those, doubtful ones
  add column edition integer,                             -- number of the last one
  add column edition_revision bigint,                     -- what it was released from
  add column labels text[] not null default '{}',         -- of the office's own
  add column words text not null default '';              -- printed on the pages
update documents d set fields = n.fields, open = n.open, doubtful = n.doubtful
from (
  select document_id, count(*) filter (where not find or kept or confidence >= 0.5) as fields,
         count(*) filter (where find and not kept) as open, count(*) filter (where find and not kept and confidence < 0.5) as doubtful
  from (select document_id, row->'find' is not null as find, coalesce((row->'find'->>'kept')::boolean, false) as kept,
               coalesce((row->'find'->>'confidence')::float8, 1) as confidence from fields) f
  group by document_id
) n where n.document_id = d.id;
update documents d set edition = e.number, edition_revision = e.revision
from (select distinct on (document_id) document_id, number, revision from editions order by document_id, number desc) e
where e.document_id = d.id;
alter table documents add column search tsvector generated always as (
  to_tsvector('simple', title || ' ' || description || ' ' || file_name || ' ' || words)) stored;
create index documents_search on documents using gin (search);
create index documents_changed on documents (changed_at desc, id desc) where archived_at is null;
create index documents_title on documents (lower(title), id) where archived_at is null;
create index documents_stage on documents (stage, changed_at desc, id desc) where archived_at is null;
create index documents_doubtful on documents (changed_at desc) where archived_at is null and doubtful > 0;
create index documents_labels on documents using gin (labels);
create index documents_labelled on documents (id) where archived_at is null and labels <> '{}';
-- How many documents are in work, and how many archived: counted as they come and go.
create table totals (
  archived boolean primary key,
  documents bigint not null
);
insert into totals select false, count(*) from documents where archived_at is null;
insert into totals select true, count(*) from documents where archived_at is not null;
-- +goose StatementBegin
create function count_documents() returns trigger language plpgsql as $$
begin
  if tg_op = 'INSERT' then
    update totals t set documents = documents + (select count(*) from fresh where (archived_at is not null) = t.archived);
  elsif tg_op = 'DELETE' then
    update totals t set documents = documents - (select count(*) from gone where (archived_at is not null) = t.archived);
  else
    update totals set documents = documents + case when archived = (new.archived_at is not null) then 1 else -1 end;
  end if;
  return null;
end $$;
-- +goose StatementEnd
create trigger documents_come after insert on documents referencing new table as fresh for each statement
  execute function count_documents();
create trigger documents_go after delete on documents referencing old table as gone for each statement
  execute function count_documents();
create trigger documents_move after update of archived_at on documents for each row
  when ((old.archived_at is null) <> (new.archived_at is null)) execute function count_documents();

-- +goose Down
drop trigger documents_move on documents;
drop trigger documents_go on documents;
drop trigger documents_come on documents;
drop function count_documents;
drop table totals;
drop index documents_labelled, documents_labels, documents_doubtful, documents_stage, documents_title, documents_changed, documents_search;
alter table documents drop column search, drop column words, drop column labels, drop column edition_revision,
  drop column edition, drop column doubtful, drop column open, drop column fields;
