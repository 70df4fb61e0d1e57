package spread

import (
	"math"
	"math/rand/v2"
	"slices"
)

// table counts the ways to place what is left of several classes of times from each
// minute on. With one class it is the recurrence
//
//	ways(i, k) = ways(i+1, k) + allowed(i) · ways(i+gap, k-1)
//
// and with several, k is the vector of what each still wants: a time at minute i goes to
// one of the classes that allow it. A class is open from its first minute to its last, and
// only the open ones are in the vector: one that has not begun wants all of its times, and
// what one that has ended still wanted is missing. So the table has a state for each
// combination of what the classes that are open together want, and not for all of them.
//
// Each cell counts only the ways in which as little as possible is missing, and of those
// the ways in which it is missing from the later classes.
//
// The counts pass what a float64 can hold, so each is a pair of a float64 and an
// exponent. Only additions of positive numbers and scaling by powers of two
// happen to them, which every machine rounds alike.
type table struct {
	gap     int
	start   int // the minute of row 0
	rows    int // minutes; row `rows` is the end, where nothing is left to place
	classes []class
	layers  []layer // by row, the end included
	value   []float64
	scale   []int32
	short   []int32 // what is missing, as a number of `shorts`
	shorts  shortages
}

// class is times of one kind: they may lie on the same minutes.
type class struct {
	Demand
	from, to int    // rows
	allowed  []bool // by row from `from` on
}

// layer is one row's part of the table.
type layer struct {
	open   []int // classes that are open at the row, in order
	least  []int // of each, how many it still wants at least
	size   []int // how many numbers it may still want
	stride []int // what one time of it adds to the state
	offset int
	states int
}

// scaleBits is the power of two by which one step of the exponent counts.
const scaleBits = 512

var scaleLimit = math.Ldexp(1, scaleBits)

const (
	// maxCells bounds the joint table of several classes: 16 bytes a cell.
	maxCells = 1_000_000
	// maxCellsOfOne bounds the table of one class alone. Five hundred times in two days do
	// not reach it.
	maxCellsOfOne = 2_000_000
)

// newTable lays out the table of demands; ok is false where it would pass so many cells.
func newTable(demands []Demand, gap int, uneven bool, most int) (t *table, ok bool) {
	t = &table{gap: gap, start: math.MaxInt, shorts: newShortages()}
	end := math.MinInt
	for _, d := range demands {
		for _, s := range d.Stretches {
			t.start, end = min(t.start, s.From), max(end, s.To)
		}
	}
	t.rows = max(end-t.start, 0)
	if t.rows > most {
		return nil, false
	}
	for _, d := range demands {
		c := class{Demand: d}
		if n := len(d.Stretches); n > 0 {
			c.from, c.to = d.Stretches[0].From-t.start, d.Stretches[n-1].To-t.start
		}
		c.allowed = make([]bool, c.to-c.from)
		for _, s := range d.Stretches {
			for m := s.From; m < s.To; m++ {
				c.allowed[m-t.start-c.from] = !uneven || !IsEven(m)
			}
		}
		t.classes = append(t.classes, c)
	}
	cells := 0
	t.layers = make([]layer, t.rows+1)
	n := len(t.classes)
	backing := make([]int, 4*n*(t.rows+1)) // all layers' lists, in one piece
	list := func() []int {
		one := backing[:0:n]
		backing = backing[n:]
		return one
	}
	for row := range t.layers {
		l := layer{offset: cells, states: 1, open: list(), least: list(), size: list(), stride: list()}
		for i := range t.classes {
			c := &t.classes[i]
			if row < c.from || row >= c.to || c.N == 0 {
				continue
			}
			least := max(c.N-t.placeable(c, row), 0)
			l.open, l.least = append(l.open, i), append(l.least, least)
			l.size, l.stride = append(l.size, c.N-least+1), append(l.stride, l.states)
			if l.states *= c.N - least + 1; l.states > most {
				return nil, false
			}
		}
		if cells += l.states; cells > most {
			return nil, false
		}
		t.layers[row] = l
	}
	t.value, t.scale, t.short = make([]float64, cells), make([]int32, cells), make([]int32, cells)
	t.count()
	return t, true
}

// placeable is how many times of a class there may be before a row at most.
func (t *table) placeable(c *class, row int) int {
	if row <= c.from {
		return 0
	}
	return (row-c.from-1)/t.gap + 1
}

// path says how states of one row become states of a later one.
type path struct {
	offset int
	stride []int  // by class open at the first row: what one time wanted adds; 0: it has ended
	least  []int  // by class open at the first row
	ended  []bool // by class open at the first row
	begin  int    // what classes add that begin between
	short  []int  // classes that begin and end between: nothing of them can be placed
}

// pathTo makes the path from a row to a later one, in place of an older one.
func (t *table) pathTo(p *path, row, to int) {
	from, l := &t.layers[row], &t.layers[to]
	p.offset, p.begin = l.offset, 0
	p.stride, p.least, p.ended, p.short = p.stride[:0], p.least[:0], p.ended[:0], p.short[:0]
	at := 0
	for _, i := range from.open {
		for at < len(l.open) && l.open[at] < i {
			at++
		}
		if at < len(l.open) && l.open[at] == i {
			p.stride, p.least, p.ended = append(p.stride, l.stride[at]), append(p.least, l.least[at]), append(p.ended,
				false)
		} else {
			p.stride, p.least, p.ended = append(p.stride, 0), append(p.least, 0), append(p.ended, true)
		}
	}
	for k, i := range l.open {
		if !slices.Contains(from.open, i) {
			p.begin += (t.classes[i].N - l.least[k]) * l.stride[k]
		}
	}
	for i := range t.classes {
		if c := &t.classes[i]; c.N > 0 && c.from > row && c.to <= to && c.from < to {
			p.short = append(p.short, i)
		}
	}
}

// follow is where a state leads, and what is missing on the way: wants is what each class
// that is open still wants.
func (t *table) follow(p *path, open, wants []int) (cell int, missing int32) {
	cell = p.offset + p.begin
	for k, n := range wants {
		if p.ended[k] {
			missing = t.shorts.plus(missing, open[k], n)
		} else {
			cell += (n - p.least[k]) * p.stride[k]
		}
	}
	for _, i := range p.short {
		missing = t.shorts.plus(missing, i, t.classes[i].N)
	}
	return cell, missing
}

func (t *table) count() {
	t.value[t.layers[t.rows].offset] = 1
	var skip, take path
	var takers, wants []int
	for row := t.rows - 1; row >= 0; row-- {
		l := &t.layers[row]
		t.pathTo(&skip, row, row+1)
		t.pathTo(&take, row, min(row+t.gap, t.rows))
		takers = takers[:0] // by place in l.open
		for k, i := range l.open {
			if c := &t.classes[i]; c.allowed[row-c.from] {
				takers = append(takers, k)
			}
		}
		wants = append(wants[:0], l.least...)
		for state := range l.states {
			cell := l.offset + state
			from, missing := t.follow(&skip, l.open, wants)
			t.add(cell, from, missing)
			for _, k := range takers {
				if wants[k] == 0 {
					continue
				}
				wants[k]--
				from, missing := t.follow(&take, l.open, wants)
				wants[k]++
				t.add(cell, from, missing)
			}
			next(wants, l)
		}
	}
}

// next turns what classes want into that of the next state.
func next(wants []int, l *layer) {
	for k := range wants {
		if wants[k]++; wants[k] < l.least[k]+l.size[k] {
			return
		}
		wants[k] = l.least[k]
	}
}

// add adds the count of one cell, with what is missing on the way to it, to another.
func (t *table) add(to, from int, missing int32) {
	value := t.value[from]
	if value == 0 {
		return
	}
	missing = t.shorts.join(missing, t.short[from])
	if t.value[to] == 0 || missing != t.short[to] {
		if t.value[to] != 0 && !t.shorts.better(missing, t.short[to]) {
			return
		}
		t.value[to], t.scale[to], t.short[to] = value, t.scale[from], missing
		return
	}
	switch step := t.scale[from] - t.scale[to]; {
	case step < 0:
		value = math.Ldexp(value, int(step)*scaleBits)
	case step > 0:
		t.value[to] = math.Ldexp(t.value[to], -int(step)*scaleBits)
		t.scale[to] = t.scale[from]
	}
	t.value[to] += value
	if t.value[to] >= scaleLimit {
		t.value[to] = math.Ldexp(t.value[to], -scaleBits)
		t.scale[to]++
	}
}

// draw walks from the first minute and takes each choice with its share of the ways.
func (t *table) draw(rng *rand.Rand) [][]int {
	times := make([][]int, len(t.classes))
	wants := make([]int, len(t.classes))
	left := 0
	var w walk
	for i, c := range t.classes {
		if len(c.allowed) > 0 {
			wants[i] = c.N
			left += c.N
		}
	}
	for row := 0; row < t.rows && left > 0; {
		taker := t.choose(&w, row, wants, rng)
		to := row + 1
		if taker >= 0 {
			times[taker] = append(times[taker], t.start+row)
			wants[taker]--
			left--
			to = min(row+t.gap, t.rows)
		}
		for i := range t.classes {
			if c := &t.classes[i]; c.to > row && c.to <= to { // what it has not got it will not get
				left -= wants[i]
				wants[i] = 0
			}
		}
		row = to
	}
	return times
}

// walk is room that the steps of a draw share.
type walk struct {
	wants      []int
	skip, take path
}

// choose returns the class that takes the row's minute, or -1 for none.
func (t *table) choose(w *walk, row int, all []int, rng *rand.Rand) int {
	l := &t.layers[row]
	wants := w.wants[:0]
	state := 0
	for k, i := range l.open {
		wants = append(wants, all[i])
		state += (all[i] - l.least[k]) * l.stride[k]
	}
	w.wants = wants
	here := l.offset + state
	left := float64(rng.Float64() * t.value[here]) // the conversion forbids fusing with the subtraction below
	last := -1
	t.pathTo(&w.take, row, min(row+t.gap, t.rows))
	for k, i := range l.open {
		if c := &t.classes[i]; !c.allowed[row-c.from] || wants[k] == 0 {
			continue
		}
		wants[k]--
		from, missing := t.follow(&w.take, l.open, wants)
		wants[k]++
		if t.value[from] == 0 || t.shorts.join(missing, t.short[from]) != t.short[here] {
			continue
		}
		last = i
		share := math.Ldexp(t.value[from], int(t.scale[from]-t.scale[here])*scaleBits)
		if left < share {
			return i
		}
		left -= share
	}
	// What is left is the share of leaving the minute free; rounding may not
	// lead to where there is no way.
	if last >= 0 {
		t.pathTo(&w.skip, row, row+1)
		from, missing := t.follow(&w.skip, l.open, wants)
		if t.value[from] == 0 || t.shorts.join(missing, t.short[from]) != t.short[here] {
			return last
		}
	}
	return -1
}

// shortages numbers what may be missing: how many times of each class. 0 is nothing.
type shortages struct {
	lists  [][]shortage // by number, sorted by class
	totals []int
	known  map[string]int32
	sums   map[[2]int32]int32
}

type shortage struct{ class, n int }

func newShortages() shortages {
	return shortages{lists: [][]shortage{nil}, totals: []int{0}, known: make(map[string]int32),
		sums: make(map[[2]int32]int32)}
}

// number numbers a list.
func (s *shortages) number(list []shortage) int32 {
	if len(list) == 0 {
		return 0
	}
	key := make([]byte, 0, 4*len(list))
	total := 0
	for _, one := range list {
		key = append(key, byte(one.class), byte(one.class>>8), byte(one.n), byte(one.n>>8), byte(one.n>>16))
		total += one.n
	}
	if id, ok := s.known[string(key)]; ok {
		return id
	}
	id := int32(len(s.lists))
	s.lists, s.totals, s.known[string(key)] = append(s.lists, list), append(s.totals, total), id
	return id
}

// plus is what is missing with n more of a class.
func (s *shortages) plus(id int32, class, n int) int32 {
	if n == 0 {
		return id
	}
	return s.join(id, s.number([]shortage{{class, n}}))
}

// join is both together.
func (s *shortages) join(a, b int32) int32 {
	if a == 0 || b == 0 {
		return a + b
	}
	if a > b {
		a, b = b, a
	}
	if id, ok := s.sums[[2]int32{a, b}]; ok {
		return id
	}
	var joined []shortage
	x, y := s.lists[a], s.lists[b]
	for len(x) > 0 || len(y) > 0 {
		switch {
		case len(y) == 0 || len(x) > 0 && x[0].class < y[0].class:
			joined, x = append(joined, x[0]), x[1:]
		case len(x) == 0 || y[0].class < x[0].class:
			joined, y = append(joined, y[0]), y[1:]
		default:
			joined, x, y = append(joined, shortage{x[0].class, x[0].n + y[0].n}), x[1:], y[1:]
		}
	}
	id := s.number(joined)
	s.sums[[2]int32{a, b}] = id
	return id
}

// better tells whether less is missing in a than in b, or as much but of later classes.
func (s *shortages) better(a, b int32) bool {
	if s.totals[a] != s.totals[b] {
		return s.totals[a] < s.totals[b]
	}
	x, y := s.lists[a], s.lists[b]
	for i := range x {
		switch {
		case i == len(y) || x[i].class < y[i].class:
			return false
		case x[i].class > y[i].class:
			return true
		case x[i].n != y[i].n:
			return x[i].n < y[i].n
		}
	}
	return len(x) < len(y)
}
