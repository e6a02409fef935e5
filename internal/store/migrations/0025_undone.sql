-- +goose Up

-- What was planned for a task that was marked done, so that it stands there again when that is undone.
alter table upkeep_done add column planned jsonb;

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
