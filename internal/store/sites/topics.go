package sites

import "context"

// Category is one of a site's categories.
type Category struct {
	ID   int64  `db:"id"`
	Slug string `db:"slug"`
	Name string `db:"name"`
}

// Categories lists a site's categories in their order.
func (q Queries) Categories(ctx context.Context, siteID int64) ([]Category, error) {
	var cs []Category
	err := q.run.All(ctx, &cs, `select id, slug, name from categories where site_id = $1 order by position, name`, siteID)
	return cs, err
}

// InsertCategory adds a category at a place in the order and returns its id.
func (q Queries) InsertCategory(ctx context.Context, siteID int64, slug, name string, position int) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		insert into categories (site_id, slug, name, position) values ($1, $2, $3, $4) returning id`,
		siteID, slug, name, position)
	return id, err
}

// HasCategory tells whether the site has the category.
func (q Queries) HasCategory(ctx context.Context, siteID, categoryID int64) (bool, error) {
	var has bool
	err := q.run.One(ctx, &has, `select exists (select from categories where site_id = $1 and id = $2)`, siteID, categoryID)
	return has, err
}

// Tag is a tag's name and the form of it that stands in addresses.
type Tag struct {
	ID   int64  `db:"id"`
	Slug string `db:"slug"`
	Name string `db:"name"`
}

// Tags lists a site's tags, most used first.
func (q Queries) Tags(ctx context.Context, siteID int64) ([]Tag, error) {
	var tags []Tag
	err := q.run.All(ctx, &tags, `
		select id, slug, name from tags left join post_tags on tag_id = id
		where tags.site_id = $1 group by id order by count(post_id) desc, name`, siteID)
	return tags, err
}

// SetTags makes the post's tags exactly these; tags that the site lacks are made.
// A tag keeps the spelling of its first use.
func (q Queries) SetTags(ctx context.Context, siteID, postID int64, tags []Tag) error {
	slugs, names := make([]string, len(tags)), make([]string, len(tags))
	for i, t := range tags {
		slugs[i], names[i] = t.Slug, t.Name
	}
	if _, err := q.run.Do(ctx, `
		insert into tags (site_id, slug, name)
		select $1, slug, name from unnest($2::text[], $3::text[]) given (slug, name)
		on conflict (site_id, slug) do nothing`, siteID, slugs, names); err != nil {
		return err
	}
	if _, err := q.run.Do(ctx, `
		delete from post_tags where site_id = $1 and post_id = $2 and tag_id not in (
			select id from tags where site_id = $1 and slug = any($3))`, siteID, postID, slugs); err != nil {
		return err
	}
	_, err := q.run.Do(ctx, `
		insert into post_tags (site_id, post_id, tag_id)
		select $1, $2, id from tags where site_id = $1 and slug = any($3)
		on conflict do nothing`, siteID, postID, slugs)
	return err
}
