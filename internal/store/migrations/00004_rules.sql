-- +goose Up

-- What rules ask about a post, and what they do to it.
alter table posts
    add column kind               text not null default 'post' check (kind in ('post', 'page')),
    add column excerpt            text not null default '',
    add column fields             jsonb not null default '{}' check (jsonb_typeof(fields) = 'object'),
    add column on_top             boolean not null default false,
    add column comments_open      boolean not null default true,
    add column featured_image     text not null default '', -- its address; '' for none
    add column evergreen          boolean not null default false,
    add column import             text not null default '', -- the import that brought it
    add column changed_at         timestamptz, -- last change of the text; null: as created
    add column expires_at         timestamptz,
    add column never_expires      boolean not null default false,
    add column first_published_at timestamptz, -- kept when it comes out again
    add column republished_at     timestamptz, -- last time it did
    add column times_republished  integer not null default 0 check (times_republished >= 0),
    add column archived_at        timestamptz,
    add column notice             text not null default '', -- to readers of an archived post
    add column words              integer not null generated always as
        (coalesce(array_length(regexp_split_to_array(nullif(btrim(body, E' \n\r\t'), ''), '\s+'), 1), 0)) stored;
update posts set first_published_at = published_at, changed_at = updated_at;

alter table posts
    drop constraint posts_status_check,
    add constraint posts_status_check check (status in ('draft', 'scheduled', 'published', 'archived', 'binned')),
    drop constraint published_has_a_date,
    -- A post in the bin keeps the date it had.
    add constraint published_has_a_date check (status = 'binned' or (published_at is not null) = (status in ('published', 'archived'))),
    drop constraint public_has_an_address,
    add constraint public_has_an_address check (status in ('draft', 'binned') or slug <> ''),
    add constraint archived_has_a_date check (archived_at is null or status = 'archived' or status = 'binned');
create index posts_expiring on posts (site_id, expires_at) where status = 'published' and expires_at is not null and not never_expires;
create index posts_next_expiry on posts (expires_at) where status = 'published' and expires_at is not null and not never_expires;

alter table sites
    add column first_date_shown boolean not null default true; -- to readers of a post that came out again

create table clicks (
    site_id bigint not null,
    post_id bigint not null,
    date    date not null, -- of the site
    n       integer not null check (n >= 0),
    primary key (post_id, date),
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);

create table channels (
    id            bigint generated always as identity primary key,
    site_id       bigint not null references sites on delete cascade,
    kind          text not null check (kind <> ''), -- one of the networks that the program knows
    name          text not null check (name <> ''),
    address       text not null,
    token         text not null,
    apart_minutes integer not null check (apart_minutes between 1 and 2880),
    a_day         integer not null check (a_day between 0 and 1000), -- 0: no limit
    quiet_from    integer not null default 0 check (quiet_from between 0 and 1439),
    quiet_to      integer not null default 0 check (quiet_to between 0 and 1439), -- the same: none
    zone          text, -- null: the site's
    version       integer not null default 1,
    unique (site_id, id)
);

create table rules (
    id         bigint generated always as identity primary key,
    site_id    bigint not null references sites on delete cascade,
    kind       text not null check (kind in ('expire', 'republish', 'reshare')),
    name       text not null check (name <> ''),
    position   integer not null default 0,
    condition  jsonb not null,
    cadence    jsonb not null,
    settings   jsonb not null default '{}', -- what its kind has beside
    channel_id bigint,
    seed       bigint not null, -- the 64 bits of the seed, read as signed
    armed_at   timestamptz, -- its turns are counted from here; null: off
    served_at  timestamptz, -- its turns up to here are served
    held_at    timestamptz, -- it waits for an editor
    held_why   text not null default '',
    allowed    integer not null default 0 check (allowed >= 0), -- how large a catch was agreed to
    version    integer not null default 1,
    created_at timestamptz not null,
    updated_at timestamptz not null,
    unique (site_id, id),
    foreign key (site_id, channel_id) references channels (site_id, id),
    constraint only_shares_have_a_channel check ((kind = 'reshare') = (channel_id is not null)),
    constraint armed_is_served_from_somewhere check (armed_at is null or served_at is not null)
);
create index rules_of_a_site on rules (site_id, kind, position, id);

create table rule_exclusions (
    site_id bigint not null,
    rule_id bigint not null,
    post_id bigint not null,
    primary key (rule_id, post_id),
    foreign key (site_id, rule_id) references rules (site_id, id) on delete cascade,
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);

create table rule_runs (
    id      bigint generated always as identity primary key,
    site_id bigint not null,
    rule_id bigint not null,
    at      timestamptz not null,
    due     timestamptz not null,
    caught  integer not null check (caught >= 0),
    took    integer not null check (took >= 0),
    note    text not null default '', -- why it did nothing, asked or stopped
    batch   bigint, -- its lines of the logbook
    actor_id bigint references users, -- who ran it by hand; null: its turn
    foreign key (site_id, rule_id) references rules (site_id, id) on delete cascade
);
create index rule_runs_of_a_rule on rule_runs (rule_id, at desc, id desc);

create table outings (
    id         bigint generated always as identity primary key,
    site_id    bigint not null references sites on delete cascade,
    rule_id    bigint,
    channel_id bigint not null,
    post_id    bigint not null,
    at         timestamptz not null, -- when it was decided
    wording    integer not null,
    round      integer not null default 0,
    text       text not null,
    link       text not null,
    key        uuid not null unique default gen_random_uuid(), -- what the network knows it by
    state      text not null default 'waiting' check (state in ('waiting', 'sent', 'failed')),
    sent_at    timestamptz,
    remote_id  text not null default '',
    remote_url text not null default '',
    tries      integer not null default 0,
    error      text not null default '', -- what went wrong last
    clicks     integer not null default 0 check (clicks >= 0),
    foreign key (site_id, rule_id) references rules (site_id, id) on delete set null (rule_id),
    foreign key (site_id, channel_id) references channels (site_id, id) on delete cascade,
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade,
    constraint sent_has_a_time check ((sent_at is not null) = (state = 'sent'))
);
create index outings_of_a_rule on outings (rule_id, post_id);
create index outings_of_a_post on outings (post_id, channel_id);
create index outings_of_a_channel on outings (channel_id, at);
create index outings_of_a_site on outings (site_id, at);

create table republications (
    site_id bigint not null,
    rule_id bigint,
    post_id bigint not null,
    at      timestamptz not null,
    round   integer not null default 0,
    primary key (post_id, at),
    foreign key (site_id, rule_id) references rules (site_id, id) on delete set null (rule_id),
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);
create index republications_of_a_rule on republications (rule_id, post_id);

-- Short links count clicks and lead on to the post.
create table short_links (
    code    text primary key check (code ~ '^[0-9a-z]{6,16}$'),
    site_id bigint not null,
    post_id bigint not null,
    outing_id bigint references outings on delete cascade,
    query   text not null default '', -- parameters that are added to the address
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);

-- When the engine asks next what a site's rules are to do: when core said, or at once
-- where something changed. No line: nothing to ask.
create table asks (
    site_id bigint primary key references sites on delete cascade,
    at      timestamptz not null
);
create index asks_by_time on asks (at);

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery')),
    add column rule_id bigint,
    add foreign key (site_id, rule_id) references rules (site_id, id) on delete set null (rule_id);
create index logbook_by_rule on logbook (rule_id) where rule_id is not null;

-- Rules and channels belong to the plan too: whoever shows it hears of their changes.
create trigger rules_inserted after insert on rules
    referencing new table as come for each statement execute function notify_plan();
create trigger rules_updated after update on rules
    referencing new table as come for each statement execute function notify_plan();
create trigger rules_deleted after delete on rules
    referencing old table as gone for each statement execute function notify_plan();
create trigger outings_inserted after insert on outings
    referencing new table as come for each statement execute function notify_plan();
create trigger outings_updated after update on outings
    referencing new table as come for each statement execute function notify_plan();
create trigger channels_updated after update on channels
    referencing new table as come for each statement execute function notify_plan();
create trigger asks_inserted after insert on asks
    referencing new table as come for each statement execute function notify_plan();

-- +goose Down

drop trigger rules_inserted on rules;
drop trigger rules_updated on rules;
drop trigger rules_deleted on rules;
drop trigger outings_inserted on outings;
drop trigger outings_updated on outings;
drop trigger channels_updated on channels;
drop trigger asks_inserted on asks;
drop index logbook_by_rule;
alter table logbook
    drop column rule_id,
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'move', 'undo', 'close-up')) not valid;
drop table asks, short_links, republications, outings, rule_runs, rule_exclusions, rules, channels, clicks;
alter table sites drop column first_date_shown;
drop index posts_expiring, posts_next_expiry;
delete from posts where status = 'binned';
alter table posts
    drop constraint archived_has_a_date,
    drop constraint posts_status_check,
    add constraint posts_status_check check (status in ('draft', 'scheduled', 'published', 'archived')),
    drop constraint published_has_a_date,
    add constraint published_has_a_date check ((published_at is not null) = (status in ('published', 'archived'))),
    drop constraint public_has_an_address,
    add constraint public_has_an_address check (status = 'draft' or slug <> ''),
    drop column kind, drop column excerpt, drop column fields, drop column on_top, drop column comments_open,
    drop column featured_image, drop column evergreen, drop column import, drop column changed_at, drop column expires_at,
    drop column never_expires, drop column first_published_at, drop column republished_at, drop column times_republished,
    drop column archived_at, drop column notice, drop column words;
