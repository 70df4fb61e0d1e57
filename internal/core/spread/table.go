package spread

import (
	"math"
	"math/rand/v2"
)

// table counts the ways to place what is left of several demands from each
// minute on. With one demand it is the recurrence
//
//	ways(i, k) = ways(i+1, k) + allowed(i) · ways(i+gap, k-1)
//
// and with several, k is the vector of what each still wants: a time at minute i
// goes to one of the demands that allow it. The vector is kept as one number in
// mixed radix, so a state is an index.
//
// The counts pass what a float64 can hold, so each is a pair of a float64 and an
// exponent. Only additions of positive numbers and scaling by powers of two
// happen to them, which every machine rounds alike.
type table struct {
	gap     int
	start   int      // the minute of row 0
	rows    int      // minutes; row `rows` is the end, where nothing is left to place
	allowed [][]bool // by demand, by row
	stride  []int    // what one time of a demand adds to the state index
	radix   []int    // N+1 of each demand
	states  int
	value   []float64
	scale   []int32
}

// scaleBits is the power of two by which one step of the exponent counts.
const scaleBits = 512

var scaleLimit = math.Ldexp(1, scaleBits)

func bounds(demands []Demand) (from, to int) {
	from, to = math.MaxInt, math.MinInt
	for _, d := range demands {
		for _, s := range d.Stretches {
			from, to = min(from, s.From), max(to, s.To)
		}
	}
	return from, max(from, to)
}

// tableCells is the size of the table that newTable would make, or more than
// maxCells where it would be too large.
func tableCells(demands []Demand) int {
	from, to := bounds(demands)
	cells := to - from + 1
	for _, d := range demands {
		cells *= d.N + 1
		if cells > maxCells {
			return cells
		}
	}
	return cells
}

func newTable(demands []Demand, gap int, uneven bool) *table {
	from, to := bounds(demands)
	t := &table{gap: gap, start: from, rows: to - from, states: 1}
	for _, d := range demands {
		t.stride = append(t.stride, t.states)
		t.radix = append(t.radix, d.N+1)
		t.states *= d.N + 1
		allowed := make([]bool, t.rows)
		for _, s := range d.Stretches {
			for m := s.From; m < s.To; m++ {
				allowed[m-from] = !uneven || !IsEven(m)
			}
		}
		t.allowed = append(t.allowed, allowed)
	}
	t.count()
	return t
}

func (t *table) count() {
	t.value = make([]float64, (t.rows+1)*t.states)
	t.scale = make([]int32, (t.rows+1)*t.states)
	t.value[t.rows*t.states] = 1
	for row := t.rows - 1; row >= 0; row-- {
		here, next := row*t.states, (row+1)*t.states
		copy(t.value[here:next], t.value[next:next+t.states])
		copy(t.scale[here:next], t.scale[next:next+t.states])
		after := min(row+t.gap, t.rows) * t.states
		for d := range t.stride {
			if !t.allowed[d][row] {
				continue
			}
			for state := range t.states {
				if t.wants(d, state) {
					t.add(here+state, after+state-t.stride[d])
				}
			}
		}
	}
}

// wants tells whether demand d still wants a time in the state.
func (t *table) wants(d, state int) bool { return state/t.stride[d]%t.radix[d] > 0 }

// add adds the count of one cell to another.
func (t *table) add(to, from int) {
	value, step := t.value[from], t.scale[from]-t.scale[to]
	switch {
	case value == 0:
		return
	case t.value[to] == 0:
		t.value[to], t.scale[to] = value, t.scale[from]
		return
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

// fullest returns the state with the most times that can be placed from the
// first minute on; among equals the one that gives earlier demands more.
func (t *table) fullest() int {
	best, most := 0, -1
	for state := range t.states {
		if t.value[state] == 0 {
			continue
		}
		total := 0
		for d := range t.stride {
			total += state / t.stride[d] % t.radix[d]
		}
		if total > most || total == most && t.prefers(state, best) {
			best, most = state, total
		}
	}
	return best
}

// prefers tells whether state a gives the first demand that differs more than b.
func (t *table) prefers(a, b int) bool {
	for d := range t.stride {
		inA, inB := a/t.stride[d]%t.radix[d], b/t.stride[d]%t.radix[d]
		if inA != inB {
			return inA > inB
		}
	}
	return false
}

// draw walks from the first minute and takes each choice with its share of the
// ways.
func (t *table) draw(rng *rand.Rand) [][]int {
	times := make([][]int, len(t.stride))
	state := t.fullest()
	for row := 0; row < t.rows && state > 0; {
		taker := t.choose(row, state, rng)
		if taker < 0 {
			row++
			continue
		}
		times[taker] = append(times[taker], t.start+row)
		state -= t.stride[taker]
		row = min(row+t.gap, t.rows)
	}
	return times
}

// choose returns the demand that takes the row's minute, or -1 for none.
func (t *table) choose(row, state int, rng *rand.Rand) int {
	here := row*t.states + state
	after := min(row+t.gap, t.rows) * t.states
	left := float64(rng.Float64() * t.value[here]) // the conversion forbids fusing with the subtraction below
	for d := range t.stride {
		if !t.allowed[d][row] || !t.wants(d, state) {
			continue
		}
		from := after + state - t.stride[d]
		share := math.Ldexp(t.value[from], int(t.scale[from]-t.scale[here])*scaleBits)
		if left < share {
			return d
		}
		left -= share
	}
	// What is left is the share of leaving the minute free; rounding may not
	// lead to where there is no way.
	if t.value[(row+1)*t.states+state] == 0 {
		return t.lastTaker(row, state)
	}
	return -1
}

// lastTaker is the last demand with a way to go on after taking the row's minute.
func (t *table) lastTaker(row, state int) int {
	after := min(row+t.gap, t.rows) * t.states
	for d := len(t.stride) - 1; d >= 0; d-- {
		if t.allowed[d][row] && t.wants(d, state) && t.value[after+state-t.stride[d]] > 0 {
			return d
		}
	}
	return -1
}
