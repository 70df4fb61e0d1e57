package demo_test

import (
	"context"
	"fmt"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/demo"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

var now = pgtest.Noon.Add(17 * time.Second)

// loaded is a database with the demo, made once: its pictures take a while.
var loaded = sync.OnceValues(func() (pgtest.Filled, error) {
	return pgtest.Fill(func(ctx context.Context, s *store.Store) error { return demo.Load(ctx, s, now) })
})

func TestMain(m *testing.M) {
	code := m.Run()
	if f, err := loaded(); err == nil {
		if err := f.Drop(); err != nil {
			fmt.Fprintln(os.Stderr, "dropping the filled database:", err)
		}
	}
	os.Exit(code)
}

// withDemo is a store on a copy of that database.
func withDemo(t *testing.T) *store.Store {
	t.Helper()
	f, err := loaded()
	require.NoError(t, err)
	return f.New(t)
}

func TestTheDemoWorldLoadsOnceAndIsRemovedWhole(t *testing.T) {
	t.Parallel()
	s := withDemo(t)
	assert.ErrorIs(t, demo.Load(t.Context(), s, now), demo.ErrLoaded)

	counts := map[string]int{}
	rows, err := s.DB().QueryContext(t.Context(),
		`select sites.slug || ' ' || stage, count(*) from posts join sites on sites.id = site_id group by sites.slug, stage`)
	require.NoError(t, err)
	for rows.Next() {
		var what string
		var n int
		require.NoError(t, rows.Scan(&what, &n))
		counts[what] = n
	}
	require.NoError(t, rows.Err())
	assert.Equal(t, map[string]int{
		"quillmoor published": 155, "quillmoor archived": 44, "quillmoor scheduled": 1, "quillmoor cleared": 18, "quillmoor draft": 12, "quillmoor linked": 4,
		"dark-lanes published": 18, "dark-lanes scheduled": 9, "dark-lanes cleared": 2, "dark-lanes draft": 1,
	}, counts)
	var rich, pictures, kinds, years int
	require.NoError(t, s.DB().GetContext(t.Context(), &rich, `
		select count(*) from posts join texts on texts.id = text_id where status in ('published', 'archived') and posts.words >= 150 and array_length(regexp_split_to_array(btrim(body), E'\n\n'), 1) >= 3`))
	assert.GreaterOrEqual(t, rich, 60, "posts of several real paragraphs")
	require.NoError(t, s.DB().GetContext(t.Context(), &pictures,
		`select count(*) from posts where featured_image <> '' and featured_alt <> ''`))
	require.NoError(t, s.DB().GetContext(t.Context(), &kinds,
		`select count(distinct data) from picture_files f where width = (select max(width) from picture_files where picture_id = f.picture_id)`))
	assert.Greater(t, pictures, 170)
	assert.Equal(t, pictures, kinds, "each with a picture of its own")
	require.NoError(t, s.DB().GetContext(t.Context(), &years,
		`select count(distinct extract(year from published_at)) from posts where published_at is not null`))
	assert.GreaterOrEqual(t, years, 4)

	site, err := s.SiteBySlug(t.Context(), demo.SiteSlug)
	require.NoError(t, err)
	next, err := s.NextDue(t.Context(), site.ID)
	require.NoError(t, err)
	wait := next.DueAt.Sub(now)
	assert.True(t, wait >= 2*time.Minute && wait < 3*time.Minute, "%s", wait)

	plan, err := planning.Propose(t.Context(), s.Queries, site, now)
	require.NoError(t, err)
	assert.Len(t, plan.Placed, 18)
	out, err := s.PublicPosts(t.Context(), site.ID, store.PublicFilter{}, 0, 100)
	require.NoError(t, err)
	for _, p := range out {
		assert.Equal(t, store.Published, p.Status)
		assert.True(t, p.PublishedAt.Before(now))
		assert.NotEmpty(t, p.Body)
		assert.NotEmpty(t, p.Tags)
	}

	// Somebody who was invited to the demo goes with it.
	guest, err := s.InsertUser(t.Context(), store.User{Email: "Guest@example.org", Name: "A Guest", PasswordHash: "-",
		CreatedAt: now})
	require.NoError(t, err)
	require.NoError(t, s.InsertMembership(t.Context(), site.ID, guest.ID, "editor"))
	require.NoError(t, demo.Remove(t.Context(), s))

	// It loads again, but not beside a person without a blog.
	founder, err := s.InsertUser(t.Context(), store.User{Email: "me@example.org", Name: "Me", PasswordHash: "-",
		CreatedAt: now})
	require.NoError(t, err)
	assert.ErrorIs(t, demo.Load(t.Context(), s, now), demo.ErrElse)
	_, err = s.DB().ExecContext(t.Context(), `delete from users where id = $1`, founder.ID)
	require.NoError(t, err)
	require.NoError(t, demo.Load(t.Context(), s, now))
	_, err = s.UserByEmail(t.Context(), "guest@example.org")
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// The demo never gets into a database with anything else in it, nor deletes from one.
func TestTheDemoKeepsOutOfOtherDatabases(t *testing.T) {
	t.Parallel()
	s := withDemo(t)
	mine := pgtest.NewWorld(t, s, "mine")
	for range 2 { // also where nobody is on it
		assert.ErrorIs(t, demo.Load(t.Context(), s, now), demo.ErrElse)
		assert.ErrorIs(t, demo.Remove(t.Context(), s), demo.ErrElse)
		_, err := s.DB().ExecContext(t.Context(), `delete from memberships where site_id = $1`, mine.Site.ID)
		require.NoError(t, err)
	}
	for _, slug := range []string{demo.SiteSlug, "mine"} {
		_, err := s.SiteBySlug(t.Context(), slug)
		assert.NoError(t, err, "%s is still there", slug)
	}
}

func TestTheDemoHasSharedBefore(t *testing.T) {
	t.Parallel()
	s := withDemo(t)
	shared, err := demo.Shared(t.Context(), s.Queries, now)
	require.NoError(t, err)
	for kind, least := range map[string]int{"lantern": 40, "hearth": 30, "vitrine": 3, "crier": 3} {
		require.Greater(t, len(shared[kind]), least, kind)
		for _, o := range shared[kind] {
			assert.NotContains(t, o.Text, "{")
			assert.True(t, o.At.Before(now))
		}
	}
}

// What the demo world has written comes through the migration of texts, down and up, as it
// was.
func TestTheDemosTextsComeThroughTheMigration(t *testing.T) {
	t.Parallel()
	s := withDemo(t)
	all := func(body string) (said []string) {
		t.Helper()
		require.NoError(t, s.DB().SelectContext(t.Context(), &said, `
			select concat_ws(E'\x1f', id, status, slug, title, `+body+`, excerpt, fields, words, changed_at, version,
				(select count(*) from post_pictures where post_id = posts.id)) from posts where kind <> 'link' order by id`)) // link items came later
		require.Greater(t, len(said), 200)
		return said
	}
	was := all(`(select body from texts where texts.id = text_id)`)
	found := func() (n int) {
		t.Helper()
		site, err := s.SiteBySlug(t.Context(), demo.SiteSlug)
		require.NoError(t, err)
		rows, err := s.ListPosts(t.Context(), site.ID, store.PostFilter{Text: "dome"}, store.ByRelevance, true, nil,
			1000)
		require.NoError(t, err)
		return len(rows)
	}
	hits := found()
	require.NotZero(t, hits)
	provider, err := goose.NewProvider(goose.DialectPostgres, s.DB().DB, os.DirFS("../store/migrations"))
	require.NoError(t, err)
	_, err = provider.DownTo(t.Context(), 18)
	require.NoError(t, err)
	assert.Equal(t, was, all(`body`))
	_, err = s.Migrate(t.Context())
	require.NoError(t, err)
	assert.Equal(t, was, all(`(select body from texts where texts.id = text_id)`))
	assert.Equal(t, hits, found())
	var orphans int
	require.NoError(t, s.DB().GetContext(t.Context(), &orphans,
		`select count(*) from texts where not exists (select from posts where text_id = texts.id)`))
	assert.Zero(t, orphans)
}
