package api_test

import (
	"bytes"
	"log/slog"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/api"
)

// lines is a log that is read while it may be written.
type lines struct {
	mu   sync.Mutex
	text bytes.Buffer
}

func (l *lines) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.Write(p)
}

func (l *lines) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.String()
}

// What a screen could not draw is in the server's log, as one line whatever it holds, and not
// without end.
func TestFailuresOfScreensAreLogged(t *testing.T) {
	var log lines
	c := newClientWith(t, func(config *api.Config) { config.Log = slog.New(slog.NewTextHandler(&log, nil)) })
	report := map[string]any{"screen": "/dome/rules/7", "message": "no such mark\ntime=1 level=ERROR msg=forged",
		"stack": "at Mark"}
	c.call("POST", "/api/v1/failures", report, 401, nil)
	c.signIn()
	for range 25 {
		c.call("POST", "/api/v1/failures", report, 204, nil)
		assert.Empty(t, c.line)
	}
	said := 0
	for line := range strings.Lines(log.String()) {
		if strings.Contains(line, "a screen could not be drawn") {
			said++
			assert.Contains(t, line, "screen=/dome/rules/7")
			assert.Contains(t, line, `\ntime=1 level=ERROR msg=forged`)
		}
	}
	assert.Equal(t, 20, said)
	c.call("POST", "/api/v1/failures", map[string]any{"screen": "/", "message": strings.Repeat("x", 1001)}, 422, nil)
}
