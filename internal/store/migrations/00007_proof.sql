-- +goose Up
-- What was compared when an edition was written, in the words of the proof.
alter table editions add column proof text not null default '';

-- +goose Down
alter table editions drop column proof;
