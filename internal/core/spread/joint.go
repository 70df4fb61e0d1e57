package spread

import (
	"math/rand/v2"
	"slices"
)

// group is demands that compete for minutes, and how they are drawn together.
type group struct {
	demands []Demand // their stretches open ones
	gap     int
	uneven  bool
	members [][]int // by class: the demands of which it is made, in order
	classes []Demand
}

// newGroup puts demands with the same minutes into one class: of times drawn for all of
// them, each deal is equally likely.
func newGroup(demands []Demand, gap int, uneven bool) *group {
	g := &group{demands: demands, gap: gap, uneven: uneven}
	for i, d := range demands {
		same := slices.IndexFunc(g.classes, func(c Demand) bool { return slices.Equal(c.Stretches, d.Stretches) })
		if same < 0 {
			g.classes, g.members = append(g.classes, Demand{Stretches: d.Stretches}), append(g.members, nil)
			same = len(g.classes) - 1
		}
		g.classes[same].N += d.N
		g.members[same] = append(g.members[same], i)
	}
	for i := range g.classes {
		c := &g.classes[i]
		c.N = min(c.N, capacity(c.Stretches, gap, uneven, c.N))
	}
	return g
}

// draw draws times for all demands; exact is false where the table would have been too
// large.
func (g *group) draw(rng *rand.Rand) (times [][]int, exact bool) {
	if len(g.classes) == 1 {
		times, exact := drawOne(g.classes[0], g.gap, g.uneven, rng)
		return g.deal([][]int{times}, rng), exact
	}
	if t, ok := newTable(g.classes, g.gap, g.uneven, maxCells); ok {
		return g.deal(t.draw(rng), rng), true
	}
	return g.deal(g.settle(rng), rng), false
}

// deal gives the times of each class to its demands: the earlier ones first where there are
// not enough, and which gets which by chance.
func (g *group) deal(byClass [][]int, rng *rand.Rand) [][]int {
	times := make([][]int, len(g.demands))
	for c, all := range byClass {
		if len(g.members[c]) == 1 {
			times[g.members[c][0]] = all
			continue
		}
		lots := rng.Perm(len(all))
		for _, i := range g.members[c] {
			n := min(g.demands[i].N, len(lots))
			for _, lot := range lots[:n] {
				times[i] = append(times[i], all[lot])
			}
			slices.Sort(times[i])
			lots = lots[n:]
		}
	}
	return times
}

const (
	// blockCells bounds the table of classes that are drawn anew together.
	blockCells = 30_000
	// sweeps is how often each class is drawn anew.
	sweeps = 3
)

// settle draws where the joint table would be too large: as many times as can be placed
// first, and then, several times over, some of the classes anew and exactly, with the times
// of the others taken (Gibbs sampling; Geman and Geman, IEEE Transactions on Pattern
// Analysis and Machine Intelligence 6, 1984). All arrangements come up, each nearly as
// often as any other.
func (g *group) settle(rng *rand.Rand) [][]int {
	times := fill(g.classes, g.gap, g.uneven)
	for range sweeps {
		order := rng.Perm(len(g.classes))
		for len(order) > 0 {
			order = g.redraw(times, order, rng)
		}
	}
	return times
}

// redraw draws the first of the classes in order anew, as many as one table holds, and
// returns the rest.
func (g *group) redraw(times [][]int, order []int, rng *rand.Rand) []int {
	var best *table
	n := 0
	for size := len(order); size > 0; size /= 2 {
		if t, ok := g.block(times, order[:size]); ok {
			best, n = t, size
			break
		}
	}
	if best == nil {
		return order[1:] // alone it is too large for a block; it keeps its times
	}
	for k, drawn := range best.draw(rng) {
		times[order[k]] = drawn
	}
	return order[n:]
}

// block is the table of some classes with the times of the others taken.
func (g *group) block(times [][]int, block []int) (*table, bool) {
	var taken []int
	for i, all := range times {
		if !slices.Contains(block, i) {
			taken = append(taken, all...)
		}
	}
	slices.Sort(taken)
	var demands []Demand
	for _, i := range block {
		demands = append(demands, Demand{Open(g.classes[i].Stretches, taken, g.gap), len(times[i])})
	}
	return newTable(demands, g.gap, g.uneven, blockCells)
}
