package api

import (
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// rows are some dates of a site, one after the other.
type rows struct {
	zone civil.Zone
	from civil.Date
	n    int
}

// of returns the row of a date, and whether it is one of them.
func (r rows) of(date civil.Date) (int, bool) {
	i := date.Sub(r.from)
	return i, i >= 0 && i < r.n
}

// drawn receives what a rhythm has on each row.
type drawn struct {
	stretch func(row int, s Stretch)
	slot    func(row int, place Place, s rhythm.Slot)
	short   func(row int, reason string)
}

// draw lays a rhythm out on the rows. Windows past midnight and clocks elsewhere bring
// parts of dates around them.
func (r rows) draw(plan *rhythm.Beside, to drawn) {
	before, after := plan.Rhythm.Around()
	for day := range plan.Days(r.from.Add(-before)) {
		if !day.Date.Before(r.from.Add(r.n + after)) {
			break
		}
		for _, stretch := range day.Stretches {
			for _, part := range cut(r.zone, stretch) {
				if row, ok := r.of(part.date); ok {
					to.stretch(row, part.Stretch)
				}
			}
		}
		for _, s := range day.Slots {
			place := placeAt(r.zone, s.At)
			if row, ok := r.of(place.Date); ok {
				to.slot(row, place, s)
			}
		}
		if row, ok := r.of(day.Date); ok {
			for _, short := range day.Short {
				to.short(row, short.Reason)
			}
			if day.Near {
				to.short(row, nearly)
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
