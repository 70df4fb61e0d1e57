package spread_test

import (
	"fmt"
	"math"
	"math/big"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/spread"
)

func source(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 7)) }

func one(n int, stretches ...spread.Stretch) []spread.Demand {
	return []spread.Demand{{Stretches: stretches, N: n}}
}

// enumerate lists every way to serve all demands in full, each as text.
func enumerate(req spread.Request) map[string]bool {
	found := make(map[string]bool)
	times := make([][]int, len(req.Demands))
	var place func(demand, left int)
	free := func(m int) bool {
		near := func(t int) bool { return max(m-t, t-m) < req.Gap }
		for _, chosen := range times {
			if slices.ContainsFunc(chosen, near) {
				return false
			}
		}
		return !slices.ContainsFunc(req.Taken, near) && !(req.Uneven && m%5 == 0)
	}
	place = func(demand, left int) {
		if left == 0 {
			if demand+1 == len(req.Demands) {
				found[fmt.Sprint(times)] = true
				return
			}
			place(demand+1, req.Demands[demand+1].N)
			return
		}
		d := req.Demands[demand]
		for m := range 200 {
			inside := slices.ContainsFunc(d.Stretches, func(s spread.Stretch) bool { return s.From <= m && m < s.To })
			after := len(times[demand]) == 0 || m > times[demand][len(times[demand])-1]
			if inside && after && free(m) {
				times[demand] = append(times[demand], m)
				place(demand, left-1)
				times[demand] = times[demand][:len(times[demand])-1]
			}
		}
	}
	place(0, req.Demands[0].N)
	return found
}

// Every feasible choice is equally likely: a chi-square test against the full
// list of choices, with a fixed seed so that it never fails by chance.
func TestEveryChoiceIsEquallyLikely(t *testing.T) {
	for name, req := range map[string]spread.Request{
		"one stretch, closed form": {Demands: one(3, spread.Stretch{From: 10, To: 24}), Gap: 4},
		"a taken minute in it":     {Demands: one(2, spread.Stretch{From: 0, To: 30}), Taken: []int{12}, Gap: 5},
		"taken beside it":          {Demands: one(2, spread.Stretch{From: 10, To: 22}), Taken: []int{8, 24}, Gap: 4},
		"stretches nearer than gap": {Demands: one(3, spread.Stretch{From: 0, To: 6},
			spread.Stretch{From: 8, To: 15}), Gap: 4},
		"overlapping stretches": {Demands: one(2, spread.Stretch{From: 0, To: 9},
			spread.Stretch{From: 5, To: 12}), Gap: 3},
		"uneven minutes": {Demands: one(2, spread.Stretch{From: 0, To: 18}), Gap: 4, Uneven: true},
		"two demands side by side": {Demands: []spread.Demand{{Stretches: []spread.Stretch{{From: 0, To: 8}}, N: 1},
			{Stretches: []spread.Stretch{{From: 8, To: 16}}, N: 2}}, Gap: 4},
		"one demand inside another": {Demands: []spread.Demand{{Stretches: []spread.Stretch{{From: 0, To: 16}}, N: 2},
			{Stretches: []spread.Stretch{{From: 7, To: 10}}, N: 1}}, Gap: 3},
		"demands and a taken minute": {Demands: []spread.Demand{{Stretches: []spread.Stretch{{From: 0, To: 12}}, N: 1},
			{Stretches: []spread.Stretch{{From: 6, To: 18}}, N: 1}}, Taken: []int{9}, Gap: 3},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			choices := enumerate(req)
			require.Greater(t, len(choices), 5)
			rng, seen := source(42), make(map[string]int)
			draws := 400 * len(choices)
			for range draws {
				result := spread.Draw(req, rng)
				key := fmt.Sprint(result.Times)
				require.True(t, choices[key], "%s is not feasible", key)
				seen[key]++
			}
			chi, expected := 0.0, 400.0
			for choice := range choices {
				off := float64(seen[choice]) - expected
				chi += off * off / expected
			}
			// Wilson and Hilferty's approximation of the 99.9 % point.
			k := float64(len(choices) - 1)
			limit := k * math.Pow(1-2/(9*k)+3.09*math.Sqrt(2/(9*k)), 3)
			assert.Less(t, chi, limit, "%d choices", len(choices))
		})
	}
}

func anyRequest() *rapid.Generator[spread.Request] {
	return rapid.Custom(func(t *rapid.T) spread.Request {
		stretch := rapid.Custom(func(t *rapid.T) spread.Stretch {
			from := rapid.IntRange(0, 1500).Draw(t, "from")
			return spread.Stretch{From: from, To: from + rapid.IntRange(-5, 400).Draw(t, "length")}
		})
		demand := rapid.Custom(func(t *rapid.T) spread.Demand {
			return spread.Demand{
				Stretches: rapid.SliceOfN(stretch, 0, 4).Draw(t, "stretches"),
				N:         rapid.IntRange(0, 8).Draw(t, "n"),
			}
		})
		return spread.Request{
			Demands: rapid.SliceOfN(demand, 1, 4).Draw(t, "demands"),
			Taken:   rapid.SliceOfN(rapid.IntRange(0, 1900), 0, 8).Draw(t, "taken"),
			Gap:     rapid.IntRange(1, 200).Draw(t, "gap"),
			Uneven:  rapid.Bool().Draw(t, "uneven"),
		}
	})
}

func TestDrawKeepsEveryRule(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		req, seed := anyRequest().Draw(t, "request"), rapid.Uint64().Draw(t, "seed")
		result := spread.Draw(req, source(seed))
		require.Equal(t, result, spread.Draw(req, source(seed)), "the same seed gives the same times")

		var all []int
		for i, d := range req.Demands {
			require.Equal(t, d.N, len(result.Times[i])+result.Missing[i])
			require.True(t, slices.IsSorted(result.Times[i]))
			for _, m := range result.Times[i] {
				require.True(t, slices.ContainsFunc(d.Stretches, func(s spread.Stretch) bool {
					return s.From <= m &&
						m < s.To
				}))
				require.False(t, req.Uneven && m%5 == 0)
				for _, taken := range req.Taken {
					require.GreaterOrEqual(t, max(m-taken, taken-m), req.Gap)
				}
			}
			all = append(all, result.Times[i]...)
		}
		slices.Sort(all)
		for i := 1; i < len(all); i++ {
			require.GreaterOrEqual(t, all[i]-all[i-1], req.Gap)
		}
	})
}

// With one demand, what is missing is exactly what has no room.
func TestAsManyAsCanBeArePlaced(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		req := anyRequest().Draw(t, "request")
		req.Demands = req.Demands[:1]
		d := req.Demands[0]
		room := spread.Capacity(d.Stretches, req.Taken, req.Gap, req.Uneven)
		result := spread.Draw(req, source(1))
		require.Equal(t, min(room, d.N), len(result.Times[0]))
	})
}

// A narrow demand beside a wide one is never starved by it.
func TestDemandsLeaveOneAnotherRoom(t *testing.T) {
	req := spread.Request{Gap: 30, Demands: []spread.Demand{
		{Stretches: []spread.Stretch{{From: 480, To: 600}}, N: 2},
		{Stretches: []spread.Stretch{{From: 540, To: 541}}, N: 1},
	}}
	for seed := range uint64(300) {
		result := spread.Draw(req, source(seed))
		require.Equal(t, []int{0, 0}, result.Missing)
	}
}

func TestHundredsInTwoDays(t *testing.T) {
	stretches := []spread.Stretch{{From: 0, To: 1300}, {From: 1301, To: 2880}}
	result := spread.Draw(spread.Request{Demands: one(500, stretches...), Gap: 5}, source(3))
	require.Len(t, result.Times[0], 500)
	for i := 1; i < 500; i++ {
		require.GreaterOrEqual(t, result.Times[0][i]-result.Times[0][i-1], 5)
	}
}

func TestRoomIsCountedAndToldWhenMoreIsAsked(t *testing.T) {
	result := spread.Draw(spread.Request{Demands: one(10_000, spread.Stretch{From: 360, To: 480}), Gap: 20}, source(1))
	assert.Equal(t, []int{9994}, result.Missing)
	assert.Len(t, result.Times[0], 6)
}

// Demands too large for one joint table are drawn in turn and still keep the gap.
func TestDemandsBeyondTheTableAreDrawnInTurn(t *testing.T) {
	req := spread.Request{Gap: 7}
	for range 6 {
		req.Demands = append(req.Demands, spread.Demand{Stretches: []spread.Stretch{{From: 0, To: 2880}}, N: 20})
	}
	result := spread.Draw(req, source(9))
	var all []int
	for _, times := range result.Times {
		all = append(all, times...)
	}
	slices.Sort(all)
	require.Len(t, all, 120)
	for i := 1; i < len(all); i++ {
		require.GreaterOrEqual(t, all[i]-all[i-1], 7)
	}
}

// The closed form of one stretch counts what enumeration counts.
func TestClosedFormCountsTheChoices(t *testing.T) {
	for _, c := range []struct{ length, n, gap int }{{14, 3, 4}, {20, 2, 6}, {9, 4, 2}, {12, 1, 5}} {
		places := c.length - (c.n-1)*(c.gap-1)
		want := new(big.Int).Binomial(int64(places), int64(c.n)).Int64()
		got := enumerate(spread.Request{Demands: one(c.n, spread.Stretch{From: 0, To: c.length}), Gap: c.gap})
		assert.EqualValues(t, want, len(got))
	}
}

func ExampleDraw() {
	result := spread.Draw(spread.Request{
		Demands: one(2, spread.Stretch{From: 360, To: 380}),
		Gap:     19,
	}, source(1))
	fmt.Println(result.Times, result.Missing)
	// Output: [[360 379]] [0]
}
