-- +goose Up
-- Roads on which an edition goes out to people: links, open ones and those of one person, and the letters that carry them.
create table form_links (
  id         bigint generated always as identity primary key,
  edition_id bigint not null references editions (id) on delete cascade,
  token      text not null unique, -- in its address
  inbox      text not null unique, -- where copies that are fetched by it send their answers to
  secret     bytea not null,       -- that passes are signed with
  person_id  bigint references roster_people (id) on delete set null,
  person     jsonb,                -- of a personal link: as they were when it was made
  name       text not null default '',
  note       text not null default '', -- what an open link is for
  serial     integer not null default 0,
  expires_at timestamptz,
  most       integer,              -- how many answers it takes; null for any number
  passcode   text not null default '', -- hashed; empty for none
  frames     text not null default '', -- the sites whose pages may show it
  made_by    bigint references accounts (id),
  made_at    timestamptz not null default now(),
  revoked_at timestamptz
);
create index form_links_edition on form_links (edition_id, id);

-- What happens at a link. Who it was is not kept: of a personal link it is known.
create table link_events (
  id      bigint generated always as identity primary key,
  link_id bigint not null references form_links (id) on delete cascade,
  at      timestamptz not null default now(),
  what    text not null check (what in ('opened', 'fetched', 'answered'))
);
create index link_events_link on link_events (link_id, what, at);

create table letters (
  id        bigint generated always as identity primary key,
  link_id   bigint references form_links (id) on delete cascade,
  number    text not null, -- in the head of the message, by which it is known when it is handed over twice
  kind      text not null check (kind in ('link', 'reminder', 'sign', 'finished')),
  recipient text not null,
  subject   text not null,
  body      text not null,
  state     text not null default 'waiting' check (state in ('waiting', 'sent', 'returned', 'failed')),
  problem   text not null default '',
  job_id    bigint,
  made_by   bigint references accounts (id),
  made_at   timestamptz not null default now(),
  sent_at   timestamptz
);
create index letters_link on letters (link_id, id);

-- The shipped stand-in for a mail server.
create table post_tray (
  id         bigint generated always as identity primary key,
  message_id text unique, -- what is handed over twice is there once
  sender     text not null,
  recipient  text not null,
  message    bytea not null,
  at         timestamptz not null default now()
);

alter table returns add column link_id bigint references form_links (id) on delete set null;

-- +goose Down
alter table returns drop column link_id;
drop table post_tray, letters, link_events, form_links;
