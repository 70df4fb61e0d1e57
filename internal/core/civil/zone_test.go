package civil_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
)

func TestUnknownZonesAreRefused(t *testing.T) {
	for _, name := range []string{"", "Local", "Mars/Olympus", "../etc/passwd"} {
		_, err := civil.LoadZone(name)
		assert.ErrorIs(t, err, civil.ErrUnknownZone, "%q", name)
	}
	z, err := civil.LoadZone("America/Halifax")
	require.NoError(t, err)
	assert.Equal(t, "America/Halifax", z.String())
	assert.Equal(t, "UTC", civil.Zone{}.String())
}

func TestAtAcrossClockChanges(t *testing.T) {
	for _, test := range []struct{ zone, date, at, want, why string }{
		{"America/Halifax", "2026-11-24", "09:40", "2026-11-24T13:40:00Z", "an ordinary winter day"},
		{"America/Halifax", "2026-07-01", "09:40", "2026-07-01T12:40:00Z", "an ordinary summer day"},
		{"America/Halifax", "2026-03-08", "01:59", "2026-03-08T05:59:00Z", "the last minute before the skip"},
		{"America/Halifax", "2026-03-08", "02:30", "2026-03-08T06:30:00Z", "skipped: moves on to 03:30"},
		{"America/Halifax", "2026-03-08", "03:00", "2026-03-08T06:00:00Z", "the first minute after the skip"},
		{"America/Halifax", "2026-11-01", "01:30", "2026-11-01T04:30:00Z", "occurs twice: the first"},
		{"America/Halifax", "2026-11-01", "02:00", "2026-11-01T06:00:00Z", "occurs once"},
		{"Europe/Lisbon", "2026-03-29", "01:30", "2026-03-29T01:30:00Z", "skipped: moves on to 02:30"},
		{"Europe/Lisbon", "2026-10-25", "01:15", "2026-10-25T00:15:00Z", "occurs twice: the first"},
		{"Australia/Lord_Howe", "2026-10-04", "02:15", "2026-10-03T15:45:00Z", "a skip of half an hour: on to 02:45"},
		{"Pacific/Apia", "2011-12-30", "10:00", "2011-12-30T20:00:00Z", "a whole day skipped"},
		{"America/Halifax", "2026-11-24", "26:30", "2026-11-25T06:30:00Z", "a time of the following day"},
	} {
		z := civil.MustZone(test.zone)
		got := z.At(civil.MustDate(test.date), civil.MustClock(test.at))
		assert.Equal(t, test.want, got.Format(time.RFC3339), test.why)
	}
}

func anyZone() *rapid.Generator[civil.Zone] {
	return rapid.Custom(func(t *rapid.T) civil.Zone {
		return civil.MustZone(rapid.SampledFrom([]string{"America/Halifax", "Europe/Lisbon", "Australia/Lord_Howe",
			"Asia/Kathmandu", "Pacific/Chatham", "America/St_Johns", "Africa/Casablanca", "Pacific/Apia", "UTC"}).Draw(t, "zone"))
	})
}

func anyDate() *rapid.Generator[civil.Date] {
	return rapid.Custom(func(t *rapid.T) civil.Date {
		return civil.MustDate("2020-01-01").Add(rapid.IntRange(0, 18*365).Draw(t, "days"))
	})
}

// Every civil time is shown by the clocks at its instant, or it was skipped and
// the clocks show a later time; and no earlier instant shows it.
func TestAtIsTheFirstInstantThatShowsIt(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		z, d := anyZone().Draw(t, "zone"), anyDate().Draw(t, "date")
		c := civil.Clock(rapid.IntRange(0, 1439).Draw(t, "clock"))
		at := z.At(d, c)
		day, shown := z.Local(at)
		if day != d || shown != c {
			require.Positive(t, day.Sub(d)*1440+int(shown-c), "a skipped time moves forward")
			return
		}
		for back := 1; back <= 180; back++ {
			day, shown := z.Local(at.Add(-time.Duration(back) * time.Minute))
			require.False(t, day == d && shown == c, "%s %s in %s was shown %d min earlier", d, c, z, back)
		}
	})
}

// A window holds each of its minutes once, if its clocks show it at all.
func TestWindowHoldsEachMinuteOnce(t *testing.T) {
	changes := []string{"2026-03-08", "2026-11-01", "2026-03-29", "2026-10-25", "2026-04-05", "2026-10-04"}
	rapid.Check(t, func(t *rapid.T) {
		z := anyZone().Draw(t, "zone")
		d := anyDate().Draw(t, "date")
		if rapid.Bool().Draw(t, "near a change") {
			d = civil.MustDate(rapid.SampledFrom(changes).Draw(t, "change")).Add(rapid.IntRange(-1, 1).Draw(t, "off"))
		}
		from := civil.Clock(rapid.IntRange(-60, 1439).Draw(t, "from"))
		to := from + civil.Clock(rapid.IntRange(1, 1500).Draw(t, "length"))

		want := make(map[time.Time]bool)
		for c := from; c < to; c++ {
			day, clock := d, c
			if c < 0 {
				day, clock = d.Add(-1), c+civil.Midnight
			}
			at := z.At(day, clock)
			if shownDay, shown := z.Local(at); shownDay.Sub(d)*1440+int(shown) == int(c) {
				want[at] = true
			}
		}
		got := make(map[time.Time]bool)
		for _, s := range z.Window(d, from, to) {
			require.True(t, s.From.Before(s.To))
			for at := s.From; at.Before(s.To); at = at.Add(time.Minute) {
				require.False(t, got[at], "%s is there twice", at)
				got[at] = true
			}
		}
		if len(want) > 0 {
			require.Equal(t, want, got)
		} else {
			require.Len(t, got, int(to-from), "a window skipped whole moves forward")
		}
	})
}

func TestEmptyWindows(t *testing.T) {
	z := civil.MustZone("Europe/Lisbon")
	assert.Empty(t, z.Window(civil.MustDate("2026-11-24"), 600, 600))
	assert.Empty(t, z.Window(civil.MustDate("2026-11-24"), 600, 540))
}

func TestClockChange(t *testing.T) {
	clock := civil.MustClock
	for _, c := range []struct {
		zone, date string
		want       civil.ClockChange
		ok         bool
	}{
		{"America/Halifax", "2026-11-01", civil.ClockChange{From: clock("01:00"), To: clock("02:00"), Back: true},
			true},
		{"America/Halifax", "2027-03-14", civil.ClockChange{From: clock("02:00"), To: clock("03:00")}, true},
		{"America/Halifax", "2026-11-02", civil.ClockChange{}, false},
		{"Australia/Lord_Howe", "2026-10-04", civil.ClockChange{From: clock("02:00"), To: clock("02:30")}, true},
		{"UTC", "2026-10-04", civil.ClockChange{}, false},
	} {
		got, ok := civil.MustZone(c.zone).ClockChange(civil.MustDate(c.date))
		assert.Equal(t, c.ok, ok, c.zone+c.date)
		assert.Equal(t, c.want, got, c.zone+c.date)
	}
	zone, date := civil.MustZone("America/Halifax"), civil.MustDate("2026-11-01")
	first := zone.At(date, clock("01:30"))
	assert.False(t, zone.Again(first))
	assert.True(t, zone.Again(first.Add(time.Hour)))
	assert.False(t, zone.Again(first.Add(2*time.Hour)))
	assert.False(t, zone.Again(zone.At(civil.MustDate("2027-03-14"), clock("02:30"))))
}

func TestChangesOfClocks(t *testing.T) {
	halifax, err := civil.LoadZone("America/Halifax")
	require.NoError(t, err)
	at := func(text string) time.Time {
		moment, err := time.Parse(time.RFC3339, text)
		require.NoError(t, err)
		return moment
	}
	spring, autumn := at("2026-03-08T06:00:00Z"), at("2026-11-01T05:00:00Z")
	assert.Equal(t, []time.Time{spring, autumn}, halifax.Changes(at("2026-01-01T00:00:00Z"), at("2027-01-01T00:00:00Z")))
	assert.Equal(t, []time.Time{autumn}, halifax.Changes(spring, at("2027-01-01T00:00:00Z")), "not the one that it begins with")
	assert.Empty(t, halifax.Changes(at("2026-06-01T00:00:00Z"), autumn), "nor the one that it ends with")
	assert.Empty(t, civil.Zone{}.Changes(at("1900-01-01T00:00:00Z"), at("2100-01-01T00:00:00Z")))
	assert.Equal(t, -3*time.Hour, halifax.Offset(spring))
	assert.Equal(t, -4*time.Hour, halifax.Offset(autumn))
}
