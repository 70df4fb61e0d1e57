package api_test

import (
	"bytes"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"runtime"
	"slices"
	"testing"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// bigSite is a site with 100,000 posts of 200 words each, 20 drafts on its shelf and so
// many posts scheduled, so far apart, served over HTTP.
func bigSite(b *testing.B, scheduled int, apart time.Duration) (w pgtest.World, url string, cookie *http.Cookie) {
	b.Helper()
	w = pgtest.NewWorld(b, pgtest.New(b), "dome")
	pgtest.Put(b, w.Store, `site_id, author_id, category_id, title, slug, body, status, published_at, created_at, updated_at`, `
		select $1::bigint, $2::bigint, $3::bigint, (array['Comet', 'Mirror', 'Meteor', 'Lens', 'Night'])[1 + i % 5] || ' ' || i, 'post-' || i,
			(select string_agg((array['star', 'dome', 'gate', 'torch', 'moon', 'cloud', 'hill', 'watch'])[1 + (i * 7 + j * j) % 8] || (i * 31 + j * 17) % 900, ' ')
				from generate_series(1, 200) j),
			'published', $4::timestamptz - make_interval(hours => i), $4, $4::timestamptz - make_interval(mins => i)
		from generate_series(1, 100000) i`, w.Site.ID, w.Editor.ID, w.Category, pgtest.Noon)
	pgtest.Put(b, w.Store, `site_id, author_id, category_id, title, slug, body, status, due_at, pinned, created_at, updated_at`, `
		select $1::bigint, $2::bigint, $3::bigint, 'Scheduled ' || i, 'scheduled-' || i, 'Some text.', 'scheduled', $4::timestamptz + i * make_interval(secs => $5), i % 7 = 0, $4, $4
		from generate_series(1, $6::integer) i`, w.Site.ID, w.Editor.ID, w.Category, pgtest.Noon, apart.Seconds(), scheduled)
	pgtest.Put(b, w.Store, `site_id, author_id, title, body, cleared, shelf_rank, created_at, updated_at`, `
		select $1::bigint, $2::bigint, 'Draft ' || i, 'Some text.', true, i, $3::timestamptz, $3::timestamptz from generate_series(1, 20) i`, w.Site.ID, w.Editor.ID, pgtest.Noon)
	// What is not yet on the disk is not known to be visible to all, and would be read twice.
	_, err := w.DB().ExecContext(b.Context(), `checkpoint`)
	require.NoError(b, err)
	_, err = w.DB().ExecContext(b.Context(), `vacuum analyze posts, texts, post_search`)
	require.NoError(b, err)
	server := httptest.NewServer(api.New(b.Context(), api.Config{
		Store: w.Store, Changes: w.Changes(pgtest.Quiet()), Clock: clockwork.NewFakeClockAt(pgtest.Noon), Log: pgtest.Quiet(),
	}).Handler())
	b.Cleanup(server.Close)
	return w, server.URL, session(b, w)
}

// ask measures one request, and reports what 95 of 100 stay under. What is to happen before
// each one is not counted.
func ask(b *testing.B, url string, cookie *http.Cookie, before func()) {
	b.Helper()
	send(b, http.MethodGet, url, nil, cookie, before)
}

// send is the same for a request with a body.
func send(b *testing.B, method, url string, body any, cookie *http.Cookie, before func()) {
	b.Helper()
	written, err := json.Marshal(body)
	require.NoError(b, err)
	if body == nil {
		written = nil
	}
	var took []time.Duration
	for b.Loop() {
		if before != nil {
			b.StopTimer()
			before()
			b.StartTimer()
		}
		request, err := http.NewRequestWithContext(b.Context(), method, url, bytes.NewReader(written))
		require.NoError(b, err)
		request.Header.Set("Content-Type", "application/json")
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

// BenchmarkBigSite asks the screens' questions of a site with 100,000 posts.
func BenchmarkBigSite(b *testing.B) {
	_, url, cookie := bigSite(b, 60, 7*time.Hour)
	for name, path := range map[string]string{
		"almanac":          "/almanac",
		"posts":            "/posts",
		"posts by title":   "/posts?sort=title&order=up",
		"a rare word":      "/posts?text=dome417",
		"a common word":    "/posts?text=comet",
		"a word's stages":  "/posts?text=mirror&stages=published",
		"of a category":    "/posts?stages=published&categories=1&sort=date",
		"counts":           "/posts/counts",
		"counts of a word": "/posts/counts?text=comet",
		"titles":           "/titles?title=comet+99",
	} {
		b.Run(name, func(b *testing.B) { ask(b, url+site+path, cookie, nil) })
	}
}

// BenchmarkFullPlan asks for eight weeks in which 2,000 posts are scheduled, on a site
// with 100,000 posts: again and again, and each time after a post has changed, as the
// screen does.
func BenchmarkFullPlan(b *testing.B) {
	w, url, cookie := bigSite(b, 2000, 40*time.Minute)
	n := 0
	change := func() {
		n++
		_, err := w.DB().ExecContext(b.Context(), `
			update posts set due_at = due_at + interval '1 minute', version = version + 1
			where id = (select id from posts where status = 'scheduled' order by id offset $1 limit 1)`, n%2000)
		require.NoError(b, err)
	}
	for name, path := range map[string]string{
		"eight weeks": "/almanac?days=56",
		"two weeks":   "/almanac?days=14",
		"marks":       "/marks?days=56",
	} {
		b.Run(name, func(b *testing.B) { ask(b, url+site+path, cookie, nil) })
		b.Run(name+" after a change", func(b *testing.B) { ask(b, url+site+path, cookie, change) })
	}
}

// BenchmarkComing asks for the coming 20 outings of a rule that may take any of 100,000 posts,
// and for the marks of five such rules.
func BenchmarkComing(b *testing.B) {
	w, url, cookie := bigSite(b, 60, 7*time.Hour)
	lantern, err := w.InsertChannel(b.Context(), store.Channel{SiteID: w.Site.ID, Kind: channel.Lantern,
		Name: "Lantern", Address: "http://127.0.0.1:9", Token: "t", Apart: 5})
	require.NoError(b, err)
	body := sharing(lantern)
	preview := func(b *testing.B, before func()) {
		send(b, http.MethodPost, url+site+"/rules/preview", map[string]any{"rule": body, "coming": true}, cookie, before)
	}
	b.Run("twenty for the first time", func(b *testing.B) {
		preview(b, func() {
			_, err := w.DB().ExecContext(b.Context(), `update categories set position = position + 1 where site_id = $1`, w.Site.ID) // about all posts
			require.NoError(b, err)
		})
	})
	_, err = w.Facts(b.Context(), w.Site.ID, store.FactsFilter{Statuses: []string{"published"}, WithOpening: true}) // the first reading is measured above
	require.NoError(b, err)
	b.Run("twenty after a change that is of no post each time", func(b *testing.B) {
		preview(b, func() {
			_, err := w.DB().ExecContext(b.Context(), `update sites set tagline = tagline || '.' where id = $1`, w.Site.ID)
			require.NoError(b, err)
		})
	})
	b.Run("twenty after a change of a post each time", func(b *testing.B) {
		preview(b, func() {
			_, err := w.DB().ExecContext(b.Context(), `update posts set evergreen = not evergreen where site_id = $1 and slug = 'post-77'`, w.Site.ID)
			require.NoError(b, err)
		})
	})
	for i := range 5 {
		armed := pgtest.Noon
		_, err := w.InsertRule(b.Context(), store.Rule{SiteID: w.Site.ID, Kind: store.Reshare, Name: fmt.Sprintf("Again %d", i), Position: i,
			Condition: body.Condition, Cadence: cadence.Cadence{By: cadence.Every, N: 6 + i, Unit: cadence.Hours},
			Settings: store.RuleSettings{Channels: []int64{lantern}, Order: "longest", Wordings: []string{"{title} {link}"}},
			ArmedAt:  &armed, ServedAt: &armed})
		require.NoError(b, err)
	}
	b.Run("marks of five rules", func(b *testing.B) { ask(b, url+site+"/marks?days=56", cookie, nil) })
}

// session signs the world's editor in, without a password.
func session(b *testing.B, w pgtest.World) *http.Cookie {
	b.Helper()
	codec := scs.GobCodec{}
	expiry := time.Now().Add(time.Hour)
	signIn, err := w.InsertSignIn(b.Context(), store.SignIn{User: w.Editor.ID, BeganAt: pgtest.Noon})
	require.NoError(b, err)
	data, err := codec.Encode(expiry, map[string]any{"sign-in": signIn})
	require.NoError(b, err)
	hash := sha256.Sum256([]byte("benchmark")) // as the sessions' package keeps it
	_, err = w.DB().ExecContext(b.Context(), `insert into sessions (token, data, expiry) values ($3, $1, $2)`,
		data, expiry, base64.RawURLEncoding.EncodeToString(hash[:]))
	require.NoError(b, err)
	return &http.Cookie{Name: "dapper_session", Value: "benchmark"}
}

// BenchmarkTable writes 100,000 posts as a table, and says after how long its first byte comes and how much memory that takes.
func BenchmarkTable(b *testing.B) {
	_, url, cookie := bigSite(b, 60, 7*time.Hour)
	for _, format := range []string{"csv", "xlsx"} {
		b.Run(format, func(b *testing.B) {
			var first, highest float64
			for b.Loop() {
				runtime.GC()
				var before runtime.MemStats
				runtime.ReadMemStats(&before)
				request, err := http.NewRequestWithContext(b.Context(), http.MethodGet, url+site+"/tables/posts?format="+format, nil)
				require.NoError(b, err)
				request.AddCookie(cookie)
				began := time.Now()
				answer, err := http.DefaultClient.Do(request)
				require.NoError(b, err)
				require.Equal(b, 200, answer.StatusCode)
				piece := make([]byte, 256<<10)
				for n := 0; ; n++ {
					_, err := answer.Body.Read(piece)
					if n == 0 {
						first = max(first, float64(time.Since(began).Milliseconds()))
					}
					if n%64 == 0 {
						var now runtime.MemStats
						runtime.ReadMemStats(&now)
						highest = max(highest, float64(now.HeapInuse-min(now.HeapInuse, before.HeapInuse))/(1<<20))
					}
					if errors.Is(err, io.EOF) {
						break
					}
					require.NoError(b, err)
				}
				require.NoError(b, answer.Body.Close())
			}
			b.ReportMetric(first, "first-byte-ms")
			b.ReportMetric(highest, "MB-over-idle")
		})
	}
}
