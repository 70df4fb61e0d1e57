-- +goose Up

-- A rule speaks on as many channels as it likes: they stand in its settings, in their order.
update rules set settings = settings || jsonb_build_object('channels', jsonb_build_array(channel_id)) where channel_id is not null;
alter table rules
    drop constraint only_shares_have_a_channel,
    drop column channel_id,
    add column spoke_on bigint, -- of a rule whose channels take turns: which was last
    add column owed_on jsonb not null default '[]' check (jsonb_typeof(owed_on) = 'array'); -- the channels that refused the turn that is owed

-- The posts that were picked by hand, of rules that share only those.
create table rule_picks (
    site_id bigint not null,
    rule_id bigint not null,
    post_id bigint not null,
    primary key (rule_id, post_id),
    foreign key (site_id, rule_id) references rules (site_id, id) on delete cascade,
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);

-- An outing may be of no post: of a page elsewhere, or of nothing. It may stand for a turn of a
-- rule that an editor took in hand, wait for a minute of its channel, and be followed by a reply.
-- State: set aside (its time passed, and an editor says what becomes of it).
alter table outings
    alter column post_id drop not null,
    add column item jsonb not null default '{}' check (jsonb_typeof(item) = 'object'), -- title and link, of no post
    add column turn timestamptz,
    add column unplaced boolean not null default false, -- its time is only wished for
    add column extras jsonb not null default '{}' check (jsonb_typeof(extras) = 'object'),
    add column reply_after integer not null default 0 check (reply_after between 0 and 10080), -- minutes
    add column reply_text text not null default '', -- '': nothing follows
    drop constraint outings_state_check,
    add constraint outings_state_check check (state in ('planned', 'waiting', 'sent', 'failed', 'skipped', 'set aside'));
create index outings_of_turns on outings (rule_id, turn) where turn is not null;
create index outings_on_their_way on outings (at) where state = 'waiting';
create index outings_set_aside on outings (site_id, at) where state = 'set aside';

-- What is shared when a post comes out: by the blog, or by a post that has its own say.
create table announcements (
    id            bigint generated always as identity primary key,
    site_id       bigint not null references sites on delete cascade,
    post_id       bigint,
    channel_id    bigint not null,
    after_minutes integer not null check (after_minutes between 0 and 43200),
    text          text not null check (text <> ''),
    extras        jsonb not null default '{}' check (jsonb_typeof(extras) = 'object'),
    reply_after   integer not null default 0 check (reply_after between 0 and 10080),
    reply_text    text not null default '',
    foreign key (site_id, channel_id) references channels (site_id, id) on delete cascade,
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);
create index announcements_of_a_site on announcements (site_id, post_id, id);
alter table posts
    add column announces text not null default 'site' check (announces in ('site', 'own')),
    add column wordings jsonb not null default '[]' check (jsonb_typeof(wordings) = 'array');

-- Named lists of words and sentences, for alternatives in wordings.
create table word_lists (
    site_id bigint not null references sites on delete cascade,
    name    text not null check (name <> ''),
    entries jsonb not null check (jsonb_typeof(entries) = 'array'),
    version integer not null default 1,
    primary key (site_id, name)
);

-- A short link is one outing's; it leads to a post, or elsewhere.
alter table short_links
    alter column post_id drop not null,
    add column url text not null default '',
    add constraint leads_somewhere check ((post_id is null) = (url <> ''));

-- What is said of every message of a channel, and whether it speaks at all.
alter table channels
    add column habits jsonb not null default '{}' check (jsonb_typeof(habits) = 'object'),
    add column paused_at timestamptz,
    add column sign_in_why text not null default '', -- why it wants signing in again; '': it does not
    add column rests_until timestamptz, -- its network asked to be left alone
    add column handle text not null default '', -- who it is there
    add column refresh_token text not null default '',
    add column token_ends timestamptz; -- null: never

-- Sign-ins at networks that somebody has begun.
create table connections (
    state      bytea primary key, -- a hash
    site_id    bigint not null references sites on delete cascade,
    user_id    bigint not null references users on delete cascade,
    channel_id bigint,
    kind       text not null,
    address    text not null,
    verifier   text not null, -- sealed
    created_at timestamptz not null,
    foreign key (site_id, channel_id) references channels (site_id, id) on delete cascade
);

create trigger announcements_inserted after insert on announcements
    referencing new table as come for each statement execute function notify_plan();
create trigger announcements_updated after update on announcements
    referencing new table as come for each statement execute function notify_plan();
create trigger announcements_deleted after delete on announcements
    referencing old table as gone for each statement execute function notify_plan();
create trigger word_lists_inserted after insert on word_lists
    referencing new table as come for each statement execute function notify_plan();
create trigger word_lists_updated after update on word_lists
    referencing new table as come for each statement execute function notify_plan();
create trigger word_lists_deleted after delete on word_lists
    referencing old table as gone for each statement execute function notify_plan();
create trigger channels_inserted after insert on channels
    referencing new table as come for each statement execute function notify_plan();
create trigger channels_deleted after delete on channels
    referencing old table as gone for each statement execute function notify_plan();

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'plan', 'skip', 'set aside', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing', 'comments', 'announce'));

-- +goose Down
delete from logbook where deed in ('plan', 'set aside', 'announce') or undoes in (select id from logbook where deed in ('plan', 'set aside', 'announce'));
alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'skip', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing', 'comments'));
drop trigger channels_inserted on channels;
drop trigger channels_deleted on channels;
alter table channels drop column habits, drop column paused_at, drop column sign_in_why, drop column rests_until, drop column handle,
    drop column refresh_token, drop column token_ends;
delete from short_links where post_id is null;
alter table short_links drop constraint leads_somewhere, drop column url, alter column post_id set not null;
drop table word_lists, announcements, connections;
alter table posts drop column announces, drop column wordings;
delete from outings where post_id is null or state = 'set aside';
drop index outings_of_turns, outings_on_their_way, outings_set_aside;
alter table outings
    drop constraint outings_state_check,
    add constraint outings_state_check check (state in ('planned', 'waiting', 'sent', 'failed', 'skipped')),
    drop column item, drop column turn, drop column unplaced, drop column extras, drop column reply_after, drop column reply_text,
    alter column post_id set not null;
drop table rule_picks;
alter table rules add column channel_id bigint, drop column spoke_on, drop column owed_on,
    add foreign key (site_id, channel_id) references channels (site_id, id);
update rules set channel_id = (settings->'channels'->>0)::bigint where kind = 'reshare';
alter table rules add constraint only_shares_have_a_channel check ((kind = 'reshare') = (channel_id is not null));
update rules set settings = settings - 'channels';
