package condition

import (
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"dapper.example/internal/core/civil"
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
	case MatchEquals:
		return there && strings.EqualFold(strings.TrimSpace(value), strings.TrimSpace(l.Values[0]))
	case MatchDiffers:
		return !there || !strings.EqualFold(strings.TrimSpace(value), strings.TrimSpace(l.Values[0]))
	}
	order, ok := compare(value, l.Values[0], l.zone)
	return ok && (order > 0) == (l.Match == MatchOver) && order != 0
}

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
		if t == folded || strings.EqualFold(t, folded) {
			return true
		}
	}
	return false
}

func (f *Facts) hasWord(folded string) bool { return hasWord(f.Text, folded) }

// clicksSince counts the clicks after a date.
func (f *Facts) clicksSince(date civil.Date) int {
	n := 0
	for i := len(f.Clicks) - 1; i >= 0 && f.Clicks[i].Date.After(date); i-- {
		n += f.Clicks[i].N
	}
	return n
}

// containsFold tells whether the text holds the needle, which is in lower case.
func containsFold(text, needle string) bool { return indexFold(text, needle, 0) >= 0 }

// indexFold is where the needle, which is in lower case, begins in the text at `from`
// or later, or -1. ASCII is compared in place; other text is put into lower case.
func indexFold(text, needle string, from int) int {
	n := len(needle)
	if n == 0 {
		return from
	}
	low := needle[0]
	high := low
	if 'a' <= low && low <= 'z' {
		high = low - 'a' + 'A'
	}
	for i := from; i+n <= len(text); i++ {
		if c := text[i]; c != low && c != high {
			continue
		}
		if equalFold(text[i:i+n], needle) {
			return i
		}
	}
	return -1
}

// equalFold compares bytes, ASCII letters without regard to case. Other letters count
// as equal in either case if they are as long in both, which all common ones are.
func equalFold(text, needle string) bool {
	for i := range len(needle) {
		a, b := text[i], needle[i]
		if a == b {
			continue
		}
		if a >= utf8.RuneSelf || b >= utf8.RuneSelf {
			return strings.EqualFold(text, needle)
		}
		if 'A' <= a && a <= 'Z' && a+('a'-'A') == b {
			continue
		}
		return false
	}
	return true
}

// hasWord tells whether the text holds the word, which is in lower case, as a whole
// word: with no letter or digit next to it.
func hasWord(text, word string) bool {
	for from := 0; ; {
		i := indexWord(text, word, from)
		if i < 0 {
			return false
		}
		before, _ := utf8.DecodeLastRuneInString(text[:i])
		after, size := utf8.DecodeRuneInString(text[i+len(word):])
		if !isWordRune(before) && (size == 0 || !isWordRune(after)) {
			return true
		}
		from = i + 1
	}
}

// indexWord is indexFold for words that may begin with any letter.
func indexWord(text, word string, from int) int {
	first, _ := utf8.DecodeRuneInString(word)
	if first < utf8.RuneSelf {
		return indexFold(text, word, from)
	}
	upper := unicode.ToUpper(first)
	for i := from; i+len(word) <= len(text); i++ {
		if !utf8.RuneStart(text[i]) {
			continue
		}
		if r, _ := utf8.DecodeRuneInString(text[i:]); (r == first || r == upper) && strings.EqualFold(text[i:i+len(word)], word) {
			return i
		}
	}
	return -1
}

func isWordRune(r rune) bool {
	return r != utf8.RuneError && (unicode.IsLetter(r) || unicode.IsDigit(r))
}
