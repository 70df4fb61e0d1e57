package tour

import (
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/spread"
)

// Shape says when the stops of a tour are.
type Shape struct {
	Start civil.Date `json:"start"` // the date of the first stop
	Days  int        `json:"days"`  // from the first date to the last, both counted
	Stops int        `json:"stops"`
	// Thinning is how much longer each pause is than the one before: 1 is even, 1.2 begins dense and thins out.
	Thinning float64         `json:"thinning"`
	Weekdays rhythm.Weekdays `json:"weekdays"` // on which stops may be
	From     civil.Clock     `json:"from"`     // the hours of a day in which they are
	To       civil.Clock     `json:"to"`
	// Zone is whose clocks the weekdays and hours are meant by, where those are not the site's: that of readers elsewhere.
	Zone *civil.Zone `json:"zone,omitempty"`
}

// Limits of a shape.
const (
	MostStops    = 400
	MostDays     = 731
	MostThinning = 2.0
	// apart is how many minutes two stops of one day are apart at least.
	apart = 20
)

// Times are the stops' moments in a site's zone, or that of the shape, in order, by a seed, and how many of them found no room. The dates follow from the shape alone: even,
// or each pause longer than the one before by the thinning; one that falls on a day that is left out moves to the next that is not, and
// back where the tour would end before. On each date the minutes are drawn anew, so that they look like nobody's clock.
func (s Shape) Times(zone civil.Zone, seed uint64) (times []time.Time, missing int) {
	if s.Zone != nil {
		zone = *s.Zone
	}
	days := s.days()
	if len(days) == 0 {
		return nil, s.Stops
	}
	on := make(map[civil.Date]int)
	for _, offset := range s.offsets() {
		on[nearest(days, s.Start.Add(offset))]++
	}
	for _, d := range days {
		n := on[d]
		if n == 0 {
			continue
		}
		demand := spread.Demand{Stretches: []spread.Stretch{{From: int(s.From), To: int(s.To)}}, N: n}
		draw := spread.Draw(spread.Request{Demands: []spread.Demand{demand}, Gap: apart, Uneven: true},
			rand.New(rand.NewPCG(seed, cadence.Mix(seed, uint64(d.Sub(civil.Date{}))))))
		missing += draw.Missing[0]
		for _, minute := range draw.Times[0] {
			times = append(times, zone.At(d, civil.Clock(minute)))
		}
	}
	slices.SortFunc(times, time.Time.Compare)
	return times, missing
}

// days are the dates of the tour on which stops may be.
func (s Shape) days() (days []civil.Date) {
	for i := range s.Days {
		if d := s.Start.Add(i); s.Weekdays.Has(d.Weekday()) {
			days = append(days, d)
		}
	}
	return days
}

// offsets are the days from the start on which stops would be, were every day allowed.
func (s Shape) offsets() []int {
	offsets := make([]int, s.Stops)
	if s.Stops < 2 {
		return offsets
	}
	whole, share := 0.0, make([]float64, s.Stops)
	for i, pause := 1, 1.0; i < s.Stops; i++ {
		whole += pause
		share[i] = whole
		if pause *= s.Thinning; pause > 1e12 { // later ones are no longer than that
			pause = 1e12
		}
	}
	for i := range offsets {
		offsets[i] = int(math.Round(share[i] / whole * float64(s.Days-1)))
	}
	return offsets
}

// nearest is the first of some dates, in order, that is not before a date; the last where all are.
func nearest(days []civil.Date, d civil.Date) civil.Date {
	i, _ := slices.BinarySearchFunc(days, d, func(a, b civil.Date) int { return a.Sub(b) })
	return days[min(i, len(days)-1)]
}

// Later is the shape with its beginning moved on, so that the stops of several tours that go on at once take turns: those of the i-th of n fall between
// those of the others.
func (s Shape) Later(i, n int) Shape {
	if s.Stops > 1 && n > 0 {
		s.Start = s.Start.Add(i * (s.Days - 1) / ((s.Stops - 1) * n))
	}
	return s
}
