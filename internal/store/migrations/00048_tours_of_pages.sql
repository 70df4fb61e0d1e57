-- +goose Up

-- A tour may be of a page elsewhere instead of a post: its title, address and text as they were read.
alter table tours
    alter column post_id drop not null,
    add column page jsonb check (jsonb_typeof(page) = 'object'),
    add check ((post_id is null) = (page is not null)),
    -- Names are counted in letters as readers count them, of up to 16 bytes each.
    drop constraint tours_name_check,
    add constraint tours_name_check check (name <> '' and octet_length(name) <= 3200);

-- What tours have in common, kept by name: wordings, channels, shape and the like.
create table tour_templates (
    id         bigint generated always as identity primary key,
    site_id    bigint not null references sites on delete cascade,
    name       text not null check (name <> '' and octet_length(name) <= 3200),
    settings   jsonb not null check (jsonb_typeof(settings) = 'object'),
    created_at timestamptz not null
);
create unique index tour_templates_by_name on tour_templates (site_id, lower(name));

-- Every screen says how many messages failed.
create index outings_failed on outings (site_id, at) where state = 'failed';

-- +goose Down
drop index outings_failed;
drop table tour_templates;
delete from tours where post_id is null;
update tours set name = left(name, 200) where length(name) > 200;
alter table tours drop constraint tours_name_check, add constraint tours_name_check check (name <> '' and length(name) <= 200), drop column page, alter column post_id set not null;
