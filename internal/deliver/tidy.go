package deliver

import (
	"context"
	"fmt"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"

	"dapper.example/internal/comments"
	"dapper.example/internal/library"
	"dapper.example/internal/store"
)

// Tidy is the job of clearing away what signing in leaves behind, and pictures and comments that have been in the bin for long.
type Tidy struct{}

// Kind names the job.
func (Tidy) Kind() string { return "tidy" }

const (
	tidyEvery = 6 * time.Hour
	// tidyAfter is how long what is over stays to be looked at.
	tidyAfter = 7 * 24 * time.Hour
)

// tidying does the job Tidy.
type tidying struct {
	river.WorkerDefaults[Tidy]
	store *store.Store
	clock clockwork.Clock
}

// Work clears away.
func (w *tidying) Work(ctx context.Context, _ *river.Job[Tidy]) error {
	now := w.clock.Now()
	if err := w.store.EmptyPictureBin(ctx, now.Add(-library.BinnedFor)); err != nil {
		return fmt.Errorf("emptying the bin of pictures: %w", err)
	}
	if err := w.store.EmptyCommentBin(ctx, now.Add(-comments.BinnedFor)); err != nil {
		return fmt.Errorf("emptying the bin of comments: %w", err)
	}
	return w.store.Tidy(ctx, now.Add(-tidyAfter))
}
