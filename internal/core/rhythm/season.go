package rhythm

import (
	"fmt"
	"time"

	"dapper.example/internal/core/civil"
)

// Season is a rhythm that holds between two dates in place of the usual one: a summer,
// a festival. It has openings, a seed and evenness of its own; zone and rests are the
// usual rhythm's, and so is the gap where the season has none.
type Season struct {
	ID   int64 // names its slots; another than the usual rhythm's
	Name string
	// From and Until are its first and its last date; both are given.
	From, Until civil.Date
	// Priority decides where seasons overlap: the highest holds, and of equal ones the one
	// that begins later.
	Priority int
	Gap      int // fewest minutes between two publications; 0: the usual rhythm's
	Seed     uint64
	Uneven   bool
	Openings []Opening
}

// MaxSeasons bounds the seasons of a rhythm.
const MaxSeasons = 40

// SeasonOn names the season that holds on a date of the site; "" for the usual rhythm.
func (r Rhythm) SeasonOn(date civil.Date) string {
	if i := r.inForce(date); i >= 0 {
		return r.Seasons[i].Name
	}
	return ""
}

// GapOn is the gap that holds on a date of the site, in minutes.
func (r Rhythm) GapOn(date civil.Date) int {
	if i := r.inForce(date); i >= 0 && r.Seasons[i].Gap > 0 {
		return r.Seasons[i].Gap
	}
	return r.Gap
}

// GapAt is the gap that holds at a moment.
func (r Rhythm) GapAt(at time.Time) time.Duration {
	return time.Duration(r.GapOn(r.Zone.DateOf(at))) * time.Minute
}

// LaneOf names the categories that a slot is for, by its rhythm or season and its opening:
// openings have keys within either. Nil is for all, or that there is no such opening now.
func (r Rhythm) LaneOf(id SlotID) []string {
	openings := r.Openings
	if id.Rhythm != r.ID {
		openings = nil
		for _, s := range r.Seasons {
			if s.ID == id.Rhythm {
				openings = s.Openings
			}
		}
	}
	for _, o := range openings {
		if o.Key == id.Opening {
			return o.Lane
		}
	}
	return nil
}

// WidestGap is the widest gap that holds at any time, in minutes.
func (r Rhythm) WidestGap() int {
	widest := r.Gap
	for _, s := range r.Seasons {
		widest = max(widest, s.Gap)
	}
	return widest
}

// IsSilent tells whether the rhythm has no opening at all, in no season either.
func (r Rhythm) IsSilent() bool {
	for _, s := range r.Seasons {
		if len(s.Openings) > 0 {
			return false
		}
	}
	return len(r.Openings) == 0
}

// everyOpening yields the openings of the usual rhythm and of all seasons.
func (r Rhythm) everyOpening(yield func(Opening) bool) {
	for _, o := range r.Openings {
		if !yield(o) {
			return
		}
	}
	for _, s := range r.Seasons {
		for _, o := range s.Openings {
			if !yield(o) {
				return
			}
		}
	}
}

// seasonProblems lists what is wrong with the seasons, paths and all.
func (r Rhythm) seasonProblems(say func(path, format string, args ...any)) {
	if len(r.Seasons) > MaxSeasons {
		say("seasons", "There are %d seasons; a rhythm holds at most %d.", len(r.Seasons), MaxSeasons)
		return
	}
	for i, s := range r.Seasons {
		at := func(field string) string { return fmt.Sprintf("seasons[%d].%s", i, field) }
		switch {
		case s.From.IsZero():
			say(at("starts"), "Choose the date on which “%s” begins.", s.Name)
		case s.Until.IsZero():
			say(at("ends"), "Choose the date on which “%s” ends.", s.Name)
		case s.Until.Before(s.From):
			say(at("ends"), "“%s” ends on %s, before it begins on %s. Choose a later end.", s.Name, s.Until, s.From)
		}
		gap := r.Gap
		if s.Gap != 0 {
			gap = s.Gap
		}
		one := Rhythm{Zone: r.Zone, Gap: gap, Openings: s.Openings, Uneven: s.Uneven}
		for _, p := range one.Problems() {
			say(at(p.Path), "%s", p.Message)
		}
	}
}
