package calendars

import (
	"context"
	"time"

	"dapper.example/internal/store/db"
)

// CalendarFeed is a secret address at which calendar programs read the plan.
type CalendarFeed struct {
	ID         int64      `db:"id"`
	SiteID     int64      `db:"site_id"`
	User       int64      `db:"user_id"`
	Name       string     `db:"name"`
	Authors    db.IDs     `db:"authors"`    // only posts of these authors; empty: of all
	Categories db.IDs     `db:"categories"` // only posts of these categories; empty: of any
	Status     string     `db:"status"`     // only posts that are scheduled, pinned, held or published; "": any
	Kind       string     `db:"kind"`       // only posts or pages; "": either
	Hash       []byte     `db:"hash"`
	CreatedAt  time.Time  `db:"created_at"`
	ReadAt     *time.Time `db:"read_at"` // when a program last read it
}

// InsertCalendarFeed adds a feed.
func (q Queries) InsertCalendarFeed(ctx context.Context, f CalendarFeed) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		insert into calendar_feeds (site_id, user_id, name, authors, categories, status, kind, hash, created_at)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9) returning id`,
		f.SiteID, f.User, f.Name, f.Authors, f.Categories, f.Status, f.Kind, f.Hash, f.CreatedAt)
	return id, err
}

// CalendarFeeds lists a person's feeds of a site, latest first.
func (q Queries) CalendarFeeds(ctx context.Context, siteID, user int64) ([]CalendarFeed, error) {
	var feeds []CalendarFeed
	err := q.run.All(ctx, &feeds, `select * from calendar_feeds where site_id = $1 and user_id = $2 order by id desc`,
		siteID, user)
	return feeds, err
}

// EndCalendarFeed ends a person's feed.
func (q Queries) EndCalendarFeed(ctx context.Context, siteID, user, id int64) error {
	return q.run.Exec(ctx, `delete from calendar_feeds where site_id = $1 and user_id = $2 and id = $3`, siteID, user, id)
}

// CalendarFeedByHash returns the feed that a secret opens. It fails with db.ErrNotFound once the feed's
// owner is not on the site any more.
func (q Queries) CalendarFeedByHash(ctx context.Context, hash []byte) (CalendarFeed, error) {
	var f CalendarFeed
	err := q.run.One(ctx, &f, `
		select calendar_feeds.* from calendar_feeds join memberships using (site_id, user_id) where hash = $1`, hash)
	return f, err
}

// NoteCalendarRead notes that a feed was read.
func (q Queries) NoteCalendarRead(ctx context.Context, id int64, at time.Time) error {
	return q.run.Exec(ctx, `update calendar_feeds set read_at = $2 where id = $1`, id, at)
}

// The states of a calendar's entry.
const (
	CalendarScheduled = "scheduled"
	CalendarOut       = "out"
	CalendarCancelled = "cancelled" // it had a time, and has none now
)

// CalendarEntry is a post as a calendar shows it.
type CalendarEntry struct {
	ID        int64     `db:"id"`
	Title     string    `db:"title"`
	Slug      string    `db:"slug"`
	Author    string    `db:"author"`
	Category  string    `db:"category"`
	Excerpt   string    `db:"excerpt"`
	Pinned    bool      `db:"pinned"`
	State     string    `db:"state"`
	At        time.Time `db:"at"`
	UpdatedAt time.Time `db:"updated_at"`
	Version   int       `db:"version"`
}

// CalendarEntries lists what a feed shows: posts that have a time after a moment, out
// or to come, and those that have lost theirs after it. What has lost its
// time is shown wherever it may have stood.
func (q Queries) CalendarEntries(ctx context.Context, f CalendarFeed, since time.Time) ([]CalendarEntry, error) {
	var entries []CalendarEntry
	err := q.run.All(ctx, &entries, `
		with lost as (
			select distinct on (post_id) post_id, (before->>'due_at')::timestamptz as due_at
			from logbook where site_id = $1 and at > $2 and post_id is not null and before->>'status' = 'scheduled' and before->>'due_at' is not null
			order by post_id, id desc
		), timed as (
			select posts.id, 'scheduled' as state, due_at as at from posts where site_id = $1 and status = 'scheduled' and due_at > $2
			union all
			select posts.id, 'out', published_at from posts where site_id = $1 and kind = 'post' and status = 'published' and published_at > $2
			union all
			select posts.id, 'cancelled', lost.due_at from posts join lost on post_id = posts.id where site_id = $1 and status in ('draft', 'binned')
		)
		select posts.id, title, posts.slug, users.name as author, coalesce(categories.name, '') as category, excerpt, pinned,
			timed.state, timed.at, posts.updated_at, version
		from timed join posts using (id) join users on users.id = author_id left join categories on categories.id = posts.category_id
		where ($3::jsonb = '[]' or $3 @> to_jsonb(author_id)) and ($4::jsonb = '[]' or $4 @> to_jsonb(posts.category_id)) and ($6::text = '' or posts.kind = $6)
			and case $5::text
				when '' then true
				when 'published' then timed.state = 'out'
				when 'held' then timed.state = 'cancelled' or timed.state = 'scheduled' and held
				when 'pinned' then timed.state = 'cancelled' or timed.state = 'scheduled' and pinned and not held
				else timed.state = 'cancelled' or timed.state = 'scheduled' and not pinned and not held
			end
		order by timed.at, posts.id`, f.SiteID, since, f.Authors, f.Categories, f.Status, f.Kind)
	return entries, err
}

// CanFilter tells whether each of a feed's authors has written for the site or is on it, and
// whether its categories are the site's.
func (q Queries) CanFilter(ctx context.Context, f CalendarFeed) (bool, error) {
	var ok bool
	err := q.run.One(ctx, &ok, `
		select not exists (select from jsonb_array_elements_text($2) as asked(id) where not exists (select from memberships where site_id = $1 and user_id = asked.id::bigint)
				and not exists (select from posts where site_id = $1 and author_id = asked.id::bigint))
			and not exists (select from jsonb_array_elements_text($3) as asked(id) where not exists (select from categories where site_id = $1 and categories.id = asked.id::bigint))`,
		f.SiteID, f.Authors, f.Categories)
	return ok, err
}
