package planning_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/desktest"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/status"
)

func TestWhatWasMissed(t *testing.T) {
	r := desktest.New(t)
	first := r.Pinned(t, "First", pgtest.Noon.Add(time.Hour))
	second := r.Pinned(t, "Second", pgtest.Noon.Add(2*time.Hour))
	r.Pinned(t, "Later", pgtest.Noon.Add(20*time.Hour))
	at := pgtest.Noon.Add(5 * time.Hour)
	site := r.World.Site
	site.PausedAt = &at
	for choice, want := range map[deed.CatchUp][2]deed.Kind{
		deed.AtOnce: {deed.KindPublish, deed.KindPublish}, deed.HoldForMe: {deed.KindHold, deed.KindHold},
		deed.SpreadOut: {deed.KindPublish, deed.KindMove}, deed.NextSlots: {deed.KindMove, deed.KindMove},
	} {
		site.CatchUp = string(choice)
		found, err := planning.OverdueOf(t.Context(), r.Queries, site, at)
		require.NoError(t, err)
		require.Len(t, found.Waiting, 2, choice)
		assert.Equal(t, []int64{first, second}, []int64{found.Waiting[0].Post.ID, found.Waiting[1].Post.ID})
		assert.Equal(t, want, [2]deed.Kind{found.Waiting[0].Deed.Kind, found.Waiting[1].Deed.Kind}, choice)
	}

	// A line is changed before it happens.
	p := r.Reload(t, first)
	require.NoError(t, status.Hold(t.Context(), r.Desk, first, p.Version, at))
	require.ErrorAs(t, status.Hold(t.Context(), r.Desk, first, p.Version+1, at), new(*act.Invalid))
	found, err := planning.OverdueOf(t.Context(), r.Queries, site, at)
	require.NoError(t, err)
	require.Len(t, found.Waiting, 1)
	require.Len(t, found.Held, 1)
	assert.Equal(t, first, found.Held[0].ID)
	assert.Empty(t, found.Done, "no engine has run")
}
