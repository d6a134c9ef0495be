-- Who is signed in where: a cookie names its session, so that signing out, a new password or role, and time end it.
create table session (
    id uuid primary key,
    person text not null references person,
    stamp uuid not null,
    began_at timestamptz not null default now(),
    ended_at timestamptz
);
create index session_person on session (person);

-- Changes with the password, the role and whether the person may sign in at all: sessions with an earlier one are over.
alter table person add column stamp uuid not null default gen_random_uuid();

create function renew_stamp() returns trigger language plpgsql as $$
begin
    if new.password is distinct from old.password or new.role is distinct from old.role or new.active is distinct from old.active then
        new.stamp := gen_random_uuid();
    end if;
    return new;
end $$;
create trigger stamp_is_renewed before update on person for each row execute function renew_stamp();

-- Attempts are counted while they are under way, so that many at once count as many.
alter table sign_in_attempt add column id bigint generated always as identity primary key;
