package results_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/followers"
	"dapper.example/internal/core/results"
)

// poisson draws a number with a mean (Knuth, The Art of Computer Programming 2, 3.4.1).
func poisson(chance *rand.Rand, mean float64) int {
	limit, product, n := math.Exp(-mean), chance.Float64(), 0
	for product > limit {
		product *= chance.Float64()
		n++
	}
	return n
}

func drawn(chance *rand.Rand, mean float64, outings int) results.Tally {
	clicks := make([]int, outings)
	for i := range clicks {
		clicks[i] = poisson(chance, mean)
	}
	return results.Of(clicks...)
}

func TestARateLiesBetweenThePriorAndWhatWasSeen(t *testing.T) {
	prior := results.PriorOf([]results.Tally{results.Of(5, 5, 5, 5, 5, 5, 5, 5, 5)})
	none := prior.After(results.Tally{})
	assert.InDelta(t, 4.6, none.Median(), 0.15, "nothing known: the blog's own mean, (45 + 1) / (9 + 1), a little less by the median")
	some := prior.After(results.Of(20, 20))
	assert.Greater(t, some.Median(), none.Median())
	assert.Less(t, some.Median(), 20.0, "two outings are worth less than the ten of the prior")
	many := prior.After(drawn(rand.New(rand.NewPCG(1, 2)), 20, 400))
	assert.InDelta(t, 20, many.Median(), 1)
	low, high := many.Interval()
	wideLow, wideHigh := some.Interval()
	assert.Less(t, high-low, wideHigh-wideLow, "more outings make it surer")
}

// Gamma laws, by their definition: half of what is drawn from a law lies below its median, and as much as is said of one exceeds another.
func TestProbabilitiesAreThoseOfDraws(t *testing.T) {
	prior := results.PriorOf([]results.Tally{results.Of(3, 4, 5)})
	a, b := prior.After(results.Of(4, 5, 6, 7)), prior.After(results.Of(3, 3, 4))
	assert.InDelta(t, 1, a.Exceeds(b)+b.Exceeds(a), 1e-9)
	assert.InDelta(t, 0.5, a.Exceeds(a), 1e-9)
	assert.Greater(t, a.Exceeds(b), 0.5)
	median, low, high := a.Ratio(b)
	assert.True(t, low < median && median < high)
	back, _, _ := b.Ratio(a)
	assert.InDelta(t, 1, median*back, 1e-6)
}

func TestIntervalsAreInOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		tally := results.Of(rapid.SliceOfN(rapid.IntRange(0, 500), 0, 40).Draw(t, "clicks")...)
		prior := results.PriorOf([]results.Tally{results.Of(rapid.SliceOfN(rapid.IntRange(0, 50), 0, 40).Draw(t, "all")...)})
		r := prior.After(tally)
		low, high := r.Interval()
		require.True(t, 0 <= low && low <= r.Median() && r.Median() <= high && !math.IsInf(high, 0) && !math.IsNaN(high))
	})
}

// In a thousand worlds in which no wording is better, one is said to be in no more than one in twenty: with two wordings and
// with six, and where posts differ among themselves more than chance would have it.
func TestNoWinnerOfNoise(t *testing.T) {
	for _, wordings := range []int{2, 6} {
		for name, differ := range map[string]bool{"by chance alone": false, "posts differ": true} {
			chance := rand.New(rand.NewPCG(uint64(wordings), 7))
			false_ := 0
			const worlds = 1000
			for range worlds {
				tallies := make([]results.Tally, wordings)
				for i := range tallies {
					for range 20 {
						mean := 4.0
						if differ {
							mean *= math.Exp(0.7*chance.NormFloat64() - 0.245)
						}
						tallies[i] = tallies[i].Plus(results.Of(poisson(chance, mean)))
					}
				}
				if results.PriorOf(tallies).Compare(tallies).Sure {
					false_++
				}
			}
			assert.LessOrEqual(t, false_, worlds/20, "%d wordings, %s", wordings, name)
		}
	}
}

func TestABetterWordingIsFound(t *testing.T) {
	chance := rand.New(rand.NewPCG(3, 4))
	tallies := []results.Tally{drawn(chance, 4, 400), drawn(chance, 7, 400), drawn(chance, 4, 400)}
	c := results.PriorOf(tallies).Compare(tallies)
	assert.Equal(t, 1, c.Best)
	assert.True(t, c.Sure)
	assert.True(t, c.Low <= 1.75 && 1.75 <= c.High, "%.2f to %.2f", c.Low, c.High)
	name := func(i int) string { return fmt.Sprintf("wording %d", i+1) }
	assert.Contains(t, c.Sentence(name), "Wording 2 brings about 1.")
	assert.NotContains(t, c.Sentence(name), "not enough")
	few := []results.Tally{results.Of(4, 6), results.Of(7, 5)}
	assert.Contains(t, results.PriorOf(few).Compare(few).Sentence(name), "That is not enough to tell yet.")
	assert.Equal(t, "Nothing was shared yet.", results.PriorOf(nil).Compare(nil).Sentence(name))
	one := []results.Tally{results.Of(4)}
	assert.Equal(t, "There is only one to look at.", results.PriorOf(one).Compare(one).Sentence(name))
}

// What the simulated audience does is known: each further outing of a post has 0.78 times the clicks of the one before, and evenings are
// better than nights. The results find that.
func TestTheTruthOfTheSimulatedAudienceIsFound(t *testing.T) {
	halifax, err := time.LoadLocation("America/Halifax")
	require.NoError(t, err)
	var week results.Week
	var groups []results.Tally
	begun := time.Date(2026, 6, 1, 0, 0, 0, 0, halifax) // no clocks change before September
	const blogs = 20
	holds := 0
	for blog := range blogs {
		var byNth [4]results.Tally
		var here []results.Tally
		for post := range 120 {
			var group results.Tally
			for n := range byNth {
				// The n-th outings are at the same hours as the first, so that nothing but the wear tells them apart.
				at := begun.AddDate(0, 0, post%60+7*n).Add(time.Duration(post*5%24) * time.Hour)
				local := at.In(halifax)
				one := results.Of(len(followers.Said{Network: "lantern", Text: fmt.Sprintf("%d %d %d", blog, post, n), Nth: n + 1, At: at}.Clicks()))
				byNth[n], group = byNth[n].Plus(one), group.Plus(one)
				day, hour := (int(local.Weekday())+6)%7, local.Hour()
				week[day][hour] = week[day][hour].Plus(one)
			}
			here = append(here, group)
		}
		for _, w := range results.PriorOf(here).WearOf(byNth[:]) {
			if truth := math.Pow(0.78, float64(w.Nth-1)); w.Low <= truth && truth <= w.High {
				holds++
			}
		}
		groups = append(groups, here...)
	}
	assert.GreaterOrEqual(t, holds, blogs*3*8/10, "about nine of ten intervals hold the truth")
	prior := results.PriorOf(groups)
	hours := prior.Smooth(week)
	assert.Greater(t, hours[2][20].Median, 1.5*hours[2][4].Median, "Wednesday at eight in the evening, and at four in the morning")
	assert.False(t, hours[2][20].Thin)
	var empty results.Week
	assert.True(t, prior.Smooth(empty)[0][0].Thin)
}

// The simulated audience likes one wording better than another; by how much is within the stated intervals.
func TestTheTasteOfTheSimulatedAudienceIsFound(t *testing.T) {
	const blogs, outings = 30, 240
	begun := time.Date(2026, 6, 1, 0, 30, 0, 0, time.UTC)
	holds := 0
	for blog := range blogs {
		tallies, expected := make([]results.Tally, 2), [2]float64{}
		for i := range tallies {
			for n := range outings {
				said := followers.Said{Network: "hearth", Text: fmt.Sprintf("%d %d %d", blog, i, n), Wording: fmt.Sprintf("wording %d of blog %d", i, blog), Nth: 1,
					At: begun.Add(time.Duration(n) * 7 * time.Hour)}
				tallies[i] = tallies[i].Plus(results.Of(len(said.Clicks())))
				expected[i] += said.Expected()
			}
		}
		c := results.PriorOf(tallies).Compare(tallies)
		if truth := expected[c.Best] / expected[1-c.Best]; c.Low <= truth && truth <= c.High {
			holds++
		}
	}
	assert.GreaterOrEqual(t, holds, blogs*8/10, "about nine of ten intervals hold the truth")
}

func ExamplePrior_Compare() {
	tallies := []results.Tally{results.Of(4, 6, 5), results.Of(7, 5, 8)}
	c := results.PriorOf(tallies).Compare(tallies)
	fmt.Println(c.Best, c.Sure)
	// Output: 1 false
}

// Where little is known, the interval says so: it is not drawn towards the blog's usual.
func TestWearOfFewOutingsIsWide(t *testing.T) {
	chance := rand.New(rand.NewPCG(5, 6))
	holds := 0
	for range 40 {
		byNth := []results.Tally{drawn(chance, 6, 12), drawn(chance, 1.5, 5)}
		w := results.PriorOf(byNth).WearOf(byNth)[0]
		if w.Low <= 0.25 && 0.25 <= w.High {
			holds++
		}
	}
	assert.GreaterOrEqual(t, holds, 32)
}
