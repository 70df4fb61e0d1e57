-- +goose Up

-- Who gets mails about a blog, how often and of what. No line: none, which is how it begins.
create table digests (
    site_id    bigint not null references sites on delete cascade,
    user_id    bigint not null references users on delete cascade,
    every      text not null check (every in ('day', 'week')),
    weekday    smallint not null default 1 check (weekday between 0 and 6), -- of weekly ones; 0 is Sunday
    at         integer not null check (at between 0 and 1439), -- minutes of the day by the zone's clocks
    zone       text not null,
    parts      jsonb not null check (jsonb_typeof(parts) = 'array'),
    token      text not null unique, -- by which it is ended from a mail
    off        boolean not null default false, -- it was ended from a mail
    next_at    timestamptz not null, -- when the next one is due
    sent_at    timestamptz not null, -- up to when the last one told
    handing_at timestamptz, -- the one that is being handed in, or was when its process died
    version    integer not null default 1,
    primary key (site_id, user_id)
);
create index digests_due on digests (next_at) where not off;

-- +goose Down
drop table digests;
