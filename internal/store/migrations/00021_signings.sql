-- +goose Up
-- A form that goes round: its roles fill in their fields and sign, one after the other.
create table signings (
  id         bigint generated always as identity primary key,
  edition_id bigint not null references editions (id) on delete cascade,
  file       text not null references files (sha256), -- as it is now, for whoever's turn it is
  consent    text not null,                           -- what everybody agrees to
  made_by    bigint references accounts (id),
  made_at    timestamptz not null default now(),
  done_at    timestamptz,
  finished   text references files (sha256),          -- with the page that says how it was signed
  ended_at   timestamptz                              -- it was called off
);
create index signings_edition on signings (edition_id, id);

create table signers (
  id          bigint generated always as identity primary key,
  signing_id  bigint not null references signings (id) on delete cascade,
  position    integer not null, -- from 1
  role        text not null,
  name        text not null,
  recipient   text not null default '', -- of those who sign by a link
  link_id     bigint unique references form_links (id) on delete cascade,
  account_id  bigint references accounts (id),
  turn_at     timestamptz,
  answered_at timestamptz,
  file        text references files (sha256), -- what they sign, and have signed
  signed_at   timestamptz,
  method      text not null default '',  -- typed, drawn, picture
  sender      text not null default '',  -- the address on the network
  unique (signing_id, position)
);
create index signers_account on signers (account_id) where signed_at is null;

-- Certificates that the office signs with; each PKCS#12 file is encrypted with a key that does not lie in the database.
create table certificates (
  id         bigint generated always as identity primary key,
  holder     text not null,
  issuer     text not null,
  not_before timestamptz not null,
  not_after  timestamptz not null,
  root       bytea not null, -- the certificate at the end of its chain, as DER has it: signatures that lead to it are believed
  sealed     bytea not null, -- nonce and AES-256-GCM of the key and the chain
  seals      boolean not null default false, -- finished forms
  added_by   bigint references accounts (id),
  added_at   timestamptz not null default now()
);
create unique index certificates_seal on certificates (seals) where seals;

-- The shipped test authority: its keys, encrypted as well, and what it has issued.
create table authority (
  id     integer primary key check (id = 1),
  sealed bytea not null
);
create table issued (
  serial     text primary key,
  holder     text not null,
  not_after  timestamptz not null,
  issued_at  timestamptz not null default now(),
  revoked_at timestamptz
);

-- +goose Down
drop table issued, authority;
drop table certificates, signers, signings;
