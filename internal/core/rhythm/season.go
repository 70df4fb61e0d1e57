package rhythm

import (
	"fmt"

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

// on returns the rhythm that holds on a date: a season's or the usual one. Only openings,
// seed, evenness, bounds and ID differ.
func (r Rhythm) on(date civil.Date) Rhythm {
	best := -1
	for i, s := range r.Seasons {
		if date.Before(s.From) || date.After(s.Until) {
			continue
		}
		if best < 0 || s.Priority > r.Seasons[best].Priority ||
			s.Priority == r.Seasons[best].Priority && s.From.After(r.Seasons[best].From) {
			best = i
		}
	}
	if best < 0 {
		return r
	}
	s, usual := r.Seasons[best], r
	held := r
	held.usual = &usual
	held.ID, held.Seed, held.Uneven, held.Openings, held.From, held.Until = s.ID, s.Seed, s.Uneven, s.Openings, s.From, s.Until
	return held
}

// of returns the rhythm that holds on another date than the one that r holds on.
func (r Rhythm) of(date civil.Date) Rhythm {
	if r.usual != nil {
		return r.usual.on(date)
	}
	return r.on(date)
}

// SeasonOn names the season that holds on a date; "" for the usual rhythm.
func (r Rhythm) SeasonOn(date civil.Date) string {
	id := r.on(date).ID
	for _, s := range r.Seasons {
		if s.ID == id && id != r.ID {
			return s.Name
		}
	}
	return ""
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
			say(at("starts"), "Say on which date “%s” begins.", s.Name)
		case s.Until.IsZero():
			say(at("ends"), "Say on which date “%s” ends.", s.Name)
		case s.Until.Before(s.From):
			say(at("ends"), "“%s” ends on %s, before it begins on %s. Let it end later.", s.Name, s.Until, s.From)
		}
		one := Rhythm{Zone: r.Zone, Gap: r.Gap, Openings: s.Openings, Uneven: s.Uneven}
		for _, p := range one.Problems() {
			say(at(p.Path), "%s", p.Message)
		}
	}
}
