package formats

import (
	"cmp"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
)

// Cadence says how often a rule has its turn.
type Cadence struct {
	By       string      `json:"by" enum:"hand,every,openings" doc:"by hand only, every so long, or by openings of a week"`
	N        int         `json:"n" required:"false"`
	Unit     string      `json:"unit,omitempty" required:"false" enum:"minutes,hours,days,weeks"`
	At       civil.Clock `json:"at" required:"false" doc:"time of day, of days and weeks"`
	Weekdays []string    `json:"weekdays" required:"false" enum:"monday,tuesday,wednesday,thursday,friday,saturday,sunday" doc:"of weeks"`
	Sway     int         `json:"sway" required:"false" doc:"by how many minutes a turn may wander, either way"`
	Openings []Opening   `json:"openings" required:"false"`
}

// Read is the cadence as core has it, with what cannot be read of it, by its field. What its kind does not use is left out.
func (c Cadence) Read() (cadence.Cadence, []check.FieldProblem) {
	openings, found := ReadOpenings(c.Openings)
	read := cadence.Cadence{By: cadence.By(c.By)}
	switch read.By {
	case cadence.Openings:
		read.Openings = openings
	case cadence.Every:
		read.N, read.Unit, read.Sway = c.N, cadence.Unit(c.Unit), c.Sway
		if read.Unit == cadence.Days || read.Unit == cadence.Weeks {
			read.At = c.At
		}
		if read.Unit == cadence.Weeks {
			read.Weekdays = ReadWeekdays(c.Weekdays)
		}
	}
	return read, found
}

// ViewCadence is a cadence as people and programs are shown it.
func ViewCadence(c cadence.Cadence) Cadence {
	view := Cadence{By: string(c.By), N: max(c.N, 1), Unit: cmp.Or(string(c.Unit), string(cadence.Days)), At: c.At, Sway: c.Sway,
		Weekdays: ViewWeekdays(c.Weekdays), Openings: []Opening{}}
	for _, o := range c.Openings {
		view.Openings = append(view.Openings, ViewOpening(o))
	}
	return view
}
