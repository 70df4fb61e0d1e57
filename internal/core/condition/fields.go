package condition

import (
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/letters"
)

func (l *leaf) field(f *Facts, at *moment) bool {
	value, there := f.Fields[l.Field]
	there = there && strings.TrimSpace(value) != ""
	switch l.Match {
	case MatchPresent:
		return there
	case MatchMissing:
		return !there
	case MatchPassed:
		date, ok := dateOf(value, l.zone)
		return ok && !at.at.Before(l.span.After(date, l.zone))
	case MatchRound:
		begins, _, ok := l.round(f, at)
		return ok && !at.at.Before(begins)
	case MatchEquals:
		return there && letters.Equal(strings.TrimSpace(value), strings.TrimSpace(l.Values[0]))
	case MatchDiffers:
		return !there || !letters.Equal(strings.TrimSpace(value), strings.TrimSpace(l.Values[0]))
	}
	order, ok := compare(value, l.Values[0], l.zone)
	return ok && (order > 0) == (l.Match == MatchOver) && order != 0
}

// round is the stretch before the day that a field's date has in a year, and that day itself: the next one that is not over. The moment is in it
// once it begins.
func (l *leaf) round(f *Facts, at *moment) (begins, ends time.Time, ok bool) {
	passes, ok := dateOf(f.Fields[l.Field], l.zone)
	if !ok {
		return begins, ends, false
	}
	date := l.zone.DateOf(passes.Add(-time.Second))
	year, _, _ := at.today.Parts()
	day := date.InYear(year)
	if day.Before(at.today) {
		day = date.InYear(year + 1)
	}
	first := day
	switch l.Unit {
	case Days:
		first = day.Add(-l.N)
	case Weeks:
		first = day.Add(-7 * l.N)
	default:
		first = day.AddMonths(-l.N)
	}
	return l.zone.At(first, 0), l.zone.At(day.Add(1), 0), true
}

// mostRound is how long before its day a date may come round, less than a year, by the unit.
var mostRound = map[Unit]int{Days: 360, Weeks: 51, Months: 11}

// compare orders two values of fields as numbers, or else as dates; ok is false where
// they are neither.
func compare(a, b string, zone civil.Zone) (order int, ok bool) {
	x, errX := strconv.ParseFloat(strings.TrimSpace(a), 64)
	y, errY := strconv.ParseFloat(strings.TrimSpace(b), 64)
	if errX == nil && errY == nil {
		switch {
		case x < y:
			return -1, true
		case x > y:
			return 1, true
		}
		return 0, x == y
	}
	s, okS := dateOf(a, zone)
	t, okT := dateOf(b, zone)
	return s.Compare(t), okS && okT
}

// dateOf reads a date of a custom field and returns when it has passed: a date (RFC
// 3339, section 5.6, full-date) at the end of its day in the zone, a date-time (RFC
// 3339, or "2026-11-24 19:30" of the zone) at that moment.
func dateOf(text string, zone civil.Zone) (time.Time, bool) {
	text = strings.TrimSpace(text)
	if len(text) < len(time.DateOnly) || text[4] != '-' {
		return time.Time{}, false
	}
	d, err := civil.ParseDate(text[:len(time.DateOnly)])
	if err != nil {
		return time.Time{}, false
	}
	if len(text) == len(time.DateOnly) {
		return zone.At(d.Add(1), 0), true
	}
	if t, err := time.Parse(time.RFC3339, text); err == nil {
		return t.UTC(), true
	}
	rest := text[len(time.DateOnly):]
	if rest[0] != ' ' && rest[0] != 'T' {
		return time.Time{}, false
	}
	c, err := civil.ParseClock(rest[1:])
	if err != nil || c >= civil.Midnight {
		return time.Time{}, false
	}
	return zone.At(d, c), true
}

func (f *Facts) hasTag(folded string) bool {
	for _, t := range f.Tags {
		if letters.Equal(t, folded) {
			return true
		}
	}
	return false
}

func (f *Facts) hasWord(folded string) bool { return letters.HasWord(f.Text, folded) }

// clicksSince counts the clicks after a date.
func (f *Facts) clicksSince(date civil.Date) int {
	n := 0
	for i := len(f.Clicks) - 1; i >= 0 && f.Clicks[i].Date.After(date); i-- {
		n += f.Clicks[i].N
	}
	return n
}
