-- A frozen set of what was released, of every product, and of the library, under a name.
create table baseline (
    id text primary key,
    number bigint generated always as identity unique,
    name text not null,
    note text not null default '',
    person text not null,
    made_at timestamptz not null default now(),
    facts jsonb not null
);
create table baseline_revision (
    baseline_id text not null references baseline on delete cascade,
    product_id text not null references product,
    revision_id bigint not null references revision,
    primary key (baseline_id, product_id)
);

-- How a list or a full structure was narrowed, under a name; for whoever saved it or for all.
create table saved_view (
    id text primary key,
    place text not null,
    name text not null,
    state text not null,
    person text not null,
    is_for_all boolean not null,
    made_at timestamptz not null default now()
);
create index saved_view_of_place on saved_view (place);
