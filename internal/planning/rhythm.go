package planning

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"dapper.example/internal/store"
)

// ErrProblems is returned for a rhythm that has problems; ask the rhythm for them
// before saving.
var ErrProblems = errors.New("the rhythm has problems")

// SaveRhythm writes the site's rhythm over the version that the editor saw.
// Scheduled posts keep their times; only future free slots change.
func (d Desk) SaveRhythm(ctx context.Context, r store.Rhythm, now time.Time) error {
	if len(r.In(d.Site.Zone()).Problems()) > 0 {
		return ErrProblems
	}
	return d.change(ctx, func(tx *store.Tx) error {
		before, err := tx.RhythmOf(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if before.Version != r.Version {
			return ErrStale
		}
		r.ID, r.SiteID = before.ID, d.Site.ID
		if err := tx.SaveRhythm(ctx, r, now); err != nil {
			return fmt.Errorf("saving the rhythm of %s: %w", d.Site.Slug, err)
		}
		return tx.Log(ctx, store.LogEntry{
			SiteID: d.Site.ID, At: now, Actor: &d.Actor, Deed: store.DeedRhythm, Reason: "The rhythm was changed.",
			Before: mustJSON(before), After: mustJSON(r),
		})
	})
}

func mustJSON(v any) json.RawMessage {
	raw, err := json.Marshal(v)
	if err != nil {
		panic(err) // plain values always marshal
	}
	return raw
}
