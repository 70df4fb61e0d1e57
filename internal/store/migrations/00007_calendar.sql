-- +goose Up

-- Secret addresses at which calendar programs read the plan. Only hashes are kept.
create table calendar_feeds (
    id          bigint generated always as identity primary key,
    site_id     bigint not null references sites on delete cascade,
    user_id     bigint not null references users on delete cascade, -- whose it is
    name        text not null check (name <> ''),
    author_id   bigint references users on delete cascade, -- only this author's posts
    category_id bigint references categories on delete cascade, -- only posts of this category
    hash        bytea not null unique check (length(hash) = 32),
    created_at  timestamptz not null,
    read_at     timestamptz,
    unique (site_id, id)
);
create index calendar_feeds_of_a_user on calendar_feeds (site_id, user_id);

-- What is looked for in posts before they come out.
alter table sites add column ready_checks jsonb not null default '["text", "category", "image", "links", "twins"]';

-- +goose Down

alter table sites drop column ready_checks;
drop table calendar_feeds;
