// Package plan keeps the plan: which posts have a time, and the shelf.
package plan

import (
	"context"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store/db"
)

// Queries runs its statements on a pool or in a transaction.
type Queries struct {
	run  db.Runner
	kept *Kept
}

// On returns the statements on a pool or a transaction. What readings of the plan keep for
// the next ones is kept in kept; in a transaction nothing is, and it may be nil.
func On(run db.Runner, kept *Kept) Queries { return Queries{run, kept} }

// Tx has, beside them, those that want a transaction.
type Tx struct{ Queries }

// In returns the statements in a transaction.
func In(run db.Runner) Tx { return Tx{On(run, nil)} }

// Entry is what the plan shows of a post: no body.
type Entry struct {
	ID           int64       `db:"id"`
	Title        string      `db:"title"`
	Slug         string      `db:"slug"`
	AuthorID     int64       `db:"author_id"`
	AuthorName   string      `db:"author_name"`
	CategoryID   *int64      `db:"category_id"`
	CategoryName *string     `db:"category_name"`
	Status       post.Status `db:"status"`
	Pinned       bool        `db:"pinned"`
	DueAt        *time.Time  `db:"due_at"`
	PublishedAt  *time.Time  `db:"published_at"`
	CreatedAt    time.Time   `db:"created_at"`
	UpdatedAt    time.Time   `db:"updated_at"`
	NotBefore    *time.Time  `db:"not_before"`
	Deadline     *time.Time  `db:"deadline"`
	Held         bool        `db:"held"`
	Kind         string      `db:"kind"` // post or page
	Version      int         `db:"version"`
	RhythmID     *int64      `db:"rhythm_id"`
	SlotDate     *time.Time  `db:"slot_date"`
	SlotOpening  *string     `db:"slot_opening"`
	SlotOrdinal  *int        `db:"slot_ordinal"`
}

// At is the entry's time: that of publication, or the one it is due at. It is the
// zero time for a draft.
func (e Entry) At() time.Time {
	switch {
	case e.PublishedAt != nil:
		return *e.PublishedAt
	case e.DueAt != nil:
		return *e.DueAt
	}
	return time.Time{}
}

// Slot names the slot the entry sits in, or is the zero SlotID.
func (e Entry) Slot() rhythm.SlotID {
	return SlotID(e.RhythmID, e.SlotDate, e.SlotOpening, e.SlotOrdinal)
}

const SelectEntry = `
	select posts.id, title, posts.slug, author_id, users.name as author_name, category_id, categories.name as category_name, status, pinned,
		due_at, published_at, posts.created_at, posts.updated_at, not_before, deadline, held, kind, version, rhythm_id, slot_date, slot_opening, slot_ordinal
	from posts join users on users.id = author_id left join categories on categories.id = category_id`

// Choice is an entry that somebody chose, with what a placement asks of it.
type Choice struct {
	Entry
	HasText bool `db:"has_text"`
	Cleared bool `db:"cleared"`
}

// EntriesOf lists the entries with the ids, in their order; ids that the site has not
// are left out.
func (q Queries) EntriesOf(ctx context.Context, siteID int64, ids []int64) ([]Choice, error) {
	var chosen []Choice
	err := q.run.All(ctx, &chosen, `
		select entry.*, posts.words > 0 as has_text, posts.cleared
		from (`+SelectEntry+` where posts.site_id = $1 and posts.id = any($2)) entry join posts using (id)
		order by array_position($2, entry.id)`, siteID, ids)
	return chosen, err
}

// ScheduledPosts lists the posts that wait for a time after a moment, in time order;
// held ones are left out.
func (q Queries) ScheduledPosts(ctx context.Context, siteID int64, after time.Time) ([]Entry, error) {
	var entries []Entry
	err := q.run.All(ctx, &entries, SelectEntry+`
		where posts.site_id = $1 and status = 'scheduled' and not held and due_at > $2 order by due_at, posts.id`, siteID, after)
	return entries, err
}

// Shelf lists the cleared drafts in shelf order.
func (q Queries) Shelf(ctx context.Context, siteID int64) ([]Entry, error) {
	var entries []Entry
	err := q.run.All(ctx, &entries, SelectEntry+` where posts.site_id = $1 and cleared order by shelf_rank, posts.id`,
		siteID)
	return entries, err
}

// NextDue returns the scheduled post of the site that comes out next.
func (q Queries) NextDue(ctx context.Context, siteID int64) (Entry, error) {
	var e Entry
	err := q.run.One(ctx, &e, SelectEntry+`
		where posts.site_id = $1 and status = 'scheduled' and not held order by due_at, posts.id limit 1`, siteID)
	return e, err
}

// SlottedPosts lists the scheduled posts that sit in slots and come out after the
// moment, in time order.
func (q Queries) SlottedPosts(ctx context.Context, siteID int64, after time.Time) ([]Entry, error) {
	var entries []Entry
	err := q.run.All(ctx, &entries, SelectEntry+`
		where posts.site_id = $1 and status = 'scheduled' and not held and not pinned and slot_date is not null and due_at > $2
		order by due_at, posts.id`, siteID, after)
	return entries, err
}

// LeaveSlots takes posts out of their slots, times kept, so that they can change places.
func (t *Tx) LeaveSlots(ctx context.Context, siteID int64, ids []int64) error {
	return t.run.Exec(ctx, `
		update posts set rhythm_id = null, slot_date = null, slot_opening = null, slot_ordinal = null
		where site_id = $1 and id = any($2)`, siteID, ids)
}

// HasPlanned tells whether any post of a site has, or had, a time in its plan.
func (q Queries) HasPlanned(ctx context.Context, siteID int64) (bool, error) {
	var some bool
	err := q.run.One(ctx, &some, `
		select exists (select from posts where site_id = $1 and (status in ('scheduled', 'published', 'archived') or first_published_at is not null))`, siteID)
	return some, err
}

// Held lists the posts that were due by a moment and wait for an editor, oldest first.
func (q Queries) Held(ctx context.Context, siteID int64, now time.Time) ([]Entry, error) {
	var entries []Entry
	err := q.run.All(ctx, &entries, SelectEntry+`
		where posts.site_id = $1 and status = 'scheduled' and held and due_at <= $2 order by due_at, posts.id`, siteID, now)
	return entries, err
}

// ShelfEnds returns the lowest and the highest rank on the shelf, both 0 where it
// is empty.
func (q Queries) ShelfEnds(ctx context.Context, siteID int64) (low, high int64, err error) {
	var ends struct {
		Low  int64 `db:"low"`
		High int64 `db:"high"`
	}
	err = q.run.One(ctx, &ends, `
		select coalesce(min(shelf_rank), 0) as low, coalesce(max(shelf_rank), 0) as high
		from posts where site_id = $1 and cleared`, siteID)
	return ends.Low, ends.High, err
}

// RankShelf gives the cleared drafts the order of the ids.
func (t *Tx) RankShelf(ctx context.Context, siteID int64, ids []int64) error {
	_, err := t.run.Do(ctx, `
		update posts set shelf_rank = place
		from unnest($2::bigint[]) with ordinality given (id, place)
		where posts.site_id = $1 and posts.id = given.id and cleared and shelf_rank <> place`, siteID, ids)
	return err
}

// SiteStatus is what every screen shows of a site's plan.
type SiteStatus struct {
	Next    *PostTitle // what comes out next
	NextAt  time.Time
	Overdue int        // posts whose time has passed and that wait for an editor
	Asking  PostTitles // rules that need a decision, by id and name
}

// SiteStatus reads a site's status at a moment.
func (q Queries) SiteStatus(ctx context.Context, siteID int64, now time.Time) (SiteStatus, error) {
	var row struct {
		ID      *int64     `db:"id"`
		Title   *string    `db:"title"`
		At      *time.Time `db:"due_at"`
		Overdue int        `db:"overdue"`
		Asking  PostTitles `db:"asking"`
	}
	err := q.run.One(ctx, &row, `
		select next.id, next.title, next.due_at,
			(select count(*) from posts where site_id = $1 and status = 'scheduled' and held and due_at <= $2) as overdue,
			(select coalesce(json_agg(json_build_object('id', id, 'title', name) order by kind, position, id), '[]')
				from rules where site_id = $1 and deleted_at is null and armed_at is not null and held_at is not null) as asking
		from (select 1) once left join lateral (
			select id, title, due_at from posts where site_id = $1 and status = 'scheduled' and not held order by due_at, id limit 1
		) next on true`, siteID, now)
	status := SiteStatus{Overdue: row.Overdue, Asking: row.Asking}
	if row.ID != nil {
		status.Next, status.NextAt = &PostTitle{*row.ID, *row.Title}, *row.At
	}
	return status, err
}

// PostTitle names a post.
type PostTitle struct {
	ID    int64  `json:"id"`
	Title string `json:"title"`
}

// PostTitles is a list of posts that a query returns as a JSON array.
type PostTitles []PostTitle

// Scan reads a JSON array.
func (p *PostTitles) Scan(src any) error { return db.ScanJSON(src, p) }

func SlotID(rhythmID *int64, date *time.Time, opening *string, ordinal *int) rhythm.SlotID {
	if rhythmID == nil || date == nil {
		return rhythm.SlotID{}
	}
	return rhythm.SlotID{Rhythm: *rhythmID, Date: civil.NewDate(date.Date()), Opening: *opening, Ordinal: *ordinal}
}
