-- +goose Up

-- The catalogue as it is edited: kinds of part with their traits, slots,
-- inspections, models. Entries that shipped and were never edited are renewed
-- by a newer application.
create table catalogue_entries (
  section text not null check (section in ('kind', 'slot', 'inspection', 'model')),
  key text not null,
  position integer not null,
  definition jsonb not null,
  shipped boolean not null,
  version integer not null default 1,
  changed_by text not null default '',
  changed_at timestamptz,
  primary key (section, key)
);
-- One row; its number goes up with every change, so that every instance learns.
create table catalogue_state (one boolean primary key default true check (one), version bigint not null);
insert into catalogue_state (version) values (0);

-- A part has an identity of its own: it moves from machine to machine, to the
-- shelf and to scrap, and its readings go with it. A slot known to be empty is
-- held by a placeholder whose model is none.
create table parts (
  id bigint generated always as identity primary key,
  kind text not null,
  tag text not null default '',
  serial text not null default '',
  supplier text not null default '',
  price double precision check (price >= 0),
  bought_on date,
  note text not null default '',
  shelf text not null default '',
  scrapped_at timestamptz,
  scrapped_why text not null default '',
  version integer not null default 1,
  changed_by text not null,
  changed_at timestamptz not null,
  from_fitting bigint
);
create unique index parts_tag on parts (lower(tag)) where tag <> '';

insert into parts (kind, changed_by, changed_at, from_fitting)
select case when slot like 'driver-%' then 'driver' when slot like 'motor-%' then 'motor' when slot = 'bed-heater' then 'heater'
  when slot = 'bed-sensor' then 'sensor' when slot = 'z-endstop' then 'endstop' else slot end, '', fitted_at, id
from fittings order by id;
alter table fittings add column part_id bigint references parts;
alter table fittings add column why text not null default '';
alter table fittings add column moved_by text not null default '';
update fittings f set part_id = p.id from parts p where p.from_fitting = f.id;
alter table fittings alter column part_id set not null;
create index fittings_part on fittings (part_id);
create unique index fittings_part_now on fittings (part_id) where removed_at is null;

alter table readings add column part_id bigint references parts;
update readings r set part_id = p.id from parts p where p.from_fitting = r.fitting_id;
alter table readings alter column part_id set not null;
alter table readings drop column fitting_id, drop column machine_id, drop column slot;
create index readings_part on readings (part_id);
alter table parts drop column from_fitting;

alter table machines add column supplier text not null default '';
alter table machines add column price double precision check (price >= 0);

create table labour (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  work_order_id bigint references work_orders,
  at timestamptz not null,
  by text not null,
  minutes integer not null check (minutes > 0),
  what text not null
);
create index labour_machine on labour (machine_id);

-- What a technician tried to read and could not.
create table unreadable (
  id bigint generated always as identity primary key,
  part_id bigint not null references parts,
  trait text not null,
  inspection text not null,
  why text not null default '',
  at timestamptz not null,
  by text not null
);
create index unreadable_part on unreadable (part_id);

create table faults (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  symptom text not null default '',
  words text not null,
  reported_by text not null,
  reported_at timestamptz not null,
  closed_at timestamptz,
  closed_by text not null default '',
  answer text not null default '',
  version integer not null default 1
);
create index faults_machine on faults (machine_id);

-- What a machine may be used for, over time; the newest holds.
create table machine_uses (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  use text not null check (use in ('in use', 'attended only', 'out of use')),
  why text not null,
  at timestamptz not null,
  by text not null
);
create index machine_uses_machine on machine_uses (machine_id);

create table wire_sheets (
  machine_id bigint not null references machines,
  head text not null default '',
  definition jsonb not null,
  version integer not null,
  changed_by text not null,
  changed_at timestamptz not null,
  primary key (machine_id, head)
);

create table questions (
  id bigint generated always as identity primary key,
  name text not null,
  definition jsonb not null,
  version integer not null default 1,
  changed_by text not null,
  changed_at timestamptz not null
);
create unique index questions_name on questions (lower(name));

-- Pictures lie in the blob store; those from before are moved there at the
-- start that follows this migration.
alter table photos alter column work_order_id drop not null, alter column step_key drop not null, alter column jpeg drop not null;
alter table photos add column reading_id bigint references readings, add column fault_id bigint references faults, add column blob text not null default '';
create index photos_order on photos (work_order_id);
create index photos_reading on photos (reading_id);
create index photos_fault on photos (fault_id);

-- +goose Down
do $$ begin raise exception 'parts and their readings cannot be taken apart again: restore the backup from before the migration'; end $$;
