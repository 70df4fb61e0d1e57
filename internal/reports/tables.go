package reports

import (
	"fmt"
	"math"
	"slices"

	"dapper.example/internal/core/words"
	"dapper.example/internal/intake/sheet"
	"dapper.example/internal/store"
)

// What rows are called in a table, by what they are added up by.
var headings = map[store.ResultsBy]string{store.ResultsByPost: "Post", store.ResultsByChannel: "Channel", store.ResultsByRule: "Rule", store.ResultsByTour: "Tour",
	store.ResultsByWording: "Rule or tour", store.ResultsByOrigin: "Shared by", store.ResultsByLine: "Line"}

var days = [7]string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"}

// Tables are the report as tables: its rows first, then hours of the week, days, sharing again, and posts that were never shared.
func (r Report) Tables() []sheet.Table {
	return []sheet.Table{r.rowsTable(), r.hoursTable(), r.daysTable(), r.wearTable(), r.neverTable()}
}

func table[T any](name string, headings []string, all []T, row func(T) []any) sheet.Table {
	return sheet.Table{Name: name, Headings: headings, Rows: func(yield func([]any, error) bool) {
		for _, one := range all {
			if !yield(row(one), nil) {
				return
			}
		}
	}}
}

// cut leaves two digits after the point.
func cut(n float64) float64 { return math.Round(n*100) / 100 }

func (r Report) rowsTable() sheet.Table {
	return table("What brought what", []string{headings[r.By], "Wording", "Outings", "Clicks", "Clicks an outing", "From", "To", "Outings before", "Clicks before", "Said of it"},
		r.Rows, func(row Row) []any {
			var wording any
			if row.N > 0 {
				wording = row.N
			}
			return []any{row.Name, wording, int(row.Now.Outings), int(row.Now.Clicks), cut(row.Now.Median), cut(row.Now.Low), cut(row.Now.High),
				int(row.Before.Outings), int(row.Before.Clicks), row.Said()}
		})
}

// Said is what a report says of a row: "" where it says nothing.
func (r Row) Said() string {
	switch {
	case r.Worth:
		return "worth sharing again"
	case r.Worn:
		return "brings less than usual"
	}
	return ""
}

func (r Report) hoursTable() sheet.Table {
	type cell struct{ day, hour int }
	var cells []cell
	for d := range 7 {
		for h := range 24 {
			cells = append(cells, cell{d, h})
		}
	}
	return table("Hours", []string{"Day", "Hour in " + r.Zone.City(), "Outings", "Clicks an outing", "From", "To", "Too little known"}, cells, func(c cell) []any {
		h := r.Hours[c.day][c.hour]
		return []any{days[c.day], fmt.Sprintf("%02d:00", c.hour), h.Outings, cut(h.Median), cut(h.Low), cut(h.High), h.Thin}
	})
}

func (r Report) daysTable() sheet.Table {
	return table("Days", []string{"Date", "Outings", "Clicks"}, r.Days, func(d Day) []any { return []any{d.Date.String(), d.Outings, d.Clicks} })
}

func (r Report) wearTable() sheet.Table {
	var all [][]any
	for _, c := range r.Wear {
		for _, w := range c.Wear {
			all = append(all, []any{c.Name, w.Nth, w.Outings, cut(w.Times), cut(w.Low), cut(w.High)})
		}
	}
	return table("Sharing again", []string{"Category", "Time shared", "Outings", "Clicks, first outing is 1", "From", "To"}, all, func(row []any) []any { return row })
}

func (r Report) neverTable() sheet.Table {
	return table("Never shared", []string{"Post"}, r.Never, func(p store.ResultsRow) []any { return []any{p.Name} })
}

// Weekdays says on which days of the week something is, from Monday: "every day", "Monday to Friday", "Saturday and Sunday".
func Weekdays(on [7]bool) string {
	var named []string
	first, last := -1, -1
	for d, is := range on {
		if is {
			named = append(named, days[d])
			if first < 0 {
				first = d
			}
			last = d
		}
	}
	switch {
	case len(named) == 7:
		return "every day"
	case len(named) > 2 && last-first+1 == len(named):
		return days[first] + " to " + days[last]
	}
	return words.List(slices.Clone(named), "and")
}
