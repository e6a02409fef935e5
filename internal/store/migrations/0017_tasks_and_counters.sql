-- +goose Up
-- The maintenance tasks that a shop keeps as its own: one of the key of a shipped one takes its
-- place. They are read with the catalogue.
create table tasks (
  key text primary key,
  definition jsonb not null,
  document integer not null default 1,
  version integer not null default 1
);
create trigger note_insert after insert on tasks referencing new table as added
  for each statement execute function note_insert('', 'null::bigint', 'null::bigint');
create trigger note_change after update or delete on tasks for each row execute function note_change('');

-- Machines count more than hours.
alter table meters rename column hours to amount;
alter table meters add column counter text not null default 'hours' check (counter in ('hours', 'filament', 'prints'));
alter table meters drop constraint meters_machine_id_read_at_key;
alter table meters add unique (machine_id, counter, read_at);

-- What was done may have put other parts in.
alter table upkeep_done add column new_parts jsonb not null default '[]';

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
