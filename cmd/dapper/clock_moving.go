//go:build movingclock

package main

import (
	"context"
	"encoding/json"
	"net/http"
	"os"
	"time"

	"github.com/jonboulle/clockwork"

	"dapper.example/internal/engine"
)

// This file is for trying the program out: with the build tag movingclock it lives by a clock
// that can be moved. No release has it.

// movingClock goes as the machine's does, from wherever it was moved to.
type movingClock struct{ *clockwork.FakeClock }

// tick is how often the clock goes on.
const tick = 50 * time.Millisecond

// newClock begins at the moment that CLOCK_START says (RFC 3339), or now.
func newClock() clockwork.Clock {
	begin, err := time.Parse(time.RFC3339, os.Getenv("CLOCK_START"))
	if err != nil {
		begin = time.Now()
	}
	c := movingClock{clockwork.NewFakeClockAt(begin)}
	go func() {
		last := time.Now()
		for range time.Tick(tick) {
			now := time.Now()
			c.Advance(now.Sub(last))
			last = now
		}
	}()
	return c
}

// clockNow is what GET and PUT /debug/clock answer with.
type clockNow struct {
	Now time.Time `json:"now"`
	Did int       `json:"did"` // deeds done on the way
}

// longestMove is how long the clock may take to get where it is sent.
const longestMove = 10 * time.Minute

// withClock adds GET and PUT /debug/clock. PUT {"to": "2027-01-01T00:00:00Z"} moves the clock on
// from one thing that is due to the next, and has the engine do each when it is due, as if
// the time had passed.
func withClock(h http.Handler, c clockwork.Clock, e *engine.Engine) http.Handler {
	mux := http.NewServeMux()
	mux.Handle("/", h)
	answer := func(w http.ResponseWriter, did int) {
		w.Header().Set("Content-Type", "application/json")
		json.NewEncoder(w).Encode(clockNow{c.Now().UTC(), did})
	}
	mux.HandleFunc("GET /debug/clock", func(w http.ResponseWriter, _ *http.Request) { answer(w, 0) })
	mux.HandleFunc("PUT /debug/clock", func(w http.ResponseWriter, r *http.Request) {
		var wish struct {
			To time.Time `json:"to"`
		}
		if err := json.NewDecoder(r.Body).Decode(&wish); err != nil || wish.To.Before(c.Now()) {
			http.Error(w, `Send {"to": "2027-01-01T00:00:00Z"}, a moment that is still to come.`,
				http.StatusUnprocessableEntity)
			return
		}
		control := http.NewResponseController(w)
		if err := control.SetWriteDeadline(time.Now().Add(longestMove)); err != nil {
			http.Error(w, err.Error(), http.StatusInternalServerError)
			return
		}
		did, err := c.(movingClock).moveTo(r.Context(), e, wish.To)
		if err != nil {
			http.Error(w, err.Error(), http.StatusInternalServerError)
			return
		}
		answer(w, did)
	})
	return mux
}

// moveTo moves the clock on to a moment, and has the engine do on the way what is due.
func (c movingClock) moveTo(ctx context.Context, e *engine.Engine, to time.Time) (did int, err error) {
	for ctx.Err() == nil {
		if e == nil { // nothing is done here
			c.Advance(max(to.Sub(c.Now()), 0))
			return 0, nil
		}
		looked := c.Now()
		n, err := e.Step(ctx)
		if err != nil {
			return did, err
		}
		if did += n; n > 0 {
			continue
		}
		next, err := e.Next(ctx, looked)
		if err != nil {
			return did, err
		}
		if next.IsZero() || next.After(to) {
			next = to
		}
		if wait := next.Sub(c.Now()); wait > 0 {
			c.Advance(wait)
		} else if !next.Before(to) {
			return did, nil
		}
	}
	return did, ctx.Err()
}
