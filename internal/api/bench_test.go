package api_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"testing"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/pgtest"
)

// BenchmarkAlmanac asks for two weeks of the Almanac of a site with 100,000 posts, 20
// drafts on its shelf and 60 posts scheduled, over HTTP, signed in.
func BenchmarkAlmanac(b *testing.B) {
	w := pgtest.NewWorld(b, pgtest.New(b), "dome")
	_, err := w.DB().ExecContext(b.Context(), `
		insert into posts (site_id, author_id, category_id, title, slug, body, status, published_at, created_at, updated_at)
		select $1, $2, $3, 'Post ' || i, 'post-' || i, repeat('Some text. ', 200), 'published', $4::timestamptz - make_interval(hours => i), $4, $4
		from generate_series(1, 100000) i`, w.Site.ID, w.Editor.ID, w.Category, pgtest.Noon)
	require.NoError(b, err)
	for i := range 60 {
		w.Scheduled(b, "Scheduled", pgtest.Noon.Add(time.Duration(i)*7*time.Hour))
	}
	_, err = w.DB().ExecContext(b.Context(), `
		insert into posts (site_id, author_id, title, body, cleared, shelf_rank, created_at, updated_at)
		select $1, $2, 'Draft ' || i, 'Some text.', true, i, $3, $3 from generate_series(1, 20) i`, w.Site.ID, w.Editor.ID, pgtest.Noon)
	require.NoError(b, err)
	_, err = w.DB().ExecContext(b.Context(), `analyze`)
	require.NoError(b, err)

	server := httptest.NewServer(api.New(b.Context(), api.Config{
		Store: w.Store, Changes: w.Changes(pgtest.Quiet()), Clock: clockwork.NewFakeClockAt(pgtest.Noon), Log: pgtest.Quiet(),
	}).Handler())
	defer server.Close()
	cookie := session(b, w)
	var took []time.Duration
	for b.Loop() {
		request, err := http.NewRequestWithContext(b.Context(), "GET", server.URL+site+"/almanac", nil)
		require.NoError(b, err)
		request.AddCookie(cookie)
		began := time.Now()
		answer, err := http.DefaultClient.Do(request)
		require.NoError(b, err)
		_, err = io.Copy(io.Discard, answer.Body)
		require.NoError(b, err)
		answer.Body.Close()
		require.Equal(b, 200, answer.StatusCode)
		took = append(took, time.Since(began))
	}
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "p95-ms")
}

// session signs the world's editor in, without a password.
func session(b *testing.B, w pgtest.World) *http.Cookie {
	b.Helper()
	codec := scs.GobCodec{}
	expiry := time.Now().Add(time.Hour)
	data, err := codec.Encode(expiry, map[string]any{"user": w.Editor.ID})
	require.NoError(b, err)
	_, err = w.DB().ExecContext(b.Context(), `insert into sessions (token, data, expiry) values ('benchmark', $1, $2)`, data, expiry)
	require.NoError(b, err)
	return &http.Cookie{Name: "dapper_session", Value: "benchmark"}
}
