-- +goose Up
-- The safety file of a day as it was known that day. It is written once and never changed.
create table safety_files (
  day date primary key,
  document jsonb not null
);

-- +goose StatementBegin
create function keep_safety_file() returns trigger language plpgsql as $$
begin
  raise exception 'a safety file that was kept is not changed';
end $$;
-- +goose StatementEnd
create trigger keep_safety_file before update or delete on safety_files for each row execute function keep_safety_file();

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
