package queue

import (
	"fmt"
	"slices"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/words"
)

// seat is a slot with what the caps and lanes ask of it.
type seat struct {
	slot rhythm.Slot
	at   int64 // seconds since 1970
	day  int32 // date of the site, as days since a fixed one
	week int32
}

// ledger counts what is settled or reserved, for the caps. Authors and categories
// are numbered.
type ledger struct {
	caps       Caps
	byDay      map[int32]int
	authorDay  map[[2]int32]int
	authorWeek map[[2]int32]int
	category   map[[2]int32]int // (category, day)
}

func newLedger(caps Caps) *ledger {
	return &ledger{caps, make(map[int32]int), make(map[[2]int32]int), make(map[[2]int32]int), make(map[[2]int32]int)}
}

// none is the number of an author or category that is not said; caps do not count it.
const none int32 = -1

// count adds n posts (or takes away, with n negative).
func (l *ledger) count(author, category, day, week int32, n int) {
	if l.caps.Day > 0 {
		l.byDay[day] += n
	}
	if author != none {
		if l.caps.AuthorDay > 0 {
			l.authorDay[[2]int32{author, day}] += n
		}
		if l.caps.AuthorWeek > 0 {
			l.authorWeek[[2]int32{author, week}] += n
		}
	}
	if category != none && l.caps.CategoryDays > 0 {
		l.category[[2]int32{category, day}] += n
	}
}

// cause is why a draft may not take a slot.
type cause uint8

const (
	fits cause = iota
	tooEarly
	tooLate
	otherLane
	dayFull
	authorDayFull
	authorWeekFull
	categoryNear
	needed // the seat is the last that lets some deadline be met
)

// room tells whether the caps leave room for a post of the author and category.
func (l *ledger) room(author, category int32, s *seat) cause {
	if l.caps.Day > 0 && l.byDay[s.day] >= l.caps.Day {
		return dayFull
	}
	if author != none {
		if l.caps.AuthorDay > 0 && l.authorDay[[2]int32{author, s.day}] >= l.caps.AuthorDay {
			return authorDayFull
		}
		if l.caps.AuthorWeek > 0 && l.authorWeek[[2]int32{author, s.week}] >= l.caps.AuthorWeek {
			return authorWeekFull
		}
	}
	if category != none && l.caps.CategoryDays > 0 {
		for off := range int32(l.caps.CategoryDays) {
			if l.category[[2]int32{category, s.day - off}] > 0 || l.category[[2]int32{category, s.day + off}] > 0 {
				return categoryNear
			}
		}
	}
	return fits
}

// inLane tells whether the slot is for the category.
func inLane(lane []string, category string) bool {
	return len(lane) == 0 || slices.Contains(lane, category)
}

// words says a cause as a clause about a draft and a slot.
func (c cause) words(d Draft, date civil.Date, lane []string, caps Caps, today civil.Date) string {
	day := date.Words(today)
	switch c {
	case otherLane:
		return fmt.Sprintf("the slot on %s is for %s", day, words.List(lane, "and"))
	case dayFull:
		return fmt.Sprintf("%s is full with %s", day, words.Count(caps.Day, "post"))
	case authorDayFull:
		return fmt.Sprintf("%s is full for %s", day, d.Author)
	case authorWeekFull:
		return fmt.Sprintf("the week of %s is full for %s", day, d.Author)
	case categoryNear:
		return fmt.Sprintf("%s is nearer than %s to another post in %s", day, days(caps.CategoryDays), d.Category)
	case tooEarly:
		return fmt.Sprintf("it is held until %s", day)
	case tooLate:
		return fmt.Sprintf("%s is after its deadline", day)
	}
	return ""
}

func days(n int) string {
	if n == 1 {
		return "1 day"
	}
	return fmt.Sprintf("%d days", n)
}
