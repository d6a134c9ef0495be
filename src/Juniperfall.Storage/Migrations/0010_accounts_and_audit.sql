-- An administrator adds people; each chooses a password through a link that works once. Without a password nobody can sign in.
alter table person add column mail text not null default '';
-- Someone of the demo data, whose password everyone knows until it is changed.
alter table person add column demo boolean not null default false;
update person set demo = true where (name, display) in (('ines', 'Ines Halloran'), ('tomas', 'Tomas Brandt'), ('marit', 'Marit Solberg'), ('odile', 'Odile Renard'), ('piet', 'Piet Vermeer'));

create table password_link (
    token_hash bytea primary key,
    person text not null references person,
    made_at timestamptz not null default now(),
    expires_at timestamptz not null,
    used_at timestamptz
);
create index password_link_person on password_link (person);

-- The keys of cookies are encrypted from now on; those that were not are forgotten.
delete from protection_key;

-- Security events and releases. Only what is older than a year can be removed.
create table audit (
    id bigint generated always as identity primary key,
    at timestamptz not null default clock_timestamp(),
    kind text not null,
    person text not null,
    subject text not null,
    detail text not null,
    address text not null
);
create index audit_person on audit (person, id);
create index audit_subject on audit (subject, id);
create function refuse_change_of_audit() returns trigger language plpgsql as $$
begin
    if tg_op = 'DELETE' and old.at < now() - interval '1 year' then
        return old;
    end if;
    raise exception 'The audit is only added to.' using errcode = 'restrict_violation';
end $$;
create trigger audit_is_immutable before update or delete on audit for each row execute function refuse_change_of_audit();
create trigger audit_is_not_emptied before truncate on audit for each statement execute function refuse_change_of_history();

-- Who changed a configuration last beside who made it.
alter table configuration add column changed_by text;
update configuration set changed_by = author;
alter table configuration alter column changed_by set not null;
