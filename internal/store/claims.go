package store

import (
	"context"
	"database/sql"
	"time"
)

// Claim is a scheduled post that this transaction alone may publish.
type Claim struct {
	ID     int64     `db:"id"`
	SiteID int64     `db:"site_id"`
	DueAt  time.Time `db:"due_at"`
	Pinned bool      `db:"pinned"`
}

// ClaimDue locks up to limit posts of all sites that are due at the moment and
// that no other transaction holds, earliest first.
func (t *Tx) ClaimDue(ctx context.Context, at time.Time, limit int) ([]Claim, error) {
	var claims []Claim
	err := t.all(ctx, &claims, `
		select id, site_id, due_at, pinned from posts
		where status = 'scheduled' and due_at <= $1
		order by due_at, id limit $2
		for update skip locked`, at, limit)
	return claims, err
}

// Publication is a deed of publishing: which post, and the reason for the logbook.
type Publication struct {
	SiteID, Post int64
	Due          time.Time
	Reason       string
}

// Publish makes claimed posts public at the moment and writes a line of the logbook
// for each, as the engine's deed.
func (t *Tx) Publish(ctx context.Context, publications []Publication, at time.Time) error {
	sites, ids := make([]int64, len(publications)), make([]int64, len(publications))
	dues, reasons := make([]time.Time, len(publications)), make([]string, len(publications))
	for i, p := range publications {
		sites[i], ids[i], dues[i], reasons[i] = p.SiteID, p.Post, p.Due, p.Reason
	}
	_, err := t.q.ExecContext(ctx, `
		with given as (
			select * from unnest($1::bigint[], $2::bigint[], $3::timestamptz[], $4::text[]) given (site_id, id, due, reason)
		), published as (
			update posts set status = 'published', published_at = $5, due_at = null, version = version + 1, updated_at = $5
			from given
			where posts.site_id = given.site_id and posts.id = given.id and status = 'scheduled'
			returning posts.site_id, posts.id, given.due, given.reason
		)
		insert into logbook (site_id, at, deed, post_id, reason, before, after)
		select site_id, $5, 'publish', id, reason,
			jsonb_build_object('status', 'scheduled', 'due_at', due),
			jsonb_build_object('status', 'published', 'published_at', $5::timestamptz)
		from published order by due, id`, sites, ids, dues, reasons, at)
	return err
}

// NextDueAfter returns when the next scheduled post of any site is due after the
// moment; the zero time where none waits.
func (q Queries) NextDueAfter(ctx context.Context, at time.Time) (time.Time, error) {
	var next sql.NullTime
	err := q.one(ctx, &next, `select min(due_at) from posts where status = 'scheduled' and due_at > $1`, at)
	return next.Time, err
}
