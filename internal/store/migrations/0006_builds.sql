-- +goose Up

-- A firmware build is no part: it is made once, and boards run it from … to …
create table builds (
  id bigint generated always as identity primary key,
  name text not null check (name <> ''),
  family text not null default '' check (family in ('', 'compiled', 'hosted', 'scripted')),
  build_version text not null default '',
  host_version text not null default '',
  label text not null default '',
  file text not null default '',
  kib double precision check (kib > 0),
  features jsonb not null default '{}',
  configured jsonb not null default '{}',
  note text not null default '',
  version integer not null default 1,
  changed_by text not null,
  changed_at timestamptz not null
);
create unique index builds_name on builds (lower(name));

-- What was at a position is a part, or a build that runs there: then there is a row here
-- and no part. build_id is null while nobody has said which build it is. configured is
-- what it was configured for, as far as it is known to differ from the build's own.
create table build_runs (
  fitting_id bigint primary key references fittings on delete cascade,
  board text not null default '',
  build_id bigint references builds,
  configured jsonb not null default '{}'
);
create index build_runs_build on build_runs (build_id);
alter table fittings alter column part_id drop not null;

alter table readings alter column part_id drop not null, add column fitting_id bigint references fittings;
alter table unreadable alter column part_id drop not null, add column fitting_id bigint references fittings;
create index readings_fitting on readings (fitting_id) where fitting_id is not null;
create index unreadable_fitting on unreadable (fitting_id) where fitting_id is not null;

-- Every build that was kept as a part becomes a run, with its dates, readings and photos.
create temporary table software as
  select 'firmware' as kind union select key from catalogue_entries where section = 'kind' and (definition ->> 'software')::boolean;
insert into build_runs (fitting_id, board)
  select f.id, 'mainboard' from fittings f join parts p on p.id = f.part_id where p.kind in (select kind from software);
-- One that was in several places has its readings where it was when they were taken.
update readings r set fitting_id = (
  select f.id from fittings f where f.part_id = r.part_id
  order by (r.taken_at >= f.fitted_at and (f.removed_at is null or r.taken_at < f.removed_at)) desc, f.fitted_at limit 1)
from parts p where p.id = r.part_id and p.kind in (select kind from software);
update unreadable u set fitting_id = (select f.id from fittings f where f.part_id = u.part_id order by f.fitted_at desc limit 1)
from parts p where p.id = u.part_id and p.kind in (select kind from software);
-- One that was never in a machine stays where it is, and is a build with what was read
-- of it as its note.
insert into builds (name, note, changed_by, changed_at)
  select 'build of part ' || p.id, coalesce((select string_agg(r.trait || ' ' || r.value, '; ' order by r.id) from readings r where r.part_id = p.id), ''), p.changed_by, p.changed_at
  from parts p where p.kind in (select kind from software) and not exists (select from fittings f where f.part_id = p.id);
update readings set part_id = null where fitting_id is not null;
update unreadable set part_id = null where fitting_id is not null;
create temporary table ran as select distinct part_id as id from fittings where id in (select fitting_id from build_runs);
update fittings set part_id = null where id in (select fitting_id from build_runs);
delete from parts where id in (select id from ran);
drop table ran;
drop table software;

alter table readings add constraint readings_of_one check (num_nonnulls(part_id, fitting_id) = 1);
alter table unreadable add constraint unreadable_of_one check (num_nonnulls(part_id, fitting_id) = 1);

-- Readings with where what they are of was, and from when to when.
create view held_readings as
  select r.*, f.id as held_by, f.machine_id, f.slot, f.fitted_at, f.removed_at from readings r join fittings f on f.part_id = r.part_id
  union all
  select r.*, f.id, f.machine_id, f.slot, f.fitted_at, f.removed_at from readings r join fittings f on f.id = r.fitting_id;

-- +goose Down
-- +goose StatementBegin
do $$ begin raise exception 'builds cannot be parts again: restore the backup from before the migration'; end $$;
-- +goose StatementEnd
