-- +goose Up

-- Titles are looked for by any part of them.
create extension if not exists pg_trgm;
create index posts_title_parts on posts using gin (lower(title) gin_trgm_ops);

-- Lanes are of an opening of their own site.
alter table opening_lanes add foreign key (site_id, rhythm_id) references rhythms (site_id, id) on delete cascade;

-- What is kept as JSON has the shape that it is read as.
alter table rules
    add constraint conditions_are_objects check (jsonb_typeof(condition) = 'object'),
    add constraint cadences_are_objects check (jsonb_typeof(cadence) = 'object'),
    add constraint settings_are_objects check (jsonb_typeof(settings) = 'object');
alter table sites
    add constraint ready_checks_are_a_list check (jsonb_typeof(ready_checks) = 'array'),
    add constraint audience_zones_are_a_list check (jsonb_typeof(audience_zones) = 'array');
alter table users add constraint preferences_are_an_object check (jsonb_typeof(preferences) = 'object');
alter table lenses add constraint what_is_shown_is_an_object check (jsonb_typeof(shown) = 'object');
alter table logbook
    add constraint before_is_whole check (before is null or jsonb_typeof(before) in ('object', 'array', 'null')),
    add constraint after_is_whole check (after is null or jsonb_typeof(after) in ('object', 'array', 'null'));

-- +goose Down
alter table logbook drop constraint before_is_whole, drop constraint after_is_whole;
alter table lenses drop constraint what_is_shown_is_an_object;
alter table users drop constraint preferences_are_an_object;
alter table sites drop constraint ready_checks_are_a_list, drop constraint audience_zones_are_a_list;
alter table rules drop constraint conditions_are_objects, drop constraint cadences_are_objects, drop constraint settings_are_objects;
alter table opening_lanes drop constraint opening_lanes_site_id_rhythm_id_fkey;
drop index posts_title_parts;
drop extension pg_trgm;
