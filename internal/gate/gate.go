// Package gate is what every request passes before anything is done for it: it gets a name and an address for
// the log, is measured, and is turned away where it is no text or would cost more to look at than it says.
// Answers are packed, and carry the headers that keep browsers careful. It knows nothing of blogs.
package gate

import (
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/prometheus/client_golang/prometheus"
)

// Gate holds what requests are judged by; make it with New.
type Gate struct {
	Config
	took *prometheus.HistogramVec
}

// Config is what a gate works with.
type Config struct {
	Clock clockwork.Clock
	Log   *slog.Logger
	// Public is where readers and editors reach the program, such as https://blog.example.
	Public string
	// Proxied says that a proxy of ours stands in front, whose word on where a request
	// comes from (X-Forwarded-For) and which it is (X-Request-Id) is taken.
	Proxied bool
	// Patience is how long a request may take; 30 seconds where it is 0.
	Patience time.Duration
	// Streams are the ends of the paths whose answers stay open for as long as somebody looks.
	Streams []string
	Metrics http.Handler // what /metrics shows
	// MetricsToken is what reads /metrics, as a bearer token; without one only programs on
	// this machine may.
	MetricsToken string
}

// New returns a gate.
func New(config Config) *Gate { return &Gate{Config: config, took: newTook()} }

// IsSecure tells whether the program is reached by https.
func (g *Gate) IsSecure() bool { return strings.HasPrefix(g.Public, "https://") }

func (g *Gate) staysOpen(path string) bool {
	return slices.ContainsFunc(g.Streams, func(end string) bool { return strings.HasSuffix(path, end) })
}
