-- +goose Up
-- What the shop says of its planning: weights, how far ahead, how busy it is.
alter table shop add column planning jsonb not null default '{}';

-- So many machines of an ability, which is a saved question, stay up while the shop is open.
create table floors (
  question_id bigint primary key references questions on delete cascade,
  least integer not null check (least > 0)
);

-- What machines hang on, and what it bears.
create table circuits (
  id bigint generated always as identity primary key,
  name text not null unique,
  watts double precision not null check (watts > 0),
  version integer not null default 1
);
create table machine_circuits (
  machine_id bigint primary key references machines on delete cascade,
  circuit_id bigint not null references circuits on delete cascade
);

-- Fewer than so many pieces of a model on the shelf are too few.
create table spare_levels (
  model text primary key,
  least integer not null check (least > 0)
);

-- When an order is expected to arrive.
alter table purchases add column expected_on date;

-- A run of the planner, made in the background: any instance of the application takes it up.
create table roster_runs (
  id bigint generated always as identity primary key,
  state text not null check (state in ('queued', 'running', 'done', 'failed')),
  asked_by text not null,
  asked_at timestamptz not null,
  keep boolean not null,
  begun_at timestamptz,
  ended_at timestamptz,
  share double precision not null default 0,
  stop boolean not null default false,
  says text not null default '',
  plan jsonb not null default 'null',
  document integer not null default 1,
  taken_at timestamptz,
  taken_by text not null default ''
);

-- The work that is planned: of a plan that was put into force, and what was moved since.
create table planned_work (
  key text primary key,
  machine_id bigint not null references machines,
  account_id bigint not null references users,
  starts timestamptz not null,
  ends timestamptz not null check (ends > starts),
  pinned boolean not null default false,
  kind text not null,
  title text not null,
  task text not null default '',
  order_id bigint references work_orders,
  fault_id bigint references faults,
  why jsonb not null default '[]',
  parts jsonb not null default '{}'
);
create index planned_work_machine on planned_work (machine_id);

-- What somebody is told in the application.
create table notices (
  id bigint generated always as identity primary key,
  account_id bigint not null references users on delete cascade,
  at timestamptz not null,
  words text not null,
  link text not null default '',
  read_at timestamptz
);
create index notices_account on notices (account_id, id) where read_at is null;

-- When somebody was here, and the time before.
create table visits (
  account_id bigint primary key references users on delete cascade,
  at timestamptz not null,
  before timestamptz
);

-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['floors', 'circuits', 'machine_circuits', 'spare_levels', 'planned_work'] loop
    execute format('create trigger note_insert after insert on %I referencing new table as added
      for each statement execute function note_insert('''', ''null::bigint'', ''null::bigint'')', t);
    execute format('create trigger note_change after update or delete on %I
      for each row execute function note_change('''')', t);
  end loop;
end $$;
-- +goose StatementEnd

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
