package queue

import (
	"slices"
	"time"

	"dapper.example/internal/core/civil"
)

// Outlook is what a rhythm would mean for a shelf over some weeks, for holding one rhythm
// against another.
type Outlook struct {
	Slots       int       // free slots up to the end, used by the shelf or not
	PerWeek     float64   // of them, and of what stands there
	First, Last time.Time // of the slots that the shelf gets; zero where it gets none
	Placed      int       // drafts of the shelf that get a slot, at any time
	Left        int       // those that get none
	// Dry is the date of the first slot for which nothing is left on the shelf; the zero
	// Date where that is not before the end.
	Dry civil.Date
	// Weekdays counts what comes out up to the end, from Monday on.
	Weekdays [7]int
	// Pause is the longest run of days without a post between the first and the last.
	Pause int
	// Apart is how many days lie between two posts of one category that follow each
	// other: the fewest, and on average. Both are 0 where no category comes twice.
	ApartLeast int
	ApartMean  float64
}

// Look places the shelf and tells what comes of it from a moment up to the end of a
// number of weeks.
func Look(r Request, now time.Time, weeks int) Outlook {
	end := r.Zone.At(r.Zone.DateOf(now).Add(7*weeks), 0)
	placement := Place(r)
	out := Outlook{Placed: len(placement.Placed), Left: len(placement.Unplaced)}
	used := make(map[time.Time]bool, len(placement.Placed))
	var comes []Standing
	for _, s := range r.Standing {
		if s.At.After(now) {
			comes = append(comes, s)
		}
	}
	for _, p := range placement.Placed {
		used[p.Slot.At] = true
		comes = append(comes, StandingOf(p.Draft, p.Slot.At))
		if out.First.IsZero() || p.Slot.At.Before(out.First) {
			out.First = p.Slot.At
		}
		if p.Slot.At.After(out.Last) {
			out.Last = p.Slot.At
		}
	}
	for s := range r.Slots {
		if !s.At.Before(end) {
			break
		}
		out.Slots++
		if out.Dry.IsZero() && !used[s.At] && s.At.After(out.Last) {
			out.Dry = r.Zone.DateOf(s.At)
		}
	}
	slices.SortFunc(comes, func(a, b Standing) int { return a.At.Compare(b.At) })
	within, last := out.Slots, make(map[string]civil.Date)
	var before civil.Date
	var apart, pairs int
	for _, s := range comes {
		if !s.At.Before(end) {
			break
		}
		if !used[s.At] {
			within++ // what stands there is beside the free slots
		}
		date := r.Zone.DateOf(s.At)
		out.Weekdays[(int(date.Weekday())+6)%7]++
		if !before.IsZero() {
			out.Pause = max(out.Pause, date.Sub(before)-1)
		}
		before = date
		if s.Category == "" {
			continue
		}
		if earlier, twice := last[s.Category]; twice {
			days := date.Sub(earlier)
			if pairs == 0 || days < out.ApartLeast {
				out.ApartLeast = days
			}
			apart, pairs = apart+days, pairs+1
		}
		last[s.Category] = date
	}
	out.PerWeek = float64(within) / float64(weeks)
	if pairs > 0 {
		out.ApartMean = float64(apart) / float64(pairs)
	}
	return out
}
