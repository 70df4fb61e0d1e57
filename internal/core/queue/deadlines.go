package queue

import (
	"cmp"
	"slices"
	"sort"
)

// reserve keeps a seat for every deadline that can be met, the latest there is; or where
// caps are set and a search through all ways is within reach, finds how many can be met.
func (p *planner) reserve() {
	if len(p.urgent) == 0 {
		return
	}
	last := int64(0)
	for _, i := range p.urgent {
		last = max(last, p.items[i].deadline)
	}
	for t := 0; p.reach(t) && p.seats[t].at <= last; t++ {
	}
	for _, i := range p.urgent {
		p.items[i].end = sort.Search(len(p.seats), func(t int) bool { return p.seats[t].at > p.items[i].deadline })
	}
	capped := p.request.Caps != (Caps{})
	if capped && len(p.urgent) <= mostSearched {
		p.course = newCourse(p)
		var proven bool
		p.target, proven = p.course.find()
		p.unproven = !proven
		p.course.steps = searchSteps
		return
	}
	if !capped {
		p.matching = newMatching(p)
	}
	order := slices.Clone(p.urgent)
	// Those that may begin latest have the fewest seats at the late end.
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Or(cmp.Compare(p.items[b].notBefore, p.items[a].notBefore),
			cmp.Compare(p.items[b].deadline, p.items[a].deadline))
	})
	for _, i := range order {
		met := false
		if p.matching != nil {
			met = p.matching.match(i)
		} else {
			met = p.augment(i, 0)
		}
		if !met {
			p.loose = append(p.loose, i)
		}
	}
	// Under caps, reservations tell what can be met, but not that no more can.
	p.unproven = capped && len(p.loose) > 0
}

// augmentBudget bounds the seats that one augmenting search looks at. A search that
// runs out of it has failed; a site would need that many seats in dispute at once.
const augmentBudget = 20_000

// augment finds a seat from `from` on for an item without one, moving reservations
// of others on where that helps (Kuhn's augmenting paths; Naval Research Logistics
// Quarterly 2, 1955). Without caps it fails only if there is no way.
func (p *planner) augment(i, from int) bool {
	p.begin()
	return p.seatFor(i, from)
}

func (p *planner) begin() {
	p.visit++
	p.trail = p.trail[:0]
	p.steps = augmentBudget
}

// replace finds a seat from `from` on for an item that has lost its own. Where a seat
// has become free, any other that waits without one will do as well: the number of
// deadlines met is the same.
func (p *planner) replace(lost, from int, freed bool) bool {
	p.begin() // shared: what leads nowhere for one leads nowhere for the next
	if p.seatFor(lost, from) {
		return true
	}
	if !freed {
		return false // those who wait found no way before, and there is none more now
	}
	p.dropIdle(from - 1)
	for _, i := range p.loose {
		if p.steps <= 0 {
			return false
		}
		if i != lost && p.seatFor(i, from) {
			p.loose = append(p.loose, lost)
			return true
		}
	}
	return false
}

func (p *planner) seatFor(i, from int) bool {
	it := &p.items[i]
	// The seats are in time order; those of the item end with its deadline.
	for t := it.end - 1; t >= from && p.seats[t].at >= it.notBefore && p.steps > 0; t-- {
		p.steps--
		if p.holder[t] < 0 && p.may(i, t) == fits {
			p.put(i, t)
			return true
		}
	}
	for t := it.end - 1; t >= from && p.seats[t].at >= it.notBefore && p.steps > 0; t-- {
		p.steps--
		other := p.holder[t]
		if other < 0 || p.visited[t] == p.visit || p.suits(i, t) != fits {
			continue
		}
		p.visited[t] = p.visit
		p.trail = append(p.trail, t)
		p.lift(other)
		if p.may(i, t) == fits {
			p.put(i, t)
			if p.seatFor(other, from) {
				return true
			}
			p.lift(i)
		}
		p.put(other, t)
	}
	return false
}
