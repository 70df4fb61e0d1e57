-- +goose Up

-- An outing may be planned by hand: it waits for its time with a text of its own, may go under
-- another one (a trailing reply) and bring pictures along. Where it came from is kept with it.
-- States: planned (waits for its time), waiting (on its way), sent, failed, skipped (left out).
alter table outings
    add column origin text not null default 'rule' check (origin in ('rule', 'hand', 'publication', 'tour')),
    add column parent_id bigint,
    add column pictures jsonb not null default '[]' check (jsonb_typeof(pictures) = 'array' and jsonb_array_length(pictures) <= 20),
    add column own_text text not null default '', -- of one that was planned: as it was written, with placeholders
    add column actor_id bigint references users on delete set null,
    add column version integer not null default 1,
    add column created_at timestamptz not null default now(),
    add unique (site_id, id),
    add foreign key (site_id, parent_id) references outings (site_id, id) on delete set null (parent_id),
    add constraint no_reply_to_itself check (parent_id <> id),
    drop constraint outings_state_check,
    add constraint outings_state_check check (state in ('planned', 'waiting', 'sent', 'failed', 'skipped'));
create index outings_planned on outings (site_id, at) where state = 'planned';
create index outings_replies on outings (parent_id) where parent_id is not null;
create trigger outings_deleted after delete on outings
    referencing old table as gone for each statement execute function notify_plan();

alter table short_links
    drop constraint short_links_outing_id_fkey,
    add foreign key (site_id, outing_id) references outings (site_id, id) on delete cascade;

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'skip', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing'));

-- +goose Down
delete from outings where state in ('planned', 'skipped');
delete from logbook where deed in ('skip', 'outing');
alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit'));
alter table short_links
    drop constraint short_links_site_id_outing_id_fkey,
    add foreign key (outing_id) references outings on delete cascade;
drop trigger outings_deleted on outings;
drop index outings_planned, outings_replies;
alter table outings
    drop constraint outings_state_check,
    add constraint outings_state_check check (state in ('waiting', 'sent', 'failed')),
    drop column origin, drop column parent_id, drop column pictures, drop column own_text, drop column actor_id, drop column version, drop column created_at,
    drop constraint outings_site_id_id_key;
