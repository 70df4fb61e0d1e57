package sites

import (
	"context"
	"time"
)

// Category is one of a site's categories.
type Category struct {
	ID          int64  `db:"id"`
	Slug        string `db:"slug"`
	Name        string `db:"name"`
	Description string `db:"description"`
}

// Categories lists a site's categories in their order.
func (q Queries) Categories(ctx context.Context, siteID int64) ([]Category, error) {
	var cs []Category
	err := q.run.All(ctx, &cs, `select id, slug, name, description from categories where site_id = $1 order by position, name`, siteID)
	return cs, err
}

// CategoryUse is what belongs to a category.
type CategoryUse struct {
	Category int64 `db:"id"`
	Posts    int   `db:"posts"`    // in whatever state
	Openings int   `db:"openings"` // of rhythms, reserved for it and perhaps others
}

// CategoryUses counts what belongs to each category of a site.
func (q Queries) CategoryUses(ctx context.Context, siteID int64) ([]CategoryUse, error) {
	var uses []CategoryUse
	err := q.run.All(ctx, &uses, `
		select id, (select count(*) from posts where category_id = categories.id) as posts,
			(select count(*) from opening_lanes where category_id = categories.id) as openings
		from categories where site_id = $1`, siteID)
	return uses, err
}

// SaveCategory writes a category. The name that it had in addresses leads on to the new one.
func (t *Tx) SaveCategory(ctx context.Context, siteID int64, c Category) error {
	for _, statement := range []string{
		`delete from old_category_slugs where site_id = $1 and slug = $3 and $2::bigint is not null`,
		`insert into old_category_slugs (site_id, slug, category_id) select site_id, slug, id from categories where site_id = $1 and id = $2 and slug <> $3`,
	} {
		if _, err := t.run.Do(ctx, statement, siteID, c.ID, c.Slug); err != nil {
			return err
		}
	}
	return t.run.Exec(ctx, `update categories set slug = $3, name = $4, description = $5 where site_id = $1 and id = $2`,
		siteID, c.ID, c.Slug, c.Name, c.Description)
}

// OrderCategories puts a site's categories in the order of the ids.
func (t *Tx) OrderCategories(ctx context.Context, siteID int64, ids []int64) error {
	_, err := t.run.Do(ctx, `
		update categories set position = given.n from unnest($2::bigint[]) with ordinality given (id, n)
		where site_id = $1 and categories.id = given.id`, siteID, ids)
	return err
}

// MoveCategory has all that belongs to a category belong to another one, whose address the first
// one's leads on to; to 0: its posts have no category then, and its openings are not reserved for it.
func (t *Tx) MoveCategory(ctx context.Context, siteID, from, to int64, now time.Time) error {
	var into *int64
	if to != 0 {
		into = &to
	}
	for _, statement := range []string{
		`update posts set category_id = $3, version = version + 1, updated_at = $4 where site_id = $1 and category_id = $2`,
		`insert into opening_lanes (site_id, rhythm_id, opening_key, category_id)
			select site_id, rhythm_id, opening_key, $3::bigint from opening_lanes
			where site_id = $1 and category_id = $2 and $3::bigint is not null and $4::timestamptz is not null on conflict do nothing`,
		`update old_category_slugs set category_id = $3 where site_id = $1 and category_id = $2 and $3::bigint is not null and $4::timestamptz is not null`,
	} {
		if _, err := t.run.Do(ctx, statement, siteID, from, into, now); err != nil {
			return err
		}
	}
	return nil
}

// DeleteCategory deletes a category that nothing belongs to. Its address leads on to another
// one's; to 0: to none.
func (t *Tx) DeleteCategory(ctx context.Context, siteID, id, to int64) error {
	var slug string
	if err := t.run.One(ctx, &slug, `delete from categories where site_id = $1 and id = $2 returning slug`, siteID, id); err != nil || to == 0 {
		return err
	}
	_, err := t.run.Do(ctx, `insert into old_category_slugs (site_id, slug, category_id) values ($1, $2, $3)`, siteID, slug, to)
	return err
}

// CategoryByOldSlug returns the present name in addresses of a category that had another.
func (q Queries) CategoryByOldSlug(ctx context.Context, siteID int64, slug string) (string, error) {
	var now string
	err := q.run.One(ctx, &now, `
		select categories.slug from categories join old_category_slugs old on category_id = categories.id
		where old.site_id = $1 and old.slug = $2`, siteID, slug)
	return now, err
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
