-- +goose Up

-- How each choice of a trait is written.
alter table setting_words add column choices jsonb not null default '{}';

-- By which version of the masking the secrets of a text were found: an older one missed those that go on
-- over several lines, and the program masks such texts again when it starts.
alter table settings_files add column masked integer not null default 1;

-- The configuration of a build was kept in two places: with its files, where nothing read it, and as
-- settings. The newest of each name counts; where one is there as settings already, that one does, and
-- the others are kept as ended.
insert into settings_files (place, name, family, build_id, sha256, bytes, taken_at, added_by, added_at, ended_at)
select 'build configuration', f.name, b.family, f.build_id, f.sha256, f.bytes, f.added_at, f.added_by, f.added_at,
  case when row_number() over (partition by f.build_id, lower(f.name) order by f.added_at desc, f.id desc) > 1
    or exists (select from settings_files s where s.build_id = f.build_id and s.place = 'build configuration'
      and lower(s.name) = lower(f.name) and s.ended_at is null) then f.added_at end
from build_files f join builds b on b.id = f.build_id where f.kind = 'configuration';
delete from build_files where kind = 'configuration';
alter table build_files drop column kind;

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
