-- The role that the server works as: it owns its tables and nothing else. What an earlier version made as the superuser becomes its own.
do $$
declare thing record;
begin
    if not exists (select from pg_roles where rolname = 'juniperfall') then
        create role juniperfall login;
    end if;
    execute format('grant create, connect, temporary on database %I to juniperfall', current_database());
    alter schema public owner to juniperfall;
    for thing in select c.oid::regclass as name, c.relkind as kind from pg_class c where c.relnamespace = 'public'::regnamespace and c.relkind in ('r', 'p', 'v', 'S')
        and c.relowner <> 'juniperfall'::regrole and not exists (select from pg_depend d where d.objid = c.oid and d.deptype in ('e', 'a', 'i'))
    loop
        execute format('alter %s %s owner to juniperfall', case thing.kind when 'S' then 'sequence' when 'v' then 'view' else 'table' end, thing.name);
    end loop;
    for thing in select p.oid::regprocedure as name from pg_proc p where p.pronamespace = 'public'::regnamespace and p.proowner <> 'juniperfall'::regrole
        and not exists (select from pg_depend d where d.objid = p.oid and d.deptype = 'e')
    loop
        execute format('alter function %s owner to juniperfall', thing.name);
    end loop;
end $$;
alter role juniperfall password :'password';
