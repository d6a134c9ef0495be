-- What reviewers write on a row of a revision, or on it as a whole (row_id empty); answered, and closed by whoever wrote it or the author.
create table remark (
    id text primary key,
    revision_id bigint not null references revision on delete cascade,
    row_id text not null,
    row_name text not null,
    text text not null,
    person text not null,
    made_at timestamptz not null default now(),
    closed_by text,
    closed_at timestamptz,
    check ((closed_by is null) = (closed_at is null))
);
create index remark_of_revision on remark (revision_id, made_at);
create index remark_open on remark (revision_id) where closed_at is null;
create table remark_answer (
    id text primary key,
    remark_id text not null references remark on delete cascade,
    text text not null,
    person text not null,
    made_at timestamptz not null default now()
);
create index remark_answer_of_remark on remark_answer (remark_id, made_at);

-- What is said of a released revision, and that it is withdrawn: by whom and why.
alter table revision add column release_note text not null default '', add column withdrawn_by text, add column withdrawn_at timestamptz,
    add column withdrawn_why text;
