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
	rows, err := s.DB().QueryContext(t.Context(), `select sites.slug || ' ' || stage, count(*) from posts join sites on sites.id = site_id group by sites.slug, stage`)
	require.NoError(t, err)
	for rows.Next() {
		var what string
		var n int
		require.NoError(t, rows.Scan(&what, &n))
		counts[what] = n
	}
	require.NoError(t, rows.Err())
	assert.Equal(t, map[string]int{
		"quillmoor published": 155, "quillmoor archived": 44, "quillmoor scheduled": 1, "quillmoor cleared": 18, "quillmoor draft": 12,
		"dark-lanes published": 18, "dark-lanes scheduled": 9, "dark-lanes cleared": 2, "dark-lanes draft": 1,
	}, counts)
	var rich, pictures, kinds, years int
	require.NoError(t, s.DB().GetContext(t.Context(), &rich, `
		select count(*) from posts where status in ('published', 'archived') and words >= 150 and array_length(regexp_split_to_array(btrim(body), E'\n\n'), 1) >= 3`))
	assert.GreaterOrEqual(t, rich, 60, "posts of several real paragraphs")
	require.NoError(t, s.DB().GetContext(t.Context(), &pictures, `select count(*) from posts where featured_image <> '' and featured_alt <> ''`))
	require.NoError(t, s.DB().GetContext(t.Context(), &kinds, `select count(distinct data) from picture_files f where width = (select max(width) from picture_files where picture_id = f.picture_id)`))
	assert.Greater(t, pictures, 170)
	assert.Equal(t, pictures, kinds, "each with a picture of its own")
	require.NoError(t, s.DB().GetContext(t.Context(), &years, `select count(distinct extract(year from published_at)) from posts where published_at is not null`))
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

	require.NoError(t, demo.Remove(t.Context(), s))
	require.NoError(t, demo.Load(t.Context(), s, now))
}
