-- +goose Up

-- A calibration belongs to something: '' is the machine as a whole, as every record of
-- an earlier version. It counts for each subject until one of its own is made.
alter table calibrations add column subject text not null default '', add column proof jsonb not null default '{}';

-- Since when a record is no longer valid, of which of its subjects ('' is all of them).
create table calibration_invalid (
  id bigint generated always as identity primary key,
  calibration_id bigint not null references calibrations on delete cascade,
  subject text not null default '',
  reason text not null,
  remedy text not null,
  causes jsonb not null default '[]',
  at timestamptz not null,
  work_order_id bigint references work_orders,
  upkeep_done_id bigint references upkeep_done on delete cascade,
  reading_id bigint references readings
);
create index calibration_invalid_record on calibration_invalid (calibration_id);

insert into calibration_invalid (calibration_id, reason, remedy, at, work_order_id)
select id, void_reason, void_remedy, void_at, void_by_work_order_id from calibrations where void_at is not null;
alter table calibrations drop column void_reason, drop column void_remedy, drop column void_at, drop column void_by_work_order_id;

-- +goose Down
-- +goose StatementBegin
do $$ begin raise exception 'calibrations cannot belong to the machine as a whole again: restore the backup from before the migration'; end $$;
-- +goose StatementEnd
