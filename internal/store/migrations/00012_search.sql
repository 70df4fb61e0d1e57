-- +goose Up

-- A text as the search reads it. PostgreSQL's parser of texts takes time by the square of
-- what it takes for a tag, or for one long word with dots, hyphens or slashes in it; so no
-- tag begins, and no word is longer than 80 characters.
create function searchable(body text) returns text language sql immutable strict parallel safe as
    $$ select regexp_replace(translate(body, '<', ' '), '(\S{80})', '\1 ', 'g') $$;

drop index posts_search;
alter table posts drop column search;
alter table posts add column search tsvector not null generated always as (
    setweight(to_tsvector('english', searchable(title)), 'A') ||
    setweight(to_tsvector('english', searchable(left(excerpt, 10000))), 'B') ||
    setweight(to_tsvector('english', searchable(left(body, 200000))), 'C')) stored; -- a tsvector has at most 1 MB
create index posts_search on posts using gin (search);

-- +goose Down
drop index posts_search;
alter table posts drop column search;
alter table posts add column search tsvector not null generated always as (
    setweight(to_tsvector('english', title), 'A') ||
    setweight(to_tsvector('english', left(excerpt, 10000)), 'B') ||
    setweight(to_tsvector('english', left(body, 200000)), 'C')) stored;
create index posts_search on posts using gin (search);
drop function searchable;
