-- +goose Up

-- What a post that a line changed was before and what it is since, so that undoing its import gives that back: its version, its
-- category, author and featured image, and what the source said then.
alter table import_lines add column former jsonb;

-- +goose Down
alter table import_lines drop column former;
