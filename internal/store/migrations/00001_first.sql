-- +goose Up

create table sites (
    id         bigint generated always as identity primary key,
    slug       text not null unique check (slug ~ '^[a-z0-9]+(-[a-z0-9]+)*$'),
    title      text not null check (title <> ''),
    tagline    text not null default '',
    zone       text not null check (zone <> ''),
    created_at timestamptz not null
);

create table users (
    id            bigint generated always as identity primary key,
    email         text not null check (position('@' in email) > 1),
    name          text not null check (name <> ''),
    password_hash text not null,
    created_at    timestamptz not null
);
create unique index users_email on users (lower(email));

create table memberships (
    site_id bigint not null references sites on delete cascade,
    user_id bigint not null references users on delete cascade,
    role    text not null check (role in ('owner', 'editor', 'contributor')),
    primary key (site_id, user_id)
);
create index memberships_user on memberships (user_id);

create table categories (
    id       bigint generated always as identity primary key,
    site_id  bigint not null references sites on delete cascade,
    slug     text not null check (slug <> ''),
    name     text not null check (name <> ''),
    position integer not null default 0,
    unique (site_id, slug),
    unique (site_id, id)
);

create table tags (
    id      bigint generated always as identity primary key,
    site_id bigint not null references sites on delete cascade,
    slug    text not null check (slug <> ''),
    name    text not null check (name <> ''),
    unique (site_id, slug),
    unique (site_id, id)
);

create table rhythms (
    id          bigint generated always as identity primary key,
    site_id     bigint not null references sites on delete cascade,
    name        text not null check (name <> ''),
    gap_minutes integer not null check (gap_minutes between 1 and 10080),
    seed        bigint not null, -- the 64 bits of the seed, read as signed
    version     integer not null default 1,
    updated_at  timestamptz not null,
    unique (site_id, id)
);
create unique index rhythms_one_a_site on rhythms (site_id);

create table openings (
    site_id     bigint not null,
    rhythm_id   bigint not null,
    key         text not null check (length(key) between 1 and 40),
    position    integer not null,
    weekdays    smallint not null check (weekdays between 1 and 127), -- bit 0 is Sunday
    from_minute integer not null check (from_minute between 0 and 1439),
    to_minute   integer check (to_minute > from_minute and to_minute <= 2880), -- null: a fixed time
    count       integer not null check (count between 1 and 500),
    sway        integer not null default 0 check (sway between 0 and 720),
    primary key (rhythm_id, key),
    foreign key (site_id, rhythm_id) references rhythms (site_id, id) on delete cascade,
    check (case when to_minute is null then count = 1 else sway = 0 end)
);

create table posts (
    id           bigint generated always as identity primary key,
    site_id      bigint not null references sites on delete cascade,
    author_id    bigint not null references users,
    category_id  bigint,
    title        text not null default '',
    slug         text not null default '',
    body         text not null default '',
    status       text not null default 'draft' check (status in ('draft', 'scheduled', 'published', 'archived')),
    cleared      boolean not null default false,
    shelf_rank   bigint, -- place on the shelf, ascending; of cleared drafts only
    due_at       timestamptz,
    pinned       boolean not null default false,
    rhythm_id    bigint,
    slot_date    date,
    slot_opening text,
    slot_ordinal integer,
    published_at timestamptz,
    version      integer not null default 1,
    created_at   timestamptz not null,
    updated_at   timestamptz not null,
    unique (site_id, id),
    foreign key (site_id, category_id) references categories (site_id, id),
    foreign key (site_id, rhythm_id) references rhythms (site_id, id) on delete set null (rhythm_id),
    constraint only_drafts_are_cleared check (not cleared or status = 'draft'),
    constraint shelf_rank_of_cleared check ((shelf_rank is not null) = cleared),
    constraint scheduled_has_a_time check ((due_at is not null) = (status = 'scheduled')),
    constraint published_has_a_date check ((published_at is not null) = (status in ('published', 'archived'))),
    constraint public_has_an_address check (status = 'draft' or slug <> ''),
    constraint slot_is_whole check (
        (slot_date is null) = (slot_opening is null) and (slot_date is null) = (slot_ordinal is null)),
    constraint pinned_has_no_slot check (not pinned or slot_date is null)
);
create unique index posts_slug on posts (site_id, slug) where slug <> '';
create unique index posts_one_a_slot on posts (rhythm_id, slot_date, slot_opening, slot_ordinal) where slot_date is not null;
create index posts_due on posts (due_at, id) where status = 'scheduled';
create index posts_plan on posts (site_id, due_at) where status = 'scheduled';
create index posts_out on posts (site_id, published_at desc, id desc) where status = 'published';
create index posts_shelf on posts (site_id, shelf_rank) where cleared;
create index posts_drafts on posts (site_id, updated_at desc) where status = 'draft';

create table post_tags (
    site_id bigint not null,
    post_id bigint not null,
    tag_id  bigint not null,
    primary key (post_id, tag_id),
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade,
    foreign key (site_id, tag_id) references tags (site_id, id) on delete cascade
);
create index post_tags_tag on post_tags (tag_id);

create table logbook (
    id       bigint generated always as identity primary key,
    site_id  bigint not null references sites on delete cascade,
    at       timestamptz not null,
    actor_id bigint references users, -- null: the engine
    deed     text not null check (deed in ('publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm')),
    post_id  bigint,
    reason   text not null,
    before   jsonb, -- what the deed changed, for undoing it
    after    jsonb,
    foreign key (site_id, post_id) references posts (site_id, id) on delete set null (post_id)
);
create index logbook_site on logbook (site_id, at desc, id desc);
create index logbook_post on logbook (post_id);

-- The table that scs keeps its sessions in.
create table sessions (
    token  text primary key,
    data   bytea not null,
    expiry timestamptz not null
);
create index sessions_expiry on sessions (expiry);

-- Whoever waits for changes of a site's plan listens on the channel "plan"; the
-- payload is the site's id. Equal payloads of one transaction are sent once.
-- +goose StatementBegin
create function notify_plan() returns trigger language plpgsql as $$
begin
    if TG_OP = 'DELETE' then
        perform pg_notify('plan', site_id::text) from (select distinct site_id from gone) s;
    else
        perform pg_notify('plan', site_id::text) from (select distinct site_id from come) s;
    end if;
    return null;
end $$;
-- +goose StatementEnd

create trigger posts_inserted after insert on posts
    referencing new table as come for each statement execute function notify_plan();
create trigger posts_updated after update on posts
    referencing new table as come for each statement execute function notify_plan();
create trigger posts_deleted after delete on posts
    referencing old table as gone for each statement execute function notify_plan();
create trigger rhythms_inserted after insert on rhythms
    referencing new table as come for each statement execute function notify_plan();
create trigger rhythms_updated after update on rhythms
    referencing new table as come for each statement execute function notify_plan();

-- +goose Down

drop table logbook, post_tags, posts, openings, rhythms, tags, categories, memberships, users, sites, sessions;
drop function notify_plan();
