package rules

import (
	"context"
	"fmt"
	"reflect"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/message"
	"dapper.example/internal/store/db"
	"dapper.example/internal/store/sharing"
)

// FactsFilter says of which posts facts are wanted. Zero fields leave none out; what is
// left out here must be what core would leave out anyway.
type FactsFilter struct {
	IDs             []int64
	Statuses        []string
	Categories      []string // by name, in any case
	Authors         []string
	Imports         []string
	Evergreen       *bool
	PublishedFrom   time.Time
	PublishedBefore time.Time
	OwnExpiry       bool // only posts with an expiry of their own; published ones where Statuses are not said

	WithText    bool // the whole text; otherwise, where there is no excerpt, its beginning
	WithOpening bool
	WithClicks  bool
}

// After is what is left to read of the filter's posts where those of another have been read: the
// filter itself, a later part of it, or nothing (ok is false).
func (f FactsFilter) After(read FactsFilter) (left FactsFilter, ok bool) {
	begins, ends := read.PublishedFrom, read.PublishedBefore
	holds := (read.WithText || !f.WithText && (read.WithOpening || !f.WithOpening)) && (read.WithClicks || !f.WithClicks)
	if !holds || begins.After(f.PublishedFrom) || !reflect.DeepEqual(f.widened(), read.widened()) {
		return f, true
	}
	switch {
	case ends.IsZero() || !f.PublishedBefore.IsZero() && !f.PublishedBefore.After(ends):
		return FactsFilter{}, false
	case f.PublishedBefore.IsZero(): // it may ask for posts that never came out, too
		return f, true
	case ends.After(f.PublishedFrom):
		f.PublishedFrom = ends
	}
	return f, true
}

// widened is the filter without its times and without what it reads of each post.
func (f FactsFilter) widened() FactsFilter {
	f.PublishedFrom, f.PublishedBefore = time.Time{}, time.Time{}
	f.WithText, f.WithOpening, f.WithClicks = false, false, false
	return f
}

// factsPage is how many posts are read at once.
const factsPage = 5000

type factsRow struct {
	ID          int64
	Kind        string
	Link        string
	Status      string
	Title       string
	Slug        string
	Text        string
	Excerpt     string
	Category    string
	Tags        db.Strings
	Author      string
	Published   *time.Time
	First       *time.Time
	Republished *time.Time
	Changed     time.Time
	Expires     *time.Time
	Never       bool
	Kept        *time.Time
	Notice      string
	Fields      db.Fields
	OnTop       bool
	Takes       bool
	Days        int
	Comments    int
	Image       bool
	Evergreen   bool
	Words       int
	Shared      int
	Again       int
	Import      string
	Clicks      clickDays
	InText      int
	Wordings    sharing.Wordings
}

type clickDays []struct {
	Date civil.Date `json:"date"`
	N    int        `json:"n"`
}

// Scan reads a JSON array.
func (c *clickDays) Scan(src any) error { return db.ScanJSON(src, c) }

// Facts are what rules may ask about a site's posts, in the order of their numbers. They may be shared with others: nobody
// changes them.
func (q Queries) Facts(ctx context.Context, siteID int64, f FactsFilter) ([]*condition.Facts, error) {
	if facts, ok, err := q.kept.find(ctx, q, siteID, f); ok || err != nil {
		return facts, err
	}
	return q.read(ctx, siteID, f)
}

// read reads facts in pages.
func (q Queries) read(ctx context.Context, siteID int64, f FactsFilter) ([]*condition.Facts, error) {
	var all []*condition.Facts
	one := make(map[string]string) // what many posts have in common is in memory once
	shared := func(s *string) {
		if kept, known := one[*s]; known {
			*s = kept
		} else {
			one[*s] = *s
		}
	}
	query, args := f.query(siteID)
	for after := int64(0); ; {
		n := 0
		err := q.run.Each(ctx, func(rows *sqlx.Rows) error {
			var r factsRow
			if err := rows.Scan(&r.ID, &r.Kind, &r.Link, &r.Status, &r.Title, &r.Slug, &r.Text, &r.Excerpt, &r.Category, &r.Tags, &r.Author,
				&r.Published, &r.First, &r.Republished, &r.Changed, &r.Expires, &r.Never, &r.Kept, &r.Notice, &r.Fields, &r.OnTop, &r.Takes, &r.Days,
				&r.Comments, &r.Image, &r.Evergreen, &r.Words, &r.Shared, &r.Again, &r.Import, &r.Wordings, &r.InText, &r.Clicks); err != nil {
				return err
			}
			for _, s := range []*string{&r.Kind, &r.Status, &r.Category, &r.Author, &r.Import} {
				shared(s)
			}
			all = append(all, r.facts())
			after = r.ID
			n++
			return nil
		}, query, append([]any{siteID, after, factsPage}, args...)...)
		if err != nil {
			return nil, fmt.Errorf("reading facts of posts: %w", err)
		}
		if n < factsPage {
			return all, nil
		}
	}
}

func (f FactsFilter) query(siteID int64) (string, []any) {
	text, clicks, inText := `''`, `null::json`, `0`
	switch {
	case f.WithText:
		text = `(select body from texts where texts.id = text_id)`
	case f.WithOpening:
		text = fmt.Sprintf(`case when excerpt = '' then (select left(body, %d) from texts where texts.id = text_id) else '' end`, message.OpeningLength)
	}
	if f.WithOpening { // for messages
		inText = `(select count(*) from post_pictures where post_id = posts.id and strpos(featured_image, (select key from pictures where id = picture_id)) = 0)`
	}
	if f.WithClicks {
		clicks = `(select json_agg(json_build_object('date', date, 'n', n) order by date) from clicks where clicks.post_id = posts.id)`
	}
	where, args := f.where(4)
	return `
		select posts.id, kind, link, status, title, posts.slug, ` + text + ` as text, excerpt, coalesce(categories.name, '') as category,
			(select json_agg(name order by name) from (select (select name from tags where id = tag_id) from post_tags where post_id = posts.id) its) as tags,
			users.name as author, published_at, first_published_at, republished_at, coalesce(changed_at, posts.created_at) as changed,
			expires_at, never_expires, kept_until, notice, fields, on_top, comments_open and site.takes and kind = 'post' as takes_comments, site.comments_days, coalesce(comment_counts.n, 0) as comments, featured_image <> '' as image, evergreen, words,
			(select count(*) from outings where outings.post_id = posts.id and ` + sharing.WentOut + `) as shared,
			times_republished, import, wordings, ` + inText + ` as in_text, ` + clicks + ` as clicks
		from posts cross join (select comments_open as takes, comments_days from sites where id = $1) site join users on users.id = author_id left join categories on categories.id = category_id
			left join comment_counts on comment_counts.post_id = posts.id
		where posts.site_id = $1 and posts.id > $2` + where + ` order by posts.id limit $3`, args
}

// where is what the filter asks of posts, with arguments numbered from `first` on.
func (f FactsFilter) where(first int) (string, []any) {
	var where strings.Builder
	var args []any
	and := func(condition string, arg any) {
		args = append(args, arg)
		fmt.Fprintf(&where, " and "+condition, first+len(args)-1)
	}
	if f.IDs != nil {
		and(`posts.id = any($%d)`, f.IDs)
	}
	if f.Statuses != nil {
		and(`status = any($%d)`, f.Statuses)
	}
	if f.Categories != nil {
		and(named(`categories.name`), folded(f.Categories))
	}
	if f.Authors != nil {
		and(named(`users.name`), folded(f.Authors))
	}
	if f.Imports != nil {
		and(named(`import`), folded(f.Imports))
	}
	if f.Evergreen != nil {
		and(`evergreen = $%d`, *f.Evergreen)
	}
	if !f.PublishedFrom.IsZero() {
		and(`published_at >= $%d`, f.PublishedFrom)
	}
	if !f.PublishedBefore.IsZero() {
		and(`published_at < $%d`, f.PublishedBefore)
	}
	if f.OwnExpiry {
		where.WriteString(` and expires_at is not null and not never_expires`)
		if f.Statuses == nil {
			where.WriteString(` and status = 'published'`)
		}
	}
	return where.String(), args
}

// named asks whether a column's name is one of those given, without regard to case. A name
// beyond ASCII is let in whatever it is: core compares it, by rules PostgreSQL does not have.
func named(column string) string {
	return `(lower(` + column + `) = any($%d) or ` + column + ` ~ '[^[:ascii:]]')`
}

func folded(names []string) []string {
	all := make([]string, len(names))
	for i, n := range names {
		all[i] = letters.Fold(n)
	}
	return all
}

func (r factsRow) facts() *condition.Facts {
	f := &condition.Facts{Post: r.ID, Kind: r.Kind, Link: r.Link, Status: r.Status, Title: r.Title, Slug: r.Slug, Text: r.Text,
		Excerpt:  r.Excerpt,
		Category: r.Category, Tags: r.Tags, Author: r.Author, Changed: r.Changed, Fields: r.Fields, OnTop: r.OnTop, CommentsOpen: r.Takes, CommentDays: r.Days, Comments: r.Comments,
		FeaturedImage: r.Image, Evergreen: r.Evergreen, Words: r.Words, Shared: r.Shared, Republished: r.Again, Import: r.Import,
		InText: r.InText, Wordings: r.Wordings, NeverExpires: r.Never, KeptUntil: db.OrZero(r.Kept), Notice: r.Notice, Published: db.OrZero(r.Published), FirstOut: db.OrZero(r.First), LastRun: db.OrZero(r.Republished), Expires: db.OrZero(r.Expires)}
	for _, c := range r.Clicks {
		f.Clicks = append(f.Clicks, condition.DayClicks{Date: c.Date, N: c.N})
	}
	return f
}

// CountPublished is how many posts a site has published.
func (q Queries) CountPublished(ctx context.Context, siteID int64) (int, error) {
	if q.kept.has(siteID) {
		published, ok, err := q.kept.find(ctx, q, siteID, FactsFilter{Statuses: []string{"published"}})
		if ok || err != nil {
			return len(published), err
		}
	}
	if c, err := q.columns(ctx, siteID); err != nil {
		return 0, err
	} else if c != nil {
		return c.WithStatus("published"), nil
	}
	var n int
	err := q.run.One(ctx, &n, `select count(*) from posts where site_id = $1 and status = 'published'`, siteID)
	return n, err
}

// Vocabulary is what the posts of a site can be asked for by name.
type Vocabulary struct {
	Categories, Tags, Authors, Imports, Fields []string
}

// Vocabulary lists the names that a site's posts use.
func (q Queries) Vocabulary(ctx context.Context, siteID int64) (Vocabulary, error) {
	var v Vocabulary
	for _, list := range []struct {
		dest  *[]string
		query string
	}{
		{&v.Categories, `select name from categories where site_id = $1 order by position, name`},
		{&v.Tags, `select name from tags where site_id = $1 order by name`},
		{&v.Authors, `select distinct name from users join memberships on user_id = users.id where site_id = $1 order by name`},
		{&v.Imports, `select distinct import from posts where site_id = $1 and import <> '' order by import`},
		{&v.Fields, `select distinct jsonb_object_keys(fields) as field from posts where site_id = $1 order by field`},
	} {
		*list.dest = []string{}
		if err := q.run.All(ctx, list.dest, list.query, siteID); err != nil {
			return v, err
		}
	}
	return v, nil
}
