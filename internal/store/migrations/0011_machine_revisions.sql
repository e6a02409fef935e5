-- +goose Up
-- A machine's revision goes up with every change of what is shown of it: what is done to
-- it, its meters, faults, work and calibrations too. So whoever has a machine of a revision
-- has it as it is.
-- +goose StatementBegin
do $$
declare
  t text;
begin
  foreach t in array array['work_orders', 'calibrations', 'calibration_invalid', 'meters', 'upkeep_done', 'faults',
    'machine_uses', 'build_runs']
  loop
    execute format('drop trigger note_insert on %I', t);
    execute format('create trigger note_insert after insert on %I referencing new table as added
      for each statement execute function note_insert(%L, %L, %L)', t, 'revises',
      case when t in ('calibration_invalid', 'build_runs') then format('machine_of(%L, to_jsonb(a))', t)
        else 'a.machine_id' end, 'null::bigint');
  end loop;
  foreach t in array array['machines', 'parts', 'work_orders', 'calibrations', 'calibration_invalid', 'meters',
    'upkeep_done', 'faults', 'machine_uses', 'build_runs']
  loop
    execute format('drop trigger note_change on %I', t);
    execute format('create trigger note_change after update or delete on %I
      for each row execute function note_change(%L)', t, 'revises');
  end loop;
end $$;

create or replace function note_change() returns trigger language plpgsql as $$
declare
  was jsonb := noted(to_jsonb(old));
  machine bigint := machine_of(tg_table_name, to_jsonb(old));
  is_now jsonb;
begin
  if tg_op = 'UPDATE' then
    is_now := noted(to_jsonb(new));
    if to_jsonb(old)->>'password_hash' <> to_jsonb(new)->>'password_hash' then
      is_now := jsonb_set(is_now, '{password_hash}', '"changed, not noted"');
    end if;
    select jsonb_object_agg(key, value) into was from jsonb_each(was) o
      where is_now->o.key is distinct from o.value
      and o.key not in ('version', 'revision', 'structure', 'changed_by', 'changed_at',
        'standing_model');
    if was is null then return null; end if;
    select jsonb_object_agg(key, value) into is_now from jsonb_each(is_now) n where was ? n.key;
  end if;
  perform note(tg_table_name, lower(tg_op), subject_of(tg_table_name, to_jsonb(old)),
    case when tg_table_name = 'machines' and tg_op = 'DELETE' then null else machine end,
    part_of(tg_table_name, to_jsonb(old)), was, is_now);
  if tg_argv[0] = 'revises' then
    update machines set revision = nextval('machine_revisions')
      where id in (machine, case when tg_op = 'UPDATE' then machine_of(tg_table_name, to_jsonb(new)) end);
  end if;
  return null;
end $$;

-- What is recorded of a build is shown of every machine that runs it.
create function revise_runners() returns trigger language plpgsql as $$
begin
  update machines set revision = nextval('machine_revisions') where id in (
    select f.machine_id from build_runs u join fittings f on f.id = u.fitting_id
    where u.build_id = old.id and f.removed_at is null);
  return null;
end $$;
-- +goose StatementEnd
create trigger revise_runners after update on builds for each row execute function revise_runners();

-- What was ever in a machine is looked up by the machine, what a part took by its fitting.
create index fittings_machine on fittings (machine_id);
create index takings_fitting on takings (fitting_id);

-- What stands as the model of a part or of a run, as the application finds it: lists are
-- searched, counted and named by it. It follows from readings and is no change by itself.
alter table parts add column standing_model text not null default '';
alter table build_runs add column standing_model text not null default '';
create index parts_standing_model on parts (kind, standing_model);

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
