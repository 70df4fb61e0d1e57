package cadence

import (
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// Quiet is a daily stretch in which nothing happens, by the clocks of a zone. Where To
// is not after From, it runs over midnight; where both are the same there is none.
type Quiet struct {
	From, To civil.Clock
	Zone     civil.Zone
}

// IsZero tells whether there is no quiet.
func (q Quiet) IsZero() bool { return q.From == q.To }

// Holds tells whether it is quiet at a moment.
func (q Quiet) Holds(at time.Time) bool {
	_, quiet := q.end(at)
	return quiet
}

// end returns when the quiet that holds at t ends; ok is false where none holds.
func (q Quiet) end(t time.Time) (time.Time, bool) {
	if q.IsZero() {
		return t, false
	}
	d, c := q.Zone.Local(t)
	switch {
	case q.From < q.To && c >= q.From && c < q.To:
		return q.Zone.At(d, q.To), true
	case q.From > q.To && c >= q.From:
		return q.Zone.At(d.Add(1), q.To), true
	case q.From > q.To && c < q.To:
		return q.Zone.At(d, q.To), true
	}
	return t, false
}

// Bounds are the minutes at which a turn may be served.
type Bounds struct {
	Zone     civil.Zone
	Rests    civil.Rests
	Weekdays rhythm.Weekdays // the zero value: all
	// From and To are the window of the day; both zero: the whole day. To may pass
	// midnight, up to 48:00.
	From, To civil.Clock
	Quiet    []Quiet
}

// Crowd is what a turn must keep away from.
type Crowd struct {
	Taken []time.Time   // sorted
	Gap   time.Duration // to each of them, either way
	// GapAt is the gap at a time, where it is not Gap always; nil: it is.
	GapAt func(time.Time) time.Duration
	ADay  int        // the most on one date, those of Taken with it; 0: no limit
	Zone  civil.Zone // of that date
}

// farthest is how far a turn is moved before it is given up.
const farthest = 400 * 24 * time.Hour

// First returns the first minute at or after a moment that the bounds and the crowd
// allow, with a reason where it is a later one; ok is false where there is none within
// 400 days. A moment that is allowed is returned as it is; later ones are whole minutes.
func (b Bounds) First(at time.Time, crowd Crowd) (to time.Time, why string, ok bool) {
	t := at
	for t.Sub(at) < farthest {
		next, reason := b.step(t, crowd)
		if reason == "" {
			return t, why, true
		}
		why = reason
		if whole := next.Truncate(time.Minute); whole.Before(next) {
			next = whole.Add(time.Minute)
		}
		if !next.After(t) { // a clock change: the quiet ends at a time that comes twice
			next = t.Truncate(time.Minute).Add(time.Minute)
		}
		t = next
	}
	return at, why, false
}

// Against says what stands against a moment, or "" where it is allowed.
func (b Bounds) Against(t time.Time, crowd Crowd) string {
	_, reason := b.step(t, crowd)
	return reason
}

// step returns where to look next and why the moment itself is not allowed, or "".
func (b Bounds) step(t time.Time, crowd Crowd) (time.Time, string) {
	d := b.Zone.DateOf(t)
	if b.Rests.Has(d) {
		return b.Zone.At(d.Add(1), 0), "a rest day"
	}
	if next, ok := b.window(t, d); !ok {
		return next, "the hours it keeps"
	}
	for _, q := range b.Quiet {
		if end, ok := q.end(t); ok {
			return end, "quiet hours"
		}
	}
	if next, ok := crowd.near(t); ok {
		return next, fmt.Sprintf("the gap of %d min", int(crowd.gap(t)/time.Minute))
	}
	if crowd.ADay > 0 && crowd.onDate(crowd.Zone.DateOf(t)) >= crowd.ADay {
		return crowd.Zone.At(crowd.Zone.DateOf(t).Add(1), 0), fmt.Sprintf("the limit of %d a day", crowd.ADay)
	}
	return t, ""
}

// window tells whether the moment lies in the window of a weekday that is allowed, and
// otherwise where the next one begins.
func (b Bounds) window(t time.Time, d civil.Date) (time.Time, bool) {
	if b.Weekdays&rhythm.EveryDay == 0 && b.From == 0 && b.To == 0 {
		return t, true
	}
	from, to := b.From, b.To
	if from == 0 && to == 0 {
		to = civil.Midnight
	}
	for day := d.Add(-1); ; day = day.Add(1) {
		if b.Weekdays&rhythm.EveryDay != 0 && !b.Weekdays.Has(day.Weekday()) {
			continue
		}
		if !t.Before(b.Zone.At(day, to)) {
			continue
		}
		start := b.Zone.At(day, from)
		if t.Before(start) {
			return start, false
		}
		return t, true
	}
}

// near returns when the nearest taken time no longer stands in the way.
func (c Crowd) near(t time.Time) (time.Time, bool) {
	gap := c.gap(t)
	i, _ := slices.BinarySearchFunc(c.Taken, t.Add(-gap), func(taken, from time.Time) int {
		if taken.After(from) {
			return 1
		}
		return -1
	})
	if i < len(c.Taken) && c.Taken[i].Sub(t) < gap {
		return c.Taken[i].Add(gap), true
	}
	return t, false
}

// gap is the gap that holds at a time.
func (c Crowd) gap(t time.Time) time.Duration {
	if c.GapAt != nil {
		return c.GapAt(t)
	}
	return c.Gap
}

func (c Crowd) onDate(d civil.Date) int {
	from, to := c.Zone.At(d, 0), c.Zone.At(d.Add(1), 0)
	i, _ := slices.BinarySearchFunc(c.Taken, from, time.Time.Compare)
	j, _ := slices.BinarySearchFunc(c.Taken, to, time.Time.Compare)
	return j - i
}

// Problems lists what is wrong with the bounds.
func (b Bounds) Problems() []check.FieldProblem {
	var found []check.FieldProblem
	if b.From == 0 && b.To == 0 {
		return found
	}
	if b.From < 0 || b.From >= civil.Midnight {
		found = append(found, check.FieldProblem{Path: "from", Message: "The window begins between 00:00 and 23:59."})
	}
	if b.To <= b.From || b.To > civil.LastClock {
		found = append(found, check.FieldProblem{Path: "to",
			Message: fmt.Sprintf("The window must end after it begins at %s, by 48:00 at the latest; over midnight, 02:00 is written 26:00.", b.From)})
	}
	return found
}
