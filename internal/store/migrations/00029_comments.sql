-- +goose Up

-- What the site has chosen for readers' comments; none are taken until somebody opens them.
alter table sites
    add column comments_open boolean not null default false,
    add column comments_days integer not null default 0 check (comments_days between 0 and 3650),
    add column comments_hold text not null default 'all' check (comments_hold in ('all', 'unknown')),
    add column comments_links integer not null default 2 check (comments_links between 0 and 20);

create table comments (
    id         bigint generated always as identity primary key,
    site_id    bigint not null,
    post_id    bigint not null,
    answers_id bigint, -- the comment that it answers
    user_id    bigint references users on delete set null, -- somebody of the site who answers
    name       text not null check (name <> ''),
    text       text not null check (text <> ''),
    reader     bytea check (length(reader) = 32), -- a hash of the secret in the reader's browser
    status     text not null check (status in ('held', 'shown', 'binned')),
    at         timestamptz not null,
    binned_at  timestamptz,
    check ((status = 'binned') = (binned_at is not null)),
    unique (site_id, id),
    unique (post_id, id),
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade,
    foreign key (post_id, answers_id) references comments (post_id, id) on delete cascade
);
create index comments_of_a_site on comments (site_id, status, id desc);
create index comments_of_a_post on comments (post_id, status, id desc);
create index comments_answers on comments (post_id, answers_id) where answers_id is not null;
create index comments_of_a_reader on comments (site_id, reader) where status = 'shown' and reader is not null;
create index comments_of_a_member on comments (user_id) where user_id is not null;
create index comments_in_the_bin on comments (binned_at) where binned_at is not null;

-- How many of a post's comments readers see.
create table comment_counts (
    post_id bigint primary key references posts on delete cascade,
    n       integer not null check (n >= 0)
);

-- +goose StatementBegin
create function count_comments() returns trigger language plpgsql as $$
declare
    was integer := 0;
    is_now integer := 0;
begin
    if TG_OP <> 'INSERT' then was := (old.status = 'shown')::int; end if;
    if TG_OP <> 'DELETE' then is_now := (new.status = 'shown')::int; end if;
    if was <> is_now and TG_OP = 'DELETE' then
        update comment_counts set n = n - 1 where post_id = old.post_id; -- there is none where the post goes, too
    elsif was <> is_now then
        insert into comment_counts (post_id, n) values (new.post_id, is_now)
            on conflict (post_id) do update set n = comment_counts.n + is_now - was;
    end if;
    return null;
end $$;

create function notify_comments() returns trigger language plpgsql as $$
begin
    perform pg_notify('plan', json_build_object('site', site_id, 'of', 'comments')::text) from (select distinct site_id from come) s;
    return null;
end $$;
-- +goose StatementEnd
create trigger comments_counted after insert or update of status or delete on comments for each row execute function count_comments();
create trigger comments_come after insert on comments referencing new table as come for each statement execute function notify_comments();
create trigger comments_changed after update on comments referencing new table as come for each statement execute function notify_comments();

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'skip', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing', 'comments'));

-- +goose Down
delete from logbook where deed = 'comments' or undoes in (select id from logbook where deed = 'comments');
alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'skip', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing'));
drop table comment_counts, comments;
drop function count_comments, notify_comments;
alter table sites drop column comments_open, drop column comments_days, drop column comments_hold, drop column comments_links;
