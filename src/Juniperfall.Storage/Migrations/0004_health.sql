-- Findings of an analysis that someone has accepted, with the reason. They hold for the product, so that the next revision knows them.
create table accepted_finding (
    product_id text not null references product,
    key text not null,
    reason text not null check (reason <> ''),
    person text not null,
    at timestamptz not null default now(),
    primary key (product_id, key)
);
