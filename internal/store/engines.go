package store

import (
	"context"
	"database/sql"
	"time"
)

// Beat notes that an engine lives.
func (q Queries) Beat(ctx context.Context, name string, started, at time.Time) error {
	return q.exec(ctx, `
		insert into engines (name, started_at, beat_at) values ($1, $2, $3)
		on conflict (name) do update set beat_at = excluded.beat_at`, name, started, at)
}

// Retire notes that an engine has ended, and forgets those that have not been heard of
// since the given moment.
func (q Queries) Retire(ctx context.Context, name string, silentSince time.Time) error {
	_, err := q.q.ExecContext(ctx, `delete from engines where name = $1 or beat_at < $2`, name, silentSince)
	return err
}

// LastBeat returns when an engine was last heard of; the zero time where none is.
func (q Queries) LastBeat(ctx context.Context) (time.Time, error) {
	var beat sql.NullTime
	err := q.one(ctx, &beat, `select max(beat_at) from engines`)
	return beat.Time, err
}

// Backlog is what waits in all sites.
type Backlog struct {
	Scheduled int `db:"scheduled"`
	Overdue   int `db:"overdue"` // due before the moment, and not held
	Held      int `db:"held"`
}

// BacklogAt counts what waits at a moment.
func (q Queries) BacklogAt(ctx context.Context, at time.Time) (Backlog, error) {
	var b Backlog
	err := q.one(ctx, &b, `
		select count(*) as scheduled, count(*) filter (where due_at <= $1 and not held) as overdue,
			count(*) filter (where held) as held
		from posts where status = 'scheduled'`, at)
	return b, err
}
