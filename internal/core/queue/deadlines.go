package queue

import (
	"cmp"
	"slices"
	"sort"
)

// reserve keeps a seat for every deadline that can be met, the latest there is.
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
	order := slices.Clone(p.urgent)
	// Those that may begin latest have the fewest seats at the late end.
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Or(cmp.Compare(p.items[b].notBefore, p.items[a].notBefore), cmp.Compare(p.items[b].deadline, p.items[a].deadline))
	})
	for _, i := range order {
		if !p.augment(i, 0) {
			p.loose = append(p.loose, i)
		}
	}
	p.searchExactly(last)
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

// Bounds on searching through all ways. Where caps are set and few deadlines compete
// for few seats, the number of deadlines that can be met is found by looking at every
// way; beyond that, reservations have to do.
const (
	maxSearchedItems = 12
	maxSearchedSeats = 40
	searchBudget     = 30_000 // steps of one search
)

// searchExactly finds how many deadlines can be met where the search is small enough,
// and from then on every seat is decided by it instead of by reservations.
func (p *planner) searchExactly(last int64) {
	if p.request.Caps == (Caps{}) || len(p.urgent) > maxSearchedItems {
		return
	}
	seats := sort.Search(len(p.seats), func(t int) bool { return p.seats[t].at > last })
	if seats > maxSearchedSeats {
		return
	}
	reserved := make(map[int]int)
	for _, i := range p.urgent {
		if t := p.lift(i); t >= 0 {
			reserved[i] = t
		}
	}
	s := search{planner: p, end: seats, budget: searchBudget}
	if best, ok := s.most(0, len(p.urgent)); ok {
		p.small, p.target, p.searched = true, best, seats
		return
	}
	for i, t := range reserved {
		p.put(i, t)
	}
}

// tryExactly is try for a small number of deadlines.
func (p *planner) tryExactly(i, t int) cause {
	if why := p.may(i, t); why != fits {
		p.note(i, t, why)
		return why
	}
	p.countAt(i, t, 1)
	p.settle(i, t)
	if p.met >= p.target {
		return fits
	}
	s := search{planner: p, end: p.searched, budget: searchBudget}
	need := p.target - p.met
	if best, ok := s.most(t+1, need); !ok || best >= need {
		return fits // where the search is given up, the first in line has the benefit
	}
	p.unsettle(i)
	p.countAt(i, t, -1)
	return needed
}

// search looks through the ways to give the waiting items with deadlines the seats
// from some seat on.
type search struct {
	*planner
	end    int
	budget int
}

// most returns how many deadlines can be met from seat t on, at most `enough`; not ok
// where the budget does not last.
func (s *search) most(t, enough int) (best int, ok bool) {
	left := 0
	for _, i := range s.urgent {
		if it := &s.items[i]; it.seat < 0 && t < s.end && it.deadline >= s.seats[t].at {
			left++
		}
	}
	enough = min(enough, left, s.end-t)
	if enough <= 0 {
		return 0, true
	}
	if s.budget--; s.budget < 0 {
		return 0, false
	}
	for _, i := range s.urgent {
		if s.items[i].seat >= 0 || s.may(i, t) != fits {
			continue
		}
		s.countAt(i, t, 1)
		s.items[i].seat = t
		rest, ok := s.most(t+1, enough-1)
		s.items[i].seat = -1
		s.countAt(i, t, -1)
		if !ok {
			return 0, false
		}
		if best = max(best, 1+rest); best >= enough {
			return best, true
		}
	}
	rest, ok := s.most(t+1, enough)
	return max(best, rest), ok
}
