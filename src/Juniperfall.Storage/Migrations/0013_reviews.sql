-- Who asked for the release of a revision, with a note, and what came of it.
create table review (
    id bigint generated always as identity primary key,
    revision_id bigint not null references revision on delete cascade,
    asked_by text not null,
    asked_at timestamptz not null default now(),
    note text not null,
    outcome text check (outcome in ('released', 'sent back', 'taken back')),
    answered_by text,
    answered_at timestamptz,
    answer text not null default '',
    check ((outcome is null) = (answered_at is null))
);
-- One that is open, at a time; this one also finds it.
create unique index review_open on review (revision_id) where outcome is null;
create index review_of_revision on review (revision_id, id desc);
