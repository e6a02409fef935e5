-- +goose Up

-- How often what is planned was changed: a run knows from which version it started, and what two leads decide at once
-- is not decided by the second.
create table plan_version (
  id integer primary key default 1 check (id = 1),
  version bigint not null
);
insert into plan_version (version) values (1);

alter table roster_runs add column basis bigint;
-- When the instance that makes the plan was heard of last.
alter table roster_runs add column heard_at timestamptz;

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
