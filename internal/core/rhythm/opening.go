package rhythm

import (
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/spread"
)

// Weekdays is a set of days of the week.
type Weekdays uint8

// EveryDay holds all seven weekdays.
const EveryDay Weekdays = 1<<7 - 1

// On returns the set of the given weekdays.
func On(days ...time.Weekday) Weekdays {
	var w Weekdays
	for _, d := range days {
		w |= 1 << d
	}
	return w
}

// Has tells whether the set holds the day.
func (w Weekdays) Has(d time.Weekday) bool { return w&(1<<d) != 0 }

// Days lists the days of the set, Monday first.
func (w Weekdays) Days() []time.Weekday {
	var days []time.Weekday
	for i := range 7 {
		if d := time.Weekday((i + 1) % 7); w.Has(d) {
			days = append(days, d)
		}
	}
	return days
}

// Opening is one line of a rhythm: on some weekdays, either one publication at a
// fixed time that may sway, or Count publications within a window.
type Opening struct {
	// Key names the opening within its rhythm for good: slots are named by it, and
	// their times are drawn from it. 1 to 40 characters.
	Key string
	// Weekdays on which the opening holds; at least one.
	Weekdays Weekdays
	// From is the fixed time, or the beginning of the window. 00:00 to 23:59.
	From civil.Clock
	// To is the end of the window, exclusive: after From, up to 48:00. It is zero
	// for a fixed time.
	To civil.Clock
	// Count is how many publications the window gets, 1 to 500; 1 for a fixed time.
	Count int
	// Sway is by how many minutes a fixed time may wander, either way: 0 to 720.
	// It is zero for a window.
	Sway int
	// EveryWeeks lets the opening hold in every so-manieth week only, counted from
	// the week (Monday to Sunday) of Anchor: 0 and 1 are every week, at most 52.
	EveryWeeks int
	Anchor     civil.Date
	// Lane names the categories that the opening is reserved for; empty: for all.
	Lane []string
	// Audience is the zone in which the opening's weekdays and times are meant, where
	// it is not the site's.
	Audience *civil.Zone
}

// holds tells whether the opening holds on a date of its zone.
func (o Opening) holds(date civil.Date) bool {
	if !o.Weekdays.Has(date.Weekday()) {
		return false
	}
	if o.EveryWeeks < 2 {
		return true
	}
	weeks := date.Monday().Sub(o.Anchor.Monday()) / 7
	return weeks%o.EveryWeeks == 0
}

// zone is where the opening's times are meant.
func (o Opening) zone(site civil.Zone) civil.Zone {
	if o.Audience != nil {
		return *o.Audience
	}
	return site
}

// Window returns an opening of count publications from `from` up to `to`.
func Window(key string, days Weekdays, from, to civil.Clock, count int) Opening {
	return Opening{Key: key, Weekdays: days, From: from, To: to, Count: count}
}

// Fixed returns an opening of one publication at a time, give or take sway minutes.
func Fixed(key string, days Weekdays, at civil.Clock, sway int) Opening {
	return Opening{Key: key, Weekdays: days, From: at, Count: 1, Sway: sway}
}

// IsFixed tells whether the opening is a fixed time rather than a window.
func (o Opening) IsFixed() bool { return o.To == 0 }

// reach returns the clock times between which the opening's slots lie, to exclusive.
func (o Opening) reach() (from, to civil.Clock) {
	if o.IsFixed() {
		return o.From - civil.Clock(o.Sway), o.From + civil.Clock(o.Sway) + 1
	}
	return o.From, o.To
}

// String describes the opening's time, such as "between 06:00 and 08:00".
func (o Opening) String() string {
	switch {
	case !o.IsFixed():
		return fmt.Sprintf("between %s and %s", o.From, o.To)
	case o.Sway > 0:
		return fmt.Sprintf("at %s, give or take %d min", o.From, o.Sway)
	}
	return fmt.Sprintf("at %s", o.From)
}

// Limits on what a rhythm may ask for.
const (
	MaxOpenings = 100
	MaxCount    = 500
	MaxSway     = 12 * 60
	MaxGap      = 7 * 24 * 60 // minutes
	MaxWeeks    = 52
	MaxRests    = 5000
	maxKey      = 40
)

// Problems lists all that is wrong with the rhythm; a rhythm without problems can
// be drawn. Two openings that merely compete for the same minutes are no problem:
// what does not fit on a day is told by Day.
func (r Rhythm) Problems() []check.FieldProblem {
	var found []check.FieldProblem
	say := func(path, format string, args ...any) {
		found = append(found, check.FieldProblem{Path: path, Message: fmt.Sprintf(format, args...)})
	}
	if r.Gap < 1 || r.Gap > MaxGap {
		say("gap", "The gap is %d minutes; it must be between 1 minute and 7 days (%d minutes).", r.Gap, MaxGap)
	}
	if !r.From.IsZero() && !r.Until.IsZero() && r.Until.Before(r.From) {
		say("until", "The rhythm ends on %s, before it begins on %s. Choose a later end.", r.Until, r.From)
	}
	if len(r.Rests) > MaxRests {
		say("rests", "There are %d rest days; a rhythm holds at most %d.", len(r.Rests), MaxRests)
	}
	for i, rest := range r.Rests {
		switch days := rest.Last.Sub(rest.First) + 1; {
		case days < 1:
			say(fmt.Sprintf("rests[%d].last", i), "The rest ends on %s, before it begins on %s. Choose a later end.",
				rest.Last, rest.First)
		case days > civil.LongestRest:
			say(fmt.Sprintf("rests[%d].last", i),
				"A rest can last at most %d days; this one has %d. Split it, or end the rhythm.", civil.LongestRest, days)
		}
	}
	r.seasonProblems(say)
	if len(r.Openings) > MaxOpenings {
		say("openings", "There are %d openings; a rhythm holds at most %d.", len(r.Openings), MaxOpenings)
		return found
	}
	keys := make(map[string]bool)
	for i, o := range r.Openings {
		at := func(field string) string { return fmt.Sprintf("openings[%d].%s", i, field) }
		before := len(found)
		o.problems(at, say)
		if keys[o.Key] {
			say(at("key"), "Another opening has the key %q too; keys must differ.", o.Key)
		}
		keys[o.Key] = true
		if len(found) == before && r.Gap >= 1 && r.Gap <= MaxGap {
			r.fits(o, at, say)
		}
	}
	return found
}

func (o Opening) problems(at func(string) string, say func(path, format string, args ...any)) {
	if o.Key == "" || len(o.Key) > maxKey {
		say(at("key"), "An opening needs a key of 1 to %d characters.", maxKey)
	}
	if o.Weekdays&EveryDay == 0 {
		say(at("weekdays"), "Choose at least one weekday.")
	}
	switch {
	case o.EveryWeeks < 0 || o.EveryWeeks > MaxWeeks:
		say(at("everyWeeks"), "The opening applies every %d weeks; it must be between 1 and %d.", o.EveryWeeks,
			MaxWeeks)
	case o.EveryWeeks > 1 && o.Anchor.IsZero():
		say(at("anchor"), "Choose a date in a week when the opening applies; the weeks are counted from it.")
	}
	for i, category := range o.Lane {
		if strings.TrimSpace(category) == "" {
			say(at(fmt.Sprintf("lane[%d]", i)), "A lane names a category; this name is empty.")
		}
	}
	if o.From < 0 || o.From >= civil.Midnight {
		say(at("from"), "An opening begins between 00:00 and 23:59, not at %s.", o.From)
	}
	if o.IsFixed() {
		if o.Sway < 0 || o.Sway > MaxSway {
			say(at("sway"), "The give or take is %d minutes; it must be between 0 and %d.", o.Sway, MaxSway)
		}
		if o.Count != 1 {
			say(at("count"), "A fixed time is for one post, not %d; use a window for more.", o.Count)
		}
		return
	}
	switch {
	case o.To == o.From:
		say(at("to"), "The window is empty: it begins and ends at %s. Choose a later end.", o.From)
	case o.To < o.From:
		say(at("to"), "The window ends at %s, before it begins at %s. To run past midnight, end it at %s.",
			o.To, o.From, o.To+civil.Midnight)
	case o.To > civil.LastClock:
		say(at("to"), "The window ends at %s; it may run to 48:00 at most.", o.To)
	}
	if o.Sway != 0 {
		say(at("sway"), "A window has no give or take; its times are spread already.")
	}
	if o.Count < 1 || o.Count > MaxCount {
		say(at("count"), "The window asks for %d posts; it must be between 1 and %d.", o.Count, MaxCount)
	}
}

// fits tells whether the opening, alone on an ordinary day, has room for its count.
func (r Rhythm) fits(o Opening, at func(string) string, say func(path, format string, args ...any)) {
	fit := o.capacity(r.Gap, r.Uneven)
	if fit >= o.Count {
		return
	}
	if o.IsFixed() {
		say(at("from"), "Uneven minutes are on, and %s is not uneven. Choose a minute that is not divisible by five, or add some give or take.", o.From)
		return
	}
	if r.Gap >= int(o.To-o.From) {
		say(at("count"), "The gap of %d min is wider than the window from %s to %s, so %d fits, not %d. Ask for one, widen the window or narrow the gap.",
			r.Gap, o.From, o.To, fit, o.Count)
		return
	}
	say(at("count"), "%s asks for %d posts %s with a gap of %d min; %d fit. Ask for fewer, widen the window or narrow the gap.",
		weekdayNames(o.Weekdays), o.Count, o, r.Gap, fit)
}

// capacity is how many times the opening has room for, by itself.
func (o Opening) capacity(gap int, uneven bool) int {
	from, to := o.reach()
	return spread.Capacity([]spread.Stretch{{From: int(from), To: int(to)}}, nil, gap, uneven)
}

func weekdayNames(w Weekdays) string {
	if w&EveryDay == EveryDay {
		return "Every day"
	}
	var names []string
	for _, d := range w.Days() {
		names = append(names, d.String())
	}
	return strings.Join(names, ", ")
}
