package spread

import (
	"cmp"
	"slices"
)

// breadth is how many unfinished arrangements fill keeps at each minute.
const breadth = 24

// partial is an arrangement up to a minute.
type partial struct {
	wants  []int // by class: what is not placed yet
	free   int   // the first minute that may be taken
	left   int   // all of wants
	lost   int   // times that can be placed no more, at least
	before *partial
	class  int // that took the minute `at`; -1: none
	at     int
}

// fill places as many times as it can, as early as it can. It goes through the minutes and
// keeps the most promising arrangements: those that have lost least, then those that have
// placed most, then those that are ready for the next time soonest. A time goes to the class that ends first of those that
// may have it, which is as good as any other where classes are whole stretches.
func fill(classes []Demand, gap int, uneven bool) [][]int {
	first := &partial{wants: make([]int, len(classes)), class: -1}
	var minutes []int // that any class may have
	ends := make([]int, len(classes))
	for i, c := range classes {
		first.wants[i] = c.N
		for _, s := range c.Stretches {
			ends[i] = max(ends[i], s.To)
			for m := s.From; m < s.To; m++ {
				if !uneven || !IsEven(m) {
					minutes = append(minutes, m)
				}
			}
		}
	}
	slices.Sort(minutes)
	minutes = slices.Compact(minutes)
	order := make([]int, len(classes)) // by end
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(ends[a], ends[b]) })
	front := []*partial{first}
	if len(minutes) > 0 {
		first.free = minutes[0]
	}
	for _, m := range minutes {
		var grown []*partial
		for _, p := range front {
			grown = append(grown, p)
			if p.free > m {
				continue
			}
			for _, i := range order {
				if p.wants[i] > 0 && holds(classes[i].Stretches, m) {
					next := &partial{wants: slices.Clone(p.wants), free: m + gap, before: p, class: i, at: m}
					next.wants[i]--
					grown = append(grown, next)
					break
				}
			}
		}
		front = thin(grown, order, ends, m, gap)
	}
	best := front[0]
	times := make([][]int, len(classes))
	for p := best; p != nil; p = p.before {
		if p.class >= 0 {
			times[p.class] = append(times[p.class], p.at)
		}
	}
	for i := range times {
		slices.Sort(times[i])
	}
	return times
}

func holds(stretches []Stretch, m int) bool {
	i, _ := slices.BinarySearchFunc(stretches, m, func(s Stretch, m int) int {
		if s.To <= m {
			return -1
		}
		return 1
	})
	return i < len(stretches) && stretches[i].From <= m
}

// thin keeps the most promising arrangements after a minute, and of equal ones one.
func thin(all []*partial, order, ends []int, m, gap int) []*partial {
	for _, p := range all {
		// What is wanted up to an end beyond what there is room for up to it is lost.
		p.lost, p.left = 0, 0
		for _, i := range order {
			room := 0
			if from := max(p.free, m+1); from < ends[i] {
				room = (ends[i]-from-1)/gap + 1
			}
			p.left += p.wants[i]
			p.lost = max(p.lost, p.left-room)
		}
	}
	slices.SortStableFunc(all, func(a, b *partial) int {
		return cmp.Or(cmp.Compare(a.lost, b.lost), cmp.Compare(a.left, b.left), cmp.Compare(a.free, b.free),
			slices.Compare(a.wants, b.wants))
	})
	all = slices.CompactFunc(all, func(a, b *partial) bool {
		return a.free == b.free &&
			slices.Equal(a.wants, b.wants)
	})
	return all[:min(len(all), breadth)]
}
