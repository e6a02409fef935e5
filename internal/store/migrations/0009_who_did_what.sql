-- +goose Up

-- Tokens of sessions and of known devices are kept hashed: who reads the database or a
-- backup of it cannot use them.
update sessions set token = encode(sha256(convert_to(token, 'UTF8')), 'hex');
create table devices (
  token_hash bytea primary key,
  account_id bigint not null references users on delete cascade,
  used_at timestamptz not null
);
create index devices_account on devices (account_id);

-- Every try to sign in is counted before its password is looked at; one that went well
-- takes back those of its account and device. bucket is the account's name as tried, the
-- address, or the known device.
drop table failed_logins;
create table sign_in_tries (
  id bigint generated always as identity primary key,
  bucket text not null,
  at timestamptz not null
);
create index sign_in_tries_bucket on sign_in_tries (bucket, at);

-- Files by what is in them, in pieces so that none is ever in memory whole. Pictures are
-- JPEG, which compresses no further.
create table files (
  sha256 bytea primary key check (octet_length(sha256) = 32),
  size bigint not null,
  kept_at timestamptz not null default now()
);
create table file_chunks (
  sha256 bytea not null references files on delete cascade,
  n integer not null,
  content bytea not null,
  primary key (sha256, n)
);
alter table file_chunks alter column content set storage external;
alter table photos add column sha256 bytea references files, add column small_sha256 bytea references files;
create index photos_sha256 on photos (sha256);
create index photos_small_sha256 on photos (small_sha256);

-- Files that somebody sent in and that nothing refers to yet; they go after a day.
create table uploads (
  id bigint generated always as identity primary key,
  account_id bigint not null references users on delete cascade,
  sha256 bytea not null references files,
  name text not null,
  sent_at timestamptz not null
);
create index uploads_account on uploads (account_id, sha256);
create index uploads_sha256 on uploads (sha256);

-- What a write answered, by the key that its sender gave it: sent again, it is answered
-- again and written once.
create table write_keys (
  account_id bigint not null references users on delete cascade,
  key text not null,
  fingerprint bytea not null,
  answer bytea not null default '',
  at timestamptz not null default now(),
  primary key (account_id, key)
);
create index write_keys_at on write_keys (at);

-- Who did what. Rows are only ever added, by the triggers below and by what no row
-- shows, such as a sign-in.
create table events (
  id bigint generated always as identity primary key,
  transaction bigint not null default pg_current_xact_id()::text::bigint,
  at timestamptz not null,
  account_id bigint references users,
  actor text not null,
  action text not null,
  relation text not null,
  done text not null check (done in ('insert', 'update', 'delete', 'note')),
  subject text not null default '',
  machine_id bigint references machines,
  part_id bigint,
  was jsonb,
  is_now jsonb
);
create index events_at on events (at, id);
create index events_machine on events (machine_id, id);
create index events_part on events (part_id, id) where part_id is not null;
create index events_subject on events (relation, subject);

-- +goose StatementBegin
create function events_stay() returns trigger language plpgsql as $$
begin
  raise exception 'what was done stays on record: events are neither changed nor erased';
end $$;
-- +goose StatementEnd
create trigger events_stay before update or delete or truncate on events for each statement execute function events_stay();

-- Goes up with every change of what is fitted in a machine or known of it.
create sequence machine_revisions;
alter table machines add column revision bigint not null default 0;

-- +goose StatementBegin
create function machine_of(relation text, j jsonb) returns bigint language plpgsql stable as $$
begin
  if relation = 'machines' then return (j->>'id')::bigint; end if;
  if j->>'machine_id' is not null then return (j->>'machine_id')::bigint; end if;
  if j->>'work_order_id' is not null then
    return (select machine_id from work_orders where id = (j->>'work_order_id')::bigint);
  end if;
  if j->>'calibration_id' is not null then
    return (select machine_id from calibrations where id = (j->>'calibration_id')::bigint);
  end if;
  if j->>'fault_id' is not null then
    return (select machine_id from faults where id = (j->>'fault_id')::bigint);
  end if;
  if j->>'reading_id' is not null then
    return (select machine_of('readings', to_jsonb(r)) from readings r where id = (j->>'reading_id')::bigint);
  end if;
  if j->>'fitting_id' is not null then
    return (select machine_id from fittings where id = (j->>'fitting_id')::bigint);
  end if;
  if j->>'part_id' is not null or relation = 'parts' then
    return (select machine_id from fittings
      where part_id = coalesce(j->>'part_id', j->>'id')::bigint and removed_at is null);
  end if;
  return null;
end $$;

create function part_of(relation text, j jsonb) returns bigint language sql immutable as $$
  select case when relation = 'parts' then (j->>'id')::bigint else (j->>'part_id')::bigint end
$$;

create function subject_of(relation text, j jsonb) returns text language sql immutable as $$
  select case relation
    when 'work_steps' then (j->>'work_order_id') || '/' || (j->>'key')
    when 'catalogue_entries' then (j->>'section') || ' ' || (j->>'key')
    when 'wire_sheets' then (j->>'machine_id') || '/' || (j->>'head')
    when 'build_runs' then j->>'fitting_id'
    else coalesce(j->>'id', j->>'key', '') end
$$;

-- What is too large or too secret to be noted.
create function noted(j jsonb) returns jsonb language sql immutable as $$
  select case when j ? 'password_hash' then jsonb_set(j, '{password_hash}', '"not noted"') else j end - 'jpeg'
$$;

create function note(relation text, done text, subject text, machine bigint, part bigint, was jsonb, is_now jsonb)
returns void language sql as $$
  insert into events (at, account_id, actor, action, relation, done, subject, machine_id, part_id, was, is_now) values (
    coalesce(nullif(current_setting('wardifex.at', true), '')::timestamptz, now()),
    nullif(current_setting('wardifex.account', true), '')::bigint,
    coalesce(nullif(current_setting('wardifex.actor', true), ''), session_user::text),
    coalesce(current_setting('wardifex.action', true), ''),
    relation, done, coalesce(subject, ''), machine, part, was, is_now)
$$;

-- Rows that came by one statement are noted together, machine by machine. The trigger says
-- how the machine and the part of a row "a" are found: an import adds many thousands.
create function note_insert() returns trigger language plpgsql as $$
declare
  one record;
  changed bigint[] := '{}';
begin
  for one in execute format('
    select machine, part, count(*) as n, to_jsonb((array_agg(a))[1]) as j from (
      select a, %1$s as machine, case when (select count(*) from added) <= 50 and %1$s is null then %2$s end as part
      from added a) a(a, machine, part)
    group by machine, part order by machine', tg_argv[1], tg_argv[2])
  loop
    if one.machine is not null then changed := changed || one.machine; end if;
    if one.n = 1 then
      perform note(tg_table_name, 'insert', subject_of(tg_table_name, one.j), one.machine, part_of(tg_table_name, one.j), null, noted(one.j));
    else
      perform note(tg_table_name, 'insert', '', one.machine, one.part, null, jsonb_build_object('rows', one.n));
    end if;
  end loop;
  if tg_argv[0] = 'revises' and changed <> '{}' then
    update machines set revision = nextval('machine_revisions') where id = any(changed);
  end if;
  return null;
end $$;

create function note_change() returns trigger language plpgsql as $$
declare
  was jsonb := noted(to_jsonb(old));
  machine bigint := machine_of(tg_table_name, to_jsonb(old));
  is_now jsonb;
begin
  if tg_op = 'UPDATE' then
    is_now := noted(to_jsonb(new));
    if to_jsonb(old)->>'password_hash' <> to_jsonb(new)->>'password_hash' then
      is_now := jsonb_set(is_now, '{password_hash}', '"changed, not noted"');
    end if;
    select jsonb_object_agg(key, value) into was from jsonb_each(was) o
      where is_now->o.key is distinct from o.value
      and o.key not in ('version', 'revision', 'structure', 'changed_by', 'changed_at');
    if was is null then return null; end if;
    select jsonb_object_agg(key, value) into is_now from jsonb_each(is_now) n where was ? n.key;
  end if;
  perform note(tg_table_name, lower(tg_op), subject_of(tg_table_name, to_jsonb(old)),
    case when tg_table_name = 'machines' and tg_op = 'DELETE' then null else machine end,
    part_of(tg_table_name, to_jsonb(old)), was, is_now);
  if tg_argv[0] = 'revises' then
    update machines set revision = nextval('machine_revisions')
      where id in (machine, case when tg_op = 'UPDATE' then machine_of(tg_table_name, to_jsonb(new)) end);
  end if;
  return null;
end $$;

do $$
declare
  t text;
begin
  foreach t in array array['machines', 'parts', 'fittings', 'readings', 'kits', 'work_orders', 'work_steps', 'photos',
    'calibrations', 'calibration_invalid', 'meters', 'upkeep_done', 'catalogue_entries', 'labour', 'unreadable',
    'faults', 'machine_uses', 'wire_sheets', 'questions', 'positions', 'takings', 'builds', 'build_runs',
    'shop_zones', 'imports', 'users']
  loop
    execute format('create trigger note_insert after insert on %I referencing new table as added
      for each statement execute function note_insert(%L, %L, %L)', t,
      case when t in ('fittings', 'readings', 'positions', 'takings') then 'revises' else '' end,
      case
        when t = 'machines' then 'a.id'
        when t in ('readings', 'unreadable') then '(select f.machine_id from fittings f where f.id = a.fitting_id
          union all select f.machine_id from fittings f where f.part_id = a.part_id and f.removed_at is null limit 1)'
        when t in ('fittings', 'work_orders', 'calibrations', 'meters', 'upkeep_done', 'labour', 'faults', 'machine_uses',
          'wire_sheets', 'positions', 'takings') then 'a.machine_id'
        when t in ('work_steps', 'photos', 'calibration_invalid', 'build_runs') then format('machine_of(%L, to_jsonb(a))', t)
        else 'null::bigint' end,
      case
        when t = 'parts' then 'a.id'
        when t in ('readings', 'unreadable', 'fittings') then 'a.part_id'
        else 'null::bigint' end);
    execute format('create trigger note_change after update or delete on %I
      for each row execute function note_change(%L)', t,
      case when t in ('fittings', 'readings', 'positions', 'takings') then 'revises' else '' end);
  end loop;
end $$;
-- +goose StatementEnd

-- +goose Down
do $$ begin raise exception 'who did what is not thrown away: restore the backup from before the migration'; end $$;
