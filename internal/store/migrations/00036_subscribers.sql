-- +goose Up

-- Who gets the messages of a channel that is a mailing list: whoever asked for it and confirmed that.
create table subscribers (
    id         bigint generated always as identity primary key,
    site_id    bigint not null,
    channel_id bigint not null,
    email      text not null check (email <> ''),
    state      text not null check (state in ('asked', 'on', 'off')),
    token      text not null unique, -- by which they confirm and end it
    asked_at   timestamptz not null,
    on_at      timestamptz,
    off_at     timestamptz,
    foreign key (site_id, channel_id) references channels (site_id, id) on delete cascade
);
create unique index subscribers_once on subscribers (channel_id, lower(email));

-- To whom a message was mailed.
create table mailings (
    outing_id     bigint not null references outings on delete cascade,
    subscriber_id bigint not null references subscribers on delete cascade,
    at            timestamptz not null,
    error         text not null default '', -- why it was refused for good
    primary key (outing_id, subscriber_id)
);
create index mailings_of_subscribers on mailings (subscriber_id);

-- How many mails a minute a mailing list sends.
alter table channels add column a_minute integer not null default 60 check (a_minute between 1 and 1000);

-- +goose Down
alter table channels drop column a_minute;
drop table mailings, subscribers;
