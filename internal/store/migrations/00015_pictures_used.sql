-- +goose Up

-- Which pictures a post shows, in its text or as its featured image: known from their keys,
-- which stand in every address of theirs.
create table post_pictures (
    post_id    bigint not null references posts on delete cascade,
    picture_id bigint not null references pictures on delete cascade,
    primary key (post_id, picture_id)
);
create index posts_of_a_picture on post_pictures (picture_id);

-- +goose StatementBegin
create function note_pictures() returns trigger language plpgsql as $$
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

insert into post_pictures (post_id, picture_id)
    select distinct posts.id, pictures.id
    from posts, regexp_matches(body || ' ' || featured_image, '/pictures/([0-9a-z]{16})', 'g') as named(key)
    join pictures on pictures.key = named.key[1]
    where pictures.site_id = posts.site_id;

-- +goose Down
drop trigger pictures_of_a_post on posts;
drop trigger pictures_of_a_new_post on posts;
drop function note_pictures;
drop table post_pictures;
