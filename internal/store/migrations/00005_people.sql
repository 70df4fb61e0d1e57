-- +goose Up

-- Where a person is signed in; ending one ends its session.
create table sign_ins (
    id       bigint generated always as identity primary key,
    user_id  bigint not null references users on delete cascade,
    began_at timestamptz not null,
    seen_at  timestamptz not null,
    ended_at timestamptz,
    address  text not null default '',
    agent    text not null default ''
);
create index sign_ins_of_a_user on sign_ins (user_id) where ended_at is null;

-- What scripts sign in with. Only the hash of a token is kept.
create table tokens (
    id         bigint generated always as identity primary key,
    site_id    bigint not null references sites on delete cascade,
    user_id    bigint not null references users on delete cascade,
    name       text not null check (name <> ''),
    hash       bytea not null unique check (length(hash) = 32),
    hint       text not null, -- the token's end, to tell it from others
    scopes     text[] not null check (cardinality(scopes) > 0 and scopes <@ array['read', 'write', 'plan']),
    created_at timestamptz not null,
    expires_at timestamptz not null check (expires_at > created_at),
    used_at    timestamptz,
    unique (site_id, id)
);
create index tokens_of_a_user on tokens (site_id, user_id);

create table invitations (
    id          bigint generated always as identity primary key,
    site_id     bigint not null references sites on delete cascade,
    email       text not null check (position('@' in email) > 1),
    role        text not null check (role in ('owner', 'editor', 'contributor')),
    invited_by  bigint not null references users on delete cascade,
    created_at  timestamptz not null,
    expires_at  timestamptz not null check (expires_at > created_at),
    accepted_at timestamptz,
    unique (site_id, id)
);
create unique index invitations_open on invitations (site_id, lower(email)) where accepted_at is null;

-- The secrets of links in mails, by their hashes. Each opens one thing, once.
create table link_secrets (
    hash          bytea primary key check (length(hash) = 32),
    invitation_id bigint references invitations on delete cascade,
    user_id       bigint references users on delete cascade, -- whose password it resets
    created_at    timestamptz not null,
    expires_at    timestamptz not null,
    used_at       timestamptz,
    check ((invitation_id is null) <> (user_id is null))
);
create index link_secrets_of_a_user on link_secrets (user_id) where user_id is not null;
create index link_secrets_of_an_invitation on link_secrets (invitation_id) where invitation_id is not null;

-- How often something was tried of late, such as signing in to an account.
create table tries (
    key      text primary key,
    began_at timestamptz not null,
    n        integer not null check (n > 0)
);
create index tries_by_time on tries (began_at);

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people'));

-- +goose Down

alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery')) not valid;
drop table tries, link_secrets, invitations, tokens, sign_ins;
