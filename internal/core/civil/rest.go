package civil

import "slices"

// Rest is a stretch of dates on which nothing is placed, both ends included.
type Rest struct {
	First, Last Date
	// Yearly tells that it comes again every year after the first, on the same days of
	// the calendar; 29 February is 28 February in years that have none.
	Yearly bool
	Name   string // for people; "" for none
}

// LongestRest is how many days a rest may have.
const LongestRest = 366

// Rests are a site's rests. The zero value rests on no day.
type Rests []Rest

// RestOn are rests of a day each.
func RestOn(dates ...Date) Rests {
	rests := make(Rests, len(dates))
	for i, d := range dates {
		rests[i] = Rest{First: d, Last: d}
	}
	return rests
}

// Has tells whether nothing is placed on the date.
func (rs Rests) Has(d Date) bool {
	_, rests := rs.On(d)
	return rests
}

// On returns the first of the rests that the date belongs to.
func (rs Rests) On(d Date) (Rest, bool) {
	for _, r := range rs {
		for first := range r.starts(d, d) {
			if !d.Before(first) && d.Sub(first) <= r.Last.Sub(r.First) {
				return r, true
			}
		}
	}
	return Rest{}, false
}

// Within lists the dates from one to another, both included, on which nothing is placed,
// in order.
func (rs Rests) Within(from, to Date) []Date {
	var dates []Date
	for _, r := range rs {
		for first := range r.starts(from, to) {
			last := first.Add(r.Last.Sub(r.First))
			for d := later(first, from); !d.After(last) && !d.After(to); d = d.Add(1) {
				dates = append(dates, d)
			}
		}
	}
	slices.SortFunc(dates, Date.Compare)
	return slices.Compact(dates)
}

func later(a, b Date) Date {
	if a.After(b) {
		return a
	}
	return b
}

// starts yields the first dates of the rest's occurrences that may touch a span.
func (r Rest) starts(from, to Date) func(func(Date) bool) {
	return func(yield func(Date) bool) {
		if !r.Yearly {
			if !r.First.After(to) && !r.Last.Before(from) {
				yield(r.First)
			}
			return
		}
		began := r.First.midnight().Year()
		for year := max(began, from.midnight().Year()-1); year <= to.midnight().Year(); year++ {
			if !yield(r.First.AddMonths(12 * (year - began))) {
				return
			}
		}
	}
}
