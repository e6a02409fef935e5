-- +goose Up
create table sessions (token text primary key, data bytea not null, expiry timestamptz not null);
create index sessions_expiry on sessions (expiry);

create table users (
  id bigint generated always as identity primary key,
  name text not null unique check (name = lower(name) and name <> ''),
  display_name text not null,
  role text not null check (role in ('member', 'technician', 'lead')),
  password_hash text not null,
  created_at timestamptz not null
);

-- Failed sign-ins, kept in the database so that several instances count together.
create table failed_logins (
  id bigint generated always as identity primary key,
  name text not null,
  address text not null,
  at timestamptz not null
);
create index failed_logins_name on failed_logins (name, at);
create index failed_logins_address on failed_logins (address, at);

create table machines (
  id bigint generated always as identity primary key,
  name text not null,
  bay text not null default '',
  maker text not null default '',
  serial text not null default '',
  note text not null default '',
  since timestamptz not null,
  retired_at timestamptz,
  retired_why text not null default '',
  version integer not null default 1,
  changed_by text not null,
  changed_at timestamptz not null
);
create unique index machines_name on machines (lower(name));

-- A part while it is, or was, in a slot of a machine. Readings belong to the
-- fitting, so that a new part starts without the old one's readings.
create table fittings (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  slot text not null,
  fitted_at timestamptz not null,
  removed_at timestamptz,
  work_order_id bigint
);
create unique index fittings_now on fittings (machine_id, slot) where removed_at is null;

create table readings (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  fitting_id bigint not null references fittings,
  slot text not null,
  trait text not null,
  value text not null check (value <> ''),
  grade smallint not null check (grade between 1 and 4),
  taken_at timestamptz not null,
  taken_by text not null,
  how text not null default '',
  note text not null default '',
  set_aside_why text not null default '',
  set_aside_by text not null default '',
  set_aside_at timestamptz
);
create index readings_machine on readings (machine_id);
create index readings_fitting on readings (fitting_id);

create table kits (
  key text primary key,
  definition jsonb not null,
  shipped boolean not null default true,
  version integer not null default 1
);

create table work_orders (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  kit_key text not null,
  kit jsonb not null,
  further jsonb not null,
  verdict jsonb not null,
  reason text not null,
  state text not null check (state in ('open', 'finished', 'abandoned')),
  opened_by text not null,
  opened_at timestamptz not null,
  closed_by text not null default '',
  closed_at timestamptz,
  closing jsonb
);
-- One work order at a time locks a machine out.
create unique index work_orders_open on work_orders (machine_id) where state = 'open';

create table work_steps (
  work_order_id bigint not null references work_orders,
  seq integer not null,
  key text not null,
  step jsonb not null,
  data jsonb not null default '{}',
  note text not null default '',
  done_by text not null default '',
  done_at timestamptz,
  skipped_why text not null default '',
  version integer not null default 1,
  primary key (work_order_id, seq),
  unique (work_order_id, key)
);

create table photos (
  id bigint generated always as identity primary key,
  work_order_id bigint not null references work_orders,
  step_key text not null,
  jpeg bytea not null,
  width integer not null,
  height integer not null,
  taken_by text not null,
  taken_at timestamptz not null
);

create table calibrations (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  kind text not null,
  value text not null,
  store text not null,
  method text not null default '',
  passed boolean not null,
  done_at timestamptz not null,
  done_by text not null,
  work_order_id bigint references work_orders,
  void_reason text not null default '',
  void_remedy text not null default '',
  void_at timestamptz,
  void_by_work_order_id bigint references work_orders
);
create index calibrations_machine on calibrations (machine_id);

create table meters (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  read_at timestamptz not null,
  hours double precision not null check (hours >= 0),
  reset boolean not null default false,
  taken_by text not null,
  unique (machine_id, read_at)
);

create table upkeep_done (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  task text not null,
  done_at timestamptz not null,
  done_by text not null,
  note text not null default ''
);
create index upkeep_done_machine on upkeep_done (machine_id);

-- +goose Down
drop table upkeep_done, meters, calibrations, photos, work_steps, work_orders, kits, readings, fittings, machines, failed_logins, users, sessions;
