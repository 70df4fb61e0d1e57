-- +goose Up

-- A lens keeps a view of the plan, or of the list of posts. Authors and categories are
-- kept by id, so that it outlives their being renamed, and there may be several of each.
alter table lenses
    add column screen text not null default 'plan' check (screen in ('plan', 'posts')),
    drop constraint lenses_site_id_user_id_name_key,
    add unique (site_id, user_id, screen, name);

-- A name that nobody has any more narrowed the plan to nothing; an id that nobody has does
-- the same.
update lenses set shown = (shown - 'author' - 'category')
    || case when shown ? 'author' then jsonb_build_object('authors', coalesce(
        (select jsonb_agg(distinct users.id) from users where users.name = shown->>'author' and (
            exists (select from memberships where memberships.site_id = lenses.site_id and user_id = users.id)
            or exists (select from posts where posts.site_id = lenses.site_id and author_id = users.id))), '[0]')) else '{}' end
    || case when shown ? 'category' then jsonb_build_object('categories', coalesce(
        (select jsonb_agg(categories.id) from categories where categories.site_id = lenses.site_id and categories.name = shown->>'category'), '[0]')) else '{}' end;

alter table calendar_feeds
    add column authors jsonb not null default '[]' check (jsonb_typeof(authors) = 'array'),
    add column categories jsonb not null default '[]' check (jsonb_typeof(categories) = 'array');
update calendar_feeds set
    authors = case when author_id is null then '[]' else jsonb_build_array(author_id) end,
    categories = case when category_id is null then '[]' else jsonb_build_array(category_id) end;
alter table calendar_feeds drop column author_id, drop column category_id;

-- +goose Down
alter table calendar_feeds
    add column author_id bigint references users on delete cascade,
    add column category_id bigint references categories on delete cascade;
update calendar_feeds set
    author_id = (select id from users where id = (authors->>0)::bigint),
    category_id = (select id from categories where id = (categories->>0)::bigint);
alter table calendar_feeds drop column authors, drop column categories;

update lenses set shown = (shown - 'authors' - 'categories')
    || case when shown ? 'authors' then jsonb_build_object('author', coalesce((select name from users where id = (shown->'authors'->>0)::bigint), '?')) else '{}' end
    || case when shown ? 'categories' then jsonb_build_object('category', coalesce((select name from categories where id = (shown->'categories'->>0)::bigint), '?')) else '{}' end;
delete from lenses where screen = 'posts';
alter table lenses
    drop constraint lenses_site_id_user_id_screen_name_key,
    drop column screen,
    add unique (site_id, user_id, name);
