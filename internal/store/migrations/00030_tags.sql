-- +goose Up

-- Names that a tag had in addresses: they lead on to the present one.
create table old_tag_slugs (
    site_id bigint not null,
    slug    text not null check (slug <> ''),
    tag_id  bigint not null,
    primary key (site_id, slug),
    foreign key (site_id, tag_id) references tags (site_id, id) on delete cascade
);
create index old_tag_slugs_of_tag on old_tag_slugs (tag_id);

-- Another version of a post's text that says the same words, such as one with other tags, leaves the search and the
-- pictures of the post as they are: reading its words anew takes a millisecond.
-- +goose StatementBegin
create function says_the_same(one bigint, other bigint) returns boolean language sql stable as $$
    select exists (select from texts a, texts b where a.id = one and b.id = other and a.title = b.title and a.excerpt = b.excerpt and a.body = b.body)
$$;

create or replace function note_pictures() returns trigger language plpgsql as $$
begin
    if TG_OP = 'UPDATE' then
        if old.featured_image = new.featured_image and says_the_same(old.text_id, new.text_id) then
            return null;
        end if;
    end if;
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

create or replace function note_search() returns trigger language plpgsql as $$
begin
    if TG_OP = 'UPDATE' then
        if says_the_same(old.text_id, new.text_id) then
            return null;
        end if;
    end if;
    insert into post_search (post_id, site_id, search)
        select new.id, new.site_id, search_of(title, excerpt, body) from texts where id = new.text_id
        on conflict (post_id) do update set search = excluded.search where post_search.search <> excluded.search;
    return null;
end $$;
-- +goose StatementEnd

-- +goose Down
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

create or replace function note_search() returns trigger language plpgsql as $$
begin
    insert into post_search (post_id, site_id, search)
        select new.id, new.site_id, search_of(title, excerpt, body) from texts where id = new.text_id
        on conflict (post_id) do update set search = excluded.search where post_search.search <> excluded.search;
    return null;
end $$;
-- +goose StatementEnd
drop function says_the_same;
drop table old_tag_slugs;
