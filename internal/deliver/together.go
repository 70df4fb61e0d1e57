package deliver

import (
	"context"
	"sync"
	"time"
)

// together does what many jobs ask for at the same time at once: while one asking is under way, further ones
// gather and are the next. So a hundred jobs cost the database a few statements and commits instead of a
// hundred, and one job alone does not wait for others.
type together[In, Out any] struct {
	// do answers askings, in their order, or fails for all of them.
	do func(ctx context.Context, in []In) ([]Out, error)

	mu      sync.Mutex
	waiting []*asking[In, Out]
	running bool
}

type asking[In, Out any] struct {
	in   In
	out  Out
	err  error
	done chan struct{}
}

const (
	// mostTogether bounds one statement.
	mostTogether = 200
	// togetherPatience is how long it may take; it outlives the job that asked first, since others wait for it too.
	togetherPatience = 15 * time.Second
)

// ask asks with whoever else asks, and waits for the answer. Where the context ends first it is not known
// whether it was done.
func (t *together[In, Out]) ask(ctx context.Context, in In) (Out, error) {
	a := &asking[In, Out]{in: in, done: make(chan struct{})}
	t.mu.Lock()
	t.waiting = append(t.waiting, a)
	if !t.running {
		t.running = true
		go t.run(context.WithoutCancel(ctx))
	}
	t.mu.Unlock()
	select {
	case <-a.done:
		return a.out, a.err
	case <-ctx.Done():
		var none Out
		return none, ctx.Err()
	}
}

// run does askings until none is left.
func (t *together[In, Out]) run(ctx context.Context) {
	for {
		t.mu.Lock()
		n := min(len(t.waiting), mostTogether)
		now := t.waiting[:n:n]
		t.waiting = t.waiting[n:]
		if n == 0 {
			t.running = false
			t.mu.Unlock()
			return
		}
		t.mu.Unlock()
		if !t.answer(ctx, now) && n > 1 {
			for i := range now { // one that cannot be done does not spoil the others
				t.answer(ctx, now[i:i+1])
			}
		}
		for _, a := range now {
			close(a.done)
		}
	}
}

// answer does some askings, and tells whether that went well.
func (t *together[In, Out]) answer(ctx context.Context, now []*asking[In, Out]) bool {
	ctx, cancel := context.WithTimeout(ctx, togetherPatience)
	defer cancel()
	in := make([]In, len(now))
	for i, a := range now {
		in[i] = a.in
	}
	out, err := t.do(ctx, in)
	for i, a := range now {
		if a.err = err; err == nil {
			a.out = out[i]
		}
	}
	return err == nil
}
