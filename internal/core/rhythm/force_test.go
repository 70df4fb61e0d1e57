package rhythm_test

import (
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

func zoneOf(name string) *civil.Zone {
	zone := civil.MustZone(name)
	return &zone
}

// What rests is the site's date, whatever the date is where the audience lives: 08:00 on a
// Monday in Auckland is Sunday afternoon in Halifax.
func TestNoSlotOnARestDayOfTheSite(t *testing.T) {
	morning := rhythm.Fixed("a", rhythm.On(time.Monday), clock("08:00"), 0)
	morning.Audience = zoneOf("Pacific/Auckland")
	r := rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 30, Seed: 3, Openings: []rhythm.Opening{morning}}
	monday := civil.MustDate("2026-11-23")
	require.Len(t, slotsOf(daysFrom(r, monday, 1, nil)), 1)
	r.Rests = civil.RestOn(monday.Add(-1))
	assert.Empty(t, slotsOf(daysFrom(r, monday, 1, nil)))
	r.Rests = civil.RestOn(monday)
	assert.Len(t, slotsOf(daysFrom(r, monday, 1, nil)), 1)
	r.Rests, r.From = nil, monday
	assert.Empty(t, slotsOf(daysFrom(r, monday, 1, nil)), "the rhythm begins on the Monday of the site")
	r.From, r.Until = civil.Date{}, monday.Add(-1)
	assert.Len(t, slotsOf(daysFrom(r, monday, 1, nil)), 1, "and ends after its Sunday")
}

// In St John's clocks went back at 00:01 until 2011, to 23:01 of the day before: that hour
// is the day before's, though midnight has passed.
func TestClocksThatGoBackOverMidnight(t *testing.T) {
	stJohns := civil.MustZone("America/St_Johns")
	sunday := civil.MustDate("2010-11-07")
	opening := rhythm.Window("w", rhythm.EveryDay, clock("02:00"), clock("04:00"), 3)
	opening.Audience = zoneOf("UTC")
	r := rhythm.Rhythm{ID: 1, Zone: stJohns, Gap: 5, Seed: 1, Openings: []rhythm.Opening{opening}}
	for _, rest := range []civil.Date{sunday, sunday.Add(-1)} {
		r.Rests = civil.RestOn(rest)
		for seed := range uint64(40) {
			r.Seed = seed
			for _, s := range slotsOf(daysFrom(r, sunday.Add(-2), 4, nil)) {
				require.NotEqual(t, rest, stJohns.DateOf(s.At))
			}
		}
	}
	var minutes int
	for _, s := range stJohns.Spans(sunday.Add(-1)) {
		minutes += int(s.To.Sub(s.From) / time.Minute)
	}
	assert.Equal(t, 24*60+59, minutes)
	assert.Len(t, stJohns.Spans(sunday.Add(-1)), 2)
	assert.Empty(t, civil.MustZone("Pacific/Apia").Spans(civil.MustDate("2011-12-30")), "a day that was skipped")
}

func TestEveryMomentIsOfOneDate(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		zone := civil.MustZone(rapid.SampledFrom([]string{"America/St_Johns", "Asia/Beirut", "America/Havana",
			"Pacific/Apia", "Africa/Cairo", "America/Asuncion"}).Draw(t, "zone"))
		at := time.Unix(rapid.Int64Range(946684800, 1893456000).Draw(t, "at"), 0)
		d := zone.DateOf(at)
		for off := -2; off <= 2; off++ {
			inside := slices.ContainsFunc(zone.Spans(d.Add(off)),
				func(s civil.Span) bool { return !at.Before(s.From) && at.Before(s.To) })
			require.Equal(t, off == 0, inside)
		}
	})
}

// A season may have a gap of its own; where it begins and ends, the wider one holds.
func TestASeasonsOwnGap(t *testing.T) {
	from := civil.MustDate("2026-06-01")
	r := rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 240, Seed: 9, Openings: []rhythm.Opening{rhythm.Window("w",
		rhythm.EveryDay, 0, clock("24:00"), 4)},
		Seasons: []rhythm.Season{{ID: 2, Name: "Summer", From: from, Until: from.Add(9), Gap: 20, Seed: 4,
			Openings: []rhythm.Opening{rhythm.Window("w", rhythm.EveryDay, 0, clock("24:00"), 40)}}}}
	require.Empty(t, r.Problems())
	assert.Equal(t, 240, r.GapOn(from.Add(-1)))
	assert.Equal(t, 20, r.GapOn(from))
	slots := slotsOf(daysFrom(r, from.Add(-3), 16, nil))
	closest := math.MaxInt
	inSeason := 0
	for i := 1; i < len(slots); i++ {
		apart := int(slots[i].At.Sub(slots[i-1].At) / time.Minute)
		gap := 240
		if slots[i].ID.Rhythm == 2 && slots[i-1].ID.Rhythm == 2 {
			gap = 20
			closest = min(closest, apart)
			inSeason++
		}
		require.GreaterOrEqual(t, apart, gap, "%s and %s", slots[i-1].ID, slots[i].ID)
	}
	assert.Less(t, closest, 60)
	assert.Greater(t, inSeason, 300)
	r.Seasons[0].Gap = -1
	assert.Equal(t, "seasons[0].gap", r.Problems()[0].Path)
	r.Seasons[0].Gap = 0
	assert.Equal(t, 240, r.GapOn(from), "without one it takes the usual gap")
}

// A slot that has to give way is drawn anew over all minutes that are left, each equally
// likely: those near its first one too.
func TestRedrawnSlotsAreUniform(t *testing.T) {
	counts := make(map[int]int)
	total := 0
	date := civil.MustDate("2026-11-24")
	pinned := []rhythm.Occupied{{At: halifax.At(date, 600)}}
	for seed := range uint64(30000) {
		r := rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 12, Seed: seed,
			Openings: []rhythm.Opening{rhythm.Window("w", rhythm.EveryDay, 600, 641, 1)}}
		for _, s := range r.Day(date, pinned).Slots {
			if s.Moved {
				_, at := halifax.Local(s.At)
				counts[int(at)]++
				total++
			}
		}
	}
	require.Greater(t, total, 8000)
	chi, expected := 0.0, float64(total)/29
	for m := 612; m <= 640; m++ {
		off := float64(counts[m]) - expected
		chi += off * off / expected
	}
	assert.Len(t, counts, 29)
	k := 28.0
	assert.Less(t, chi, k*math.Pow(1-2/(9*k)+3.09*math.Sqrt(2/(9*k)), 3))
}

// Slots that would take one another's last place are drawn together: of 10:00 to 12:00, two
// foreign times leave 11:15 to 12:00, which holds two slots unless the first is in its midst.
func TestAsManyAsCanBeAreRedrawn(t *testing.T) {
	date := civil.MustDate("2026-11-24")
	foreign := []rhythm.Occupied{{At: halifax.At(date, 615)}, {At: halifax.At(date, 645)}}
	checked := 0
	for seed := range uint64(300) {
		r := rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 30, Seed: seed,
			Openings: []rhythm.Opening{rhythm.Window("w", rhythm.EveryDay, 600, 721, 2)}}
		day := r.Day(date, foreign)
		if slices.ContainsFunc(day.Slots, func(s rhythm.Slot) bool { return !s.Moved }) {
			continue
		}
		checked++
		require.Len(t, day.Slots, 2, "seed %d", seed)
		require.GreaterOrEqual(t, day.Slots[1].At.Sub(day.Slots[0].At), 30*time.Minute)
		require.Empty(t, day.Short)
	}
	require.Greater(t, checked, 20)
}

// Openings have keys within a rhythm or a season, so a slot's lane is looked up by both.
func TestLanesAreOfTheSlotsOwnRhythm(t *testing.T) {
	usual := rhythm.Fixed("a", rhythm.EveryDay, 600, 0)
	usual.Lane = []string{"Sky Guide"}
	r := rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 10, Openings: []rhythm.Opening{usual},
		Seasons: []rhythm.Season{{ID: 2, From: civil.MustDate("2026-06-01"), Until: civil.MustDate("2026-06-30"),
			Openings: []rhythm.Opening{rhythm.Fixed("a", rhythm.EveryDay, 700, 0)}}}}
	for day := range r.Days(civil.MustDate("2026-05-25"), nil) {
		for _, s := range day.Slots {
			assert.Equal(t, s.Lane, r.LaneOf(s.ID))
			assert.Equal(t, s.ID.Rhythm == 1, len(s.Lane) == 1)
		}
		if day.Date == civil.MustDate("2026-06-05") {
			break
		}
	}
	assert.Nil(t, r.LaneOf(rhythm.SlotID{Rhythm: 3, Opening: "a"}))
}
