package spread_test

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/spread"
)

func placedIn(t require.TestingT, req spread.Request, result spread.Result) (total int) {
	var all []int
	for i, times := range result.Times {
		for _, m := range times {
			require.True(t, slices.ContainsFunc(req.Demands[i].Stretches,
				func(s spread.Stretch) bool { return s.From <= m && m < s.To }))
		}
		all = append(all, times...)
	}
	slices.Sort(all)
	for i := 1; i < len(all); i++ {
		require.GreaterOrEqual(t, all[i]-all[i-1], req.Gap)
	}
	return len(all)
}

func around(at, sway int) spread.Demand {
	return spread.Demand{Stretches: []spread.Stretch{{From: at - sway, To: at + sway + 1}}, N: 1}
}

// Fourteen fixed times an hour apart that sway by 28 minutes, with a gap of 57: all fit.
func TestACrowdedDayOfFixedTimes(t *testing.T) {
	req := spread.Request{Gap: 57}
	for i := range 14 {
		req.Demands = append(req.Demands, around(480+57*i, 28))
	}
	for seed := range uint64(28) {
		result := spread.Draw(req, source(seed))
		require.Equal(t, 14, placedIn(t, req, result), "seed %d", seed)
		require.False(t, result.Near)
	}
}

// Eighty posts over the day beside two hours that are full with twelve each.
func TestADayWithTwoFullHours(t *testing.T) {
	req := spread.Request{Gap: 5, Demands: []spread.Demand{
		{Stretches: []spread.Stretch{{From: 0, To: 1440}}, N: 80},
		{Stretches: []spread.Stretch{{From: 480, To: 540}}, N: 12},
		{Stretches: []spread.Stretch{{From: 1020, To: 1080}}, N: 12},
	}}
	for seed := range uint64(5) {
		result := spread.Draw(req, source(seed))
		require.Equal(t, 104, placedIn(t, req, result))
		require.False(t, result.Near)
	}
}

// Where windows overlap too much for one table, all that fits is placed all the same, the
// result says so, and times differ from seed to seed over the whole day.
func TestWindowsThatOverlapTooMuch(t *testing.T) {
	req := spread.Request{Gap: 12}
	for i := range 12 {
		req.Demands = append(req.Demands, spread.Demand{Stretches: []spread.Stretch{{From: 10 * i, To: 1300 + 10*i}},
			N: 8})
	}
	var firsts []int
	for seed := range uint64(4) {
		result := spread.Draw(req, source(seed))
		require.Equal(t, 96, placedIn(t, req, result))
		require.True(t, result.Near)
		firsts = append(firsts, result.Times[5][3])
	}
	slices.Sort(firsts)
	assert.Greater(t, len(slices.Compact(firsts)), 2)
}

// most is how many times can be placed at all, by looking at every way.
func most(req spread.Request) int {
	left := make([]int, len(req.Demands))
	for i, d := range req.Demands {
		left[i] = d.N
	}
	known := make(map[string]int)
	var from func(m int) int
	from = func(m int) int {
		if m >= 60 {
			return 0
		}
		key := fmt.Sprint(m, left)
		if n, ok := known[key]; ok {
			return n
		}
		best := from(m + 1)
		near := func(t int) bool { return max(m-t, t-m) < req.Gap }
		for i, d := range req.Demands {
			inside := slices.ContainsFunc(d.Stretches, func(s spread.Stretch) bool { return s.From <= m && m < s.To })
			if left[i] > 0 && inside && !slices.ContainsFunc(req.Taken, near) && !(req.Uneven && m%5 == 0) {
				left[i]--
				best = max(best, 1+from(m+req.Gap))
				left[i]++
			}
		}
		known[key] = best
		return best
	}
	return from(0)
}

func TestAsManyAsCanBePlacedAtAllArePlaced(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		stretch := rapid.Custom(func(t *rapid.T) spread.Stretch {
			from := rapid.IntRange(0, 40).Draw(t, "from")
			return spread.Stretch{From: from, To: from + rapid.IntRange(1, 20).Draw(t, "length")}
		})
		req := spread.Request{Gap: rapid.IntRange(1, 12).Draw(t, "gap"), Uneven: rapid.Bool().Draw(t, "uneven"),
			Taken: rapid.SliceOfN(rapid.IntRange(0, 60), 0, 2).Draw(t, "taken")}
		for range rapid.IntRange(1, 5).Draw(t, "demands") {
			req.Demands = append(req.Demands, spread.Demand{Stretches: rapid.SliceOfN(stretch, 1, 2).Draw(t,
				"stretches"), N: rapid.IntRange(0, 3).Draw(t, "n")})
		}
		if len(req.Demands) > 1 && rapid.Bool().Draw(t, "alike") {
			req.Demands[1].Stretches = req.Demands[0].Stretches
		}
		result := spread.Draw(req, source(1))
		require.Equal(t, most(req), placedIn(t, req, result))
	})
}

// Openings with the same minutes, and openings of which not all fit, are uniform too: over
// the ways in which as much as can be is placed, the earlier openings first.
func TestCrowdedChoicesAreEquallyLikely(t *testing.T) {
	s := func(from, to int) []spread.Stretch { return []spread.Stretch{{From: from, To: to}} }
	for name, c := range map[string]struct {
		req    spread.Request
		placed []int // how many of each demand
	}{
		"two alike": {spread.Request{Gap: 3, Demands: []spread.Demand{{Stretches: s(0, 14), N: 1},
			{Stretches: s(0, 14), N: 2}}}, []int{1, 2}},
		"alike beside another": {spread.Request{Gap: 3, Demands: []spread.Demand{{Stretches: s(0, 9), N: 1},
			{Stretches: s(0, 9), N: 1}, {Stretches: s(4, 12), N: 1}}}, []int{1, 1, 1}},
		"one is missing": {spread.Request{Gap: 4, Demands: []spread.Demand{{Stretches: s(0, 8), N: 2},
			{Stretches: s(2, 11), N: 2}}}, []int{2, 1}},
		"alike and one missing": {spread.Request{Gap: 4, Demands: []spread.Demand{{Stretches: s(0, 10), N: 2},
			{Stretches: s(0, 10), N: 2}}}, []int{2, 1}},
		"a chain of three": {spread.Request{Gap: 4, Demands: []spread.Demand{{Stretches: s(0, 6), N: 1},
			{Stretches: s(4, 11), N: 1}, {Stretches: s(9, 15), N: 1}}}, []int{1, 1, 1}},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			full := c.req
			full.Demands = slices.Clone(full.Demands)
			for i := range full.Demands {
				full.Demands[i].N = c.placed[i]
			}
			choices := enumerate(full)
			require.Greater(t, len(choices), 5)
			rng, seen := source(11), make(map[string]int)
			for range 400 * len(choices) {
				key := fmt.Sprint(spread.Draw(c.req, rng).Times)
				require.True(t, choices[key], "%s is not the best there is", key)
				seen[key]++
			}
			chi := 0.0
			for choice := range choices {
				off := float64(seen[choice]) - 400
				chi += off * off / 400
			}
			k := float64(len(choices) - 1)
			assert.Less(t, chi, k*math.Pow(1-2/(9*k)+3.09*math.Sqrt(2/(9*k)), 3), "%d choices", len(choices))
		})
	}
}

func BenchmarkCrowdedDay(b *testing.B) {
	hours := spread.Request{Gap: 5, Demands: []spread.Demand{
		{Stretches: []spread.Stretch{{From: 0, To: 1440}}, N: 80}, {Stretches: []spread.Stretch{{From: 480, To: 540}},
			N: 12}, {Stretches: []spread.Stretch{{From: 1020, To: 1080}}, N: 12}}}
	fixed, wide := spread.Request{Gap: 57}, spread.Request{Gap: 12}
	for i := range 14 {
		fixed.Demands = append(fixed.Demands, around(480+57*i, 28))
	}
	for i := range 12 {
		wide.Demands = append(wide.Demands, spread.Demand{Stretches: []spread.Stretch{{From: 10 * i, To: 1300 + 10*i}},
			N: 8})
	}
	for name, req := range map[string]spread.Request{"14 fixed times": fixed, "two full hours": hours,
		"12 wide windows": wide} {
		b.Run(name, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				spread.Draw(req, source(1))
			}
		})
	}
}
