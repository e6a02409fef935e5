-- +goose Up
-- What an order was opened for: a fault, which it closes, or a task of maintenance, which it
-- settles; with others it can be of one batch, named by the first of them. Work that is taken
-- back says why. Spares are the parts of the shelf that go in, by position.
alter table work_orders
  add column fault_id bigint references faults,
  add column task text not null default '',
  add column batch bigint references work_orders,
  add column spares jsonb not null default '{}',
  add column back_at timestamptz,
  add column back_by text not null default '',
  add column back_why text not null default '';
create index work_orders_batch on work_orders (batch) where batch is not null;
create index work_orders_fault on work_orders (fault_id) where fault_id is not null;

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
