-- +goose Up
-- The HTML of a post's text, kept with the text it was made of, so that it is made once
-- and not at every view.
create table post_html (
    post_id bigint primary key references posts on delete cascade,
    hash    bytea not null, -- of the text, and of how it was laid out
    html    text not null,
    removed jsonb not null default '[]' -- what of the text readers do not see
);

-- Browsers from which somebody has signed in well: wrong tries of others do not keep them
-- out.
create table known_browsers (
    hash    bytea not null, -- of the cookie's secret
    user_id bigint not null references users on delete cascade,
    seen_at timestamptz not null,
    primary key (hash, user_id)
);
create index known_browsers_of_a_user on known_browsers (user_id);

-- When something was tried last that went ahead, and whether the last try did, for slowing
-- down.
alter table tries add column last_at timestamptz, add column ahead boolean not null default true;
update tries set last_at = began_at;
alter table tries alter column last_at set not null;

-- Sessions are kept under the hash of their token from now on: those that lie in clear end.
delete from sessions;

-- +goose Down
alter table tries drop column last_at, drop column ahead;
drop table known_browsers, post_html;
