-- +goose Up
-- People can be switched off and have skills. A session belongs to an account, so that it
-- can be shown and ended; those of before do not say whose they are: everybody signs in anew.
alter table users
  add column skills jsonb not null default '[]',
  add column disabled_at timestamptz,
  add column version integer not null default 0;
delete from sessions;
alter table sessions
  add column account_id bigint references users on delete cascade,
  add column began_at timestamptz,
  add column address text not null default '',
  add column agent text not null default '';
create index sessions_account on sessions (account_id);

-- What is set for the shop as a whole, in one row; its time zones stand apart.
create table shop (
  id integer primary key default 1 check (id = 1),
  name text not null default '',
  currency text not null default 'EUR',
  week_start text not null default 'monday',
  opening jsonb not null default '[]',
  contact text not null default '',
  version integer not null default 0
);
insert into shop default values;
update shop set version = (select count(*) from shop_zones);
create trigger note_change after update or delete on shop for each row execute function note_change('');

-- Who reported a fault, and who is on it.
alter table faults
  add column reported_by_id bigint references users,
  add column taken_by text not null default '',
  add column taken_by_id bigint references users,
  add column taken_at timestamptz;
-- Nobody changes anything by it: it is not noted.
alter table faults disable trigger note_change;
update faults f set reported_by_id = e.account_id from events e
  where e.relation = 'faults' and e.done = 'insert' and e.subject = f.id::text;
alter table faults enable trigger note_change;

-- A shop hides the kits that it will never fit.
alter table kits add column hidden boolean not null default false;

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
