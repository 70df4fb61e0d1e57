package planning

import (
	"context"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// OverduePost is a post whose time has passed, and what would become of it.
type OverduePost struct {
	Post store.Entry
	Deed deed.Description // to publish, move or hold it
}

// Overdue is what was missed on a site.
type Overdue struct {
	// Waiting are overdue posts with what catching up would do, were the site to go on
	// now. Of a site that is not paused, an engine does it within a moment.
	Waiting []OverduePost
	Held    []store.Entry // what waits for an editor
	Done    []store.LogEntry
}

// remembered is for how long what catching up did is told of.
const remembered = 7 * 24 * time.Hour

// OverdueOf tells what was missed, what catching up proposes, and what it has done within
// the last week. Nothing is written.
func OverdueOf(ctx context.Context, q store.Queries, site store.Site, now time.Time) (out Overdue, err error) {
	standing, err := q.Placed(ctx, site.ID, since(site, now))
	if err != nil {
		return out, err
	}
	r, err := q.RhythmOf(ctx, site.ID)
	if err != nil {
		return out, err
	}
	s := deed.Snapshot{CatchUp: deed.CatchUp(site.CatchUp), Fresh: time.Duration(site.CatchUpMinutes) * time.Minute,
		Gap: time.Duration(r.Gap) * time.Minute, GapAt: r.In(site.Zone()).GapAt}
	var occupied []rhythm.Occupied
	var ids []int64
	for _, one := range standing {
		if one.Waits && !one.At.After(now) {
			s.Scheduled = append(s.Scheduled, deed.Scheduled{Post: one.Post, Due: one.At, Pinned: one.Pinned,
				Slot: one.Slot})
			ids = append(ids, one.Post)
			continue
		}
		s.Taken = append(s.Taken, one.At)
		occupied = append(occupied, one.Occupied)
	}
	s.Slots = queue.Slots(r.In(site.Zone()), deed.Minute(now), occupied)
	entries, err := q.EntriesOf(ctx, site.ID, ids)
	if err != nil {
		return out, err
	}
	of := make(map[int64]store.Entry, len(entries))
	for _, e := range entries {
		of[e.ID] = e.Entry
	}
	for _, d := range deed.Decide(s, deed.Minute(now)).Describe() {
		if e, there := of[d.Post]; there {
			out.Waiting = append(out.Waiting, OverduePost{e, d})
		}
	}
	if out.Held, err = q.Held(ctx, site.ID, now); err != nil {
		return out, err
	}
	out.Done, err = q.CaughtUp(ctx, site.ID, now.Add(-remembered), deed.Late)
	return out, err
}
