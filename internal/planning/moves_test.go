package planning_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/desktest"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

func clockAt(text string) *civil.Clock {
	c := civil.MustClock(text)
	return &c
}

func TestMovingByHand(t *testing.T) {
	r := desktest.New(t)
	zone := r.World.Site.Zone()
	date := civil.MustDate("2026-12-01")
	one := r.Pinned(t, "One", zone.At(date, civil.MustClock("09:00")))
	two := r.Pinned(t, "Two", zone.At(date.Add(1), civil.MustClock("20:00")))

	moved, err := planning.Move(t.Context(), r.Desk, planning.Moving{Posts: r.Seen(t, one, two), Date: date.Add(7)}, pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, moved, 2)
	assert.Equal(t, "Dec 8 09:00", r.Due(t, one))
	assert.Equal(t, "Dec 9 20:00", r.Due(t, two), "it keeps its distance")

	_, err = planning.Move(t.Context(), r.Desk, planning.Moving{Posts: r.Seen(t, one, two), Date: date.Add(7),
		Clock: clockAt("14:30")}, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, "Dec 8 14:30", r.Due(t, one))
	assert.Equal(t, "Dec 10 01:30", r.Due(t, two), "in minutes too, over midnight")
	r.UndoLast(t)
	assert.Equal(t, "Dec 8 09:00", r.Due(t, one), "undone together")
	assert.Equal(t, "Dec 9 20:00", r.Due(t, two))

	// Into the gap of the other: the nearest minute that keeps it, said so.
	gap := gap(t, r)
	moved, err = planning.Move(t.Context(), r.Desk, planning.Moving{Posts: r.Seen(t, one), Date: date.Add(8),
		Clock: clockAt("20:01")}, pgtest.Noon)
	require.NoError(t, err)
	assert.Contains(t, moved[0].Note, "nearer than the gap")
	assert.Equal(t, gap, moved[0].To.Sub(*r.Reload(t, two).DueAt))

	_, err = planning.Move(t.Context(), r.Desk, planning.Moving{Posts: r.Seen(t, one, two)}, pgtest.Noon)
	require.NoError(t, err)
	shelf, err := r.Shelf(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	require.Len(t, shelf, 2)
	assert.Equal(t, []int64{one, two}, []int64{shelf[0].ID, shelf[1].ID})
	assert.Equal(t, "", r.Due(t, one))
}

func gap(t *testing.T, r desktest.Room) time.Duration {
	t.Helper()
	rhythm, err := r.RhythmOf(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	return time.Duration(rhythm.Gap) * time.Minute
}

func TestAMoveThatCannotBeChangesNothing(t *testing.T) {
	r := desktest.New(t)
	zone := r.World.Site.Zone()
	date := civil.MustDate("2026-12-01")
	one := r.Pinned(t, "One", zone.At(date, civil.MustClock("09:00")))
	two := r.Pinned(t, "Two", zone.At(date.Add(1), civil.MustClock("20:00")))
	var bad *act.Invalid
	_, err := planning.Move(t.Context(), r.Desk, planning.Moving{Posts: r.Seen(t, two, one), Date: zone.DateOf(pgtest.Noon)},
		pgtest.Noon)
	require.ErrorAs(t, err, &bad, "the other would come out yesterday")
	assert.Contains(t, bad.Message, "“One” was not moved")
	assert.Contains(t, bad.Message, "is over")
	assert.Equal(t, "Dec 2 20:00", r.Due(t, two))

	stale := r.Seen(t, one)
	stale[0].Version--
	_, err = planning.Move(t.Context(), r.Desk, planning.Moving{Posts: stale, Date: date}, pgtest.Noon)
	require.ErrorIs(t, err, act.ErrStale)

	out := r.Draft(t, "Out")
	require.NoError(t, status.PublishNow(t.Context(), r.Desk, out.ID, out.Version, pgtest.Noon))
	_, err = planning.Move(t.Context(), r.Desk, planning.Moving{Posts: r.Seen(t, out.ID), Date: date}, pgtest.Noon)
	require.ErrorAs(t, err, &bad)
	_, err = planning.Move(t.Context(), r.Desk, planning.Moving{Posts: []act.PostVersion{{Post: 1 << 40}}, Date: date}, pgtest.Noon)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestADraftIsDroppedOnADay(t *testing.T) {
	r := desktest.New(t)
	p := r.Draft(t, "Dropped")
	shelf := r.Drafts(t, 1)
	plan, err := planning.ProposeReflow(t.Context(), r.Queries, r.World.Site,
		planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(shelf)}, pgtest.Noon)
	require.NoError(t, err)
	free := *plan.Steps[0].To
	moved, err := planning.Move(t.Context(), r.Desk, planning.Moving{Posts: r.Seen(t, p.ID), Date: r.World.Site.Zone().DateOf(free)},
		pgtest.Noon)
	require.NoError(t, err)
	assert.True(t, moved[0].To.Equal(free), "it takes the day's first free slot")
	now := r.Reload(t, p.ID)
	assert.NotNil(t, now.SlotDate)
	assert.False(t, now.Pinned)
}

func TestSwappingPlaces(t *testing.T) {
	r := desktest.New(t)
	posts := r.Drafts(t, 2)
	r.Rearrange(t, planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(posts)})
	a, b := r.Reload(t, posts[0].ID), r.Reload(t, posts[1].ID)
	_, err := planning.Swap(t.Context(), r.Desk, act.PostVersion{Post: a.ID, Version: a.Version},
		act.PostVersion{Post: b.ID, Version: b.Version}, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, b.DueAt, r.Reload(t, a.ID).DueAt)
	assert.Equal(t, a.Slot(), r.Reload(t, b.ID).Slot())
	r.UndoLast(t)
	assert.Equal(t, a.Slot(), r.Reload(t, a.ID).Slot())

	draft := r.Draft(t, "Instead")
	both := r.Seen(t, draft.ID, a.ID)
	_, err = planning.Swap(t.Context(), r.Desk, both[0], both[1], pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, a.DueAt, r.Reload(t, draft.ID).DueAt)
	assert.True(t, r.Reload(t, a.ID).Cleared, "the other goes to the shelf")
	var bad *act.Invalid
	_, err = planning.Swap(t.Context(), r.Desk, both[0], both[0], pgtest.Noon)
	require.ErrorAs(t, err, &bad)
}

func TestTheGroundOfAMove(t *testing.T) {
	r := desktest.New(t)
	zone := r.World.Site.Zone()
	date := civil.MustDate("2026-12-01")
	one := r.Pinned(t, "One", zone.At(date, civil.MustClock("09:00")))
	r.Pinned(t, "Two", zone.At(date, civil.MustClock("20:00")))
	gap := int(gap(t, r) / time.Minute)
	site := r.World.Site
	site.CapDay = 1
	ground, err := planning.GroundFor(t.Context(), r.Queries, site, []int64{one}, date.Add(-8), 10, pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, ground, 10)
	assert.Contains(t, ground[0].Bar, "is over")
	assert.Empty(t, ground[7].Bar)
	day := ground[8]
	assert.Contains(t, day.Bar, "full")
	require.Len(t, day.Shadows, 1, "its own place is none: it is lifted")
	assert.Equal(t, 20*60-gap+1, day.Shadows[0].From)
}
