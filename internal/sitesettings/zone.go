package sitesettings

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/store"
)

// Keep is what planned posts keep when their site goes to another zone.
type Keep string

// What planned posts may keep.
const (
	KeepInstant Keep = "instant" // the moment; clocks of the new zone show another time at it
	KeepClock   Keep = "clock"   // the time of day; that is another moment in the new zone
)

// ZoneMove is what another zone of the site means for a planned post.
type ZoneMove struct {
	Post store.Entry
	// Clock is the moment at which clocks of the new zone show what those of the old one
	// show at its present moment. It is the present moment where that would be past.
	Clock time.Time
	Past  bool // its time of day is past already in the new zone, so it keeps its moment
}

// ZoneChange tells what another zone of the site would mean for each planned post. It
// fails with *act.Invalid for a zone that is none.
func ZoneChange(ctx context.Context, q store.Queries, site store.Site, zoneName string, now time.Time) ([]ZoneMove,
	error) {
	zone, err := civil.LoadZone(zoneName)
	if err != nil {
		return nil, act.Invalidf("zone", "There is no time zone %q. Choose one from the list, such as Europe/Lisbon.",
			zoneName)
	}
	scheduled, err := q.ScheduledPosts(ctx, site.ID, now)
	if err != nil {
		return nil, err
	}
	moves := make([]ZoneMove, len(scheduled))
	for i, e := range scheduled {
		date, clock := site.Zone().Local(*e.DueAt)
		moves[i] = ZoneMove{Post: e, Clock: zone.At(date, clock)}
		if !moves[i].Clock.After(now) {
			moves[i].Clock, moves[i].Past = *e.DueAt, true
		}
	}
	return moves, nil
}

// keepClocks gives planned posts the moments at which the new zone's clocks show what
// the old one's did, in the act of the logbook at hand. Unpinned ones keep their slots: the
// rhythm draws by the clock.
func keepClocks(ctx context.Context, d act.Desk, tx *store.Tx, site store.Site, zoneName string, now time.Time) error {
	moves, err := ZoneChange(ctx, tx.Queries, site, zoneName, now)
	if err != nil {
		return err
	}
	for _, m := range moves {
		if m.Clock.Equal(*m.Post.DueAt) {
			continue
		}
		p, err := tx.LockPost(ctx, d.Site.ID, m.Post.ID)
		if err != nil {
			return err
		}
		reason := fmt.Sprintf("Keeps its time of day: the site is on %s time now.", zoneName)
		if err := d.Stand(ctx, tx, p, p.State().Move(m.Clock, p.Slot()), store.DeedMove, reason, now); err != nil {
			return err
		}
	}
	return nil
}
