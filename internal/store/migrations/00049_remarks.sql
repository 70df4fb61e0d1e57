-- +goose Up

-- What the people of a blog say to one another about a post: of a paragraph, or of the whole. One that wishes for a time is a request.
create table remarks (
    id          bigint generated always as identity primary key,
    site_id     bigint not null references sites on delete cascade,
    post_id     bigint not null,
    user_id     bigint references users on delete set null, -- whose it is
    body        text not null check (body <> '' and octet_length(body) <= 64000),
    quote       text not null default '' check (length(quote) <= 300), -- how its paragraph begins; '': the whole post
    at          timestamptz not null,
    wish        timestamptz, -- when the post is to come out
    answer      text check (answer in ('yes', 'no')),
    resolved_at timestamptz,
    resolved_by bigint references users on delete set null,
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade,
    check (answer is null or wish is not null and resolved_at is not null)
);
create index remarks_of_a_post on remarks (post_id, id);
create index remarks_open on remarks (site_id, at) where resolved_at is null;

-- +goose Down
drop table remarks;
