// Package formats reads and writes the program's open formats, and turns them into the
// values that core computes with. It decides nothing and keeps nothing.
package formats

import (
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// Opening is one line of a rhythm, in files and in the API.
type Opening struct {
	Key        string       `json:"key" doc:"names the opening for good; 1 to 40 characters"`
	Kind       string       `json:"kind" enum:"window,time"`
	Weekdays   []string     `json:"weekdays" enum:"monday,tuesday,wednesday,thursday,friday,saturday,sunday"`
	From       civil.Clock  `json:"from" doc:"the fixed time, or the window's beginning"`
	To         *civil.Clock `json:"to,omitempty" doc:"the window's end, exclusive; up to 48:00 for one that runs past midnight"`
	Count      int          `json:"count" required:"false" doc:"how many posts the window gets; 1 where absent"`
	Sway       int          `json:"sway" required:"false" doc:"by how many minutes a fixed time may wander, either way"`
	EveryWeeks int          `json:"everyWeeks" required:"false" doc:"holds in every so-manieth week only; 1 where absent"`
	Anchor     *civil.Date  `json:"anchor,omitempty" doc:"a date of a week in which it holds; weeks are counted from it"`
	Lane       []string     `json:"lane" required:"false" doc:"the categories it is reserved for; none: for all"`
	Zone       *civil.Zone  `json:"zone,omitempty" doc:"the zone in which its weekdays and times are meant, where it is not the site's" example:"Europe/Lisbon"`
}

// UnmarshalJSON reads an opening; what is absent is as it mostly is.
func (o *Opening) UnmarshalJSON(text []byte) error {
	type plain Opening
	read := plain{Count: 1, EveryWeeks: 1}
	if err := json.Unmarshal(text, &read); err != nil {
		return err
	}
	*o = Opening(read)
	return nil
}

var weekdayNames = [...]string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

// ViewOpening writes an opening of core.
func ViewOpening(o rhythm.Opening) Opening {
	view := Opening{Key: o.Key, Kind: "time", Weekdays: []string{}, From: o.From, Count: o.Count, Sway: o.Sway,
		EveryWeeks: max(o.EveryWeeks, 1), Lane: append([]string{}, o.Lane...), Zone: o.Audience}
	if !o.IsFixed() {
		view.Kind, view.To = "window", &o.To
	}
	if !o.Anchor.IsZero() {
		view.Anchor = &o.Anchor
	}
	view.Weekdays = ViewWeekdays(o.Weekdays)
	return view
}

// ViewWeekdays names the weekdays of a set, Monday first.
func ViewWeekdays(w rhythm.Weekdays) []string {
	names := []string{}
	for _, day := range w.Days() {
		names = append(names, weekdayNames[day])
	}
	return names
}

// ReadWeekdays returns the set of named weekdays; names that are none are left out.
func ReadWeekdays(names []string) rhythm.Weekdays {
	var w rhythm.Weekdays
	for _, name := range names {
		if i := slices.Index(weekdayNames[:], name); i >= 0 {
			w |= rhythm.On(time.Weekday(i))
		}
	}
	return w
}

// ReadOpenings returns openings for core, and what is wrong with them that core could
// not tell.
func ReadOpenings(openings []Opening) ([]rhythm.Opening, []check.FieldProblem) {
	var read []rhythm.Opening
	var problems []check.FieldProblem
	for i, o := range openings {
		opening := rhythm.Opening{Key: o.Key, From: o.From, Count: o.Count, Sway: o.Sway, EveryWeeks: o.EveryWeeks,
			Lane: o.Lane, Audience: o.Zone}
		if o.Anchor != nil {
			opening.Anchor = *o.Anchor
		}
		opening.Weekdays = ReadWeekdays(o.Weekdays)
		to := fmt.Sprintf("openings[%d].to", i)
		switch {
		case o.Kind == "window" && o.To == nil:
			problems = append(problems, check.FieldProblem{Path: to, Message: "A window needs an end."})
		case o.Kind == "window" && *o.To == 0:
			problems = append(problems, check.FieldProblem{Path: to,
				Message: "The window ends at 00:00, before it begins. To end at midnight, write 24:00."})
		case o.Kind == "window":
			opening.To = *o.To
		case o.To != nil:
			problems = append(problems, check.FieldProblem{Path: to,
				Message: "A fixed time has no end. Leave it out, or make the opening a window."})
		}
		read = append(read, opening)
	}
	return read, problems
}
