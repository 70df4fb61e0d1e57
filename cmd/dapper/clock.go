//go:build !movingclock

package main

import (
	"net/http"

	"github.com/jonboulle/clockwork"

	"dapper.example/internal/engine"
)

// newClock is the clock that the whole program lives by: the machine's.
func newClock() clockwork.Clock { return clockwork.NewRealClock() }

// withClock adds nothing: nobody moves the machine's clock from here.
func withClock(h http.Handler, _ clockwork.Clock, _ *engine.Engine) http.Handler { return h }
