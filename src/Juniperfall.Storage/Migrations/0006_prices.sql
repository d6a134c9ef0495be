-- Customer classes with their discounts, and the class that a configuration is priced for.

create table customer_class (
    code text primary key,
    label jsonb not null,
    discount numeric not null default 0 check (discount between 0 and 100),
    discounts jsonb not null default '{}'
);
create trigger library_changed after insert or update or delete on customer_class for each statement execute function count_library_change();

-- Kept when the class goes: what was agreed with a customer is not lost with a row of the library.
alter table configuration add column customer_class text;
