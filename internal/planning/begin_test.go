package planning_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// A new season copies openings under names of their own, and lasts four weeks.
func TestANewSeason(t *testing.T) {
	n := uint64(99)
	draw := func() uint64 { n++; return n }
	opening := rhythm.Window("morning", rhythm.EveryDay, civil.MustClock("07:00"), civil.MustClock("09:00"), 2)
	usual := store.Rhythm{SiteID: 3, Name: "The week", Uneven: true, Openings: []rhythm.Opening{opening, opening}}

	season := planning.BeginSeason(usual, nil, civil.MustDate("2026-11-24"), draw)
	assert.Equal(t, "", season.Name)
	assert.Equal(t, []string{"2026-12-01", "2026-12-28"}, []string{season.From.String(), season.Until.String()})
	assert.True(t, season.Uneven)
	assert.Equal(t, uint64(100), season.Seed)
	assert.Equal(t, "opening-2t", season.Openings[0].Key)
	assert.Equal(t, "opening-2u", season.Openings[1].Key)
	assert.Equal(t, 2, season.Openings[0].Count)
	assert.Equal(t, "morning", usual.Openings[0].Key, "the rhythm is left as it is")

	season.Name, season.Priority, season.Gap, season.Uneven = "Advent", 4, 90, false
	again := planning.BeginSeason(usual, &season, civil.MustDate("2026-11-24"), draw)
	assert.Equal(t, []any{"Advent, again", 4, 90, false}, []any{again.Name, again.Priority, again.Gap, again.Uneven})
	assert.Equal(t, "2027-01-04", again.From.String(), "a week after the other's end")
	assert.NotEqual(t, season.Openings[0].Key, again.Openings[0].Key)
	assert.Zero(t, again.ID)
}
