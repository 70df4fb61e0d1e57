package reflow

import (
	"fmt"
	"iter"
	"time"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

// Pattern is a one-off rhythm for a batch: every so many days, so often within a
// window, so far apart.
type Pattern struct {
	EveryDays int         `json:"everyDays" doc:"1 to 366; counted from the start"`               // 1 to MaxEvery; counted from the first date
	From      civil.Clock `json:"from" doc:"beginning of the window, as 08:00"`                   // the window's beginning, 00:00 to 23:59
	To        civil.Clock `json:"to" doc:"its end, exclusive; 24:00 and later run past midnight"` // its end, exclusive; up to 48:00
	Count     int         `json:"count" doc:"posts a day, 1 to 24"`                               // posts a day, 1 to MaxCount
	Gap       int         `json:"gap" doc:"fewest minutes between two posts"`                     // fewest minutes between two posts, 1 to rhythm.MaxGap
	Uneven    bool        `json:"uneven,omitempty" doc:"leave out minutes divisible by five"`     // leave out minutes divisible by five
	Seed      uint64      `json:"seed,omitempty" doc:"another seed draws other minutes"`
}

// Limits on patterns.
const (
	MaxEvery = 366
	MaxCount = 24
)

// Problems lists what is wrong with a pattern, each with its field.
func (p Pattern) Problems() []check.FieldProblem {
	var found []check.FieldProblem
	bad := func(path, format string, args ...any) {
		found = append(found, check.FieldProblem{Path: path, Message: fmt.Sprintf(format, args...)})
	}
	if p.EveryDays < 1 || p.EveryDays > MaxEvery {
		bad("everyDays", "Every %d days is not possible; choose 1 to %d.", p.EveryDays, MaxEvery)
	}
	if p.Count < 1 || p.Count > MaxCount {
		bad("count", "%d posts a day is not possible; say 1 to %d.", p.Count, MaxCount)
	}
	if p.Gap < 1 || p.Gap > rhythm.MaxGap {
		bad("gap", "A gap of %d minutes is not possible; choose 1 to %d.", p.Gap, rhythm.MaxGap)
	}
	if p.From < 0 || p.From >= civil.Midnight {
		bad("from", "The window must begin between 00:00 and 23:59.")
	} else if p.To <= p.From || p.To > 2*civil.Midnight {
		bad("to", "The window ends at %s, before it begins at %s. To run past midnight, end it at 24:00 or later.",
			p.To, p.From)
	}
	return found
}

// patternKey names the pattern's only opening.
const patternKey = "pattern"

// Rhythm is the pattern as a rhythm of the zone, on every day. Its ID is zero: posts in
// its slots do not sit in a rhythm.
func (p Pattern) rhythm(zone civil.Zone, rest civil.Rests) rhythm.Rhythm {
	return rhythm.Rhythm{Zone: zone, Gap: p.Gap, Seed: p.Seed, Uneven: p.Uneven, Rests: rest,
		Openings: []rhythm.Opening{rhythm.Window(patternKey, rhythm.EveryDay, p.From, p.To, p.Count)}}
}

// Slots yields the pattern's slots from a date on, in time order, beside what is
// occupied, up to queue.HorizonDays ahead.
func (p Pattern) Slots(zone civil.Zone, start civil.Date, rest civil.Rests,
	occupied []rhythm.Occupied) iter.Seq[rhythm.Slot] {
	return func(yield func(rhythm.Slot) bool) {
		for slot := range queue.Slots(p.rhythm(zone, rest), zone.At(start, 0).Add(-time.Minute), occupied) {
			since := slot.ID.Date.Sub(start)
			if since >= 0 && since%p.EveryDays == 0 && !yield(slot) {
				return
			}
		}
	}
}
