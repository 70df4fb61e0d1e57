package store

import (
	"context"
	"encoding/json"
	"time"
)

// Deeds that the logbook knows, beside the kinds of core's deeds.
const (
	DeedPublish = "publish"
	DeedCommit  = "commit"
	DeedRetime  = "retime"
	DeedShelve  = "shelve"
	DeedClear   = "clear"
	DeedUnclear = "unclear"
	DeedReorder = "reorder"
	DeedRhythm  = "rhythm"
)

// LogEntry is one line of the logbook: what was done, when, why and by whom.
type LogEntry struct {
	ID     int64           `db:"id"`
	SiteID int64           `db:"site_id"`
	At     time.Time       `db:"at"`
	Actor  *int64          `db:"actor_id"` // nil: the engine
	Who    string          `db:"who"`      // the actor's name; read only
	Deed   string          `db:"deed"`
	Post   *int64          `db:"post_id"`
	Reason string          `db:"reason"`
	Before json.RawMessage `db:"before"` // what the deed changed, for undoing it
	After  json.RawMessage `db:"after"`
}

// Log writes a line of the logbook.
func (q Queries) Log(ctx context.Context, e LogEntry) error {
	return q.exec(ctx, `
		insert into logbook (site_id, at, actor_id, deed, post_id, reason, before, after)
		values ($1, $2, $3, $4, $5, $6, $7, $8)`,
		e.SiteID, e.At, e.Actor, e.Deed, e.Post, e.Reason, nullJSON(e.Before), nullJSON(e.After))
}

// LogOf lists the logbook of one post, latest first.
func (q Queries) LogOf(ctx context.Context, siteID, postID int64) ([]LogEntry, error) {
	var entries []LogEntry
	err := q.all(ctx, &entries, `
		select logbook.id, site_id, at, actor_id, coalesce(users.name, 'the engine') as who, deed, post_id, reason,
			coalesce(before, 'null') as before, coalesce(after, 'null') as after
		from logbook left join users on users.id = actor_id
		where site_id = $1 and post_id = $2 order by at desc, logbook.id desc`, siteID, postID)
	return entries, err
}

func nullJSON(raw json.RawMessage) *string {
	if raw == nil {
		return nil
	}
	text := string(raw)
	return &text
}
