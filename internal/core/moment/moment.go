// Package moment reads dates and times as people and programs write them. It is pure.
package moment

import (
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/core/civil"
)

var (
	times  = []string{"15:04", "15:04:05", "3:04 pm", "3:04pm", "15.04", "3 pm", "3pm"}
	dates  = []string{"2006-1-2", "2 Jan 2006", "2 January 2006", "Jan 2 2006", "January 2 2006", "2.1.2006", "2/1/2006"}
	noYear = []string{"2 Jan", "2 January", "Jan 2", "January 2", "2.1.", "2/1"}
)

// mostSaid is how many bytes of text are looked at.
const mostSaid = 60

// Read reads a date and a time by the clocks of a zone, such as "Fri 4 Dec, 09:40", "4 Dec 2026 9.40",
// "4.12.2026 9:40" (the day first) or "2026-12-04T09:40". Without a year it is the next such day from a moment on.
func Read(said string, zone civil.Zone, now time.Time) (time.Time, bool) {
	if len(said) > mostSaid {
		return time.Time{}, false
	}
	fields := strings.Fields(strings.ToLower(strings.ReplaceAll(said, ",", " ")))
	words := strings.Join(fields, " ")
	if at, err := time.Parse("2006-01-02t15:04", words); err == nil {
		fields = []string{at.Format("2006-01-02"), at.Format("15:04")}
	}
	if len(fields) > 2 && isWeekday(fields[0]) {
		fields = fields[1:]
	}
	for n := 1; n <= 2 && n < len(fields); n++ { // the last words are the time
		split := len(fields) - n
		clock, ok := readClock(strings.Join(fields[split:], " "))
		if !ok {
			continue
		}
		if d, ok := day(strings.Join(fields[:split], " "), zone, now); ok {
			return zone.At(d, clock), true
		}
	}
	return time.Time{}, false
}

func isWeekday(word string) bool {
	for d := time.Sunday; d <= time.Saturday; d++ {
		name := strings.ToLower(d.String())
		if word == name || word == name[:3] {
			return true
		}
	}
	return false
}

func readClock(said string) (civil.Clock, bool) {
	for _, layout := range times {
		if t, err := time.Parse(layout, said); err == nil {
			return civil.Clock(t.Hour()*60 + t.Minute()), true
		}
	}
	return 0, false
}

func day(said string, zone civil.Zone, now time.Time) (civil.Date, bool) {
	for _, layout := range dates {
		if t, err := time.Parse(layout, said); err == nil && civil.IsNear(t) {
			return civil.NewDate(t.Year(), t.Month(), t.Day()), true
		}
	}
	today, thisYear := zone.DateOf(now), zone.In(now).Year()
	for _, layout := range noYear {
		for year := thisYear; year <= thisYear+8; year++ { // a leap day comes every eighth year at the latest
			t, err := time.Parse("2006 "+layout, fmt.Sprintf("%d %s", year, said))
			if err != nil {
				continue
			}
			if d := civil.NewDate(year, t.Month(), t.Day()); !d.Before(today) {
				return d, true
			}
		}
	}
	return civil.Date{}, false
}

// written are how programs write moments with their zone: RFC 3339, RFC 1123 and what is near them.
var written = []string{time.RFC3339, "2006-01-02 15:04:05Z07:00", "2006-01-02 15:04:05 Z07:00", "2006-01-02 15:04:05 -0700", "2006-01-02 15:04:05 -0700 MST",
	time.RFC1123Z, time.RFC1123, "Mon, 2 Jan 2006 15:04:05 -0700", "2 Jan 2006 15:04:05 -0700", "Mon, 2 Jan 2006 15:04:05 MST"}

// isSaid tells whether a moment's zone is said by its distance from UTC, or is UTC: of other names nobody knows which they are.
func isSaid(at time.Time, layout string) bool {
	name, away := at.Zone()
	return strings.Contains(layout, "07") || away != 0 || name == "UTC" || name == "GMT"
}

// byClocks are how programs write them by some clocks, to the second.
var byClocks = []string{"2006-01-02T15:04:05", "2006-01-02 15:04:05"}

// ReadAny reads what Read reads, a day without a time, which is then at a time of its own, and what programs write with a
// zone. What is no such text, or far from now, is refused: ok is false.
func ReadAny(said string, zone civil.Zone, now time.Time, atDay civil.Clock) (at time.Time, ok bool) {
	said = strings.TrimSpace(said)
	if len(said) > mostSaid {
		return time.Time{}, false
	}
	for _, layout := range written {
		if at, err := time.Parse(layout, said); err == nil && civil.IsNear(at) && isSaid(at, layout) {
			return at.UTC(), true
		}
	}
	for _, layout := range byClocks {
		if at, err := time.Parse(layout, said); err == nil && civil.IsNear(at) {
			of := zone.At(civil.NewDate(at.Year(), at.Month(), at.Day()), civil.Clock(at.Hour()*60+at.Minute()))
			return of.Add(time.Duration(at.Second()) * time.Second).UTC(), true
		}
	}
	if at, ok := Read(said, zone, now); ok {
		return at, true
	}
	fields := strings.Fields(strings.ToLower(strings.ReplaceAll(said, ",", " ")))
	if len(fields) > 1 && isWeekday(fields[0]) {
		fields = fields[1:]
	}
	if d, ok := day(strings.Join(fields, " "), zone, now); ok {
		return zone.At(d, atDay), true
	}
	return time.Time{}, false
}
