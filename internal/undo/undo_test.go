package undo_test

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
	"dapper.example/internal/desktest"
	"dapper.example/internal/enact"
	"dapper.example/internal/founding"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
	"dapper.example/internal/undo"
)

func TestUndoTakesAWholePlacementBack(t *testing.T) {
	r := desktest.New(t)
	r.Shelved(t, 4)
	plan := r.Propose(t)
	require.NoError(t, planning.Commit(t.Context(), r.Desk, plan.Token(), pgtest.Noon))
	line := r.Last(t)
	r.UndoLast(t)
	assert.Equal(t, plan.Token(), r.Propose(t).Token(), "the shelf is as it was, in its order")
	assert.ErrorAs(t, r.Undo(t, line.ID, pgtest.Noon), new(*act.Invalid), "not twice")
}

func TestUndoOfEachDeed(t *testing.T) {
	r := desktest.New(t)
	p := r.Draft(t, "To and fro")
	at := pgtest.Noon.Add(48 * time.Hour)
	for name, do := range map[string]func(p store.Post) error{
		"clear": func(p store.Post) error { return status.Clear(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon) },
		"retime": func(p store.Post) error {
			_, err := status.Retime(t.Context(), r.Desk, p.ID, p.Version, at, pgtest.Noon)
			return err
		},
		"bounds": func(p store.Post) error {
			return status.SetBounds(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon, at, pgtest.Noon)
		},
		"publish": func(p store.Post) error { return status.PublishNow(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon) },
	} {
		before := r.Reload(t, p.ID)
		require.NoError(t, do(before), name)
		did := r.Reload(t, p.ID)
		r.UndoLast(t)
		undone := r.Last(t).ID
		r.UndoLast(t) // and does it again
		assert.ErrorAs(t, r.Undo(t, undone, pgtest.Noon), new(*act.Invalid), "%s: not twice", name)
		again := r.Reload(t, p.ID)
		assert.Equal(t, []any{did.Status, did.Cleared, did.DueAt, did.Pinned, did.PublishedAt, did.NotBefore,
			did.Deadline},
			[]any{again.Status, again.Cleared, again.DueAt, again.Pinned, again.PublishedAt, again.NotBefore,
				again.Deadline}, name)
		assert.Contains(t, r.Last(t).Reason, "Done again: ", name)
		r.UndoLast(t)
		assert.Contains(t, r.Last(t).Reason, "Undone: ", name)
		after := r.Reload(t, p.ID)
		assert.Equal(t, before.Status, after.Status, name)
		assert.Equal(t, before.Cleared, after.Cleared, name)
		assert.Equal(t, before.Deadline, after.Deadline, name)
		assert.Nil(t, after.PublishedAt, name)
	}
}

func TestUndoOfShelvingGivesTheSlotBack(t *testing.T) {
	r := desktest.New(t)
	p := r.Shelved(t, 1)[0]
	require.NoError(t, planning.Commit(t.Context(), r.Desk, r.Propose(t).Token(), pgtest.Noon))
	p = r.Reload(t, p.ID)
	require.NoError(t, status.Shelve(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon))
	r.UndoLast(t)
	back := r.Reload(t, p.ID)
	assert.Equal(t, p.Slot(), back.Slot())
	assert.True(t, back.DueAt.Equal(*p.DueAt))

	require.NoError(t, status.Shelve(t.Context(), r.Desk, back.ID, back.Version, pgtest.Noon))
	line := r.Last(t)
	require.NoError(t, planning.Commit(t.Context(), r.Desk, r.Propose(t).Token(), pgtest.Noon))
	assert.ErrorContains(t, r.Undo(t, line.ID, pgtest.Noon), "changed since")
}

// A publication by the engine goes back to its time where that is still to come, and
// never to a time that has passed, at which it would only come out again.
func TestUndoOfAPublication(t *testing.T) {
	r := desktest.New(t)
	due := pgtest.Noon.Add(time.Hour)
	early := r.Scheduled(t, "By hand", due)
	require.NoError(t, status.PublishNow(t.Context(), r.Desk, early.ID, early.Version, pgtest.Noon))
	r.UndoLast(t)
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
	require.NoError(t, r.Undo(t, r.Last(t).ID, due.Add(time.Minute)))
	p = r.Reload(t, p.ID)
	assert.Equal(t, store.Draft, p.Status)
	assert.True(t, p.Cleared)
}

func TestUndoOfRhythmAndOrder(t *testing.T) {
	r := desktest.New(t)
	changed := r.Rhythm
	changed.Openings = []rhythm.Opening{rhythm.Fixed("pgtest.Noon", rhythm.EveryDay, civil.MustClock("12:30"), 0)}
	require.NoError(t, sitesettings.SaveRhythm(t.Context(), r.Desk, changed, pgtest.Noon))
	r.UndoLast(t)
	now, err := r.RhythmOf(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, "morning", now.Openings[0].Key)

	posts := r.Shelved(t, 3)
	require.NoError(t, status.Reorder(t.Context(), r.Desk, []int64{posts[2].ID, posts[0].ID, posts[1].ID}, pgtest.Noon))
	r.UndoLast(t)
	assert.Equal(t, posts[0].ID, r.Propose(t).Shelf[0].ID)
}

func TestUndoOfSeasons(t *testing.T) {
	r := desktest.New(t)
	season := store.Rhythm{Name: "Festival", From: civil.MustDate("2027-07-01"), Until: civil.MustDate("2027-07-09"),
		Seed:     3,
		Openings: []rhythm.Opening{rhythm.Fixed("pgtest.Noon", rhythm.EveryDay, civil.MustClock("12:30"), 0)}}
	seasons := func() []store.Rhythm {
		usual, err := r.RhythmOf(t.Context(), r.World.Site.ID)
		require.NoError(t, err)
		return usual.Seasons
	}
	id, err := sitesettings.SaveSeason(t.Context(), r.Desk, season, pgtest.Noon)
	require.NoError(t, err)
	added := r.Last(t).ID
	r.UndoLast(t)
	assert.Empty(t, seasons(), "adding it is undone")
	require.Error(t, r.Undo(t, added, pgtest.Noon), "twice is refused")
	r.UndoLast(t)
	require.Len(t, seasons(), 1, "and done again")
	assert.Equal(t, id, seasons()[0].ID)

	longer := seasons()[0]
	longer.Until = civil.MustDate("2027-07-20")
	_, err = sitesettings.SaveSeason(t.Context(), r.Desk, longer, pgtest.Noon)
	require.NoError(t, err)
	require.NoError(t, sitesettings.DropSeason(t.Context(), r.Desk, id, pgtest.Noon))
	require.Empty(t, seasons())
	dropped := r.Last(t).ID
	r.UndoLast(t)
	require.Len(t, seasons(), 1, "dropping it is undone")
	assert.Equal(t, longer.Until, seasons()[0].Until)
	assert.Equal(t, longer.Openings, seasons()[0].Openings)
	r.UndoLast(t)
	assert.Empty(t, seasons(), "and done again")
	require.NoError(t, r.Undo(t, r.Last(t).ID, pgtest.Noon))
	require.Error(t, r.Undo(t, dropped, pgtest.Noon))

	// A season that another was put in the place of meanwhile is not written over.
	changed := seasons()[0]
	changed.Name = "Fair"
	_, err = sitesettings.SaveSeason(t.Context(), r.Desk, changed, pgtest.Noon)
	require.NoError(t, err)
	stale := r.Last(t).ID
	changed.Version++
	changed.Name = "Great fair"
	_, err = sitesettings.SaveSeason(t.Context(), r.Desk, changed, pgtest.Noon)
	require.NoError(t, err)
	assert.ErrorContains(t, r.Undo(t, stale, pgtest.Noon), "changed since")
	require.NoError(t, sitesettings.DropSeason(t.Context(), r.Desk, changed.ID, pgtest.Noon))
	assert.ErrorContains(t, r.Undo(t, stale, pgtest.Noon), "is gone")
}

func TestUndoOfSettingsAndZone(t *testing.T) {
	r := desktest.New(t)
	site := func() store.Site {
		now, err := r.Queries.Site(t.Context(), r.World.Site.ID)
		require.NoError(t, err)
		return now
	}
	first := site()
	settings := first.Settings
	settings.CapDay, settings.AudienceZones = 4, store.Strings{"Asia/Tokyo"}
	require.NoError(t, sitesettings.SaveSettings(t.Context(), r.Desk, first.ZoneName, sitesettings.KeepInstant, settings, first.Version, pgtest.Noon))
	capped := r.Last(t).ID
	r.UndoLast(t)
	assert.Equal(t, first.CapDay, site().CapDay)
	assert.Empty(t, site().AudienceZones)
	r.UndoLast(t)
	assert.Equal(t, 4, site().CapDay, "done again")
	assert.Error(t, r.Undo(t, capped, pgtest.Noon))

	// The zone goes back together with the posts that kept their clocks in it.
	posts := r.Shelved(t, 2)
	_, err := status.Retime(t.Context(), r.Desk, posts[0].ID, posts[0].Version, pgtest.Noon.Add(48*time.Hour), pgtest.Noon)
	require.NoError(t, err)
	due := *r.Reload(t, posts[0].ID).DueAt
	require.NoError(t, sitesettings.SaveSettings(t.Context(), r.Desk, "Asia/Tokyo", sitesettings.KeepClock, settings, site().Version, pgtest.Noon))
	require.False(t, r.Reload(t, posts[0].ID).DueAt.Equal(due))
	r.UndoLast(t)
	assert.Equal(t, first.ZoneName, site().ZoneName)
	assert.True(t, r.Reload(t, posts[0].ID).DueAt.Equal(due))
	r.UndoLast(t)
	assert.Equal(t, "Asia/Tokyo", site().ZoneName)
	assert.False(t, r.Reload(t, posts[0].ID).DueAt.Equal(due))
	moved := r.Last(t).ID

	settings.PausedAt = &pgtest.Noon
	require.NoError(t, sitesettings.SaveSettings(t.Context(), r.Desk, "Asia/Tokyo", sitesettings.KeepInstant, settings, site().Version, pgtest.Noon))
	assert.False(t, undo.CanUndo(r.Last(t)), "a pause is ended, not undone")
	assert.ErrorContains(t, r.Undo(t, moved, pgtest.Noon), "changed since")
	assert.Equal(t, "Asia/Tokyo", site().ZoneName)
	assert.False(t, r.Reload(t, posts[0].ID).DueAt.Equal(due), "nothing of the act is undone")
}

// A shorter limit of the bin does not come back over posts that are past it: they would be gone for good, unasked.
func TestUndoOfALongerLimitSparesTheBin(t *testing.T) {
	r := desktest.New(t)
	site := func() store.Site {
		now, err := r.Queries.Site(t.Context(), r.World.Site.ID)
		require.NoError(t, err)
		return now
	}
	keeps := func(days int) {
		settings := site().Settings
		settings.BinDays = days
		require.NoError(t, sitesettings.SaveSettings(t.Context(), r.Desk, site().ZoneName, sitesettings.KeepInstant, settings, site().Version, pgtest.Noon))
	}
	keeps(10)
	keeps(0)
	longer := r.Last(t).ID
	p := r.Shelved(t, 1)[0]
	require.NoError(t, status.Bin(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon))

	eleven := pgtest.Noon.AddDate(0, 0, 11)
	assert.ErrorContains(t, r.Undo(t, longer, eleven), "1 post has been in the bin for 10 days or longer")
	assert.Equal(t, 0, site().BinDays)
	require.NoError(t, r.Undo(t, longer, pgtest.Noon.AddDate(0, 0, 9)), "nothing is past the limit yet")
	assert.Equal(t, 10, site().BinDays)
}

func TestLogbookPagesAndFilters(t *testing.T) {
	r := desktest.New(t)
	posts := r.Shelved(t, 5)
	_, err := status.Retime(t.Context(), r.Desk, posts[0].ID, r.Reload(t, posts[0].ID).Version, pgtest.Noon.Add(time.Hour),
		pgtest.Noon.Add(time.Minute))
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

// What was done in portions, each committed by itself, is one act and undone as one.
func TestAnActInPortionsIsUndoneAsOne(t *testing.T) {
	r := desktest.New(t)
	posts := r.Drafts(t, 6)
	var id int64
	require.NoError(t, r.InTx(t.Context(), func(tx *store.Tx) (err error) {
		id, err = tx.Begin(t.Context(), store.Act{SiteID: r.World.Site.ID, At: pgtest.Noon, Actor: &r.Editor.ID,
			Why: "6 articles brought in."})
		return err
	}))
	for portion := range slices.Chunk(posts, 2) {
		require.NoError(t, r.InTx(t.Context(), func(tx *store.Tx) error {
			for i, p := range portion {
				before, after := p.State(), p.State().Clear(int64(i))
				p.Stand(after)
				if err := tx.SaveState(t.Context(), p, pgtest.Noon); err != nil {
					return err
				}
				raw := func(s post.State) json.RawMessage {
					text, err := json.Marshal(s)
					require.NoError(t, err)
					return text
				}
				if err := tx.Log(t.Context(), store.LogEntry{SiteID: p.SiteID, At: pgtest.Noon, Actor: &r.Editor.ID,
					Deed: store.DeedClear, Post: &p.ID, Reason: "In.", Act: id,
					Before: raw(before), After: raw(after)}); err != nil {
					return err
				}
			}
			return nil
		}))
	}
	r.UndoLast(t)
	for _, p := range posts {
		assert.False(t, r.Reload(t, p.ID).Cleared)
	}
	r.UndoLast(t) // and all are done again
	for _, p := range posts {
		assert.True(t, r.Reload(t, p.ID).Cleared)
	}
}

func TestUndoOfWhatABlogIsCalled(t *testing.T) {
	r := desktest.New(t)
	before, err := r.Queries.Site(t.Context(), r.Desk.Site.ID)
	require.NoError(t, err)
	require.NoError(t, founding.Save(t.Context(), r.Desk, founding.Own{Title: "The Observatory", Slug: "observatory", Language: "de",
		Reading: store.Reading{PostsAPage: 5, Footer: "By volunteers", Host: "notes.example", DateStyle: "full"}}, "", before.Version, pgtest.Noon))
	after, err := r.Queries.Site(t.Context(), before.ID)
	require.NoError(t, err)
	called := func(s store.Site) []any { return []any{s.Title, s.Tagline, s.Slug, s.Language, s.Reading} }
	for i, want := range []store.Site{before, after, before} {
		r.UndoLast(t) // what was done, and then each undo
		now, err := r.Queries.Site(t.Context(), before.ID)
		require.NoError(t, err)
		assert.Equal(t, called(want), called(now), "undo %d", i+1)
	}
}
