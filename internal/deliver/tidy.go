package deliver

import (
	"context"
	"fmt"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"

	"dapper.example/internal/comments"
	"dapper.example/internal/imports"
	"dapper.example/internal/library"
	"dapper.example/internal/store"
)

// Tidy is the job of clearing away what signing in leaves behind, pictures and comments that have been in the bin for long, and what
// logbooks do not keep any longer.
type Tidy struct{}

// Kind names the job.
func (Tidy) Kind() string { return "tidy" }

const (
	tidyEvery = 6 * time.Hour
	// tidyAfter is how long what is over stays to be looked at.
	tidyAfter = 7 * 24 * time.Hour
	// toldAfter is how long it can be looked up what a webhook was told.
	toldAfter = 30 * 24 * time.Hour
)

// tidying does the job Tidy.
type tidying struct {
	river.WorkerDefaults[Tidy]
	store *store.Store
	clock clockwork.Clock
}

// lostAfter is how long after it was decided an outing without a job is given up.
const lostAfter = time.Hour

// giveUpLost gives up outings that are on their way but have no job any more: one that dies at its last try is
// thrown away by the library without a word.
func (w *tidying) giveUpLost(ctx context.Context, now time.Time) error {
	lost, err := w.store.LostOutings(ctx, now.Add(-lostAfter))
	if err != nil {
		return err
	}
	for _, o := range lost {
		err := w.store.InTx(ctx, func(tx *store.Tx) error {
			const why = "Its last try was cut off, so it is not known whether it arrived."
			if err := tx.MarkTried(ctx, o.ID, why, true); err != nil {
				return err
			}
			return tx.Log(ctx, store.LogEntry{SiteID: o.SiteID, At: now, Deed: store.DeedDelivery, Post: o.Post.Pointer(), Rule: o.Rule,
				Outing: &o.ID, Reason: "The message to " + o.Network + " was given up. " + why})
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// Work clears away.
func (w *tidying) Work(ctx context.Context, _ *river.Job[Tidy]) error {
	now := w.clock.Now()
	if err := w.store.EmptyPictureBin(ctx, now.Add(-library.BinnedFor)); err != nil {
		return fmt.Errorf("emptying the bin of pictures: %w", err)
	}
	if err := w.store.TidyImports(ctx, now.Add(-imports.KeptFor), now); err != nil {
		return fmt.Errorf("deleting imports that are over: %w", err)
	}
	if err := w.store.EmptyCommentBin(ctx, now.Add(-comments.BinnedFor)); err != nil {
		return fmt.Errorf("emptying the bin of comments: %w", err)
	}
	if err := w.store.ForgetLog(ctx, now); err != nil {
		return fmt.Errorf("forgetting old lines of logbooks: %w", err)
	}
	if err := w.giveUpLost(ctx, now); err != nil {
		return fmt.Errorf("giving up deliveries that nobody does any more: %w", err)
	}
	if err := w.store.ForgetChanges(ctx); err != nil {
		return fmt.Errorf("forgetting old changes: %w", err)
	}
	if err := w.store.ForgetHookDeliveries(ctx, now.Add(-toldAfter)); err != nil {
		return fmt.Errorf("forgetting what webhooks were told: %w", err)
	}
	return w.store.Tidy(ctx, now.Add(-tidyAfter))
}
