-- +goose Up

-- A fault that can hurt somebody closes its machine until somebody has looked.
alter table faults add column danger boolean not null default false;
alter table faults disable trigger note_change;
update faults f set danger = true
  where f.symptom = 'too-hot'
    or exists (select from machine_uses u where u.machine_id = f.machine_id
      and starts_with(u.why, 'danger reported, fault ' || f.id || ':'));
alter table faults enable trigger note_change;
create index faults_danger on faults (machine_id) where danger and closed_at is null;

-- After so many minutes a danger that nobody has taken is told again.
alter table shop add column danger_minutes integer not null default 5 check (danger_minutes between 1 and 120);

-- A notice of danger stands out among the others.
alter table notices add column danger boolean not null default false;

-- +goose Down
do $$ begin raise exception 'restore the backup from before the migration'; end $$;
