-- +goose Up
-- What is ordered of suppliers, what came of it, and what is still claimed of them.
create table purchases (
  id bigint generated always as identity primary key,
  supplier text not null,
  reference text not null default '',
  ordered_on date not null,
  note text not null default '',
  closed_at timestamptz,
  closed_why text not null default '',
  version integer not null default 1,
  changed_by text not null,
  changed_at timestamptz not null
);
create table purchase_lines (
  id bigint generated always as identity primary key,
  purchase_id bigint not null references purchases on delete cascade,
  what text not null,
  kit text not null default '',
  count integer not null check (count > 0),
  price double precision,
  box jsonb not null default '[]',
  machines jsonb not null default '[]'
);
create index purchase_lines_purchase on purchase_lines (purchase_id);
-- The parts in each box of a line that go on record, in order.
create table purchase_kept (
  line_id bigint not null references purchase_lines on delete cascade,
  n integer not null,
  kind text not null,
  model text not null,
  primary key (line_id, n)
);

-- One thing that came, or should have. What is not as advertised is no part of the shop's.
create table arrivals (
  id bigint generated always as identity primary key,
  line_id bigint not null references purchase_lines,
  kept integer not null default 0,
  came_on date not null,
  outcome text not null,
  note text not null default '',
  slip text not null default '',
  lot text not null default '',
  part_id bigint references parts,
  return_by date,
  claim text not null default '',
  claim_note text not null default '',
  replaces_id bigint references arrivals,
  received_by text not null,
  received_at timestamptz not null,
  version integer not null default 1,
  changed_by text not null,
  changed_at timestamptz not null
);
create index arrivals_line on arrivals (line_id);
create index arrivals_claim on arrivals (claim) where claim in ('open', 'sent back');
create table arrival_findings (
  arrival_id bigint not null references arrivals on delete cascade,
  trait text not null,
  advertised text not null default '',
  found text not null default '',
  grade smallint not null default 0,
  primary key (arrival_id, trait)
);
alter table photos add column arrival_id bigint references arrivals;

alter table parts
  add column lot text not null default '',
  add column for_machine_id bigint references machines;
create index parts_lot on parts (lot) where lot <> '';

-- +goose StatementBegin
do $$
declare
  t text;
begin
  foreach t in array array['purchases', 'purchase_lines', 'arrivals', 'arrival_findings']
  loop
    execute format('create trigger note_insert after insert on %I referencing new table as added
      for each statement execute function note_insert(%L, %L, %L)', t, '', 'null::bigint',
      case when t = 'arrivals' then 'a.part_id' else 'null::bigint' end);
    execute format('create trigger note_change after update or delete on %I
      for each row execute function note_change(%L)', t, '');
  end loop;
end $$;

create or replace function subject_of(relation text, j jsonb) returns text language sql immutable as $$
  select case relation
    when 'work_steps' then (j->>'work_order_id') || '/' || (j->>'key')
    when 'catalogue_entries' then (j->>'section') || ' ' || (j->>'key')
    when 'wire_sheets' then (j->>'machine_id') || '/' || (j->>'head')
    when 'build_runs' then j->>'fitting_id'
    when 'arrival_findings' then (j->>'arrival_id') || '/' || (j->>'trait')
    else coalesce(j->>'id', j->>'key', '') end
$$;
-- +goose StatementEnd

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
