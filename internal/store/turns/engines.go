package turns

import (
	"context"
	"database/sql"
	"time"
)

// Beat notes that an engine lives.
func (q Queries) Beat(ctx context.Context, name string, started, at time.Time) error {
	return q.run.Exec(ctx, `
		insert into engines (name, started_at, beat_at) values ($1, $2, $3)
		on conflict (name) do update set beat_at = excluded.beat_at`, name, started, at)
}

// Retire notes that an engine has ended, and forgets those that have not been heard of
// since the given moment.
func (q Queries) Retire(ctx context.Context, name string, silentSince time.Time) error {
	_, err := q.run.Do(ctx, `delete from engines where name = $1 or beat_at < $2`, name, silentSince)
	return err
}

// LastBeat returns when an engine was last heard of; the zero time where none is.
func (q Queries) LastBeat(ctx context.Context) (time.Time, error) {
	var beat sql.NullTime
	err := q.run.One(ctx, &beat, `select max(beat_at) from engines`)
	return beat.Time, err
}

// Backlog is what waits in all sites.
type Backlog struct {
	Scheduled int `db:"scheduled"`
	Overdue   int `db:"overdue"` // due before the moment, and not held
	Held      int `db:"held"`
	Shelf     int `db:"shelf"` // cleared drafts that wait for a slot
}

// BacklogAt counts what waits at a moment: each from an index of its own, so that posts
// that are out cost nothing.
func (q Queries) BacklogAt(ctx context.Context, at time.Time) (Backlog, error) {
	var b Backlog
	err := q.run.One(ctx, &b, `
		select (select count(*) from posts where status = 'scheduled') as scheduled,
			(select count(*) from posts where status = 'scheduled' and not held and due_at <= $1) as overdue,
			(select count(*) from posts where status = 'scheduled' and held) as held,
			(select count(*) from posts where cleared and status = 'draft') as shelf`, at)
	return b, err
}

// JobsOfAKind says how many jobs of a kind wait to leave the house, such as mails.
type JobsOfAKind struct {
	Kind   string  `db:"kind"`
	Jobs   int     `db:"jobs"`
	Failed int     `db:"failed"` // of them, tried before
	Late   float64 `db:"late"`   // seconds since the oldest should have begun; 0 where none is late
}

// JobsWaiting counts the jobs that wait or are in hand at a moment, by kind.
func (q Queries) JobsWaiting(ctx context.Context, at time.Time) ([]JobsOfAKind, error) {
	var jobs []JobsOfAKind
	err := q.run.All(ctx, &jobs, `
		select kind, count(*) as jobs, count(*) filter (where attempt > 0 and state <> 'running') as failed,
			greatest(0, coalesce(extract(epoch from $1::timestamptz - min(scheduled_at) filter (where state <> 'running')), 0))::float8 as late
		from river_job where finalized_at is null group by kind order by kind`, at)
	return jobs, err
}
