-- +goose Up

-- Tours: series of outings of one post. Their stops are outings as soon as they are launched.
create table tours (
    id          bigint generated always as identity primary key,
    site_id     bigint not null references sites on delete cascade,
    post_id     bigint not null,
    user_id     bigint references users on delete set null, -- who made it
    name        text not null check (name <> '' and length(name) <= 200),
    settings    jsonb not null check (jsonb_typeof(settings) = 'object'),
    seed        bigint not null,
    launched_at timestamptz, -- the first time; null: it is being made
    paused_at   timestamptz, -- since when it is paused
    stopped_at  timestamptz, -- it was ended before its last stop
    created_at  timestamptz not null,
    updated_at  timestamptz not null,
    version     integer not null default 1,
    unique (site_id, id),
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade,
    check (launched_at is not null or paused_at is null and stopped_at is null)
);
create index tours_of_a_site on tours (site_id, id desc);
create index tours_of_a_post on tours (post_id);

alter table outings
    add column tour_id bigint,
    add column stop    integer check (stop > 0), -- of the tour, from 1
    add foreign key (site_id, tour_id) references tours (site_id, id) on delete set null (tour_id),
    add check (tour_id is null or stop is not null);
create index outings_of_a_tour on outings (tour_id, stop) where tour_id is not null;

-- +goose StatementBegin
create trigger changes_inserted after insert on tours referencing new table as come for each statement execute function note_change();
create trigger changes_updated after update on tours referencing new table as come for each statement execute function note_change();
create trigger changes_deleted after delete on tours referencing old table as come for each statement execute function note_change();
-- +goose StatementEnd

-- +goose Down
alter table outings drop column stop, drop column tour_id;
drop table tours;
