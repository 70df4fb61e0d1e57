-- +goose Up
-- A calendar may show only posts that stand somewhere, or are of a kind, as a lens does.
alter table calendar_feeds
    add column status text not null default '' check (status in ('', 'scheduled', 'pinned', 'held', 'published')),
    add column kind text not null default '' check (kind in ('', 'post', 'page'));

-- +goose Down
alter table calendar_feeds drop column status, drop column kind;
