-- What came out of a configuration, or of what a structure was generated from, on its own revision: later states are held against it.
-- The id is that of a configuration or of a structure; a row of an earlier version is written anew.
create table saved_outcome (
    id text primary key,
    version integer not null,
    content jsonb not null
);
create index structure_revision on structure (revision_id);
