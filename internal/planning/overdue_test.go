package planning_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
)

func TestWhatWasMissed(t *testing.T) {
	r := newRoom(t)
	first := r.pinned(t, "First", pgtest.Noon.Add(time.Hour))
	second := r.pinned(t, "Second", pgtest.Noon.Add(2*time.Hour))
	later := r.pinned(t, "Later", pgtest.Noon.Add(20*time.Hour))
	at := pgtest.Noon.Add(5 * time.Hour)
	site := r.World.Site
	site.PausedAt = &at
	for choice, want := range map[deed.CatchUp][2]deed.Kind{
		deed.AtOnce: {deed.Publish, deed.Publish}, deed.HoldForMe: {deed.Hold, deed.Hold},
		deed.SpreadOut: {deed.Publish, deed.Move}, deed.NextSlots: {deed.Move, deed.Move},
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
	require.NoError(t, r.Hold(t.Context(), first, p.Version, at))
	require.ErrorAs(t, r.Hold(t.Context(), first, p.Version+1, at), new(*planning.Invalid))
	require.ErrorAs(t, r.Hold(t.Context(), later, r.Reload(t, later).Version, at), new(*planning.Invalid))
	found, err := planning.OverdueOf(t.Context(), r.Queries, site, at)
	require.NoError(t, err)
	require.Len(t, found.Waiting, 1)
	require.Len(t, found.Held, 1)
	assert.Equal(t, first, found.Held[0].ID)
	assert.Empty(t, found.Done, "no engine has run")
}
