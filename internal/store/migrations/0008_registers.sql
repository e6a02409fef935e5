-- +goose Up

alter table machines add column bought_on date;

-- What technicians matched the headings of their registers to, by the words of each
-- heading; '' left the column out.
create table register_headings (
  heading text primary key check (heading <> ''),
  target text not null,
  set_by text not null,
  set_at timestamptz not null
);

-- Who imported which file, when: names in a file are kept as written and say who did
-- something elsewhere, not who brought it here.
create table imports (
  id bigint generated always as identity primary key,
  what text not null check (what in ('register', 'meters', 'catalogue', 'record')),
  file text not null default '',
  sha256 text not null,
  result jsonb not null default '{}',
  imported_by text not null,
  imported_at timestamptz not null
);

-- +goose Down
drop table imports;
drop table register_headings;
alter table machines drop column bought_on;
