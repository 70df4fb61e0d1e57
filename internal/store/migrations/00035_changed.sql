-- +goose Up

-- Which transactions changed something of a site that what is foretold depends on; site 0: something of all sites. Whoever keeps an
-- answer knows by it whether the answer still holds: rows only come, so what becomes visible is another set of them, in whatever
-- order transactions end. A row a transaction, so nobody waits for anybody.
create table site_changes (
    site_id bigint not null,
    xid     xid8 not null,
    primary key (site_id, xid)
);

-- +goose StatementBegin
create function note_change() returns trigger language plpgsql as $$
begin
    if TG_TABLE_NAME = 'sites' then
        if TG_OP = 'DELETE' then
            insert into public.site_changes select id, pg_current_xact_id() from gone on conflict do nothing;
        else
            insert into public.site_changes select id, pg_current_xact_id() from come on conflict do nothing;
        end if;
    elsif TG_OP = 'DELETE' then
        insert into public.site_changes select distinct site_id, pg_current_xact_id() from gone on conflict do nothing;
    else
        insert into public.site_changes select distinct site_id, pg_current_xact_id() from come on conflict do nothing;
    end if;
    return null;
end $$;

create function note_change_of_all() returns trigger language plpgsql as $$
begin
    insert into public.site_changes values (0, pg_current_xact_id()) on conflict do nothing;
    return null;
end $$;

-- All tables but those that nothing foretold depends on.
create procedure watch_for_changes() language plpgsql as $$
declare one record;
begin
    for one in select c.relname as name, c.relname = 'sites' or exists (select from pg_attribute where attrelid = c.oid and attname = 'site_id' and not attisdropped) as of_site
        from pg_class c where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' and c.relname not like 'river%' and c.relname not in (
            'goose_db_version', 'site_changes', 'logbook', 'acts', 'sessions', 'engines', 'sign_ins', 'tokens', 'invitations', 'link_secrets', 'tries', 'picture_files', 'preview_links',
            'calendar_feeds', 'lenses', 'post_html', 'known_browsers', 'post_search', 'setup', 'comments', 'connections', 'prepared', 'prepared_openings', 'webhooks',
            'hook_deliveries', 'asks', 'old_slugs', 'old_site_slugs', 'old_category_slugs', 'old_tag_slugs')
            and not exists (select from pg_trigger where tgrelid = c.oid and tgname = 'changes_inserted')
    loop
        if one.of_site then
            execute format('create trigger changes_inserted after insert on %I referencing new table as come for each statement execute function note_change()', one.name);
            execute format('create trigger changes_updated after update on %I referencing new table as come for each statement execute function note_change()', one.name);
            execute format('create trigger changes_deleted after delete on %I referencing old table as gone for each statement execute function note_change()', one.name);
        else
            execute format('create trigger changes_inserted after insert or update or delete on %I for each statement execute function note_change_of_all()', one.name);
        end if;
    end loop;
end $$;
-- +goose StatementEnd
call watch_for_changes();

-- +goose Down
-- +goose StatementBegin
do $$
declare one record;
begin
    for one in select tgrelid::regclass as name, tgname from pg_trigger where tgname in ('changes_inserted', 'changes_updated', 'changes_deleted')
    loop
        execute format('drop trigger %I on %s', one.tgname, one.name);
    end loop;
end $$;
-- +goose StatementEnd
drop procedure watch_for_changes;
drop function note_change, note_change_of_all;
drop table site_changes;
