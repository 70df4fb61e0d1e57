// Package cadence says when a rule's turn comes.
//
// A cadence is "every so long" (with a sway), openings as a rhythm has them, or by hand
// only. Turns are computed, not remembered: the only thing a rule keeps is the moment
// up to which its turns are served. A turn that passed while nothing could serve it is
// served once, when something can; the others that passed with it are let go.
//
// Bounds then say at which minutes a turn may be served, and move it to the first such
// minute. The package is pure.
package cadence

import (
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

// By is the kind of a cadence.
type By string

// The kinds of cadences.
const (
	Hand     By = "hand"     // no turns by itself
	Every    By = "every"    // every so long
	Openings By = "openings" // by openings of a week
)

// Unit is a unit of "every so long".
type Unit string

// The units. Minutes and hours are of elapsed time; days and weeks are dates of the
// site's zone, at a time of day.
const (
	Minutes Unit = "minutes"
	Hours   Unit = "hours"
	Days    Unit = "days"
	Weeks   Unit = "weeks"
)

// Units lists the units.
var Units = []Unit{Minutes, Hours, Days, Weeks}

// Cadence says how often.
type Cadence struct {
	By       By               `json:"by"`
	N        int              `json:"n,omitempty"`
	Unit     Unit             `json:"unit,omitempty"`
	At       civil.Clock      `json:"at,omitempty"`       // time of day, of days and weeks
	Weekdays rhythm.Weekdays  `json:"weekdays,omitempty"` // of weeks
	Sway     int              `json:"sway,omitempty"`     // minutes, either way
	Openings []rhythm.Opening `json:"openings,omitempty"`
}

// Pace is the cadence of one rule: where its chance and its counting come from.
type Pace struct {
	Cadence
	Rule   int64
	Seed   uint64
	Anchor time.Time // the turns are counted from here: when the rule was armed
	Zone   civil.Zone
	Gap    int // minutes between two turns of one day's openings; at least 1
}

// Next returns the first turn after a moment, a whole minute; ok is false where there is
// none within the horizon of two years.
func (p Pace) Next(after time.Time) (turn time.Time, ok bool) {
	switch p.By {
	case Every:
		switch p.Unit {
		case Days:
			return p.nextDate(after, func(d, first civil.Date) bool { return d.Sub(first)%p.N == 0 })
		case Weeks:
			return p.nextDate(after, func(d, first civil.Date) bool {
				return p.Weekdays.Has(d.Weekday()) && d.Monday().Sub(first.Monday())/7%p.N == 0
			})
		}
		return p.nextElapsed(after), true
	case Openings:
		r := rhythm.Rhythm{ID: p.Rule, Zone: p.Zone, Gap: max(p.Gap, 1), Seed: p.Seed, Openings: p.Openings}
		for slot := range queue.Slots(r, after, nil) {
			return slot.At, true
		}
	}
	return time.Time{}, false
}

func (p Pace) nextElapsed(after time.Time) time.Time {
	step := time.Duration(p.N) * time.Minute
	if p.Unit == Hours {
		step = time.Duration(p.N) * time.Hour
	}
	anchor := p.Anchor.Truncate(time.Minute)
	for k := max(int64(after.Sub(anchor)/step)-1, 1); ; k++ {
		if t := anchor.Add(time.Duration(k) * step).Add(p.sway(k)); t.After(after) {
			return t.UTC()
		}
	}
}

// nextDate walks the dates on which the rule has a turn.
func (p Pace) nextDate(after time.Time, has func(d, first civil.Date) bool) (time.Time, bool) {
	first := p.Zone.DateOf(p.Anchor)
	from := p.Zone.DateOf(after).Add(-1) // a sway may reach over midnight
	if from.Before(first) {
		from = first
	}
	for d := from; d.Sub(from) <= queue.HorizonDays; d = d.Add(1) {
		if !has(d, first) {
			continue
		}
		if t := p.Zone.At(d, p.At).Add(p.sway(int64(d.Sub(civil.Date{})))); t.After(after) {
			return t, true
		}
	}
	return time.Time{}, false
}

// sway is the turn's own, from the seed and the number of the turn.
func (p Pace) sway(turn int64) time.Duration {
	if p.Sway == 0 {
		return 0
	}
	span := uint64(2*p.Sway + 1)
	return time.Duration(int(Mix(p.Seed, uint64(turn))%span)-p.Sway) * time.Minute
}

// Mix is a hash of numbers for chance that is computed rather than drawn, the same on
// every machine (the finaliser of SplitMix64: Steele, Lea and Flood, OOPSLA 2014).
func Mix(numbers ...uint64) uint64 {
	h := uint64(0x9e3779b97f4a7c15)
	for _, n := range numbers {
		h ^= n
		h += 0x9e3779b97f4a7c15
		h = (h ^ h>>30) * 0xbf58476d1ce4e5b9
		h = (h ^ h>>27) * 0x94d049bb133111eb
		h ^= h >> 31
	}
	return h
}

// Limits of "every so long".
const (
	maxN    = 1000
	maxSway = 719 // of days and weeks: less than half a day
)

// maxDated is the most days or weeks: two years, as far as turns are looked for.
var maxDated = map[Unit]int{Days: queue.HorizonDays - 2, Weeks: queue.HorizonDays/7 - 1}

// Problems lists what is wrong with the cadence; one without problems can be asked.
func (c Cadence) Problems(zone civil.Zone, gap int) []check.FieldProblem {
	var found []check.FieldProblem
	say := func(path, format string, args ...any) {
		found = append(found, check.FieldProblem{Path: path, Message: fmt.Sprintf(format, args...)})
	}
	switch c.By {
	case Hand:
	case Openings:
		if len(c.Openings) == 0 {
			say("openings", "Add at least one opening, or choose another cadence.")
		}
		for _, p := range (rhythm.Rhythm{Zone: zone, Gap: max(gap, 1), Openings: c.Openings}).Problems() {
			say(p.Path, "%s", p.Message)
		}
	case Every:
		c.everyProblems(say)
	default:
		say("by", "There is no cadence %q; it is hand, every or openings.", c.By)
	}
	return found
}

func (c Cadence) everyProblems(say func(path, format string, args ...any)) {
	mostN := maxN
	if dated, ok := maxDated[c.Unit]; ok {
		mostN = dated
	}
	if c.N < 1 || c.N > mostN {
		say("n", "Every %d %s is not possible; choose 1 to %d.", c.N, c.Unit, mostN)
	}
	most := maxSway
	switch c.Unit {
	case Minutes:
		most = (c.N - 1) / 2
	case Hours:
		most = (c.N*60 - 1) / 2
	case Weeks:
		if c.Weekdays&rhythm.EveryDay == 0 {
			say("weekdays", "Choose at least one weekday.")
		}
	case Days:
	default:
		say("unit", "There is no unit %q; it is minutes, hours, days or weeks.", c.Unit)
		return
	}
	if c.At < 0 || c.At >= civil.Midnight {
		say("at", "The time of day is between 00:00 and 23:59, not %s.", c.At)
	}
	if most = min(most, maxSway); c.Sway < 0 || c.Sway > most {
		say("sway", "The give or take is %d minutes; with this interval it can be 0 to %d, less than half the time between two turns.", c.Sway, most)
	}
}

// String says the cadence, such as "every 8 hours, give or take 20 min".
func (c Cadence) String() string {
	switch c.By {
	case Hand:
		return "by hand only"
	case Openings:
		text := ""
		for i, o := range c.Openings {
			if i > 0 {
				text += "; "
			}
			text += weekdays(o.Weekdays) + " " + o.String()
			if o.Count > 1 {
				text += fmt.Sprintf(", %d times", o.Count)
			}
		}
		return text
	}
	text := fmt.Sprintf("every %d %s", c.N, c.Unit)
	if c.N == 1 {
		text = "every " + strings.TrimSuffix(string(c.Unit), "s")
	}
	switch c.Unit {
	case Weeks:
		text += " on " + weekdays(c.Weekdays) + " at " + c.At.String()
	case Days:
		text += " at " + c.At.String()
	}
	if c.Sway > 0 {
		text += fmt.Sprintf(", give or take %d min", c.Sway)
	}
	return text
}

func weekdays(w rhythm.Weekdays) string {
	if w&rhythm.EveryDay == rhythm.EveryDay {
		return "every day"
	}
	text := ""
	for i, d := range w.Days() {
		if i > 0 {
			text += ", "
		}
		text += d.String()[:3]
	}
	return text
}

// Shortest is about the least time between two turns; zero where there are none.
func (p Pace) Shortest() time.Duration {
	switch {
	case p.By == Every && p.Unit == Minutes:
		return time.Duration(p.N) * time.Minute
	case p.By == Every && p.Unit == Hours:
		return time.Duration(p.N) * time.Hour
	case p.By == Hand:
		return 0
	}
	shortest := time.Duration(0)
	at, ok := p.Next(p.Anchor)
	for range 30 {
		if !ok {
			break
		}
		var next time.Time
		if next, ok = p.Next(at); ok && (shortest == 0 || next.Sub(at) < shortest) {
			shortest = next.Sub(at)
		}
		at = next
	}
	return shortest
}
