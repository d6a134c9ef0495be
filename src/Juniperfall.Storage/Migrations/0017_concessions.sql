-- A permission to set rules aside for one configuration as it was when it was asked for; never changed, only answered and withdrawn.
create table concession (
    id text primary key,
    number bigint generated always as identity unique,
    configuration_id text not null references configuration on delete cascade,
    revision_id bigint not null references revision,
    picks jsonb not null,
    -- [{row, mark, sentence}]: the rules as they read when it was asked for.
    rules jsonb not null check (jsonb_array_length(rules) > 0),
    reason text not null,
    until date not null,
    quantity bigint not null check (quantity > 0),
    asked_by text not null,
    asked_at timestamptz not null default now(),
    outcome text check (outcome in ('signed', 'refused', 'taken back')),
    answered_by text,
    answered_at timestamptz,
    answer text not null default '',
    withdrawn_by text,
    withdrawn_at timestamptz,
    withdrawn_why text,
    check ((outcome is null) = (answered_at is null)),
    check (outcome is distinct from 'signed' or answered_by <> asked_by),
    check (withdrawn_at is null or outcome = 'signed')
);
create index concession_of_configuration on concession (configuration_id, number desc);
-- Two people who ask at once: one of them is told that it is asked for already.
create unique index concession_open on concession (configuration_id) where outcome is null;

-- What was generated under a concession, and for how many.
alter table structure add column concession_id text references concession, add column quantity bigint;
create index structure_of_concession on structure (concession_id) where concession_id is not null;
