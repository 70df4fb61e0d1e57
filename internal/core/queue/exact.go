package queue

import (
	"cmp"
	"encoding/binary"
	"math/bits"
	"slices"
	"sort"
)

const (
	// mostSearched is for how many deadlines under caps the search is tried: as many as a
	// word has bits.
	mostSearched = 64
	// searchSteps bounds the work of one placement's search: of finding how many deadlines
	// can be met, and once more of deciding seat by seat.
	searchSteps = 100_000
	// shortSearch is how many steps are tried first.
	shortSearch = 1_000
)

// course searches through the ways to give drafts with deadlines their seats under caps,
// in order of time. It is exact where its steps last.
//
// Of drafts of one author and category that may take a seat, only the one with the
// earliest deadline is tried: any way that gives it to another can be changed into one
// that does not. A state from which too few can be met is remembered, by what of the past
// matters to the future: who waits, what the day and the week hold, and on which date each
// category came last. Bounds cut off what cannot help: each author's, each category's and
// the whole blog's share of the seats up to each deadline.
type course struct {
	p     *planner
	waits []waiting // by deadline
	index map[int]int
	end   int      // seats are looked at up to here
	alive []uint64 // by seat: those whose deadline is not before it

	authors, categories numbers
	lanes               [][]bool // by category, by seat

	firstDay, firstWeek int32
	days, weeks         int
	day                 []int32 // posts, by day
	authorDay           []int32 // by author and day
	authorWeek          []int32 // by author and week
	blocked             []bool  // by category and day: too near to what stands
	last                []int32 // by category: the day on which it came last
	daySeats            []int32 // by day, up to end: how many seats the caps leave at most
	roomTo              []int32 // by seat: of daySeats up to and with its day
	authorRoom          []int32 // by author and week: posts that the caps leave, weeks before included

	failed map[string]uint8 // by state: fewest that could not be met
	key    []byte
	steps  int
	plan   []int // by waiting: the seat in the way found last, or -1
	prices *prices
	counts [2][]int32
}

// waiting is a draft with a deadline.
type waiting struct {
	item             int
	author, category int // of the course; -1: none, or no cap counts it
	kind             int // drafts of one author and category have one
	from, end        int // seats
}

// numbers gives numbers of the planner smaller ones.
type numbers map[int32]int

func (n numbers) of(number int32) int {
	if number == none {
		return -1
	}
	small, ok := n[number]
	if !ok {
		small = len(n)
		n[number] = small
	}
	return small
}

const never = -1 << 20 // a day long before any

// newCourse prepares the search for the planner's drafts with deadlines, none of which is
// placed yet. All seats up to the last deadline are there.
func newCourse(p *planner) *course {
	c := &course{p: p, index: make(map[int]int), authors: numbers{}, categories: numbers{},
		failed: make(map[string]uint8)}
	caps := p.request.Caps
	for _, i := range p.urgent {
		it := &p.items[i]
		w := waiting{item: i, author: -1, category: -1, end: it.end,
			from: sort.Search(len(p.seats), func(t int) bool { return p.seats[t].at >= it.notBefore })}
		if caps.AuthorDay > 0 || caps.AuthorWeek > 0 {
			w.author = c.authors.of(it.author)
		}
		w.category = c.categories.of(it.category)
		c.end = max(c.end, w.end)
		c.waits = append(c.waits, w)
	}
	slices.SortStableFunc(c.waits, func(a, b waiting) int { return cmp.Compare(a.end, b.end) })
	kinds := make(map[[2]int]int)
	for k := range c.waits {
		w := &c.waits[k]
		c.index[w.item] = k
		kind := [2]int{w.author, w.category}
		if _, known := kinds[kind]; !known {
			kinds[kind] = len(kinds)
		}
		w.kind = kinds[kind]
	}
	c.plan = c.noPlan()
	c.survey()
	c.count()
	c.measure()
	c.prices = newPrices(c)
	return c
}

// survey looks at the seats: their days, and which lanes they have.
func (c *course) survey() {
	p := c.p
	c.alive = make([]uint64, c.end+1)
	for t := range c.end {
		for k, w := range c.waits {
			if w.end > t {
				c.alive[t] |= 1 << k
			}
		}
	}
	c.lanes = make([][]bool, len(c.categories)+1)
	for _, w := range c.waits {
		if row := &c.lanes[w.category+1]; *row == nil {
			*row = make([]bool, c.end)
			for t := range c.end {
				(*row)[t] = inLane(p.seats[t].slot.Lane, p.items[w.item].Category)
			}
		}
	}
	if c.end > 0 {
		c.firstDay, c.firstWeek = p.seats[0].day, p.seats[0].week
		c.days, c.weeks = int(p.seats[c.end-1].day-c.firstDay)+1, int(p.seats[c.end-1].week-c.firstWeek)+1
	}
}

// count reads from the ledger what stands.
func (c *course) count() {
	l, caps := c.p.ledger, c.p.request.Caps
	c.day, c.authorDay, c.authorWeek = make([]int32, c.days), make([]int32, len(c.authors)*c.days), make([]int32,
		len(c.authors)*c.weeks)
	c.blocked, c.last = make([]bool, len(c.categories)*c.days), make([]int32, len(c.categories))
	for d := range c.days {
		c.day[d] = int32(l.byDay[c.firstDay+int32(d)])
	}
	for author, a := range c.authors {
		for d := range c.days {
			c.authorDay[a*c.days+d] = int32(l.authorDay[[2]int32{author, c.firstDay + int32(d)}])
		}
		for w := range c.weeks {
			c.authorWeek[a*c.weeks+w] = int32(l.authorWeek[[2]int32{author, c.firstWeek + int32(w)}])
		}
	}
	for k := range c.last {
		c.last[k] = never
	}
	if caps.CategoryDays == 0 {
		return
	}
	for key, n := range l.category {
		k, known := c.categories[key[0]]
		if !known || n == 0 {
			continue
		}
		for off := 1 - int32(caps.CategoryDays); off < int32(caps.CategoryDays); off++ {
			if d := key[1] + off - c.firstDay; d >= 0 && d < int32(c.days) {
				c.blocked[k*c.days+int(d)] = true
			}
		}
	}
}

// measure sums up the room that the caps leave, for the bounds.
func (c *course) measure() {
	p, caps := c.p, c.p.request.Caps
	c.daySeats = make([]int32, c.days)
	for t := range c.end {
		c.daySeats[p.seats[t].day-c.firstDay]++
	}
	if caps.Day > 0 {
		for d := range c.daySeats {
			c.daySeats[d] = min(c.daySeats[d], max(int32(caps.Day)-c.day[d], 0))
		}
	}
	c.roomTo = make([]int32, c.days+1)
	for d, n := range c.daySeats {
		c.roomTo[d+1] = c.roomTo[d] + n
	}
	c.authorRoom = make([]int32, len(c.authors)*(c.weeks+1))
	for _, a := range c.authors {
		week := make([]int32, c.weeks)
		for d, n := range c.daySeats {
			if caps.AuthorDay > 0 {
				n = min(n, max(int32(caps.AuthorDay)-c.authorDay[a*c.days+d], 0))
			}
			week[c.weekOf(d)] += n
		}
		row := c.authorRoom[a*(c.weeks+1):]
		for w, n := range week {
			if caps.AuthorWeek > 0 {
				n = min(n, max(int32(caps.AuthorWeek)-c.authorWeek[a*c.weeks+w], 0))
			}
			row[w+1] = row[w] + n
		}
	}
	c.counts = [2][]int32{make([]int32, len(c.authors)+1), make([]int32, len(c.categories)+1)}
}

func (c *course) weekOf(day int) int { return int((c.firstDay+int32(day))/7 - c.firstWeek) }

func (c *course) dayAt(t int) int  { return int(c.p.seats[t].day - c.firstDay) }
func (c *course) weekAt(t int) int { return int(c.p.seats[t].week - c.firstWeek) }

// fits tells whether the caps and the lane leave seat t to a waiting draft, beside what
// stands and what was taken before.
func (c *course) fits(w *waiting, t int) bool {
	caps, d := &c.p.request.Caps, c.dayAt(t)
	if !c.lanes[w.category+1][t] || caps.Day > 0 && c.day[d] >= int32(caps.Day) {
		return false
	}
	if w.author >= 0 {
		if caps.AuthorDay > 0 && c.authorDay[w.author*c.days+d] >= int32(caps.AuthorDay) ||
			caps.AuthorWeek > 0 && c.authorWeek[w.author*c.weeks+c.weekAt(t)] >= int32(caps.AuthorWeek) {
			return false
		}
	}
	return w.category < 0 || caps.CategoryDays == 0 ||
		!c.blocked[w.category*c.days+d] && int32(d)-c.last[w.category] >= int32(caps.CategoryDays)
}

// take counts a draft of an author and category at seat t; it returns the day on which
// the category came last before, for giving it back.
func (c *course) take(author, category, t int) (before int32) {
	d := c.dayAt(t)
	c.day[d]++
	if author >= 0 {
		c.authorDay[author*c.days+d]++
		c.authorWeek[author*c.weeks+c.weekAt(t)]++
	}
	if category >= 0 {
		before, c.last[category] = c.last[category], int32(d)
	}
	return before
}

// give takes a take back.
func (c *course) give(author, category, t int, before int32) {
	d := c.dayAt(t)
	c.day[d]--
	if author >= 0 {
		c.authorDay[author*c.days+d]--
		c.authorWeek[author*c.weeks+c.weekAt(t)]--
	}
	if category >= 0 {
		c.last[category] = before
	}
}

// all are the drafts that wait still.
func (c *course) all() uint64 {
	var left uint64
	for k, w := range c.waits {
		if it := &c.p.items[w.item]; it.seat < 0 && !it.gone {
			left |= 1 << k
		}
	}
	return left
}

// meets looks for a way to meet `need` deadlines of those left from seat t on, and keeps
// it in plan. Where it finds none, it has looked through all ways as long as steps are
// left.
func (c *course) meets(t int, left uint64, need int) bool {
	for {
		if need <= 0 {
			return true
		}
		if t >= c.end || c.steps <= 0 {
			return false
		}
		left &= c.alive[t]
		if bits.OnesCount64(left) < need || c.end-t < need {
			return false
		}
		if c.anyone(t, left) {
			break
		}
		t++
	}
	c.steps--
	if c.prices.bound(t, left) < need || c.bound(t, left) < need {
		return false
	}
	key := c.state(t, left)
	if least, known := c.failed[key]; known && need >= int(least) {
		return false
	}
	var tried uint64
	for rest := left; rest != 0; {
		k := bits.TrailingZeros64(rest)
		rest &^= 1 << k
		w := &c.waits[k]
		if w.from > t || tried&(1<<w.kind) != 0 || !c.fits(w, t) {
			continue
		}
		tried |= 1 << w.kind
		before := c.take(w.author, w.category, t)
		ok := c.meets(t+1, left&^(1<<k), need-1)
		c.give(w.author, w.category, t, before)
		if ok {
			c.plan[k] = t
			return true
		}
	}
	if c.meets(t+1, left, need) {
		return true
	}
	if c.steps > 0 {
		c.failed[key] = uint8(need)
	}
	return false
}

// anyone tells whether one of those left may take seat t.
func (c *course) anyone(t int, left uint64) bool {
	for rest := left; rest != 0; rest &= rest - 1 {
		w := &c.waits[bits.TrailingZeros64(rest)]
		if w.from <= t && c.fits(w, t) {
			return true
		}
	}
	return false
}

// state is what decides how many of those left can be met from seat t on.
func (c *course) state(t int, left uint64) string {
	caps, d, w := &c.p.request.Caps, c.dayAt(t), c.weekAt(t)
	key := c.key[:0]
	key = binary.LittleEndian.AppendUint16(key, uint16(t))
	key = binary.LittleEndian.AppendUint64(key, left)
	if caps.Day > 0 {
		key = append(key, byte(min(c.day[d], 255)))
	}
	var authors, categories uint64
	for rest := left; rest != 0; rest &= rest - 1 {
		one := &c.waits[bits.TrailingZeros64(rest)]
		if a := one.author; a >= 0 && authors&(1<<a) == 0 {
			authors |= 1 << a
			if caps.AuthorDay > 0 {
				key = append(key, byte(min(c.authorDay[a*c.days+d], 255)))
			}
			if caps.AuthorWeek > 0 {
				key = append(key, byte(min(c.authorWeek[a*c.weeks+w], 255)))
			}
		}
		if k := one.category; k >= 0 && caps.CategoryDays > 0 && categories&(1<<k) == 0 {
			categories |= 1 << k
			ago := min(int32(d)-c.last[k], int32(caps.CategoryDays))
			key = append(key, byte(ago), byte(ago>>8))
		}
	}
	c.key = key
	return string(key)
}

// bound is a number that those met from seat t on cannot exceed: the least of what the
// authors, the categories and the blog as a whole leave room for up to each deadline.
func (c *course) bound(t int, left uint64) int {
	caps := &c.p.request.Caps
	byAuthor, byCategory := c.counts[0], c.counts[1]
	clear(byAuthor)
	clear(byCategory)
	whole, d, w := int32(0), c.dayAt(t), c.weekAt(t)
	for rest := left; rest != 0; rest &= rest - 1 {
		one := &c.waits[bits.TrailingZeros64(rest)]
		lastDay := c.dayAt(one.end - 1)
		room := min(c.roomTo[lastDay+1]-c.roomTo[d], int32(one.end-t))
		whole = min(whole+1, room)
		if a := one.author; a < 0 {
			byAuthor[len(byAuthor)-1] = min(byAuthor[len(byAuthor)-1]+1, room)
		} else {
			row := c.authorRoom[a*(c.weeks+1):]
			most := row[c.weekOf(lastDay)+1] - row[w]
			if caps.AuthorWeek > 0 { // of the week in hand some is used
				most = row[c.weekOf(lastDay)+1] - row[w+1] + min(row[w+1]-row[w],
					max(int32(caps.AuthorWeek)-c.authorWeek[a*c.weeks+w], 0))
			}
			byAuthor[a] = min(byAuthor[a]+1, most, room)
		}
		if k := one.category; k < 0 || caps.CategoryDays == 0 {
			byCategory[len(byCategory)-1] = min(byCategory[len(byCategory)-1]+1, room)
		} else {
			first := max(int32(d), c.last[k]+int32(caps.CategoryDays))
			most := int32(0)
			if first <= int32(lastDay) {
				most = (int32(lastDay)-first)/int32(caps.CategoryDays) + 1
			}
			byCategory[k] = min(byCategory[k]+1, most)
		}
	}
	return int(min(whole, sum(byAuthor), sum(byCategory)))
}

func sum(counts []int32) (total int32) {
	for _, n := range counts {
		total += n
	}
	return total
}

// find finds how many deadlines can be met, with a way to do so; proven tells whether no
// more can. Prices cost more than a short search, so they are made only once that has
// found no way to meet one more.
func (c *course) find() (most int, proven bool) {
	kept := c.noPlan()
	try := func(steps int) bool {
		c.plan = c.noPlan()
		c.steps = steps
		if !c.meets(0, c.all(), most+1) {
			return false
		}
		most++
		kept = slices.Clone(c.plan)
		return true
	}
	for try(shortSearch) {
	}
	if c.steps <= 0 {
		c.prices.tune(0, c.all(), most)
		for left := searchSteps; try(left); left = c.steps {
		}
	}
	c.plan = kept
	return most, c.steps > 0
}

// noPlan is a plan in which nobody has a seat.
func (c *course) noPlan() []int { return slices.Repeat([]int{-1}, len(c.waits)) }

// holds tells whether the plan stays a way to meet `need` deadlines after seat t, were
// another draft to sit there: one of an author and category of the planner.
func (c *course) holds(item, t, need int) bool {
	k, waits := c.index[item]
	type seated struct{ waiting, seat int }
	var later []seated
	for other, seat := range c.plan {
		switch it := &c.p.items[c.waits[other].item]; {
		case waits && other == k, seat < 0, it.seat >= 0:
		case seat == t:
			return false
		default:
			later = append(later, seated{other, seat})
		}
	}
	if len(later) < need {
		return false
	}
	slices.SortFunc(later, func(a, b seated) int { return a.seat - b.seat })
	before := make([]int32, 0, len(later))
	ok := true
	for _, s := range later {
		w := &c.waits[s.waiting]
		if !c.fits(w, s.seat) {
			ok = false
			break
		}
		before = append(before, c.take(w.author, w.category, s.seat))
	}
	for i := len(before) - 1; i >= 0; i-- {
		w := &c.waits[later[i].waiting]
		c.give(w.author, w.category, later[i].seat, before[i])
	}
	return ok
}

// try is the planner's try.
func (c *course) try(i, t int) cause {
	p := c.p
	why := p.may(i, t)
	if why != fits {
		p.note(i, t, why)
		return why
	}
	if t >= c.end {
		p.countAt(i, t, 1)
		p.settle(i, t)
		return fits
	}
	author, category := c.numbersOf(i)
	before := c.take(author, category, t)
	p.countAt(i, t, 1)
	p.settle(i, t)
	need := p.target - p.met
	if need <= 0 || c.holds(i, t, need) {
		return fits
	}
	plan := c.plan
	c.plan = c.noPlan()
	if c.meets(t+1, c.all(), need) {
		return fits
	}
	c.plan = plan
	if c.steps <= 0 {
		p.unproven = true
	}
	p.unsettle(i)
	p.countAt(i, t, -1)
	c.give(author, category, t, before)
	return needed
}

// numbersOf are the course's numbers of an item's author and category; -1 where it does
// not count them.
func (c *course) numbersOf(i int) (author, category int) {
	it := &c.p.items[i]
	author, category = -1, -1
	if a, known := c.authors[it.author]; known {
		author = a
	}
	if k, known := c.categories[it.category]; known {
		category = k
	}
	return author, category
}
