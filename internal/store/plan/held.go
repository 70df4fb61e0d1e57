package plan

import (
	"context"
	"time"
)

// Waiting lists the posts of a site that wait for an editor: held ones, and those that are overdue at a moment, by their time.
func (q Queries) Waiting(ctx context.Context, siteID int64, overdue time.Time) ([]Entry, error) {
	var all []Entry
	err := q.run.All(ctx, &all, SelectEntry+`
		where posts.site_id = $1 and status = 'scheduled' and (held or due_at <= $2) order by due_at, posts.id`, siteID, overdue)
	return all, err
}
