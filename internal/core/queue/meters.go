package queue

import (
	"cmp"
	"slices"

	"dapper.example/internal/core/civil"
)

// Meter tells how far a cap is used on a date.
type Meter struct {
	Of    MeterOf
	Name  string // of the author or the category; "" for the site
	Count int    // posts; for ByCategory the days to the nearest other post of the category
	Most  int    // the cap; for ByCategory the fewest days
	Full  bool   // nothing more of that fits
}

// MeterOf is what a meter measures.
type MeterOf string

// What meters measure.
const (
	ByDay        MeterOf = "day"
	ByAuthorDay  MeterOf = "author day"
	ByAuthorWeek MeterOf = "author week" // of the ISO week that the date is in
	ByCategory   MeterOf = "category"
)

// Meters are the caps of dates, made once for many of them.
type Meters struct {
	caps    Caps
	posts   map[civil.Date]int
	authors map[dayName]int
	weeks   map[dayName]int // by the week's Monday
	dates   map[string][]civil.Date
}

type dayName struct {
	day  civil.Date
	name string
}

// NewMeters counts what stands.
func NewMeters(zone civil.Zone, caps Caps, standing []Standing) *Meters {
	m := &Meters{caps, make(map[civil.Date]int), make(map[dayName]int), make(map[dayName]int),
		make(map[string][]civil.Date)}
	if caps == (Caps{}) {
		return m
	}
	for _, s := range standing {
		date := zone.DateOf(s.At)
		m.posts[date]++
		m.authors[dayName{date, s.Author}]++
		m.weeks[dayName{date.Monday(), s.Author}]++
		if s.Category != "" {
			m.dates[s.Category] = append(m.dates[s.Category], date)
		}
	}
	for _, dates := range m.dates {
		slices.SortFunc(dates, civil.Date.Compare)
	}
	return m
}

// On lists the meters of a date: that of the site, and those of the authors and
// categories that have something there, or in its week, in order of their names. Caps
// that are off have none.
func (m *Meters) On(date civil.Date) []Meter {
	var meters []Meter
	add := func(of MeterOf, name string, count, most int) {
		if most > 0 && count > 0 {
			meters = append(meters, Meter{of, name, count, most, count >= most})
		}
	}
	if m.caps.Day > 0 {
		meters = append(meters, Meter{ByDay, "", m.posts[date], m.caps.Day, m.posts[date] >= m.caps.Day})
	}
	for key, n := range m.authors {
		if key.day == date {
			add(ByAuthorDay, key.name, n, m.caps.AuthorDay)
		}
	}
	for key, n := range m.weeks {
		if key.day == date.Monday() {
			add(ByAuthorWeek, key.name, n, m.caps.AuthorWeek)
		}
	}
	if m.caps.CategoryDays > 0 {
		for name, dates := range m.dates {
			if near, ok := nearest(dates, date); ok && near < m.caps.CategoryDays {
				meters = append(meters, Meter{ByCategory, name, near, m.caps.CategoryDays, true})
			}
		}
	}
	slices.SortStableFunc(meters, func(a, b Meter) int {
		return cmp.Or(cmp.Compare(slices.Index(order, a.Of), slices.Index(order, b.Of)), cmp.Compare(a.Name, b.Name))
	})
	return meters
}

var order = []MeterOf{ByDay, ByAuthorDay, ByAuthorWeek, ByCategory}

// nearest is how many days the nearest of sorted dates is away.
func nearest(dates []civil.Date, date civil.Date) (int, bool) {
	i, _ := slices.BinarySearchFunc(dates, date, civil.Date.Compare)
	best, ok := 0, false
	for _, j := range []int{i - 1, i} {
		if j >= 0 && j < len(dates) {
			if away := max(dates[j].Sub(date), date.Sub(dates[j])); !ok || away < best {
				best, ok = away, true
			}
		}
	}
	return best, ok
}
