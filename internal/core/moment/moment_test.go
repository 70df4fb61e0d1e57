package moment_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/moment"
)

var (
	halifax = civil.MustZone("America/Halifax")
	noon    = halifax.At(civil.MustDate("2026-11-24"), civil.MustClock("12:00"))
)

func TestDatesAndTimesAsPeopleWriteThem(t *testing.T) {
	for said, want := range map[string]string{
		"2026-12-04 09:40":       "2026-12-04 09:40",
		"2026-12-04T09:40":       "2026-12-04 09:40",
		"Fri 4 Dec, 09:40":       "2026-12-04 09:40",
		"4 Dec 9:40":             "2026-12-04 09:40",
		"4 December 2027 9.40":   "2027-12-04 09:40",
		"4.12.2026 17:05":        "2026-12-04 17:05",
		"4/12 5:05 pm":           "2026-12-04 17:05",
		"3 Mar 08:00":            "2027-03-03 08:00", // this year's is gone
		"24 Nov 11:00":           "2026-11-24 11:00", // today, though it has passed
		"29 Feb 08:00":           "2028-02-29 08:00", // the next year that has one
		"Dec 4 2026 9:40":        "2026-12-04 09:40",
		"8 Mar 2026, 02:30":      "2026-03-08 03:30", // the clock change skips it
		"tomorrow":               "",
		"9:40":                   "",
		"4 Dec":                  "",
		"31 Feb 2027 9:40":       "",
		"4 Dec 9:75":             "",
		"1 Jan 9999 9:40":        "",
		"":                       "",
		strings.Repeat("4 ", 80): "",
	} {
		at, ok := moment.Read(said, halifax, noon)
		assert.Equal(t, want != "", ok, said)
		if ok {
			assert.Equal(t, want, halifax.In(at).Format("2006-01-02 15:04"), said)
		}
	}
}

func TestWhatProgramsWriteAndDaysAlone(t *testing.T) {
	t.Parallel()
	for said, want := range map[string]string{
		"2026-12-04T09:40:00-04:00":        "2026-12-04 09:40:00",
		"2026-12-04T13:40:05Z":             "2026-12-04 09:40:05",
		"2026-12-04T09:40:05":              "2026-12-04 09:40:05", // by the site's clocks
		"2026-12-04 09:40:05":              "2026-12-04 09:40:05",
		"2026-12-04 13:40:00 +0000 UTC":    "2026-12-04 09:40:00",
		"Fri, 04 Dec 2026 13:40:00 GMT":    "2026-12-04 09:40:00",
		"Fri, 4 Dec 2026 14:40:00 +0100":   "2026-12-04 09:40:00",
		" 2026-12-04 ":                     "2026-12-04 09:00:00",
		"Fri 4 Dec":                        "2026-12-04 09:00:00",
		"4 December 2026":                  "2026-12-04 09:00:00",
		"4.12.2026":                        "2026-12-04 09:00:00",
		"December 4, 2026":                 "2026-12-04 09:00:00",
		"4 Dec 9.40":                       "2026-12-04 09:40:00",
		"Fri, 04 Dec 2026 09:40:00 XQT":    "", // nobody knows which zone that is
		"soon":                             "",
		"2026-13-04":                       "",
		"0001-01-01T00:00:00Z":             "",
		"":                                 "",
		strings.Repeat("2026-12-04 ", 900): "",
	} {
		at, ok := moment.ReadAny(said, halifax, noon, civil.MustClock("09:00"))
		assert.Equal(t, want != "", ok, said)
		if ok {
			assert.Equal(t, want, halifax.In(at).Format("2006-01-02 15:04:05"), said)
		}
	}
}
