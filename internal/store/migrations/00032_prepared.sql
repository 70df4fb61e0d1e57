-- +goose Up

-- Messages that are written beforehand, in a table. One that was released has outings.
create table prepared (
    id         bigint generated always as identity primary key,
    site_id    bigint not null references sites on delete cascade,
    text       text not null default '',
    post_id    bigint,
    item       jsonb not null default '{}' check (jsonb_typeof(item) = 'object'), -- title and link, of no post
    picture_id bigint,
    channels   jsonb not null default '[]' check (jsonb_typeof(channels) = 'array'),
    at         timestamptz, -- null: it takes an opening
    opening    timestamptz, -- the one that it took
    version    integer not null default 1,
    created_at timestamptz not null,
    unique (site_id, id),
    foreign key (site_id, post_id) references posts (site_id, id) on delete set null (post_id),
    foreign key (site_id, picture_id) references pictures (site_id, id) on delete set null (picture_id)
);
alter table outings
    add column prepared_id bigint,
    add foreign key (site_id, prepared_id) references prepared (site_id, id) on delete set null (prepared_id);
create index outings_of_prepared on outings (prepared_id) where prepared_id is not null;

-- When messages without a time go out; a site without a row does as others do.
create table prepared_openings (
    site_id bigint primary key references sites on delete cascade,
    cadence jsonb not null check (jsonb_typeof(cadence) = 'object'),
    version integer not null default 1
);

create trigger prepared_inserted after insert on prepared
    referencing new table as come for each statement execute function notify_plan();
create trigger prepared_updated after update on prepared
    referencing new table as come for each statement execute function notify_plan();
create trigger prepared_deleted after delete on prepared
    referencing old table as gone for each statement execute function notify_plan();
create trigger prepared_openings_inserted after insert on prepared_openings
    referencing new table as come for each statement execute function notify_plan();
create trigger prepared_openings_updated after update on prepared_openings
    referencing new table as come for each statement execute function notify_plan();

-- +goose Down
drop table prepared_openings;
alter table outings drop column prepared_id;
drop table prepared;
