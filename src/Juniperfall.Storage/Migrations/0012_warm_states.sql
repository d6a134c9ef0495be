-- What was found out of a revision that is not edited any more, so that a fresh server answers its first question like its hundredth.
-- Of use only to the program that made it; another one makes its own.
create table warm_state (
    revision_id bigint not null references revision on delete cascade,
    program uuid not null,
    site text not null,
    day date,
    state bytea not null,
    made_at timestamptz not null default now(),
    unique nulls not distinct (revision_id, site, day)
);
