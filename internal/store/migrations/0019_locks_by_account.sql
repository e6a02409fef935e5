-- +goose Up
-- Two people may be shown by one name: a lock is an account's. Where none is on record, the
-- account is known if one alone goes by the name.
-- Nobody changes anything by it: it is not noted.
alter table work_locks disable trigger note_change;
update work_locks l set account_id = u.id from users u
  where l.account_id is null and l.taken_off is null and u.display_name = l.name
    and (select count(*) from users o where o.display_name = l.name) = 1;
alter table work_locks enable trigger note_change;
drop index work_locks_one;
create unique index work_locks_one on work_locks (work_order_id, account_id)
  where taken_off is null and account_id is not null;
create unique index work_locks_one_named on work_locks (work_order_id, name)
  where taken_off is null and account_id is null;

alter table work_orders add column opened_by_id bigint references users;
alter table work_orders disable trigger note_change;
update work_orders o set opened_by_id = e.account_id from events e
  where e.relation = 'work_orders' and e.done = 'insert' and e.subject = o.id::text;
alter table work_orders enable trigger note_change;

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
