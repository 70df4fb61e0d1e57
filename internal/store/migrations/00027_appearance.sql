-- +goose Up

-- How a blog looks to its readers, and where they find it.
alter table sites
    add column host text not null default '' check (host = '' or host ~ '^[a-z0-9.-]+\.[a-z0-9-]+$' and length(host) <= 253),
    add column date_style text not null default 'long' check (date_style in ('long', 'full', 'medium', 'numeric')),
    add column logo_id bigint,
    add column icon_id bigint,
    add column front_page_id bigint,
    add column look text not null default 'book' check (look in ('book', 'plain', 'broadside')),
    add column accent text not null default '' check (accent ~ '^(#[0-9a-f]{6})?$'),
    add column menu jsonb not null default 'null' check (jsonb_typeof(menu) in ('null', 'array'));
create unique index sites_by_host on sites (host) where host <> '';

-- What a blog shows is of the blog.
alter table sites
    add foreign key (id, logo_id) references pictures (site_id, id) on delete set null (logo_id),
    add foreign key (id, icon_id) references pictures (site_id, id) on delete set null (icon_id),
    add foreign key (id, front_page_id) references posts (site_id, id) on delete set null (front_page_id);
create index sites_logo on sites (logo_id) where logo_id is not null;
create index sites_icon on sites (icon_id) where icon_id is not null;
create index sites_front_page on sites (front_page_id) where front_page_id is not null;

-- +goose Down
alter table sites drop column host, drop column date_style, drop column logo_id, drop column icon_id, drop column front_page_id,
    drop column look, drop column accent, drop column menu;
