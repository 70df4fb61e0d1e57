package formats

import (
	"bytes"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	ics "github.com/arran4/golang-ical"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// Limits on calendar files that rest days are read from.
const (
	MaxCalendar   = 2 << 20 // bytes
	deepest       = 8       // components within components; RFC 5545 needs three
	mostEvents    = 5000
	longestLine   = 8 << 10 // bytes, unfolded
	longestName   = 200     // characters
	mostRepeats   = 50      // years that a yearly event with an end is laid out over
	longestUnread = 100     // events that are named as left out
)

// Rests are what a calendar file says of rest days.
type Rests struct {
	Found civil.Rests
	Left  []LeftEvent // in the file's order, the first hundred
	// LeftOut counts all that are left out.
	LeftOut int
}

// LeftEvent is an event that is no rest day, and why.
type LeftEvent struct{ Name, Why string }

// Unreadable says why a file cannot be read, as a sentence with a way on.
type Unreadable struct{ Why string }

// Error returns the sentence.
func (u *Unreadable) Error() string { return u.Why }

func unreadable(format string, args ...any) error {
	return &Unreadable{fmt.Sprintf(format, args...)}
}

// ReadRests reads rest days from an iCalendar file (RFC 5545): its whole-day events, those
// that come every year as such. Events with a time of day, and ones that repeat in
// another way, are named in Left: nothing is laid out without end, and no zone of the
// file is needed. It fails with *Unreadable for what is no such file.
func ReadRests(file []byte) (Rests, error) {
	if len(file) > MaxCalendar {
		return Rests{}, unreadable("The file is larger than %d MB. Export fewer years.", MaxCalendar>>20)
	}
	if err := shallow(file); err != nil {
		return Rests{}, err
	}
	calendar, err := ics.ParseCalendar(bytes.NewReader(file))
	if err != nil {
		return Rests{}, errNoCalendar
	}
	events := calendar.Events()
	if len(events) > mostEvents {
		return Rests{}, unreadable("The file has %d events; the limit is %d. Export fewer years.", len(events),
			mostEvents)
	}
	var found Rests
	known := make(map[civil.Rest]bool)
	for _, event := range events {
		name := nameOf(event)
		rests, why := restsOf(event, name)
		if why != "" {
			if found.LeftOut++; len(found.Left) < longestUnread {
				found.Left = append(found.Left, LeftEvent{name, why})
			}
			continue
		}
		for _, r := range rests {
			if !known[r] {
				known[r] = true
				found.Found = append(found.Found, r)
			}
		}
	}
	if len(found.Found) > rhythm.MaxRests {
		return Rests{}, unreadable("The file has %d rest days; a rhythm can have at most %d. Export fewer years.",
			len(found.Found), rhythm.MaxRests)
	}
	slices.SortStableFunc(found.Found, func(a, b civil.Rest) int { return a.First.Compare(b.First) })
	return found, nil
}

var errNoCalendar = unreadable("This is not a calendar file. Choose an .ics file exported from a calendar app.")

// unfolded is what joins a line to the next (RFC 5545, 3.1).
var unfolded = regexp.MustCompile(`\r?\n[ \t]`)

// shallow refuses text that is no calendar, and components that are nested deeper than
// any calendar is: what reads them goes down with them.
func shallow(file []byte) error {
	if !utf8.Valid(file) || !bytes.Contains(bytes.ToUpper(file[:min(len(file), 1024)]), []byte("BEGIN:VCALENDAR")) {
		return errNoCalendar
	}
	depth, events := 0, 0
	for line := range bytes.Lines(unfolded.ReplaceAll(file, nil)) {
		if len(line) > longestLine {
			return unreadable("A line of the file has more than %d kB, which no calendar needs. Export it again without attachments.", longestLine>>10)
		}
		if bytes.HasPrefix(bytes.ToUpper(line[:min(len(line), 12)]), []byte("BEGIN:VEVENT")) {
			if events++; events > mostEvents {
				return unreadable("The file has more than %d events. Export fewer years.", mostEvents)
			}
		}
		switch word := bytes.ToUpper(line[:min(len(line), 6)]); {
		case bytes.Equal(word, []byte("BEGIN:")):
			depth++
		case bytes.HasPrefix(word, []byte("END:")):
			depth--
		}
		if depth > deepest {
			return errNoCalendar
		}
	}
	return nil
}

func nameOf(event *ics.VEvent) string {
	name := "Without a name"
	if p := event.GetProperty(ics.ComponentPropertySummary); p != nil && strings.TrimSpace(p.Value) != "" {
		name = strings.Join(strings.Fields(p.Value), " ")
	}
	if runes := []rune(name); len(runes) > longestName {
		name = string(runes[:longestName-1]) + "…"
	}
	return name
}

// restsOf turns an event into rests, or says why it is none.
func restsOf(event *ics.VEvent, name string) (rests []civil.Rest, why string) {
	first, ok := dateOf(event, ics.ComponentPropertyDtStart)
	if !ok {
		return nil, "It doesn’t last whole days."
	}
	rest := civil.Rest{First: first, Last: first, Name: name}
	if end, given := dateOf(event, ics.ComponentPropertyDtEnd); given {
		rest.Last = end.Add(-1) // DTEND is the first date after it (RFC 5545, 3.6.1)
		if rest.Last.Before(first) {
			rest.Last = first // some programs write the same date twice
		}
	} else if days := durationOf(event); days > 1 {
		rest.Last = first.Add(days - 1)
	}
	if days := rest.Last.Sub(first) + 1; days > civil.LongestRest {
		return nil, fmt.Sprintf("It lasts %d days; a rest has at most %d.", days, civil.LongestRest)
	}
	for _, odd := range []ics.ComponentProperty{ics.ComponentPropertyRdate, ics.ComponentPropertyExdate,
		ics.ComponentPropertyExrule, "RECURRENCE-ID"} {
		if event.HasProperty(odd) {
			return nil, "It repeats with exceptions; add its dates by hand."
		}
	}
	rules := event.GetProperties(ics.ComponentPropertyRrule)
	if len(rules) == 0 {
		return []civil.Rest{rest}, ""
	}
	if len(rules) > 1 {
		return nil, notYearly
	}
	return yearly(rest, rules[0].Value)
}

const notYearly = "It doesn’t repeat simply every year on the same date; add its dates by hand."

// yearly reads a recurrence rule: every year on the date of its first, perhaps with an
// end.
func yearly(rest civil.Rest, rule string) ([]civil.Rest, string) {
	years := 0 // without end
	for part := range strings.SplitSeq(strings.ToUpper(strings.TrimSpace(rule)), ";") {
		key, value, _ := strings.Cut(part, "=")
		n, _ := strconv.Atoi(value)
		switch key {
		case "FREQ":
			if value != "YEARLY" {
				return nil, notYearly
			}
		case "INTERVAL":
			if n != 1 {
				return nil, notYearly
			}
		case "BYMONTH":
			if value != rest.First.Format("1") && value != rest.First.Format("01") {
				return nil, notYearly
			}
		case "BYMONTHDAY":
			if value != rest.First.Format("2") && value != rest.First.Format("02") {
				return nil, notYearly
			}
		case "COUNT":
			if n < 1 {
				return nil, notYearly
			}
			years = min(n, mostRepeats)
		case "UNTIL":
			until, ok := readDate(value)
			if !ok {
				return nil, notYearly
			}
			for years = 1; years < mostRepeats && !rest.First.AddMonths(12*years).After(until); years++ {
			}
		case "WKST", "":
		default:
			return nil, notYearly
		}
	}
	if years == 0 {
		rest.Yearly = true
		return []civil.Rest{rest}, ""
	}
	var rests []civil.Rest
	for y := range years {
		again, days := rest, rest.Last.Sub(rest.First)
		again.First = rest.First.AddMonths(12 * y)
		again.Last = again.First.Add(days)
		rests = append(rests, again)
	}
	return rests, ""
}

// dateOf reads a property that is a date without a time of day.
func dateOf(event *ics.VEvent, name ics.ComponentProperty) (civil.Date, bool) {
	p := event.GetProperty(name)
	if p == nil || len(p.Value) != len("20060102") {
		return civil.Date{}, false
	}
	return readDate(p.Value)
}

// readDate reads the date that a date or a moment begins with.
func readDate(text string) (civil.Date, bool) {
	if len(text) < len("20060102") {
		return civil.Date{}, false
	}
	t, err := time.Parse("20060102", text[:8])
	if err != nil || t.Year() < 1900 || t.Year() > 2200 {
		return civil.Date{}, false
	}
	return civil.NewDate(t.Date()), true
}

// durationOf reads a duration of whole days or weeks; 0 for none.
func durationOf(event *ics.VEvent) int {
	p := event.GetProperty(ics.ComponentPropertyDuration)
	if p == nil {
		return 0
	}
	text, isDays := strings.CutSuffix(strings.TrimPrefix(p.Value, "P"), "D")
	weeks, isWeeks := strings.CutSuffix(text, "W")
	n, err := strconv.Atoi(weeks)
	switch {
	case err != nil || n < 0 || n > 10*civil.LongestRest:
		return 0
	case isWeeks && !isDays:
		return 7 * n
	case isDays && !isWeeks:
		return n
	}
	return 0
}
