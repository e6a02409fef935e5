-- +goose Up

-- Of which version each stored document is; what is older is brought along when the
-- application starts (internal/store/documents.go).
alter table kits add column document integer not null default 1;
alter table work_orders add column document integer not null default 1;
alter table work_steps add column document integer not null default 1;
alter table wire_sheets add column document integer not null default 1;
alter table questions add column document integer not null default 1;
alter table work_orders alter column document set default 2;

-- +goose Down
do $$ begin raise exception 'documents are not taken back to an older version: restore the backup from before the migration'; end $$;
