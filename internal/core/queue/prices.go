package queue

import "math/bits"

// prices bounds how many deadlines can be met, by the dual of the assignment with side
// constraints (Held and Karp, Mathematical Programming 1, 1971): each seat, each day, each
// author's day and week, and each run of days in which a category may come once has a
// price. A draft is worth 1 less what its best seat costs, and what is left of a capacity
// is worth its price. For any prices the sum is no less than what can be met; good prices
// come from raising those that are overdrawn and lowering those that are not.
type prices struct {
	c      *course
	seats  []float64 // by seat
	day    []float64
	author []float64 // by author and day
	week   []float64 // by author and week
	run    []float64 // by category and first day of a run, counted from -spread
	spread int       // days of a run less one

	best     [][]float64 // by waiting and seat: what the draft is worth at best from there on
	seatsTo  []float64   // sums from a seat on
	dayTo    []float64   // by day: sums over later days, times their room
	authorTo []float64   // by author and day
	weekTo   []float64   // by author and week
	runTo    []float64   // by category and first day: sum from there on
	overrun  []float64   // of the search for prices, by capacity
}

const (
	// rounds is how often prices are put right.
	rounds = 250
	// tolerance is by how much rounding may spoil a bound.
	tolerance = 1e-6
)

func newPrices(c *course) *prices {
	caps := c.p.request.Caps
	p := &prices{c: c, seats: make([]float64, c.end), spread: max(caps.CategoryDays-1, 0)}
	if caps.Day > 0 {
		p.day = make([]float64, c.days)
	}
	if caps.AuthorDay > 0 {
		p.author = make([]float64, len(c.authors)*c.days)
	}
	if caps.AuthorWeek > 0 {
		p.week = make([]float64, len(c.authors)*c.weeks)
	}
	if caps.CategoryDays > 0 {
		p.run = make([]float64, len(c.categories)*p.runs())
	}
	p.seatsTo, p.dayTo = make([]float64, c.end+1), make([]float64, c.days+1)
	p.authorTo, p.weekTo = make([]float64, len(c.authors)*(c.days+1)), make([]float64, len(c.authors)*(c.weeks+1))
	p.runTo = make([]float64, len(c.categories)*(p.runs()+1))
	for range c.waits {
		p.best = append(p.best, make([]float64, c.end+1))
	}
	p.settle()
	return p
}

// runs is how many runs of days there are, those that begin before the first day included.
func (p *prices) runs() int { return p.c.days + p.spread }

// parts are the price lists, one after the other.
func (p *prices) parts() [][]float64 { return [][]float64{p.seats, p.day, p.author, p.week, p.run} }

// cost is what seat t costs a waiting draft.
func (p *prices) cost(w *waiting, t int) float64 {
	c, d := p.c, p.c.dayAt(t)
	cost := p.seats[t]
	if p.day != nil {
		cost += p.day[d]
	}
	if w.author >= 0 {
		if p.author != nil {
			cost += p.author[w.author*c.days+d]
		}
		if p.week != nil {
			cost += p.week[w.author*c.weeks+c.weekAt(t)]
		}
	}
	if w.category >= 0 && p.run != nil {
		to := p.runTo[w.category*(p.runs()+1):]
		cost += to[d] - to[d+p.spread+1]
	}
	return cost
}

// sumRuns sums up the prices of runs, which costs need.
func (p *prices) sumRuns() {
	for k := range len(p.c.categories) {
		to, n := p.runTo[k*(p.runs()+1):], p.runs()
		to[n] = 0
		if p.run == nil {
			continue
		}
		for s := n - 1; s >= 0; s-- {
			to[s] = to[s+1] + p.run[k*n+s]
		}
	}
}

// mayAsk tells whether a draft may ever take a seat, whoever else is placed.
func (p *prices) mayAsk(w *waiting, t int) bool {
	c := p.c
	return w.from <= t && t < w.end && c.lanes[w.category+1][t] &&
		(w.category < 0 || p.run == nil || !c.blocked[w.category*c.days+c.dayAt(t)])
}

// tune looks for prices under which the drafts left are worth little from seat t on; `most`
// is how many are known to be met.
func (p *prices) tune(t int, left uint64, most int) {
	c := p.c
	var kept [][]float64
	least, pace := 1e18, 1.0
	total := 0
	for _, part := range p.parts() {
		total += len(part)
	}
	p.overrun = make([]float64, total)
	for range rounds {
		p.sumRuns()
		clear(p.overrun)
		value := 0.0
		for rest := left; rest != 0; rest &= rest - 1 {
			w := &c.waits[bits.TrailingZeros64(rest)]
			worth, at := 0.0, -1
			for s := max(w.from, t); s < w.end; s++ {
				if !p.mayAsk(w, s) {
					continue
				}
				if gain := 1 - p.cost(w, s); gain > worth {
					worth, at = gain, s
				}
			}
			if at >= 0 {
				value += worth
				p.ask(w, at, 1)
			}
		}
		value += p.supply(t)
		if value < least-tolerance {
			least = value
			kept = kept[:0]
			for _, part := range p.parts() {
				kept = append(kept, append([]float64(nil), part...))
			}
		} else {
			pace *= 0.97
		}
		if least < float64(most)+1-tolerance {
			break // it is proven that no more can be met
		}
		norm := 0.0
		for _, g := range p.overrun {
			norm += g * g
		}
		if norm == 0 {
			break
		}
		step := pace * max(value-float64(most), 0.1) / norm
		i := 0
		for _, part := range p.parts() {
			for k := range part {
				part[k] = max(part[k]+step*p.overrun[i], 0)
				i++
			}
		}
	}
	for i, part := range p.parts() {
		copy(part, kept[i])
	}
	p.settle()
}

// ask counts n drafts that ask for a seat against all capacities.
func (p *prices) ask(w *waiting, t int, n float64) {
	c, d := p.c, p.c.dayAt(t)
	p.overrun[t] += n
	at := len(p.seats)
	if p.day != nil {
		p.overrun[at+d] += n
	}
	at += len(p.day)
	if w.author >= 0 && p.author != nil {
		p.overrun[at+w.author*c.days+d] += n
	}
	at += len(p.author)
	if w.author >= 0 && p.week != nil {
		p.overrun[at+w.author*c.weeks+c.weekAt(t)] += n
	}
	at += len(p.week)
	if w.category >= 0 && p.run != nil {
		for s := d; s <= d+p.spread; s++ {
			p.overrun[at+w.category*p.runs()+s] += n
		}
	}
}

// supply is what the capacities from seat t on are worth; what they hold is taken off
// overrun.
func (p *prices) supply(t int) float64 {
	c, caps := p.c, &p.c.p.request.Caps
	value, at := 0.0, 0
	add := func(i int, price, room float64) {
		value += price * room
		p.overrun[at+i] -= room
		if price == 0 && p.overrun[at+i] < 0 {
			p.overrun[at+i] = 0 // a price does not fall below nothing
		}
	}
	for s := t; s < c.end; s++ {
		add(s, p.seats[s], 1)
	}
	at += len(p.seats)
	for d := c.dayAt(t); p.day != nil && d < c.days; d++ {
		add(d, p.day[d], float64(max(int32(caps.Day)-c.day[d], 0)))
	}
	at += len(p.day)
	for a := range len(c.authors) {
		for d := c.dayAt(t); p.author != nil && d < c.days; d++ {
			i := a*c.days + d
			add(i, p.author[i], float64(max(int32(caps.AuthorDay)-c.authorDay[i], 0)))
		}
	}
	at += len(p.author)
	for a := range len(c.authors) {
		for w := c.weekAt(t); p.week != nil && w < c.weeks; w++ {
			i := a*c.weeks + w
			add(i, p.week[i], float64(max(int32(caps.AuthorWeek)-c.authorWeek[i], 0)))
		}
	}
	at += len(p.week)
	for k := range len(c.categories) {
		for s := p.firstRun(k, t); p.run != nil && s < p.runs(); s++ {
			i := k*p.runs() + s
			add(i, p.run[i], 1)
		}
	}
	return value
}

// firstRun is the first run of a category's days that reaches seat t's day and in which the
// category has not come.
func (p *prices) firstRun(category, t int) int {
	// Run s has the days s-spread to s.
	return max(p.c.dayAt(t), int(p.c.last[category])+p.spread+1, 0)
}

// settle makes the tables that bound uses.
func (p *prices) settle() {
	c, caps := p.c, &p.c.p.request.Caps
	p.sumRuns()
	for k := range c.waits {
		w := &c.waits[k]
		best := p.best[k]
		best[c.end] = 0
		for t := c.end - 1; t >= 0; t-- {
			best[t] = best[t+1]
			if p.mayAsk(w, t) {
				best[t] = max(best[t], 1-p.cost(w, t))
			}
		}
	}
	p.seatsTo[c.end] = 0
	for t := c.end - 1; t >= 0; t-- {
		p.seatsTo[t] = p.seatsTo[t+1] + p.seats[t]
	}
	for d := c.days - 1; p.day != nil && d >= 0; d-- {
		p.dayTo[d] = p.dayTo[d+1] + p.day[d]*float64(max(int32(caps.Day)-c.day[d], 0))
	}
	for a := range len(c.authors) {
		to := p.authorTo[a*(c.days+1):]
		for d := c.days - 1; p.author != nil && d >= 0; d-- {
			i := a*c.days + d
			to[d] = to[d+1] + p.author[i]*float64(max(int32(caps.AuthorDay)-c.authorDay[i], 0))
		}
		to = p.weekTo[a*(c.weeks+1):]
		for w := c.weeks - 1; p.week != nil && w >= 0; w-- {
			i := a*c.weeks + w
			to[w] = to[w+1] + p.week[i]*float64(max(int32(caps.AuthorWeek)-c.authorWeek[i], 0))
		}
	}
}

// bound is what the drafts left and the capacities from seat t on are worth: no more can be
// met. Later days hold no more than they held when the prices were settled.
func (p *prices) bound(t int, left uint64) int {
	c, caps := p.c, &p.c.p.request.Caps
	d, week := c.dayAt(t), c.weekAt(t)
	value := p.seatsTo[t]
	if p.day != nil {
		value += p.dayTo[d+1] + p.day[d]*float64(max(int32(caps.Day)-c.day[d], 0))
	}
	var authors, categories uint64
	for rest := left; rest != 0; rest &= rest - 1 {
		k := bits.TrailingZeros64(rest)
		w := &c.waits[k]
		value += p.best[k][t]
		if a := w.author; a >= 0 && authors&(1<<a) == 0 {
			authors |= 1 << a
			if p.author != nil {
				i := a*c.days + d
				value += p.authorTo[a*(c.days+1)+d+1] +
					p.author[i]*float64(max(int32(caps.AuthorDay)-c.authorDay[i], 0))
			}
			if p.week != nil {
				i := a*c.weeks + week
				value += p.weekTo[a*(c.weeks+1)+week+1] +
					p.week[i]*float64(max(int32(caps.AuthorWeek)-c.authorWeek[i], 0))
			}
		}
		if k := w.category; k >= 0 && p.run != nil && categories&(1<<k) == 0 {
			categories |= 1 << k
			if s := p.firstRun(k, t); s < p.runs() {
				value += p.runTo[k*(p.runs()+1)+s]
			}
		}
	}
	return int(value + tolerance)
}
