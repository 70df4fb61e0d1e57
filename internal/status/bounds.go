package status

import (
	"context"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/store"
)

// SetBounds says when a draft may come out: not before a moment, and not after a
// deadline; the zero time is no bound.
func SetBounds(ctx context.Context, d act.Desk, id int64, version int, notBefore, deadline, now time.Time) error {
	if !notBefore.IsZero() && !deadline.IsZero() && deadline.Before(notBefore) {
		return act.Invalidf("deadline", "The deadline is before the draft may come out. Change one of the two.")
	}
	for field, at := range map[string]time.Time{"notBefore": notBefore, "deadline": deadline} {
		if !at.IsZero() && !civil.IsNear(at) {
			return act.Invalidf(field, "That is too far away. Choose a date from %d to %d.", civil.FirstYear,
				civil.LastYear)
		}
	}
	return d.ChangePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if err := fits(DoBound, p, now); err != nil {
			return err
		}
		return d.Stand(ctx, tx, p, p.State().Bound(notBefore, deadline), store.DeedBounds,
			"Its time limits were changed.", now)
	})
}
