-- +goose Up

-- A line of the logbook names the outing that it tells of.
alter table logbook
    add column outing_id bigint,
    add foreign key (site_id, outing_id) references outings (site_id, id) on delete set null (outing_id);
update logbook set outing_id = outings.id from outings
    where logbook.deed = 'share' and outings.site_id = logbook.site_id and outings.post_id = logbook.post_id
        and outings.at = logbook.at and outings.rule_id is not distinct from logbook.rule_id;
create index logbook_of_an_outing on logbook (outing_id) where outing_id is not null;

-- +goose Down
alter table logbook drop column outing_id;
