package civil_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
)

func TestRests(t *testing.T) {
	date := civil.MustDate
	holidays := civil.Rest{First: date("2025-12-24"), Last: date("2026-01-02"), Yearly: true, Name: "Winter"}
	leap := civil.Rest{First: date("2024-02-29"), Last: date("2024-02-29"), Yearly: true}
	summer := civil.Rest{First: date("2026-08-01"), Last: date("2026-08-14")}
	for _, c := range []struct {
		rest civil.Rest
		date string
		want bool
	}{
		{summer, "2026-07-31", false}, {summer, "2026-08-01", true}, {summer, "2026-08-14", true}, {summer,
			"2026-08-15", false}, {summer, "2027-08-02", false},
		{holidays, "2025-12-23", false}, {holidays, "2025-12-31", true}, {holidays, "2026-01-02", true}, {holidays,
			"2026-01-03", false},
		{holidays, "2030-12-24", true}, {holidays, "2031-01-02", true}, {holidays, "2024-12-25", false}, {holidays,
			"2025-01-01", false},
		{leap, "2028-02-29", true}, {leap, "2027-02-28", true}, {leap, "2028-02-28", false},
	} {
		assert.Equal(t, c.want, civil.Rests{c.rest}.Has(date(c.date)), "%v on %s", c.rest, c.date)
	}
	rest, ok := civil.Rests{summer, holidays}.On(date("2027-12-25"))
	assert.True(t, ok)
	assert.Equal(t, "Winter", rest.Name)
	assert.False(t, civil.Rests(nil).Has(date("2026-01-01")))
}

// Within lists exactly the dates that rest, one by one.
func TestRestsWithin(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var rests civil.Rests
		day := rapid.Custom(func(t *rapid.T) civil.Date {
			return civil.MustDate("2024-01-01").Add(rapid.IntRange(0, 1500).Draw(t, "day"))
		})
		for range rapid.IntRange(0, 4).Draw(t, "n") {
			first := day.Draw(t, "first")
			rests = append(rests, civil.Rest{First: first, Last: first.Add(rapid.IntRange(0,
				civil.LongestRest-1).Draw(t, "more")), Yearly: rapid.Bool().Draw(t, "yearly")})
		}
		from := day.Draw(t, "from")
		to := from.Add(rapid.IntRange(0, 900).Draw(t, "span"))
		var want []civil.Date
		for d := from; !d.After(to); d = d.Add(1) {
			if rests.Has(d) {
				want = append(want, d)
			}
		}
		require.Equal(t, want, rests.Within(from, to))
	})
}
