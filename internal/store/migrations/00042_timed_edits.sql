-- +goose Up

-- Prepared changes of posts, which replace what a post says at a time.
create table timed_edits (
    id         bigint generated always as identity primary key,
    site_id    bigint not null,
    post_id    bigint not null,
    user_id    bigint references users on delete set null, -- who prepared it
    base       jsonb not null check (jsonb_typeof(base) = 'object'),   -- what the post said when it was prepared
    wanted     jsonb not null check (jsonb_typeof(wanted) = 'object'), -- what it is to say
    due_at     timestamptz not null check (date_trunc('minute', due_at) = due_at),
    yearly     jsonb check (jsonb_typeof(yearly) = 'object'), -- it comes again each year on that date; null: once
    state      text not null default 'waiting' check (state in ('waiting', 'held', 'applied', 'dropped')),
    held_why   text not null default '',
    created_at timestamptz not null,
    updated_at timestamptz not null,
    applied_at timestamptz, -- last time
    version    integer not null default 1,
    unique (site_id, id),
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade,
    check ((held_why <> '') = (state = 'held'))
);
create index timed_edits_waiting on timed_edits (site_id, due_at, id) where state = 'waiting';
create index timed_edits_held on timed_edits (site_id) where state = 'held';
create index timed_edits_of_a_post on timed_edits (post_id, due_at);

-- A secret link may show what an edit makes of its post.
alter table preview_links add column edit_id bigint, add foreign key (site_id, edit_id) references timed_edits (site_id, id) on delete cascade;

-- What editors call a version, and why there is one, where nobody wrote it by hand.
alter table texts add column name text not null default '' check (length(name) <= 100), add column why text not null default '';

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'plan', 'skip', 'set aside', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing', 'comments', 'announce', 'import', 'timed edit', 'hold edit', 'prepare', 'text'));

-- +goose StatementBegin
create trigger changes_inserted after insert on timed_edits referencing new table as come for each statement execute function note_change();
create trigger changes_updated after update on timed_edits referencing new table as come for each statement execute function note_change();
create trigger changes_deleted after delete on timed_edits referencing old table as come for each statement execute function note_change();
create trigger timed_edits_inserted after insert on timed_edits referencing new table as come for each statement execute function notify_plan();
create trigger timed_edits_updated after update on timed_edits referencing new table as come for each statement execute function notify_plan();
create trigger timed_edits_deleted after delete on timed_edits referencing old table as gone for each statement execute function notify_plan();
-- +goose StatementEnd

-- +goose Down
delete from logbook where deed in ('timed edit', 'hold edit', 'prepare', 'text');
alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'plan', 'skip', 'set aside', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing', 'comments', 'announce', 'import'));
alter table texts drop column why, drop column name;
alter table preview_links drop column edit_id;
drop table timed_edits;
