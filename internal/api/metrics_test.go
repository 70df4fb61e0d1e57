package api_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/deliver"
	"dapper.example/internal/engine"
	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
)

func TestMetricsTellWhatWaitsAndAreForThoseWhoMay(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	queue, err := deliver.NewQueue(w.Store)
	require.NoError(t, err)
	w.Scheduled(t, "Overdue", pgtest.Noon.Add(-time.Minute))
	w.Scheduled(t, "On time", pgtest.Noon.Add(time.Minute))
	clock := clockwork.NewFakeClockAt(pgtest.Noon)
	ctx, stop := context.WithCancel(context.Background())
	t.Cleanup(stop)
	registry := prometheus.NewRegistry()
	registry.MustRegister(engine.Backlog(w.Store, clock.Now))
	server := func(token string) http.Handler {
		s := api.New(ctx, api.Config{Store: w.Store, Clock: clock, Log: pgtest.Quiet(), Queue: queue, Mail: queue,
			Metrics: promhttp.HandlerFor(registry, promhttp.HandlerOpts{}), MetricsToken: token})
		if token == "" {
			registry.MustRegister(s.Collectors()...)
		}
		return s.Handler()
	}
	ask := func(h http.Handler, from string, headers map[string]string) (int, string) {
		r := httptest.NewRequest("GET", "/metrics", nil)
		r.RemoteAddr = from
		for name, value := range headers {
			r.Header.Set(name, value)
		}
		answer := httptest.NewRecorder()
		h.ServeHTTP(answer, r)
		return answer.Code, answer.Body.String()
	}

	open := server("")
	require.NoError(t, people.House{Store: w.Store, Mail: queue}.AskReset(t.Context(), w.Editor.Email,
		people.Caller{Address: "127.0.0.1"}, clock.Now()))
	open.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest("GET", "/blog/dome/no-such-post", nil))
	open.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest("BREW", "/made/up", nil))
	code, text := ask(open, "127.0.0.1:4711", nil)
	require.Equal(t, http.StatusOK, code, text)
	for _, line := range []string{
		`dapper_posts_waiting{how="overdue"} 1`, `dapper_posts_waiting{how="on time"} 1`, `dapper_shelf_posts 0`,
		`dapper_jobs_waiting{kind="mail"} 1`, `dapper_jobs_failed{kind="mail"} 0`, `dapper_jobs_late_seconds{kind="mail"}`,
		`dapper_http_request_seconds_count{method="GET",route="/blog/{site}/{slug}",status="404"} 1`,
		`method="other"`,
	} {
		assert.True(t, strings.Contains(text, line), line)
	}
	assert.NotContains(t, text, "made/up", "what is asked makes no series of its own")
	for from, headers := range map[string]map[string]string{
		"203.0.113.9:80":  nil,
		"127.0.0.1:80":    {"X-Forwarded-For": "203.0.113.9"},
		"[2001:db8::1]:1": nil,
	} {
		code, _ := ask(open, from, headers)
		assert.Equal(t, http.StatusForbidden, code, from)
	}
	closed := server("sesame")
	code, _ = ask(closed, "127.0.0.1:4711", nil)
	assert.Equal(t, http.StatusUnauthorized, code)
	code, _ = ask(closed, "127.0.0.1:4711", map[string]string{"Authorization": "Bearer sesam"})
	assert.Equal(t, http.StatusUnauthorized, code)
	code, _ = ask(closed, "203.0.113.9:80", map[string]string{"Authorization": "Bearer sesame"})
	assert.Equal(t, http.StatusOK, code)
}
