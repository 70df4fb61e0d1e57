package calendar_test

import (
	"fmt"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/calendar"
	"dapper.example/internal/store"
)

var noon = time.Date(2026, 11, 24, 16, 0, 0, 0, time.UTC)

func feed(entries ...store.CalendarEntry) calendar.Feed {
	return calendar.Feed{Site: store.Site{Slug: "dome", LastingName: "dome", ZoneName: "America/Halifax"}, Name: "Notes; from, the Dome",
		Public: "https://dome.example:8443", Entries: entries}
}

func entry(id int64, title string) store.CalendarEntry {
	return store.CalendarEntry{ID: id, Title: title, Slug: "a-post", Author: "Ines Abara", Category: "Sky Guide",
		State: store.CalendarScheduled, At: noon, UpdatedAt: noon.Add(-time.Hour), Version: 7}
}

func parsed(t *testing.T, text string) []*ics.VEvent {
	t.Helper()
	c, err := ics.ParseCalendar(strings.NewReader(text))
	require.NoError(t, err)
	return c.Events()
}

func value(e *ics.VEvent, p ics.ComponentProperty) string {
	if found := e.GetProperty(p); found != nil {
		return found.Value
	}
	return ""
}

func TestAFeedSaysWhatStandsInThePlan(t *testing.T) {
	out, gone := entry(2, "Out"), entry(3, "Gone")
	out.State, gone.State = store.CalendarOut, store.CalendarCancelled
	out.Excerpt = "A beginning.\nAnd more; much, more \\ of it"
	text := feed(entry(1, "Comets, and how; to greet them"), out, gone).Text()
	events := parsed(t, text)
	require.Len(t, events, 3)
	assert.Equal(t, "post-1@dome.dome.example", events[0].Id())
	assert.Equal(t, "20261124T160000Z", value(events[0], ics.ComponentPropertyDtStart))
	assert.Equal(t, "20261124T161500Z", value(events[0], ics.ComponentPropertyDtEnd))
	assert.Equal(t, "20261124T150000Z", value(events[0], ics.ComponentPropertyDtstamp))
	assert.Equal(t, "7", value(events[0], ics.ComponentPropertySequence))
	assert.Equal(t, "CONFIRMED", value(events[0], ics.ComponentPropertyStatus))
	assert.Equal(t, "https://dome.example:8443/dome?post=1", value(events[0], ics.ComponentPropertyUrl))
	assert.Equal(t, "https://dome.example:8443/blog/dome/a-post", value(events[1], ics.ComponentPropertyUrl))
	assert.Equal(t, "CANCELLED", value(events[2], ics.ComponentPropertyStatus))
	assert.Contains(t, value(events[1], ics.ComponentPropertyDescription), "And more; much, more \\ of it")
}

// The rules of RFC 5545 that calendar programs trip over.
func TestAFeedKeepsTheRulesOfItsForm(t *testing.T) {
	long := entry(1, strings.Repeat("Sternennächte über dem Hügel 🌌, ", 12))
	text := feed(long, entry(2, "BEGIN:VEVENT\r\nSUMMARY:forged")).Text()
	assert.True(t, strings.HasPrefix(text, "BEGIN:VCALENDAR\r\n"))
	assert.True(t, strings.HasSuffix(text, "END:VCALENDAR\r\n"))
	lines := strings.Split(strings.TrimSuffix(text, "\r\n"), "\r\n")
	names := map[string]int{}
	for _, line := range lines {
		assert.LessOrEqual(t, len(line), 75, "section 3.1: %s", line)
		assert.NotContains(t, line, "\n", "lines end with CRLF")
		assert.True(t, utf8.ValidString(line), "no character is cut: %q", line)
		name, _, _ := strings.Cut(line, ":")
		name, _, _ = strings.Cut(name, ";")
		names[name]++
	}
	for _, once := range []string{"VERSION", "PRODID", "METHOD", "CALSCALE"} {
		assert.Equal(t, 1, names[once], "section 3.6: %s", once)
	}
	for _, each := range []string{"UID", "DTSTAMP", "DTSTART", "SEQUENCE", "STATUS"} {
		assert.Equal(t, 2, names[each], "section 3.6.1: %s", each)
	}
	events := parsed(t, text)
	require.Len(t, events, 2, "a title forges no event")
	assert.Equal(t, strings.TrimRight(long.Title, " "), strings.TrimRight(value(events[0],
		ics.ComponentPropertySummary), " "))
}

// Characters that a text value has no way to write would end its line for some readers.
func TestControlCharactersStayOut(t *testing.T) {
	e := entry(1, "A\rBEGIN:VEVENT\r\nB\x00C\x1b\x7fD\tE")
	e.Category, e.Excerpt = "Sky\rGuide", "one\rtwo\x0bthree"
	text := feed(e).Text()
	for _, r := range strings.ReplaceAll(text, "\r\n", "") {
		assert.False(t, r < ' ' && r != '\t' || r == 0x7f, "%q in %q", r, text)
	}
	assert.Len(t, parsed(t, text), 1)
}

func TestAnEmptyFeedIsACalendarToo(t *testing.T) {
	assert.Empty(t, parsed(t, feed().Text()))
}

func TestUIDsAreThePostsOwn(t *testing.T) {
	seen := map[string]bool{}
	var all []store.CalendarEntry
	for i := range int64(50) {
		all = append(all, entry(i, fmt.Sprint("Post ", i)))
	}
	for _, e := range parsed(t, feed(all...).Text()) {
		assert.False(t, seen[e.Id()], e.Id())
		seen[e.Id()] = true
	}
	moved := entry(3, "Another title")
	moved.At, moved.Version = noon.Add(time.Hour), 8
	assert.Equal(t, "post-3@dome.dome.example", parsed(t, feed(moved).Text())[0].Id())
}
