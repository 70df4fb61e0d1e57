package cadence_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

var halifax = civil.MustZone("America/Halifax")

func at(date, clock string) time.Time {
	return halifax.At(civil.MustDate(date), civil.MustClock(clock))
}

func pace(c cadence.Cadence) cadence.Pace {
	return cadence.Pace{Cadence: c, Rule: 3, Seed: 9, Anchor: at("2026-10-30", "12:00"), Zone: halifax, Gap: 30}
}

func turns(p cadence.Pace, after time.Time, n int) []string {
	var all []string
	for range n {
		t, ok := p.Next(after)
		if !ok {
			break
		}
		all = append(all, halifax.In(t).Format("2006-01-02 15:04"))
		after = t
	}
	return all
}

func TestTurns(t *testing.T) {
	noon := at("2026-10-30", "12:00")
	for _, c := range []struct {
		name string
		cadence.Cadence
		want []string
	}{
		{"by hand", cadence.Cadence{By: cadence.Hand}, nil},
		{"hours are elapsed time", cadence.Cadence{By: cadence.Every, N: 18, Unit: cadence.Hours},
			[]string{"2026-10-31 06:00", "2026-11-01 00:00", "2026-11-01 17:00"}}, // the clocks go back in between
		{"days keep their time", cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days,
			At: civil.MustClock("04:00")},
			[]string{"2026-10-31 04:00", "2026-11-01 04:00", "2026-11-02 04:00"}},
		{"a time of the first day still to come", cadence.Cadence{By: cadence.Every, N: 3, Unit: cadence.Days,
			At: civil.MustClock("13:00")},
			[]string{"2026-10-30 13:00", "2026-11-02 13:00", "2026-11-05 13:00"}},
		{"every second week", cadence.Cadence{By: cadence.Every, N: 2, Unit: cadence.Weeks,
			At: civil.MustClock("09:00"), Weekdays: rhythm.On(time.Monday, time.Friday)},
			[]string{"2026-11-09 09:00", "2026-11-13 09:00", "2026-11-23 09:00"}},
		{"openings", cadence.Cadence{By: cadence.Openings, Openings: []rhythm.Opening{rhythm.Fixed("a",
			rhythm.On(time.Sunday), civil.MustClock("10:00"), 0)}},
			[]string{"2026-11-01 10:00", "2026-11-08 10:00", "2026-11-15 10:00"}},
	} {
		assert.Equal(t, c.want, turns(pace(c.Cadence), noon, 3), c.name)
		assert.Empty(t, c.Problems(halifax, 30), c.name)
		assert.NotEmpty(t, c.String(), c.name)
	}
}

func TestCadencesThatAreRefused(t *testing.T) {
	for _, c := range []struct {
		cadence.Cadence
		path, says string
	}{
		{cadence.Cadence{}, "by", "hand, every or openings"},
		{cadence.Cadence{By: cadence.Openings}, "openings", "at least one"},
		{cadence.Cadence{By: cadence.Openings, Openings: []rhythm.Opening{{Key: "x", Weekdays: 1, Count: 1,
			From: 2000}}}, "openings[0].from", "23:59"},
		{cadence.Cadence{By: cadence.Every, N: 0, Unit: cadence.Hours}, "n", "1 to 1000"},
		{cadence.Cadence{By: cadence.Every, N: 1, Unit: "moons"}, "unit", "weeks"},
		{cadence.Cadence{By: cadence.Every, N: 1}, "unit", "weeks"},
		{cadence.Cadence{By: cadence.Every, N: 900, Unit: cadence.Days}, "n", "1 to 730"},
		{cadence.Cadence{By: cadence.Every, N: 105, Unit: cadence.Weeks, Weekdays: rhythm.EveryDay}, "n", "1 to 103"},
		{cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Weeks}, "weekdays", "at least one"},
		{cadence.Cadence{By: cadence.Every, N: 60, Unit: cadence.Minutes, Sway: 30}, "sway", "0 to 29"},
		{cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.MustClock("24:00")}, "at", "23:59"},
	} {
		problems := c.Problems(halifax, 30)
		require.NotEmpty(t, problems)
		assert.Equal(t, c.path, problems[0].Path)
		assert.Contains(t, problems[0].Message, c.says)
		assert.NotPanics(t, func() { _ = c.String() }, "it is read aloud while it is being written")
	}
	for _, longest := range []cadence.Cadence{
		{By: cadence.Every, N: 730, Unit: cadence.Days}, {By: cadence.Every, N: 103, Unit: cadence.Weeks,
			Weekdays: rhythm.On(time.Monday)},
	} {
		require.Empty(t, longest.Problems(halifax, 30))
		assert.Len(t, turns(pace(longest), at("2026-10-31", "00:00"), 3), 3, "%s has turns", longest)
	}
}

// Turns come one after another, each found from any moment before it.
func TestTurnsAreTheSameFromAnywhere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		unit := rapid.SampledFrom(cadence.Units).Draw(t, "unit")
		n := rapid.IntRange(1, 50).Draw(t, "n")
		c := cadence.Cadence{By: cadence.Every, N: n, Unit: unit, At: civil.Clock(rapid.IntRange(0, 1439).Draw(t,
			"at")), Weekdays: rhythm.Weekdays(rapid.IntRange(1, 127).Draw(t, "days"))}
		for c.Sway = 719; len(c.Problems(halifax, 30)) > 0; c.Sway-- {
		}
		p := pace(c)
		p.Seed = rapid.Uint64().Draw(t, "seed")
		from := p.Anchor.Add(time.Duration(rapid.IntRange(0, 200_000).Draw(t, "from")) * time.Minute)
		first, ok := p.Next(from)
		require.True(t, ok)
		require.True(t, first.After(from))
		again, _ := p.Next(first.Add(-time.Second))
		require.Equal(t, first, again)
		second, ok := p.Next(first)
		require.True(t, ok)
		require.True(t, second.After(first))
		between := first.Add(time.Duration(rapid.Int64Range(0, int64(second.Sub(first))-1).Draw(t, "between")))
		again, _ = p.Next(between)
		require.Equal(t, second, again)
		require.LessOrEqual(t, p.Shortest(), second.Sub(first)+2*time.Duration(c.Sway)*time.Minute)
	})
}

func TestFirstAllowedMinute(t *testing.T) {
	night := cadence.Quiet{From: civil.MustClock("22:00"), To: civil.MustClock("07:00"), Zone: halifax}
	lisbon := cadence.Quiet{From: civil.MustClock("01:00"), To: civil.MustClock("05:00"),
		Zone: civil.MustZone("Europe/Lisbon")}
	rest := civil.RestOn(civil.MustDate("2026-11-25"))
	for _, c := range []struct {
		name   string
		bounds cadence.Bounds
		crowd  cadence.Crowd
		from   string
		want   string
		why    string
	}{
		{"free", cadence.Bounds{}, cadence.Crowd{}, "23:30", "2026-11-24 23:30", ""},
		{"night", cadence.Bounds{Quiet: []cadence.Quiet{night}}, cadence.Crowd{}, "23:30", "2026-11-25 07:00",
			"quiet hours"},
		{"early", cadence.Bounds{Quiet: []cadence.Quiet{night}}, cadence.Crowd{}, "06:59", "2026-11-24 07:00",
			"quiet hours"},
		{"its own zone", cadence.Bounds{Quiet: []cadence.Quiet{lisbon}}, cadence.Crowd{}, "21:30", "2026-11-25 01:00",
			"quiet hours"},
		{"rest day", cadence.Bounds{Rests: rest, Quiet: []cadence.Quiet{night}}, cadence.Crowd{}, "23:30",
			"2026-11-26 07:00", "quiet hours"},
		{"window", cadence.Bounds{From: civil.MustClock("09:00"), To: civil.MustClock("11:00"),
			Weekdays: rhythm.On(time.Friday)}, cadence.Crowd{}, "10:00", "2026-11-27 09:00", "the hours it keeps"},
		{"in the window", cadence.Bounds{From: civil.MustClock("23:00"), To: civil.MustClock("26:00"),
			Weekdays: rhythm.On(time.Monday)}, cadence.Crowd{}, "01:59", "2026-11-24 01:59", ""},
		{"gap", cadence.Bounds{}, cadence.Crowd{Gap: time.Hour, Taken: []time.Time{at("2026-11-24", "09:30"),
			at("2026-11-24", "10:45")}}, "10:00", "2026-11-24 11:45", "the gap of 60 min"},
		{"a gap just kept", cadence.Bounds{}, cadence.Crowd{Gap: time.Hour,
			Taken: []time.Time{at("2026-11-24", "09:00"), at("2026-11-24", "11:00")}}, "10:00", "2026-11-24 10:00", ""},
		{"full day", cadence.Bounds{}, cadence.Crowd{ADay: 2, Zone: halifax,
			Taken: []time.Time{at("2026-11-24", "02:00"), at("2026-11-24",
				"03:00")}}, "10:00", "2026-11-25 00:00", "the limit of 2 a day"},
	} {
		c.bounds.Zone = halifax
		to, why, ok := c.bounds.First(at("2026-11-24", c.from), c.crowd)
		require.True(t, ok, c.name)
		assert.Equal(t, c.want, halifax.In(to).Format("2006-01-02 15:04"), c.name)
		assert.Equal(t, c.why, why, c.name)
	}
	never := cadence.Bounds{Zone: halifax, Quiet: []cadence.Quiet{{From: 0, To: 720, Zone: halifax},
		{From: 720, To: 0, Zone: halifax}}}
	_, _, ok := never.First(at("2026-11-24", "10:00"), cadence.Crowd{})
	assert.False(t, ok)
	assert.Len(t, cadence.Bounds{From: 600, To: 500}.Problems(), 1)
}
