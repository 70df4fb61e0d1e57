-- +goose Up

-- What readers get of an archived post: as the rule said that archived it, or as the post itself says (own_).
alter table posts
    add column answer       text not null default '' check (answer in ('', 'redirect', 'gone')),
    add column leads_to     bigint,
    add column own_answer   text check (own_answer in ('page', 'redirect', 'gone')), -- null: as the rule says
    add column own_leads_to bigint,
    add column kept_until   timestamptz, -- no rule takes it away before
    add foreign key (site_id, leads_to) references posts (site_id, id) on delete set null (leads_to),
    add foreign key (site_id, own_leads_to) references posts (site_id, id) on delete set null (own_leads_to);
create index posts_led_to on posts (site_id, leads_to) where leads_to is not null;
create index posts_led_to_by_choice on posts (site_id, own_leads_to) where own_leads_to is not null;
create index posts_binned on posts (site_id, binned_at, id) where status = 'binned';

-- After how many days posts in the bin are deleted for good, and for how many days the logbook is kept; 0: for ever.
alter table sites
    add column bin_days integer not null default 0 check (bin_days between 0 and 3650),
    add column log_days integer not null default 0 check (log_days = 0 or log_days between 30 and 36500);

-- What people were told of before a rule acts on a post: that it is about to expire, or that it should be read before it comes out again.
create table rule_notices (
    site_id bigint not null,
    rule_id bigint not null,
    post_id bigint not null,
    at      timestamptz not null, -- last time
    due_on  timestamptz not null, -- not before
    read_at timestamptz,          -- somebody looked through the post and said that it may come out
    read_by bigint references users on delete set null,
    primary key (rule_id, post_id),
    foreign key (site_id, rule_id) references rules (site_id, id) on delete cascade,
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);
create index rule_notices_of_a_site on rule_notices (site_id, due_on);
create index rule_notices_of_a_post on rule_notices (post_id);

-- What was sent of a post that is deleted stays.
-- +goose StatementBegin
do $$
declare name text;
begin
    select conname into strict name from pg_constraint
    where conrelid = 'outings'::regclass and contype = 'f' and confrelid = 'posts'::regclass;
    execute format('alter table outings drop constraint %I', name);
end $$;
-- +goose StatementEnd
alter table outings add constraint outings_of_a_post foreign key (site_id, post_id) references posts (site_id, id) on delete set null (post_id);

alter table logbook
    add column gone_title text not null default '', -- of a post that was deleted since
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'plan', 'skip', 'set aside', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing', 'comments', 'announce', 'import', 'timed edit', 'hold edit', 'prepare', 'text',
        'refile', 'add tag', 'put notice', 'close comments', 'warn', 'ask to read'));

-- +goose StatementBegin
create trigger changes_inserted after insert on rule_notices referencing new table as come for each statement execute function note_change();
create trigger changes_updated after update on rule_notices referencing new table as come for each statement execute function note_change();
create trigger changes_deleted after delete on rule_notices referencing old table as come for each statement execute function note_change();
create trigger rule_notices_inserted after insert on rule_notices referencing new table as come for each statement execute function notify_plan();
create trigger rule_notices_updated after update on rule_notices referencing new table as come for each statement execute function notify_plan();
create trigger rule_notices_deleted after delete on rule_notices referencing old table as gone for each statement execute function notify_plan();
-- +goose StatementEnd

-- +goose Down
delete from logbook where deed in ('refile', 'add tag', 'put notice', 'close comments', 'warn', 'ask to read');
alter table logbook
    drop column gone_title,
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'plan', 'skip', 'set aside', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing', 'comments', 'announce', 'import', 'timed edit', 'hold edit', 'prepare', 'text'));
alter table outings drop constraint outings_of_a_post;
alter table outings add constraint outings_of_a_post foreign key (site_id, post_id) references posts (site_id, id) on delete cascade;
drop table rule_notices;
alter table sites drop column log_days, drop column bin_days;
drop index posts_binned;
alter table posts drop column kept_until, drop column own_leads_to, drop column own_answer, drop column leads_to, drop column answer;
