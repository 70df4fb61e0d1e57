package planning_test

import (
	"encoding/json"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/enact"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// last is the latest line of the logbook.
func (r room) last(t *testing.T) store.LogEntry {
	t.Helper()
	lines, err := r.Logbook(t.Context(), r.World.Site.ID, store.LogFilter{}, 1)
	require.NoError(t, err)
	require.Len(t, lines, 1)
	return lines[0]
}

// back undoes a line.
func (r room) back(t *testing.T, line int64, now time.Time) error {
	_, err := r.Undo(t.Context(), line, now)
	return err
}

func (r room) undoLast(t *testing.T) {
	t.Helper()
	require.NoError(t, r.back(t, r.last(t).ID, noon))
}

func TestUndoTakesAWholePlacementBack(t *testing.T) {
	r := newRoom(t)
	r.shelved(t, 4)
	plan := r.propose(t)
	require.NoError(t, r.Commit(t.Context(), plan.Token(), noon))
	line := r.last(t)
	r.undoLast(t)
	assert.Equal(t, plan.Token(), r.propose(t).Token(), "the shelf is as it was, in its order")
	assert.ErrorAs(t, r.back(t, line.ID, noon), new(*act.Invalid), "not twice")
}

func TestUndoOfEachDeed(t *testing.T) {
	r := newRoom(t)
	p := r.Draft(t, "To and fro")
	at := noon.Add(48 * time.Hour)
	for name, do := range map[string]func(p store.Post) error{
		"clear":   func(p store.Post) error { return r.Clear(t.Context(), p.ID, p.Version, noon) },
		"retime":  func(p store.Post) error { _, err := r.Retime(t.Context(), p.ID, p.Version, at, noon); return err },
		"bounds":  func(p store.Post) error { return r.SetBounds(t.Context(), p.ID, p.Version, noon, at, noon) },
		"publish": func(p store.Post) error { return r.PublishNow(t.Context(), p.ID, p.Version, noon) },
	} {
		before := r.Reload(t, p.ID)
		require.NoError(t, do(before), name)
		did := r.Reload(t, p.ID)
		r.undoLast(t)
		undone := r.last(t).ID
		r.undoLast(t) // and does it again
		assert.ErrorAs(t, r.back(t, undone, noon), new(*act.Invalid), "%s: not twice", name)
		again := r.Reload(t, p.ID)
		assert.Equal(t, []any{did.Status, did.Cleared, did.DueAt, did.Pinned, did.PublishedAt, did.NotBefore,
			did.Deadline},
			[]any{again.Status, again.Cleared, again.DueAt, again.Pinned, again.PublishedAt, again.NotBefore,
				again.Deadline}, name)
		assert.Contains(t, r.last(t).Reason, "Done again: ", name)
		r.undoLast(t)
		assert.Contains(t, r.last(t).Reason, "Undone: ", name)
		after := r.Reload(t, p.ID)
		assert.Equal(t, before.Status, after.Status, name)
		assert.Equal(t, before.Cleared, after.Cleared, name)
		assert.Equal(t, before.Deadline, after.Deadline, name)
		assert.Nil(t, after.PublishedAt, name)
	}
}

func TestUndoOfShelvingGivesTheSlotBack(t *testing.T) {
	r := newRoom(t)
	p := r.shelved(t, 1)[0]
	require.NoError(t, r.Commit(t.Context(), r.propose(t).Token(), noon))
	p = r.Reload(t, p.ID)
	require.NoError(t, r.Shelve(t.Context(), p.ID, p.Version, noon))
	r.undoLast(t)
	back := r.Reload(t, p.ID)
	assert.Equal(t, p.Slot(), back.Slot())
	assert.True(t, back.DueAt.Equal(*p.DueAt))

	require.NoError(t, r.Shelve(t.Context(), back.ID, back.Version, noon))
	line := r.last(t)
	require.NoError(t, r.Commit(t.Context(), r.propose(t).Token(), noon))
	assert.ErrorContains(t, r.back(t, line.ID, noon), "changed since")
}

// A publication by the engine goes back to its time where that is still to come, and
// never to a time that has passed, at which it would only come out again.
func TestUndoOfAPublication(t *testing.T) {
	r := newRoom(t)
	due := noon.Add(time.Hour)
	early := r.Scheduled(t, "By hand", due)
	require.NoError(t, r.PublishNow(t.Context(), early.ID, early.Version, noon))
	r.undoLast(t)
	early = r.Reload(t, early.ID)
	assert.Equal(t, store.Scheduled, early.Status)
	assert.True(t, early.DueAt.Equal(due) && early.Pinned)

	p := r.Scheduled(t, "Out too soon", due)
	require.NoError(t, r.InTx(t.Context(), func(tx *store.Tx) error {
		publish := deed.Publish{Base: deed.Base{Post: p.ID, Due: due, Reason: "Its time had come."}}
		_, err := enact.Doer{Site: r.World.Site.ID, Now: due}.Do(t.Context(), tx, store.Rule{},
			deed.Decision{Deeds: []deed.Deed{publish}})
		return err
	}))
	require.Equal(t, store.Published, r.Reload(t, p.ID).Status)
	require.NoError(t, r.back(t, r.last(t).ID, due.Add(time.Minute)))
	p = r.Reload(t, p.ID)
	assert.Equal(t, store.Draft, p.Status)
	assert.True(t, p.Cleared)
}

func TestUndoOfRhythmAndOrder(t *testing.T) {
	r := newRoom(t)
	changed := r.Rhythm
	changed.Openings = []rhythm.Opening{rhythm.Fixed("noon", rhythm.EveryDay, civil.MustClock("12:30"), 0)}
	require.NoError(t, r.SaveRhythm(t.Context(), changed, noon))
	r.undoLast(t)
	now, err := r.RhythmOf(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, "morning", now.Openings[0].Key)

	posts := r.shelved(t, 3)
	require.NoError(t, r.Reorder(t.Context(), []int64{posts[2].ID, posts[0].ID, posts[1].ID}, noon))
	r.undoLast(t)
	assert.Equal(t, posts[0].ID, r.propose(t).Shelf[0].ID)
}

func TestUndoOfSeasons(t *testing.T) {
	r := newRoom(t)
	season := store.Rhythm{Name: "Festival", From: civil.MustDate("2027-07-01"), Until: civil.MustDate("2027-07-09"),
		Seed:     3,
		Openings: []rhythm.Opening{rhythm.Fixed("noon", rhythm.EveryDay, civil.MustClock("12:30"), 0)}}
	seasons := func() []store.Rhythm {
		usual, err := r.RhythmOf(t.Context(), r.World.Site.ID)
		require.NoError(t, err)
		return usual.Seasons
	}
	id, err := r.SaveSeason(t.Context(), season, noon)
	require.NoError(t, err)
	added := r.last(t).ID
	r.undoLast(t)
	assert.Empty(t, seasons(), "adding it is undone")
	require.Error(t, r.back(t, added, noon), "twice is refused")
	r.undoLast(t)
	require.Len(t, seasons(), 1, "and done again")
	assert.Equal(t, id, seasons()[0].ID)

	longer := seasons()[0]
	longer.Until = civil.MustDate("2027-07-20")
	_, err = r.SaveSeason(t.Context(), longer, noon)
	require.NoError(t, err)
	require.NoError(t, r.DropSeason(t.Context(), id, noon))
	require.Empty(t, seasons())
	dropped := r.last(t).ID
	r.undoLast(t)
	require.Len(t, seasons(), 1, "dropping it is undone")
	assert.Equal(t, longer.Until, seasons()[0].Until)
	assert.Equal(t, longer.Openings, seasons()[0].Openings)
	r.undoLast(t)
	assert.Empty(t, seasons(), "and done again")
	require.NoError(t, r.back(t, r.last(t).ID, noon))
	require.Error(t, r.back(t, dropped, noon))

	// A season that another was put in the place of meanwhile is not written over.
	changed := seasons()[0]
	changed.Name = "Fair"
	_, err = r.SaveSeason(t.Context(), changed, noon)
	require.NoError(t, err)
	stale := r.last(t).ID
	changed.Version++
	changed.Name = "Great fair"
	_, err = r.SaveSeason(t.Context(), changed, noon)
	require.NoError(t, err)
	assert.ErrorContains(t, r.back(t, stale, noon), "changed since")
	require.NoError(t, r.DropSeason(t.Context(), changed.ID, noon))
	assert.ErrorContains(t, r.back(t, stale, noon), "is gone")
}

func TestUndoOfSettingsAndZone(t *testing.T) {
	r := newRoom(t)
	site := func() store.Site {
		now, err := r.Queries.Site(t.Context(), r.World.Site.ID)
		require.NoError(t, err)
		return now
	}
	first := site()
	settings := first.Settings
	settings.CapDay, settings.AudienceZones = 4, store.Strings{"Asia/Tokyo"}
	require.NoError(t, r.SaveSettings(t.Context(), first.ZoneName, planning.KeepInstant, settings, first.Version, noon))
	capped := r.last(t).ID
	r.undoLast(t)
	assert.Equal(t, first.CapDay, site().CapDay)
	assert.Empty(t, site().AudienceZones)
	r.undoLast(t)
	assert.Equal(t, 4, site().CapDay, "done again")
	assert.Error(t, r.back(t, capped, noon))

	// The zone goes back together with the posts that kept their clocks in it.
	posts := r.shelved(t, 2)
	_, err := r.Retime(t.Context(), posts[0].ID, posts[0].Version, noon.Add(48*time.Hour), noon)
	require.NoError(t, err)
	due := *r.Reload(t, posts[0].ID).DueAt
	require.NoError(t, r.SaveSettings(t.Context(), "Asia/Tokyo", planning.KeepClock, settings, site().Version, noon))
	require.False(t, r.Reload(t, posts[0].ID).DueAt.Equal(due))
	r.undoLast(t)
	assert.Equal(t, first.ZoneName, site().ZoneName)
	assert.True(t, r.Reload(t, posts[0].ID).DueAt.Equal(due))
	r.undoLast(t)
	assert.Equal(t, "Asia/Tokyo", site().ZoneName)
	assert.False(t, r.Reload(t, posts[0].ID).DueAt.Equal(due))
	moved := r.last(t).ID

	settings.PausedAt = &noon
	require.NoError(t, r.SaveSettings(t.Context(), "Asia/Tokyo", planning.KeepInstant, settings, site().Version, noon))
	assert.False(t, planning.CanUndo(r.last(t)), "a pause is ended, not undone")
	assert.ErrorContains(t, r.back(t, moved, noon), "changed since")
	assert.Equal(t, "Asia/Tokyo", site().ZoneName)
	assert.False(t, r.Reload(t, posts[0].ID).DueAt.Equal(due), "nothing of the act is undone")
}

func TestBoundsShapeTheProposal(t *testing.T) {
	r := newRoom(t)
	posts := r.shelved(t, 3)
	hurried := posts[2]
	first := r.propose(t).Placed[0].Slot.At
	require.NoError(t, r.SetBounds(t.Context(), hurried.ID, hurried.Version, time.Time{}, first, noon))
	plan := r.propose(t)
	assert.Equal(t, hurried.ID, plan.Placed[0].Draft.ID)
	assert.Contains(t, plan.Placed[0].Reason, "Goes ahead of “Draft 1”")
	hurried = r.Reload(t, hurried.ID)
	err := r.SetBounds(t.Context(), hurried.ID, hurried.Version, noon.Add(2*time.Hour), noon.Add(time.Hour), noon)
	var bad *act.Invalid
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "deadline", bad.Field)
}

func TestSettings(t *testing.T) {
	r := newRoom(t)
	site, err := r.World.Store.Site(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	settings := site.Settings
	settings.CapAuthorDay, settings.ShelfOrder = 1, "newest"
	require.Empty(t, planning.SettingsProblems("Europe/Lisbon", settings))
	require.NoError(t, r.SaveSettings(t.Context(), "Europe/Lisbon", planning.KeepInstant, settings, site.Version, noon))
	assert.ErrorIs(t, r.SaveSettings(t.Context(), "Europe/Lisbon", planning.KeepInstant, settings, site.Version, noon),
		act.ErrStale)
	r.World.Site, err = r.World.Store.Site(t.Context(), site.ID)
	require.NoError(t, err)
	r.shelved(t, 2)
	plan := r.propose(t)
	assert.NotEqual(t, plan.Placed[0].Slot.ID.Date, plan.Placed[1].Slot.ID.Date, "one post of an author a day")

	settings.PausedAt = &noon
	require.NoError(t, r.SaveSettings(t.Context(), "Europe/Lisbon", planning.KeepInstant, settings, site.Version+1,
		noon))
	assert.Equal(t, store.DeedPause, r.last(t).Deed)

	bad := settings
	bad.CatchUp, bad.CatchUpMinutes, bad.ShelfOrder, bad.CapDay = "someday", 0, "whim", -1
	var fields []string
	for _, p := range planning.SettingsProblems("Mars/Olympus", bad) {
		fields = append(fields, p.Field)
	}
	assert.Equal(t, []string{"zone", "catchUp", "catchUpMinutes", "shelfOrder", "caps.day"}, fields)
}

func TestLogbookPagesAndFilters(t *testing.T) {
	r := newRoom(t)
	posts := r.shelved(t, 5)
	_, err := r.Retime(t.Context(), posts[0].ID, r.Reload(t, posts[0].ID).Version, noon.Add(time.Hour),
		noon.Add(time.Minute))
	require.NoError(t, err)
	var seen []int64
	filter := store.LogFilter{}
	for {
		page, err := r.Logbook(t.Context(), r.World.Site.ID, filter, 2)
		require.NoError(t, err)
		if len(page) == 0 {
			break
		}
		for _, e := range page {
			seen = append(seen, e.ID)
		}
		filter.Before, filter.BeforeID = page[len(page)-1].At, page[len(page)-1].ID
	}
	assert.Len(t, seen, 6)
	only, err := r.Logbook(t.Context(), r.World.Site.ID, store.LogFilter{Deed: store.DeedRetime}, 10)
	require.NoError(t, err)
	assert.Len(t, only, 1)
	only, err = r.Logbook(t.Context(), r.World.Site.ID, store.LogFilter{Engine: true}, 10)
	require.NoError(t, err)
	assert.Empty(t, only)
}

func TestClosingUpFillsHolesAndIsUndone(t *testing.T) {
	r := newRoom(t)
	posts := r.shelved(t, 5)
	require.NoError(t, r.Commit(t.Context(), r.propose(t).Token(), noon))
	due := func() (all []time.Time) {
		for _, p := range posts {
			if p = r.Reload(t, p.ID); p.DueAt != nil {
				all = append(all, p.DueAt.UTC())
			}
		}
		return all
	}
	before := due()
	closing := func() planning.Closing {
		shifts, err := planning.ProposeClosing(t.Context(), r.World.Queries, r.World.Site, noon)
		require.NoError(t, err)
		return shifts
	}
	assert.Empty(t, closing(), "there is no hole")

	second := r.Reload(t, posts[1].ID)
	_, err := r.Retime(t.Context(), second.ID, second.Version, noon.Add(30*24*time.Hour), noon)
	require.NoError(t, err)
	shifts := closing()
	require.Len(t, shifts, 3, "those after the hole move up, the pinned one stays")
	for i, s := range shifts {
		assert.Equal(t, before[i+1], s.To.UTC())
	}
	var changed *act.Outdated[planning.Closing]
	require.ErrorAs(t, r.CloseUp(t.Context(), shifts[1:].Token(), noon), &changed)
	assert.Len(t, changed.Now, 3)
	holed := due()
	require.NoError(t, r.CloseUp(t.Context(), shifts.Token(), noon))
	assert.NotEqual(t, holed, due())
	assert.Empty(t, closing())
	r.undoLast(t)
	assert.Equal(t, holed, due())
}

// From a date in the past on, drafts get past slots of the same rhythm and come out at
// once with those dates; the rest is scheduled.
func TestBackdatingThroughTheRhythm(t *testing.T) {
	r := newRoom(t)
	posts := r.shelved(t, 6)
	from := noon.Add(-48 * time.Hour)
	plan, err := planning.Propose(t.Context(), r.World.Queries, r.World.Site, from)
	require.NoError(t, err)
	require.NoError(t, r.CommitFrom(t.Context(), plan.Token(), from, noon))
	past, coming := 0, 0
	for i, p := range posts {
		p = r.Reload(t, p.ID)
		assert.Equal(t, plan.Placed[i].Slot.ID, p.Slot())
		if p.Status == store.Published {
			past++
			assert.Equal(t, plan.Placed[i].Slot.At, p.PublishedAt.UTC())
			assert.Contains(t, r.log(t, p.ID)[0].Reason, "backdated")
		} else {
			coming++
			assert.True(t, p.DueAt.After(noon))
		}
	}
	assert.Equal(t, 4, past, "two slots a day")
	assert.Equal(t, 2, coming)
	r.undoLast(t)
	assert.Len(t, r.propose(t).Shelf, 6, "undone as one")
}

// What was done in portions, each committed by itself, is one act and undone as one.
func TestAnActInPortionsIsUndoneAsOne(t *testing.T) {
	r := newRoom(t)
	posts := r.Drafts(t, 6)
	var id int64
	require.NoError(t, r.InTx(t.Context(), func(tx *store.Tx) (err error) {
		id, err = tx.Begin(t.Context(), store.Act{SiteID: r.World.Site.ID, At: noon, Actor: &r.Editor.ID,
			Why: "6 articles brought in."})
		return err
	}))
	for portion := range slices.Chunk(posts, 2) {
		require.NoError(t, r.InTx(t.Context(), func(tx *store.Tx) error {
			for i, p := range portion {
				before, after := p.State(), p.State().Clear(int64(i))
				p.Stand(after)
				if err := tx.SaveState(t.Context(), p, noon); err != nil {
					return err
				}
				raw := func(s post.State) json.RawMessage {
					text, err := json.Marshal(s)
					require.NoError(t,
						err)
					return text
				}
				if err := tx.Log(t.Context(), store.LogEntry{SiteID: p.SiteID, At: noon, Actor: &r.Editor.ID,
					Deed: store.DeedClear, Post: &p.ID, Reason: "In.", Act: id,
					Before: raw(before), After: raw(after)}); err != nil {
					return err
				}
			}
			return nil
		}))
	}
	r.undoLast(t)
	for _, p := range posts {
		assert.False(t, r.Reload(t, p.ID).Cleared)
	}
	r.undoLast(t) // and all are done again
	for _, p := range posts {
		assert.True(t, r.Reload(t, p.ID).Cleared)
	}
}
