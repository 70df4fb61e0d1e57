-- +goose Up

-- Link items: a title and a link that rules share, without a page of their own. They are neither drafts nor out: what asks for posts
-- that are out never finds them.
alter table posts
    add column link text not null default '',
    drop constraint posts_kind_check, add constraint posts_kind_check check (kind in ('post', 'page', 'link')),
    drop constraint posts_status_check,
    add constraint posts_status_check check (status in ('draft', 'scheduled', 'published', 'archived', 'binned', 'linked')),
    drop constraint posts_binned_from_check,
    add constraint posts_binned_from_check check (binned_from in ('draft', 'scheduled', 'published', 'archived', 'linked')),
    drop constraint published_has_a_date,
    add constraint published_has_a_date check (status = 'binned' or (published_at is not null) = (status in ('published', 'archived', 'linked'))),
    drop constraint public_has_an_address,
    add constraint public_has_an_address check (status in ('draft', 'binned', 'linked') or slug <> ''),
    add constraint link_items_have_a_link check ((kind = 'link') = (link <> '')),
    add constraint link_items_have_no_plan check (case kind when 'link' then status in ('linked', 'binned') else status <> 'linked' end);
alter table feeds drop constraint feeds_becomes_check, add constraint feeds_becomes_check check (becomes in ('posts', 'messages', 'links'));

-- +goose Down
update feeds set becomes = 'posts' where becomes = 'links';
alter table feeds drop constraint feeds_becomes_check, add constraint feeds_becomes_check check (becomes in ('posts', 'messages'));
delete from posts where kind = 'link';
alter table posts
    drop constraint link_items_have_no_plan, drop constraint link_items_have_a_link,
    drop constraint public_has_an_address,
    add constraint public_has_an_address check (status in ('draft', 'binned') or slug <> ''),
    drop constraint published_has_a_date,
    add constraint published_has_a_date check (status = 'binned' or (published_at is not null) = (status in ('published', 'archived'))),
    drop constraint posts_status_check,
    add constraint posts_status_check check (status in ('draft', 'scheduled', 'published', 'archived', 'binned')),
    drop constraint posts_binned_from_check,
    add constraint posts_binned_from_check check (binned_from in ('draft', 'scheduled', 'published', 'archived')),
    drop constraint posts_kind_check, add constraint posts_kind_check check (kind in ('post', 'page')),
    drop column link;
