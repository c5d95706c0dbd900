-- +goose Up
-- Finding on many pages is a task like recognising.
alter table tasks add column kind text not null default 'recognise' check (kind in ('recognise', 'find'));

-- +goose Down
alter table tasks drop column kind;
