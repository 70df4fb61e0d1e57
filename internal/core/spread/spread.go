// Package spread draws random times that keep a minimum gap, every feasible
// choice equally likely.
//
// Times are whole minutes on one axis; what the axis counts from is the
// caller's affair. A [Demand] asks for some times within some stretches of the
// axis; several demands are drawn together, so that one never takes the place
// that another needs. The draw is exact: the number of ways to finish from every
// minute on is counted first, and the walk from the first minute takes each
// minute with its share of the ways. There is no retrying.
//
//	result := spread.Draw(spread.Request{
//		Demands: []spread.Demand{{Stretches: []spread.Stretch{{From: 360, To: 720}}, N: 3}},
//		Taken:   []int{400},
//		Gap:     45,
//	}, rng)
//
// The package is pure: the only chance it knows is the source passed in.
package spread

import (
	"math/rand/v2"
	"slices"
)

// Stretch is a run of minutes, From inclusive and To exclusive.
type Stretch struct {
	From, To int
}

// Demand asks for N times inside its stretches. Stretches may overlap and come
// in any order; empty and reversed ones hold no minute.
type Demand struct {
	Stretches []Stretch
	N         int
}

// Request is what to draw: the demands, the minutes that are taken already, and
// the fewest minutes between any two times (and between a time and a taken
// minute). A Gap below 1 counts as 1, so two times never coincide. With Uneven,
// minutes divisible by five are left out.
type Request struct {
	Demands []Demand
	Taken   []int
	Gap     int
	Uneven  bool
}

// Result holds the drawn times of each demand in ascending order, and for each
// demand how many of its N did not fit.
type Result struct {
	Times   [][]int
	Missing []int
	// Near tells that so many demands overlap that the times are only nearly uniform over all
	// arrangements; see Draw.
	Near bool
}

// Draw answers the request. When not everything fits, as many times as can be
// placed at all are placed, earlier demands first, and the rest are reported in
// Missing; the gap is never broken. The same request and source give the same
// result on every machine.
//
// Demands whose stretches lie a gap or more apart are drawn independently. Those nearer are
// drawn jointly and uniformly over all arrangements, unless so many of them overlap that
// their joint table would pass a million cells. Then as many are placed as a search finds
// room for, and the arrangement is shuffled by drawing parts of it anew: the result says
// that it is Near uniform.
func Draw(req Request, rng *rand.Rand) Result {
	req.Gap = max(req.Gap, 1)
	slices.Sort(req.Taken)
	result := Result{Times: make([][]int, len(req.Demands)), Missing: make([]int, len(req.Demands))}

	open := make([][]Stretch, len(req.Demands))
	for i, d := range req.Demands {
		open[i] = Open(d.Stretches, req.Taken, req.Gap)
	}
	for _, members := range neighbours(open, req.Gap) {
		drawGroup(req, open, members, rng, &result)
	}
	return result
}

func drawGroup(req Request, open [][]Stretch, members []int, rng *rand.Rand, result *Result) {
	demands := make([]Demand, len(members))
	for i, index := range members {
		n := max(req.Demands[index].N, 0)
		n = min(n, capacity(open[index], req.Gap, req.Uneven, n))
		demands[i] = Demand{open[index], n}
	}
	var times [][]int
	if len(members) == 1 {
		one, exact := drawOne(demands[0], req.Gap, req.Uneven, rng)
		times, result.Near = [][]int{one}, result.Near || !exact
	} else {
		all, exact := newGroup(demands, req.Gap, req.Uneven).draw(rng)
		times, result.Near = all, result.Near || !exact
	}
	for i, index := range members {
		result.Times[index] = times[i]
		result.Missing[index] = max(req.Demands[index].N, 0) - len(times[i])
	}
}

// drawOne draws a single demand that is known to fit; exact is false where its table would
// have been too large.
func drawOne(d Demand, gap int, uneven bool, rng *rand.Rand) (times []int, exact bool) {
	if d.N == 0 {
		return nil, true
	}
	if len(d.Stretches) == 1 && !uneven {
		return drawStretch(d.Stretches[0], d.N, gap, rng), true
	}
	t, ok := newTable([]Demand{d}, gap, uneven, maxCellsOfOne)
	if !ok {
		return fill([]Demand{d}, gap, uneven)[0], false
	}
	return t.draw(rng)[0], true
}

// drawStretch is the closed form for one stretch: the arrangements of n times in
// L minutes are the n-element subsets of L-(n-1)(gap-1) places, each time moved
// on by the gaps before it.
func drawStretch(s Stretch, n, gap int, rng *rand.Rand) []int {
	places := s.To - s.From - (n-1)*(gap-1)
	chosen := subset(places, n, rng)
	for i := range chosen {
		chosen[i] += s.From + i*(gap-1)
	}
	return chosen
}

// subset draws n of 0..places-1, every subset equally likely, in ascending order
// (Floyd's method: Bentley and Floyd, Communications of the ACM 30(9), 1987).
func subset(places, n int, rng *rand.Rand) []int {
	chosen := make(map[int]bool, n)
	for top := places - n; top < places; top++ {
		pick := rng.IntN(top + 1)
		if chosen[pick] {
			pick = top
		}
		chosen[pick] = true
	}
	sorted := make([]int, 0, n)
	for pick := range chosen {
		sorted = append(sorted, pick)
	}
	slices.Sort(sorted)
	return sorted
}

// Capacity returns how many times fit into the stretches, a gap apart from one
// another and from the taken minutes.
func Capacity(stretches []Stretch, taken []int, gap int, uneven bool) int {
	gap = max(gap, 1)
	taken = slices.Sorted(slices.Values(taken))
	return capacity(Open(stretches, taken, gap), gap, uneven, -1)
}

// capacity counts by taking the earliest minute each time, which no other choice
// beats; it stops at `enough` unless that is negative.
func capacity(open []Stretch, gap int, uneven bool, enough int) int {
	count, next := 0, 0
	for i, s := range open {
		if i == 0 {
			next = s.From
		}
		for at := max(next, s.From); at < s.To; {
			if uneven && IsEven(at) {
				at++
				continue
			}
			if count == enough {
				return count
			}
			count++
			at += gap
			next = at
		}
	}
	return count
}

// Open returns the parts of the stretches that lie `gap` or more from every taken
// minute: sorted, apart and not empty. taken must be sorted.
func Open(stretches []Stretch, taken []int, gap int) []Stretch {
	var open []Stretch
	for _, s := range merged(stretches) {
		from := s.From
		first, _ := slices.BinarySearch(taken, s.From-gap+1)
		for _, t := range taken[first:] {
			if t-gap >= s.To {
				break
			}
			if to := min(t-gap+1, s.To); from < to {
				open = append(open, Stretch{from, to})
			}
			from = max(from, t+gap)
		}
		if from < s.To {
			open = append(open, Stretch{from, s.To})
		}
	}
	return open
}

// merged sorts the stretches and joins those that touch or overlap.
func merged(stretches []Stretch) []Stretch {
	sorted := slices.DeleteFunc(slices.Clone(stretches), func(s Stretch) bool { return s.To <= s.From })
	slices.SortFunc(sorted, func(a, b Stretch) int { return a.From - b.From })
	var joined []Stretch
	for _, s := range sorted {
		if n := len(joined); n > 0 && s.From <= joined[n-1].To {
			joined[n-1].To = max(joined[n-1].To, s.To)
			continue
		}
		joined = append(joined, s)
	}
	return joined
}

// neighbours groups the demands so that those of different groups have no two
// minutes nearer than the gap. Groups and their members are in ascending order
// of their first minute; a demand without a minute is a group of its own.
func neighbours(open [][]Stretch, gap int) [][]int {
	type piece struct {
		Stretch
		demand int
	}
	var pieces []piece
	root := make([]int, len(open))
	for i, stretches := range open {
		root[i] = i
		for _, s := range stretches {
			pieces = append(pieces, piece{s, i})
		}
	}
	find := func(i int) int {
		for root[i] != i {
			i = root[i]
		}
		return i
	}
	slices.SortStableFunc(pieces, func(a, b piece) int { return a.From - b.From })
	furthest := -1 // the piece that reaches furthest so far
	for i, p := range pieces {
		if furthest >= 0 && p.From-(pieces[furthest].To-1) < gap {
			root[find(p.demand)] = find(pieces[furthest].demand)
		}
		if furthest < 0 || p.To > pieces[furthest].To {
			furthest = i
		}
	}
	members := make(map[int][]int)
	var order []int
	seen := make([]bool, len(open))
	add := func(i int) {
		if seen[i] {
			return
		}
		seen[i] = true
		r := find(i)
		if members[r] == nil {
			order = append(order, r)
		}
		members[r] = append(members[r], i)
	}
	for _, p := range pieces {
		add(p.demand)
	}
	for i := range open {
		add(i)
	}
	groups := make([][]int, len(order))
	for i, r := range order {
		groups[i] = members[r]
	}
	return groups
}

// IsEven tells whether the option of uneven minutes leaves the minute out: whether
// it is divisible by five.
func IsEven(minute int) bool { return minute%5 == 0 }
