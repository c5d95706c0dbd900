-- +goose Up
-- What is asked at every edit: who has changed the same fields since a revision.
create index edits_since on edits (document_id, revision);

-- +goose Down
drop index edits_since;
