-- +goose Up

-- What a scrape counts, and what deletions of people and categories look for, without a
-- look at every post.
create index posts_held on posts (site_id) where status = 'scheduled' and held;
create index posts_of_an_author on posts (author_id);
create index posts_of_a_category on posts (category_id) where category_id is not null;

-- +goose Down
drop index posts_held, posts_of_an_author, posts_of_a_category;
