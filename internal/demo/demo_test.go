package demo_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/demo"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

func TestTheDemoWorldLoadsOnceAndIsRemovedWhole(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	now := pgtest.Noon.Add(17 * time.Second)
	require.NoError(t, demo.Load(t.Context(), s, now))
	assert.ErrorIs(t, demo.Load(t.Context(), s, now), demo.ErrLoaded)

	counts := map[string]int{}
	rows, err := s.DB().QueryContext(t.Context(), `select status || case when cleared then '+' else '' end, count(*) from posts group by 1`)
	require.NoError(t, err)
	for rows.Next() {
		var status string
		var n int
		require.NoError(t, rows.Scan(&status, &n))
		counts[status] = n
	}
	require.NoError(t, rows.Err())
	assert.Equal(t, map[string]int{"published": 32, "archived": 8, "draft": 4, "draft+": 8, "scheduled": 1}, counts)

	site, err := s.SiteBySlug(t.Context(), demo.SiteSlug)
	require.NoError(t, err)
	next, err := s.NextDue(t.Context(), site.ID)
	require.NoError(t, err)
	wait := next.DueAt.Sub(now)
	assert.True(t, wait >= 2*time.Minute && wait < 3*time.Minute, "%s", wait)

	plan, err := planning.Propose(t.Context(), s.Queries, site, now)
	require.NoError(t, err)
	assert.Len(t, plan.Placed, 8)
	out, err := s.PublishedPosts(t.Context(), site.ID, 0, 100)
	require.NoError(t, err)
	for _, p := range out {
		assert.Equal(t, store.Published, p.Status)
		assert.True(t, p.PublishedAt.Before(now))
		assert.NotEmpty(t, p.Body)
		assert.NotEmpty(t, p.Tags)
	}

	require.NoError(t, demo.Remove(t.Context(), s))
	require.NoError(t, demo.Load(t.Context(), s, now))
}
