-- +goose Up

-- What is brought in: files, what they become, and what became of them. Each line of a source is landed once, and the import goes
-- on after the last that is.
create table imports (
    id         bigint generated always as identity primary key,
    site_id    bigint not null references sites on delete cascade,
    user_id    bigint not null references users,
    source     text not null check (source <> ''), -- its lines are known again by their keys within it
    kind       text not null default '' check (kind in ('', 'articles', 'sheet', 'feed')), -- '' until its files have been looked at
    state      text not null default 'collecting' check (state in ('collecting', 'reading', 'proposed', 'landing', 'paused', 'done', 'cancelled', 'failed', 'undoing', 'undone')),
    paused_in  text not null default '' check (paused_in in ('', 'reading', 'landing')), -- what goes on when it is resumed
    setup      jsonb not null default '{}' check (jsonb_typeof(setup) = 'object'),
    problem    text not null default '', -- why it is paused or failed, a sentence
    read       integer not null default 0, -- lines that were read
    total      integer not null default 0, -- lines that there are to read; 0: not known
    left_files jsonb not null default '[]',
    act_id     bigint references acts on delete set null,
    portion    integer not null default 0, -- lines of the present portion that are still to land
    trigger    bytea unique, -- of the secret by which the next portion is asked for from outside
    next_at    timestamptz, -- not before then it goes on; null: at once
    spent      double precision not null default 0, -- seconds it has run since it was begun or resumed
    version    integer not null default 1,
    created_at timestamptz not null,
    begun_at   timestamptz, -- when it was committed
    ended_at   timestamptz,
    unique (site_id, id)
);
create index imports_of_a_site on imports (site_id, id desc);
create index imports_at_work on imports (next_at) where state in ('reading', 'landing', 'undoing');

create table import_files (
    id        bigint generated always as identity primary key,
    import_id bigint not null references imports on delete cascade,
    path      text not null check (path <> ''),
    size      bigint not null default 0,
    whole     boolean not null default false, -- it arrived to its end
    unique (import_id, path)
);
create table import_chunks (
    file_id bigint not null references import_files on delete cascade,
    nr      integer not null,
    data    bytea not null,
    primary key (file_id, nr)
);
alter table import_chunks alter column data set storage external; -- most of it is packed already

create table import_lines (
    import_id    bigint not null references imports on delete cascade,
    nr           integer not null, -- from 1, in the order of the source
    rank         bigint not null,  -- in whose order they land
    key          text not null,
    place        text not null default '',
    state        text not null check (state in ('ready', 'update', 'left', 'same', 'clash', 'landed', 'updated', 'undone', 'kept')),
    title        text not null default '',
    reason       text not null default '',
    notes        jsonb not null default '[]',
    post         jsonb, -- what it becomes; null once it has landed
    at           timestamptz, -- its time, by the placement
    rhythm_id    bigint,
    slot_date    date,
    slot_opening text,
    slot_ordinal integer,
    post_id      bigint,
    primary key (import_id, nr)
);
create index import_lines_to_land on import_lines (import_id, rank, nr) where state in ('ready', 'update');
create index import_lines_by_key on import_lines (import_id, key);
create index import_lines_by_state on import_lines (import_id, state, nr);

create table import_pictures (
    import_id  bigint not null references imports on delete cascade,
    path       text not null,
    picture_id bigint not null references pictures on delete cascade,
    primary key (import_id, path)
);
create index import_pictures_of_pictures on import_pictures (picture_id);

-- Which post came of which line of a source, and the text that it had then.
create table import_posts (
    site_id bigint not null,
    source  text not null,
    key     text not null,
    post_id bigint not null,
    text_id bigint not null, -- while this is the live one, nobody has changed it since
    digest  bytea not null,  -- of what the line said
    place   text not null default '',
    primary key (site_id, source, key),
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);
create index import_posts_of_posts on import_posts (site_id, post_id);

-- Feeds whose new items are brought in, and the items that were seen.
create table feeds (
    id         bigint generated always as identity primary key,
    site_id    bigint not null references sites on delete cascade,
    user_id    bigint not null references users, -- who added it; its posts are theirs
    name       text not null check (name <> ''),
    address    text not null,
    minutes    integer not null check (minutes between 5 and 43200), -- from one look to the next
    existing   boolean not null, -- items that were there at the first look come too
    becomes    text not null check (becomes in ('posts', 'messages')),
    setup      jsonb not null default '{}' check (jsonb_typeof(setup) = 'object'),
    paused     boolean not null default false,
    etag       text not null default '',
    modified   text not null default '',
    looked_at  timestamptz, -- null: never
    next_at    timestamptz not null,
    failing    integer not null default 0, -- looks that failed one after another
    problem    text not null default '',
    version    integer not null default 1,
    created_at timestamptz not null,
    unique (site_id, id),
    unique (site_id, name)
);
create index feeds_due on feeds (next_at) where not paused;
create table feed_items (
    feed_id bigint not null references feeds on delete cascade,
    key     text not null,
    primary key (feed_id, key)
);

-- For how many days the logs of imports are kept that are over.
alter table sites add column import_days integer not null default 90 check (import_days between 1 and 3660);

-- Setups that are kept by name.
create table import_recipes (
    site_id bigint not null references sites on delete cascade,
    name    text not null check (name <> ''),
    setup   jsonb not null check (jsonb_typeof(setup) = 'object'),
    at      timestamptz not null,
    primary key (site_id, name)
);

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'plan', 'skip', 'set aside', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing', 'comments', 'announce', 'import'));

-- +goose StatementBegin
-- All tables but those that nothing foretold depends on.
create or replace procedure watch_for_changes() language plpgsql as $$
declare one record; teller text; before text;
begin
    for one in select c.oid, c.relname as name, exists (select from pg_attribute where attrelid = c.oid and attname = 'site_id' and not attisdropped) as of_site
        from pg_class c where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' and c.relname not like 'river%' and c.relname not in (
            'goose_db_version', 'site_changes', 'logbook', 'acts', 'sessions', 'engines', 'sign_ins', 'tokens', 'invitations', 'link_secrets', 'tries', 'picture_files', 'preview_links',
            'calendar_feeds', 'lenses', 'post_html', 'known_browsers', 'post_search', 'setup', 'comments', 'connections', 'prepared', 'prepared_openings', 'webhooks',
            'hook_deliveries', 'asks', 'old_slugs', 'old_site_slugs', 'old_category_slugs', 'old_tag_slugs', 'subscribers', 'mailings',
            'imports', 'import_files', 'import_chunks', 'import_lines', 'import_pictures', 'import_posts', 'import_recipes', 'feeds', 'feed_items')
            and not exists (select from pg_trigger where tgrelid = c.oid and tgname = 'changes_inserted')
    loop
        teller := case
            when one.name = 'posts' then 'note_posts'
            when one.name = 'sites' then 'note_site'
            when one.name = 'users' then 'note_user'
            when one.name in ('tags', 'categories') then 'note_change_of_names'
            when one.name in ('texts', 'post_tags', 'outings') then 'note_change_of_post'
            when one.name in ('post_pictures', 'comment_counts') then 'note_change_beside_post'
            when one.of_site then 'note_change'
            else 'note_change_of_all' end;
        before := case when one.name in ('sites', 'users') then 'old table as gone' else '' end;
        if one.name = 'users' then -- nothing is known of who has written nothing
            execute format('create trigger changes_inserted after update on users referencing old table as gone new table as come for each statement execute function %I()', teller);
            continue;
        end if;
        execute format('create trigger changes_inserted after insert on %I referencing new table as come for each statement execute function %I()', one.name, teller);
        execute format('create trigger changes_updated after update on %I referencing %s new table as come for each statement execute function %I()', one.name, before, teller);
        execute format('create trigger changes_deleted after delete on %I referencing old table as come for each statement execute function %I()', one.name, teller);
    end loop;
end $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
-- All tables but those that nothing foretold depends on.
create or replace procedure watch_for_changes() language plpgsql as $$
declare one record; teller text; before text;
begin
    for one in select c.oid, c.relname as name, exists (select from pg_attribute where attrelid = c.oid and attname = 'site_id' and not attisdropped) as of_site
        from pg_class c where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' and c.relname not like 'river%' and c.relname not in (
            'goose_db_version', 'site_changes', 'logbook', 'acts', 'sessions', 'engines', 'sign_ins', 'tokens', 'invitations', 'link_secrets', 'tries', 'picture_files', 'preview_links',
            'calendar_feeds', 'lenses', 'post_html', 'known_browsers', 'post_search', 'setup', 'comments', 'connections', 'prepared', 'prepared_openings', 'webhooks',
            'hook_deliveries', 'asks', 'old_slugs', 'old_site_slugs', 'old_category_slugs', 'old_tag_slugs', 'subscribers', 'mailings')
            and not exists (select from pg_trigger where tgrelid = c.oid and tgname = 'changes_inserted')
    loop
        teller := case
            when one.name = 'posts' then 'note_posts'
            when one.name = 'sites' then 'note_site'
            when one.name = 'users' then 'note_user'
            when one.name in ('tags', 'categories') then 'note_change_of_names'
            when one.name in ('texts', 'post_tags', 'outings') then 'note_change_of_post'
            when one.name in ('post_pictures', 'comment_counts') then 'note_change_beside_post'
            when one.of_site then 'note_change'
            else 'note_change_of_all' end;
        before := case when one.name in ('sites', 'users') then 'old table as gone' else '' end;
        if one.name = 'users' then -- nothing is known of who has written nothing
            execute format('create trigger changes_inserted after update on users referencing old table as gone new table as come for each statement execute function %I()', teller);
            continue;
        end if;
        execute format('create trigger changes_inserted after insert on %I referencing new table as come for each statement execute function %I()', one.name, teller);
        execute format('create trigger changes_updated after update on %I referencing %s new table as come for each statement execute function %I()', one.name, before, teller);
        execute format('create trigger changes_deleted after delete on %I referencing old table as come for each statement execute function %I()', one.name, teller);
    end loop;
end $$;
-- +goose StatementEnd
delete from logbook where deed = 'import';
alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'plan', 'skip', 'set aside', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit', 'outing', 'comments', 'announce'));
alter table sites drop column import_days;
drop table feed_items, feeds;
drop table import_recipes, import_posts, import_pictures, import_lines, import_chunks, import_files, imports;
