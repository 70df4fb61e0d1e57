package posts

import (
	"context"
	"time"
)

// ReadyPost is a post that is looked at before it comes out, or one that is out and near.
type ReadyPost struct {
	ID       int64     `db:"id"`
	Title    string    `db:"title"`
	At       time.Time `db:"at"`
	Out      bool      `db:"out"`
	Category string    `db:"category"`
	HasImage bool      `db:"has_image"`
	Excerpt  string    `db:"excerpt"`
	Body     string    `db:"body"` // empty for what is out
}

// ReadyPosts lists the scheduled posts, and those that came out after a moment, in time
// order.
func (q Queries) ReadyPosts(ctx context.Context, siteID int64, since time.Time) ([]ReadyPost, error) {
	var posts []ReadyPost
	err := q.run.All(ctx, &posts, `
		select posts.id, title, coalesce(published_at, due_at) as at, status = 'published' as out, coalesce(categories.name, '') as category,
			featured_image <> '' as has_image, excerpt, case when status = 'scheduled' then (select body from texts where texts.id = text_id) else '' end as body
		from posts left join categories on categories.id = category_id
		where posts.site_id = $1 and kind = 'post' and (status = 'scheduled' or status = 'published' and published_at > $2)
		order by at, posts.id`, siteID, since)
	return posts, err
}

// KnownSlugs returns those of the slugs that lead somewhere, or will by the time that
// scheduled posts are out.
func (q Queries) KnownSlugs(ctx context.Context, siteID int64, slugs []string) ([]string, error) {
	var known []string
	err := q.run.All(ctx, &known, `
		select slug from posts where site_id = $1 and slug = any($2) and status in ('published', 'archived', 'scheduled')
		union select slug from old_slugs where site_id = $1 and slug = any($2)`, siteID, slugs)
	return known, err
}
