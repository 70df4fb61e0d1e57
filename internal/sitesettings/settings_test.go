package sitesettings_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/desktest"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/store"
)

// A new season copies openings under names of their own, and lasts four weeks.
func TestANewSeason(t *testing.T) {
	n := uint64(99)
	draw := func() uint64 { n++; return n }
	opening := rhythm.Window("morning", rhythm.EveryDay, civil.MustClock("07:00"), civil.MustClock("09:00"), 2)
	usual := store.Rhythm{SiteID: 3, Name: "The week", Uneven: true, Openings: []rhythm.Opening{opening, opening}}

	season := sitesettings.BeginSeason(usual, nil, civil.MustDate("2026-11-24"), draw)
	assert.Equal(t, "", season.Name)
	assert.Equal(t, []string{"2026-12-01", "2026-12-28"}, []string{season.From.String(), season.Until.String()})
	assert.True(t, season.Uneven)
	assert.Equal(t, uint64(100), season.Seed)
	assert.Equal(t, "opening-2t", season.Openings[0].Key)
	assert.Equal(t, "opening-2u", season.Openings[1].Key)
	assert.Equal(t, 2, season.Openings[0].Count)
	assert.Equal(t, "morning", usual.Openings[0].Key, "the rhythm is left as it is")

	season.Name, season.Priority, season.Gap, season.Uneven = "Advent", 4, 90, false
	again := sitesettings.BeginSeason(usual, &season, civil.MustDate("2026-11-24"), draw)
	assert.Equal(t, []any{"Advent, again", 4, 90, false}, []any{again.Name, again.Priority, again.Gap, again.Uneven})
	assert.Equal(t, "2027-01-04", again.From.String(), "a week after the other's end")
	assert.NotEqual(t, season.Openings[0].Key, again.Openings[0].Key)
	assert.Zero(t, again.ID)
}

func TestSavingTheRhythmKeepsScheduledPosts(t *testing.T) {
	r := desktest.New(t)
	p := r.Shelved(t, 1)[0]
	require.NoError(t, planning.Commit(t.Context(), r.Desk, r.Propose(t).Token(), pgtest.Noon))
	due := *r.Reload(t, p.ID).DueAt

	changed := r.Rhythm
	changed.Openings = []rhythm.Opening{rhythm.Fixed("pgtest.Noon", rhythm.EveryDay, civil.MustClock("12:30"), 0)}
	require.NoError(t, sitesettings.SaveRhythm(t.Context(), r.Desk, changed, pgtest.Noon))
	assert.True(t, r.Reload(t, p.ID).DueAt.Equal(due))
	assert.ErrorIs(t, sitesettings.SaveRhythm(t.Context(), r.Desk, changed, pgtest.Noon), act.ErrStale)

	changed.Version, changed.Gap = 2, 0
	assert.ErrorIs(t, sitesettings.SaveRhythm(t.Context(), r.Desk, changed, pgtest.Noon), sitesettings.ErrProblems)
}

func TestSettings(t *testing.T) {
	r := desktest.New(t)
	site, err := r.World.Store.Site(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	settings := site.Settings
	settings.CapAuthorDay, settings.ShelfOrder = 1, "newest"
	require.Empty(t, sitesettings.SettingsProblems("Europe/Lisbon", settings))
	require.NoError(t, sitesettings.SaveSettings(t.Context(), r.Desk, "Europe/Lisbon", sitesettings.KeepInstant, settings, site.Version, pgtest.Noon))
	assert.ErrorIs(t, sitesettings.SaveSettings(t.Context(), r.Desk, "Europe/Lisbon", sitesettings.KeepInstant, settings, site.Version, pgtest.Noon),
		act.ErrStale)
	r.World.Site, err = r.World.Store.Site(t.Context(), site.ID)
	require.NoError(t, err)
	r.Shelved(t, 2)
	plan := r.Propose(t)
	assert.NotEqual(t, plan.Placed[0].Slot.ID.Date, plan.Placed[1].Slot.ID.Date, "one post of an author a day")

	settings.PausedAt = &pgtest.Noon
	require.NoError(t, sitesettings.SaveSettings(t.Context(), r.Desk, "Europe/Lisbon", sitesettings.KeepInstant, settings, site.Version+1,
		pgtest.Noon))
	assert.Equal(t, store.DeedPause, r.Last(t).Deed)

	bad := settings
	bad.CatchUp, bad.CatchUpMinutes, bad.ShelfOrder, bad.CapDay = "someday", 0, "whim", -1
	var fields []string
	for _, p := range sitesettings.SettingsProblems("Mars/Olympus", bad) {
		fields = append(fields, p.Field)
	}
	assert.Equal(t, []string{"zone", "catchUp", "catchUpMinutes", "shelfOrder", "caps.day"}, fields)
}

func TestAnotherZone(t *testing.T) {
	r := desktest.New(t)
	halifax, lisbon := r.World.Site.Zone(), civil.MustZone("Europe/Lisbon")
	date := civil.MustDate("2026-12-01")
	pinned := r.Pinned(t, "Pinned", halifax.At(date, civil.MustClock("09:00")))
	soon := r.Pinned(t, "Soon", pgtest.Noon.Add(time.Hour))
	drafts := r.Drafts(t, 2)
	r.Rearrange(t, planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(drafts)})
	slotted := r.Reload(t, drafts[1].ID)
	_, slotClock := halifax.Local(*slotted.DueAt)

	moves, err := sitesettings.ZoneChange(t.Context(), r.Queries, r.World.Site, "Europe/Lisbon", pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, moves, 4)
	assert.Equal(t, soon, moves[0].Post.ID)
	assert.True(t, moves[0].Past, "13:00 has passed in Lisbon")
	assert.True(t, moves[0].Clock.Equal(*moves[0].Post.DueAt))
	_, err = sitesettings.ZoneChange(t.Context(), r.Queries, r.World.Site, "Europe/Nowhere", pgtest.Noon)
	require.ErrorAs(t, err, new(*act.Invalid))

	site := r.World.Site
	require.NoError(t, sitesettings.SaveSettings(t.Context(), r.Desk, "Europe/Lisbon", sitesettings.KeepClock, site.Settings, site.Version,
		pgtest.Noon))
	now, err := r.Queries.Site(t.Context(), site.ID)
	require.NoError(t, err)
	assert.Equal(t, "Europe/Lisbon", now.ZoneName)
	assert.True(t, r.Reload(t, pinned).DueAt.Equal(lisbon.At(date, civil.MustClock("09:00"))))
	assert.True(t, r.Reload(t, soon).DueAt.Equal(pgtest.Noon.Add(time.Hour)))
	after := r.Reload(t, slotted.ID)
	_, clock := lisbon.Local(*after.DueAt)
	assert.Equal(t, slotClock, clock)
	assert.Equal(t, slotted.Slot(), after.Slot())
	// The rhythm has the slot at the same time of day there: the seats are the posts' own.
	rhythm, err := r.RhythmOf(t.Context(), site.ID)
	require.NoError(t, err)
	for _, s := range rhythm.In(lisbon).Day(after.Slot().Date, nil).Slots {
		if s.ID == after.Slot() {
			assert.True(t, s.At.Equal(*after.DueAt))
		}
	}

	// With their moments kept, nothing moves.
	before := *r.Reload(t, pinned).DueAt
	require.NoError(t, sitesettings.SaveSettings(t.Context(), r.Desk, "America/Halifax", sitesettings.KeepInstant, now.Settings, now.Version,
		pgtest.Noon))
	assert.True(t, r.Reload(t, pinned).DueAt.Equal(before))
	assert.NotEmpty(t, sitesettings.SettingsProblems("Europe/Lisbon", func() (s store.Settings) {
		s = now.Settings
		s.AudienceZones = []string{"Asia/Tokyo", "Asia/Tokyo", "Mars/Olympus", "UTC"}
		return s
	}()))
}
