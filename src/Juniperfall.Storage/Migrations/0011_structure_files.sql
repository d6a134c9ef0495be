-- A generated structure is kept as the structure file that it goes out as; what the page shows is made from that. Of those that were
-- kept as a view with the file in it, the file and the figures stay.
alter table structure disable trigger structure_is_immutable;
update structure
set content = (content -> 'file') || jsonb_build_object(
    'figures', coalesce(content -> 'figures', '[]'),
    'advice', coalesce((select jsonb_agg(jsonb_build_object('row', a ->> 'rowId', 'assembly', a ->> 'assemblyId', 'mark', a ->> 'mark', 'sentence', a ->> 'sentence'))
        from jsonb_array_elements(content -> 'advice') a), '[]'))
where jsonb_typeof(content -> 'file') = 'object';
alter table structure enable trigger structure_is_immutable;
