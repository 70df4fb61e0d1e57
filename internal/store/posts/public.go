package posts

import (
	"context"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/store/plan"
)

// PublicFilter says which of a site's published posts readers asked for; what is empty
// does not narrow it.
type PublicFilter struct {
	Category int64
	Tag      int64
	Author   int64
	From, To time.Time // published in [From, To)
	Text     string    // words to look for
	OnTop    *bool
}

func (f PublicFilter) where(siteID int64) (from, where string, args []any) {
	args = []any{siteID}
	arg := func(v any) string {
		args = append(args, v)
		return fmt.Sprintf("$%d", len(args))
	}
	from = "posts"
	parts := []string{"posts.site_id = $1", "posts.status = 'published'", "posts.kind = 'post'"}
	if f.Text != "" {
		from += " join post_search on post_search.post_id = posts.id, (select websearch_to_tsquery('english', " +
			arg(cleanSearch(f.Text)) + ") as query) asked"
		parts = append(parts, "post_search.search @@ query")
	}
	if f.Category != 0 {
		parts = append(parts, "posts.category_id = "+arg(f.Category))
	}
	if f.Tag != 0 {
		parts = append(parts, "exists (select from post_tags where post_id = posts.id and tag_id = "+arg(f.Tag)+")")
	}
	if f.Author != 0 {
		parts = append(parts, "posts.author_id = "+arg(f.Author))
	}
	if !f.From.IsZero() {
		parts = append(parts, "posts.published_at >= "+arg(f.From)+" and posts.published_at < "+arg(f.To))
	}
	if f.OnTop != nil {
		parts = append(parts, "posts.on_top = "+arg(*f.OnTop))
	}
	return from, strings.Join(parts, " and "), args
}

// PublicPosts lists published posts with their bodies, latest first.
func (q Queries) PublicPosts(ctx context.Context, siteID int64, f PublicFilter, offset, limit int) ([]Post, error) {
	from, where, args := f.where(siteID)
	args = append(args, offset, limit)
	statement := fmt.Sprintf(`%s where posts.site_id = $1 and posts.id in (
			select posts.id from %s where %s order by published_at desc, posts.id desc offset $%d limit $%d)
		order by published_at desc, posts.id desc`, selectPost, from, where, len(args)-1, len(args))
	var posts []Post
	err := q.run.All(ctx, &posts, statement, args...)
	return posts, err
}

// PublicPost returns the post or page with the slug that readers may see: published, or
// archived with its notice.
func (q Queries) PublicPost(ctx context.Context, siteID int64, slug string) (Post, error) {
	var p Post
	err := q.run.One(ctx, &p,
		selectPost+` where posts.site_id = $1 and posts.slug = $2 and status in ('published', 'archived')`, siteID, slug)
	return p, err
}

// Neighbours returns the titles and slugs of the posts that came out just before and
// just after a post; nil where there is none.
func (q Queries) Neighbours(ctx context.Context, p Post) (older, newer *plan.Entry, err error) {
	find := func(beyond, direction string) (*plan.Entry, error) {
		var found []plan.Entry
		err := q.run.All(ctx, &found, plan.SelectEntry+fmt.Sprintf(`
			where posts.site_id = $1 and status = 'published' and kind = 'post' and (published_at, posts.id) %s ($2, $3)
			order by published_at %s, posts.id %s limit 1`, beyond, direction, direction), p.SiteID, p.PublishedAt, p.ID)
		if err != nil || len(found) == 0 {
			return nil, err
		}
		return &found[0], nil
	}
	if older, err = find("<", "desc"); err != nil {
		return nil, nil, err
	}
	newer, err = find(">", "asc")
	return older, newer, err
}

// PublicPages lists the published pages by title.
func (q Queries) PublicPages(ctx context.Context, siteID int64) ([]plan.Entry, error) {
	var pages []plan.Entry
	err := q.run.All(ctx, &pages,
		plan.SelectEntry+` where posts.site_id = $1 and status = 'published' and kind = 'page' order by lower(title), posts.id`, siteID)
	return pages, err
}

// Pages lists the pages that are not in the bin, by title.
func (q Queries) Pages(ctx context.Context, siteID int64) ([]plan.Entry, error) {
	var pages []plan.Entry
	err := q.run.All(ctx, &pages,
		plan.SelectEntry+` where posts.site_id = $1 and status <> 'binned' and kind = 'page' order by lower(title), posts.id`, siteID)
	return pages, err
}

// Topic is a category, tag or author of published posts.
type Topic struct {
	ID   int64  `db:"id"`
	Slug string `db:"slug"` // "" of authors
	Name string `db:"name"`
	N    int    `db:"n"` // published posts
	// About is what a category is about, or a line about an author; "" of tags.
	About string `db:"about"`
}

// PublicCategories lists the categories that have published posts, in their order.
func (q Queries) PublicCategories(ctx context.Context, siteID int64) ([]Topic, error) {
	var all []Topic
	err := q.run.All(ctx, &all, `
		select categories.id, categories.slug, name, description as about, count(*) as n from categories join posts on category_id = categories.id
		where categories.site_id = $1 and status = 'published' and kind = 'post'
		group by categories.id order by position, name`, siteID)
	return all, err
}

// PublicTag finds a tag of published posts by its slug.
func (q Queries) PublicTag(ctx context.Context, siteID int64, slug string) (Topic, error) {
	var t Topic
	err := q.run.One(ctx, &t, `
		select tags.id, tags.slug, name, count(*) as n from tags join post_tags on tag_id = tags.id join posts on posts.id = post_id
		where tags.site_id = $1 and tags.slug = $2 and status = 'published' and kind = 'post' group by tags.id`, siteID, slug)
	return t, err
}

// PublicAuthors lists the authors of published posts by name.
func (q Queries) PublicAuthors(ctx context.Context, siteID int64) ([]Topic, error) {
	var all []Topic
	err := q.run.All(ctx, &all, `
		select users.id, '' as slug, users.name, users.about, count(*) as n from users join posts on author_id = users.id
		where posts.site_id = $1 and status = 'published' and kind = 'post' group by users.id order by users.name, users.id`, siteID)
	return all, err
}

// Month is a month of a site's clocks in which posts came out.
type Month struct {
	Year  int `db:"year"`
	Month int `db:"month"`
	N     int `db:"n"`
}

// PublicMonths lists the months with published posts, latest first.
func (q Queries) PublicMonths(ctx context.Context, siteID int64, zone string) ([]Month, error) {
	var all []Month
	err := q.run.All(ctx, &all, `
		select extract(year from at)::int as year, extract(month from at)::int as month, count(*) as n
		from (select published_at at time zone $2 as at from posts where site_id = $1 and status = 'published' and kind = 'post') p
		group by 1, 2 order by 1 desc, 2 desc`, siteID, zone)
	return all, err
}

// Addresses lists the slugs of published posts and pages with when each last changed, in
// the order of their making, for a sitemap.
func (q Queries) Addresses(ctx context.Context, siteID int64, offset, limit int) ([]plan.Entry, error) {
	var entries []plan.Entry
	err := q.run.All(ctx, &entries, plan.SelectEntry+`
		where posts.site_id = $1 and status = 'published' order by posts.id offset $2 limit $3`, siteID, offset, limit)
	return entries, err
}

// CountAddresses counts what Addresses lists.
func (q Queries) CountAddresses(ctx context.Context, siteID int64) (int, error) {
	var n int
	err := q.run.One(ctx, &n, `select count(*) from posts where site_id = $1 and status = 'published'`, siteID)
	return n, err
}

// LastChange is when anything of the site's posts last changed, whether readers see it or
// not; the site's beginning where nothing did.
func (q Queries) LastChange(ctx context.Context, siteID int64) (time.Time, error) {
	var at time.Time
	err := q.run.One(ctx, &at, `
		select coalesce((select updated_at from posts where site_id = $1 order by updated_at desc, id desc limit 1),
			(select created_at from sites where id = $1))`, siteID)
	return at, err
}
