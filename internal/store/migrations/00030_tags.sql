-- +goose Up

-- Names that a tag had in addresses: they lead on to the present one.
create table old_tag_slugs (
    site_id bigint not null,
    slug    text not null check (slug <> ''),
    tag_id  bigint not null,
    primary key (site_id, slug),
    foreign key (site_id, tag_id) references tags (site_id, id) on delete cascade
);
create index old_tag_slugs_of_tag on old_tag_slugs (tag_id);

-- +goose Down
drop table old_tag_slugs;
