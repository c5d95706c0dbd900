-- +goose Up
-- A step keeps what it has changed, not what it has touched; steps further back than can be undone keep their titles only.
alter table edits add column partial boolean not null default false;
alter table edits drop constraint edits_state_check;
alter table edits add constraint edits_state_check check (state in ('done', 'undone', 'abandoned', 'folded'));
create index edits_steps on edits (document_id, id) where state in ('done', 'undone');

-- +goose Down
select 1;
