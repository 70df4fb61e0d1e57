package api_test

import (
	"bytes"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/formats"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// million fills a site with 1,000,000 posts over ten years, of twelve categories, with tags, clicks, outings and custom fields.
func million(b *testing.B, w pgtest.World) {
	b.Helper()
	tx, err := w.DB().BeginTxx(b.Context(), nil)
	require.NoError(b, err)
	for _, statement := range []string{
		`set local session_replication_role = replica`, // a million rows of triggers are not what is measured
		`insert into categories (site_id, name, slug, position) select $1, 'Category ' || i, 'category-' || i, 100 + i from generate_series(1, 12) i`,
		`insert into tags (site_id, name, slug) select $1, 'Tag ' || i, 'tag-' || i from generate_series(1, 40) i`,
		`insert into posts (id, site_id, author_id, category_id, title, slug, status, published_at, first_published_at, created_at, updated_at, text_id, words, evergreen, on_top,
				times_republished, featured_image, excerpt, fields) overriding system value
			select 1000000 + i, $1, (select min(user_id) from memberships where site_id = $1), (select min(id) from categories where site_id = $1 and name like 'Category %') + (i * 7) % 12,
				(array['A comet', 'The “old” mirror', 'Étoiles', 'A lens', 'Night'])[1 + i % 5] || ' no. ' || i, 'post-' || i, 'published',
				'2026-11-20T12:00:00Z'::timestamptz - i * interval '5 minutes', '2026-11-20T12:00:00Z'::timestamptz - i * interval '5 minutes', '2026-11-20', '2026-11-20', i,
				100 + i % 1900, i % 3 = 0, i % 1000 = 0, i % 4, case when i % 2 = 0 then 'a.jpg' else '' end, 'What it is about, in a sentence or two, as people write it.',
				jsonb_build_object('event', (date '2026-12-20' - (i % 4000))::text, 'place', 'dome ' || i % 9)
			from generate_series(1, 1000000) i where $1::bigint > 0`,
		`insert into post_tags (site_id, post_id, tag_id) select $1, 1000000 + i, (select min(id) from tags where site_id = $1) + (i * 13 + n * 7) % 40
			from generate_series(1, 1000000) i cross join generate_series(0, 1) n`,
		`insert into clicks (site_id, post_id, date, n) select $1, 1000000 + i, date '2026-11-24' - d * 5, i % 7 from generate_series(1, 100000) i cross join generate_series(1, 5) d`,
	} {
		args := []any{w.Site.ID}
		if statement[:3] == "set" {
			args = nil
		}
		_, err := tx.ExecContext(b.Context(), statement, args...)
		require.NoError(b, err, statement)
	}
	require.NoError(b, tx.Commit())
	_, err = w.DB().ExecContext(b.Context(), `vacuum analyze posts, post_tags, clicks, categories, tags`)
	require.NoError(b, err)
	_, err = w.DB().ExecContext(b.Context(), `checkpoint`)
	require.NoError(b, err)
}

// BenchmarkCatchOfAMillion asks for what an expiry rule with a condition of ten tests would catch of 1,000,000 posts: how many, and the
// first hundred with their reasons.
func BenchmarkCatchOfAMillion(b *testing.B) {
	w := pgtest.NewWorld(b, pgtest.New(b), "dome")
	million(b, w)
	clock := clockwork.NewFakeClockAt(pgtest.Noon)
	server := httptest.NewServer(api.New(b.Context(), api.Config{Store: w.Store, Changes: w.Changes(pgtest.Quiet()), Clock: clock, Log: pgtest.Quiet()}).Handler())
	b.Cleanup(server.Close)
	cookie := session(b, w)
	test := func(t condition.Test, m condition.Match, values ...string) condition.Node {
		return condition.Node{Test: t, Match: m, Values: values}
	}
	ten := func(months int) condition.Node {
		return condition.Node{Group: condition.AllOf, Parts: []condition.Node{
			test(condition.Category, condition.MatchNone, "Category 3", "Category 9"),
			{Test: condition.Age, Match: condition.MatchOver, N: months, Unit: condition.Months},
			{Test: condition.WordCount, Match: condition.MatchOver, N: 150},
			test(condition.OnTop, condition.MatchNo),
			{Group: condition.AnyOf, Parts: []condition.Node{
				test(condition.Tags, condition.MatchAny, "Tag 3", "tag 14", "Tag 15"),
				test(condition.Title, condition.MatchContains, "comet"),
				{Test: condition.Field, Match: condition.MatchPassed, Field: "event", N: 2, Unit: condition.Weeks}}},
			{Group: condition.NoneOf, Parts: []condition.Node{
				test(condition.Author, condition.MatchAny, "Pell Hanrahan"),
				{Test: condition.Clicks, Match: condition.MatchOver, N: 20, Days: 30},
				test(condition.Slug, condition.MatchBegins, "page-")}}}}
	}
	for _, how := range []string{"PostgreSQL", "columns"} {
		if how == "columns" {
			require.NoError(b, w.LayOut(b.Context())) // somebody has asked for them
		}
		for name, months := range map[string]int{"most": 3, "few": 113} {
			b.Run(how+"/"+name, func(b *testing.B) {
				body := rules.RuleBody{Kind: "expire", Name: "Old ones", Condition: ten(months), Action: "archive",
					Cadence: formats.Cadence{By: "every", N: 1, Unit: "days", At: civil.MustClock("04:00")}}
				p := previewed(b, server.URL, cookie, body)
				require.Empty(b, p.Problems)
				require.Len(b, p.Posts, 100)
				b.ReportMetric(float64(p.Count), "posts")
				send(b, http.MethodPost, server.URL+site+"/rules/preview", map[string]any{"rule": body}, cookie, func() { clock.Advance(time.Minute) })
			})
		}
	}
}

// BenchmarkLayOut lays out the posts of a site of 1,000,000.
func BenchmarkLayOut(b *testing.B) {
	w := pgtest.NewWorld(b, pgtest.New(b), "dome")
	million(b, w)
	for b.Loop() {
		again, err := store.Open(b.Context(), w.URL()) // which knows of none
		require.NoError(b, err)
		require.NoError(b, again.LayOut(b.Context()))
		require.NoError(b, again.Close())
	}
}

func previewed(b *testing.B, url string, cookie *http.Cookie, body rules.RuleBody) (p rules.RulePreview) {
	b.Helper()
	written, err := json.Marshal(map[string]any{"rule": body})
	require.NoError(b, err)
	request, err := http.NewRequestWithContext(b.Context(), http.MethodPost, url+site+"/rules/preview", bytes.NewReader(written))
	require.NoError(b, err)
	request.Header.Set("Content-Type", "application/json")
	request.AddCookie(cookie)
	answer, err := http.DefaultClient.Do(request)
	require.NoError(b, err)
	defer answer.Body.Close()
	require.NoError(b, json.NewDecoder(answer.Body).Decode(&p))
	return p
}

// BenchmarkResults asks for the results of a year of a blog with 100,000 outings that brought 1,000,000 clicks.
func BenchmarkResults(b *testing.B) {
	w := pgtest.NewWorld(b, pgtest.New(b), "dome")
	id, err := w.InsertChannel(b.Context(), store.Channel{SiteID: w.Site.ID, Kind: channel.Lantern, Name: "Lantern", Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(b, err)
	pgtest.Put(b, w.Store, `site_id, author_id, category_id, title, slug, body, status, published_at, created_at, updated_at`, `
		select $1::bigint, $2::bigint, $3::bigint, 'Post ' || i, 'post-' || i, 'Some text.', 'published', $4::timestamptz - make_interval(hours => i), $4, $4
		from generate_series(1, 5000) i`, w.Site.ID, w.Editor.ID, w.Category, pgtest.Noon)
	_, err = w.DB().ExecContext(b.Context(), `
		insert into outings (site_id, channel_id, post_id, at, wording, text, link, state, sent_at, origin, clicks)
		select $1::bigint, $2::bigint, (select min(id) from posts where site_id = $1) + i % 5000, $3::timestamptz - make_interval(mins => i * 5), 1 + i % 3, 'x', '', 'sent', $3, 'hand', i % 21
		from generate_series(1, 100000) i`, w.Site.ID, id, pgtest.Noon)
	require.NoError(b, err)
	_, err = w.DB().ExecContext(b.Context(), `vacuum analyze outings, posts`)
	require.NoError(b, err)
	server := httptest.NewServer(api.New(b.Context(), api.Config{Store: w.Store, Changes: w.Changes(pgtest.Quiet()), Clock: clockwork.NewFakeClockAt(pgtest.Noon),
		Log: pgtest.Quiet()}).Handler())
	b.Cleanup(server.Close)
	send(b, http.MethodGet, server.URL+site+"/results?by=post&days=365", nil, session(b, w), nil)
}
