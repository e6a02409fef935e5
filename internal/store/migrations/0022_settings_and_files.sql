-- +goose Up
-- What is on record of a build besides: which versions it was made of, for which processor and start.
alter table builds
  add column config_version text not null default '',
  add column api_version text not null default '',
  add column page_version text not null default '',
  add column add_ons text not null default '',
  add column sha256 text not null default '',
  add column processor text not null default '',
  add column start_offset double precision,
  add column built_by text not null default '',
  add column built_on text not null default '',
  add column advertised_version text not null default '',
  add column advertised_bootloader text not null default '',
  add column advertised_by text not null default '',
  add column found_bootloader text not null default '';

-- The built file of a build, and the files that it was configured by, by their hash.
create table build_files (
  id bigint generated always as identity primary key,
  build_id bigint not null references builds on delete cascade,
  name text not null check (name <> ''),
  kind text not null check (kind in ('build', 'configuration')),
  sha256 bytea not null references files,
  bytes bigint not null,
  added_by text not null,
  added_at timestamptz not null
);
create index build_files_build on build_files (build_id);
create index build_files_file on build_files (sha256);

-- Settings as text, of a machine, of a card, or of a build; their secrets are masked before they come
-- here. The one that ends last is the one that counts.
create table settings_files (
  id bigint generated always as identity primary key,
  place text not null check (place in ('build configuration', 'host configuration', 'stored settings',
    'file on the memory card', 'start code')),
  name text not null check (name <> ''),
  family text not null default '',
  machine_id bigint references machines,
  part_id bigint references parts,
  build_id bigint references builds,
  sha256 bytea not null references files,
  bytes bigint not null,
  secrets integer not null default 0,
  original text not null default '',
  taken_at timestamptz not null,
  added_by text not null,
  added_at timestamptz not null,
  ended_at timestamptz,
  check (num_nonnulls(machine_id, part_id, build_id) = 1)
);
create unique index settings_files_now on settings_files
  (coalesce(machine_id, 0), coalesce(part_id, 0), coalesce(build_id, 0), place, lower(name)) where ended_at is null;
create index settings_files_file on settings_files (sha256);

-- Words of settings that a shop knows besides those of the program, or otherwise.
create table setting_words (
  id bigint generated always as identity primary key,
  family text not null,
  form text not null,
  section text not null default '',
  word text not null check (word <> ''),
  letter text not null default '',
  item integer not null default 0,
  part integer not null default 0,
  calibration text not null default '',
  trait text not null default '',
  place text not null,
  written_as text not null default '',
  changed_by text not null,
  changed_at timestamptz not null,
  unique (family, form, section, word, letter, item, part)
);

-- Sliced files as they were judged: what they do, not what is in them.
create table print_files (
  id bigint generated always as identity primary key,
  name text not null check (name <> ''),
  bytes bigint not null,
  profile jsonb not null,
  -- what was answered of each machine when it was judged first, by its number
  answers jsonb not null default '{}',
  account_id bigint references users on delete set null,
  added_by text not null,
  added_at timestamptz not null,
  ended_at timestamptz
);
create index print_files_now on print_files (added_at) where ended_at is null;

-- What was decided, once for the fleet, about a word on its way from one version to another.
create table carryover_decisions (
  id bigint generated always as identity primary key,
  family text not null,
  from_version text not null,
  to_version text not null,
  section text not null default '',
  word text not null check (word <> ''),
  action text not null check (action in ('own value', 'new value', 'under the new name', 'leave out')),
  to_word text not null default '',
  decided_by text not null,
  decided_at timestamptz not null,
  unique (family, from_version, to_version, section, word)
);

-- Things by which there is a way back: cards, host cards, backups; each has a place and a date.
create table way_backs (
  id bigint generated always as identity primary key,
  kind text not null check (kind in ('memory card', 'host card', 'backup', 'build file', 'settings with secrets')),
  name text not null check (name <> ''),
  place text not null check (place <> ''),
  machine_id bigint not null references machines,
  made_on date not null,
  note text not null default '',
  added_by text not null,
  added_at timestamptz not null,
  ended_at timestamptz
);
create index way_backs_machine on way_backs (machine_id);

-- Whether the firmware of a machine is left alone, or what it waits for.
create table flash_decisions (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  answer text not null check (answer in ('leave it alone', 'wanted')),
  reason text not null check (reason <> ''),
  unlocks text not null default '',
  decided_by text not null,
  decided_at timestamptz not null,
  ended_at timestamptz
);
create unique index flash_decisions_now on flash_decisions (machine_id) where ended_at is null;

-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['build_files', 'settings_files', 'setting_words', 'carryover_decisions', 'way_backs',
    'flash_decisions'] loop
    execute format('create trigger note_insert after insert on %I referencing new table as added
      for each statement execute function note_insert('''', %L, ''null::bigint'')', t,
      case when t in ('settings_files', 'way_backs', 'flash_decisions') then 'a.machine_id' else 'null::bigint' end);
    execute format('create trigger note_change after update or delete on %I
      for each row execute function note_change('''')', t);
  end loop;
end $$;
-- +goose StatementEnd

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
