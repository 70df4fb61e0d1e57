package results_test

import (
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/results"
)

// weekOf draws a week in which each hour of the day had n outings, with a mean of clicks for each hour.
func weekOf(chance *rand.Rand, n int, mean func(day, hour int) float64) (w results.Week, prior results.Prior) {
	var all []results.Tally
	for d := range 7 {
		for h := range 24 {
			w[d][h] = drawn(chance, mean(d, h), n)
			all = append(all, w[d][h])
		}
	}
	return w, results.PriorOf(all)
}

func TestBestHoursAreThoseThatAreBetter(t *testing.T) {
	w, prior := weekOf(rand.New(rand.NewPCG(1, 2)), 20, func(day, hour int) float64 {
		if day < 5 && hour >= 18 && hour < 21 {
			return 12
		}
		return 3
	})
	best := prior.BestHours(w)
	require.NotEmpty(t, best)
	assert.True(t, best[0].Sure)
	assert.Equal(t, [7]bool{true, true, true, true, true, false, false}, best[0].Days)
	assert.Equal(t, 18, best[0].From)
	assert.Equal(t, 21, best[0].To)
	assert.Equal(t, 5*3*20, best[0].Outings)
	assert.Greater(t, best[0].Times, 2.0)
	for i, b := range best {
		for _, other := range best[:i] {
			for d := range 7 {
				assert.False(t, b.Days[d] && other.Days[d] && b.From < other.To && other.From < b.To, "none lies over another: %+v, %+v", b, other)
			}
		}
	}
}

func TestBestHoursOfLittle(t *testing.T) {
	var none results.Week
	assert.Empty(t, results.PriorOf(nil).BestHours(none), "of nothing none is named")
	var few results.Week
	few[0][12] = results.Of(9, 7, 11, 8)
	few[3][9] = results.Of(1, 0, 2, 1)
	best := results.PriorOf([]results.Tally{few[0][12], few[3][9]}).BestHours(few)
	require.NotEmpty(t, best)
	assert.True(t, best[0].Days[0] && best[0].From <= 12 && 12 < best[0].To)
	assert.False(t, best[0].Sure, "four outings are no proof")
}

// Where no hour is better, one is surely called better in no more than one world of twenty.
func TestNoBestHourOfNoise(t *testing.T) {
	chance := rand.New(rand.NewPCG(9, 9))
	const worlds = 300
	said := 0
	for range worlds {
		w, prior := weekOf(chance, 4, func(int, int) float64 { return 5 })
		if best := prior.BestHours(w); len(best) > 0 && best[0].Sure {
			said++
		}
	}
	assert.LessOrEqual(t, said, worlds/20)
}

func TestHoursOfAWeek(t *testing.T) {
	one := results.Of(3)
	for name, c := range map[string]struct {
		at        string // as clocks show it
		day, hour int
	}{
		"the first":     {"1970-01-01T00:59:00Z", 3, 0},
		"Sunday's last": {"2026-11-29T23:59:00Z", 6, 23},
		"Monday's":      {"2026-11-30T00:00:00Z", 0, 0},
		"before 1970":   {"1969-12-31T23:00:00Z", 2, 23},
	} {
		at, err := time.Parse(time.RFC3339, c.at)
		require.NoError(t, err)
		var w results.Week
		w.Add(int(math.Floor(float64(at.Unix())/3600)), one)
		assert.Equal(t, one, w[c.day][c.hour], name)
	}
}
