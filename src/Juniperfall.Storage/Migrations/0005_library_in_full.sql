-- The library in full: what items, sites and work centres carry for structures, standard operations, and where items are used.

create extension if not exists pg_trgm;

alter table item add column costs jsonb not null default '{}';
alter table item add column conversions jsonb not null default '{}';
alter table item add column order_multiple numeric check (order_multiple > 0);
alter table item add column lead_time_days numeric check (lead_time_days >= 0);
alter table item add column properties jsonb not null default '{}';
alter table item add column substitutes jsonb not null default '[]';
-- What a search looks through: the number and the descriptions in every language, in one text.
alter table item add column words text generated always as (number || ' ' || description::text) stored;
create index item_words on item using gin (words gin_trgm_ops);
create index item_number_start on item (lower(number) text_pattern_ops);

alter table site add column material_overhead numeric not null default 0;
alter table work_centre add column overhead numeric not null default 0;

create table standard_operation (
    code text primary key,
    label jsonb not null,
    work_centre text not null,
    setup text not null,
    run text not null,
    instructions jsonb not null
);
create trigger library_changed after insert or update or delete on standard_operation for each statement execute function count_library_change();

create table structure_item (
    structure_id text not null references structure,
    item text not null,
    primary key (structure_id, item)
);
create index structure_item_item on structure_item (item, structure_id);
insert into structure_item (structure_id, item)
    select distinct s.id, i #>> '{}' from structure s, jsonb_path_query(s.content -> 'structure', 'strict $.**.bom[*].item') i;
