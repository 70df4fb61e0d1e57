// Package budget shares out the memory that some work takes for a moment: passwords that are
// hashed, pictures that are made, texts that are laid out. Together they stay below one
// bound, so that the process does under its unit's own limit whatever comes at once.
//
// Work that does not get its share in time fails with ErrBusy; nothing is done halfway.
package budget

import (
	"context"
	"errors"
	"time"

	"golang.org/x/sync/semaphore"
)

// ErrBusy says that the memory for a piece of work did not become free in time.
var ErrBusy = errors.New("too much is being done at once")

// Megabytes is how much such work may take at once, all together. With what the program
// takes beside it, this stays below 512 MB.
const Megabytes = 380

var memory = semaphore.NewWeighted(Megabytes)

// Take waits for a share of so many megabytes, for as long as patience and the context
// allow, and returns what gives it back. A share larger than all there is takes all. It
// fails with ErrBusy, or with the context's error.
func Take(ctx context.Context, megabytes int64, patience time.Duration) (release func(), err error) {
	share := min(max(megabytes, 1), Megabytes)
	waiting, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	if err := memory.Acquire(waiting, share); err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, ErrBusy
	}
	return func() { memory.Release(share) }, nil
}
