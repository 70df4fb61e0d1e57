-- +goose Up

alter table posts
    add column handed_in_at timestamptz, -- its contributor is done with it
    add column featured_alt text not null default '', -- what the featured image shows
    add column binned_at    timestamptz,
    add column binned_from  text check (binned_from in ('draft', 'scheduled', 'published', 'archived')),
    add constraint binned_is_whole check ((binned_at is not null) = (binned_from is not null)),
    add constraint pages_do_not_queue check (kind = 'post' or not cleared);
update posts set binned_at = updated_at, binned_from = case when published_at is null then 'draft' else 'published' end where status = 'binned';
alter table posts
    add constraint binned_knows_from_where check ((binned_at is not null) = (status = 'binned')),
    add constraint handed_in_is_a_draft check (handed_in_at is null or status = 'draft' and not cleared),
    -- Where a post stands, as lists show it.
    add column stage text not null generated always as (
        case when status = 'draft' and cleared then 'cleared'
             when status = 'draft' and handed_in_at is not null then 'handed in'
             when status = 'scheduled' and held then 'held'
             else status end) stored,
    -- When it came out, is due, or was begun.
    add column shown_at timestamptz not null generated always as (coalesce(published_at, due_at, created_at)) stored,
    add column search tsvector not null generated always as (
        setweight(to_tsvector('english', title), 'A') ||
        setweight(to_tsvector('english', left(excerpt, 10000)), 'B') ||
        setweight(to_tsvector('english', left(body, 200000)), 'C')) stored; -- a tsvector has at most 1 MB
create index posts_search on posts using gin (search);
create index posts_by_stage on posts (site_id, stage, updated_at desc, id desc);
create index posts_by_change on posts (site_id, updated_at desc, id desc);
create index posts_by_date on posts (site_id, shown_at desc, id desc);
create index posts_by_title on posts (site_id, lower(title), id);
create index posts_by_words on posts (site_id, words, id);

-- Addresses that a post had before; they lead on to it.
create table old_slugs (
    site_id bigint not null,
    slug    text not null check (slug <> ''),
    post_id bigint not null,
    primary key (site_id, slug),
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);
create index old_slugs_of_a_post on old_slugs (post_id);

-- Pictures, each made anew from what was brought, in several widths.
create table pictures (
    id         bigint generated always as identity primary key,
    site_id    bigint not null references sites on delete cascade,
    key        text not null unique check (key ~ '^[0-9a-z]{16}$'), -- in addresses; not to be guessed
    name       text not null, -- of the file that was brought
    alt        text not null default '',
    type       text not null check (type in ('jpg', 'png')),
    width      integer not null check (width > 0),
    height     integer not null check (height > 0),
    user_id    bigint references users on delete set null,
    created_at timestamptz not null,
    unique (site_id, id)
);
create index pictures_of_a_site on pictures (site_id, id desc);
create table picture_files (
    picture_id bigint not null references pictures on delete cascade,
    width      integer not null check (width > 0),
    data       bytea not null,
    primary key (picture_id, width)
);

-- Secret addresses at which a post is seen before it is out. Only hashes are kept.
create table preview_links (
    id         bigint generated always as identity primary key,
    site_id    bigint not null,
    post_id    bigint not null,
    hash       bytea not null unique check (length(hash) = 32),
    user_id    bigint not null references users on delete cascade,
    created_at timestamptz not null,
    expires_at timestamptz not null check (expires_at > created_at),
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);
create index preview_links_of_a_post on preview_links (post_id);

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address'));

-- +goose Down

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people')) not valid;
drop table preview_links, picture_files, pictures, old_slugs;
drop index posts_search, posts_by_stage, posts_by_change, posts_by_date, posts_by_title, posts_by_words;
alter table posts
    drop constraint handed_in_is_a_draft, drop constraint binned_knows_from_where, drop constraint binned_is_whole, drop constraint pages_do_not_queue,
    drop column search, drop column shown_at, drop column stage, drop column binned_from, drop column binned_at,
    drop column featured_alt, drop column handed_in_at;
