package store_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// seatTitles are the titles of what the store says sits in the plan since noon.
func seatTitles(t *testing.T, q store.Queries, site int64, shown store.Span) []string {
	t.Helper()
	seats, err := q.Seats(t.Context(), site, pgtest.Noon, shown)
	require.NoError(t, err)
	titles := []string{}
	for _, e := range seats {
		titles = append(titles, e.Title)
	}
	return titles
}

func TestSeatsAreInOrderAndOfTheSpan(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	w, other := pgtest.NewWorld(t, s, "dome"), pgtest.NewWorld(t, s, "lanes")
	w.Scheduled(t, "Later", pgtest.Noon.Add(time.Hour))
	w.Scheduled(t, "Sooner", pgtest.Noon)
	w.Draft(t, "A draft")
	other.Scheduled(t, "Elsewhere", pgtest.Noon)
	out := func(title string, ago time.Duration) {
		p := w.Scheduled(t, title, pgtest.Noon)
		_, err := s.DB().ExecContext(t.Context(),
			`update posts set status = 'published', due_at = null, pinned = false, published_at = $2 where id = $1`, p.ID, pgtest.Noon.Add(-ago))
		require.NoError(t, err)
	}
	out("Just out", 0)
	out("An hour old", time.Hour)
	out("A day old", 24*time.Hour)
	shown := store.Span{From: pgtest.Noon.Add(-25 * time.Hour), To: pgtest.Noon.Add(-2 * time.Hour)}
	assert.Equal(t, []string{"Sooner", "Just out", "Later"}, seatTitles(t, s.Queries, w.Site.ID, store.Span{}))
	assert.Equal(t, []string{"A day old", "Sooner", "Just out", "Later"}, seatTitles(t, s.Queries, w.Site.ID, shown))
	shown.To = pgtest.Noon.Add(time.Hour)
	assert.Equal(t, []string{"A day old", "An hour old", "Sooner", "Just out", "Later"},
		seatTitles(t, s.Queries, w.Site.ID, shown), "each once")
	require.NoError(t, s.InTx(t.Context(), func(tx *store.Tx) error {
		assert.Equal(t, []string{"Sooner", "Just out", "Later"}, seatTitles(t, tx.Queries, w.Site.ID, store.Span{}))
		return nil
	}))

	between, err := s.EntriesBetween(t.Context(), w.Site.ID, pgtest.Noon.Add(-time.Hour), pgtest.Noon.Add(time.Hour))
	require.NoError(t, err)
	require.Len(t, between, 3, "the end is not of it")
	assert.Equal(t, "Ines Abara", between[0].AuthorName)
	assert.Equal(t, "Sky Guide", *between[0].CategoryName)
	assert.Equal(t, store.Published, between[0].Status)
	assert.True(t, between[1].Placed().Waits && between[1].Pinned)
}

// What is kept between readings is never told in place of what is so.
func TestKeptSeatsAreThoseOfTheDatabase(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "dome")
	cold := func(ctx context.Context, site int64) (seats []store.Entry, err error) {
		err = s.InTx(ctx, func(tx *store.Tx) error { // a transaction keeps nothing
			seats, err = tx.Seats(ctx, site, pgtest.Noon, store.Span{})
			return err
		})
		return seats, err
	}
	var ids []int64
	for i := range 12 {
		ids = append(ids, w.Scheduled(t, fmt.Sprintf("Post %d", i), pgtest.Noon.Add(time.Duration(i)*time.Hour)).ID)
	}
	deeds := []string{
		pgtest.Retitle(`posts.title || '!'`, `posts.id = $1`),
		`update posts set due_at = due_at + interval '90 minutes' where id = $1 and status = 'scheduled'`,
		`update posts set status = 'published', published_at = due_at, due_at = null, pinned = false where id = $1 and status = 'scheduled'`,
		`update posts set status = 'draft', due_at = null, published_at = null, pinned = false where id = $1`,
		`update posts set status = 'scheduled', due_at = '2026-11-25 12:00Z', published_at = null where id = $1`,
		`update posts set category_id = case when category_id is null then (select max(id) from categories) end where id = $1`,
		`update users set name = name || 'a' where id = (select author_id from posts where id = $1)`,
		`update categories set name = name || 's' where id = (select category_id from posts where id = $1)`,
		`delete from posts where id = $1 and title like '%!!!'`,
		`update posts set version = version + 1 where id >= $1`,
		`select id from posts where id = $1 for update`,
	}
	rapid.Check(t, func(r *rapid.T) {
		err := s.InTx(t.Context(), func(tx *store.Tx) error {
			for range rapid.IntRange(1, 4).Draw(r, "deeds") {
				deed := rapid.SampledFrom(deeds).Draw(r, "deed")
				if _, err := tx.SQL().ExecContext(t.Context(), deed,
					rapid.SampledFrom(ids).Draw(r, "post")); err != nil {
					return err
				}
			}
			return nil
		})
		require.NoError(r, err)
		is, err := cold(t.Context(), w.Site.ID)
		require.NoError(r, err)
		for range 2 {
			told, err := s.Seats(t.Context(), w.Site.ID, pgtest.Noon, store.Span{})
			require.NoError(r, err)
			require.Equal(r, is, told)
		}
	})
}

// Within a transaction all writings look alike from outside; it must see each of them.
func TestATransactionSeesItsOwnSeats(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "dome")
	p := w.Scheduled(t, "Before", pgtest.Noon)
	require.Equal(t, []string{"Before"}, seatTitles(t, s.Queries, w.Site.ID, store.Span{}))
	require.NoError(t, s.InTx(t.Context(), func(tx *store.Tx) error {
		for _, title := range []string{"Once", "Twice"} {
			_, err := tx.SQL().ExecContext(t.Context(), pgtest.Retitle(`$2`, `posts.id = $1`), p.ID, title)
			require.NoError(t, err)
			assert.Equal(t, []string{title}, seatTitles(t, tx.Queries, w.Site.ID, store.Span{}))
			assert.Equal(t, []string{"Before"}, seatTitles(t, s.Queries, w.Site.ID, store.Span{}),
				"others do not see it yet")
		}
		return nil
	}))
	assert.Equal(t, []string{"Twice"}, seatTitles(t, s.Queries, w.Site.ID, store.Span{}))
}

// More seats than are kept, and more changed at once than are worth picking out.
func TestSeatsOfAVeryFullPlan(t *testing.T) {
	if testing.Short() {
		t.Skip("make test-long fills it: 20,000 posts")
	}
	t.Parallel()
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "dome")
	fill := func(n int) {
		pgtest.Put(t, s, `site_id, author_id, title, slug, body, status, due_at, created_at, updated_at`, `
			select $1::bigint, $2::bigint, 'Full', 'full-' || $4::integer || '-' || i, '', 'scheduled', $3::timestamptz + make_interval(mins => i), $3::timestamptz, $3::timestamptz
			from generate_series(1, $4::integer) i`, w.Site.ID, w.Editor.ID, pgtest.Noon, n)
	}
	fill(19_000)
	for range 2 {
		assert.Len(t, seatTitles(t, s.Queries, w.Site.ID, store.Span{}), 19_000)
	}
	fill(400)
	assert.Len(t, seatTitles(t, s.Queries, w.Site.ID, store.Span{}), 19_400)
	fill(1_200)
	assert.Len(t, seatTitles(t, s.Queries, w.Site.ID, store.Span{}), 20_600)
	_, err := s.DB().ExecContext(t.Context(), pgtest.Retitle(`'Anew'`, `posts.title = 'Full'`))
	require.NoError(t, err)
	assert.NotContains(t, seatTitles(t, s.Queries, w.Site.ID, store.Span{}), "Full")
}

// While the plan is written from many sides, a reader never sees half of a change.
func TestSeatsWhileOthersWrite(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "dome")
	for range 30 {
		w.Scheduled(t, "0", pgtest.Noon)
	}
	writing, end := context.WithCancel(t.Context())
	done := make(chan error, 1)
	go func() {
		var err error
		for n := 1; writing.Err() == nil && err == nil; n++ {
			_, err = s.DB().ExecContext(t.Context(), pgtest.Retitle(`$1::text`, `true`), fmt.Sprint(n))
		}
		done <- err
	}()
	for range 200 {
		titles := seatTitles(t, s.Queries, w.Site.ID, store.Span{})
		require.Len(t, titles, 30)
		for _, title := range titles {
			require.Equal(t, titles[0], title)
		}
	}
	end()
	require.NoError(t, <-done)
}

func TestReadingsTogether(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	ctx := t.Context()
	fail := fmt.Errorf("no")
	read := func(q store.Queries) (n [2]int, err error) {
		err = q.Together(ctx,
			func(ctx context.Context) error { n[0]++; return ctx.Err() },
			func(context.Context) error { n[1]++; return fail })
		return n, err
	}
	n, err := read(s.Queries)
	assert.ErrorIs(t, err, fail)
	assert.Equal(t, [2]int{1, 1}, n)
	assert.ErrorIs(t, s.InTx(ctx, func(tx *store.Tx) error {
		n, err := read(tx.Queries)
		assert.Equal(t, [2]int{1, 1}, n)
		return err
	}), fail)
}
