-- +goose Up

-- Positions are a machine's own: what it has, where each is, and from when to when.
-- Links are what a position rides on and is fed by, where that is not as usual.
create table positions (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  key text not null,
  kind text not null,
  label text not null,
  grp text not null default '',
  serves text not null default '',
  n integer not null default 1,
  rides_on jsonb,
  fed_by jsonb,
  from_at timestamptz not null,
  to_at timestamptz,
  changed_by text not null default ''
);
create unique index positions_now on positions (machine_id, key) where to_at is null;
create index positions_machine on positions (machine_id);

-- What a fitted part takes of the capacities of its machine, as the kit that fitted
-- it states it; without a part, what a change took for good. It ends with the fitting.
create table takings (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  fitting_id bigint references fittings,
  capacity text not null,
  amount double precision not null,
  what text not null default '',
  key text not null default '',
  shift double precision not null default 0,
  covers jsonb not null default '[]',
  -- The last readings before it began and before it ended: they tell what came first
  -- at one and the same moment.
  after_reading bigint not null default 0,
  until_reading bigint not null default 0
);
create index takings_machine on takings (machine_id);

-- Goes up with every change of a machine's positions and of what is taken on it.
alter table machines add column structure integer not null default 0;

-- What a part that was fitted is stated to be, without anybody having looked.
alter table readings add column as_fitted boolean not null default false;
update readings r set as_fitted = true from fittings f
where f.part_id = r.part_id and f.work_order_id is not null and f.fitted_at = r.taken_at and r.how like 'fitted in work order %' and f.slot <> 'firmware';

-- What is made of the record of an older version by the application itself, once.
create table upgrades (name text primary key, at timestamptz not null default now());

-- +goose Down
do $$ begin raise exception 'positions cannot be one list for all machines again: restore the backup from before the migration'; end $$;
