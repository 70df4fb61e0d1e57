package sitesettings

import (
	"strconv"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/reflow"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// BeginOpening is an opening as it is when it is new, without a key.
func BeginOpening() rhythm.Opening {
	return rhythm.Window("", rhythm.On(1), civil.MustClock("09:00"), civil.MustClock("12:00"), 1)
}

// AsTime is an opening turned into a fixed time, AsWindow into a window: what both kinds
// have stays, the rest is as it mostly is.
func AsTime(o rhythm.Opening) rhythm.Opening {
	o.To, o.Count, o.Sway = 0, 1, 10
	return o
}

// AsWindow is described at AsTime.
func AsWindow(o rhythm.Opening) rhythm.Opening {
	o.To, o.Count, o.Sway = civil.Midnight, 1, 0
	return o
}

const (
	seasonAhead = 7  // days from today until a new season begins
	seasonLong  = 28 // days that it lasts
)

// BeginSeason is a season as it is when it is new: a copy of the usual rhythm's openings from
// a week after today on, or of another season's from a week after its end. draw gives numbers
// that nobody has drawn before; openings are named by them for good, and so a copy's have
// names of their own.
func BeginSeason(usual store.Rhythm, of *store.Rhythm, today civil.Date, draw func() uint64) store.Rhythm {
	first := today
	season := store.Rhythm{SiteID: usual.SiteID, Uneven: usual.Uneven}
	openings := usual.Openings
	if of != nil {
		season.Name, season.Gap, season.Priority, season.Uneven = of.Name+", again", of.Gap, of.Priority, of.Uneven
		first, openings = of.Until, of.Openings
	}
	season.From = first.Add(seasonAhead)
	season.Until = season.From.Add(seasonLong - 1)
	season.Seed = draw()
	for _, o := range openings {
		o.Key = "opening-" + strconv.FormatUint(draw(), 36)
		season.Openings = append(season.Openings, o)
	}
	return season
}

// BeginPattern is a one-off rhythm for a batch as it is when it is new.
func BeginPattern(seed uint64) reflow.Pattern {
	return reflow.Pattern{EveryDays: 1, From: civil.MustClock("08:00"), To: civil.MustClock("11:00"), Count: 1,
		Gap: 60, Uneven: true, Seed: seed}
}
