-- +goose Up
-- The line that a line of the logbook undoes, so that an undo can itself be undone.
alter table logbook add column undoes bigint references logbook on delete set null;
create index logbook_undoes on logbook (undoes) where undoes is not null;

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit'));

-- How a person likes the screens: first day of the week, clock, density, theme.
alter table users add column preferences jsonb not null default '{}';

-- A lens is a named view of a site's plan that one person keeps.
create table lenses (
    id bigint generated always as identity primary key,
    site_id bigint not null references sites on delete cascade,
    user_id bigint not null references users on delete cascade,
    name text not null check (name <> ''),
    shown jsonb not null,
    created_at timestamptz not null,
    unique (site_id, user_id, name)
);

-- A rest may be a range of dates, may come every year, and may have a name.
alter table rest_days
    add column last date,
    add column yearly boolean not null default false,
    add column name text not null default '';
update rest_days set last = date;
alter table rest_days
    alter column last set not null,
    drop constraint rest_days_pkey,
    add primary key (site_id, date, last, yearly),
    add constraint a_rest_is_at_most_a_year check (last >= date and last - date < 366);

-- Beside its usual rhythm a site may have seasons, which hold between their dates in its
-- place; where they overlap, the highest priority does.
drop index rhythms_one_a_site;
alter table rhythms
    add column priority integer, -- null: the usual rhythm
    add constraint a_season_has_dates check (priority is null or starts is not null and ends is not null);
create unique index rhythms_one_usual_a_site on rhythms (site_id) where priority is null;
create index rhythms_of_site on rhythms (site_id);

-- Zones of readers whose clocks are laid under the tape.
alter table sites add column audience_zones jsonb not null default '[]';

-- +goose Down
delete from rhythms where priority is not null;
drop index rhythms_one_usual_a_site, rhythms_of_site;
alter table rhythms drop column priority;
create unique index rhythms_one_a_site on rhythms (site_id);
alter table sites drop column audience_zones;
delete from rest_days where last <> date or yearly;
alter table rest_days
    drop constraint rest_days_pkey, drop column last, drop column yearly, drop column name,
    add primary key (site_id, date);
drop table lenses;
alter table users drop column preferences;
delete from logbook where deed = 'edit';
alter table logbook
    drop column undoes,
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address'));
