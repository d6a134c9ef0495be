-- People, the library, configurations and generated structures; redo; what a release freezes.

alter table edit add column kind text not null default 'edit' check (kind in ('edit', 'undo', 'redo'));
update edit set kind = 'undo' where undoes is not null;

alter table revision add column label jsonb generated always as (content -> 'label') stored;
alter table revision add column changed_at timestamptz not null default now();
-- The library as the rules read it, frozen at release; null while the live one holds.
alter table revision add column facts jsonb;
alter table revision add constraint released_has_facts check (state <> 'released' or facts is not null) not valid;

create or replace function refuse_change_of_released() returns trigger language plpgsql as $$
begin
    if old.state in ('released', 'withdrawn') and (tg_op = 'DELETE' or new.content is distinct from old.content or new.head <> old.head
        or new.number <> old.number or new.facts is distinct from old.facts) then
        raise exception 'Revision % is released and cannot be changed.', old.number using errcode = 'restrict_violation';
    end if;
    return case when tg_op = 'DELETE' then old else new end;
end $$;

create table person (
    name text primary key check (name = lower(name)),
    display text not null,
    role text not null check (role in ('engineer', 'approver', 'order desk', 'planner', 'administrator')),
    password text not null,
    active boolean not null default true
);

-- Failed attempts to sign in, counted over a sliding window for every instance of the server alike.
create table sign_in_attempt (
    name text not null,
    address text not null,
    at timestamptz not null default now()
);
create index sign_in_attempt_name on sign_in_attempt (name, at);
create index sign_in_attempt_address on sign_in_attempt (address, at);

-- The keys that protect cookies, shared by every instance.
create table protection_key (
    name text primary key,
    xml text not null
);

create table site (
    code text primary key,
    label jsonb not null
);
create table store (
    site text not null references site,
    name text not null,
    position integer not null,
    primary key (site, name)
);
create table work_centre (
    code text primary key,
    label jsonb not null,
    site text not null,
    labour_rate numeric not null,
    machine_rate numeric not null,
    crew integer not null,
    hours_per_day numeric not null
);
create table item (
    number text primary key,
    description jsonb not null,
    unit text not null,
    kind text not null,
    active boolean not null,
    cost numeric not null,
    weight numeric not null
);
create table item_store (
    item text not null references item,
    site text not null,
    store text not null,
    primary key (item, site)
);

-- Counts up with every change of the library, so that what was read of it can be kept until then.
create table library_version (version bigint not null);
insert into library_version values (0);
create function count_library_change() returns trigger language plpgsql as $$
begin
    update library_version set version = version + 1;
    return null;
end $$;
create trigger library_changed after insert or update or delete on site for each statement execute function count_library_change();
create trigger library_changed after insert or update or delete on store for each statement execute function count_library_change();
create trigger library_changed after insert or update or delete on work_centre for each statement execute function count_library_change();
create trigger library_changed after insert or update or delete on item for each statement execute function count_library_change();
create trigger library_changed after insert or update or delete on item_store for each statement execute function count_library_change();

create table configuration (
    id text primary key,
    name text not null,
    revision_id bigint not null references revision,
    picks jsonb not null,
    author text not null,
    version integer not null default 1,
    made_at timestamptz not null default now(),
    changed_at timestamptz not null default now()
);
create index configuration_changed on configuration (changed_at desc, id);
create index configuration_revision on configuration (revision_id);

-- What was generated stays as it was generated.
create table structure (
    id text primary key,
    configuration_id text not null references configuration,
    configuration_name text not null,
    revision_id bigint not null references revision,
    picks jsonb not null,
    content jsonb not null,
    author text not null,
    made_at timestamptz not null default now()
);
create index structure_configuration on structure (configuration_id, made_at desc);
create function refuse_change_of_structure() returns trigger language plpgsql as $$
begin
    raise exception 'A generated structure cannot be changed.' using errcode = 'restrict_violation';
end $$;
create trigger structure_is_immutable before update or delete on structure for each row execute function refuse_change_of_structure();
