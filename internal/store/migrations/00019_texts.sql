-- +goose Up

-- A post's text is apart from where the post stands: each version is a row that never changes,
-- made from another one, and the post points at the one that is live. What lists sort and rules
-- ask by (title, excerpt, fields, words) stands in the post too, as it is in its live text.
create function words_of(body text) returns integer language sql immutable parallel safe as
    $$ select coalesce(array_length(regexp_split_to_array(nullif(btrim(body, E' \n\r\t'), ''), '\s+'), 1), 0) $$;

create function search_of(title text, excerpt text, body text) returns tsvector language sql immutable parallel safe as
    $$ select setweight(to_tsvector('english', searchable(title)), 'A') ||
        setweight(to_tsvector('english', searchable(left(excerpt, 10000))), 'B') ||
        setweight(to_tsvector('english', searchable(left(body, 200000))), 'C') $$; -- a tsvector has at most 1 MB

create table texts (
    id        bigint generated always as identity primary key,
    site_id   bigint not null,
    post_id   bigint not null,
    made_from bigint, -- the version that it was written over; null: none
    title     text not null,
    body      text not null, -- Markdown
    excerpt   text not null default '',
    tags      jsonb not null default '[]' check (jsonb_typeof(tags) = 'array'), -- their names
    fields    jsonb not null default '{}' check (jsonb_typeof(fields) = 'object'),
    words     integer not null generated always as (words_of(body)) stored,
    actor_id  bigint references users on delete set null, -- who wrote it; null: nobody here
    at        timestamptz not null,
    unique (site_id, post_id, id),
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade,
    foreign key (site_id, post_id, made_from) references texts (site_id, post_id, id)
);
create index texts_of_a_post on texts (post_id, id desc);
create index texts_made_from on texts (made_from) where made_from is not null;

-- What the search reads, a row a post: written when the live text changes, and not whenever
-- the post does.
create table post_search (
    post_id bigint primary key,
    site_id bigint not null,
    search  tsvector not null,
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade
);

insert into texts (site_id, post_id, title, body, excerpt, tags, fields, actor_id, at)
    select site_id, id, title, body, excerpt,
        (select coalesce(jsonb_agg(tags.name order by tags.name), '[]') from post_tags join tags on tags.id = tag_id where post_id = posts.id),
        fields, author_id, coalesce(changed_at, created_at)
    from posts order by id;
insert into post_search (post_id, site_id, search) select id, site_id, search from posts;
create index posts_search_words on post_search using gin (search);

drop trigger posts_updated on posts;
drop trigger pictures_of_a_new_post on posts;
drop trigger pictures_of_a_post on posts;
drop index posts_search;
alter table posts add column text_id bigint;
update posts set text_id = texts.id from texts where post_id = posts.id;
alter table posts
    alter column text_id set not null,
    add foreign key (site_id, id, text_id) references texts (site_id, post_id, id) deferrable initially deferred,
    drop column search,
    alter column words drop expression,
    alter column words set default 0,
    drop column body;
create trigger posts_updated after update on posts
    referencing old table as gone new table as come for each statement execute function notify_posts();

-- +goose StatementBegin
create or replace function note_pictures() returns trigger language plpgsql as $$
begin
    delete from post_pictures where post_id = new.id;
    if new.featured_image not like '%/pictures/%' and not exists (select from texts where id = new.text_id and body like '%/pictures/%') then
        return null;
    end if;
    insert into post_pictures (post_id, picture_id)
        select distinct new.id, pictures.id
        from texts, regexp_matches(texts.body || ' ' || new.featured_image, '/pictures/([0-9a-z]{16})', 'g') as named(key)
        join pictures on pictures.key = named.key[1] and pictures.site_id = new.site_id
        where texts.id = new.text_id;
    return null;
end $$;

create function note_search() returns trigger language plpgsql as $$
begin
    insert into post_search (post_id, site_id, search)
        select new.id, new.site_id, search_of(title, excerpt, body) from texts where id = new.text_id
        on conflict (post_id) do update set search = excluded.search where post_search.search <> excluded.search;
    return null;
end $$;

create function refuse_change() returns trigger language plpgsql as $$
begin
    raise exception 'a text that was written does not change: write another version' using errcode = 'check_violation';
end $$;

create function refuse_other_text() returns trigger language plpgsql as $$
begin
    raise exception 'the text of a post is changed by another version of it' using errcode = 'check_violation';
end $$;
-- +goose StatementEnd
create trigger pictures_of_a_new_post after insert on posts for each row execute function note_pictures();
create trigger pictures_of_a_post after update of text_id, featured_image on posts
    for each row when (old.text_id <> new.text_id or old.featured_image <> new.featured_image) execute function note_pictures();
create trigger search_of_a_new_post after insert on posts for each row execute function note_search();
create trigger search_of_a_post after update of text_id on posts
    for each row when (old.text_id <> new.text_id) execute function note_search();
create trigger texts_stay before update on texts for each row
    when ((old.site_id, old.post_id, old.title, old.body, old.excerpt, old.tags, old.fields, old.at)
        is distinct from (new.site_id, new.post_id, new.title, new.body, new.excerpt, new.tags, new.fields, new.at))
    execute function refuse_change();
create trigger texts_are_versions before update of title, excerpt, fields, words on posts for each row
    when (old.text_id = new.text_id and (old.title, old.excerpt, old.fields, old.words) is distinct from (new.title, new.excerpt, new.fields, new.words))
    execute function refuse_other_text();

-- +goose Down
-- Only the live texts are kept.
drop trigger texts_are_versions on posts;
drop trigger search_of_a_post on posts;
drop trigger search_of_a_new_post on posts;
drop trigger pictures_of_a_post on posts;
drop trigger pictures_of_a_new_post on posts;
drop trigger posts_updated on posts;
drop index posts_by_words;
alter table posts add column body text not null default '', drop column words;
update posts set body = texts.body from texts where texts.id = text_id;
alter table posts alter column body drop default, drop column text_id,
    add column words integer not null generated always as
        (coalesce(array_length(regexp_split_to_array(nullif(btrim(body, E' \n\r\t'), ''), '\s+'), 1), 0)) stored,
    add column search tsvector not null generated always as (
        setweight(to_tsvector('english', searchable(title)), 'A') ||
        setweight(to_tsvector('english', searchable(left(excerpt, 10000))), 'B') ||
        setweight(to_tsvector('english', searchable(left(body, 200000))), 'C')) stored;
create index posts_by_words on posts (site_id, words, id);
create index posts_search on posts using gin (search);
drop table post_search, texts;
drop function note_search, refuse_change, refuse_other_text, search_of, words_of;
-- +goose StatementBegin
create or replace function note_pictures() returns trigger language plpgsql as $$
begin
    delete from post_pictures where post_id = new.id;
    insert into post_pictures (post_id, picture_id)
        select distinct new.id, pictures.id
        from regexp_matches(new.body || ' ' || new.featured_image, '/pictures/([0-9a-z]{16})', 'g') as named(key)
        join pictures on pictures.key = named.key[1] and pictures.site_id = new.site_id;
    return null;
end $$;
-- +goose StatementEnd
create trigger pictures_of_a_new_post after insert on posts
    for each row when (new.body || new.featured_image like '%/pictures/%') execute function note_pictures();
create trigger pictures_of_a_post after update of body, featured_image on posts
    for each row when (old.body || old.featured_image like '%/pictures/%' or new.body || new.featured_image like '%/pictures/%') execute function note_pictures();
create trigger posts_updated after update on posts
    referencing old table as gone new table as come for each statement execute function notify_posts();
