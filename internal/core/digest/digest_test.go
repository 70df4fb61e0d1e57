package digest_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/digest"
)

var halifax = civil.MustZone("America/Halifax")

func at(date, clock string) time.Time {
	return halifax.At(civil.MustDate(date), civil.MustClock(clock))
}

func TestWhenADigestIsDue(t *testing.T) {
	t.Parallel()
	daily := digest.Wish{Every: digest.Day, At: civil.MustClock("07:30"), Zone: halifax}
	weekly := digest.Wish{Every: digest.Week, Weekday: time.Monday, At: civil.MustClock("07:30"), Zone: halifax}
	monthly := digest.Wish{Every: digest.Month, At: civil.MustClock("07:30"), Zone: halifax}
	skipped := digest.Wish{Every: digest.Day, At: civil.MustClock("02:30"), Zone: halifax}
	for _, c := range []struct {
		wish        digest.Wish
		after, want time.Time
	}{
		{daily, at("2026-11-24", "07:29"), at("2026-11-24", "07:30")},
		{daily, at("2026-11-24", "07:30"), at("2026-11-25", "07:30")},
		{daily, at("2026-12-31", "12:00"), at("2027-01-01", "07:30")},
		{weekly, at("2026-11-24", "00:00"), at("2026-11-30", "07:30")}, // a Tuesday
		{weekly, at("2026-11-30", "07:30"), at("2026-12-07", "07:30")},
		{monthly, at("2026-11-01", "07:29"), at("2026-11-01", "07:30")},
		{monthly, at("2026-11-01", "07:30"), at("2026-12-01", "07:30")},
		{monthly, at("2026-12-05", "00:00"), at("2027-01-01", "07:30")},
		{skipped, at("2026-03-07", "12:00"), at("2026-03-08", "03:30")}, // clocks go forward
		{skipped, at("2026-03-08", "03:30"), at("2026-03-09", "02:30")},
		{digest.Wish{Every: digest.Day, At: civil.MustClock("01:30"), Zone: halifax}, at("2026-11-01", "01:30"), at("2026-11-02", "01:30")}, // it comes twice
	} {
		assert.Equal(t, c.want.UTC(), c.wish.Next(c.after).UTC(), "after %s", c.after)
	}
}

// However one goes on, there is one a day, or a week, and none is left out.
func TestDigestsAreADayOrAWeekApart(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := digest.Wish{Every: rapid.SampledFrom([]digest.Every{digest.Day, digest.Week}).Draw(t, "every"), Weekday: time.Weekday(rapid.IntRange(0, 6).Draw(t, "weekday")),
			At: civil.Clock(rapid.IntRange(0, 1439).Draw(t, "at")), Zone: civil.MustZone(rapid.SampledFrom([]string{"America/Halifax", "Europe/Lisbon", "Australia/Lord_Howe", "Pacific/Apia"}).Draw(t, "zone"))}
		after := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(rapid.IntRange(0, 600*24*60).Draw(t, "after")) * time.Minute)
		one := w.Next(after)
		require.True(t, one.After(after))
		apart := w.Next(one).Sub(one)
		require.InDelta(t, w.Ahead().Hours(), apart.Hours(), 1.01)
	})
}

func TestWhatIsWrongWithAWish(t *testing.T) {
	t.Parallel()
	good := digest.Wish{Every: digest.Day, At: 450, Zone: halifax, Parts: []digest.Part{digest.Held}}
	assert.Empty(t, good.Problems())
	for field, spoil := range map[string]func(*digest.Wish){
		"every":   func(w *digest.Wish) { w.Every = "hour" },
		"weekday": func(w *digest.Wish) { w.Weekday = 7 },
		"at":      func(w *digest.Wish) { w.At = 1440 },
		"parts":   func(w *digest.Wish) { w.Parts = []digest.Part{digest.Held, digest.Held} },
	} {
		w := good
		spoil(&w)
		require.Len(t, w.Problems(), 1, field)
		assert.Equal(t, field, w.Problems()[0].Path)
	}
	assert.Len(t, digest.Wish{Every: digest.Day, Zone: halifax}.Problems(), 1, "nothing to be told of")
}

func TestHowADigestReads(t *testing.T) {
	t.Parallel()
	var many []digest.Line
	for i := range 23 {
		many = append(many, digest.Line{Text: fmt.Sprint("Thing ", i)})
	}
	coming, ok := digest.Cut(digest.Coming, many)
	require.True(t, ok)
	_, ok = digest.Cut(digest.Runs, nil)
	require.False(t, ok)
	d := digest.Digest{Blog: "Notes from\nthe Dome", Name: "Ines", Every: digest.Day, Home: "https://dome.example/q", Change: "https://dome.example/q/account", End: "https://dome.example/mails#x",
		Sections: []digest.Section{{Part: digest.Held, Lines: []digest.Line{{Text: "“<b>Owls</b>”\r\nBcc: all", More: "It is overdue.", Link: "https://dome.example/q/overdue?a=1&b=2"}}}, coming}}
	m := d.Mail()
	assert.Equal(t, "Notes from the Dome: 1 to decide, 23 coming up", m.Subject)
	assert.True(t, strings.HasPrefix(m.Text, "Hello Ines,\n\nNeeds your decision\n-------------------\n- “<b>Owls</b>” Bcc: all\n  It is overdue.\n  https://dome.example/q/overdue?a=1&b=2\n\nComing up\n---------\n- Thing 0\n"), m.Text)
	assert.Contains(t, m.Text, "- Thing 19\n- and 3 more\n\nThe plan: https://dome.example/q\n\n-- \nYou get this mail every day, since you asked for it on “Notes from the Dome”.\nChange it: https://dome.example/q/account\nUnsubscribe: https://dome.example/mails#x\n")
	assert.Contains(t, m.HTML, `<a href="https://dome.example/q/overdue?a=1&amp;b=2" style="color: #16202a">“&lt;b&gt;Owls&lt;/b&gt;” Bcc: all</a>`)
	assert.NotContains(t, m.HTML, "<b>")
	assert.Equal(t, "Notes from the Dome: the last week", digest.Digest{Blog: "Notes from the Dome", Every: digest.Week, Sections: []digest.Section{{Part: digest.Runs}}}.Mail().Subject)
}

func TestTheMonthThatHasEnded(t *testing.T) {
	t.Parallel()
	w := digest.Wish{Every: digest.Day, Zone: halifax}
	for _, c := range []struct {
		after, at time.Time
		month     string // "" for none
	}{
		{at("2026-10-31", "07:30"), at("2026-11-01", "07:30"), "2026-10-01"},
		{at("2026-11-01", "07:30"), at("2026-11-02", "07:30"), ""},
		{at("2026-12-31", "23:59"), at("2027-01-01", "00:00"), "2026-12-01"},
		{at("2027-01-01", "00:00"), at("2027-01-01", "07:30"), ""},
		{at("2026-07-20", "07:30"), at("2026-11-20", "07:30"), "2026-10-01"},
	} {
		month, ok := w.Ended(c.after, c.at)
		assert.Equal(t, c.month != "", ok, "from %s to %s", c.after, c.at)
		if ok {
			assert.Equal(t, c.month, month.String())
		}
	}
}
