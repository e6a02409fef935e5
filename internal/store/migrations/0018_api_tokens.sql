-- +goose Up
-- What programs sign in with. Only a hash of the token is kept; its use is noted in the row
-- alone, and not as a change.
create table api_tokens (
  id bigint generated always as identity primary key,
  account_id bigint not null references users on delete cascade,
  name text not null,
  role text not null check (role in ('member', 'technician')),
  hash bytea not null unique,
  created_at timestamptz not null,
  expires_at timestamptz not null,
  used_at timestamptz,
  revoked_at timestamptz
);
create trigger note_insert after insert on api_tokens referencing new table as added
  for each statement execute function note_insert('', 'null::bigint', 'null::bigint');
create trigger note_change after update of revoked_at or delete on api_tokens
  for each row execute function note_change('');

-- +goose Down
drop table api_tokens;
