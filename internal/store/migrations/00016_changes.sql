-- +goose Up

-- What is sent on the channel "plan" says what has changed, as JSON: the site, of what kind,
-- and, where only texts of a few posts changed, which posts in which version. The kinds:
--   text   what was written in posts, but for their titles
--   title  titles of posts
--   plan   which posts there are, where they stand, and what rules know of them
--   rhythm, rules, site   these
--   asks   the engine is asked to look; nothing that is shown has changed
-- Equal payloads of one transaction are sent once.
-- +goose StatementBegin
create or replace function notify_plan() returns trigger language plpgsql as $$
declare of text := case TG_TABLE_NAME when 'posts' then 'plan' when 'rhythms' then 'rhythm' when 'asks' then 'asks' else 'rules' end;
begin
    if TG_OP = 'DELETE' then
        perform pg_notify('plan', json_build_object('site', site_id, 'of', of)::text) from (select distinct site_id from gone) s;
    else
        perform pg_notify('plan', json_build_object('site', site_id, 'of', of)::text) from (select distinct site_id from come) s;
    end if;
    return null;
end $$;

create or replace function notify_site() returns trigger language plpgsql as $$
begin
    perform pg_notify('plan', json_build_object('site', new.id, 'of', 'site')::text);
    return null;
end $$;

create function notify_posts() returns trigger language plpgsql as $$
begin
    perform pg_notify('plan', case
            when count(*) <= 20 then json_build_object('site', site_id, 'of', of, 'posts', json_agg(json_build_object('id', id, 'version', version) order by id))
            else json_build_object('site', site_id, 'of', of)
        end::text)
    from (
        select come.site_id, come.id, come.version, case
                when (come.status, come.kind, come.slug, come.author_id, come.category_id, come.cleared, come.shelf_rank, come.due_at, come.published_at, come.pinned,
                        come.held, come.not_before, come.deadline, come.rhythm_id, come.slot_date, come.slot_opening, come.slot_ordinal, come.handed_in_at,
                        come.evergreen, come.never_expires, come.expires_at, come.fields, come.on_top, come.comments_open, come.featured_image)
                    is distinct from (gone.status, gone.kind, gone.slug, gone.author_id, gone.category_id, gone.cleared, gone.shelf_rank, gone.due_at, gone.published_at, gone.pinned,
                        gone.held, gone.not_before, gone.deadline, gone.rhythm_id, gone.slot_date, gone.slot_opening, gone.slot_ordinal, gone.handed_in_at,
                        gone.evergreen, gone.never_expires, gone.expires_at, gone.fields, gone.on_top, gone.comments_open, gone.featured_image) then 'plan'
                when come.title <> gone.title then 'title'
                else 'text'
            end as of
        from come join gone using (id)
    ) changed
    group by site_id, of;
    return null;
end $$;
-- +goose StatementEnd

drop trigger posts_updated on posts;
create trigger posts_updated after update on posts
    referencing old table as gone new table as come for each statement execute function notify_posts();

-- +goose Down
drop trigger posts_updated on posts;
create trigger posts_updated after update on posts
    referencing new table as come for each statement execute function notify_plan();
drop function notify_posts;
-- +goose StatementBegin
create or replace function notify_plan() returns trigger language plpgsql as $$
begin
    if TG_OP = 'DELETE' then
        perform pg_notify('plan', site_id::text) from (select distinct site_id from gone) s;
    else
        perform pg_notify('plan', site_id::text) from (select distinct site_id from come) s;
    end if;
    return null;
end $$;
create or replace function notify_site() returns trigger language plpgsql as $$
begin
    perform pg_notify('plan', new.id::text);
    return null;
end $$;
-- +goose StatementEnd
