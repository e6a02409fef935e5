-- +goose Up

-- The time zones of the shop, one after the other: days are kept in the one that was in
-- force at their moment. Without any, as in every record of an earlier version, it is UTC.
create table shop_zones (
  id bigint generated always as identity primary key,
  since timestamptz, -- null: from the beginning
  zone text not null check (zone <> ''),
  set_by text not null,
  set_at timestamptz not null
);

-- +goose Down
drop table shop_zones;
