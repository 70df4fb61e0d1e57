package formats_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/formats"
	"dapper.example/internal/limited"
)

// calendarOf is a calendar file of events, each given by its lines.
func calendarOf(events ...string) []byte {
	var b strings.Builder
	b.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//example//test//EN\r\n")
	for _, e := range events {
		b.WriteString("BEGIN:VEVENT\r\nUID:u\r\n" + strings.ReplaceAll(e, "\n", "\r\n") + "\r\nEND:VEVENT\r\n")
	}
	b.WriteString("END:VCALENDAR\r\n")
	return []byte(b.String())
}

func TestReadingRests(t *testing.T) {
	date := civil.MustDate
	for name, c := range map[string]struct {
		event string
		want  civil.Rests
		left  string
	}{
		"a day": {event: "SUMMARY:Founders' day\nDTSTART;VALUE=DATE:20261224",
			want: civil.Rests{{First: date("2026-12-24"), Last: date("2026-12-24"), Name: "Founders' day"}}},
		"a range": {event: "SUMMARY:Summer\nDTSTART;VALUE=DATE:20260801\nDTEND;VALUE=DATE:20260815",
			want: civil.Rests{{First: date("2026-08-01"), Last: date("2026-08-14"), Name: "Summer"}}},
		"the same date twice": {event: "DTSTART;VALUE=DATE:20260801\nDTEND;VALUE=DATE:20260801",
			want: civil.Rests{{First: date("2026-08-01"), Last: date("2026-08-01"), Name: "Without a name"}}},
		"a duration": {event: "SUMMARY:Two weeks\nDTSTART;VALUE=DATE:20260801\nDURATION:P2W",
			want: civil.Rests{{First: date("2026-08-01"), Last: date("2026-08-14"), Name: "Two weeks"}}},
		"yearly": {event: "SUMMARY:New Year\nDTSTART;VALUE=DATE:20200101\nRRULE:FREQ=YEARLY;BYMONTH=1;BYMONTHDAY=1", want: civil.Rests{{First: date("2020-01-01"), Last: date("2020-01-01"), Yearly: true, Name: "New Year"}}},
		"thrice": {event: "SUMMARY:X\nDTSTART;VALUE=DATE:20240229\nRRULE:FREQ=YEARLY;COUNT=3",
			want: civil.Rests{{First: date("2024-02-29"), Last: date("2024-02-29"), Name: "X"},
				{First: date("2025-02-28"), Last: date("2025-02-28"), Name: "X"}, {First: date("2026-02-28"),
					Last: date("2026-02-28"), Name: "X"}}},
		"until": {event: "SUMMARY:X\nDTSTART;VALUE=DATE:20240101\nRRULE:FREQ=YEARLY;UNTIL=20250601T000000Z", want: civil.Rests{{First: date("2024-01-01"), Last: date("2024-01-01"), Name: "X"}, {First: date("2025-01-01"), Last: date("2025-01-01"), Name: "X"}}},
		"with a time": {event: "SUMMARY:Meeting\nDTSTART;TZID=Nowhere/Land:20261224T100000",
			left: "It doesn’t last whole days."},
		"no start": {event: "SUMMARY:Meeting", left: "It doesn’t last whole days."},
		"every Monday": {event: "SUMMARY:X\nDTSTART;VALUE=DATE:20261207\nRRULE:FREQ=WEEKLY",
			left: "It doesn’t repeat simply every year on the same date; add its dates by hand."},
		"every second":    {event: "SUMMARY:X\nDTSTART;VALUE=DATE:20261207\nRRULE:FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=30", left: "It doesn’t repeat simply every year on the same date; add its dates by hand."},
		"a moving feast":  {event: "SUMMARY:X\nDTSTART;VALUE=DATE:20261126\nRRULE:FREQ=YEARLY;BYMONTH=11;BYDAY=4TH", left: "It doesn’t repeat simply every year on the same date; add its dates by hand."},
		"with exceptions": {event: "SUMMARY:X\nDTSTART;VALUE=DATE:20261126\nRRULE:FREQ=YEARLY\nEXDATE;VALUE=DATE:20271126", left: "It repeats with exceptions; add its dates by hand."},
		"two years": {event: "SUMMARY:X\nDTSTART;VALUE=DATE:20260101\nDTEND;VALUE=DATE:20280101",
			left: "It lasts 730 days; a rest has at most 366."},
		"no such date": {event: "SUMMARY:X\nDTSTART;VALUE=DATE:20260230", left: "It doesn’t last whole days."},
	} {
		t.Run(name, func(t *testing.T) {
			got, err := formats.ReadRests(calendarOf(c.event))
			require.NoError(t, err)
			assert.Equal(t, c.want, got.Found)
			if c.left != "" {
				require.Len(t, got.Left, 1)
				assert.Equal(t, c.left, got.Left[0].Why)
			}
		})
	}
	// A file says the same day twice.
	got, err := formats.ReadRests(calendarOf("SUMMARY:A\nDTSTART;VALUE=DATE:20261224",
		"SUMMARY:A\nDTSTART;VALUE=DATE:20261224"))
	require.NoError(t, err)
	assert.Len(t, got.Found, 1)
}

func TestHostileCalendars(t *testing.T) {
	for name, file := range map[string][]byte{
		"nothing":     nil,
		"a web page":  []byte("<html><body>BEGIN</body></html>"),
		"not text":    append([]byte("BEGIN:VCALENDAR\r\n"), 0xff, 0xfe),
		"cut off":     []byte("BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART;VALUE=DATE:2026"),
		"20 MB":       bytes.Repeat([]byte("X"), 20<<20),
		"a deep well": append([]byte("BEGIN:VCALENDAR\r\n"), bytes.Repeat([]byte("BEGIN:VEVENT\r\n"), 100_000)...),
		"a folded well": append([]byte("BEGIN:VCALENDAR\r\n"), bytes.Repeat([]byte("BEG\r\n IN:VEVENT\r\n"),
			100_000)...),
		"one long line": calendarOf("SUMMARY:X\nDTSTART" + strings.Repeat(";X=1", 200_000) + ":20261224"),
		"many folds":    calendarOf("SUMMARY:" + strings.Repeat("a\r\n ", 300_000)),
		"many events":   calendarOf(strings.Split(strings.Repeat("DTSTART;VALUE=DATE:20261224|", 5001), "|")...),
	} {
		_, err := formats.ReadRests(file)
		require.Error(t, err, name)
		assert.Regexp(t, `^[A-Z].*\.$`, err.Error(), name)
	}
	// What has no end is not laid out; what has one, not for ever.
	got, err := formats.ReadRests(calendarOf("SUMMARY:X\nDTSTART;VALUE=DATE:20260101\nRRULE:FREQ=YEARLY;COUNT=999999999"))
	require.NoError(t, err)
	assert.Len(t, got.Found, 50)
	got, err = formats.ReadRests(calendarOf("SUMMARY:" + strings.Repeat("long ", 100) +
		"\nDTSTART;VALUE=DATE:20260101"))
	require.NoError(t, err)
	assert.LessOrEqual(t, len([]rune(got.Found[0].Name)), 200)
}

func FuzzRests(f *testing.F) {
	f.Add(string(calendarOf("SUMMARY:New Year\nDTSTART;VALUE=DATE:20200101\nRRULE:FREQ=YEARLY;BYMONTH=1")))
	f.Add(string(calendarOf("SUMMARY:X\nDTSTART" + strings.Repeat(";X=1", 3000) + ":20261224")))
	f.Add(string(calendarOf("DTSTART;VALUE=DATE:20260101\nDTEND;VALUE=DATE:20270101", "DTSTART;VALUE=DATE:99991231",
		"DTSTART;VALUE=DATE:00010101\nRRULE:FREQ=YEARLY;COUNT=999999999")))
	f.Fuzz(func(t *testing.T, text string) {
		var got formats.Rests
		var err error
		limited.Work(t, 200, func() { got, err = formats.ReadRests([]byte(text)) })
		if err != nil {
			return
		}
		for _, r := range got.Found {
			require.False(t, r.Last.Before(r.First))
			require.Less(t, r.Last.Sub(r.First), civil.LongestRest)
		}
	})
}
