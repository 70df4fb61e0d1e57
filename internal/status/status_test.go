package status_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/desktest"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// What is offered for a post follows from where it stands: a deed is offered where it can be
// done, and where only a title or a text is wanting, for which it then asks.
func TestWhatIsOfferedForAPost(t *testing.T) {
	now, later, before := pgtest.Noon, pgtest.Noon.Add(time.Hour), pgtest.Noon.Add(-time.Hour)
	whole := status.Situation{Kind: "post", Title: "A", HasText: true}
	with := func(change func(*status.Situation)) status.Situation { s := whole; change(&s); return s }
	for name, c := range map[string]struct {
		stands status.Situation
		want   string
	}{
		"draft": {with(func(s *status.Situation) { s.Status = store.Draft }),
			"place, clear, retime, bound, publish, hand in, bin"},
		"blank draft": {status.Situation{Kind: "post", Status: store.Draft},
			"place, clear, retime, bound, publish, hand in, bin"},
		"draft page": {with(func(s *status.Situation) { s.Status, s.Kind = store.Draft, "page" }),
			"retime, bound, publish, hand in, bin"},
		"for review": {with(func(s *status.Situation) { s.Status, s.HandedIn = store.Draft, true }),
			"place, clear, retime, bound, publish, give back, bin"},
		"on the shelf": {with(func(s *status.Situation) { s.Status, s.Cleared = store.Draft, true }),
			"place, unclear, retime, bound, publish, bin"},
		"scheduled": {with(func(s *status.Situation) { s.Status, s.DueAt = store.Scheduled, &later }),
			"retime, shelve, hold, publish, bin"},
		"held, to come": {with(func(s *status.Situation) {
			s.Status, s.DueAt, s.Held = store.Scheduled, &later,
				true
		}), "retime, shelve, release, publish, bin"},
		"held, overdue": {with(func(s *status.Situation) {
			s.Status, s.DueAt, s.Held = store.Scheduled, &before,
				true
		}), "retime, shelve, publish, bin"},
		"out":        {with(func(s *status.Situation) { s.Status = store.Published }), "bin"},
		"archived":   {with(func(s *status.Situation) { s.Status = store.Archived }), "bin"},
		"in the bin": {with(func(s *status.Situation) { s.Status = store.Binned }), "restore, delete"},
		"page scheduled": {with(func(s *status.Situation) {
			s.Status, s.Kind, s.DueAt = store.Scheduled, "page",
				&later
		}), "retime, shelve, hold, publish, bin"},
	} {
		var said []string
		for _, deed := range c.stands.Offered(now) {
			said = append(said, string(deed))
		}
		assert.Equal(t, c.want, strings.Join(said, ", "), name)
	}
}

// A post is held before its time: it keeps its place and does not come out; let go, it does.
func TestAPostIsHeldBeforeItsTime(t *testing.T) {
	r := desktest.New(t)
	id := r.Pinned(t, "First", pgtest.Noon.Add(5*time.Hour))
	p := r.Reload(t, id)
	due := *p.DueAt
	require.ErrorAs(t, status.Release(t.Context(), r.Desk, id, p.Version, pgtest.Noon), new(*act.Invalid), "it is not on hold")

	require.NoError(t, status.Hold(t.Context(), r.Desk, id, p.Version, pgtest.Noon))
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

	require.ErrorIs(t, status.Release(t.Context(), r.Desk, id, p.Version-1, pgtest.Noon), act.ErrStale)
	require.NoError(t, status.Release(t.Context(), r.Desk, id, p.Version, pgtest.Noon))
	assert.False(t, r.Reload(t, id).Held)

	// Letting go is undone, and so is holding.
	r.UndoLast(t)
	p = r.Reload(t, id)
	assert.True(t, p.Held)

	// Once its time has passed it is overdue, and letting go would have it come out late.
	later := due.Add(time.Minute)
	require.ErrorAs(t, status.Release(t.Context(), r.Desk, id, p.Version, later), new(*act.Invalid))
	found, err = planning.OverdueOf(t.Context(), r.Queries, r.World.Site, later)
	require.NoError(t, err)
	require.Len(t, found.Held, 1)
}

func TestADraftIsNotHeld(t *testing.T) {
	r := desktest.New(t)
	p := r.Draft(t, "A draft")
	require.ErrorAs(t, status.Hold(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon), new(*act.Invalid))
}

func TestRetimePinsAndFreesTheSlot(t *testing.T) {
	r := desktest.New(t)
	p := r.Shelved(t, 1)[0]
	plan := r.Propose(t)
	require.NoError(t, planning.Commit(t.Context(), r.Desk, plan.Token(), pgtest.Noon))
	p = r.Reload(t, p.ID)
	at := pgtest.Noon.Add(72*time.Hour + 20*time.Second)
	near, err := status.Retime(t.Context(), r.Desk, p.ID, p.Version, at, pgtest.Noon)
	require.NoError(t, err)
	assert.Empty(t, near)
	p = r.Reload(t, p.ID)
	assert.True(t, p.Pinned)
	assert.Equal(t, at.Truncate(time.Minute), p.DueAt.UTC(), "whole minutes")
	assert.Equal(t, rhythm.SlotID{}, p.Slot())

	r.Shelved(t, 1)
	assert.Equal(t, plan.Placed[0].Slot, r.Propose(t).Placed[0].Slot, "its slot is free again")
}

func TestRetimeTellsWhomItIsNearTo(t *testing.T) {
	r := desktest.New(t)
	other := r.Scheduled(t, "Neighbour", pgtest.Noon.Add(5*time.Hour))
	p := r.Draft(t, "Newcomer")
	near, err := status.Retime(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon.Add(5*time.Hour+59*time.Minute), pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, near, 1)
	assert.Equal(t, other.ID, near[0].ID)
	p = r.Reload(t, p.ID)
	near, err = status.Retime(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon.Add(6*time.Hour), pgtest.Noon)
	require.NoError(t, err)
	assert.Empty(t, near, "a whole gap away")
}

func TestShelveGoesToTheFront(t *testing.T) {
	r := desktest.New(t)
	r.Shelved(t, 2)
	p := r.Scheduled(t, "Held", pgtest.Noon.Add(time.Hour))
	require.NoError(t, status.Shelve(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon))
	shelf, err := r.Shelf(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	require.Len(t, shelf, 3)
	assert.Equal(t, p.ID, shelf[0].ID)
	assert.False(t, r.Reload(t, p.ID).Pinned)
}

func TestPublishNow(t *testing.T) {
	r := desktest.New(t)
	p := r.Scheduled(t, "Right now", pgtest.Noon.Add(time.Hour))
	require.NoError(t, status.PublishNow(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon))
	p = r.Reload(t, p.ID)
	assert.Equal(t, store.Published, p.Status)
	assert.True(t, p.PublishedAt.Equal(pgtest.Noon))
	assert.Equal(t, "Published by hand.", r.Lines(t, p.ID)[0].Reason)
	assert.ErrorAs(t, status.PublishNow(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon), new(*act.Invalid), "only once")
}

func TestWhatCannotBeDoneNamesTheField(t *testing.T) {
	r := desktest.New(t)
	untitled := r.Draft(t, "")
	out := r.Draft(t, "Out")
	require.NoError(t, status.PublishNow(t.Context(), r.Desk, out.ID, out.Version, pgtest.Noon))
	out = r.Reload(t, out.ID)
	titled := r.Draft(t, "Titled")
	for field, err := range map[string]error{
		"title": status.Clear(t.Context(), r.Desk, untitled.ID, untitled.Version, pgtest.Noon),
		"at": func() error {
			_, err := status.Retime(t.Context(), r.Desk, titled.ID, titled.Version, pgtest.Noon, pgtest.Noon)
			return err
		}(),
		"cleared": status.Clear(t.Context(), r.Desk, out.ID, out.Version, pgtest.Noon),
		"status":  status.Shelve(t.Context(), r.Desk, titled.ID, titled.Version, pgtest.Noon),
	} {
		var bad *act.Invalid
		require.ErrorAs(t, err, &bad, field)
		assert.Equal(t, field, bad.Field)
	}
}

func TestAStaleVersionChangesNothing(t *testing.T) {
	r := desktest.New(t)
	p := r.Draft(t, "Once")
	title := "Twice"
	saved, err := writing.Write(t.Context(), r.Desk, p.ID, p.Version, writing.Text{Title: &title}, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, p.Version+1, saved.Version)
	title = "Lost?"
	_, err = writing.Write(t.Context(), r.Desk, p.ID, p.Version, writing.Text{Title: &title}, pgtest.Noon)
	assert.ErrorIs(t, err, act.ErrStale)
	assert.Equal(t, "Twice", r.Reload(t, p.ID).Title)
	assert.ErrorIs(t, status.Clear(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon), act.ErrStale)
}

func TestAnotherSitesPostsAreNotFound(t *testing.T) {
	r := desktest.New(t)
	other := pgtest.NewWorld(t, r.World.Store, "lanes")
	p := other.Draft(t, "Theirs")
	title := "Mine"
	_, err := writing.Write(t.Context(), r.Desk, p.ID, p.Version, writing.Text{Title: &title}, pgtest.Noon)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, status.Clear(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon), store.ErrNotFound)
	mine := r.Draft(t, "Mine")
	_, err = writing.Write(t.Context(), r.Desk, mine.ID, mine.Version, writing.Text{Category: &other.Category}, pgtest.Noon)
	var bad *act.Invalid
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "categoryId", bad.Field)
}

func TestReorderWantsTheWholeShelf(t *testing.T) {
	r := desktest.New(t)
	posts := r.Shelved(t, 3)
	assert.ErrorIs(t, status.Reorder(t.Context(), r.Desk, []int64{posts[0].ID}, pgtest.Noon), act.ErrStale)
}
