-- What is to be left of a price of a product at the least, in percent of it.
alter table product add column least_margin numeric(5, 2) check (least_margin >= 0 and least_margin < 100);

-- What a configuration is found by: its name, product, people, day and answers, as they read when it was saved.
alter table configuration add column answers text not null default '', add column found_by text not null default '';
update configuration c set found_by = concat_ws(' ', c.name, p.code, r.label::text, c.author, a.display, c.changed_by, b.display,
    to_char(c.changed_at, 'YYYY-MM-DD DD Mon YYYY'))
from revision r join product p on p.id = r.product_id, configuration x left join person a on a.name = x.author left join person b on b.name = x.changed_by
where x.id = c.id and r.id = c.revision_id;
create index configuration_found_by on configuration using gin (found_by gin_trgm_ops);
