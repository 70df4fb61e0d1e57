package planning_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

func TestWhatWasMissed(t *testing.T) {
	r := newRoom(t)
	first := r.pinned(t, "First", pgtest.Noon.Add(time.Hour))
	second := r.pinned(t, "Second", pgtest.Noon.Add(2*time.Hour))
	r.pinned(t, "Later", pgtest.Noon.Add(20*time.Hour))
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
	require.NoError(t, r.Hold(t.Context(), first, p.Version, at))
	require.ErrorAs(t, r.Hold(t.Context(), first, p.Version+1, at), new(*act.Invalid))
	found, err := planning.OverdueOf(t.Context(), r.Queries, site, at)
	require.NoError(t, err)
	require.Len(t, found.Waiting, 1)
	require.Len(t, found.Held, 1)
	assert.Equal(t, first, found.Held[0].ID)
	assert.Empty(t, found.Done, "no engine has run")
}

// A post is held before its time: it keeps its place and does not come out; let go, it does.
func TestAPostIsHeldBeforeItsTime(t *testing.T) {
	r := newRoom(t)
	id := r.pinned(t, "First", pgtest.Noon.Add(5*time.Hour))
	p := r.Reload(t, id)
	due := *p.DueAt
	require.ErrorAs(t, r.Release(t.Context(), id, p.Version, pgtest.Noon), new(*act.Invalid), "it is not on hold")

	require.NoError(t, r.Hold(t.Context(), id, p.Version, pgtest.Noon))
	p = r.Reload(t, id)
	assert.True(t, p.Held)
	assert.Equal(t, store.Scheduled, p.Status)
	assert.True(t, due.Equal(*p.DueAt), "its place stays its own")
	waiting, err := r.ScheduledPosts(t.Context(), r.World.Site.ID, pgtest.Noon)
	require.NoError(t, err)
	assert.Empty(t, waiting, "neither forecast nor engine has it come out")
	found, err := planning.OverdueOf(t.Context(), r.Queries, r.World.Site, pgtest.Noon)
	require.NoError(t, err)
	assert.Empty(t, found.Held, "nothing is overdue yet")

	require.ErrorIs(t, r.Release(t.Context(), id, p.Version-1, pgtest.Noon), act.ErrStale)
	require.NoError(t, r.Release(t.Context(), id, p.Version, pgtest.Noon))
	assert.False(t, r.Reload(t, id).Held)

	// Letting go is undone, and so is holding.
	r.undoLast(t)
	p = r.Reload(t, id)
	assert.True(t, p.Held)

	// Once its time has passed it is overdue, and letting go would have it come out late.
	later := due.Add(time.Minute)
	require.ErrorAs(t, r.Release(t.Context(), id, p.Version, later), new(*act.Invalid))
	found, err = planning.OverdueOf(t.Context(), r.Queries, r.World.Site, later)
	require.NoError(t, err)
	require.Len(t, found.Held, 1)
}

func TestADraftIsNotHeld(t *testing.T) {
	r := newRoom(t)
	p := r.Draft(t, "A draft")
	require.ErrorAs(t, r.Hold(t.Context(), p.ID, p.Version, pgtest.Noon), new(*act.Invalid))
}
