package queue

import (
	"slices"
	"sort"
)

// matching keeps a seat for as many deadlines as can be met where no caps are set: a
// greatest matching of drafts with deadlines and seats. What a seat is needed for is then
// known exactly, by alternating paths (Berge, Proceedings of the National Academy of
// Sciences 43, 1957).
type matching struct {
	*planner
	lists  map[int32]*seatList // by category: the seats whose lane it may take
	begins []int               // by item with a deadline: its first seat
	listOf []*seatList         // by item with a deadline
	// Marks of the search in hand, by seat: reached in it, and from which item.
	reached []int
	from    []int
	search  int
	line    []int // items whose seats are to be looked at
	failed  bool  // the last search of match found nothing

	// Of the seat in hand.
	seat  int
	known bool // the rest is known of it
	free  bool // whoever holds it may go elsewhere
}

// seatList is the seats of a category in order, with a way to pass over those that a
// search has reached.
type seatList struct {
	seats  []int
	back   []int // by place in the list: where to look on, backward
	search []int // the search that `back` is of

	// What a search has looked at in one stretch: seats from lo up to hi.
	looked, lo, hi int
}

// covers tells whether a search has looked at all seats from one up to another, and
// otherwise notes that it does so now.
func (l *seatList) covers(search, from, to int) bool {
	switch {
	case l.looked != search || from > l.hi || to < l.lo:
		l.looked, l.lo, l.hi = search, from, to
		return false
	case from >= l.lo && to <= l.hi:
		return true
	}
	l.lo, l.hi = min(l.lo, from), max(l.hi, to)
	return false
}

func newMatching(p *planner) *matching {
	m := &matching{planner: p, lists: make(map[int32]*seatList), begins: make([]int, len(p.items)),
		listOf: make([]*seatList, len(p.items)), reached: make([]int, len(p.seats)), from: make([]int,
			len(p.seats)), seat: -1}
	for _, i := range p.urgent {
		m.listOf[i] = m.list(i)
		m.begins[i] = sort.Search(len(p.seats), func(t int) bool { return p.seats[t].at >= p.items[i].notBefore })
	}
	return m
}

// list is the seats whose lane an item may take; categories with the same seats share one.
func (m *matching) list(i int) *seatList {
	it := &m.items[i]
	if l := m.lists[it.category]; l != nil {
		return l
	}
	var seats []int
	for t := range m.reached {
		if inLane(m.seats[t].slot.Lane, it.Category) {
			seats = append(seats, t)
		}
	}
	for _, l := range m.lists {
		if slices.Equal(l.seats, seats) {
			m.lists[it.category] = l
			return l
		}
	}
	l := &seatList{seats: seats, back: make([]int, len(seats)+1), search: make([]int, len(seats)+1)}
	m.lists[it.category] = l
	return l
}

// place returns the last place before `at` of a seat that the search has not reached, plus
// one; 0 where there is none. Places that it passes over point further back from then on.
func (l *seatList) place(at, search int) int {
	to := at
	for to > 0 && l.search[to] == search {
		to = l.back[to]
	}
	for at > 0 && l.search[at] == search && at != to {
		at, l.back[at] = l.back[at], to
	}
	return to
}

// begin starts a search.
func (m *matching) begin() {
	m.search++
	m.line = m.line[:0]
}

// add lets the search begin at an item too.
func (m *matching) add(i int) { m.line = append(m.line, i) }

// run looks at all seats from `first` on that lead from the items in line to others, and
// returns the first it finds that nobody holds, or -1.
func (m *matching) run(first int) int {
	for len(m.line) > 0 {
		i := m.line[0]
		m.line = m.line[1:]
		it, l := &m.items[i], m.listOf[i]
		if l.covers(m.search, max(m.begins[i], first), it.end) {
			continue
		}
		at := sort.SearchInts(l.seats, it.end)
		for {
			if at = l.place(at, m.search); at == 0 {
				break
			}
			t := l.seats[at-1]
			if t < first || t < m.begins[i] {
				break
			}
			l.search[at], l.back[at] = m.search, at-1
			if m.reached[t] == m.search {
				continue
			}
			m.reached[t], m.from[t] = m.search, i
			if m.holder[t] < 0 {
				return t
			}
			m.add(m.holder[t])
		}
	}
	return -1
}

// shift moves items along the path that led to a seat nobody holds, and returns the item
// at its beginning, which held none.
func (m *matching) shift(t int) int {
	for {
		i := m.from[t]
		before := m.lift(i)
		m.put(i, t)
		if before < 0 {
			return i
		}
		t = before
	}
}

// match keeps a seat for an item, moving others where that helps; it fails only where
// there is no way.
func (m *matching) match(i int) bool {
	if !m.failed {
		m.begin()
	} // what has led nowhere leads nowhere, as long as nothing is moved
	m.add(i)
	t := m.run(0)
	m.failed = t < 0
	if t >= 0 {
		m.shift(t)
	}
	return t >= 0
}

// look finds out who may take seat t without a deadline being lost, where it is held.
func (m *matching) look(t int) {
	if m.seat == t && m.known {
		return
	}
	m.seat, m.known = t, true
	m.begin()
	m.add(m.holder[t])
	if m.free = m.run(t+1) >= 0; m.free {
		return
	}
	m.dropIdle(t)
	m.line = append(m.line[:0], m.loose...)
	m.run(t + 1)
}

// may tells whether an item may take seat t, which another holds, without a deadline being
// lost: whoever holds it may go elsewhere, or has no better right to be met, or the item
// leaves a seat that leads to one who waits.
func (m *matching) mayTake(i, t int) bool {
	m.look(t)
	if m.free {
		return true
	}
	it := &m.items[i]
	if !it.hasDeadline() {
		return false
	}
	return it.reserved < 0 || m.reached[it.reserved] == m.search
}

// first is the first in line of those with deadlines that may take seat t, which is held.
func (m *matching) first(t int) int {
	m.look(t)
	best := m.holder[t] // whose seat it is
	consider := func(i int) {
		if i >= 0 && i < best && m.items[i].seat < 0 && !m.items[i].gone && m.suits(i, t) == fits {
			best = i
		}
	}
	for _, i := range m.loose {
		consider(i)
	}
	for seat := t + 1; seat < len(m.reached); seat++ {
		if m.reached[seat] == m.search {
			consider(m.holder[seat])
		}
	}
	return best
}

// try is the planner's try.
func (m *matching) try(i, t int) cause {
	if why := m.suits(i, t); why != fits {
		m.note(i, t, why)
		return why
	}
	// Seats after the last deadline are held by nobody and were never counted.
	holder := m.holder[t]
	if holder >= 0 && holder != i && !m.mayTake(i, t) {
		return needed
	}
	m.lift(i)
	if holder >= 0 && holder != i {
		m.lift(holder)
	}
	m.countAt(i, t, 1)
	m.settle(i, t)
	m.known = false
	if holder >= 0 && holder != i {
		m.resettle(holder, t+1)
	}
	return fits
}

// resettle finds a seat from `first` on for an item that has lost its own, or for one that
// waits without, whichever can be had.
func (m *matching) resettle(lost, first int) {
	m.begin()
	m.add(lost)
	t := m.run(first)
	if t < 0 {
		m.dropIdle(first - 1)
		m.loose = append(m.loose, lost)
		m.line = append(m.line[:0], m.loose...)
		if t = m.run(first); t < 0 {
			return
		}
	}
	m.shift(t)
	m.dropIdle(first - 1)
}
