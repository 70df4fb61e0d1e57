package store

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// Status is where a post stands.
type Status string

// The statuses of a post. A draft may be cleared; the others are what they say.
const (
	Draft     Status = "draft"
	Scheduled Status = "scheduled"
	Published Status = "published"
	Archived  Status = "archived"
	Binned    Status = "binned"
)

// Post is a post with its author's and category's names and its tags.
type Post struct {
	ID           int64      `db:"id"`
	SiteID       int64      `db:"site_id"`
	AuthorID     int64      `db:"author_id"`
	AuthorName   string     `db:"author_name"`
	CategoryID   *int64     `db:"category_id"`
	CategoryName *string    `db:"category_name"`
	Title        string     `db:"title"`
	Slug         string     `db:"slug"` // "" until the post is first scheduled or published
	Body         string     `db:"body"` // Markdown
	Tags         Strings    `db:"tags"`
	Status       Status     `db:"status"`
	Cleared      bool       `db:"cleared"`
	ShelfRank    *int64     `db:"shelf_rank"`
	DueAt        *time.Time `db:"due_at"`
	Pinned       bool       `db:"pinned"`
	RhythmID     *int64     `db:"rhythm_id"`
	SlotDate     *time.Time `db:"slot_date"`
	SlotOpening  *string    `db:"slot_opening"`
	SlotOrdinal  *int       `db:"slot_ordinal"`
	PublishedAt  *time.Time `db:"published_at"`
	NotBefore    *time.Time `db:"not_before"`
	Deadline     *time.Time `db:"deadline"`
	Held         bool       `db:"held"` // overdue, and held back for an editor
	Version      int        `db:"version"`
	CreatedAt    time.Time  `db:"created_at"`
	UpdatedAt    time.Time  `db:"updated_at"`

	Kind             string     `db:"kind"` // post or page
	Excerpt          string     `db:"excerpt"`
	Fields           Fields     `db:"fields"` // custom fields
	OnTop            bool       `db:"on_top"`
	CommentsOpen     bool       `db:"comments_open"`
	FeaturedImage    string     `db:"featured_image"`
	Evergreen        bool       `db:"evergreen"`
	Import           string     `db:"import"`
	ChangedAt        *time.Time `db:"changed_at"` // last change of the text
	ExpiresAt        *time.Time `db:"expires_at"` // its own expiry
	NeverExpires     bool       `db:"never_expires"`
	FirstPublishedAt *time.Time `db:"first_published_at"`
	RepublishedAt    *time.Time `db:"republished_at"`
	TimesRepublished int        `db:"times_republished"`
	ArchivedAt       *time.Time `db:"archived_at"`
	Notice           string     `db:"notice"` // to readers of an archived post
	Words            int        `db:"words"`
}

// Slot names the slot the post sits in, or is the zero SlotID.
func (p Post) Slot() rhythm.SlotID {
	return slotID(p.RhythmID, p.SlotDate, p.SlotOpening, p.SlotOrdinal)
}

func slotID(rhythmID *int64, date *time.Time, opening *string, ordinal *int) rhythm.SlotID {
	if rhythmID == nil || date == nil {
		return rhythm.SlotID{}
	}
	return rhythm.SlotID{Rhythm: *rhythmID, Date: civil.NewDate(date.Date()), Opening: *opening, Ordinal: *ordinal}
}

const selectPost = `
	select posts.*, users.name as author_name, categories.name as category_name,
		(select coalesce(json_agg(tags.name order by tags.name), '[]') from post_tags join tags on tags.id = tag_id
		 where post_id = posts.id) as tags
	from posts join users on users.id = author_id left join categories on categories.id = category_id`

// Post returns one post of the site.
func (q Queries) Post(ctx context.Context, siteID, id int64) (Post, error) {
	var p Post
	err := q.one(ctx, &p, selectPost+` where posts.site_id = $1 and posts.id = $2`, siteID, id)
	return p, err
}

// LockPost returns one post of the site and keeps others from changing it until
// the transaction ends.
func (t *Tx) LockPost(ctx context.Context, siteID, id int64) (Post, error) {
	var p Post
	err := t.one(ctx, &p, selectPost+` where posts.site_id = $1 and posts.id = $2 for update of posts`, siteID, id)
	return p, err
}

// InsertDraft adds a draft that is not cleared.
func (q Queries) InsertDraft(ctx context.Context, p Post) (int64, error) {
	var id int64
	err := q.one(ctx, &id, `
		insert into posts (site_id, author_id, category_id, title, body, created_at, updated_at, changed_at)
		values ($1, $2, $3, $4, $5, $6, $6, $6) returning id`,
		p.SiteID, p.AuthorID, p.CategoryID, p.Title, p.Body, p.CreatedAt)
	return id, err
}

// InsertPublished adds a post that came out in the past.
func (q Queries) InsertPublished(ctx context.Context, p Post) (int64, error) {
	var id int64
	err := q.one(ctx, &id, `
		insert into posts (site_id, author_id, category_id, title, slug, body, status, published_at, first_published_at, created_at, updated_at, changed_at)
		values ($1, $2, $3, $4, $5, $6, 'published', $7, $7, $8, $8, $8) returning id`,
		p.SiteID, p.AuthorID, p.CategoryID, p.Title, p.Slug, p.Body, p.PublishedAt, p.CreatedAt)
	return id, err
}

// BlankDraft returns a draft of the author's in which nothing is written.
func (q Queries) BlankDraft(ctx context.Context, siteID, authorID int64) (Post, error) {
	var p Post
	err := q.one(ctx, &p, selectPost+`
		where posts.site_id = $1 and author_id = $2 and status = 'draft' and title = '' and body = ''
		order by posts.id limit 1`, siteID, authorID)
	return p, err
}

// SaveText writes what an editor can write of a post and counts its version up.
func (t *Tx) SaveText(ctx context.Context, p Post, now time.Time) error {
	return t.exec(ctx, `
		update posts set title = $3, body = $4, category_id = $5, version = version + 1, updated_at = $6,
			changed_at = case when title = $3 and body = $4 then changed_at else $6 end
		where site_id = $1 and id = $2`,
		p.SiteID, p.ID, p.Title, p.Body, p.CategoryID, now)
}

// SavePlace writes where a post stands in the plan (status, cleared, shelf rank,
// time, pin, slot, publication, slug) and counts its version up.
func (t *Tx) SavePlace(ctx context.Context, p Post, now time.Time) error {
	var slotDate *string
	if p.SlotDate != nil {
		text := p.SlotDate.Format(time.DateOnly)
		slotDate = &text
	}
	return t.exec(ctx, `
		update posts set status = $3, cleared = $4, shelf_rank = $5, due_at = $6, pinned = $7,
			rhythm_id = $8, slot_date = $9::date, slot_opening = $10, slot_ordinal = $11,
			published_at = $12::timestamptz, slug = $13, held = $15, version = version + 1, updated_at = $14,
			first_published_at = coalesce($16::timestamptz, $12::timestamptz), republished_at = $17, times_republished = $18, archived_at = $19, notice = $20
		where site_id = $1 and id = $2`,
		p.SiteID, p.ID, p.Status, p.Cleared, p.ShelfRank, p.DueAt, p.Pinned,
		p.RhythmID, slotDate, p.SlotOpening, p.SlotOrdinal, p.PublishedAt, p.Slug, now, p.Held,
		p.FirstPublishedAt, p.RepublishedAt, p.TimesRepublished, p.ArchivedAt, p.Notice)
}

// SaveBounds writes when a draft may come out and counts its version up.
func (t *Tx) SaveBounds(ctx context.Context, p Post, now time.Time) error {
	return t.exec(ctx, `
		update posts set not_before = $3, deadline = $4, version = version + 1, updated_at = $5
		where site_id = $1 and id = $2`, p.SiteID, p.ID, p.NotBefore, p.Deadline, now)
}

// Sit puts the post into a slot, or into none with the zero SlotID.
func (p *Post) Sit(id rhythm.SlotID) {
	if id == (rhythm.SlotID{}) {
		p.RhythmID, p.SlotDate, p.SlotOpening, p.SlotOrdinal = nil, nil, nil, nil
		return
	}
	date, err := time.Parse(time.DateOnly, id.Date.String())
	if err != nil {
		panic(fmt.Sprintf("slot %s: %v", id, err)) // a Date is always written as one
	}
	p.RhythmID, p.SlotDate, p.SlotOpening, p.SlotOrdinal = &id.Rhythm, &date, &id.Opening, &id.Ordinal
}

// SlugsLike lists the site's slugs that begin with the given text.
func (q Queries) SlugsLike(ctx context.Context, siteID int64, beginning string) ([]string, error) {
	var slugs []string
	err := q.all(ctx, &slugs, `select slug from posts where site_id = $1 and starts_with(slug, $2)`, siteID, beginning)
	return slugs, err
}

// FindPosts lists posts whose title contains a text, in any case; the latest changed
// first.
func (q Queries) FindPosts(ctx context.Context, siteID int64, title string, limit int) ([]Entry, error) {
	var entries []Entry
	err := q.all(ctx, &entries, selectEntry+`
		where posts.site_id = $1 and position(lower($2) in lower(title)) > 0
		order by posts.updated_at desc, posts.id desc limit $3`, siteID, title, limit)
	return entries, err
}

// Titles returns the titles of posts by their numbers.
func (q Queries) Titles(ctx context.Context, siteID int64, ids []int64) (map[int64]string, error) {
	var rows []struct {
		ID    int64  `db:"id"`
		Title string `db:"title"`
	}
	err := q.all(ctx, &rows, `select id, title from posts where site_id = $1 and id = any($2)`, siteID, ids)
	titles := make(map[int64]string, len(rows))
	for _, r := range rows {
		titles[r.ID] = r.Title
	}
	return titles, err
}

// Drafts lists the drafts that are not cleared, last changed first, without their
// bodies.
func (q Queries) Drafts(ctx context.Context, siteID int64, limit int) ([]Entry, error) {
	var entries []Entry
	err := q.all(ctx, &entries, selectEntry+`
		where posts.site_id = $1 and status = 'draft' and not cleared
		order by posts.updated_at desc, posts.id desc limit $2`, siteID, limit)
	return entries, err
}

// PublishedPosts lists published posts with their bodies, latest first, up to a
// moment.
func (q Queries) PublishedPosts(ctx context.Context, siteID int64, offset, limit int) ([]Post, error) {
	var posts []Post
	err := q.all(ctx, &posts, selectPost+`
		where posts.site_id = $1 and status = 'published'
		order by published_at desc, posts.id desc offset $2 limit $3`, siteID, offset, limit)
	return posts, err
}

// PublicPost returns the post with the slug that readers may see: published, or
// archived with its notice.
func (q Queries) PublicPost(ctx context.Context, siteID int64, slug string) (Post, error) {
	var p Post
	err := q.one(ctx, &p, selectPost+` where posts.site_id = $1 and posts.slug = $2 and status in ('published', 'archived')`, siteID, slug)
	return p, err
}

// Addresses lists the slugs of all published posts with when each last changed, latest
// first, for a sitemap.
func (q Queries) Addresses(ctx context.Context, siteID int64, limit int) ([]Entry, error) {
	var entries []Entry
	err := q.all(ctx, &entries, selectEntry+`
		where posts.site_id = $1 and status = 'published' order by published_at desc, posts.id desc limit $2`, siteID, limit)
	return entries, err
}

// SaveCare writes what rules are to know of a post (its own expiry, never, evergreen,
// custom fields, excerpt) and counts its version up.
func (t *Tx) SaveCare(ctx context.Context, p Post, now time.Time) error {
	return t.exec(ctx, `
		update posts set expires_at = $3, never_expires = $4, evergreen = $5, fields = $6, excerpt = $7, version = version + 1, updated_at = $8
		where site_id = $1 and id = $2`,
		p.SiteID, p.ID, p.ExpiresAt, p.NeverExpires, p.Evergreen, p.Fields, p.Excerpt, now)
}
