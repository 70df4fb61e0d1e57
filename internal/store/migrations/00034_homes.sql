-- +goose Up

-- The page by which a channel's site is known, where it speaks an open standard: its addresses are found there.
alter table channels add column home text not null default '';

-- +goose Down
alter table channels drop column home;
