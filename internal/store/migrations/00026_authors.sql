-- +goose Up

-- A line about a person, which readers see with their posts.
alter table users add column about text not null default '';

-- +goose Down
alter table users drop column about;
