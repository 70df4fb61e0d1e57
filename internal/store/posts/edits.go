package posts

import (
	"context"
	"database/sql/driver"
	"fmt"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/store/db"
)

// EditState says what becomes of a timed edit.
type EditState string

// The states of a timed edit.
const (
	EditWaiting EditState = "waiting"
	EditHeld    EditState = "held" // for an editor
	EditApplied EditState = "applied"
	EditDropped EditState = "dropped"
)

// Wording is a text of a post with all that a timed edit may change, kept as JSON.
type Wording struct{ revise.Text }

// Scan reads a JSON object.
func (w *Wording) Scan(src any) error { return db.ScanJSON(src, &w.Text) }

// Value writes a JSON object.
func (w Wording) Value() (driver.Value, error) { return db.JSON(w.Text) }

// EachYear is a date that a timed edit comes again on, kept as JSON; nil: once.
type EachYear struct{ *revise.Yearly }

// Scan reads a JSON object.
func (y *EachYear) Scan(src any) error {
	if src == nil {
		y.Yearly = nil
		return nil
	}
	y.Yearly = new(revise.Yearly)
	return db.ScanJSON(src, y.Yearly)
}

// Value writes a JSON object.
func (y EachYear) Value() (driver.Value, error) {
	if y.Yearly == nil {
		return nil, nil
	}
	return db.JSON(y.Yearly)
}

// TimedEdit is a prepared change of a post, which replaces what the post says at a time.
type TimedEdit struct {
	ID        int64      `db:"id"`
	SiteID    int64      `db:"site_id"`
	Post      int64      `db:"post_id"`
	User      *int64     `db:"user_id"` // who prepared it
	Base      Wording    `db:"base"`    // what the post said when it was prepared
	Wanted    Wording    `db:"wanted"`
	DueAt     time.Time  `db:"due_at"` // a whole minute
	Yearly    EachYear   `db:"yearly"`
	State     EditState  `db:"state"`
	HeldWhy   string     `db:"held_why"`
	CreatedAt time.Time  `db:"created_at"`
	UpdatedAt time.Time  `db:"updated_at"`
	AppliedAt *time.Time `db:"applied_at"` // last time
	Version   int        `db:"version"`
	Who       string     `db:"who"`    // the name of who prepared it; read only
	Title     string     `db:"title"`  // of its post; read only
	Status    Status     `db:"status"` // of its post; read only
}

const selectEdit = `
	select timed_edits.*, coalesce(users.name, '') as who, posts.title, posts.status
	from timed_edits join posts on posts.id = post_id left join users on users.id = user_id`

// InsertEdit adds a timed edit, and returns its number.
func (t *Tx) InsertEdit(ctx context.Context, e TimedEdit) (int64, error) {
	var id int64
	err := t.run.One(ctx, &id, `
		insert into timed_edits (site_id, post_id, user_id, base, wanted, due_at, yearly, created_at, updated_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $8) returning id`,
		e.SiteID, e.Post, e.User, e.Base, e.Wanted, e.DueAt, e.Yearly, e.CreatedAt)
	return id, err
}

// LockEdit returns a timed edit of a site, and keeps others from changing it until the transaction ends.
func (t *Tx) LockEdit(ctx context.Context, siteID, id int64) (e TimedEdit, err error) {
	if err := t.run.One(ctx, &id, `select id from timed_edits where site_id = $1 and id = $2 for update`, siteID, id); err != nil {
		return e, err
	}
	return t.TimedEdit(ctx, siteID, id)
}

// TimedEdit returns a timed edit of a site.
func (q Queries) TimedEdit(ctx context.Context, siteID, id int64) (e TimedEdit, err error) {
	err = q.run.One(ctx, &e, selectEdit+` where timed_edits.site_id = $1 and timed_edits.id = $2`, siteID, id)
	return e, err
}

// SaveEdit writes a timed edit that is locked, and counts its version up.
func (t *Tx) SaveEdit(ctx context.Context, e TimedEdit, now time.Time) error {
	return t.run.Exec(ctx, `
		update timed_edits set base = $3, wanted = $4, due_at = $5, yearly = $6, state = $7, held_why = $8, applied_at = $9, updated_at = $10, version = version + 1
		where site_id = $1 and id = $2`, e.SiteID, e.ID, e.Base, e.Wanted, e.DueAt, e.Yearly, e.State, e.HeldWhy, e.AppliedAt, now)
}

// EditsOf lists the timed edits of a post that are in some states, in order of their time; what they say goes along.
func (q Queries) EditsOf(ctx context.Context, siteID, post int64, states ...EditState) ([]TimedEdit, error) {
	var all []TimedEdit
	err := q.run.All(ctx, &all, selectEdit+` where timed_edits.site_id = $1 and post_id = $2 and state = any($3) order by due_at, timed_edits.id`, siteID, post, states)
	return all, err
}

// Says is what the edit has its post say when it is due, in words of that year where it comes every year.
func (e TimedEdit) Says(zone civil.Zone) revise.Text {
	return e.Wanted.Due(e.DueAt, e.Yearly.Yearly, zone)
}

// EditMark is a timed edit without what it says.
type EditMark struct {
	ID      int64     `db:"id"`
	Post    int64     `db:"post_id"`
	DueAt   time.Time `db:"due_at"`
	State   EditState `db:"state"`
	HeldWhy string    `db:"held_why"`
	Yearly  bool      `db:"yearly"`
	Version int       `db:"version"`
	Who     string    `db:"who"`
	Title   string    `db:"title"` // of its post
	Status  Status    `db:"status"`
}

// Edits lists the timed edits of a site that are in some states, in order of their time.
func (q Queries) Edits(ctx context.Context, siteID int64, states ...EditState) ([]EditMark, error) {
	var all []EditMark
	err := q.run.All(ctx, &all, `
		select timed_edits.id, post_id, timed_edits.due_at, state, held_why, yearly is not null as yearly, timed_edits.version, coalesce(users.name, '') as who, posts.title, posts.status
		from timed_edits join posts on posts.id = post_id left join users on users.id = user_id
		where timed_edits.site_id = $1 and state = any($2) order by timed_edits.due_at, timed_edits.id`, siteID, states)
	return all, err
}

// EditsOpen is how many timed edits wait, for their time or for an editor, beside one, on a site and for one of its posts, and how many bytes they
// say together.
func (q Queries) EditsOpen(ctx context.Context, siteID, post, beside int64) (onSite, ofPost, bytes int, err error) {
	var row struct {
		Site  int `db:"on_site"`
		Post  int `db:"of_post"`
		Bytes int `db:"bytes"`
	}
	err = q.run.One(ctx, &row, `
		select count(*) as on_site, count(*) filter (where post_id = $2) as of_post, coalesce(sum(octet_length(base::text) + octet_length(wanted::text)), 0) as bytes
		from timed_edits where site_id = $1 and id <> $3 and state in ('waiting', 'held')`, siteID, post, beside)
	return row.Site, row.Post, row.Bytes, err
}

// WaitingEdits lists when the timed edits of a site are due that wait.
func (q Queries) WaitingEdits(ctx context.Context, siteID int64) ([]EditMark, error) {
	var all []EditMark
	err := q.run.All(ctx, &all, `
		select id, post_id, due_at from timed_edits where site_id = $1 and state = 'waiting' order by due_at, id`, siteID)
	return all, err
}

// EditsDue lists the timed edits of a site that wait and are due up to a moment, with what they say.
func (q Queries) EditsDue(ctx context.Context, siteID int64, until time.Time) ([]TimedEdit, error) {
	var all []TimedEdit
	err := q.run.All(ctx, &all, selectEdit+` where timed_edits.site_id = $1 and state = 'waiting' and timed_edits.due_at <= $2 order by timed_edits.due_at, timed_edits.id`, siteID, until)
	return all, err
}

// LockLiveTexts is LiveTexts of posts that stay as they are: nobody else changes them until the transaction ends.
func (t *Tx) LockLiveTexts(ctx context.Context, siteID int64, posts []int64) (map[int64]revise.Text, error) {
	var locked []int64
	if err := t.run.All(ctx, &locked, `select id from posts where site_id = $1 and id = any($2) order by id for update`, siteID, posts); err != nil {
		return nil, fmt.Errorf("locking posts: %w", err)
	}
	return t.LiveTexts(ctx, siteID, posts)
}

// LiveTexts are what posts of a site say now, as timed edits see it.
func (q Queries) LiveTexts(ctx context.Context, siteID int64, posts []int64) (map[int64]revise.Text, error) {
	texts := make(map[int64]revise.Text, len(posts))
	for _, id := range posts {
		p, err := q.Post(ctx, siteID, id)
		if err != nil {
			return nil, fmt.Errorf("reading post %d: %w", id, err)
		}
		texts[id] = p.Says()
	}
	return texts, nil
}

// Says is what a post says, with all that a timed edit may change.
func (p Post) Says() revise.Text {
	t := revise.Text{Title: p.Title, Body: p.Body, Excerpt: p.Excerpt, Slug: p.Slug, Tags: p.Tags, Fields: p.Fields, Image: p.FeaturedImage, Alt: p.FeaturedAlt}
	if p.CategoryID != nil {
		t.Category = *p.CategoryID
	}
	return t
}

// Say has the post say a text, but for its tags, which are rows of their own.
func (p *Post) Say(t revise.Text) {
	p.Title, p.Body, p.Excerpt, p.Slug, p.Tags, p.Fields, p.FeaturedImage, p.FeaturedAlt = t.Title, t.Body, t.Excerpt, t.Slug, t.Tags, t.Fields, t.Image, t.Alt
	if p.CategoryID = nil; t.Category != 0 {
		p.CategoryID = &t.Category
	}
	if p.Fields == nil {
		p.Fields = db.Fields{}
	}
}

// SlugsHeld says which posts of a site some addresses belong to, as the present or a former one.
func (q Queries) SlugsHeld(ctx context.Context, siteID int64, slugs []string) (map[string]int64, error) {
	var rows []struct {
		Slug string `db:"slug"`
		Post int64  `db:"id"`
	}
	if err := q.run.All(ctx, &rows, `
		select slug, id from posts where site_id = $1 and slug = any($2)
		union all select slug, post_id from old_slugs where site_id = $1 and slug = any($2)`, siteID, slugs); err != nil {
		return nil, err
	}
	held := make(map[string]int64, len(rows))
	for _, r := range rows {
		held[r.Slug] = r.Post
	}
	return held, nil
}
