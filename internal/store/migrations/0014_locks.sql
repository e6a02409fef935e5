-- +goose Up
-- Each person at work on a machine holds a lock of their own, until it is taken off.
create table work_locks (
  id bigint generated always as identity primary key,
  work_order_id bigint not null references work_orders,
  account_id bigint references users,
  name text not null,
  put_on timestamptz not null,
  taken_off timestamptz,
  taken_off_by text not null default '',
  why text not null default ''
);
create unique index work_locks_one on work_locks (work_order_id, name) where taken_off is null;

-- Work that is left for a while: why, and what whoever goes on has to know.
alter table work_orders
  add column parked_at timestamptz,
  add column parked_by text not null default '',
  add column parked_why text not null default '',
  add column parked_loose text not null default '',
  add column parked_screws text not null default '',
  add column parked_waits text not null default '';

-- +goose StatementBegin
do $$
begin
  create trigger note_insert after insert on work_locks referencing new table as added
    for each statement execute function note_insert('', 'machine_of(''work_locks'', to_jsonb(a))', 'null::bigint');
  create trigger note_change after update or delete on work_locks for each row execute function note_change('');
end $$;
-- +goose StatementEnd

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
