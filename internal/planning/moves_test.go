package planning_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

func (r room) seen(t *testing.T, ids ...int64) (posts []planning.Seen) {
	t.Helper()
	for _, id := range ids {
		posts = append(posts, planning.Seen{Post: id, Version: r.Reload(t, id).Version})
	}
	return posts
}

func clockAt(text string) *civil.Clock {
	c := civil.MustClock(text)
	return &c
}

// pinned drafts posts with times by hand.
func (r room) pinned(t *testing.T, title string, at time.Time) int64 {
	t.Helper()
	p := r.Draft(t, title)
	_, err := r.Retime(t.Context(), p.ID, p.Version, at, pgtest.Noon)
	require.NoError(t, err)
	return p.ID
}

func TestMovingByHand(t *testing.T) {
	r := newRoom(t)
	zone := r.World.Site.Zone()
	date := civil.MustDate("2026-12-01")
	one := r.pinned(t, "One", zone.At(date, civil.MustClock("09:00")))
	two := r.pinned(t, "Two", zone.At(date.Add(1), civil.MustClock("20:00")))

	moved, err := r.Move(t.Context(), planning.Moving{Posts: r.seen(t, one, two), Date: date.Add(7)}, pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, moved, 2)
	assert.Equal(t, "Dec 8 09:00", r.due(t, one))
	assert.Equal(t, "Dec 9 20:00", r.due(t, two), "it keeps its distance")

	_, err = r.Move(t.Context(), planning.Moving{Posts: r.seen(t, one, two), Date: date.Add(7),
		Clock: clockAt("14:30")}, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, "Dec 8 14:30", r.due(t, one))
	assert.Equal(t, "Dec 10 01:30", r.due(t, two), "in minutes too, over midnight")
	r.undoLast(t)
	assert.Equal(t, "Dec 8 09:00", r.due(t, one), "undone together")
	assert.Equal(t, "Dec 9 20:00", r.due(t, two))

	// Into the gap of the other: the nearest minute that keeps it, said so.
	gap := r.gap(t)
	moved, err = r.Move(t.Context(), planning.Moving{Posts: r.seen(t, one), Date: date.Add(8),
		Clock: clockAt("20:01")}, pgtest.Noon)
	require.NoError(t, err)
	assert.Contains(t, moved[0].Note, "nearer than the gap")
	assert.Equal(t, gap, moved[0].To.Sub(*r.Reload(t, two).DueAt))

	_, err = r.Move(t.Context(), planning.Moving{Posts: r.seen(t, one, two)}, pgtest.Noon)
	require.NoError(t, err)
	shelf, err := r.Shelf(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	require.Len(t, shelf, 2)
	assert.Equal(t, []int64{one, two}, []int64{shelf[0].ID, shelf[1].ID})
	assert.Equal(t, "", r.due(t, one))
}

func (r room) gap(t *testing.T) time.Duration {
	t.Helper()
	rhythm, err := r.RhythmOf(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	return time.Duration(rhythm.Gap) * time.Minute
}

func TestAMoveThatCannotBeChangesNothing(t *testing.T) {
	r := newRoom(t)
	zone := r.World.Site.Zone()
	date := civil.MustDate("2026-12-01")
	one := r.pinned(t, "One", zone.At(date, civil.MustClock("09:00")))
	two := r.pinned(t, "Two", zone.At(date.Add(1), civil.MustClock("20:00")))
	var bad *act.Invalid
	_, err := r.Move(t.Context(), planning.Moving{Posts: r.seen(t, two, one), Date: zone.DateOf(pgtest.Noon)},
		pgtest.Noon)
	require.ErrorAs(t, err, &bad, "the other would come out yesterday")
	assert.Contains(t, bad.Message, "“One” was not moved")
	assert.Contains(t, bad.Message, "is over")
	assert.Equal(t, "Dec 2 20:00", r.due(t, two))

	stale := r.seen(t, one)
	stale[0].Version--
	_, err = r.Move(t.Context(), planning.Moving{Posts: stale, Date: date}, pgtest.Noon)
	require.ErrorIs(t, err, act.ErrStale)

	out := r.Draft(t, "Out")
	require.NoError(t, r.PublishNow(t.Context(), out.ID, out.Version, pgtest.Noon))
	_, err = r.Move(t.Context(), planning.Moving{Posts: r.seen(t, out.ID), Date: date}, pgtest.Noon)
	require.ErrorAs(t, err, &bad)
	_, err = r.Move(t.Context(), planning.Moving{Posts: []planning.Seen{{Post: 1 << 40}}, Date: date}, pgtest.Noon)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestADraftIsDroppedOnADay(t *testing.T) {
	r := newRoom(t)
	p := r.Draft(t, "Dropped")
	shelf := r.Drafts(t, 1)
	plan, err := planning.ProposeReflow(t.Context(), r.Queries, r.World.Site,
		planning.Wish{Do: planning.WishPlace, Posts: idsOf(shelf)}, pgtest.Noon)
	require.NoError(t, err)
	free := *plan.Steps[0].To
	moved, err := r.Move(t.Context(), planning.Moving{Posts: r.seen(t, p.ID), Date: r.World.Site.Zone().DateOf(free)},
		pgtest.Noon)
	require.NoError(t, err)
	assert.True(t, moved[0].To.Equal(free), "it takes the day's first free slot")
	now := r.Reload(t, p.ID)
	assert.NotNil(t, now.SlotDate)
	assert.False(t, now.Pinned)
}

func TestSwappingPlaces(t *testing.T) {
	r := newRoom(t)
	posts := r.Drafts(t, 2)
	r.wish(t, planning.Wish{Do: planning.WishPlace, Posts: idsOf(posts)})
	a, b := r.Reload(t, posts[0].ID), r.Reload(t, posts[1].ID)
	_, err := r.Swap(t.Context(), planning.Seen{Post: a.ID, Version: a.Version},
		planning.Seen{Post: b.ID, Version: b.Version}, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, b.DueAt, r.Reload(t, a.ID).DueAt)
	assert.Equal(t, a.Slot(), r.Reload(t, b.ID).Slot())
	r.undoLast(t)
	assert.Equal(t, a.Slot(), r.Reload(t, a.ID).Slot())

	draft := r.Draft(t, "Instead")
	both := r.seen(t, draft.ID, a.ID)
	_, err = r.Swap(t.Context(), both[0], both[1], pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, a.DueAt, r.Reload(t, draft.ID).DueAt)
	assert.True(t, r.Reload(t, a.ID).Cleared, "the other goes to the shelf")
	var bad *act.Invalid
	_, err = r.Swap(t.Context(), both[0], both[0], pgtest.Noon)
	require.ErrorAs(t, err, &bad)
}

func TestTheGroundOfAMove(t *testing.T) {
	r := newRoom(t)
	zone := r.World.Site.Zone()
	date := civil.MustDate("2026-12-01")
	one := r.pinned(t, "One", zone.At(date, civil.MustClock("09:00")))
	r.pinned(t, "Two", zone.At(date, civil.MustClock("20:00")))
	gap := int(r.gap(t) / time.Minute)
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

func TestManyPostsAreEditedAndUndone(t *testing.T) {
	r := newRoom(t)
	posts := r.Drafts(t, 3)
	out := r.Draft(t, "Out")
	require.NoError(t, r.PublishNow(t.Context(), out.ID, out.Version, pgtest.Noon))
	all := r.seen(t, append(idsOf(posts), out.ID)...)
	yes, until := true, pgtest.Noon.Add(240*time.Hour)
	changed, left, err := r.EditMany(t.Context(), all, planning.Edit{AddTags: []string{"Moon", "Night sky"},
		Evergreen: &yes, Deadline: &until}, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 3, changed)
	require.Len(t, left, 1)
	assert.Contains(t, left[0].Reason, "Only a draft has bounds")
	p := r.Reload(t, posts[1].ID)
	assert.ElementsMatch(t, []string{"Moon", "Night sky"}, p.Tags)
	assert.True(t, p.Evergreen)
	assert.True(t, p.Deadline.Equal(until))
	assert.Equal(t, "Changed in the list: bounds, evergreen and tags.", r.last(t).Reason)

	changed, _, err = r.EditMany(t.Context(), r.seen(t, idsOf(posts)...), planning.Edit{RemoveTags: []string{"moon"}},
		pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 3, changed)
	assert.Equal(t, []string{"Night sky"}, []string(r.Reload(t, posts[2].ID).Tags))
	r.undoLast(t)
	assert.ElementsMatch(t, []string{"Moon", "Night sky"}, r.Reload(t, posts[0].ID).Tags)
	r.undoLast(t)
	assert.Equal(t, []string{"Night sky"}, []string(r.Reload(t, posts[2].ID).Tags), "done again")

	version := r.Reload(t, posts[0].ID).Version
	changed, _, err = r.EditMany(t.Context(), r.seen(t, posts[0].ID),
		planning.Edit{Evergreen: &yes, AddTags: []string{"night SKY"}}, pgtest.Noon)
	require.NoError(t, err)
	assert.Zero(t, changed, "it is that already")
	assert.Equal(t, version, r.Reload(t, posts[0].ID).Version, "nothing is written")
	title, nobody := "New title", int64(1<<40)
	_, _, err = r.EditMany(t.Context(), r.seen(t, idsOf(posts)...), planning.Edit{Title: &title}, pgtest.Noon)
	require.ErrorAs(t, err, new(*act.Invalid))
	_, _, err = r.EditMany(t.Context(), r.seen(t, idsOf(posts)...), planning.Edit{Author: &nobody}, pgtest.Noon)
	require.ErrorAs(t, err, new(*act.Invalid))
	_, left, err = r.EditMany(t.Context(), []planning.Seen{{Post: posts[0].ID, Version: 1}},
		planning.Edit{Title: &title}, pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, left, 1, "somebody else was there first")
}

func TestAPageHasATimeButNoSlot(t *testing.T) {
	r := newRoom(t)
	p := r.Draft(t, "About us")
	_, err := r.DB().ExecContext(t.Context(), `update posts set kind = 'page' where id = $1`, p.ID)
	require.NoError(t, err)
	date := civil.MustDate("2026-12-01")
	_, err = r.Move(t.Context(), planning.Moving{Posts: r.seen(t, p.ID), Date: date}, pgtest.Noon)
	require.ErrorContains(t, err, "pages don’t use slots")
	for range 2 {
		_, err = r.Move(t.Context(), planning.Moving{Posts: r.seen(t, p.ID), Date: date, Clock: clockAt("10:00")},
			pgtest.Noon)
		require.NoError(t, err)
		assert.Equal(t, "Dec 1 10:00", r.due(t, p.ID))
		_, err = r.Move(t.Context(), planning.Moving{Posts: r.seen(t, p.ID)}, pgtest.Noon)
		require.NoError(t, err)
		assert.Equal(t, store.Draft, r.Reload(t, p.ID).Status)
		assert.False(t, r.Reload(t, p.ID).Cleared, "it does not queue")
	}
}

// What a list changes of one post is one act: its fields, its address and its time, or none.
func TestAPostIsEditedAndTimedAtOnce(t *testing.T) {
	r := newRoom(t)
	p := r.Draft(t, "Comets")
	title, slug, at := "Comets of the year", "Comets of 2026", pgtest.Noon.Add(50*time.Hour+20*time.Second)
	past := pgtest.Noon.Add(-time.Minute)
	_, _, err := r.EditMany(t.Context(), r.seen(t, p.ID), planning.Edit{Title: &title, Slug: &slug, At: &past},
		pgtest.Noon)
	require.ErrorContains(t, err, "That time has passed.")
	assert.Equal(t, "Comets", r.Reload(t, p.ID).Title, "nothing of it is kept")

	changed, _, err := r.EditMany(t.Context(), r.seen(t, p.ID), planning.Edit{Title: &title, Slug: &slug, At: &at},
		pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 1, changed)
	now := r.Reload(t, p.ID)
	assert.Equal(t, []any{title, "comets-of-2026", store.Scheduled, true},
		[]any{now.Title, now.Slug, now.Status, now.Pinned})
	assert.True(t, now.DueAt.Equal(at.Truncate(time.Minute)))

	r.undoLast(t)
	now = r.Reload(t, p.ID)
	assert.Equal(t, []any{"Comets", "", store.Draft, false}, []any{now.Title, now.Slug, now.Status, now.Pinned})
	r.undoLast(t)
	now = r.Reload(t, p.ID)
	assert.Equal(t, []any{title, "comets-of-2026", store.Scheduled}, []any{now.Title, now.Slug, now.Status})

	// The address that scheduling makes is none that the edit gave: it is no later change.
	moon, half := r.Draft(t, "Moon"), "Half Moon"
	at = at.Add(24 * time.Hour)
	_, _, err = r.EditMany(t.Context(), r.seen(t, moon.ID), planning.Edit{Title: &half, At: &at}, pgtest.Noon)
	require.NoError(t, err)
	r.undoLast(t)
	now = r.Reload(t, moon.ID)
	assert.Equal(t, []any{"Moon", store.Draft}, []any{now.Title, now.Status})

	other := r.Draft(t, "Other")
	_, _, err = r.EditMany(t.Context(), r.seen(t, p.ID, other.ID), planning.Edit{At: &at}, pgtest.Noon)
	assert.ErrorContains(t, err, "one post at a time")
}

// Undoing a change of fields leaves posts in their slots.
func TestUndoingAnEditKeepsSlots(t *testing.T) {
	r := newRoom(t)
	posts := r.shelved(t, 2)
	require.NoError(t, r.Commit(t.Context(), r.propose(t).Token(), pgtest.Noon))
	for i, p := range posts {
		posts[i] = r.Reload(t, p.ID)
	}
	yes := true
	_, _, err := r.EditMany(t.Context(), r.seen(t, idsOf(posts)...), planning.Edit{Evergreen: &yes}, pgtest.Noon)
	require.NoError(t, err)
	r.undoLast(t)
	for _, p := range posts {
		now := r.Reload(t, p.ID)
		assert.False(t, now.Evergreen)
		assert.NotZero(t, now.Slot())
		assert.Equal(t, p.Slot(), now.Slot())
	}
}
