-- +goose Up
-- When the shop is closed, and when people work.
create table closures (
  id bigint generated always as identity primary key,
  first_day date not null,
  last_day date not null check (last_day >= first_day),
  why text not null
);
alter table users add column shifts jsonb not null default '[]';
create table leaves (
  id bigint generated always as identity primary key,
  account_id bigint not null references users on delete cascade,
  first_day date not null,
  last_day date not null check (last_day >= first_day),
  why text not null
);
create index leaves_account on leaves (account_id, last_day);

-- Calendars that are read from outside, each for a machine; off until a lead types an address.
create table calendar_feeds (
  id bigint generated always as identity primary key,
  url text not null,
  machine_id bigint not null references machines,
  name text not null,
  attended boolean not null,
  added_by text not null,
  added_at timestamptz not null,
  read_at timestamptz,
  says text not null default '',
  ended_at timestamptz
);

-- Links by which a person's calendar is read from outside. Only a hash of the secret is kept.
create table calendar_links (
  id bigint generated always as identity primary key,
  account_id bigint not null references users on delete cascade,
  hash bytea not null unique,
  made_at timestamptz not null,
  ended_at timestamptz
);

-- Who has a machine when. What repeats does so by the clock of its zone; times that are left out
-- stand in it. A move that somebody else proposes waits for its owner's answer.
create table bookings (
  id bigint generated always as identity primary key,
  machine_id bigint not null references machines,
  account_id bigint references users,
  who text not null,
  what text not null,
  starts timestamptz not null,
  ends timestamptz not null check (ends > starts),
  attended boolean not null,
  rule text not null default '',
  zone text not null default 'UTC',
  left_out jsonb not null default '[]',
  need jsonb not null default '{}',
  uid text not null,
  version integer not null default 1,
  made_by text not null,
  made_at timestamptz not null,
  cancelled_at timestamptz,
  cancelled_by text not null default '',
  offer jsonb
);
create index bookings_machine on bookings (machine_id, ends) where cancelled_at is null;
create index bookings_account on bookings (account_id);

-- What a feed said last, each time that something takes place by itself. It is read anew each
-- time, and nobody's change.
create table feed_times (
  feed_id bigint not null references calendar_feeds on delete cascade,
  what text not null,
  starts timestamptz not null,
  ends timestamptz not null
);
create index feed_times_feed on feed_times (feed_id, ends);

-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['closures', 'leaves', 'calendar_feeds', 'calendar_links', 'bookings'] loop
    execute format('create trigger note_insert after insert on %I referencing new table as added
      for each statement execute function note_insert('''', ''null::bigint'', ''null::bigint'')', t);
    execute format('create trigger note_change after update or delete on %I
      for each row execute function note_change('''')', t);
  end loop;
  -- Reading a feed changes its row, and is no change of anybody's.
  drop trigger note_change on calendar_feeds;
  create trigger note_change after update of url, ended_at or delete on calendar_feeds
    for each row execute function note_change('');
end $$;
-- +goose StatementEnd

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
