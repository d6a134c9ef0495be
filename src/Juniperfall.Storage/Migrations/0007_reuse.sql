-- Which products a revision reuses, as an array of their ids, for where-used.
alter table revision add column reuses jsonb generated always as (jsonb_path_query_array(content, '$.reused[*].productId')) stored;
create index revision_reuses on revision using gin (reuses);
