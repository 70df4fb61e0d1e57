package deliver

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const (
	waitFor   = 20 * time.Second
	lookEvery = time.Millisecond
)

// While one asking is under way the others gather; each gets its own answer.
func TestManyAskTogether(t *testing.T) {
	t.Parallel()
	var calls atomic.Int64
	first, goOn := make(chan struct{}), make(chan struct{})
	all := together[int, int]{do: func(_ context.Context, in []int) ([]int, error) {
		if calls.Add(1) == 1 {
			close(first)
			<-goOn
		}
		out := make([]int, len(in))
		for i, n := range in {
			if n == 13 {
				return nil, errors.New("thirteen")
			}
			out[i] = n * n
		}
		return out, nil
	}}
	var wait sync.WaitGroup
	ask := func(n int) {
		wait.Go(func() {
			got, err := all.ask(t.Context(), n)
			if n == 13 {
				assert.EqualError(t, err, "thirteen")
				return
			}
			assert.NoError(t, err)
			assert.Equal(t, n*n, got)
		})
	}
	ask(1)
	<-first
	for n := 2; n <= 100; n++ {
		ask(n)
	}
	require.Eventually(t, func() bool { all.mu.Lock(); defer all.mu.Unlock(); return len(all.waiting) == 99 }, waitFor, lookEvery)
	close(goOn)
	wait.Wait()
	assert.EqualValues(t, 1+1+99, calls.Load(), "the first, the others together, and each of them alone since one cannot be done")
}

// Who gives up waiting does not end it for the others.
func TestOneGivesUpWaiting(t *testing.T) {
	t.Parallel()
	begun, goOn := make(chan struct{}), make(chan struct{})
	all := together[int, int]{do: func(ctx context.Context, in []int) ([]int, error) {
		close(begun)
		<-goOn
		return in, ctx.Err()
	}}
	ctx, cancel := context.WithCancel(t.Context())
	gone := make(chan error)
	go func() { _, err := all.ask(ctx, 1); gone <- err }()
	<-begun
	cancel()
	require.ErrorIs(t, <-gone, context.Canceled)
	close(goOn)
}
