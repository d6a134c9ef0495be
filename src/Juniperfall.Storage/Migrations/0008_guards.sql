-- What is released is only ever withdrawn, and the history is only ever added to, whatever the program does.
create or replace function refuse_change_of_released() returns trigger language plpgsql as $$
begin
    if old.state in ('released', 'withdrawn') and (tg_op = 'DELETE' or new.content is distinct from old.content or new.head <> old.head or new.number <> old.number
        or new.facts is distinct from old.facts or new.released_by is distinct from old.released_by or new.released_at is distinct from old.released_at
        or new.author <> old.author or new.product_id <> old.product_id or (new.state <> old.state and not (old.state = 'released' and new.state = 'withdrawn'))) then
        raise exception 'Revision % is released and cannot be changed.', old.number using errcode = 'restrict_violation';
    end if;
    return case when tg_op = 'DELETE' then old else new end;
end $$;

create function refuse_change_of_history() returns trigger language plpgsql as $$
begin
    raise exception 'The history is only added to.' using errcode = 'restrict_violation';
end $$;
create trigger edit_is_immutable before update or delete on edit for each row execute function refuse_change_of_history();
create trigger edit_is_not_emptied before truncate on edit for each statement execute function refuse_change_of_history();

-- What a server works out ahead at its start: a row that stays behind tells that the server did not outlive it.
create table warm_up (
    revision_id bigint primary key references revision,
    head bigint not null,
    started_at timestamptz not null default now()
);
