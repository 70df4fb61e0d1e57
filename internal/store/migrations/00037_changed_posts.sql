-- +goose Up

-- Which post a change is about, of what rules know of posts; 0: something else; -1: what is known of all posts of the site. So
-- whoever keeps what is known of posts reads again only those that changed.
alter table site_changes drop constraint site_changes_pkey, add post_id bigint not null default 0, add primary key (site_id, xid, post_id);

-- +goose StatementBegin
do $$
declare one record;
begin
    for one in select tgrelid::regclass as name, tgname from pg_trigger where tgname in ('changes_inserted', 'changes_updated', 'changes_deleted')
    loop
        execute format('drop trigger %I on %s', one.tgname, one.name);
    end loop;
end $$;
drop procedure watch_for_changes;
drop function note_change, note_change_of_all;

-- Each is told of the rows of one statement: come, and where it asks for them, what they were before: gone.
create function note_change() returns trigger language plpgsql as $$
begin
    insert into public.site_changes select distinct site_id, pg_current_xact_id(), 0 from come on conflict do nothing;
    return null;
end $$;

-- Rows that are about all posts of their site, such as a category's name.
create function note_change_of_names() returns trigger language plpgsql as $$
begin
    insert into public.site_changes select distinct site_id, pg_current_xact_id(), -1 from come on conflict do nothing;
    return null;
end $$;

-- A statement that changes many posts changes all: to read all again takes no longer then.
create function note_posts() returns trigger language plpgsql as $$
begin
    insert into public.site_changes
        select distinct site_id, pg_current_xact_id(), case when count(*) over (partition by site_id) > 500 then -1 else id end from come on conflict do nothing;
    return null;
end $$;

create function note_change_of_post() returns trigger language plpgsql as $$
begin
    insert into public.site_changes
        select distinct site_id, pg_current_xact_id(), case when count(*) over (partition by site_id) > 500 then -1 else post end
        from (select distinct site_id, coalesce(post_id, 0) as post from come) touched on conflict do nothing;
    return null;
end $$;

-- Rows that name their site only by their post. Where that is gone, its own row has said so.
create function note_change_beside_post() returns trigger language plpgsql as $$
begin
    insert into public.site_changes
        select distinct site_id, pg_current_xact_id(), case when count(*) over (partition by site_id) > 500 then -1 else post end
        from (select distinct posts.site_id, posts.id as post from come join public.posts on posts.id = come.post_id) touched on conflict do nothing;
    return null;
end $$;

create function note_site() returns trigger language plpgsql as $$
begin
    if TG_OP = 'UPDATE' then
        insert into public.site_changes
            select id, pg_current_xact_id(), case when (come.comments_open, come.comments_days) is distinct from (gone.comments_open, gone.comments_days) then -1 else 0 end
            from come join gone using (id) on conflict do nothing;
    else
        insert into public.site_changes select id, pg_current_xact_id(), -1 from come on conflict do nothing;
    end if;
    return null;
end $$;

-- A person's name is known of posts on all sites.
create function note_user() returns trigger language plpgsql as $$
begin
    if exists (select from come join gone using (id) where come.name <> gone.name) then
        insert into public.site_changes values (0, pg_current_xact_id(), -1) on conflict do nothing;
    end if;
    return null;
end $$;

create function note_change_of_all() returns trigger language plpgsql as $$
begin
    insert into public.site_changes values (0, pg_current_xact_id(), -1) on conflict do nothing;
    return null;
end $$;

-- All tables but those that nothing foretold depends on.
create procedure watch_for_changes() language plpgsql as $$
declare one record; teller text; before text;
begin
    for one in select c.oid, c.relname as name, exists (select from pg_attribute where attrelid = c.oid and attname = 'site_id' and not attisdropped) as of_site
        from pg_class c where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' and c.relname not like 'river%' and c.relname not in (
            'goose_db_version', 'site_changes', 'logbook', 'acts', 'sessions', 'engines', 'sign_ins', 'tokens', 'invitations', 'link_secrets', 'tries', 'picture_files', 'preview_links',
            'calendar_feeds', 'lenses', 'post_html', 'known_browsers', 'post_search', 'setup', 'comments', 'connections', 'prepared', 'prepared_openings', 'webhooks',
            'hook_deliveries', 'asks', 'old_slugs', 'old_site_slugs', 'old_category_slugs', 'old_tag_slugs', 'subscribers', 'mailings')
            and not exists (select from pg_trigger where tgrelid = c.oid and tgname = 'changes_inserted')
    loop
        teller := case
            when one.name = 'posts' then 'note_posts'
            when one.name = 'sites' then 'note_site'
            when one.name = 'users' then 'note_user'
            when one.name in ('tags', 'categories') then 'note_change_of_names'
            when one.name in ('texts', 'post_tags', 'outings') then 'note_change_of_post'
            when one.name in ('post_pictures', 'comment_counts') then 'note_change_beside_post'
            when one.of_site then 'note_change'
            else 'note_change_of_all' end;
        before := case when one.name in ('sites', 'users') then 'old table as gone' else '' end;
        if one.name = 'users' then -- nothing is known of who has written nothing
            execute format('create trigger changes_inserted after update on users referencing old table as gone new table as come for each statement execute function %I()', teller);
            continue;
        end if;
        execute format('create trigger changes_inserted after insert on %I referencing new table as come for each statement execute function %I()', one.name, teller);
        execute format('create trigger changes_updated after update on %I referencing %s new table as come for each statement execute function %I()', one.name, before, teller);
        execute format('create trigger changes_deleted after delete on %I referencing old table as come for each statement execute function %I()', one.name, teller);
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
drop procedure watch_for_changes;
drop function note_change, note_change_of_names, note_posts, note_change_of_post, note_change_beside_post, note_site, note_user, note_change_of_all;
truncate site_changes;
alter table site_changes drop constraint site_changes_pkey, drop post_id, add primary key (site_id, xid);

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
            'hook_deliveries', 'subscribers', 'mailings', 'asks', 'old_slugs', 'old_site_slugs', 'old_category_slugs', 'old_tag_slugs')
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
