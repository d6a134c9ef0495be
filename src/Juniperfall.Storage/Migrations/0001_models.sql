-- Products, their revisions, and every edit of a revision in order.

create table product (
    id text primary key,
    code text not null,
    created_at timestamptz not null default now()
);
create unique index product_code on product (lower(code));

create table revision (
    id bigint generated always as identity primary key,
    product_id text not null references product,
    number integer not null check (number > 0),
    state text not null default 'draft' check (state in ('draft', 'in review', 'released', 'withdrawn')),
    content jsonb not null,
    head bigint not null default 0,
    author text not null,
    released_by text,
    released_at timestamptz,
    unique (product_id, number),
    check (state <> 'released' or released_by is not null)
);
-- One draft of a product at a time.
create unique index revision_open on revision (product_id) where state in ('draft', 'in review');

create table edit (
    revision_id bigint not null references revision,
    sequence bigint not null,
    edit_id text not null,
    person text not null,
    made_at timestamptz not null default now(),
    steps jsonb not null,
    inverse jsonb not null,
    undoes bigint,
    primary key (revision_id, sequence),
    unique (revision_id, edit_id)
);
create unique index edit_undone_once on edit (revision_id, undoes) where undoes is not null;

-- What is released stays as it is, whatever the program does.
create function refuse_change_of_released() returns trigger language plpgsql as $$
begin
    if old.state in ('released', 'withdrawn') and (tg_op = 'DELETE' or new.content is distinct from old.content or new.head <> old.head or new.number <> old.number) then
        raise exception 'Revision % is released and cannot be changed.', old.number using errcode = 'restrict_violation';
    end if;
    return case when tg_op = 'DELETE' then old else new end;
end $$;
create trigger released_is_immutable before update or delete on revision for each row execute function refuse_change_of_released();
