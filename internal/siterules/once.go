package siterules

import (
	"context"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/enact"
	"dapper.example/internal/store"
)

// MostOnce is to how many chosen posts something is done at once.
const MostOnce = 20_000

// Once does once what an expiry rule would do, to its catch as the editor saw it, without there being such a rule, and returns
// to how many posts. It fails with *act.Outdated where the catch is another now.
func (d Editor) Once(ctx context.Context, r store.Rule, a Agreement, now time.Time) (took int, err error) {
	err = d.Change(ctx, func(tx *store.Tx) error {
		p, err := d.agreed(ctx, tx, r, a, now)
		if err != nil {
			return err
		}
		if p.Count == 0 {
			return act.Invalidf("condition", "No post matches, or there is nothing to do to those that do.")
		}
		once := numbered(r)
		f, err := d.Book().Frame(ctx, tx.Queries, now, &once)
		if err != nil {
			return err
		}
		if err := f.AddCandidates(ctx, tx.Queries, d.Site.ID, once.ID, now); err != nil {
			return err
		}
		decision := deed.NewWorld(f.Scene).RunNow(once.ID, p.Count, deed.Minute(now))
		decision.Run = nil // there is no rule to note it for
		done, err := enact.Doer{Site: d.Site.ID, Queue: d.Queue, Now: now, Actor: &d.Actor}.Do(ctx, tx, store.Rule{}, decision)
		took = len(done)
		return err
	})
	return took, err
}
