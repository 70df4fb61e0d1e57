package queue

import (
	"cmp"
	"container/heap"
	"iter"
	"math"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// item is a draft as the planner sees it; its index is its rank on the shelf.
type item struct {
	Draft
	author, category    int32
	notBefore, deadline int64 // seconds since 1970
	end                 int   // the first seat past its deadline
	tried               int   // the seat it was last tried for, plus one
	seat                int   // where it is placed, or -1
	reserved            int   // the seat that is kept for its deadline, or -1
	gone                bool  // its deadline has passed
	passed              []passed
	aheadOf             []int // those that would have had its seat, but for its deadline
	behind              int   // who went ahead of it first, or -1
}

// passed is a seat that the draft was first in line for and could not take.
type passed struct {
	seat  int
	cause cause
}

// keptPassed bounds how many passed seats are remembered for the reason.
const keptPassed = 2

func (d *item) hasDeadline() bool { return d.deadline != math.MaxInt64 }

// planner works a request through. It keeps a reservation for every deadline that
// can be met, in the latest seats, so that a seat is free for the first in line
// unless a reservation needs it and can go nowhere else.
type planner struct {
	request Request
	items   []item
	seats   []seat
	holder  []int // by seat: the item that it is reserved for, or -1
	ledger  *ledger
	next    func() (rhythm.Slot, bool)
	stop    func()
	ended   bool

	groups   map[[2]int32]*group
	heads    groupHeap
	held     []int     // items whose not-before is to come, by that time
	pending  int       // items that are neither placed nor given up
	urgent   []int     // items with deadlines, in shelf order
	course   *course   // decides where caps are set and deadlines are few; or nil
	matching *matching // decides where no caps are set; or nil
	unproven bool      // more deadlines might be met than are
	target   int       // how many deadlines are met in all; of the course
	met      int       // deadlines met so far
	stuck    bool      // the present seat is needed by a reservation that can go nowhere else
	visited  []int     // marks of augmenting searches, by seat
	visit    int
	trail    []int // the seats that the last augmenting search went through
	steps    int   // what is left of its budget
	loose    []int // items with deadlines that no seat is kept for
}

func newPlanner(r Request) *planner {
	p := &planner{request: r, ledger: newLedger(r.Caps), groups: make(map[[2]int32]*group)}
	p.next, p.stop = iter.Pull(r.Slots)
	authors, categories := numbering{}, numbering{}
	for i, d := range once(r.Shelf) {
		it := item{Draft: d, author: authors.of(d.Author), category: categories.of(d.Category), seat: -1, reserved: -1,
			behind:    -1,
			notBefore: math.MinInt64, deadline: math.MaxInt64}
		if !d.NotBefore.IsZero() {
			it.notBefore = d.NotBefore.Unix()
		}
		if !d.Deadline.IsZero() {
			it.deadline = d.Deadline.Unix()
			p.urgent = append(p.urgent, i)
		}
		p.items = append(p.items, it)
	}
	for _, s := range r.Standing {
		day, week := p.dates(s.At)
		p.ledger.count(authors.of(s.Author), categories.of(s.Category), day, week, 1)
	}
	p.line()
	return p
}

// line puts the items in line: by author and category, those to be held back apart.
func (p *planner) line() {
	for i := range p.items {
		if p.items[i].notBefore != math.MinInt64 {
			p.held = append(p.held, i)
		} else {
			p.enqueue(i)
		}
	}
	slices.SortStableFunc(p.held, func(a, b int) int { return cmp.Compare(p.items[a].notBefore, p.items[b].notBefore) })
	p.pending = len(p.items)
}

// numbering gives names numbers; the empty name is none.
type numbering map[string]int32

func (n numbering) of(name string) int32 {
	if name == "" {
		return none
	}
	number, ok := n[name]
	if !ok {
		number = int32(len(n))
		n[name] = number
	}
	return number
}

var firstMonday = civil.MustDate("0001-01-01") // was a Monday

func (p *planner) dates(at time.Time) (day, week int32) { return dates(p.request.Zone, at) }

// dates numbers the zone's date of a moment, and its week from Monday to Sunday.
func dates(zone civil.Zone, at time.Time) (day, week int32) {
	day = int32(zone.DateOf(at).Sub(firstMonday))
	return day, day / 7
}

// reach makes sure that seat t is there, and tells whether it is.
func (p *planner) reach(t int) bool {
	for len(p.seats) <= t && !p.ended {
		slot, ok := p.next()
		if !ok {
			p.ended = true
			p.stop()
			break
		}
		day, week := p.dates(slot.At)
		p.seats = append(p.seats, seat{slot, slot.At.Unix(), day, week})
		p.holder = append(p.holder, -1)
		p.visited = append(p.visited, 0)
	}
	return t < len(p.seats)
}

// may tells whether the item may take the seat by itself and by the caps, beside all
// that is settled, placed or reserved.
func (p *planner) may(i, t int) cause {
	if c := p.suits(i, t); c != fits {
		return c
	}
	it := &p.items[i]
	return p.ledger.room(it.author, it.category, &p.seats[t])
}

// suits is may without the caps.
func (p *planner) suits(i, t int) cause {
	it, s := &p.items[i], &p.seats[t]
	switch {
	case s.at < it.notBefore:
		return tooEarly
	case s.at > it.deadline:
		return tooLate
	case !inLane(s.slot.Lane, it.Category):
		return otherLane
	}
	return fits
}

func (p *planner) countAt(i, t, n int) {
	it, s := &p.items[i], &p.seats[t]
	p.ledger.count(it.author, it.category, s.day, s.week, n)
}

func (p *planner) put(i, t int) {
	p.items[i].reserved, p.holder[t] = t, i
	p.countAt(i, t, 1)
}

// lift takes an item's reservation away and returns its seat, or -1.
func (p *planner) lift(i int) int {
	t := p.items[i].reserved
	if t >= 0 {
		p.items[i].reserved, p.holder[t] = -1, -1
		p.countAt(i, t, -1)
	}
	return t
}

// fill gives seat t to the first in line that may take it without one more deadline
// being missed. Besides the first of each group, only items with deadlines can fare
// better than the first of their group, so only those are tried after it.
func (p *planner) fill(t int) {
	p.release(t)
	p.stuck = false
	var opened []*group
	var more ranks // items with deadlines that may fare better than the first of their group
	var barred []int
	chosen := -1
	for chosen < 0 {
		p.settleHeads(t)
		var i int
		switch {
		case more.Len() > 0 && (p.heads.Len() == 0 || more[0] <= p.heads[0].items[0]):
			i = heap.Pop(&more).(int)
		case p.heads.Len() > 0:
			g := heap.Pop(&p.heads).(*group)
			opened = append(opened, g)
			i = g.items[0]
		default:
			p.reopen(opened, t)
			return
		}
		if p.items[i].tried == t+1 {
			continue
		}
		p.items[i].tried = t + 1
		switch why := p.try(i, t); why {
		case fits:
			chosen = i
		case otherLane:
		case needed:
			if barred = append(barred, i); len(barred) == 1 {
				more = p.relievers(t, more)
			}
		default:
			more = p.neighbours(t, i, more)
		}
	}
	p.tell(chosen, barred)
	p.reopen(opened, t)
}

// relievers adds the items that could take a seat which is needed for some deadline,
// in place of the one it is kept for: those whose seats an exchange would lead
// through, and those that no seat is kept for.
func (p *planner) relievers(t int, to ranks) ranks {
	add := func(i int) {
		if it := &p.items[i]; it.seat < 0 && !it.gone && it.notBefore <= p.seats[t].at {
			heap.Push(&to, i)
		}
	}
	if p.course != nil {
		for _, i := range p.urgent {
			add(i)
		}
		return to
	}
	if p.matching != nil {
		add(p.matching.first(t))
		return to
	}
	if i := p.holder[t]; i >= 0 {
		add(i)
	}
	for _, seat := range p.trail {
		if i := p.holder[seat]; i >= 0 {
			add(i)
		}
	}
	p.dropIdle(t)
	for _, i := range p.loose {
		add(i)
	}
	return to
}

// neighbours adds the items of the same author or category whose own reserved seat is
// so near that it, and not another's, may be what fills a cap.
func (p *planner) neighbours(t, head int, to ranks) ranks {
	const week = 7
	reach := p.seats[t].day + int32(max(week, p.request.Caps.CategoryDays))
	for seat := t; seat < len(p.seats) && p.seats[seat].day <= reach; seat++ {
		i := p.holder[seat]
		if i < 0 || i == head || p.items[i].notBefore > p.seats[t].at {
			continue
		}
		if p.items[i].author == p.items[head].author || p.items[i].category == p.items[head].category ||
			p.request.Caps.Day > 0 {
			heap.Push(&to, i)
		}
	}
	if p.course != nil {
		return p.relievers(t, to)
	}
	return to
}

// dropIdle keeps in the list of items without a seat only those that still wait.
func (p *planner) dropIdle(t int) {
	p.loose = slices.DeleteFunc(p.loose, func(i int) bool {
		it := &p.items[i]
		return it.seat >= 0 || it.reserved >= 0 || it.gone || it.deadline < p.seats[t].at
	})
}

// settleHeads brings the group with the lowest first item to the top of the heap,
// past and placed items dropped.
func (p *planner) settleHeads(t int) {
	for p.heads.Len() > 0 {
		g := p.heads[0]
		before := g.items[0]
		p.expire(g, t)
		switch {
		case len(g.items) == 0:
			heap.Pop(&p.heads)
		case g.items[0] != before:
			heap.Fix(&p.heads, 0)
		default:
			return
		}
	}
}

// reopen puts the groups that were looked at back in the heap.
func (p *planner) reopen(groups []*group, t int) {
	for _, g := range groups {
		if p.expire(g, t); len(g.items) > 0 {
			heap.Push(&p.heads, g)
		}
	}
}

// tell remembers who went ahead of whom: of the barred, the first in line would have
// had the seat.
func (p *planner) tell(chosen int, barred []int) {
	for _, i := range barred {
		if i < chosen {
			p.items[chosen].aheadOf = append(p.items[chosen].aheadOf, i)
			if p.items[i].behind < 0 {
				p.items[i].behind = chosen
			}
		}
	}
}

// try gives the seat to the item if it may take it and no deadline is lost by it; it
// returns fits then, and otherwise the cause.
func (p *planner) try(i, t int) cause {
	if p.course != nil {
		return p.course.try(i, t)
	}
	if p.matching != nil {
		return p.matching.try(i, t)
	}
	plain := !p.items[i].hasDeadline()
	if plain && p.stuck && p.suits(i, t) == fits {
		return needed
	}
	own := p.lift(i)
	other := p.holder[t]
	if other >= 0 {
		p.lift(other)
	}
	why := p.may(i, t)
	if why == fits {
		p.countAt(i, t, 1)
		p.settle(i, t)
		// An item that no seat was kept for may take the place of one that had it.
		if other < 0 || p.replace(other, t+1, own >= 0) {
			return fits
		}
		if !plain && own < 0 {
			p.loose = append(p.loose, other)
			return fits
		}
		p.unsettle(i)
		p.countAt(i, t, -1)
		why, p.stuck = needed, p.stuck || plain
	} else {
		p.note(i, t, why)
	}
	if other >= 0 {
		p.put(other, t)
	}
	if own >= 0 {
		p.put(i, own)
	}
	return why
}

// settle places the item; its count is in the ledger already.
func (p *planner) settle(i, t int) {
	p.items[i].seat = t
	p.pending--
	if p.items[i].hasDeadline() {
		p.met++
	}
}

// unsettle takes back what settle did.
func (p *planner) unsettle(i int) {
	p.items[i].seat = -1
	p.pending++
	if p.items[i].hasDeadline() {
		p.met--
	}
}

// note remembers that the first in line could not take a seat.
func (p *planner) note(i, t int, why cause) {
	it := &p.items[i]
	if len(it.passed) < keptPassed {
		it.passed = append(it.passed, passed{t, why})
		return
	}
	it.passed[keptPassed-1] = passed{t, why}
}
