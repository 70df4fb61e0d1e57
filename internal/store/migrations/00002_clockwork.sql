-- +goose Up

alter table sites
    add column version           integer not null default 1,
    add column catch_up          text not null default 'at once'
        check (catch_up in ('at once', 'at once if fresh', 'spread out', 'next slots', 'hold')),
    add column catch_up_minutes  integer not null default 720 check (catch_up_minutes between 1 and 525600),
    add column paused_at         timestamptz,
    add column shelf_order       text not null default 'hand'
        check (shelf_order in ('hand', 'oldest', 'newest', 'shuffled', 'categories')),
    add column shelf_seed        bigint not null default 1,
    add column cap_day           integer not null default 0 check (cap_day between 0 and 500), -- 0: none
    add column cap_author_day    integer not null default 0 check (cap_author_day between 0 and 500),
    add column cap_author_week   integer not null default 0 check (cap_author_week between 0 and 500),
    add column cap_category_days integer not null default 0 check (cap_category_days between 0 and 366);

alter table posts
    add column not_before timestamptz,
    add column deadline   timestamptz,
    -- What a catch-up choice held back: it waits for an editor.
    add column held       boolean not null default false,
    add constraint deadline_after_not_before check (deadline >= not_before),
    add constraint only_scheduled_are_held check (not held or status = 'scheduled');
drop index posts_due;
create index posts_due on posts (due_at, id) where status = 'scheduled' and not held;

alter table rhythms
    add column uneven boolean not null default false,
    add column starts date,
    add column ends   date,
    add constraint rhythm_ends_after_it_starts check (ends >= starts);

create table rest_days (
    site_id bigint not null references sites on delete cascade,
    date    date not null,
    primary key (site_id, date)
);

alter table openings
    add column every_weeks integer not null default 1 check (every_weeks between 1 and 52),
    add column anchor      date,
    add column zone        text, -- of the audience; null: the site's
    add constraint weeks_are_counted_from_an_anchor check (every_weeks = 1 or anchor is not null);

create table opening_lanes (
    site_id     bigint not null,
    rhythm_id   bigint not null,
    opening_key text not null,
    category_id bigint not null,
    primary key (rhythm_id, opening_key, category_id),
    foreign key (rhythm_id, opening_key) references openings (rhythm_id, key) on delete cascade,
    foreign key (site_id, category_id) references categories (site_id, id) on delete cascade
);

-- Lines that belong to one act (a placement of many posts) share a batch and are
-- undone together.
create sequence logbook_batch;
alter table logbook
    add column batch     bigint,
    add column undone_at timestamptz,
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'move', 'undo'));
create index logbook_by_batch on logbook (batch) where batch is not null;

-- Each running engine tells that it lives.
create table engines (
    name       text primary key,
    started_at timestamptz not null,
    beat_at    timestamptz not null
);

-- +goose StatementBegin
create function notify_site() returns trigger language plpgsql as $$
begin
    perform pg_notify('plan', new.id::text);
    return null;
end $$;
-- +goose StatementEnd
create trigger sites_updated after update on sites for each row execute function notify_site();

-- +goose Down

drop trigger sites_updated on sites;
drop function notify_site();
drop table engines, opening_lanes, rest_days;
alter table logbook drop column batch, drop column undone_at;
drop sequence logbook_batch;
alter table openings drop column every_weeks, drop column anchor, drop column zone;
alter table rhythms drop column uneven, drop column starts, drop column ends;
drop index posts_due;
create index posts_due on posts (due_at, id) where status = 'scheduled';
alter table posts drop column not_before, drop column deadline, drop column held;
alter table sites drop column version, drop column catch_up, drop column catch_up_minutes, drop column paused_at,
    drop column shelf_order, drop column shelf_seed, drop column cap_day, drop column cap_author_day,
    drop column cap_author_week, drop column cap_category_days;
