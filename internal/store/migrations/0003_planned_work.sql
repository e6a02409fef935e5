-- +goose Up

-- A plan of several kits is work that waits its turn on one machine: its steps
-- are written when it is begun, on the machine as it then is.
alter table work_orders drop constraint work_orders_state_check;
alter table work_orders add constraint work_orders_state_check check (state in ('planned', 'open', 'finished', 'abandoned'));
create index work_orders_planned on work_orders (machine_id) where state = 'planned';
