-- A value, or a whole product (value_id null), that is not to be had for a time: no matter of the model, so that no revision changes.
create table pause (
    id text primary key,
    number bigint generated always as identity unique,
    product_id text not null references product on delete cascade,
    value_id text,
    value_name text not null default '',
    "from" date not null,
    "to" date,
    reason text not null,
    person text not null,
    made_at timestamptz not null default now(),
    ended_by text,
    ended_at timestamptz,
    check ("to" is null or "to" >= "from"),
    check ((ended_by is null) = (ended_at is null))
);
create index pause_of_product on pause (product_id) where ended_at is null;
