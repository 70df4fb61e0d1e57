-- +goose Up

-- A picture may be replaced, and keeps its addresses; one that was deleted is kept for a while.
alter table pictures
    add column replaced_at timestamptz,
    add column binned_at timestamptz;
create index pictures_in_the_bin on pictures (binned_at) where binned_at is not null;

-- Which pictures messages are still to be sent with.
create index outings_with_pictures on outings (site_id) where state in ('planned', 'waiting') and pictures <> '[]';

-- Readers see it with the posts of the person.
alter table memberships
    add column picture_id bigint,
    add foreign key (site_id, picture_id) references pictures (site_id, id) on delete set null (picture_id);
create index memberships_picture on memberships (picture_id) where picture_id is not null;

-- +goose Down
alter table memberships drop column picture_id;
drop index outings_with_pictures;
delete from pictures where binned_at is not null;
alter table pictures drop column replaced_at, drop column binned_at;
