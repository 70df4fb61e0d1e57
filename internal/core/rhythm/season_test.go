package rhythm_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

func TestASeasonHoldsBetweenItsDates(t *testing.T) {
	date := civil.MustDate
	r := rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 60, Seed: 1, Openings: []rhythm.Opening{rhythm.Fixed("noon",
		rhythm.EveryDay, clock("12:00"), 0)},
		Rests: civil.RestOn(date("2026-07-04")),
		Seasons: []rhythm.Season{
			{ID: 2, Name: "Summer", From: date("2026-07-01"), Until: date("2026-07-10"),
				Openings: []rhythm.Opening{rhythm.Fixed("eight", rhythm.EveryDay, clock("08:00"), 0)}},
			{ID: 3, Name: "Fair", From: date("2026-07-05"), Until: date("2026-07-06"), Priority: 1,
				Openings: []rhythm.Opening{rhythm.Fixed("six", rhythm.EveryDay, clock("18:00"), 0)}},
			{ID: 4, Name: "Later", From: date("2026-07-09"), Until: date("2026-07-12"), Openings: nil},
		}}
	require.Empty(t, r.Problems())
	for on, want := range map[string]string{
		"2026-06-30": "1/2026-06-30/noon/0", "2026-07-01": "2/2026-07-01/eight/0", "2026-07-04": "", "2026-07-05": "3/2026-07-05/six/0",
		"2026-07-07": "2/2026-07-07/eight/0", "2026-07-09": "", "2026-07-12": "", "2026-07-13": "1/2026-07-13/noon/0",
	} {
		got := ""
		for _, s := range r.Day(date(on), nil).Slots {
			got += s.ID.String()
		}
		assert.Equal(t, want, got, on)
	}
	assert.Equal(t, "Fair", r.SeasonOn(date("2026-07-06")))
	assert.Equal(t, "Later", r.SeasonOn(date("2026-07-10")), "of equal ones the one that begins later")
	assert.Equal(t, "", r.SeasonOn(date("2026-08-01")))
	assert.False(t, r.IsSilent())

	r.Seasons[0].Until = date("2026-06-01")
	r.Seasons[1].Until = civil.Date{}
	r.Seasons[2].Openings = []rhythm.Opening{rhythm.Window("w", 0, 0, 60, 1)}
	var paths []string
	for _, p := range r.Problems() {
		paths = append(paths, p.Path)
	}
	assert.Equal(t, []string{"seasons[0].ends", "seasons[1].ends", "seasons[2].openings[0].weekdays"}, paths)
}

// Within a season and far from its ends the slots are those of a rhythm of the season's
// own; outside they are the usual rhythm's; and the gap holds across the ends.
func TestSeasonsKeepTheGapAndLeaveOthersAlone(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := anyRhythm().Draw(t, "rhythm")
		other := anyRhythm().Draw(t, "season")
		from := anyDate().Draw(t, "from")
		until := from.Add(rapid.IntRange(0, 20).Draw(t, "days"))
		r.From, r.Until = civil.Date{}, civil.Date{}
		with := r
		with.Seasons = []rhythm.Season{{ID: 9, Name: "S", From: from, Until: until, Seed: other.Seed,
			Uneven: other.Uneven, Openings: other.Openings}}
		alone := r
		alone.ID, alone.Seed, alone.Uneven, alone.Openings = 9, other.Seed, other.Uneven, other.Openings
		for day := range with.Days(from.Add(-12), nil) {
			if day.Date.After(until.Add(12)) {
				break
			}
			far := day.Date.Sub(from) > 10 && until.Sub(day.Date) > 10 || from.Sub(day.Date) > 10
			switch {
			case far && day.Date.Before(from):
				require.Equal(t, r.Day(day.Date, nil), day)
			case far:
				require.Equal(t, alone.Day(day.Date, nil), day)
			}
			for _, s := range day.Slots {
				date := r.Zone.DateOf(s.At) // the site's, whatever it is where the audience lives
				require.Equal(t, !date.Before(from) && !date.After(until), s.ID.Rhythm == 9)
			}
		}
		var times []time.Time
		for day := range with.Days(from.Add(-12), nil) {
			if day.Date.After(until.Add(12)) {
				break
			}
			for _, s := range day.Slots {
				for _, earlier := range times {
					require.GreaterOrEqual(t, s.At.Sub(earlier).Abs(), time.Duration(r.Gap)*time.Minute)
				}
				times = append(times, s.At)
			}
		}
	})
}
