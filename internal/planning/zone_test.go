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

func TestAnotherZone(t *testing.T) {
	r := newRoom(t)
	halifax, lisbon := r.World.Site.Zone(), civil.MustZone("Europe/Lisbon")
	date := civil.MustDate("2026-12-01")
	pinned := r.pinned(t, "Pinned", halifax.At(date, civil.MustClock("09:00")))
	soon := r.pinned(t, "Soon", pgtest.Noon.Add(time.Hour))
	drafts := r.Drafts(t, 2)
	r.wish(t, planning.Wish{Do: planning.WishPlace, Posts: idsOf(drafts)})
	slotted := r.Reload(t, drafts[1].ID)
	_, slotClock := halifax.Local(*slotted.DueAt)

	moves, err := planning.ZoneChange(t.Context(), r.Queries, r.World.Site, "Europe/Lisbon", pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, moves, 4)
	assert.Equal(t, soon, moves[0].Post.ID)
	assert.True(t, moves[0].Past, "13:00 has passed in Lisbon")
	assert.True(t, moves[0].Clock.Equal(*moves[0].Post.DueAt))
	_, err = planning.ZoneChange(t.Context(), r.Queries, r.World.Site, "Europe/Nowhere", pgtest.Noon)
	require.ErrorAs(t, err, new(*act.Invalid))

	site := r.World.Site
	require.NoError(t, r.SaveSettings(t.Context(), "Europe/Lisbon", planning.KeepClock, site.Settings, site.Version,
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
	require.NoError(t, r.SaveSettings(t.Context(), "America/Halifax", planning.KeepInstant, now.Settings, now.Version,
		pgtest.Noon))
	assert.True(t, r.Reload(t, pinned).DueAt.Equal(before))
	assert.NotEmpty(t, planning.SettingsProblems("Europe/Lisbon", func() (s store.Settings) {
		s = now.Settings
		s.AudienceZones = []string{"Asia/Tokyo", "Asia/Tokyo", "Mars/Olympus", "UTC"}
		return s
	}()))
}
