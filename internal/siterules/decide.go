package siterules

import (
	"context"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/store"
)

// Decide asks core what is to be done on the site at a moment, in a transaction that
// holds the site's lock. It reads first what tells whose turn it is, and then only the
// posts that the rule whose turn it is may catch.
func (b Book) Decide(ctx context.Context, tx *store.Tx, now time.Time) (deed.Decision, *Frame, error) {
	f, err := b.Frame(ctx, tx.Queries, now, nil)
	if err != nil {
		return deed.Decision{}, nil, err
	}
	if err := f.AddExpiring(ctx, tx.Queries, b.Site.ID); err != nil {
		return deed.Decision{}, nil, err
	}
	if err := f.AddPlanned(ctx, tx.Queries, b.Site.ID, now); err != nil {
		return deed.Decision{}, nil, err
	}
	w := deed.NewWorld(f.Scene)
	rule := w.Due(now)
	if rule == 0 {
		return w.Decide(now), f, nil
	}
	if err := f.AddCandidates(ctx, tx.Queries, b.Site.ID, rule, now); err != nil {
		return deed.Decision{}, nil, err
	}
	return deed.NewWorld(f.Scene).Decide(now), f, nil
}

func (f *Frame) turns(now time.Time) map[int64]time.Time {
	w := deed.NewWorld(f.Scene)
	turns := make(map[int64]time.Time)
	for _, r := range f.Rules {
		if at, ok := w.NextTurn(r.ID, now); ok {
			turns[r.ID] = at
		}
	}
	return turns
}
