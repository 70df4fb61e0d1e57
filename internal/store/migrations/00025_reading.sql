-- +goose Up

-- How readers read a blog. Its name in feeds is the one that it began with: feed readers know posts by it.
alter table sites
    add column lasting_name text,
    add column posts_a_page integer not null default 12 check (posts_a_page between 1 and 50),
    add column feeds_whole boolean not null default true,
    add column footer text not null default '';
update sites set lasting_name = slug;
alter table sites alter column lasting_name set not null;

-- +goose Down
alter table sites drop column lasting_name, drop column posts_a_page, drop column feeds_whole, drop column footer;
