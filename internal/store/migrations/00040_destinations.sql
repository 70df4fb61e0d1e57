-- +goose Up

-- Where the posts of a blog go, beside its built-in pages.
alter table sites
    add column pages_on boolean not null default true, -- the built-in pages; without them, readers are led on to where a post is
    add column hub text not null default ''; -- address of the WebSub hub that is told of changes; '': none

create table destinations (
    id         bigint generated always as identity primary key,
    site_id    bigint not null references sites on delete cascade,
    kind       text not null check (kind in ('folder', 'micropub')),
    name       text not null check (name <> ''),
    channel_id bigint, -- of the site of one's own that takes posts
    setup      jsonb not null default '{}' check (jsonb_typeof(setup) = 'object'),
    archived   text not null default 'keep' check (archived in ('keep', 'remove')), -- what becomes of archived posts there
    since      timestamptz, -- posts that first came out before it are left out; null: none are
    paused_at  timestamptz, -- null: it is on
    ending_at  timestamptz, -- since when its posts are being removed there; with the last of them it is deleted
    media      text not null default '', -- where a site takes pictures; '': not known yet
    failing_since timestamptz, -- of the first try that failed since one worked
    version    integer not null default 1,
    created_at timestamptz not null,
    unique (site_id, id),
    unique (site_id, name),
    check ((kind = 'micropub') = (channel_id is not null)),
    foreign key (site_id, channel_id) references channels (site_id, id)
);
create unique index destinations_of_channels on destinations (channel_id) where channel_id is not null;
create unique index destinations_of_folders on destinations ((setup->>'folder')) where kind = 'folder';

-- What has become of a post at a destination. Posts that are deleted stay here until they are removed there, too.
create table copies (
    destination_id bigint not null,
    site_id        bigint not null,
    post_id        bigint not null,
    wanted         bigint not null default 1, -- counts what changed
    done           bigint not null default 0, -- up to where that has been brought over
    state          text not null default 'none' check (state in ('none', 'there', 'removed', 'lost')), -- removed: it was there, and can come back; lost: somebody deleted it there
    places         jsonb not null default '[]' check (jsonb_typeof(places) = 'array'), -- paths or addresses at which it is, or may be
    pictures       jsonb not null default '[]' check (jsonb_typeof(pictures) = 'array'), -- files of pictures that it uses, or may
    url            text not null default '', -- where readers find it; '': not known
    digest         bytea, -- of what was brought over last
    key            text not null default gen_random_uuid()::text, -- the same at each try to add it
    asked_at       timestamptz, -- since when it is not known whether it was added
    held           boolean not null default false, -- it is not tried again until somebody says so, or the post changes
    tries          integer not null default 0, -- that failed, one after another
    error          text not null default '',
    tried_at       timestamptz,
    next_at        timestamptz not null default 'epoch', -- not tried before
    leased_until   timestamptz, -- until when a worker is at it
    at             timestamptz, -- when it was brought over last
    primary key (destination_id, post_id),
    foreign key (site_id, destination_id) references destinations (site_id, id) on delete cascade
);
create index copies_due on copies (next_at) where wanted > done and not held;
create index copies_behind on copies (destination_id) where wanted > done;
create index copies_of_posts on copies (site_id, post_id);

-- Pictures that a destination has taken, by their names in addresses.
create table destination_pictures (
    destination_id bigint not null references destinations on delete cascade,
    key            text not null,
    url            text not null,
    primary key (destination_id, key)
);

-- What a blog's hub is to be told. Changes that follow at once are told together.
create table hub_tellings (
    site_id      bigint primary key references sites on delete cascade,
    wanted       bigint not null default 1,
    done         bigint not null default 0,
    tries        integer not null default 0,
    error        text not null default '',
    tried_at     timestamptz,
    told_at      timestamptz, -- when it was last told
    next_at      timestamptz not null default 'epoch',
    leased_until timestamptz
);
create index hub_tellings_due on hub_tellings (next_at) where wanted > done;

-- +goose StatementBegin
-- Marks the copies of posts as behind. With a post that is out and has no copy yet, it is given one.
create function mark_copies(posts bigint[]) returns void language plpgsql as $$
begin
    insert into public.copies (destination_id, site_id, post_id)
        select destinations.id, posts.site_id, posts.id from public.posts join public.destinations using (site_id)
        where posts.id = any($1) and posts.status in ('published', 'archived') and ending_at is null
            and (since is null or posts.first_published_at >= since)
        on conflict do nothing;
    update public.copies set wanted = wanted + 1, held = false, next_at = case when tries = 0 or held then 'epoch' else next_at end
        where (site_id, post_id) in (select site_id, id from public.posts where id = any($1));
end $$;

create function mark_changed_posts() returns trigger language plpgsql as $$
begin
    if exists (select from public.destinations) then
        perform public.mark_copies(array(
            select come.id from come where status in ('published', 'archived') or exists (select from public.copies where site_id = come.site_id and post_id = come.id)));
    end if;
    return null;
end $$;

create function mark_deleted_posts() returns trigger language plpgsql as $$
begin
    if exists (select from public.copies) then
        update public.copies set wanted = wanted + 1, held = false, next_at = 'epoch' from gone where copies.site_id = gone.site_id and copies.post_id = gone.id;
    end if;
    return null;
end $$;

create function mark_posts_of_names() returns trigger language plpgsql as $$
begin
    if exists (select from public.destinations) then
        if TG_TABLE_NAME = 'categories' then
            perform public.mark_copies(array(select posts.id from public.posts join come on posts.category_id = come.id where status in ('published', 'archived')));
        elsif TG_TABLE_NAME = 'tags' then
            perform public.mark_copies(array(select post_id from public.post_tags join come on tag_id = come.id));
        elsif TG_TABLE_NAME = 'post_tags' then
            perform public.mark_copies(array(select post_id from come));
        elsif TG_TABLE_NAME = 'old_slugs' then
            perform public.mark_copies(array(select post_id from come));
        elsif TG_TABLE_NAME = 'pictures' then -- another may have taken one's place
            perform public.mark_copies(array(select post_id from public.post_pictures join come on picture_id = come.id));
        end if;
    end if;
    return null;
end $$;

create function mark_posts_of_people() returns trigger language plpgsql as $$
begin
    if exists (select from public.destinations) then
        perform public.mark_copies(array(select posts.id from public.posts join come on author_id = come.id join gone on gone.id = come.id
            where come.name <> gone.name and status in ('published', 'archived')));
    end if;
    return null;
end $$;

create function mark_posts_of_sites() returns trigger language plpgsql as $$
begin
    if exists (select from public.destinations) then
        perform public.mark_copies(array(select posts.id from public.posts join come on posts.site_id = come.id join gone on gone.id = come.id
            where (come.slug, come.host, come.zone) <> (gone.slug, gone.host, gone.zone) and status in ('published', 'archived')));
    end if;
    return null;
end $$;

-- What readers of feeds see of posts has changed.
create function want_hub_told() returns trigger language plpgsql as $$
begin
    if exists (select from public.sites where hub <> '') then
        if TG_OP = 'INSERT' then
            insert into public.hub_tellings (site_id) select distinct come.site_id from come join public.sites on sites.id = come.site_id
                where hub <> '' and come.status = 'published' and come.kind = 'post'
                on conflict (site_id) do update set wanted = hub_tellings.wanted + 1;
        else
            insert into public.hub_tellings (site_id) select distinct come.site_id from come join gone on gone.id = come.id join public.sites on sites.id = come.site_id
                where hub <> '' and (come.status = 'published' or gone.status = 'published') and come.kind = 'post'
                    and (come.status, come.published_at, come.text_id, come.slug, come.category_id, come.featured_image, come.author_id) is distinct from
                        (gone.status, gone.published_at, gone.text_id, gone.slug, gone.category_id, gone.featured_image, gone.author_id)
                on conflict (site_id) do update set wanted = hub_tellings.wanted + 1;
        end if;
    end if;
    return null;
end $$;
-- +goose StatementEnd

create trigger copies_of_new_posts after insert on posts referencing new table as come for each statement execute function mark_changed_posts();
create trigger copies_of_posts after update on posts referencing new table as come for each statement execute function mark_changed_posts();
create trigger copies_of_deleted_posts after delete on posts referencing old table as gone for each statement execute function mark_deleted_posts();
create trigger copies_of_categories after update on categories referencing new table as come for each statement execute function mark_posts_of_names();
create trigger copies_of_tags after update on tags referencing new table as come for each statement execute function mark_posts_of_names();
create trigger copies_of_new_tags after insert on post_tags referencing new table as come for each statement execute function mark_posts_of_names();
create trigger copies_of_taken_tags after delete on post_tags referencing old table as come for each statement execute function mark_posts_of_names();
create trigger copies_of_old_slugs after insert on old_slugs referencing new table as come for each statement execute function mark_posts_of_names();
create trigger copies_of_pictures after update on pictures referencing new table as come for each statement execute function mark_posts_of_names();
create trigger copies_of_people after update on users referencing new table as come old table as gone for each statement execute function mark_posts_of_people();
create trigger copies_of_sites after update on sites referencing new table as come old table as gone for each statement execute function mark_posts_of_sites();
create trigger hubs_of_new_posts after insert on posts referencing new table as come for each statement execute function want_hub_told();
create trigger hubs_of_posts after update on posts referencing new table as come old table as gone for each statement execute function want_hub_told();
create trigger destinations_inserted after insert on destinations referencing new table as come for each statement execute function notify_plan();
create trigger destinations_updated after update on destinations referencing new table as come for each statement execute function notify_plan();
create trigger destinations_deleted after delete on destinations referencing old table as gone for each statement execute function notify_plan();


-- +goose Down
drop trigger hubs_of_posts on posts;
drop trigger hubs_of_new_posts on posts;
drop trigger copies_of_sites on sites;
drop trigger copies_of_people on users;
drop trigger copies_of_pictures on pictures;
drop trigger copies_of_old_slugs on old_slugs;
drop trigger copies_of_taken_tags on post_tags;
drop trigger copies_of_new_tags on post_tags;
drop trigger copies_of_tags on tags;
drop trigger copies_of_categories on categories;
drop trigger copies_of_deleted_posts on posts;
drop trigger copies_of_posts on posts;
drop trigger copies_of_new_posts on posts;
drop table hub_tellings, destination_pictures, copies, destinations;
drop function mark_copies, mark_changed_posts, mark_deleted_posts, mark_posts_of_names, mark_posts_of_people, mark_posts_of_sites, want_hub_told;
alter table sites drop column pages_on, drop column hub;
