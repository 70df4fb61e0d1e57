-- +goose Up

-- What each outing's messages brought, by day of the site.
create table outing_clicks (
    outing_id  bigint not null references outings on delete cascade,
    site_id    bigint not null,
    channel_id bigint not null,
    date       date not null,
    n          integer not null check (n > 0),
    primary key (outing_id, date)
);

-- The same, added up by channel: kept by a trigger, so that a chart of a year reads no more than a row a day and channel.
create table click_days (
    site_id    bigint not null,
    channel_id bigint not null,
    date       date not null,
    n          integer not null,
    primary key (site_id, channel_id, date),
    foreign key (site_id, channel_id) references channels (site_id, id) on delete cascade
);

-- +goose StatementBegin
create function add_click_days() returns trigger language plpgsql as $$
begin
    if tg_op <> 'INSERT' then
        update click_days set n = click_days.n - gone.n
        from (select site_id, channel_id, date, sum(n) as n from before group by 1, 2, 3) gone
        where click_days.site_id = gone.site_id and click_days.channel_id = gone.channel_id and click_days.date = gone.date;
    end if;
    if tg_op <> 'DELETE' then
        insert into click_days (site_id, channel_id, date, n)
        select site_id, channel_id, date, sum(n) from after group by 1, 2, 3 order by 1, 2, 3
        on conflict (site_id, channel_id, date) do update set n = click_days.n + excluded.n;
    end if;
    return null;
end $$;
create trigger click_days_of_new after insert on outing_clicks referencing new table as after for each statement execute function add_click_days();
create trigger click_days_of_more after update on outing_clicks referencing old table as before new table as after for each statement execute function add_click_days();
create trigger click_days_of_gone after delete on outing_clicks referencing old table as before for each statement execute function add_click_days();
-- +goose StatementEnd

-- On which day the clicks of so far came is not known: they are put on the day of the outing.
insert into outing_clicks (outing_id, site_id, channel_id, date, n)
select outings.id, site_id, channel_id, (at at time zone zone)::date, clicks from outings join sites on sites.id = site_id where clicks > 0;

-- Results add up all outings of a site. They are read from this index alone, which is a tenth of the table.
create index outings_for_results on outings (site_id, post_id, channel_id, at, id) include (rule_id, tour_id, wording, origin, clicks)
    where state = 'sent' and parent_id is null;

-- Mails may come monthly.
alter table digests drop constraint digests_every_check, add check (every in ('day', 'week', 'month'));

-- +goose Down
delete from digests where every = 'month';
alter table digests drop constraint digests_every_check, add check (every in ('day', 'week'));
drop index outings_for_results;
drop table click_days;
drop table outing_clicks;
drop function add_click_days;
