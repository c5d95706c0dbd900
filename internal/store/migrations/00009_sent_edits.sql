-- +goose Up
-- An edit that was sent twice, since its answer was lost on the way, is carried out once. The key names the window
-- that sent it and the edit: "window:edit".
alter table edits add column sent text;
create unique index edits_sent on edits (document_id, sent) where sent is not null;

-- +goose Down
drop index edits_sent;
alter table edits drop column sent;
