package turns

import (
	"context"
	"time"

	"dapper.example/internal/store/db"
)

// Ask has the engine ask core about a site's rules at a moment, or sooner where that is
// settled already.
func (q Queries) Ask(ctx context.Context, siteID int64, at time.Time) error {
	return q.run.Exec(ctx, `
		insert into asks (site_id, at) values ($1, $2) on conflict (site_id) do update set at = least(asks.at, excluded.at)`, siteID, at)
}

// AskForExpiring has the engine ask at once about the sites of posts that have an
// expiry of their own.
func (t *Tx) AskForExpiring(ctx context.Context, posts []int64, at time.Time) error {
	_, err := t.run.Do(ctx, `
		insert into asks (site_id, at) select distinct site_id, $2::timestamptz from posts where id = any($1) and expires_at is not null
		on conflict (site_id) do update set at = least(asks.at, excluded.at)`, posts, at)
	return err
}

// NextAsk returns when the engine is to ask about any site next, after a moment; the zero
// time where nothing is to be asked.
func (q Queries) NextAsk(ctx context.Context, after time.Time) (time.Time, error) {
	var next *time.Time
	err := q.run.One(ctx, &next,
		`select min(asks.at) from asks join sites on sites.id = site_id where paused_at is null and asks.at > $1`, after)
	return db.OrZero(next), err
}

// AskNext settles when the engine asks about a site next; the zero time is never, until
// something changes.
func (t *Tx) AskNext(ctx context.Context, siteID int64, at time.Time) error {
	if at.IsZero() {
		_, err := t.run.Do(ctx, `delete from asks where site_id = $1`, siteID)
		return err
	}
	return t.run.Exec(ctx, `insert into asks (site_id, at) values ($1, $2) on conflict (site_id) do update set at = excluded.at`, siteID, at)
}
