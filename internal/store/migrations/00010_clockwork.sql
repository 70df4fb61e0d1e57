-- +goose Up
-- A message that a network refused for good: it is not offered again to that channel until
-- its wording or its post has changed.
create table refusals (
    id         bigint generated always as identity primary key,
    site_id    bigint not null,
    channel_id bigint not null,
    post_id    bigint not null,
    rule_id    bigint,
    outing_id  bigint references outings on delete set null,
    wording    integer not null, -- its number in the rule
    text       text not null,    -- the message that was refused
    reason     text not null,    -- the network's
    due        timestamptz,      -- the rule's turn in which it was sent
    at         timestamptz not null,
    foreign key (site_id, channel_id) references channels (site_id, id) on delete cascade,
    foreign key (site_id, post_id) references posts (site_id, id) on delete cascade,
    foreign key (site_id, rule_id) references rules (site_id, id) on delete set null (rule_id)
);
create index refusals_of_a_site on refusals (site_id, channel_id, post_id);
create index refusals_of_a_rule on refusals (rule_id, at);
create trigger refusals_inserted after insert on refusals
    referencing new table as come for each statement execute function notify_plan();

-- The turn of the rule that an outing was sent in.
alter table outings add column due timestamptz;

-- A turn whose message was refused is owed: the rule takes it again with the next post.
alter table rules add column owed_at timestamptz;

-- Nothing is decided before the first whole minute after a site was resumed, so that
-- nothing is noted as done before that.
alter table sites add column resumed_at timestamptz;

-- A season may have a gap of its own; null: the usual one. Until now it took the usual one
-- whatever was kept with it.
alter table rhythms alter column gap_minutes drop not null;
update rhythms set gap_minutes = null where priority is not null;
alter table rhythms add constraint the_usual_rhythm_has_a_gap check (priority is not null or gap_minutes is not null);

-- +goose Down
alter table rhythms drop constraint the_usual_rhythm_has_a_gap;
update rhythms set gap_minutes = usual.gap_minutes from rhythms usual
where usual.site_id = rhythms.site_id and usual.priority is null and rhythms.gap_minutes is null;
alter table rhythms alter column gap_minutes set not null;
alter table sites drop column resumed_at;
alter table rules drop column owed_at;
alter table outings drop column due;
drop table refusals;
