package deliver

import (
	"context"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"

	"dapper.example/internal/store"
)

// Tidy is the job of clearing away what signing in leaves behind.
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
	return w.store.Tidy(ctx, w.clock.Now().Add(-tidyAfter))
}
