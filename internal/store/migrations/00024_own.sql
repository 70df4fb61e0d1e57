-- +goose Up

-- Names that a blog, or a category, had in addresses: they lead on to the present one.
create table old_site_slugs (
    slug    text primary key check (slug ~ '^[a-z0-9]+(-[a-z0-9]+)*$'),
    site_id bigint not null references sites on delete cascade
);
create index old_site_slugs_of_site on old_site_slugs (site_id);

create table old_category_slugs (
    site_id     bigint not null,
    slug        text not null check (slug <> ''),
    category_id bigint not null,
    primary key (site_id, slug),
    foreign key (site_id, category_id) references categories (site_id, id) on delete cascade
);
create index old_category_slugs_of_category on old_category_slugs (category_id);

alter table categories add column description text not null default '';
create unique index categories_by_name on categories (site_id, lower(name));

-- What a draft is begun in.
alter table sites
    add column default_category_id bigint,
    add foreign key (id, default_category_id) references categories (site_id, id) on delete set null (default_category_id);
create index sites_default_category on sites (default_category_id) where default_category_id is not null;

-- +goose Down
alter table sites drop column default_category_id;
drop index categories_by_name;
alter table categories drop column description;
drop table old_category_slugs, old_site_slugs;
