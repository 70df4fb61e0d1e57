package turns

import (
	"context"
	"database/sql"
	"time"
)

// SitesToTurn lists the sites on which something is to be decided by a moment: those
// that have posts overdue since another and a choice other than to publish them at once,
// and those about whose rules the engine is to ask. Paused sites are left out. What it
// costs follows what is due, not how many sites there are.
func (q Queries) SitesToTurn(ctx context.Context, at, overdue time.Time) ([]int64, error) {
	var ids []int64
	err := q.run.All(ctx, &ids, `
		with due as (
			select site_id, false as late from asks where at <= $1
			union
			select site_id, true from posts where status = 'scheduled' and not held and due_at <= $2
		)
		select distinct id from sites join due on site_id = id
		where paused_at is null and (not late or catch_up <> 'at once') order by id`, at, overdue)
	return ids, err
}

// NextDueAfter returns when the next scheduled post of any site is due after the
// moment; the zero time where none waits.
func (q Queries) NextDueAfter(ctx context.Context, at time.Time) (time.Time, error) {
	var next sql.NullTime
	err := q.run.One(ctx, &next, `select min(due_at) from posts where status = 'scheduled' and not held and due_at > $1`,
		at)
	return next.Time, err
}
