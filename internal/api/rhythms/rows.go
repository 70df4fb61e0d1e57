package rhythms

import (
	"time"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// Rows are some dates of a site, one after the other.
type Rows struct {
	Zone civil.Zone
	From civil.Date
	N    int // how many
}

// Of returns the row of a date, and whether it is one of them.
func (r Rows) Of(date civil.Date) (int, bool) {
	i := date.Sub(r.From)
	return i, i >= 0 && i < r.N
}

// Drawn receives what a rhythm has on each row.
type Drawn struct {
	Stretch func(row int, s Stretch)
	Slot    func(row int, place operation.Place, s rhythm.Slot)
	Short   func(row int, reason string)
}

// Draw lays a rhythm out on the rows. Windows past midnight and clocks elsewhere bring
// parts of dates around them.
func (r Rows) Draw(plan *rhythm.Beside, to Drawn) {
	before, after := plan.Rhythm.Around()
	for day := range plan.Days(r.From.Add(-before)) {
		if !day.Date.Before(r.From.Add(r.N + after)) {
			break
		}
		for _, stretch := range day.Stretches {
			for _, part := range cut(r.Zone, stretch) {
				if row, ok := r.Of(part.date); ok {
					to.Stretch(row, part.Stretch)
				}
			}
		}
		for _, s := range day.Slots {
			place := operation.PlaceAt(r.Zone, s.At)
			if row, ok := r.Of(place.Date); ok {
				to.Slot(row, place, s)
			}
		}
		if row, ok := r.Of(day.Date); ok {
			for _, short := range day.Short {
				to.Short(row, short.Reason)
			}
			if day.Near {
				to.Short(row, nearly)
			}
		}
	}
}

// nearly is said of a day on which chance had to be drawn in parts.
const nearly = "So many windows overlap on this day that its times are nearly, but not exactly, equally likely."

// Stretch is a part of a day in which an opening's slots may lie.
type Stretch struct {
	Opening string `json:"opening"`
	From    int    `json:"from" doc:"minutes since local midnight"`
	To      int    `json:"to" doc:"exclusive; 1440 is midnight"`
}

type dayStretch struct {
	date civil.Date
	Stretch
}

// cut lays a stretch of instants on local days, each with its own clock.
func cut(zone civil.Zone, s rhythm.Stretch) []dayStretch {
	var parts []dayStretch
	for at := s.From; at.Before(s.To); {
		date, from := zone.Local(at)
		end := zone.At(date.Add(1), 0)
		part := dayStretch{date, Stretch{s.Opening, int(from), int(civil.Midnight)}}
		if s.To.Before(end) {
			_, last := zone.Local(s.To.Add(-time.Minute))
			part.To, end = int(last)+1, s.To
		}
		if !end.After(at) {
			break
		}
		parts, at = append(parts, part), end
	}
	return parts
}
