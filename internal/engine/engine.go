// Package engine does what is due.
//
// At each step it claims the posts that are due, asks core what to do with them,
// does it and writes the logbook, in one transaction. Claims skip what another
// process holds, so any number of engines share one database and each deed is done
// once: an engine that dies between claim and commit leaves everything as it was.
//
// The engine keeps no plan in memory. It wakes when the next post is due, when the
// plan changes, and now and then in any case, since clocks may be set.
package engine

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"github.com/jonboulle/clockwork"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/store"
)

// Engine publishes what is due on all sites of a store.
type Engine struct {
	store   *store.Store
	changes *store.Changes
	clock   clockwork.Clock
	log     *slog.Logger

	// claimed is called, where a test sets it, between claim and effect.
	claimed func(posts []int64)
}

// New returns an engine; Run starts it. The clock is the only one it reads.
func New(s *store.Store, changes *store.Changes, clock clockwork.Clock, log *slog.Logger) *Engine {
	return &Engine{store: s, changes: changes, clock: clock, log: log, claimed: func([]int64) {}}
}

const (
	// batch bounds one transaction, so that several engines can share a backlog.
	batch = 100
	// longestRest is after how long the engine looks again even if nothing is due:
	// a clock that is set forward is noticed by then.
	longestRest = 5 * time.Second
	// afterFailure is how long it rests when the database fails.
	afterFailure = time.Second
)

// Run works until the context ends; a batch in hand is finished or undone. It
// returns no error: what fails is logged and tried again.
func (e *Engine) Run(ctx context.Context) {
	changed := e.changes.Subscribe(store.AllSites)
	defer e.changes.Unsubscribe(changed)
	for ctx.Err() == nil {
		rest := e.work(ctx)
		timer := e.clock.NewTimer(rest)
		select {
		case <-ctx.Done():
		case <-timer.Chan():
		case <-changed.C:
		}
		timer.Stop()
	}
}

// work does all that is due and returns how long to rest.
func (e *Engine) work(ctx context.Context) time.Duration {
	for {
		done, err := e.Step(ctx)
		if err != nil {
			if ctx.Err() == nil {
				e.log.Error("a step of the engine failed; nothing of it was kept", "error", err)
			}
			return afterFailure
		}
		if done == 0 {
			break
		}
	}
	now := e.clock.Now()
	next, err := e.store.NextDueAfter(ctx, now)
	switch {
	case err != nil:
		if ctx.Err() == nil {
			e.log.Error("reading what is due next failed", "error", err)
		}
		return afterFailure
	case next.IsZero():
		return longestRest
	}
	return min(max(next.Sub(now), 0), longestRest)
}

// Step claims one batch of what is due now, does it, and returns how many deeds it
// did; 0 means that nothing is due that no other engine holds.
func (e *Engine) Step(ctx context.Context) (int, error) {
	now := e.clock.Now().UTC().Truncate(time.Microsecond) // as exact as PostgreSQL keeps it
	var deeds []deed.Deed
	err := e.store.InTx(ctx, func(tx *store.Tx) error {
		claims, err := tx.ClaimDue(ctx, now, batch)
		if err != nil {
			return fmt.Errorf("claiming what is due: %w", err)
		}
		if len(claims) == 0 {
			return nil
		}
		e.claimed(idsOf(claims))
		deeds = deed.Decide(snapshotOf(claims), now).Deeds
		if err := tx.Publish(ctx, publicationsOf(deeds, claims), now); err != nil {
			return fmt.Errorf("publishing: %w", err)
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	for _, d := range deeds {
		e.log.Info("published", "post", d.Post, "due", d.Due, "lag", now.Sub(d.Due))
	}
	return len(deeds), nil
}

func idsOf(claims []store.Claim) []int64 {
	ids := make([]int64, len(claims))
	for i, c := range claims {
		ids[i] = c.ID
	}
	return ids
}

func snapshotOf(claims []store.Claim) deed.Snapshot {
	s := deed.Snapshot{Scheduled: make([]deed.Scheduled, len(claims))}
	for i, c := range claims {
		s.Scheduled[i] = deed.Scheduled{Post: c.ID, Due: c.DueAt, Pinned: c.Pinned}
	}
	return s
}

func publicationsOf(deeds []deed.Deed, claims []store.Claim) []store.Publication {
	siteOf := make(map[int64]int64, len(claims))
	for _, c := range claims {
		siteOf[c.ID] = c.SiteID
	}
	publications := make([]store.Publication, len(deeds))
	for i, d := range deeds {
		publications[i] = store.Publication{SiteID: siteOf[d.Post], Post: d.Post, Due: d.Due, Reason: d.Reason}
	}
	return publications
}
